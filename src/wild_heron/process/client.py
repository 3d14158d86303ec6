"""The program's end of a render process. Free of Qt: a window watches ``fileno()``, a script calls ``wait``."""

import contextlib
import itertools
import mmap
import os
import queue
import socket
import threading
from collections.abc import Mapping
from pathlib import Path
from types import MappingProxyType
from typing import Any, NamedTuple

import msgspec
import numpy as np
from numpy.typing import NDArray

from ..arrays import Pixels
from ..gl.aov import Aov
from ..gl.request import PASS_NUMBERS, FrameRequest
from ..helper_process import start_module
from ..scene import Scene
from .messages import (
    SLOT_BYTES,
    Draw,
    Drawn,
    Failed,
    ProcessEnded,
    Ready,
    Reload,
    RenderError,
    Reply,
    Request,
    RequestRefused,
    SendWhole,
)
from .publisher import Publisher


class DrawnFrame(NamedTuple):
    """A frame (H, W, 4), as bytes or floats, what lies in it where that was asked for, and how long it took to draw."""

    pixels: NDArray[Any]
    aov: Aov | None = None
    seconds: float = 0.0
    stages: Mapping[str, float] = MappingProxyType({})


class RenderClient:
    """One render process: scenes and requests go in, frames come back in slots of shared memory."""

    def __init__(
        self, slots: int = 2, niceness: int = 0, slot_bytes: int = SLOT_BYTES, threads: int | None = None
    ) -> None:
        """``slot_bytes``: room for one frame with all that is asked for of it. ``threads``: how many a renderer without
        a graphics card draws with (None: as many as there are processors)."""
        self.slots, self._slot_bytes = slots, slot_bytes
        self._ids = itertools.count(1)
        self._decoder = msgspec.msgpack.Decoder(Reply)
        self._encoder = msgspec.msgpack.Encoder()
        self._memory_fd = os.memfd_create("wild-heron-frames")
        os.ftruncate(self._memory_fd, slots * slot_bytes)
        self._memory = mmap.mmap(self._memory_fd, slots * slot_bytes)
        ours, theirs = socket.socketpair()
        os.set_inheritable(theirs.fileno(), True)
        os.set_inheritable(self._memory_fd, True)
        numbers = [theirs.fileno(), self._memory_fd, slots, slot_bytes, niceness]
        self._process = start_module(
            "wild_heron.process.worker", numbers, [theirs.fileno(), self._memory_fd],
            os.environ if threads is None else os.environ | {"LP_NUM_THREADS": str(threads)},
        )  # fmt: skip
        theirs.close()
        # Loaded once a window is there to be seen.
        from multiprocessing.connection import Connection

        self._connection = Connection(ours.detach())
        self.renderer = ""
        """What draws, once it has said so."""
        self._publisher = Publisher()
        self._outbox: queue.SimpleQueue[Request | None] = queue.SimpleQueue()
        self._unsent = 0
        self._failed = False
        self._sender = threading.Thread(target=self._send_all, name="render requests", daemon=True)
        self._sender.start()

    @property
    def pid(self) -> int:
        return self._process.pid

    def fileno(self) -> int:
        """A descriptor that becomes readable when a reply has come or the process has ended."""
        return self._connection.fileno()

    def _send(self, request: Request) -> None:
        """Hand a request over; it is sent by a thread, for a process that does not read would hold its caller up."""
        if self._failed:
            raise ProcessEnded("The render process has ended.")
        self._unsent += 1
        self._outbox.put(request)

    def _send_all(self) -> None:
        while (request := self._outbox.get()) is not None:
            try:
                self._connection.send_bytes(self._encoder.encode(request))
            except (OSError, ValueError, TypeError):
                self._failed = True
            self._unsent -= 1

    def progress(self) -> tuple[int, int]:
        """What changes for as long as the process does anything: its processor time, in ticks, and what waits to be
        sent to it."""
        try:
            fields = Path(f"/proc/{self.pid}/stat").read_text().rpartition(")")[2].split()
            return int(fields[11]) + int(fields[12]), self._unsent
        except (OSError, ValueError, IndexError):
            return 0, self._unsent

    def wants_processor(self) -> bool:
        """Whether a thread of the process could run, if only there were a processor free for it."""
        for stat in Path(f"/proc/{self.pid}/task").glob("*/stat"):
            # A thread may end meanwhile.
            with contextlib.suppress(OSError):
                if stat.read_text().rpartition(")")[2].split()[0] == "R":
                    return True
        return False

    def set_scene(self, scene: Scene, base: Path | None, version: int = 0, allowed: tuple[str, ...] = ()) -> None:
        """What is drawn from now on, as one of its versions. Only what changed since the last one is sent."""
        self._send(self._publisher.request(scene, "" if base is None else str(base), version, allowed))

    def reload_artwork(self) -> None:
        self._send(Reload())

    def request(self, stream: str, slot: int, picture: FrameRequest, keep: bool = False) -> int:
        """Ask for a frame and return the request's id. ``keep``: it may not be overtaken."""
        number = next(self._ids)
        self._send(Draw(number, stream, slot, picture, keep))
        return number

    def replies(self) -> list[Reply]:
        """What has come in so far. ProcessEnded when the process is gone and everything it said was read."""
        out: list[Reply] = []
        try:
            while self._connection.poll():
                reply = self._decoder.decode(self._connection.recv_bytes())
                if isinstance(reply, SendWhole):
                    self._send(self._publisher.whole(reply.version))
                else:
                    if isinstance(reply, Ready):
                        self.renderer = reply.renderer
                    out.append(reply)
        except (EOFError, OSError) as problem:
            if not out:
                raise ProcessEnded("The render process has ended.") from problem
        return out

    def wait(self, timeout: float = 120.0) -> list[Reply]:
        """Wait for at least one reply. RenderError where none comes in time."""
        if not self._connection.poll(timeout):
            raise RenderError("The render process does not answer.")
        return self.replies()

    def frame(self, slot: int, width: int, height: int) -> Pixels:
        """The frame in a slot, (H, W, 4) uint8; it is the shared memory itself, so copy what must stay."""
        start = slot * self._slot_bytes
        return np.frombuffer(self._memory, np.uint8, width * height * 4, start).reshape(height, width, 4)

    def result(self, slot: int, picture: FrameRequest) -> DrawnFrame:
        """A copy of what is in a slot, as it was asked for."""
        start, (width, height) = slot * self._slot_bytes, picture.drawn
        kind = np.uint8 if picture.numbers == "bytes" else np.float32
        found: Any = np.frombuffer(self._memory, kind, width * height * 4, start).reshape(height, width, 4).copy()
        if not picture.passes:
            return DrawnFrame(found)
        count, at = width * height * PASS_NUMBERS, start + picture.picture_bytes
        told = np.frombuffer(self._memory, np.float32, count, at).reshape(height, width, PASS_NUMBERS).copy()
        return DrawnFrame(found, Aov.unpacked(told))

    def draw(self, picture: FrameRequest, slot: int = 0) -> Pixels:
        """Draw one frame and wait for it: a copy, (H, W, 4) uint8. RenderError where it cannot be drawn."""
        number = self.request("single", slot, picture, keep=True)
        while True:
            for reply in self.wait():
                if isinstance(reply, RequestRefused) or (isinstance(reply, Failed) and reply.id in (0, number)):
                    raise RenderError(reply.message)
                if isinstance(reply, Drawn) and reply.id == number:
                    return self.frame(slot, *picture.drawn).copy()

    def close(self) -> None:
        """End the process at once, whatever it is doing, and give the memory back."""
        self._outbox.put(None)
        # Closing alone would not wake a thread that waits to send.
        with contextlib.suppress(OSError):
            socket.socket(fileno=os.dup(self._connection.fileno())).shutdown(socket.SHUT_RDWR)
        self._sender.join(2.0)
        self._connection.close()
        # It holds nothing that it would have to put in order; its readers end when it is gone.
        self._process.kill()
        self._process.wait()
        # Where a frame is still looked at, the memory goes when that does.
        with contextlib.suppress(BufferError):
            self._memory.close()
        os.close(self._memory_fd)

    def __enter__(self) -> "RenderClient":
        return self

    def __exit__(self, *_: object) -> None:
        self.close()
