"""The strip at the head of the window that a lesson speaks through."""

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QFont, QPainter, QPaintEvent
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from ..widgets.panel_parts import label, set_surface
from ..widgets.theme import AMBER, REED, SOFT, colour
from ..widgets.unexpected import painted
from .lesson_run import LessonRun
from .performing import Performer


class _Steps(QWidget):
    """A dot for each step: done, now, and yet to come."""

    def __init__(self, run: LessonRun) -> None:
        super().__init__()
        self._run = run

    def sizeHint(self) -> QSize:
        lesson = self._run.lesson
        return QSize(12 * len(lesson.steps) if lesson else 12, 12)

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        lesson = self._run.lesson
        if lesson is None:
            return
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setPen(Qt.PenStyle.NoPen)
        for number in range(len(lesson.steps)):
            done, now = number < self._run.number, number == self._run.number
            p.setBrush(colour(REED) if done else colour(AMBER) if now else colour(SOFT, 0.4))
            size = 8.0 if now else 6.0
            p.drawEllipse(QRectF(12 * number + 6 - size / 2, self.height() / 2 - size / 2, size, size))


class LessonBar(QWidget):
    """Which lesson and step it is, what to do, and a way out."""

    def __init__(self, run: LessonRun, performer: Performer) -> None:
        super().__init__()
        self._run, self._performer = run, performer
        set_surface(self, "offer", "bottom")
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 7, 14, 8)
        row.setSpacing(10)
        words = QVBoxLayout()
        words.setSpacing(1)
        heading = QHBoxLayout()
        heading.setSpacing(10)
        self.name = label("", "soft", 11)
        heading.addWidget(self.name)
        self.steps = _Steps(run)
        heading.addWidget(self.steps)
        heading.addStretch()
        words.addLayout(heading)
        self.text = label("", size=14, weight=QFont.Weight.Medium)
        self.text.setWordWrap(True)
        words.addWidget(self.text)
        self.hint = label("", "soft", 12)
        self.hint.setWordWrap(True)
        words.addWidget(self.hint)
        row.addLayout(words, 1)
        self.show_hint = QPushButton("Hint")
        self.show_hint.setToolTip("Say how this step is done")
        self.show_hint.clicked.connect(run.hint)
        self.show_me = QPushButton("Show me")
        self.show_me.setToolTip("Let the program do this step")
        self.show_me.clicked.connect(self._show_me)
        self.next = QPushButton("Next lesson")
        self.next.setProperty("main", True)
        self.leave = QPushButton("Leave the lesson")
        self.leave.clicked.connect(run.leave)
        for button in (self.show_hint, self.show_me, self.next, self.leave):
            row.addWidget(button, 0, Qt.AlignmentFlag.AlignVCenter)
        run.changed.connect(self.refresh)
        self.hide()

    @property
    def following(self) -> str:
        """The id of the lesson after this one; "" after the last."""
        from ...lessons import lessons

        names = list(lessons())
        at = names.index(self._run.id) + 1 if self._run.id in names else len(names)
        return names[at] if at < len(names) else ""

    def _show_me(self) -> None:
        step = self._run.step
        if step is not None:
            self._performer.perform(step.show)
            self._run.look()

    def refresh(self) -> None:
        """Say what is to be done now."""
        run = self._run
        lesson, step = run.lesson, run.step
        self.setVisible(lesson is not None)
        if lesson is None:
            return
        over = step is None
        count = len(lesson.steps)
        self.name.setText(f"{lesson.name} · " + ("done" if over else f"step {run.number + 1} of {count}"))
        self.steps.updateGeometry()
        self.steps.update()
        said = "That is all of it. The scene is yours to go on with." if step is None else step.say
        self.text.setText(said)
        self.hint.setText(step.hint if step is not None and run.gives_hint else "")
        self.hint.setVisible(step is not None and run.gives_hint)
        self.show_hint.setVisible(step is not None and bool(step.hint) and not run.gives_hint)
        self.show_me.setVisible(not over)
        self.next.setVisible(over and bool(self.following))
        self.setAccessibleName(f"Lesson: {lesson.name}")
        self.setAccessibleDescription(said)
