"""Renders many frames in order, by one or more render processes."""

import os
import time
from collections.abc import Callable, Iterator, Sequence
from multiprocessing.connection import wait as wait_for_any
from pathlib import Path

import msgspec

from ..arrays import Pixels
from ..files.permission import allowed_folders
from ..gl.request import FrameRequest
from ..scene import Scene
from .client import DrawnFrame, RenderClient
from .messages import Drawn, Failed, Loading, ProcessEnded, RenderError, RequestRefused

_SLOTS = 3
_MAX_RESTARTS = 2
_HUNG_SECONDS = 45.0
"""Longer than a reader may take for a file, while nothing is drawn."""

_KNOWN_AHEAD = 48
"""Pictures whose frames a process is told beforehand."""

_Asked = dict[int, tuple[int, int]]
"""Request id → index of the frame, slot."""


class FrameStream:
    """Draws pictures of one scene, and gives copies of them in the order asked for.

    A process that dies or hangs is replaced and its pictures are asked for again; RenderError if that keeps happening.
    """

    def __init__(
        self,
        scene: Scene,
        base: Path | None,
        picture: FrameRequest,
        processes: int = 1,
        niceness: int = 0,
        allowed: tuple[str, ...] | None = None,
        slots: int = _SLOTS,
    ) -> None:
        """``picture``: how each frame is drawn, at whatever moment, or the largest picture there is. ``allowed``:
        folders outside ``base`` whose files may be read; None for those that the user has allowed. ``slots``: how many
        pictures each process is asked for at once."""
        self._scene, self._base, self._picture, self._niceness = scene, base, picture, niceness
        self._allowed = allowed_folders() if allowed is None else allowed
        self._processes, self._slots = processes, slots
        self.clients = [self._start() for _ in range(processes)]
        self._restarts = 0
        self._moved: list[tuple[object, float]] = [(None, time.monotonic())] * processes
        self.problems: dict[str, str] = {}

    def _start(self) -> RenderClient:
        # Several beside each other would only wait for each other's threads.
        threads = None if self._processes == 1 else max(1, (os.cpu_count() or 1) // self._processes)
        client = RenderClient(self._slots, self._niceness, self._picture.all_bytes, threads)
        client.set_scene(self._scene, self._base, allowed=self._allowed)
        return client

    def frames(self, frames: Sequence[float], cancelled: Callable[[], bool] = lambda: False) -> Iterator[Pixels]:
        """The frames' pixels (H, W, 4) in order; ends early once ``cancelled()`` says so."""
        for each in self.results(frames, cancelled):
            yield each.pixels

    def results(self, frames: Sequence[float], cancelled: Callable[[], bool] = lambda: False) -> Iterator[DrawnFrame]:
        """The frames in order, with their passes; ends early once ``cancelled()`` says so."""
        return self.pictures([msgspec.structs.replace(self._picture, frame=frame) for frame in frames], cancelled)

    def _with_next(self, wishes: Sequence[FrameRequest], queued: list[int], number: int) -> FrameRequest:
        """A picture with the frames that the same process is asked for after it."""
        wish = wishes[number]
        frames = dict.fromkeys(wishes[each].frame for each in queued[:_KNOWN_AHEAD])
        return msgspec.structs.replace(wish, ahead=tuple(frames)) if wish.samples == 1 else wish

    def pictures(
        self, wishes: Sequence[FrameRequest], cancelled: Callable[[], bool] = lambda: False
    ) -> Iterator[DrawnFrame]:
        """Pictures of any kind in order; ends early once ``cancelled()`` says so."""
        count = len(self.clients)
        free = [list(range(self._slots)) for _ in self.clients]
        asked: list[_Asked] = [{} for _ in self.clients]
        done: dict[int, DrawnFrame] = {}
        queued = [list(range(k, len(wishes), count)) for k in range(count)]
        for index in range(len(wishes)):
            while index not in done:
                if cancelled():
                    return
                for k, client in enumerate(self.clients):
                    # Not so far ahead that finished frames pile up.
                    while queued[k] and free[k] and queued[k][0] < index + count * (self._slots + 1):
                        slot, number = free[k].pop(), queued[k].pop(0)
                        wish = self._with_next(wishes, queued[k], number)
                        request = client.request("film", slot, wish, keep=True)
                        asked[k][request] = (number, slot)
                ready = wait_for_any([client.fileno() for client in self.clients], timeout=0.1)
                self._replace_hung(asked, queued, free)
                for k, client in enumerate(self.clients):
                    if client.fileno() not in ready:
                        continue
                    try:
                        replies = client.replies()
                    except ProcessEnded:
                        self._begin_again(k, asked, queued, free)
                        continue
                    for reply in replies:
                        if isinstance(reply, Failed | RequestRefused):
                            raise RenderError(reply.message)
                        if isinstance(reply, Loading):
                            self.problems |= reply.problems
                        if isinstance(reply, Drawn):
                            number, slot = asked[k].pop(reply.id)
                            done[number] = client.result(slot, wishes[number])._replace(
                                seconds=reply.seconds, stages=reply.stages
                            )
                            free[k].append(slot)
            yield done.pop(index)

    def _begin_again(self, k: int, asked: list[_Asked], queued: list[list[int]], free: list[list[int]]) -> None:
        """Another process in place of one that is of no use any more; what that owed is asked for again."""
        self._replace(k)
        queued[k] = sorted([*queued[k], *(number for number, _ in asked[k].values())])
        asked[k], free[k] = {}, list(range(self._slots))

    def _replace_hung(self, asked: list[_Asked], queued: list[list[int]], free: list[list[int]]) -> None:
        now = time.monotonic()
        for k, client in enumerate(self.clients):
            progress = (client.progress(), len(asked[k]))
            if not asked[k] or progress != self._moved[k][0]:
                self._moved[k] = (progress, now)
            elif now - self._moved[k][1] > _HUNG_SECONDS:
                self._begin_again(k, asked, queued, free)

    def _replace(self, k: int) -> None:
        self._restarts += 1
        if self._restarts > _MAX_RESTARTS:
            raise RenderError("The render process keeps ending, or hanging; the graphics driver may be at fault.")
        self.clients[k].close()
        self.clients[k] = self._start()

    def close(self) -> None:
        for client in self.clients:
            client.close()

    def __enter__(self) -> "FrameStream":
        return self

    def __exit__(self, *_: object) -> None:
        self.close()
