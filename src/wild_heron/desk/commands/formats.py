"""What is done about the format that is looked at: its guides, its window, and where that lies while it follows."""

from collections.abc import Callable

from PyQt6.QtCore import QObject, pyqtSignal

from ...arrays import Array
from ...checks import Finding
from ...checks.solving import follow_subjects, with_window
from ...scene import MASK, Guide, Scene
from ...scene.edits import format_named, set_guides, show_guide
from ..state.document import Document

_WORDS: dict[Guide, str] = {
    "thirds": "thirds", "centre": "the centre", "safe": "safe areas", "text": "the band for text",
}  # fmt: skip


class FormatCommands(QObject):
    """Acts on the format that is chosen in the top bar."""

    lost = pyqtSignal(object)
    """Where a subject cannot be kept, and it is known what the camera could do about it: that finding."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        self.margins: Callable[[], Array | None] = lambda: None
        """How far artwork reaches beyond the camera's picture (N, 4), as far as that was looked at."""
        self._waits: tuple[Scene, str, float] | None = None
        document.checked.changed.connect(self._look_for_finding)

    # Guides

    def show_guide(self, guide: Guide, on: bool) -> None:
        name = self._document.views.format.name
        verb = "Show" if on else "Hide"
        self._document.edit(f"{verb} {_WORDS[guide]} in {name}", lambda scene: show_guide(scene, name, guide, on))

    def show_mask(self, on: bool) -> None:
        """Show what lies beyond the frame, under a colour; or end the picture at the frame."""
        name = self._document.views.format.name
        verb = "Show" if on else "Hide"
        tone = MASK if on else None
        self._document.edit(f"{verb} what lies beyond {name}", lambda scene: set_guides(scene, name, mask=tone))

    # The window

    def add_window(self) -> None:
        """Let the format's frame be moved in the camera's picture, and select what moves it."""
        document = self._document
        name = document.views.format.name
        had = {node.id for node in document.scene.nodes}
        if document.edit(f"Move {name} in the picture", lambda scene: with_window(scene, name)[0]):
            made = next(node.id for node in document.scene.nodes if node.id not in had)
            document.selection.choose([made])
            document.messages.say(f"{name} has a window now: its place, size and roll are keyed like anything.")
            return
        shape = document.views.format
        if shape.window is not None:
            document.selection.choose([shape.window])

    def follow(self) -> None:
        """Work out the calmest way of the format's frame that keeps the subjects in, as keys of its window."""
        document = self._document
        name = document.views.format.name
        lost: list[tuple[float, float] | None] = []

        def change(scene: Scene) -> Scene:
            made, solution = follow_subjects(scene, name, margins=self.margins())
            lost.append(solution.worst)
            return made

        changed = document.edit(f"{name} follows its subjects", change)
        if not lost:
            return
        window = format_named(document.scene, name).window
        if window is not None:
            document.selection.choose([window])
        if lost[-1] is not None:
            frame, out = lost[-1]
            document.messages.say(
                f"{name} follows its subjects as far as it can: at frame {frame:g} one is {out:.0f} px out. "
                "Checks offers what the camera can do about it.",
                True,
            )
            document.playhead.set_frame(frame)
            self._waits = (document.scene, name, frame)
            self._look_for_finding()
        elif changed:
            document.messages.say(f"{name} follows its subjects. Its keys are in Lanes.")
        else:
            document.messages.say(f"{name} followed its subjects already.")

    def _look_for_finding(self) -> None:
        """Once the scene was checked as it is now, tell of the subject that could not be kept."""
        if self._waits is None:
            return
        scene, name, frame = self._waits
        document = self._document
        if document.scene is not scene:
            self._waits = None
            return
        verdict = document.checked.of(name)
        if verdict is None or document.checked.scene is not scene:
            return
        found = [each for each in verdict.open if each.kind == "out"]
        near: Finding | None = min(found, key=lambda each: abs(each.at - frame), default=None)
        if near is not None:
            self._waits = None
            self.lost.emit(near)
