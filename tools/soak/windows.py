"""Windows opened and closed in one process, with everything in them busy. ``python -m soak.windows N SEED END``."""

import faulthandler
import gc
import random
import sys
import threading
import time

from PyQt6.QtCore import QEvent, QTimer
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from wild_heron.demo import DEMO_SCENE
from wild_heron.desk.shell.app import make_app
from wild_heron.desk.shell.collector import Collector
from wild_heron.desk.shell.window import MainWindow
from wild_heron.desk.state.preferences import settings_file
from wild_heron.desk.widgets.unexpected import reports

from .machine import memory

_TABS = ("view.lanes", "view.curves", "view.shots", "view.takes", "view.checks")


def work_through(window: MainWindow, rng: random.Random) -> None:
    """Scrub, play, edit, look at other tabs, for a moment."""
    desk = window.desk
    document = desk.document
    until = time.monotonic() + rng.uniform(0.0, 1.6)
    while time.monotonic() < until:
        kind = rng.random()
        if kind < 0.4:
            document.playhead.set_frame(rng.uniform(document.settings.first, document.settings.last))
        elif kind < 0.6:
            desk.playback.toggle()
        elif kind < 0.75:
            desk.actions_[rng.choice(_TABS)].trigger()
        elif kind < 0.9:
            moved = [node.id for node in document.scene.nodes if node.placed]
            if moved:
                document.selection.choose([rng.choice(moved)])
                desk.commands.duplicate()
        else:
            document.undo()
        QTest.qWait(rng.randrange(0, 60))


def main() -> int:
    count, seed, way = int(sys.argv[1]), int(sys.argv[2]), sys.argv[3]
    faulthandler.enable()
    rng = random.Random(seed)
    app = make_app()
    reports.watch()
    collector = Collector()
    # As wild as it gets: everything is looked through whenever the loop comes round.
    wild = QTimer()
    wild.timeout.connect(gc.collect)
    wild.start(0)
    marks = []
    for number in range(count):
        faulthandler.dump_traceback_later(120, exit=True)
        window = MainWindow(settings_file())
        window.fill()
        window.show()
        if rng.random() < 0.9:
            window.desk.files.open(DEMO_SCENE, as_copy=True, ask=False)
        work_through(window, rng)
        if number == count - 1 and way != "close":
            break
        window.leave_now()
        window.desk.files.autosaver.clear()
        running = window.desk.document.background.running
        assert not running, f"threads that go on: {running}"
        window.deleteLater()
        del window
        QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)
        app.processEvents()
        gc.collect()
        if number % 25 == 24:
            marks.append(memory())
            print(f"  {number + 1} windows, {memory():.0f} MB, {threading.active_count()} threads", flush=True)
    faulthandler.cancel_dump_traceback_later()
    wild.stop()
    collector.setParent(app)
    print(f"memory: {[round(each) for each in marks]}; errors: {sorted(reports.seen)}", flush=True)
    if way == "abort":
        # As a script ends that knows nothing of windows: by the end of the interpreter.
        app.quit()
    return 1 if reports.seen else 0


if __name__ == "__main__":
    sys.exit(main())
