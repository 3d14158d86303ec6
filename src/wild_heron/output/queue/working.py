"""The queue's worker thread: carries out one job after another."""

import os
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from ...files.errors import FileError
from ...log import log
from ...process.messages import RenderError
from ...scene import SceneError
from .store import QueuedJob, QueueStore

TELL_SECONDS = 0.5
LOOK_SECONDS = 0.25


def usual_workers() -> int:
    """How many processes draw a queued job: as many as there are processors to spare."""
    return max(1, min(8, (os.cpu_count() or 2) // 2))


class QueueWorker:
    """A thread that carries out jobs while there are any. ``told`` is called, in that thread, when the list changed."""

    def __init__(
        self, store: QueueStore, told: Callable[[], None] = lambda: None, workers: int | None = None, niceness: int = 8
    ) -> None:
        self.store, self.told = store, told
        self.workers = workers or usual_workers()
        self._niceness = niceness
        self._thread: threading.Thread | None = None
        self._ending = threading.Event()
        self.wake = threading.Event()
        self._cancelled: set[str] = set()
        self._looked, self._paused = 0.0, False
        self.current: str | None = None
        """The job that is being made."""

    def start(self) -> None:
        """Begin to work, or look again at once."""
        self.wake.set()
        if self._thread is None or not self._thread.is_alive():
            self._ending.clear()
            self._thread = threading.Thread(target=self._work, name="queue", daemon=True)
            self._thread.start()

    def cancel(self, number: str) -> None:
        """Give a job up; its pieces go, frames that are whole stay."""
        self._cancelled.add(number)
        if number != self.current:
            self.store.put(number, state="cancelled")
            self._clear_away(number)
            self.told()
        self.wake.set()

    def close(self) -> None:
        """End; the job under way goes on where it stopped the next time."""
        self._ending.set()
        self.wake.set()
        if self._thread is not None:
            self._thread.join()
            self._thread = None

    @property
    def is_working(self) -> bool:
        return self.current is not None

    def _work(self) -> None:
        try:
            with self.store.working() as mine:
                while mine and not self._ending.is_set():
                    known = self.store.read()
                    job = next((job for job in known.jobs if job.state == "waiting"), None)
                    if job is None or known.paused:
                        self.wake.wait(LOOK_SECONDS if job is not None else 1.0)
                        self.wake.clear()
                        if job is None and not any(each.is_open for each in self.store.read().jobs):
                            return
                        continue
                    self._carry_out(job)
        except FileError as problem:
            log.error("the queue", exc_info=problem)
        finally:
            self.current = None
            self.told()

    def _carry_out(self, job: QueuedJob) -> None:
        self.current = job.id
        self._cancelled.discard(job.id)
        self.store.put(job.id, state="running", message="", done=0, seconds=0.0)
        self.told()
        started = said = time.monotonic()
        first: int | None = None

        def progress(done: int, total: int) -> None:
            nonlocal said, first
            first = done if first is None else first
            now = time.monotonic()
            if now - said < TELL_SECONDS and done < total:
                return
            said = now
            # What was whole already took no time: it is told as if it had taken as long as the others.
            share = (now - started) / (done - first) * done if done > first else now - started
            self.store.put(job.id, done=done, seconds=share)
            self.told()

        def stop() -> bool:
            return self._ending.is_set() or job.id in self._cancelled or self._is_held(job.id)

        from ..resuming import export_on  # Encoders take long to load.

        try:
            scene = self.store.scene(job)
            base = Path(job.base) if job.base else None
            own = job.order.job(self.workers, self._niceness)
            if export_on(scene, base, own, progress, stop):
                size = sum(path.stat().st_size for path in own.written() if path.exists())
                took = time.monotonic() - started
                self._end(job, state="done", done=job.total, seconds=took, size=size)
            elif job.id in self._cancelled:
                self._end(job, state="cancelled")
                self._clear_away(job.id)
            else:
                self._end(job, state="waiting")
        except (FileError, SceneError, RenderError) as problem:
            self._end(job, state="failed", message=str(problem))
        except Exception as problem:  # One job that fails is no reason for the others to.
            log.error("a queued job", exc_info=problem)
            self._end(job, state="failed", message=f"{job.path.name} could not be written: {problem}.")

    def _end(self, job: QueuedJob, **changes: Any) -> None:
        self.current = None
        self.store.put(job.id, **changes)
        self.told()

    def _is_held(self, number: str) -> bool:
        """Whether the queue is paused, or another window has cancelled this job; looked up now and then."""
        now = time.monotonic()
        if now - self._looked > LOOK_SECONDS:
            self._looked = now
            known = self.store.read()
            self._paused = known.paused
            if any(job.id == number and job.state == "cancelled" for job in known.jobs):
                self._cancelled.add(number)
                return True
        return self._paused

    def _clear_away(self, number: str) -> None:
        from ..resuming import remove_pieces

        job = next((job for job in self.store.read().jobs if job.id == number), None)
        if job is not None and job.order.job().kind.movie:
            remove_pieces(job.order.job())
