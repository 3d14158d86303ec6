"""Background loading of artwork and meshes."""

from collections.abc import Callable, Hashable, Iterator
from concurrent.futures import FIRST_COMPLETED, Future, ThreadPoolExecutor, wait
from typing import Any

_READERS = 2
_WAIT_SECONDS = 0.05


class Loader:
    """Jobs by key. Each is begun once; its result is collected by the thread that draws."""

    def __init__(self) -> None:
        self._readers = ThreadPoolExecutor(_READERS, thread_name_prefix="artwork")
        self._jobs: dict[Hashable, Future[Any]] = {}

    def __len__(self) -> int:
        return len(self._jobs)

    def __contains__(self, key: Hashable) -> bool:
        return key in self._jobs

    def begin(self, key: Hashable, job: Callable[[], Any]) -> None:
        """Begin a job unless it is under way."""
        if key not in self._jobs:
            self._jobs[key] = self._readers.submit(job)

    def __iter__(self) -> Iterator[Hashable]:
        return iter(list(self._jobs))

    def finished(self) -> list[tuple[Hashable, Any]]:
        """Keys and results of the jobs that are done; they are forgotten here. What a job raised is raised."""
        done = [key for key, job in self._jobs.items() if job.done()]
        return [(key, self._jobs.pop(key).result()) for key in done]

    def take(self, key: Hashable) -> Any | None:
        """The result of one job if it is done; it is forgotten here."""
        job = self._jobs.get(key)
        return self._jobs.pop(key).result() if job is not None and job.done() else None

    def finish(self, keys: set[Any], take_in: Callable[[Any, Any], None], step: Callable[[int, int], None]) -> None:
        """Wait for jobs, and hand over each key and result as it comes. ``step(done, total)`` is called meanwhile, and
        may raise."""
        left = set(keys)
        while left:
            step(len(keys) - len(left), len(keys))
            wait([self._jobs[key] for key in left], _WAIT_SECONDS, FIRST_COMPLETED)
            for key in list(left):
                result = self.take(key)
                if result is not None:
                    take_in(key, result)
                    left.discard(key)

    def drop(self, keep: Callable[[Hashable], bool]) -> None:
        """Give up jobs that were not begun and are not wanted any more."""
        for key in [key for key in self._jobs if not keep(key)]:
            if self._jobs[key].cancel():
                del self._jobs[key]
