"""Listening to a tracker: datagrams become samples in a thread of its own, whatever they hold and however many come."""

import socket
import threading
import time
from collections.abc import Callable
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..arrays import Array
from .messages import HOST, MAX_DATAGRAM, PORT, Pose, decode

MOST_A_SECOND = 1_000
"""Messages that are looked at; what comes beyond is left lying."""
MOST_SAMPLES = 400_000
"""Of one recording: over an hour at 90 a second."""
_SLICE = 0.05
_CHUNK = 4096


class Samples(NamedTuple):
    """What was heard, in order of the tracker's time: seconds of the tracker (N,), when each arrived (N,), positions
    (N, 3), quaternions (N, 4) and whether the button was held (N,)."""

    times: Array
    arrived: Array
    position: Array
    quaternion: Array
    button: NDArray[np.bool_]


class Listener:
    """One port. It goes on until it is closed; what it heard stays even if it fails."""

    def __init__(self, port: int = PORT, host: str = HOST, clock: Callable[[], float] = time.perf_counter) -> None:
        self.problem = ""
        """Why it hears no more; "" while it does."""
        self.refused = 0
        """Datagrams that were no messages, or too many."""
        self._clock = clock
        self._lock = threading.Lock()
        self._rows = np.empty((_CHUNK, 10))
        self._count = 0
        self._latest: Pose | None = None
        self.stopping = threading.Event()
        self._socket = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
        try:
            self._socket.bind((host, port))
        except OSError:
            self._socket.close()
            raise
        self.port = int(self._socket.getsockname()[1])
        self._socket.settimeout(0.2)
        self._thread = threading.Thread(target=self._listen, name="listening to the tracker", daemon=True)
        self._thread.start()

    @property
    def latest(self) -> Pose | None:
        """The last message."""
        return self._latest

    @property
    def count(self) -> int:
        return self._count

    def clear(self) -> None:
        """Forget what was heard so far."""
        with self._lock:
            self._count = 0

    def samples(self, first: int = 0) -> Samples:
        """What was heard since sample number ``first``: late messages in their place, of two at one time the first."""
        with self._lock:
            rows = self._rows[first : self._count].copy()
        order = np.argsort(rows[:, 0], kind="stable")
        rows = rows[order]
        if len(rows):
            fresh = np.concatenate([[True], np.diff(rows[:, 0]) > 1e-6])
            rows = rows[fresh]
        return Samples(rows[:, 0], rows[:, 1], rows[:, 2:5], rows[:, 5:9], rows[:, 9] > 0.5)

    def close(self) -> None:
        self.stopping.set()
        self._thread.join(timeout=1.0)
        self._socket.close()

    def _listen(self) -> None:
        try:
            self._receive()
        except OSError as problem:
            if not self.stopping.is_set():
                self.problem = f"The tracker is heard no more: {problem.strerror or problem}."
        except Exception as problem:  # Whatever it was, it costs neither the take so far nor the window.
            self.problem = f"The tracker is heard no more ({type(problem).__name__}: {problem})."

    def _receive(self) -> None:
        since, taken = self._clock(), 0
        while not self.stopping.is_set():
            try:
                datagram = self._socket.recv(MAX_DATAGRAM + 1)
            except TimeoutError:
                continue
            now = self._clock()
            if now - since >= _SLICE:
                since, taken = now, 0
            taken += 1
            if taken > MOST_A_SECOND * _SLICE:
                # A flood: what else comes in this moment is left to the system, which throws it away.
                self.refused += 1
                self.stopping.wait(max(since + _SLICE - now, 0.0))
                continue
            pose = decode(datagram)
            if pose is None:
                self.refused += 1
                continue
            self._latest = pose
            self._add((pose.time, now, *pose.position, *pose.quaternion, float(pose.button)))

    def _add(self, row: tuple[float, ...]) -> None:
        with self._lock:
            if self._count >= MOST_SAMPLES:
                self.refused += 1
                return
            if self._count == len(self._rows):
                # Twice as much room, so that a long take costs no pause that grows with it.
                self._rows = np.concatenate([self._rows, np.empty_like(self._rows)])
            self._rows[self._count] = row
            self._count += 1


def offset_of(samples: Samples) -> float:
    """What has to be added to the tracker's time to get ours: of the message that came with the least delay."""
    return float((samples.arrived - samples.times).min()) if len(samples.times) else 0.0
