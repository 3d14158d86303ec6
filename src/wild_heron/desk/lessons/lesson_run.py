"""A lesson under way: which step it is at."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, QSettings, QTimer, pyqtSignal

from ..commands.actions import ActionTable
from ..state.document import Document

if TYPE_CHECKING:
    from ...lessons import Lesson, Now, Step
    from ...lessons.lesson import Shown

_HINT_MS = 25_000
"""How long a step is looked at before its hint is given."""


class LessonRun(QObject):
    """One lesson at a time. It goes on by itself whenever a step's condition holds."""

    changed = pyqtSignal()
    """It is at another step, ended, or gives a hint."""
    ended = pyqtSignal(str)
    """A lesson was done to its end, or left: its id."""

    def __init__(self, document: Document, actions: ActionTable, settings: QSettings) -> None:
        super().__init__()
        self._document, self._settings = document, settings
        self.id = ""
        self.number = 0
        self.gives_hint = False
        self.is_over = False
        self._lesson: Lesson | None = None
        self._did: set[str] = set()
        self._before = document.scene
        self._patience = QTimer(self)
        self._patience.setSingleShot(True)
        self._patience.setInterval(_HINT_MS)
        self._patience.timeout.connect(self.hint)
        # After what an action does has been done.
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(0)
        self._soon.timeout.connect(self.look)
        self._actions, self._listens = actions, False

    def _listen(self) -> None:
        """From the first lesson on: there are many actions, and most windows have no lesson."""
        if self._listens:
            return
        self._listens = True
        document = self._document
        for signal in (
            document.changed,
            document.selection.keys_changed,
            document.checked.chosen_changed,
            document.checked.changed,
            document.views.changed,
        ):
            signal.connect(self._look_soon)
        for name in self._actions:
            self._actions[name].triggered.connect(self._noter(name))
            self._actions[name].toggled.connect(self._noter(name))

    def _noter(self, name: str) -> Callable[..., None]:
        def note(*given: object) -> None:
            if self._lesson is not None:
                self._did.add(name)
                self._look_soon()

        return note

    def _look_soon(self) -> None:
        if self._lesson is not None:
            self._soon.start()

    @property
    def lesson(self) -> "Lesson | None":
        """The one that is done; None for none."""
        return self._lesson

    @property
    def step(self) -> "Step | None":
        """What is to be done next; None before the beginning and after the end."""
        return None if self._lesson is None or self.is_over else self._lesson.steps[self.number]

    def begin(self, name: str) -> None:
        """Begin a lesson, whose scene is open."""
        from ...lessons import lesson

        self._listen()
        self._lesson, self.id, self.number, self.is_over = lesson(name), name, 0, False
        self._start_step()

    def look(self) -> None:
        """Go on as far as conditions hold."""
        if self.step is None:
            return
        from ...lessons import holds

        while self.step is not None and holds(self.step.done, self._now()):
            self.number += 1
            if self._lesson is not None and self.number >= len(self._lesson.steps):
                self.is_over = True
                self._patience.stop()
                self._mark_done()
                self.changed.emit()
                return
            self._start_step()

    def _now(self) -> "Now":
        from ...lessons import Now

        document = self._document
        shown: dict[Shown, bool] = {
            "keys": len(document.selection.keys) > 1,
            # Of all frames: what is found before may not be all of it.
            "finding": document.checked.chosen is not None and document.checked.is_done,
            "fix": document.views.is_proposing,
        }
        return Now(document.scene, self._did, [what for what, on in shown.items() if on], self._before)

    def _start_step(self) -> None:
        self._did.clear()
        self._before = self._document.scene
        self.gives_hint = False
        self._patience.start()
        self.changed.emit()

    def hint(self) -> None:
        """Say how the step is done."""
        if self.step is not None and self.step.hint:
            self.gives_hint = True
            self.changed.emit()

    def leave(self) -> None:
        """Lessons are over for now."""
        if self._lesson is None:
            return
        name, self._lesson = self.id, None
        self._patience.stop()
        self._did.clear()
        self.changed.emit()
        self.ended.emit(name)

    def stop(self) -> None:
        """For when the program ends."""
        self._patience.stop()
        self._soon.stop()
        self._lesson = None

    # What was done

    def done(self) -> set[str]:
        """The ids of the lessons that were done to their end."""
        stored = self._settings.value("lessons/done", [])
        return set([stored] if isinstance(stored, str) else stored or [])

    def _mark_done(self) -> None:
        self._settings.setValue("lessons/done", sorted(self.done() | {self.id}))
