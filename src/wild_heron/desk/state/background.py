"""Background threads without Qt, whose results are delivered in the window's thread.

A thread holds the work, what the work was given, and an ``Errand``. So it can neither make nor let go anything of Qt,
whenever it ends.
"""

import contextlib
import os
import threading
import time
from collections import deque
from collections.abc import Callable
from types import CellType
from typing import Any, TypeVar

from PyQt6.QtCore import QObject, QSocketNotifier, pyqtBoundSignal
from PyQt6.sip import simplewrapper

_T = TypeVar("_T")
_PATIENCE_SECONDS = 10.0
"""How long work that was given up is waited for when the window closes."""

Told = Callable[..., None]


class _Post:
    """From threads to the window's: what was said, and a pipe that wakes whoever reads. Free of Qt."""

    def __init__(self) -> None:
        self.reads, self._writes = os.pipe2(os.O_NONBLOCK | os.O_CLOEXEC)
        self._lock = threading.Lock()
        self._open = True
        self.letters: deque[tuple[Errand, str, Any]] = deque()

    def send(self, errand: "Errand", kind: str, what: Any) -> None:
        with self._lock:
            if self._open:
                self.letters.append((errand, kind, what))
                self._wake()

    def wake(self) -> None:
        with self._lock:
            if self._open:
                self._wake()

    def _wake(self) -> None:
        # Where the pipe is full there is enough in it to wake by.
        with contextlib.suppress(BlockingIOError):
            os.write(self._writes, b"\0")

    def clear(self) -> None:
        with self._lock, contextlib.suppress(BlockingIOError):
            while self._open and os.read(self.reads, 4096):
                pass

    def close(self) -> None:
        with self._lock:
            if self._open:
                self._open = False
                self.letters.clear()
                os.close(self._writes)
                os.close(self.reads)


class Errand:
    """One piece of work under way, as its thread and those who wait for it know it. Free of Qt."""

    def __init__(self, name: str, post: _Post) -> None:
        self.name = name
        self._post = post
        self._cancelled = threading.Event()
        self._over = threading.Event()

    @property
    def cancelled(self) -> bool:
        """Whether it is wanted no more. Work that takes long looks now and then."""
        return self._cancelled.is_set()

    def is_cancelled(self) -> bool:
        """The same, for what asks a function."""
        return self._cancelled.is_set()

    @property
    def is_over(self) -> bool:
        """Whether the work is done; what came of it may still have to be taken in."""
        return self._over.is_set()

    def cancel(self) -> None:
        """It is wanted no more. What its work returns is still handed on."""
        self._cancelled.set()

    def tell(self, *what: Any) -> None:
        """From the thread: how it goes."""
        self._post.send(self, "told", what)

    def wait(self, seconds: float = _PATIENCE_SECONDS) -> bool:
        """Wait until the work is done; whether it is."""
        return self._over.wait(seconds)

    def _carry_out(self, work: Callable[["Errand"], Any]) -> None:
        kind: str = "failed"
        what: Any = RuntimeError(f"{self.name}: was broken off")
        try:
            kind, what = "done", work(self)
        except Exception as problem:  # It is raised where it can be told.
            what = problem
        finally:
            self._over.set()
            self._post.send(self, kind, what)


