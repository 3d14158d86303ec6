"""Streams mixed sound to the sound process from a frame on. Free of Qt."""

import contextlib
import socket
import subprocess
import threading
from typing import Any

import numpy as np

from ...helper_process import start_module
from ...motion.sound import RATE, Track, mixed
from ...scene import Rate
from . import sound_messages


class Feed:
    """What is heard from a frame on, round and round in a range."""

    def __init__(self, tracks: list[Track], rate: Rate, frame: float, first: float, last: float, loops: bool) -> None:
        """``first`` and ``last`` are the frames of the range that is played."""
        self.tracks = tracks
        self._rate = rate
        self._first, self._ends = first / rate.fps, not loops
        self._length = max(round((last + 1.0 - first) / rate.fps * RATE), 0)
        self._at = round((frame - first) / rate.fps * RATE)
        self.given = 0
        """Samples that have been asked for so far."""

    def piece(self, count: int) -> Any:
        """The next samples (count, 2) int16."""
        out = np.zeros((count, 2), np.int16)
        done = 0
        while done < count and self._length:
            place = self._at + self.given + done
            if place >= self._length and self._ends:
                break
            place %= self._length
            some = min(count - done, self._length - place)
            heard = mixed(self.tracks, self._rate, self._first + place / RATE, some)
            out[done : done + some] = np.round(heard * 32767.0)
            done += some
        self.given += count
        return out


class Speaker:
    """The program's end of the sound process. What is played is mixed in a thread, however busy the window is."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._feed: Feed | None = None
        self._turn = 0
        self.usable: bool | None = None
        """Whether there is anything to be heard through; None until that is known."""
        self._seconds = 0.0
        ours, theirs = socket.socketpair(socket.AF_UNIX, socket.SOCK_SEQPACKET)
        self._process: subprocess.Popen[bytes] = start_module(
            "wild_heron.desk.sound.sound_process", [theirs.fileno()], [theirs.fileno()],
            stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        )  # fmt: skip
        theirs.close()
        self._socket = ours
        self._thread = threading.Thread(target=self._listen, name="sound", daemon=True)
        self._thread.start()

    def heard(self) -> float:
        """Seconds that have come out of the device since it began to play."""
        return self._seconds

    def play(self, feed: Feed) -> None:
        """Play this from now on."""
        with self._lock:
            self._feed, self._seconds = feed, 0.0
            self._turn += 1
            self._send(sound_messages.Begin(self._turn))

    def change(self, tracks: list[Track]) -> None:
        """What sounds there are is another one from the next piece on."""
        with self._lock:
            if self._feed is not None:
                self._feed.tracks = tracks

    def silence(self) -> None:
        with self._lock:
            if self._feed is not None:
                self._feed = None
                self._turn += 1
                self._send(sound_messages.StopSound())

    def close(self) -> None:
        """End the process and the thread."""
        with contextlib.suppress(OSError):
            self._socket.shutdown(socket.SHUT_RDWR)
        self._process.kill()
        self._process.wait()
        self._thread.join()
        self._socket.close()

    def _send(self, message: sound_messages.ForDevice) -> None:
        # Where the process is gone, the thread has been told so; one that takes nothing is not waited for.
        with contextlib.suppress(OSError):
            self._socket.send(sound_messages.encode(message), socket.MSG_DONTWAIT)

    def _listen(self) -> None:
        while True:
            try:
                data = self._socket.recv(sound_messages.MESSAGE_BYTES)
            except OSError:
                data = b""
            if not data:
                self.usable = False
                return
            match sound_messages.from_device(data):
                case sound_messages.SoundReady(usable):
                    self.usable = usable
                case sound_messages.SoundHeard(turn, seconds):
                    if turn == self._turn:
                        self._seconds = seconds
                case sound_messages.WantSound(turn, count):
                    self._give(turn, min(count, sound_messages.MOST_SAMPLES))

    def _give(self, turn: int, count: int) -> None:
        with self._lock:
            feed = self._feed if turn == self._turn else None
        if feed is None:
            return
        samples = feed.piece(count).tobytes()
        with self._lock:
            if turn == self._turn:
                self._send(sound_messages.SoundData(turn, samples))
