"""The queue on disk: a list of jobs, each with the scene as it was when it was added. Several windows may share it."""

import contextlib
import fcntl
import os
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Literal

import msgspec
import platformdirs

from ...files.atomic import write_atomically
from ...files.errors import FileError, why
from ...files.project import decode, encode
from ...scene import Scene
from ..job import ExportJob
from .order import Order, order_of

State = Literal["waiting", "running", "done", "failed", "cancelled"]
_LIST, _LOCK, _WORKER = "queue.json", "queue.lock", "worker.lock"
_MOST = 2_000


class QueuedJob(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """One output. ``base`` is the folder that the scene's paths start from ("" for none); ``seconds`` is what it took
    so far, over ``done`` frames of ``total``; ``size`` what it wrote, in bytes."""

    id: str
    scene: str
    base: str
    order: Order
    total: int
    added: float
    state: State = "waiting"
    done: int = 0
    seconds: float = 0.0
    message: str = ""
    size: int = 0

    @property
    def path(self) -> Path:
        return Path(self.order.path)

    @property
    def is_open(self) -> bool:
        """Whether there is still something to do."""
        return self.state in ("waiting", "running")

    @property
    def seconds_left(self) -> float | None:
        """About how long it takes from here; None where that is not known yet."""
        return self.seconds / self.done * (self.total - self.done) if self.done and self.is_open else None


class QueueList(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """The jobs in their order, and whether no new one is begun."""

    jobs: tuple[QueuedJob, ...] = ()
    paused: bool = False


def queue_folder() -> Path:
    return Path(platformdirs.user_state_dir("wild-heron")) / "queue"


class QueueStore:
    """The list in a folder. What changes it does so under a lock, so that several processes may."""

    def __init__(self, folder: Path | None = None) -> None:
        self.folder = folder or queue_folder()

    def read(self) -> QueueList:
        """The list; empty where there is none. One that cannot be read is put aside, and its scenes kept."""
        path = self.folder / _LIST
        try:
            return msgspec.json.decode(path.read_bytes(), type=QueueList)
        except FileNotFoundError:
            return QueueList()
        except (OSError, ValueError, msgspec.MsgspecError):
            with contextlib.suppress(OSError):
                os.replace(path, path.with_suffix(f".broken-{int(time.time())}"))
            return QueueList()

    def stamp(self) -> tuple[int, int] | None:
        """What tells whether the list is another one."""
        try:
            status = (self.folder / _LIST).stat()
        except OSError:
            return None
        return status.st_mtime_ns, status.st_ino

    @contextlib.contextmanager
    def _locked(self) -> Iterator[None]:
        try:
            self.folder.mkdir(parents=True, exist_ok=True, mode=0o700)
            handle = os.open(self.folder / _LOCK, os.O_CREAT | os.O_RDWR, 0o600)
        except OSError as problem:
            raise FileError(self.folder, f"cannot hold the queue: {why(problem)}", "Make room there.") from problem
        try:
            fcntl.flock(handle, fcntl.LOCK_EX)
            yield
        finally:
            os.close(handle)

    def change(self, edit: Callable[[QueueList], QueueList]) -> QueueList:
        """Change the list as a whole."""
        with self._locked():
            before = self.read()
            after = edit(before)
            if after != before:
                write_atomically(self.folder / _LIST, msgspec.json.encode(after), 0o600)
            return after

    def add(self, scene: Scene, base: Path | None, jobs: list[ExportJob]) -> tuple[QueuedJob, ...]:
        """Add jobs of a scene as it is now. FileError or SceneError add none."""
        data = encode(scene)
        new = []
        for job in jobs:
            job.check()
            number = os.urandom(6).hex()
            new.append(
                QueuedJob(
                    number, scene.name, "" if base is None else str(base), order_of(job), len(job.frames), time.time()
                )
            )
        for each in new:
            self.folder.mkdir(parents=True, exist_ok=True, mode=0o700)
            write_atomically(self._scene_path(each.id), data, 0o600)
        self.change(lambda known: msgspec.structs.replace(known, jobs=(*known.jobs, *new)[-_MOST:]))
        return tuple(new)

    def _scene_path(self, number: str) -> Path:
        return self.folder / f"{number}.heron"

    def scene(self, job: QueuedJob) -> Scene:
        """The scene as it was when a job was added. FileError where it is gone."""
        path = self._scene_path(job.id)
        try:
            return decode(path.read_bytes(), path)
        except OSError as problem:
            raise FileError(path, f"could not be read: {why(problem)}", "Add the job again.") from problem

    def put(self, number: str, **changes: object) -> None:
        """Change fields of one job."""
        self.change(
            lambda known: msgspec.structs.replace(
                known,
                jobs=tuple(msgspec.structs.replace(job, **changes) if job.id == number else job for job in known.jobs),
            )
        )

    def move(self, number: str, by: int) -> None:
        """Move a job so many places down the list."""

        def edit(known: QueueList) -> QueueList:
            jobs = list(known.jobs)
            at = next((k for k, job in enumerate(jobs) if job.id == number), None)
            if at is None:
                return known
            jobs.insert(min(max(at + by, 0), len(jobs) - 1), jobs.pop(at))
            return msgspec.structs.replace(known, jobs=tuple(jobs))

        self.change(edit)

    def retry(self, number: str) -> None:
        """Do a job again; what is whole of it stays."""
        self.put(number, state="waiting", message="", done=0, seconds=0.0)

    def remove(self, numbers: list[str]) -> None:
        """Take jobs that are not being made off the list."""
        gone: list[str] = []

        def edit(known: QueueList) -> QueueList:
            gone.extend(job.id for job in known.jobs if job.id in numbers and job.state != "running")
            return msgspec.structs.replace(known, jobs=tuple(job for job in known.jobs if job.id not in gone))

        self.change(edit)
        for number in gone:
            self._scene_path(number).unlink(missing_ok=True)

    def pause(self, paused: bool) -> None:
        """Begin no more jobs, or go on."""
        self.change(lambda known: msgspec.structs.replace(known, paused=paused))

    @contextlib.contextmanager
    def working(self) -> Iterator[bool]:
        """Whether this process is the one that works on the queue; it is for as long as this is held."""
        try:
            self.folder.mkdir(parents=True, exist_ok=True, mode=0o700)
            handle = os.open(self.folder / _WORKER, os.O_CREAT | os.O_RDWR, 0o600)
        except OSError:
            yield False
            return
        try:
            try:
                fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except OSError:
                yield False
                return
            # Whoever worked on it before is gone: what was under way goes on where it stopped.
            self.change(_unfinished_waits)
            yield True
        finally:
            os.close(handle)


def _unfinished_waits(known: QueueList) -> QueueList:
    return msgspec.structs.replace(
        known,
        jobs=tuple(
            msgspec.structs.replace(job, state="waiting") if job.state == "running" else job for job in known.jobs
        ),
    )