class Background(QObject):
    """Starts threads for one window, takes in what they say, and waits for them at its end."""

    def __init__(self) -> None:
        super().__init__()
        self._post = _Post()
        self._known: dict[Errand, tuple[threading.Thread | None, Callable[[Any], None], Told, Told | None]] = {}
        self._left: list[threading.Thread] = []
        self.is_stopped = False
        """Whether the window closes: nothing new is begun."""
        self._notifier = QSocketNotifier(self._post.reads, QSocketNotifier.Type.Read, self)  # type: ignore[call-overload]
        self._notifier.activated.connect(self.take_in)

    def start(
        self,
        name: str,
        work: Callable[[Errand], _T],
        done: Callable[[_T], None],
        told: Told = lambda *what: None,
        failed: Callable[[Exception], None] | None = None,
    ) -> Errand:
        """Carry out ``work`` in a thread. Here, in the window's thread, ``done`` gets what it returns, ``told`` what it
        tells on the way, and ``failed`` an exception, which is raised here where nobody takes it.

        TypeError where the work holds anything of Qt.
        """
        _refuse_qt(work)
        errand = Errand(name, self._post)
        thread = threading.Thread(target=errand._carry_out, args=(work,), name=name, daemon=True)
        if self.is_stopped:
            errand.cancel()
            errand._over.set()
            return errand
        self._known[errand] = (thread, done, told, failed)
        thread.start()
        return errand

    def line(self, told: Told) -> Told:
        """A function that threads of others may call: what they say reaches ``told`` in the window's thread."""
        errand = Errand("", self._post)
        self._known[errand] = (None, lambda _: None, told, None)
        return errand.tell

    def let_go(self, errand: Errand | None) -> None:
        """It is wanted no more, and nothing of it is told any more."""
        if errand is not None:
            errand.cancel()
            thread, *_ = self._known.pop(errand, (None,))
            self._left = [each for each in (*self._left, thread) if each is not None and each.is_alive()]

    def take_in(self, *_: object) -> None:
        """Hand on what threads have said so far."""
        self._post.clear()
        while self._post.letters:
            errand, kind, what = self._post.letters.popleft()
            if errand not in self._known:
                continue
            thread, done, told, failed = self._known[errand]
            if self._post.letters:
                # Should this one raise, the others still come.
                self._post.wake()
            if kind == "told":
                told(*what)
                continue
            del self._known[errand]
            if thread is not None:
                thread.join()
            if kind == "done":
                done(what)
            elif failed is not None:
                failed(what)
            else:
                raise what

    def finish(self, errand: Errand | None, seconds: float = _PATIENCE_SECONDS) -> None:
        """Wait for work, and take in what came of it."""
        if errand is not None and errand in self._known:
            errand.wait(seconds)
            self.take_in()

    def cancel(self) -> None:
        """Nothing that is under way is wanted any more, and nothing new is begun: the window closes."""
        self.is_stopped = True
        for errand in list(self._known):
            self.let_go(errand)

    def stop(self) -> None:
        """The same, and wait until every thread has ended; ``running`` names those that have not."""
        self.cancel()
        deadline = time.monotonic() + _PATIENCE_SECONDS
        for thread in self._left:
            thread.join(max(deadline - time.monotonic(), 0.0))
        self._notifier.setEnabled(False)
        self._post.close()

    @property
    def running(self) -> list[str]:
        """The names of the threads that have not ended."""
        threads = [*(thread for thread, *_ in self._known.values()), *self._left]
        return [each.name for each in threads if each is not None and each.is_alive()]


def _refuse_qt(work: Callable[..., Any]) -> None:
    """TypeError where a function holds something of Qt, itself or through functions that it holds."""
    seen: set[int] = set()
    waiting: list[Any] = [work]
    while waiting:
        each = waiting.pop()
        if id(each) in seen:
            continue
        seen.add(id(each))
        if isinstance(each, simplewrapper | pyqtBoundSignal):
            raise TypeError(f"{work!r} holds {each!r}, which is Qt's: hand the thread plain values.")
        if isinstance(each, CellType):
            with contextlib.suppress(ValueError):  # Nothing is in it yet.
                waiting.append(each.cell_contents)
        elif isinstance(each, list | tuple):
            waiting += each[:16]
        elif callable(each):
            waiting += [getattr(each, "__self__", None), getattr(each, "func", None)]
            waiting += [*(getattr(each, "__closure__", None) or ()), *(getattr(each, "__defaults__", None) or ())]
            waiting += [*(getattr(each, "args", None) or ()), *(getattr(each, "keywords", None) or {}).values()]
