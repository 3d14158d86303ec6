"""Takes chosen, worked on, used, compared, brought in and exported. Each step makes a new take."""

from collections.abc import Callable
from functools import partial
from pathlib import Path

import msgspec
import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QInputDialog, QWidget

from ... import edits
from ...edits.mover_baking import to_keys
from ...edits.take_places import placed_use
from ...files.errors import FileError
from ...files.take_tables import take_of_motion, write_take
from ...motion.takes import arranging, fewest, mending, sampling, steadying
from ...motion.takes.closeness import pixels_apart
from ...motion.takes.steadying import Grade
from ...scene import AnyNode, Scene, SceneError, Take, TakeUse, packed
from ...scene.takes import check_take
from ..recording.take_recorder import TakeRecorder
from ..state.document import Document

_PER_SECOND = 60.0
"""How often an animation is looked at for a take."""


class TakeCommands(QObject):
    """On the takes that are chosen in the Takes tab, the last of them first of all."""

    chosen_changed = pyqtSignal()
    compare_wanted = pyqtSignal()

    def __init__(self, document: Document, recorder: TakeRecorder, window: QWidget) -> None:
        super().__init__()
        self._document, self.recorder, self._window = document, recorder, window
        self.chosen: tuple[str, ...] = ()
        self.touch = 0.35
        """How much of the sway that is smoothed away is mixed back."""
        self.closeness = fewest.Closeness()
        self.is_thinning = False
        recorder.finished.connect(lambda ids: self.choose(ids[-1:]))
        document.changed.connect(self._drop_what_is_gone)

    # Which

    @property
    def node(self) -> AnyNode | None:
        """Whose takes are shown: the selected node, or what the Lens looks through."""
        return self._document.selection.active or self._document.views.camera

    def takes(self) -> tuple[Take, ...]:
        """The takes of that node, in the order in which they were made, each after what it was made from."""
        node = self.node
        if node is None:
            return ()
        own = [take for take in self._document.scene.takes if take.node == node.id or _uses(node, take.id)]
        ids = {take.id for take in own}
        out: list[Take] = []

        def add(take: Take) -> None:
            out.append(take)
            for each in own:
                if each.source == take.id:
                    add(each)

        for take in own:
            if take.source not in ids:
                add(take)
        return tuple(out)

    def choose(self, ids: list[str] | tuple[str, ...]) -> None:
        self.chosen = tuple(ids)
        self.chosen_changed.emit()

    def _drop_what_is_gone(self) -> None:
        there = {take.id for take in self._document.scene.takes}
        if not set(self.chosen) <= there:
            self.choose([each for each in self.chosen if each in there])

    def _take(self) -> Take | None:
        """The take that is meant: the chosen one, else the one in use, else the last."""
        shown = self.takes()
        by_id = {take.id: take for take in shown}
        node = self.node
        used = node.take.take if node is not None and node.take is not None else ""
        for each in (*reversed(self.chosen), used):
            if each in by_id:
                return by_id[each]
        if not shown:
            self._document.messages.say("There is no take yet. L, Space records one.", True)
            return None
        return shown[-1]

    # Steps

    def derive(self, name: str, make: Callable[[Take], Take], replaces: str = "") -> None:
        """A new take made from the chosen one, chosen, and in use where that one was."""
        take = self._take()
        if take is None:
            return
        made: list[str] = []

        def change(scene: Scene) -> Scene:
            made.clear()
            derived = msgspec.structs.replace(make(take), id=f"{take.id}-2"[:40])
            scene, each = edits.add_take(scene, derived)
            made.append(each)
            for node in scene.nodes:
                if _uses(node, take.id) or (replaces and _uses(node, replaces)):
                    scene = _used_instead(scene, node, edits.find_take(scene, each))
            return edits.remove_take(scene, replaces) if replaces else scene

        if self._document.edit(f"{name}: {take.name}", change):
            self.choose(made)
            self._document.messages.say(f"{edits.find_take(self._document.scene, made[0]).name}. The recording stays.")

    def onto_frames(self) -> None:
        fps = self._document.settings.rate.fps
        self.derive("Put onto frames", lambda take: sampling.onto_frames(take, fps, take.frame % 1.0))

    def mend(self, cut: bool = False) -> None:
        self.derive("Cut out" if cut else "Mend", partial(mending.mend, how="cut" if cut else "fill"))

    def every_nth(self, n: int = 0) -> None:
        if not n:
            n, accepted = QInputDialog.getInt(self._window, "Keep every n-th sample", "Every", 4, 2, 1000)
            if not accepted:
                return
        self.derive(f"Every {n}.", lambda take: fewest.every_nth(take, n))

    def steady(self, grade: Grade) -> None:
        """Steady the chosen take; one that was steadied is made anew from what it was made from."""
        take = self._take()
        if take is None:
            return
        again = take.source if take.step.startswith("steadied") and take.source else ""
        sources = {each.id: each for each in self._document.scene.takes}
        source = sources.get(again, take)
        self.derive(
            f"Steady, {grade}",
            lambda _: steadying.steady(source, grade, sway=self.touch),
            replaces=take.id if again in sources else "",
        )

    def set_touch(self, touch: float) -> None:
        """Another amount of human touch; a steadied take that is chosen is made anew with it."""
        self.touch = touch
        take = self._take() if self.takes() else None
        if take is not None and take.step.startswith("steadied"):
            grade = take.step.rpartition(" ")[2]
            if grade in steadying.GRADES:
                self.steady(grade)

    def fewest(self, closeness: fewest.Closeness | None = None) -> None:
        """As few keys as keep to it, within units, degrees and pixels."""
        take, node = self._take(), self.node
        if take is None or node is None:
            return
        if closeness is None:
            now = self.closeness
            text, accepted = QInputDialog.getText(
                self._window, "Fewest keys", "At every sample within units, degrees, pixels:",
                text=f"{now.units:g}, {now.degrees:g}, {now.pixels:g}",
            )  # fmt: skip
            if not accepted:
                return
            try:
                units, degrees, pixels = (float(part) for part in text.replace(";", ",").split(","))
            except ValueError:
                self._document.messages.say(f"“{text}”: type three numbers, such as 0.01, 0.1, 0.5.", True)
                return
            closeness = fewest.Closeness(max(units, 1e-6), max(degrees, 1e-5), max(pixels, 1e-3))
        self.closeness = closeness
        seen = pixels_apart(take.columns, *self.seen_by(node))
        if self.is_thinning:
            return
        # Of a long, noisy take that is a matter of seconds.
        self.is_thinning = True
        self._document.messages.say(f"Looking for the fewest keys of {take.name}…")

        def failed(problem: Exception) -> None:
            self.is_thinning = False
            raise problem

        self._document.background.start(
            "fewest keys", lambda errand: fewest.fewest(take, closeness, seen),
            lambda made: self._take_fewest(take, made), failed=failed,
        )  # fmt: skip

    def _take_fewest(self, take: Take, made: Take) -> None:
        self.is_thinning = False
        if self._take() is take:
            self.derive("Fewest keys", lambda _: made)
        else:
            self._document.messages.say(f"{take.name} was left meanwhile; nothing was changed.")

    def seen_by(self, node: AnyNode) -> tuple[float, float]:
        """How far the subject is from a node's lens, and its focal length in pixels; of what has no lens, those of the
        camera that is looked through."""
        here = self._document.evaluations.here
        lens = node.id if node.serves_as("shown") else self._document.views.camera_id
        if lens is None:
            return 10.0, 1000.0
        view = here.camera(lens)
        away = view.subject()[0] - view.position[0]
        return float(max(np.sqrt((away * away).sum()), 1e-3)), float(view.focal_px[0])

    def stretch(self) -> None:
        factor, accepted = QInputDialog.getDouble(
            self._window, "Stretch the take", "Times as long", 1.5, 0.01, 100.0, 3
        )
        if accepted:
            self.derive("Stretch", lambda take: arranging.stretch(take, factor))

    def trim(self) -> None:
        """To the range that is played."""
        fps = self._document.settings.rate.fps
        first, last = self._document.playhead.range

        def make(take: Take) -> Take:
            start, speed = self._placed(take)
            times = [float(take.times[0]) + (frame - start) / fps * speed for frame in (first, last)]
            made = arranging.trim(take, *times)
            begins = start + (float(made.times[0]) - float(take.times[0])) / speed * fps
            return msgspec.structs.replace(made, frame=round(begins, 6))

        self.derive("Trim", make)

    def _placed(self, take: Take) -> tuple[float, float]:
        """At which frame a take begins, and how fast it runs."""
        node = self.node
        if node is not None and node.take is not None and node.take.take == take.id:
            return node.take.start, node.take.speed
        return take.frame, 1.0

    def join(self, seconds: float = -1.0) -> None:
        shown = {take.id: take for take in self.takes()}
        pair = [shown[each] for each in self.chosen if each in shown]
        if len(pair) != 2:
            self._document.messages.say("Choose two takes: click one, then the other with Ctrl.", True)
            return
        if seconds < 0.0:
            seconds, accepted = QInputDialog.getDouble(
                self._window, "Join two takes", "Blend, seconds", 1.0, 0.0, 60.0, 2
            )
            if not accepted:
                return
        first, second = pair
        self.choose([second.id, first.id])
        self.derive("Join", lambda take: arranging.join(first, second, seconds))

    def reverse(self) -> None:
        self.derive("Reverse", arranging.reverse)

    def start_here(self) -> None:
        """The take in use begins where the node stands by its keys at the playhead, and there."""
        take, node, document = self._take(), self.node, self._document
        if take is None or node is None:
            return
        use = placed_use(document.scene, node.id, take, document.playhead.frame)
        document.edit(f"{take.name} starts here", lambda base: edits.use_take(base, node.id, use))

    # In use

    def toggle_use(self) -> None:
        """Use the chosen take, or where it is in use already go back to the keys."""
        take, node, document = self._take(), self.node, self._document
        if take is None or node is None:
            return
        if node.take is not None and node.take.take == take.id:
            document.edit(
                f"{node.name}: keys instead of {take.name}", lambda scene: edits.use_take(scene, node.id, None)
            )
            return
        self.use(node, take)

    def use(self, node: AnyNode, take: Take) -> None:
        document = self._document
        kept = node.take
        use = placed_use(document.scene, node.id, take)
        if kept is not None:
            use = msgspec.structs.replace(kept, take=take.id, channels=use.channels)
        if document.edit(f"{node.name}: use {take.name}", lambda scene: edits.use_take(scene, node.id, use)):
            aimed = node.aim is not None and node.aim.on and take.turns
            document.messages.say(
                f"{node.name} moves as {take.name} does."
                + (" Its aim still decides where it looks: R, N takes the aim away." if aimed else "")
            )

    def change_use(self, name: str, merge: str = "", **fields: object) -> None:
        """Change how the node uses its take."""
        node = self.node
        if node is None or node.take is None:
            return
        use = msgspec.structs.replace(node.take, **fields)
        base = self._document.gesture.base
        try:
            state = base.with_scene(edits.use_take(base.scene, node.id, use))
        except SceneError as problem:
            self._document.messages.say(str(problem), True)
            return
        if self._document.gesture.running:
            self._document.gesture.preview(state)
        else:
            self._document.push(f"{node.name}: {name}", state, merge)

    def to_keys(self) -> None:
        """Ordinary keys that look like the chosen take."""
        take, node = self._take(), self.node
        if take is None or node is None:
            return
        before = sum(len(channel.keys) for channel in node.channels)

        def change(scene: Scene) -> Scene:
            now = scene.node(node.id)
            if now.take is None or now.take.take != take.id:
                scene = edits.use_take(scene, node.id, placed_use(scene, node.id, take))
            return to_keys(scene, node.id)

        if self._document.edit(f"Turn {take.name} into keys", change):
            count = sum(len(channel.keys) for channel in self._document.scene.node(node.id).channels)
            self._document.messages.say(
                f"{take.count} samples became {count} keys (there were {before}). L, Shift+T goes back to the take."
            )

    def compare(self) -> None:
        """The present picture beside the one with the other chosen take."""
        document, node = self._document, self.node
        shown = {take.id: take for take in self.takes()}
        used = node.take.take if node is not None and node.take is not None else ""
        other = next((shown[each] for each in reversed(self.chosen) if each in shown and each != used), None)
        if node is None or other is None:
            document.messages.say("Use one take, and choose another one to see beside it.", True)
            return
        use = placed_use(document.scene, node.id, other)
        if node.take is not None:
            use = msgspec.structs.replace(node.take, take=other.id, channels=use.channels)
        document.versions.keep(edits.use_take(document.scene, node.id, use))
        self.compare_wanted.emit()
        document.messages.say(f"{other.name} is at the left of the line, what is in use at its right.")

    def rename(self, take_id: str, name: str) -> None:
        self._document.edit(f"Rename a take to {name}", lambda scene: edits.rename_take(scene, take_id, name))

    def remove(self) -> None:
        take = self._take()
        if take is not None:
            self._document.edit(f"Delete {take.name}", lambda scene: edits.remove_take(scene, take.id))

    # Files

    def bring(self, path: Path, animation: str = "") -> None:
        """A table, or an animation of a glTF file, as a take of the node."""
        document, node = self._document, self.node
        if node is None:
            document.messages.say("Select the node that the take is for.", True)
            return
        fps = document.settings.rate.fps
        try:
            document.file.allow([path])
            if animation:
                found = take_of_motion(document.file.reader.animation(path, animation, _PER_SECOND), _PER_SECOND)
            else:
                found = document.file.reader.take(path, fps)
            samples = packed(found.times, found.columns)
            take = Take("take", path.stem[:200] or "Take", node.id, found.names, samples)
            check_take(take)
            take = msgspec.structs.replace(take, frame=float(document.settings.first), marks=mending.find_marks(take))
        except (FileError, SceneError) as problem:
            document.messages.say(str(problem), True)
            return
        made: list[str] = []

        def change(scene: Scene) -> Scene:
            made.clear()
            scene, each = edits.add_take(scene, take)
            made.append(each)
            use = placed_use(scene, node.id, edits.find_take(scene, each), here=False)
            return edits.use_take(scene, node.id, use)

        if document.edit(f"Bring in {path.name} as a take", change):
            self.choose(made)
            document.messages.say(
                f"{path.name}: a take of {take.count} samples over {take.seconds:.2f} s. It is in use."
            )

    def export(self, path: Path) -> None:
        take = self._take()
        if take is None:
            return
        try:
            write_take(path, take)
        except FileError as problem:
            self._document.messages.say(str(problem), True)
            return
        self._document.messages.say(f"{take.name} was written to {path.name}.")


def _uses(node: AnyNode, take_id: str) -> bool:
    return node.take is not None and node.take.take == take_id


def _used_instead(scene: Scene, node: AnyNode, take: Take) -> Scene:
    """The node uses a derived take in the place of the one it had."""
    use = node.take
    assert use is not None
    channels = tuple(name for name in use.channels if name in take.channels)
    made = TakeUse(
        take.id, channels, take.frame if take.step == "trimmed" else use.start, use.speed, use.move, use.turn, use.size
    )
    return edits.use_take(scene, node.id, msgspec.structs.replace(made, on=use.on))
