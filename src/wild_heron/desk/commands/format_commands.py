"""What is done about the format that is looked at: its guides, its window, and where that lies while it follows."""

from collections.abc import Callable

from PyQt6.QtCore import QObject, pyqtSignal

from ...arrays import Array
from ...checks import Finding
from ...checks.solving import Solution, follow_subjects, with_window
from ...edits import format_named, set_guides, show_guide
from ...scene import MASK, Guide, Scene, SceneError
from ..state.background import Errand
from ..state.document import Document

_WORDS: dict[Guide, str] = {
    "thirds": "thirds", "centre": "the centre", "safe": "safe areas", "text": "the band for text",
}  # fmt: skip


_Found = tuple[Scene, str, Scene | None, Solution | None, str]
"""From which scene, which format, the scene in which it follows and how well it does, or what went wrong."""


_CANCELLED = "Cancelled. Nothing was changed."


class _CancelledError(Exception):
    pass


class FormatCommands(QObject):
    """Acts on the format that is chosen in the top bar."""

    progressed = pyqtSignal(int, int)
    """How far working a way out has come; (0, 0) when it is over."""
    lost = pyqtSignal(object)
    """Where a subject cannot be kept, and it is known what the camera could do about it: that finding."""

    def __init__(self, document: Document, margins: Callable[[], Array | None]) -> None:
        """``margins``: how far artwork reaches beyond the camera's picture (N, 4), as far as that was looked at."""
        super().__init__()
        self._document, self._margins = document, margins
        self._waits: tuple[Scene, str, float] | None = None
        self._errand: Errand | None = None
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

    @property
    def is_working(self) -> bool:
        """Whether a format's way is being worked out."""
        return self._errand is not None

    def follow(self) -> None:
        """Work out, in a thread, the calmest way of the format's frame that keeps the subjects in, as keys of its
        window."""
        document = self._document
        if self._errand is not None:
            document.messages.say("A format's way is being worked out already. Cancel it first.", True)
            return
        scene, name, margins = document.scene, document.views.format.name, self._margins()

        def work(errand: Errand) -> _Found:
            def step(done: int, total: int) -> None:
                if errand.cancelled:
                    raise _CancelledError
                errand.tell(done, total)

            try:
                made, solution = follow_subjects(scene, name, margins=margins, step=step)
                return scene, name, made, solution, ""
            except _CancelledError:
                return scene, name, None, None, _CANCELLED
            except SceneError as problem:
                return scene, name, None, None, str(problem)

        def failed(problem: Exception) -> None:
            self._take((scene, name, None, None, f"{name} cannot follow: {problem}"))
            raise problem

        self._errand = document.background.start("follow subjects", work, self._take, self.progressed.emit, failed)

    def cancel(self) -> None:
        """Give up what is being worked out; nothing is changed."""
        if self._errand is not None:
            self._errand.cancel()

    def stop(self) -> None:
        """The window closes."""
        self._document.background.let_go(self._errand)

    def _take(self, found: "_Found") -> None:
        scene, name, made, solution, problem = found
        errand, self._errand = self._errand, None
        self.progressed.emit(0, 0)
        document = self._document
        if errand is not None and errand.cancelled:
            problem = problem or _CANCELLED
        if problem or made is None or solution is None:
            document.messages.say(problem, True)
            return
        if document.scene is not scene:
            document.messages.say(f"The scene was changed meanwhile, so {name} was left as it is. Do it again.", True)
            return
        changed = document.edit(f"{name} follows its subjects", lambda _: made)
        window = format_named(document.scene, name).window
        if window is not None:
            document.selection.choose([window])
        if solution.worst is not None:
            frame, out = solution.worst
            document.messages.say(
                f"{name} follows its subjects as far as it can: at frame {frame:g} one is {out:.0f} px out. "
                "Checks looks for what the camera can do about it.",
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
