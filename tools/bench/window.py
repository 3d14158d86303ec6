"""The window: starting it, opening a scene in it."""

import os
import statistics
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache
from pathlib import Path

from PyQt6.QtCore import QEvent, QEventLoop, QObject, QTimer
from PyQt6.QtWidgets import QApplication

from wild_heron.desk.shell.app import make_app
from wild_heron.desk.shell.collector import Collector
from wild_heron.desk.shell.window import MainWindow
from wild_heron.desk.state.preferences import settings_file

from .measuring import ms, report


@cache
def application() -> QApplication:
    """The one application of this process."""
    app = make_app()
    # As in the program: what belongs to a window is not taken down by threads that draw, from its first moment on.
    Collector().setParent(app)
    return app


@contextmanager
def shown() -> Iterator[MainWindow]:
    """A window on screen, closed without a question at the end."""
    app = application()
    window = MainWindow(settings_file())
    window.fill()
    window.resize(1280, 800)
    window.show()
    try:
        yield window
    finally:
        window.desk.document.mark_loaded()
        window.desk.files.may_leave = lambda: True  # type: ignore[method-assign]
        window.close()
        app.processEvents()


def opened(path: Path) -> tuple[float, float]:
    """Seconds until the window of a scene is painted, and until the Lens lacks no artwork."""
    application()
    started = time.perf_counter()
    painted: list[float] = []

    class Watch(QObject):
        def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
            if event is not None and event.type() == QEvent.Type.UpdateRequest and not painted:
                QTimer.singleShot(0, lambda: painted.append(time.perf_counter() - started))
            return False

    watch = Watch()
    loop = QEventLoop()
    with shown() as window:
        window.installEventFilter(watch)
        window.desk.link.completed.connect(lambda stream: loop.quit() if stream == "lens" else None)
        window.desk.files.open(path, ask=False)
        QTimer.singleShot(120_000, loop.quit)
        loop.exec()
        complete = time.perf_counter() - started
    return painted[0], complete


_BARE_WINDOW = """
import sys
from PyQt6.QtWidgets import QApplication, QWidget
app = QApplication(sys.argv)
class W(QWidget):
    def paintEvent(self, event):
        print("painted", flush=True)
        app.exit()
w = W(); w.resize(1280, 800); w.show()
app.exec()
"""


# What ``wild-heron demo`` does, with a watch on what is painted, and a click once the panels are filled.
_OUR_WINDOW = """
import gc
gc.disable()
from PyQt6.QtCore import QEvent, QPointF, Qt, QTimer
from PyQt6.QtGui import QMouseEvent
from wild_heron.demo import DEMO_SCENE
from wild_heron.desk.shell import app
def click(window):
    # A press on the first row of the Rig: a node is selected, and the inspector shows it.
    tree = window.desk.rig.tree
    at = QPointF(tree.visualItemRect(tree.topLevelItem(0)).center())
    there = tree.viewport().mapToGlobal(at)
    left = Qt.MouseButton.LeftButton
    for kind in (QEvent.Type.MouseButtonPress, QEvent.Type.MouseButtonRelease):
        event = QMouseEvent(kind, at, there, left, left, Qt.KeyboardModifier.NoModifier)
        app.QApplication.sendEvent(tree.viewport(), event)
    assert window.desk.document.selection.active is not None
    print("ready", flush=True)
class Watched(app.MainWindow):
    painted = ready = False
    def event(self, event):
        done = super().event(event)
        if event.type() == QEvent.Type.UpdateRequest:
            if not self.painted:
                self.painted = True
                print("painted", flush=True)
            elif not self.ready and self._filled and len(self.desk.document.scene.nodes):
                self.ready = True
                QTimer.singleShot(0, lambda: click(self))
        return done
app.MainWindow = Watched
app.run(DEMO_SCENE, as_copy=True)
"""


def time_until(word: str, script: str) -> float:
    """How long a program takes from its start until it says a word, in seconds."""
    start = time.perf_counter()
    # Like a user's, with compiled modules on disk: the run that is not measured writes them.
    environment = {name: value for name, value in os.environ.items() if name != "PYTHONDONTWRITEBYTECODE"}
    process = subprocess.Popen(
        [sys.executable, "-c", script], stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True, env=environment
    )
    assert process.stdout is not None
    for line in process.stdout:
        if line.startswith(word):
            took = time.perf_counter() - start
            break
    else:
        raise RuntimeError(f"the window was never {word}")
    process.kill()
    process.wait()
    return took


def start_up() -> None:
    time_until("ready", _OUR_WINDOW)
    runs = [("painted", _OUR_WINDOW), ("ready", _OUR_WINDOW), ("painted", _BARE_WINDOW)]
    times = [[time_until(*run) for run in runs] for _ in range(9)]
    seen, ready, bare = (statistics.median(column) for column in zip(*times, strict=True))
    other = f"bare PyQt6 window {ms(bare)}"
    report("Start to something to see", ms(seen), other, seen / bare, 2.0)
    report("Start to the demo in all panels and a click answered", ms(ready), other, ready / bare, 5.0)
