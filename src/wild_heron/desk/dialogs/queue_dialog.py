"""The queue: what is made, one after another, while work goes on."""

from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QFont
from PyQt6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QProgressBar, QScrollArea, QVBoxLayout, QWidget

from ...output.estimate import told
from ...output.queue.store import QueuedJob
from ..commands.queue_commands import QueueCommands
from ..widgets.dialog import Dialog, push_button
from ..widgets.opening import open_outside
from ..widgets.panel_parts import icon_button, label, set_surface, set_tone
from ..widgets.theme import AMBER, REED, RUST, SOFT
from .export_progress import duration

_LONGEST = 52
_STATES = {
    "waiting": ("waits", SOFT), "running": ("being made", AMBER), "done": ("done", REED), "failed": ("failed", RUST),
    "cancelled": ("cancelled", SOFT),
}  # fmt: skip


class QueueDialog(Dialog):
    """Not modal, and kept while it is closed."""

    def __init__(self, queue: QueueCommands, parent: QWidget | None = None) -> None:
        super().__init__("Queue", parent, 620, stays=True)
        self._queue = queue
        self.rows: dict[str, JobRow] = {}
        self._order: tuple[str, ...] = ()
        self.line = label("", "soft")
        self.column.addWidget(self.line)
        self._page = QWidget()
        set_surface(self._page, "panel")
        self._list = QVBoxLayout(self._page)
        self._list.setContentsMargins(0, 0, 0, 0)
        self._list.setSpacing(1)
        self._list.addStretch()
        area = QScrollArea()
        area.setFrameShape(QFrame.Shape.NoFrame)
        area.setWidgetResizable(True)
        area.setWidget(self._page)
        area.setMinimumHeight(320)
        self.column.addWidget(area, 1)
        self.clear = push_button("Clear what is done", queue.clear_done, "Take what is done or cancelled off the list")
        self.pace = push_button("Pause", self._pace, "", default=False)
        close = push_button("Close", self.close, default=False)
        self.add_buttons(close, self.pace, apart=self.clear)
        queue.changed.connect(self.show_list)
        self.show_list()

    def _pace(self) -> None:
        if self._queue.holds:
            self._queue.go_on()
        else:
            self._queue.pause()

    def show_list(self) -> None:
        """Show the list as it is now; rows that are there stay, so that what has the focus keeps it."""
        jobs = self._queue.shown.jobs
        order = tuple(job.id for job in jobs)
        for number in [each for each in self.rows if each not in order]:
            self.rows.pop(number).deleteLater()
        for place, job in enumerate(jobs):
            row = self.rows.get(job.id)
            if row is None:
                row = self.rows[job.id] = JobRow(job.id, self._queue)
            if self._order != order:
                self._list.insertWidget(place, row)
            row.show_job(job, place, len(jobs))
        self._order = order
        self.line.setText(self._summary())
        self.clear.setEnabled(any(job.state in ("done", "cancelled") for job in jobs))
        open_ = any(job.is_open for job in jobs)
        self.pace.setEnabled(open_)
        self.pace.setText("Go on" if open_ and self._queue.holds else "Pause")
        tip = (
            "Work on what waits" if self._queue.holds else "Stop after the frames that are whole; it goes on from there"
        )
        self.pace.setToolTip(tip)

    def _summary(self) -> str:
        jobs = self._queue.shown.jobs
        waiting = sum(job.is_open for job in jobs)
        if not jobs:
            return "Nothing is in the queue. Output ▸ Export puts something there, by Add to queue."
        if not waiting:
            return "Everything is done."
        frames = sum(job.total - job.done for job in jobs if job.is_open)
        known = [job.seconds / job.done for job in jobs if job.done and job.seconds]
        left = f", about {duration(sum(known) / len(known) * frames)}" if known else ""
        held = "  Paused." if self._queue.holds else ""
        return f"{waiting} to do, {frames} frames{left}.{held}"


