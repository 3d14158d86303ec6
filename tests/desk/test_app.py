"""The program as it is started: a window for a file, closed in order with Ctrl-C."""

import gc
import os
import signal
import subprocess
import sys
import threading
from pathlib import Path

import pytest
from PyQt6.QtCore import QSettings

import wild_heron as wh
from wild_heron.desk.shell.collector import Collector
from wild_heron.desk.state.idle_queue import Turns


def children(pid: int) -> list[int]:
    try:
        return [int(each) for each in Path(f"/proc/{pid}/task/{pid}/children").read_text().split()]
    except (OSError, ValueError):
        return []


@pytest.mark.skipif(not Path("/proc/self/task").exists(), reason="needs /proc")
def test_a_file_is_opened_and_the_window_closes_in_order(qtbot, tmp_path, rig):
    path = tmp_path / "rig.heron"
    wh.save(rig, path)
    environment = os.environ | {"XDG_CONFIG_HOME": str(tmp_path / "config"), "XDG_DATA_HOME": str(tmp_path / "data")}
    process = subprocess.Popen(
        [sys.executable, "-m", "wild_heron", str(path)], env=environment, stderr=subprocess.PIPE, text=True
    )
    try:
        # Its render process starts once the window is up.
        qtbot.waitUntil(lambda: bool(children(process.pid)) or process.poll() is not None, timeout=30_000)
        worker = children(process.pid)
        process.send_signal(signal.SIGINT)
        _, errors = process.communicate(timeout=30)
    finally:
        process.kill()
    assert (process.returncode, errors) == (130, "")
    left = [Path(f"/proc/{pid}/cmdline").read_text() for pid in worker if Path(f"/proc/{pid}").exists()]
    assert left == []
    remembered = QSettings(str(tmp_path / "config" / "wild-heron" / "window.ini"), QSettings.Format.IniFormat)
    assert remembered.value("recent") == [str(path)]


def test_the_window_comes_up_without_what_is_slow_to_load():
    """SciPy alone takes longer to load than all the rest; it is loaded by what needs it."""
    slow = ("scipy", "PIL", "av", "trimesh", "shapely", "OpenEXR", "moderngl")
    script = f"import sys, wild_heron.desk.shell.app; print([each for each in {slow} if each in sys.modules])"
    done = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, timeout=60, check=True)
    assert done.stdout.strip() == "[]"


def test_an_interpreter_that_ends_by_itself_leaves_nothing_of_the_windows_to_pyqt():
    """Going through its wrappers at the end, PyQt deletes windows, and reads what went with them."""
    script = """
import atexit
from PyQt6.QtWidgets import QApplication
atexit.register(lambda: print(len(QApplication.topLevelWidgets()), flush=True))
from wild_heron.desk.shell.app import make_app
from wild_heron.desk.shell.window import MainWindow
from wild_heron.desk.state.preferences import settings_file
app = make_app()
window = MainWindow(settings_file())
desk = window.desk
window.show()
app.processEvents()
print(len(QApplication.topLevelWidgets()) > 0)
"""
    done = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, timeout=60)
    assert (done.stdout.split(), done.returncode) == (["True", "0"], 0), done.stderr


def test_refreshes_take_turns_and_are_carried_out_once(qtbot):
    turns, done = Turns(), []
    owners = [Turns(), Turns()]
    for k, owner in enumerate(owners):
        for _ in range(3):
            turns.ask(owner, lambda k=k: done.append(k))
    assert done == []
    qtbot.waitUntil(lambda: len(done) == 2)
    assert done == [0, 1]
    turns.ask(owners[0], lambda: done.append(9))
    turns.finish()
    assert done[-1] == 9
    turns.stop()
    turns.ask(owners[0], lambda: done.append(10))
    turns.finish()
    assert done[-1] == 9


def test_garbage_is_collected_by_the_thread_that_owns_the_widgets(qtbot):
    collector = Collector()
    gone: list[int] = []

    class Loop:
        def __init__(self) -> None:
            self.itself = self

        def __del__(self) -> None:
            gone.append(threading.get_ident())

    collector.start()
    try:
        assert not gc.isenabled()
        worker = threading.Thread(target=lambda: [Loop() for _ in range(5000)])
        worker.start()
        worker.join()
        assert not gone
        qtbot.waitUntil(lambda: len(gone) >= 4000, timeout=10_000)
        assert set(gone) == {threading.get_ident()}
    finally:
        collector._timer.stop()
        gc.unfreeze()
