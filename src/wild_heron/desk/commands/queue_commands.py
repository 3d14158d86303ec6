"""The queue of outputs: what is added to it, and what works through it while the window is open."""

from pathlib import Path

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from ...output.job import ExportJob
from ...output.queue.store import QueuedJob, QueueList, QueueStore
from ...output.queue.working import QueueWorker, usual_workers
from ...scene import Scene
from ..state.document import Document

_LOOK_MS = 1000


class QueueCommands(QObject):
    """Adds jobs and steers them. ``changed`` is told where the list is another one."""

    changed = pyqtSignal()

    def __init__(self, document: Document, store: QueueStore | None = None) -> None:
        super().__init__()
        self._document = document
        self.store = store or QueueStore()
        self.worker = QueueWorker(self.store, document.background.line(self._look), usual_workers())
        self._list, self._stamp = QueueList(), self.store.stamp()
        self._said: set[str] = set()
        # Other windows change the list too.
        self._timer = QTimer(self)
        self._timer.setInterval(_LOOK_MS)
        self._timer.timeout.connect(self._look)

    def begin(self) -> None:
        """Look what was left, and say so."""
        self._list = self.store.read()
        self._said = {job.id for job in self._list.jobs if not job.is_open}
        left = sum(job.is_open for job in self._list.jobs)
        if left:
            was = "output is" if left == 1 else "outputs are"
            self._document.messages.say(f"{left} {was} left in the queue. Output ▸ Queue goes on with them.")
        self._timer.start()

    @property
    def shown(self) -> QueueList:
        """The list as it was seen last."""
        return self._list

    @property
    def is_working(self) -> bool:
        return self.worker.is_working

    @property
    def holds(self) -> bool:
        """Whether something waits while nothing is made: after a pause, or when the program has started anew."""
        waits = any(job.state == "waiting" for job in self._list.jobs)
        making = any(job.state == "running" for job in self._list.jobs)
        return waits and not making

    def add(self, scene: Scene, base: Path | None, jobs: list[ExportJob]) -> tuple[QueuedJob, ...]:
        """Add jobs, and begin to work. FileError or SceneError say what is wrong."""
        added = self.store.add(scene, base, jobs)
        self.go_on()
        return added

    def go_on(self) -> None:
        """Work on what waits."""
        self.store.pause(False)
        self.worker.start()
        self._look()

    def pause(self) -> None:
        """Stop after what is whole; it goes on from there."""
        self.store.pause(True)
        self._look()

    def move(self, number: str, by: int) -> None:
        self.store.move(number, by)
        self._look()

    def cancel(self, number: str) -> None:
        self.worker.cancel(number)
        self._look()

    def retry(self, number: str) -> None:
        self.store.retry(number)
        self._said.discard(number)
        self.go_on()

    def remove(self, number: str) -> None:
        self.store.remove([number])
        self._look()

    def clear_done(self) -> None:
        """Take off the list what is done or given up."""
        self.store.remove([job.id for job in self._list.jobs if job.state in ("done", "cancelled")])
        self._look()

    def _look(self) -> None:
        stamp = self.store.stamp()
        if stamp == self._stamp:
            return
        self._stamp, self._list = stamp, self.store.read()
        for job in self._list.jobs:
            if job.is_open or job.id in self._said:
                continue
            self._said.add(job.id)
            if job.state == "done":
                self._document.messages.say(f"Written: {job.path.name}")
            elif job.state == "failed":
                self._document.messages.say(f"{job.path.name}: {job.message} Output ▸ Queue tries again.", True)
        self.changed.emit()

    def stop(self) -> None:
        """For when the program ends: what is under way goes on the next time."""
        self._timer.stop()
        self.worker.close()