class JobRow(QWidget):
    """One job: what it is, how far it is, and what can be done with it."""

    def __init__(self, number: str, queue: QueueCommands) -> None:
        super().__init__()
        set_surface(self, "raised")
        grid = QGridLayout(self)
        grid.setContentsMargins(12, 8, 8, 8)
        grid.setHorizontalSpacing(10)
        grid.setVerticalSpacing(3)
        grid.setColumnStretch(0, 1)
        self.name = label("", "", 13, QFont.Weight.DemiBold)
        self.state = label("", "soft", 12)
        self.state.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        self.what = label("", "soft", 11)
        self.bar = QProgressBar()
        self.bar.setTextVisible(False)
        self.bar.setFixedHeight(5)
        self.message = label("", "warning", 11)
        self.message.setWordWrap(True)
        self.up = icon_button("up", "Make it earlier")
        self.down = icon_button("down", "Make it later")
        self.folder = icon_button("folder", "Open its folder")
        self.again = icon_button("loop", "Try again; frames that are whole are not drawn again")
        self.off = icon_button("cross", "Cancel it")
        self._path = Path()
        self.up.clicked.connect(lambda: queue.move(number, -1))
        self.down.clicked.connect(lambda: queue.move(number, 1))
        self.folder.clicked.connect(lambda: open_outside(self._path))
        self.again.clicked.connect(lambda: queue.retry(number))
        self.off.clicked.connect(lambda: queue.cancel(number) if self._open else queue.remove(number))
        self._open = True
        grid.addWidget(self.name, 0, 0)
        grid.addWidget(self.state, 0, 1)
        grid.addWidget(self.what, 1, 0, 1, 2)
        grid.addWidget(self.bar, 2, 0, 1, 2)
        grid.addWidget(self.message, 3, 0, 1, 2)
        tools = QHBoxLayout()
        tools.setSpacing(2)
        for button in (self.up, self.down, self.folder, self.again, self.off):
            tools.addWidget(button)
        grid.addLayout(tools, 0, 2, 2, 1)

    def show_job(self, job: QueuedJob, place: int, count: int) -> None:
        """Show a job as it is now."""
        words, tone = _STATES[job.state]
        self._path, self._open = job.path.parent, job.is_open
        self.name.setText(_short(job.path.name))
        self.name.setToolTip(str(job.path))
        self.state.setText(self._state(job, words))
        set_tone(self.state, tone)
        self.what.setText(_what(job))
        self.bar.setVisible(job.is_open and job.done > 0)
        self.bar.setRange(0, max(job.total, 1))
        self.bar.setValue(job.done)
        self.message.setText(job.message)
        self.message.setVisible(bool(job.message))
        self.up.setEnabled(place > 0)
        self.down.setEnabled(place + 1 < count)
        self.again.setEnabled(job.state in ("failed", "cancelled", "done"))
        tip = "Cancel it; frames that are whole stay" if job.is_open else "Take it off the list"
        self.off.setToolTip(tip)
        self.off.setAccessibleName(tip)

    @staticmethod
    def _state(job: QueuedJob, words: str) -> str:
        if job.state == "running":
            left = job.seconds_left
            return f"{job.done} of {job.total}" + (f", about {duration(left)} left" if left is not None else "")
        if job.state == "done":
            return f"{told(job.size)} in {duration(job.seconds)}"
        return f"{words}, {job.done} of {job.total} whole" if job.state == "waiting" and job.done else words


def _short(name: str) -> str:
    """A name with its middle left out where it is long."""
    return name if len(name) <= _LONGEST else f"{name[:30]}…{name[-_LONGEST + 31 :]}"


def _what(job: QueuedJob) -> str:
    """What a job makes of what."""
    order = job.order
    wanted = order.job()
    kind = wanted.encoding.label.split(",")[0] if wanted.kind.movie else wanted.kind.label.split(",")[0]
    shape = f"{order.format}, " if order.format else ""
    samples = f", {order.samples} samples" if order.samples > 1 else ""
    frames = f"{job.total} frames" if job.total > 1 else "1 frame"
    return f"{job.scene}: {shape}{order.size[0]} × {order.size[1]}, {frames}{samples}, {kind}"
