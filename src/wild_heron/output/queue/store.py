"""The queue on disk: an SQLite database of jobs, each with the scene as it was when it was added. Several windows may
share it."""

import contextlib
import fcntl
import os
import sqlite3
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Literal

import msgspec
import platformdirs

from ...files.errors import FileError, why
from ...files.project import decode, encode
from ...scene import Scene
from ..job import ExportJob
from .order import Order, order_of

State = Literal["waiting", "running", "done", "failed", "cancelled"]
_DATABASE, _WORKER = "queue.sqlite", "worker.lock"
_OLDER = "queue.json"
"""What the list was before: read once, with the scenes beside it."""
_TABLES = """
CREATE TABLE IF NOT EXISTS jobs (id TEXT PRIMARY KEY, place INTEGER NOT NULL, job BLOB NOT NULL, scene BLOB NOT NULL);
CREATE TABLE IF NOT EXISTS paused (yes INTEGER NOT NULL);
"""
_WAIT_SECONDS = 30.0
"""How long one process waits for another that is changing the list."""
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
    """The list in a folder. Each change is a transaction, so that several processes may make them, and one that is
    killed leaves what was there."""

    def __init__(self, folder: Path | None = None) -> None:
        self.folder = folder or queue_folder()

    @property
    def _path(self) -> Path:
        return self.folder / _DATABASE

    def read(self) -> QueueList:
        """The list; empty where there is none. One that cannot be read is put aside, with its scenes."""
        if not (self._path.exists() or (self.folder / _OLDER).exists()):
            return QueueList()
        try:
            with self._opened(changes=False) as database:
                rows = database.execute("SELECT job FROM jobs ORDER BY place").fetchall()
                jobs = tuple(_job(row) for (row,) in rows)
                return QueueList(jobs, bool(database.execute("SELECT count(*) FROM paused").fetchone()[0]))
        except FileError:
            return QueueList()

    def stamp(self) -> tuple[int, int] | None:
        """What tells whether the list is another one."""
        try:
            status = self._path.stat()
        except OSError:
            return None
        return status.st_mtime_ns, status.st_ino

    @contextlib.contextmanager
    def _opened(self, changes: bool = True) -> Iterator[sqlite3.Connection]:
        """The database within a transaction; one that makes ``changes`` waits for its turn. FileError where it cannot
        be read or changed; one that is broken is put aside."""
        try:
            self.folder.mkdir(parents=True, exist_ok=True, mode=0o700)
            os.close(os.open(self._path, os.O_CREAT | os.O_RDWR, 0o600))
            older = (self.folder / _OLDER).exists()
            with contextlib.closing(self._connected()) as database:
                database.execute("BEGIN IMMEDIATE" if changes or older else "BEGIN")
                try:
                    if older:
                        self._take_over_older(database)
                    yield database
                except BaseException:
                    database.rollback()
                    raise
                database.commit()
        except OSError as problem:
            raise FileError(self.folder, f"cannot hold the queue: {why(problem)}", "Make room there.") from problem
        except (sqlite3.Error, ValueError) as problem:
            if _is_broken(problem):
                self._put_aside()
            raise FileError(self.folder, f"cannot hold the queue: {problem}.", "Make room there.") from problem

    def _connected(self) -> sqlite3.Connection:
        """The database; a file that is none is put aside, and one is begun."""
        for again in (True, False):
            database = sqlite3.connect(self._path, timeout=_WAIT_SECONDS, isolation_level=None)
            try:
                database.executescript(_TABLES)
                return database
            except sqlite3.Error as problem:
                database.close()
                if not (again and _is_broken(problem)):
                    raise
                self._put_aside()
        raise AssertionError

    def _put_aside(self) -> None:
        with contextlib.suppress(FileNotFoundError):
            os.replace(self._path, self._path.with_suffix(f".broken-{int(time.time())}"))

    def _take_over_older(self, database: sqlite3.Connection) -> None:
        path = self.folder / _OLDER
        try:
            older = msgspec.json.decode(path.read_bytes(), type=QueueList)
        except FileNotFoundError:
            return
        except (OSError, ValueError):
            os.replace(path, path.with_suffix(f".broken-{int(time.time())}"))
            return
        for job in older.jobs:
            with contextlib.suppress(OSError):
                _insert(database, job, (self.folder / f"{job.id}.heron").read_bytes())
        os.replace(path, path.with_suffix(".taken-over"))

    def add(self, scene: Scene, base: Path | None, jobs: list[ExportJob]) -> tuple[QueuedJob, ...]:
        """Add jobs of a scene as it is now. FileError or SceneError add none."""
        data, now, where = encode(scene), time.time(), "" if base is None else str(base)
        for job in jobs:
            job.check()
        new = tuple(
            QueuedJob(os.urandom(6).hex(), scene.name, where, order_of(job), len(job.frames), now) for job in jobs
        )
        with self._opened() as database:
            for each in new:
                _insert(database, each, data)
            database.execute(
                "DELETE FROM jobs WHERE id NOT IN (SELECT id FROM jobs ORDER BY place DESC LIMIT ?)", (_MOST,)
            )
        return new

    def scene(self, job: QueuedJob) -> Scene:
        """The scene as it was when a job was added. FileError where it is gone."""
        with self._opened(changes=False) as database:
            found = database.execute("SELECT scene FROM jobs WHERE id = ?", (job.id,)).fetchone()
        if found is None:
            raise FileError(job.path, "has no scene in the queue any more.", "Add the job again.")
        return decode(found[0], job.path)

    def put(self, number: str, **changes: object) -> None:
        """Change fields of one job."""
        with self._opened() as database:
            _put(database, number, changes)

    def move(self, number: str, by: int) -> None:
        """Move a job so many places down the list."""
        with self._opened() as database:
            order = [each for (each,) in database.execute("SELECT id FROM jobs ORDER BY place")]
            if number in order:
                at = order.index(number)
                order.insert(min(max(at + by, 0), len(order) - 1), order.pop(at))
                database.executemany("UPDATE jobs SET place = ? WHERE id = ?", list(enumerate(order)))

    def retry(self, number: str) -> None:
        """Do a job again; what is whole of it stays."""
        self.put(number, state="waiting", message="", done=0, seconds=0.0)

    def remove(self, numbers: list[str]) -> None:
        """Take jobs that are not being made off the list."""
        with self._opened() as database:
            for number, data in database.execute("SELECT id, job FROM jobs").fetchall():
                if number in numbers and _job(data).state != "running":
                    database.execute("DELETE FROM jobs WHERE id = ?", (number,))

    def pause(self, paused: bool) -> None:
        """Begin no more jobs, or go on."""
        with self._opened() as database:
            database.execute("DELETE FROM paused")
            if paused:
                database.execute("INSERT INTO paused VALUES (1)")

    @contextlib.contextmanager
    def working(self) -> Iterator[bool]:
        """Whether this process is the one that works on the queue; it is for as long as this is held."""
        try:
            self.folder.mkdir(parents=True, exist_ok=True, mode=0o700)
            # A lock of the system's own: it is free again however its holder ends.
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
            with self._opened() as database:
                for number, data in database.execute("SELECT id, job FROM jobs").fetchall():
                    if _job(data).state == "running":
                        _put(database, number, {"state": "waiting"})
            yield True
        finally:
            os.close(handle)


def _is_broken(problem: Exception) -> bool:
    """Whether it is the list itself that is wrong, rather than the disk or a lock."""
    return isinstance(problem, ValueError) or (
        isinstance(problem, sqlite3.DatabaseError) and not isinstance(problem, sqlite3.OperationalError)
    )


def _job(data: bytes) -> QueuedJob:
    """ValueError where it is none."""
    return msgspec.json.decode(data, type=QueuedJob)


def _insert(database: sqlite3.Connection, job: QueuedJob, scene: bytes) -> None:
    (last,) = database.execute("SELECT max(place) FROM jobs").fetchone()
    place = 0 if last is None else last + 1
    database.execute("INSERT INTO jobs VALUES (?, ?, ?, ?)", (job.id, place, msgspec.json.encode(job), scene))


def _put(database: sqlite3.Connection, number: str, changes: dict[str, object]) -> None:
    found = database.execute("SELECT job FROM jobs WHERE id = ?", (number,)).fetchone()
    if found is not None:
        changed = msgspec.structs.replace(_job(found[0]), **changes)
        database.execute("UPDATE jobs SET job = ? WHERE id = ?", (msgspec.json.encode(changed), number))
