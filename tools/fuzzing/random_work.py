"""``python -m fuzzing.random_work --minutes N``: a real window on the demo, worked in at random: every action of the
table, clicks, drags, keys and typed numbers. Nothing may be lost, no error come up, and memory stay flat."""

import argparse
import faulthandler
import os
import random
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

home = tempfile.mkdtemp(prefix="wild-heron-work-")
for _name in ("CONFIG", "DATA", "CACHE", "STATE"):
    os.environ[f"XDG_{_name}_HOME"] = f"{home}/{_name.lower()}"
os.environ["HOME"] = home

from PyQt6.QtCore import QPoint, Qt, QTimer
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QApplication,
    QComboBox,
    QDialog,
    QFileDialog,
    QInputDialog,
    QLineEdit,
    QMenu,
    QMessageBox,
    QWidget,
)

from wild_heron.demo import DEMO_SCENE
from wild_heron.desk.channels.field import ChannelField
from wild_heron.desk.shell.action_list import ACTIONS
from wild_heron.desk.shell.app import make_app
from wild_heron.desk.shell.collector import Collector
from wild_heron.desk.shell.window import MainWindow
from wild_heron.desk.state.preferences import settings_file
from wild_heron.desk.widgets.unexpected import reports
from wild_heron.files.project import decode, encode

_LEAVES = {"scene.quit", "scene.demo", "scene.study", "scene.new", "scene.open"}


def _up(widget: QWidget | None) -> Iterator[QWidget]:
    """A widget and what it lies in."""
    while widget is not None:
        yield widget
        widget = widget.parentWidget()


class Worker:
    """Does one thing after the other."""

    def __init__(self, window: MainWindow, rng: random.Random, folder: Path) -> None:
        self.window, self.rng, self.folder = window, rng, folder
        self.done: dict[str, int] = {}
        self.saves = 0

    def step(self) -> None:
        kind = self.rng.random()
        document = self.window.desk.document
        if kind < 0.45:
            self._action()
        elif kind < 0.6:
            ids = [node.id for node in document.scene.nodes]
            document.selection.choose(self.rng.sample(ids, min(len(ids), self.rng.choice((0, 1, 1, 2, 3)))))
        elif kind < 0.7:
            document.playhead.set_frame(self.rng.uniform(document.settings.first, document.settings.last))
        elif kind < 0.9:
            self._drag()
        elif kind < 0.96:
            self._type()
        else:
            self._look_over()
        if len(document.scene.nodes) > 160:
            while document.history.undo_name and len(document.scene.nodes) > 60:
                document.undo()

    def _action(self) -> None:
        name = self.rng.choice([each.name for each in ACTIONS if each.name not in _LEAVES])
        action = self.window.desk.actions_[name]
        if action.isEnabled():
            QTimer.singleShot(60, self._answer)
            action.trigger()
            self.done[name] = self.done.get(name, 0) + 1

    def _answer(self) -> None:
        """Whatever asks is answered, or waved away."""
        box = QApplication.activeModalWidget() or QApplication.activePopupWidget()
        if isinstance(box, QMenu):
            box.close()
        elif isinstance(box, QFileDialog | QInputDialog):
            box.accept() if isinstance(box, QInputDialog) and self.rng.random() < 0.7 else box.reject()
        elif isinstance(box, QMessageBox):
            self.rng.choice(box.buttons()).click()
        elif isinstance(box, QDialog):
            box.reject()
        if QApplication.activeModalWidget() or QApplication.activePopupWidget():
            QTimer.singleShot(60, self._answer)

    def _widgets(self) -> list[QWidget]:
        return [
            each for each in self.window.findChildren(QWidget) if each.isVisible() and each.width() > 8 < each.height()
        ]

    def _drag(self) -> None:
        widget = self.rng.choice(self._widgets())
        if isinstance(widget, QComboBox | QMenu) or widget.objectName() == "scene.quit":
            return
        at = QPoint(self.rng.randrange(widget.width()), self.rng.randrange(widget.height()))
        button = self.rng.choice((Qt.MouseButton.LeftButton, Qt.MouseButton.LeftButton, Qt.MouseButton.RightButton))
        keys = self.rng.choice(
            (Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier,
             Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier)
        )  # fmt: skip
        QTimer.singleShot(80, self._answer)
        # Dragging rows, and links, waits for a real mouse.
        rows = any(isinstance(each, QAbstractItemView | ChannelField) for each in _up(widget))
        if isinstance(widget, QAbstractButton) or rows or self.rng.random() < 0.4:
            QTest.mouseClick(widget, button, keys, at)
            return
        QTest.mousePress(widget, button, keys, at)
        for _ in range(self.rng.randrange(1, 5)):
            at += QPoint(self.rng.randrange(-60, 60), self.rng.randrange(-40, 40))
            QTest.mouseMove(widget, at)
        QTest.mouseRelease(widget, button, keys, at)

    def _type(self) -> None:
        fields = [each for each in self._widgets() if isinstance(each, QLineEdit)]
        text = self.rng.choice(("12", "1920/2", "-3.5", "1e9", "abc", "0", "720", "½", "1e400", "nan", ""))
        target: QWidget = self.rng.choice(fields) if fields else self.window
        QTimer.singleShot(80, self._answer)
        QTest.keyClicks(target, text)
        QTest.keyClick(target, self.rng.choice((Qt.Key.Key_Return, Qt.Key.Key_Escape, Qt.Key.Key_Tab)))

    def _look_over(self) -> None:
        """What is open can be saved, and is read back the same; what was saved last is there."""
        document = self.window.desk.document
        for dialog in self.window.findChildren(QDialog):
            if dialog.isVisible():
                dialog.close()
        assert decode(encode(document.scene)) == document.scene
        if self.rng.random() < 0.3:
            path = self.folder / f"work-{self.saves % 3}.heron"
            if self.window.desk.files.save_to(path):
                self.saves += 1
                assert decode(path.read_bytes()) == document.scene
        while self.rng.random() < 0.5 and document.history.undo_name:
            document.undo()
        while self.rng.random() < 0.3 and document.history.redo_name:
            document.redo()


