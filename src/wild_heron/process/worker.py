"""The render process: begun with SOCKET MEMORY SLOTS BYTES NICENESS.

It reads requests from an inherited socket, draws into inherited shared memory, and ends when the socket closes.
"""

import contextlib
import mmap
import os
import signal
import sys
import time
from collections import deque
from multiprocessing.connection import Connection
from pathlib import Path

import msgspec
import numpy as np

from ..files.reader import Reader
from ..gl.opening import NoOpenGL
from ..gl.renderer import Overtaken, Renderer
from ..helper_process import end_with_parent
from ..log import log, start_log
from .messages import (
    ChangeScene,
    Draw,
    Drawn,
    Dropped,
    Failed,
    Loading,
    Ready,
    Reload,
    Reply,
    Request,
    RequestRefused,
    SendWhole,
    SetScene,
)
from .patches import patched

_IDLE_SECONDS = 0.02
_TELL_SECONDS = 0.15


class RenderWorker:
    """Serves one program."""

    def __init__(self, connection: Connection, memory: int, slots: int, slot_bytes: int) -> None:
        """``memory`` is a descriptor of what pictures are handed over in, a slot for each."""
        self._connection, self._slot_bytes = connection, slot_bytes
        self._handed, self._size = memory, slots * slot_bytes
        self._encoder = msgspec.msgpack.Encoder()
        self._decoder = msgspec.msgpack.Decoder(Request)
        self._waiting: deque[SetScene | Reload | Draw] = deque()
        self._scenes: dict[int, SetScene] = {}
        self._lacking: set[int] = set()
        self._held: list[Draw] = []
        """Requests for versions that are lacking, until those have come."""
        self._renderer: Renderer | None = None
        self._arrived = self._total = 0
        self._awaited = False
        self._told = 0.0

    def run(self) -> None:
        reader = Reader(2)
        # The scene mostly waits already: where there is anything to be read, the readers start while OpenGL does.
        self._take_in(block=False)
        scenes = [each.scene for each in self._waiting if isinstance(each, SetScene)]
        if any(node.serves_as("seen") for scene in scenes for node in scene.nodes):
            # Before there is OpenGL, or memory that others share: the readers are copies of this process.
            reader.warm_up(forked=True)
        self._memory = memoryview(mmap.mmap(self._handed, self._size))
        try:
            self._renderer = Renderer(reader=reader)
        except NoOpenGL as problem:
            self._send(Failed(0, str(problem)))
            return
        except Exception as problem:
            log.error("starting to draw", exc_info=problem)
            self._send(Failed(0, f"The picture cannot be drawn: {problem}. wild-heron doctor says more."))
            return
        self._send(Ready(str(self._renderer.context.info["GL_RENDERER"])))
        while True:
            self._count_arrivals(self._renderer)
            self._take_in(block=not (self._waiting or self._arrived or self._renderer.pending))
            if not self._waiting:
                self._read_on(self._renderer)
                continue
            request = self._waiting.popleft()
            try:
                self._carry_out(self._renderer, request)
            except Overtaken:
                assert isinstance(request, Draw)
                self._send(Dropped(request.id))

    def _send(self, reply: Reply) -> None:
        self._connection.send_bytes(self._encoder.encode(reply))

    def _read_on(self, renderer: Renderer) -> None:
        """While nothing is asked for: take in artwork as it is read, and say so now and then."""
        self._connection.poll(_IDLE_SECONDS)
        self._count_arrivals(renderer)
        now = time.monotonic()
        left = renderer.pending
        if self._arrived and (not left or now - self._told > _TELL_SECONDS):
            self._total = max(self._total, left + self._arrived)
            self._send(Loading(self._total - left, self._total, {}))
            self._told, self._arrived = now, 0
            if not left:
                self._total = 0
                self._awaited = False

    def _count_arrivals(self, renderer: Renderer) -> None:
        """What came in is told only to those who got a picture without it."""
        arrived = renderer.collect()
        self._arrived = self._arrived + arrived if self._awaited else 0

    def _take_in(self, block: bool) -> None:
        """Read what has come in; drop requests that a newer one overtakes."""
        while block or self._connection.poll():
            data = self._connection.recv_bytes()
            block = False
            try:
                request = self._decoder.decode(data)
            except (msgspec.DecodeError, ValueError, RecursionError) as problem:
                log.error("a request that cannot be read", exc_info=problem)
                self._send(RequestRefused(f"The scene cannot be drawn: {problem}."))
                self._lacking.clear()
                self._let_go()
                continue
            if isinstance(request, ChangeScene):
                whole = self._changed(request)
                if whole is None:
                    self._lacking.add(request.version)
                    self._send(SendWhole(request.version))
                    continue
                request = whole
            self._accept(request)

    def _accept(self, request: SetScene | Reload | Draw) -> None:
        """Put a request in line."""
        if isinstance(request, Draw):
            if request.picture.version in self._lacking:
                self._held.append(request)
                return
            for old in [each for each in self._waiting if _overtakes(request, each)]:
                self._waiting.remove(old)
                self._send(Dropped(old.id))  # type: ignore[union-attr]
        elif isinstance(request, SetScene):
            self._scenes[request.version] = request
            self._lacking.discard(request.version)
            if not any(isinstance(each, Draw) and each.keep for each in self._waiting):
                # Only the newest scene matters, unless a frame that must be kept waits for an older one.
                self._waiting = deque(each for each in self._waiting if not _replaces(request, each))
        self._waiting.append(request)
        if isinstance(request, SetScene):
            self._let_go()

    def _let_go(self) -> None:
        """Put in line what was held back."""
        held, self._held = self._held, []
        for each in held:
            self._accept(each)

    def _changed(self, change: ChangeScene) -> SetScene | None:
        """The scene that a change makes of the one it was taken from; None where that is not here."""
        before = self._scenes.get(change.version)
        if before is None or before.serial != change.since:
            return None
        scene = patched(before.scene, change.patch)
        return SetScene(scene, change.base, change.version, change.allowed, change.serial)

    def _carry_out(self, renderer: Renderer, request: SetScene | Reload | Draw) -> None:
        if isinstance(request, SetScene):
            try:
                base = Path(request.base) if request.base else None
                renderer.set_scene(request.scene, base, request.version, request.allowed)
            except Exception as problem:
                log.error("taking in a scene", exc_info=problem)
                self._send(RequestRefused(f"The scene cannot be drawn: {problem}."))
        elif isinstance(request, Reload):
            renderer.forget_files()
        else:
            self._draw(renderer, request)

    def _draw(self, renderer: Renderer, request: Draw) -> None:
        def check() -> None:
            self._take_in(block=False)
            if any(_overtakes(other, request) for other in self._waiting):
                raise Overtaken

        started = time.perf_counter()
        try:
            picture = request.picture
            frame, complete = renderer.draw(picture, check, self._loading, request.keep)
            start = request.slot * self._slot_bytes
            end = start + picture.picture_bytes
            renderer.read_into(frame, self._memory[start:end])
            if picture.passes:
                told = renderer.passes(picture, check).packed().ravel().view(np.uint8)
                self._memory[end : start + picture.all_bytes] = told.data
        except Overtaken:
            raise
        except Exception as problem:  # One picture that cannot be drawn is no reason for none to be.
            if not isinstance(problem, KeyError):  # A camera that is gone by now is nothing unexpected.
                log.error("drawing", exc_info=problem)
            # A KeyError's text is quoted.
            what = str(problem.args[0] if isinstance(problem, KeyError) and problem.args else problem).rstrip(".")
            self._send(Failed(request.id, f"The picture could not be drawn: {what or type(problem).__name__}."))
            return
        self._awaited = self._awaited or not complete
        self._send(Drawn(request.id, time.perf_counter() - started, complete, renderer.clock.take()))

    def _loading(self, done: int, total: int, problems: dict[str, str]) -> None:
        self._send(Loading(done, total, dict(problems)))


def _replaces(newer: SetScene, older: Request) -> bool:
    return isinstance(older, SetScene) and older.version == newer.version


def _overtakes(newer: Request, older: Request) -> bool:
    return (
        isinstance(newer, Draw)
        and isinstance(older, Draw)
        and newer.stream == older.stream
        and newer.id > older.id
        and not older.keep
    )


def main() -> None:
    socket, memory, slots, slot_bytes, niceness = (int(argument) for argument in sys.argv[1:6])
    # Ctrl-C goes to every process of a terminal; the program decides, and closes the socket.
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    start_log()
    end_with_parent()
    os.nice(niceness)
    with contextlib.suppress(EOFError, BrokenPipeError, ConnectionResetError):
        RenderWorker(Connection(socket), memory, slots, slot_bytes).run()
    # At once: files that are still being read are of no use to anyone.
    os._exit(0)
