"""One picture of each main view, taken from the real window on the demo scene: ``make screenshots``."""

import os
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

os.environ["XDG_CONFIG_HOME"] = os.environ["XDG_DATA_HOME"] = os.environ["XDG_CACHE_HOME"] = os.environ[
    "XDG_STATE_HOME"
] = tempfile.mkdtemp(prefix="wild-heron-screenshots-")

from msgspec.structs import replace
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QWidget

from wild_heron.demo import DEMO_SCENE
from wild_heron.desk.dialogs.export_dialog import ExportDialog
from wild_heron.desk.moves.moves_window import MovesWindow
from wild_heron.desk.shell.app import make_app
from wild_heron.desk.shell.collector import Collector
from wild_heron.desk.shell.window import MainWindow
from wild_heron.desk.state.preferences import settings_file
from wild_heron.edits import KeyRef, add_movers, set_guides, set_key, set_value
from wild_heron.scene import Bezier, Scene, Shake, Target

FOLDER = Path(__file__).parent.parent / "docs" / "screenshots"


class Studio:
    """Sets the window up and takes pictures of it."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        folder.mkdir(parents=True, exist_ok=True)
        self.app = make_app()
        # As in the program: what belongs to the window is not taken down by threads that draw.
        self.collector = Collector()
        self.collector.start()
        self.window = MainWindow(settings_file())
        self.window.fill()
        self.window.desk.previews.set_megabytes(0)
        self.window.resize(1280, 800)
        self.window.show()

    def settle(self, milliseconds: int = 500) -> None:
        QTest.qWait(milliseconds)
        deadline = time.monotonic() + 30
        while self.window.desk.link.is_busy and time.monotonic() < deadline:
            QTest.qWait(40)
        self.window.desk.document.turns.finish()
        QTest.qWait(120)

    def take(self, name: str, widget: QWidget | None = None) -> None:
        self.settle()
        (widget or self.window).grab().save(str(self.folder / f"{name}.png"))
        print(name)

    def run(self) -> None:
        window, document = self.window, self.window.desk.document
        trigger = lambda name: window.desk.actions_[name].trigger()  # noqa: E731
        self.take("start")
        window.desk.files.open(DEMO_SCENE, as_copy=True, ask=False)
        self.settle(2500)
        document.playhead.set_frame(18)
        document.selection.choose(["turn"])
        self.take("main-window")
        document.playhead.set_frame(72)
        document.selection.choose(["emblem"])
        trigger("view.swap")
        window.desk.overview.choose("free")
        self.take("overview")
        document.selection.choose(["main-camera"])
        trigger("view.swap")
        window.desk.overview.choose("side")
        document.selection.choose(["turn"])
        document.selection.choose_keys([KeyRef("turn", "rotation.y", 0.0), KeyRef("turn", "rotation.y", 96.0)])
        trigger("ease.panel")
        window.desk.lanes.ease.look.setChecked(True)
        window.desk.lanes.ease.put(Bezier(0.62, -0.12, 0.24, 1.0))
        self.take("ease-panel")
        window.desk.lanes.ease.look.setChecked(False)
        document.undo()
        window.desk.lanes.ease.leave()
        self._film()
        self._life()
        self._checks()
        self._set()
        self._rigs()
        self._versions()
        self._mix()
        self._moves()
        window.desk.files.open(DEMO_SCENE, as_copy=True, ask=False)
        self.settle(1500)
        self._output()
        # Last, for it opens another scene.
        self._lesson()
        window.desk.files.may_leave = lambda: True  # type: ignore[method-assign]
        window.close()

    def _output(self) -> None:
        """A movie to be written, and the queue at work."""
        window, document = self.window, self.window.desk.document
        dialog = ExportDialog(document, window.desk.preferences, window.desk.queue, window)
        dialog.path.setText("lantern-fair.mp4")
        dialog.scale.setCurrentIndex(2)
        dialog.show()
        self._until(lambda: "about …" not in (dialog.size_.text(), dialog.time.text()) and dialog.time.text() != "")
        self.take("export", dialog)
        dialog.scale.setCurrentIndex(2)
        dialog.fine.setCurrentIndex(1)
        folder = Path(tempfile.mkdtemp(prefix="wild-heron-"))
        wanted = (("mp4", "lantern-fair.mp4", 5), ("png", "lantern-fair_####.png", 60), ("exr", "passes_####.exr", 240))
        for kind, name, last in wanted:
            kinds = [dialog.kind.itemData(k)[0].name for k in range(dialog.kind.count())]
            dialog.kind.setCurrentIndex(kinds.index(kind))
            dialog.path.setText(str(folder / name))
            dialog.first.setText("0")
            dialog.last.setText(f"{last}")
            dialog.later.click()
        dialog.close()
        window.desk.actions_["output.queue"].trigger()
        self._until(lambda: window.desk.queue.shown.jobs[1].done > 8)
        self.take("queue", window.desk.open.queue_dialog)
        window.desk.queue.pause()
        window.desk.open.queue_dialog.close()

    def _until(self, there: Callable[[], bool]) -> None:
        deadline = time.monotonic() + 240
        while not there() and time.monotonic() < deadline:
            QTest.qWait(100)

    def _film(self) -> None:
        """The film with a blend selected, and the shelf with a framing's numbers."""
        document, desk = self.window.desk.document, self.window.desk
        sizes, right = desk.areas.whole.sizes(), desk.areas.right.sizes()
        desk.actions_["view.shots"].trigger()
        desk.areas.whole.setSizes([440, 340])
        document.playhead.set_frame(126)
        document.selection.choose_keys([])
        document.selection.choose_shots([1])
        self.pictures()
        self.take("shots")
        desk.areas.whole.setSizes([400, 380])
        desk.areas.right.setSizes([100, 300])
        document.playhead.set_frame(352)
        document.selection.choose(["emblem-framing"])
        self.pictures()
        self.take("framings")
        desk.areas.whole.setSizes(sizes)
        desk.areas.right.setSizes(right)
        document.selection.choose([])
        desk.actions_["view.shots"].trigger()

    def _life(self) -> None:
        """The push-in's overshoot beside its lanes, and the takes of the market lane."""
        document, desk = self.window.desk.document, self.window.desk
        sizes, right = desk.areas.whole.sizes(), desk.areas.right.sizes()
        desk.areas.right.setSizes([90, 400])
        document.playhead.set_frame(156)
        document.selection.choose(["fair-board"])
        document.edit("Sway the lift too", self._swayed)
        desk.inspector._unfolded["fair-board"] = frozenset({"overshoot"})
        desk.inspector.show_movers(True)
        desk.lanes.lanes.filter.setChecked(True)
        self.settle()
        self.take("life")
        document.undo()
        desk.lanes.lanes.filter.setChecked(False)
        document.playhead.set_frame(206)
        document.selection.choose(["lane-camera"])
        document.views.set_lens("lane-camera")
        desk.actions_["view.takes"].trigger()
        desk.areas.whole.setSizes([450, 330])
        desk.take_commands.choose(["lane-steadied"])
        view = desk.lanes.page("takes").view  # type: ignore[attr-defined]
        view._axis = view.axis.zoomed(3.4, 224)
        self.take("takes")
        view.show_whole()
        document.views.set_lens(None)
        desk.actions_["view.takes"].trigger()
        desk.inspector.show_movers(False)
        desk.areas.whole.setSizes(sizes)
        desk.areas.right.setSizes(right)
        document.selection.choose([])

    def _checks(self) -> None:
        """What is found when the sky is too small, and a kite that is to stay in the action area; with its fixes."""
        document, desk = self.window.desk.document, self.window.desk
        sizes = desk.areas.whole.sizes()
        document.edit("A smaller sky", self._too_small)
        desk.actions_["view.checks"].trigger()
        desk.areas.whole.setSizes([440, 340])
        deadline = time.monotonic() + 240
        QTest.qWait(1500)
        while not document.checked.is_done and time.monotonic() < deadline:
            QTest.qWait(100)
        QTest.qWait(1500)
        commands = desk.check_commands
        found = next(each for each in commands.findings if each.kind == "bare" and not each.accepted)
        commands.choose(found)
        while not commands.fixes.get(found.key) and time.monotonic() < deadline:
            QTest.qWait(100)
        self.take("checks")
        commands.choose(None)
        tall = document.scene.formats[-1].name
        document.edit("Guides", lambda scene: set_guides(scene, tall, shown=("safe", "text"), mask="#11181c"))
        document.playhead.set_frame(112)
        document.views.set_format(tall)
        desk.actions_["view.every"].trigger()
        self.settle(2500)
        self.take("formats")
        document.views.set_format(document.scene.formats_with_main()[0].name)
        desk.actions_["view.every"].trigger()
        document.undo()
        document.undo()
        desk.actions_["view.checks"].trigger()
        desk.areas.whole.setSizes(sizes)
        document.selection.choose([])

    @staticmethod
    def _too_small(scene: Scene) -> Scene:
        for axis in "xy":
            scene = set_value(scene, "night-sky", f"scale.{axis}", 5.0)
        subjects = tuple(replace(each, area="action") for each in scene.checks.subjects)
        return replace(scene, checks=replace(scene.checks, subjects=subjects))

    @staticmethod
    def _swayed(scene: Scene) -> Scene:
        scene = set_key(scene, "fair-board", "dial.lift", 120.0, 3.0)
        scene = set_key(scene, "fair-board", "dial.lift", 170.0, 4.5)
        shake = Shake(targets=(Target("dial.lift", 0.5), Target("dial.distance", 0.2)), period=1.8)
        return add_movers(scene, "fair-board", [shake])[0]

    def pictures(self) -> None:
        """Wait for the small pictures."""
        small, deadline = self.window.desk.small, time.monotonic() + 120
        self.settle(600)
        while (small.is_drawing or self.window.desk.link.is_busy) and time.monotonic() < deadline:
            QTest.qWait(100)

    def _versions(self) -> None:
        """An edit compared with what was before it; the ease study, a camera's way with the handles of its keys."""
        window, document = self.window, self.window.desk.document
        document.playhead.set_frame(60)
        document.selection.choose(["turn"])
        document.edit("Turn more", lambda scene: set_key(scene, "turn", "rotation.y", 96.0, -14.0))
        window.desk.actions_["view.compare"].trigger()
        self.take("compare")
        window.desk.actions_["view.compare"].trigger()
        document.undo()

    def _rigs(self) -> None:
        """An orbit being chosen, the board with a wire, a path with its grips, the cart on its ground."""
        window, document = self.window, self.window.desk.document
        trigger = lambda name: window.desk.actions_[name].trigger()  # noqa: E731
        document.playhead.set_frame(12)
        document.selection.choose(["emblem"])
        trigger("rig.orbit")
        window.desk.builder.answer("turns", 1.0)
        self.take("build-rig")
        window.desk.builder.close_()
        window.desk.board.setFloating(False)
        window.addDockWidget(Qt.DockWidgetArea.BottomDockWidgetArea, window.desk.board)
        trigger("view.board")
        document.look_through("orbit-camera")
        document.playhead.set_frame(200)
        document.selection.choose(["orbit-camera"])
        self.settle()
        window.desk.wires.show_for(("orbit-camera", "position.z"))
        self.take("board")
        window.desk.wires.show_for(None)
        trigger("view.board")
        document.look_through("main-camera")
        document.selection.choose([])

    def _mix(self) -> None:
        """Four cameras mixed, and the pad that weighs them."""
        window, document = self.window, self.window.desk.document
        trigger = lambda name: window.desk.actions_[name].trigger()  # noqa: E731
        document.playhead.set_frame(150)
        document.selection.choose(["main-camera", "orbit-camera", "kite-camera", "emblem-framing"])
        trigger("rig.mix")
        trigger("rig.pad")
        mix = document.selection.nodes[0]
        for name, value in (("dial.across", 0.35), ("dial.up", 0.1)):
            document.edit("Pad", lambda scene, name=name, value=value: set_value(scene, mix, name, value))
        trigger("view.board")
        window.desk.board.setFloating(True)
        self.settle()
        window.desk.board.setFloating(False)
        window.addDockWidget(Qt.DockWidgetArea.RightDockWidgetArea, window.desk.board)
        self.take("mix")
        trigger("view.board")
        document.views.set_lens(None)

    def _moves(self) -> None:
        """Moves offered for the emblem."""
        window, document = self.window, self.window.desk.document
        scene = replace(document.scene, shots=(), events=(), camera="main-camera")
        document.reset(scene, None, DEMO_SCENE.parent)
        document.playhead.set_frame(24)
        document.playhead.set_play_range((0, 95))
        document.selection.choose(["emblem"])
        window.desk.actions_["camera.offer"].trigger()
        found = next(each for each in self.app.topLevelWidgets() if isinstance(each, MovesWindow))
        self._until(lambda: not found.films.is_making)
        self.settle(1500)
        screen = self.app.primaryScreen()
        assert screen is not None
        found.sheet.setCurrentRow(0)
        self.settle(1500)
        screen.grabWindow(0).copy(0, 0, 1280, 800).save(str(self.folder / "offer-moves.png"))
        print("offer-moves")
        found.close()

    def _set(self) -> None:
        """The lane's photograph matched."""
        window, document = self.window, self.window.desk.document
        trigger = lambda name: window.desk.actions_[name].trigger()  # noqa: E731
        window.desk.overview.choose("free")
        document.playhead.set_frame(96)
        document.selection.choose(["town"])
        document.look_through("lane-camera")
        document.playhead.set_frame(239)
        document.selection.choose(["lane-photograph"])
        trigger("set.match")
        self.take("match-photograph")
        window.desk.lens.match.close_.click()
        document.look_through("main-camera")

    def _lesson(self) -> None:
        """The second step of a lesson, with its hint."""
        desk = self.window.desk
        desk.files.may_leave = lambda: True  # type: ignore[method-assign]
        desk.do_lesson("2-orbit-by-a-null")
        self.settle(4000)
        desk.lesson_bar.show_me.click()
        desk.lesson_run.hint()
        self.take("lesson")


if __name__ == "__main__":
    Studio(Path(sys.argv[1]) if len(sys.argv) > 1 else FOLDER).run()