def _memory() -> float:
    """Of this process, in megabytes."""
    return int(Path("/proc/self/statm").read_text().split()[1]) * os.sysconf("SC_PAGE_SIZE") / 1e6


def main() -> int:
    parser = argparse.ArgumentParser()
    parser.add_argument("--minutes", type=float, default=10.0)
    parser.add_argument("--seed", type=int, default=1)
    options = parser.parse_args()
    faulthandler.enable()
    app = make_app()
    window = MainWindow(settings_file())
    window.desk.previews.set_megabytes(128)
    window.desk.files.open(DEMO_SCENE, as_copy=True, ask=False)
    window.show()
    QTest.qWait(3000)
    reports.watch()
    collector = Collector()
    collector.start()
    folder = Path(tempfile.mkdtemp())
    worker = Worker(window, random.Random(options.seed), folder)
    started, told, marks = time.monotonic(), 0.0, []
    steps = 0
    while (now := time.monotonic() - started) < options.minutes * 60:
        # What hangs says where.
        faulthandler.dump_traceback_later(60, exit=True)
        worker.step()
        QTest.qWait(15)
        steps += 1
        if now - told > 60:
            told = now
            marks.append(_memory())
            print(
                f"{now / 60:.0f} min, {steps} steps, {len(worker.done)} of {len(ACTIONS)} actions, "
                f"{worker.saves} saves, {marks[-1]:.0f} MB, {len(window.desk.document.scene.nodes)} nodes, "
                f"errors: {sorted(reports.seen)}",
                flush=True,
            )
        if not window.isVisible():
            window.show()
    print(f"seed {options.seed}: {steps} steps, memory by the minute: {[round(each) for each in marks]}")
    never = [each.name for each in ACTIONS if each.name not in worker.done and each.name not in _LEAVES]
    print(f"never enabled when chosen: {never}")
    window.desk.document.mark_loaded()
    window.close()
    app.processEvents()
    return 1 if reports.seen else 0


if __name__ == "__main__":
    sys.exit(main())
