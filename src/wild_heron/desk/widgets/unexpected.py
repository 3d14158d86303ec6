"""Catches exceptions of the program's own: logged once, shown once.

Nothing may leave a ``paintEvent``: Qt ends the program where a painter is still at work on a widget that is done with.
"""

import functools
import sys
import threading
import traceback
from collections.abc import Callable
from types import TracebackType
from typing import Any

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from ...log import log

_MOST_KINDS = 200
_TELL_MS = 500


class Reports(QObject):
    """Takes in unexpected errors, from any thread."""

    unexpected = pyqtSignal(str)
    """A kind of error that was not seen before, as a line for people."""

    def __init__(self) -> None:
        super().__init__()
        self._lock = threading.Lock()
        self.seen: dict[tuple[str, str, int], int] = {}
        """How often each kind of error, at its place in the program, came up."""
        self._untold: list[str] = []
        """From threads: signals are for the window's alone."""

    def report(self, problem: BaseException) -> None:
        """Log an error and tell of it, unless one of its kind was told before. From any thread."""
        trace = traceback.extract_tb(problem.__traceback__)
        where = (trace[-1].filename, trace[-1].lineno or 0) if trace else ("", 0)
        kind = (type(problem).__name__, *where)
        with self._lock:
            count = self.seen.get(kind, 0)
            if count or len(self.seen) < _MOST_KINDS:
                self.seen[kind] = count + 1
        if count == 0:
            log.error("unexpected", exc_info=problem)
            self._untold.append(f"{type(problem).__name__}: {problem}")
            if threading.current_thread() is threading.main_thread():
                self._tell()

    def _tell(self) -> None:
        while self._untold:
            self.unexpected.emit(self._untold.pop(0))

    def watch(self) -> None:
        """Take in what nothing else catches, in every thread."""
        self._look = QTimer(self)
        self._look.timeout.connect(self._tell)
        self._look.start(_TELL_MS)

        def escaped(kind: type[BaseException], problem: BaseException, trace: TracebackType | None) -> None:
            if isinstance(problem, KeyboardInterrupt | SystemExit):
                sys.__excepthook__(kind, problem, trace)
            else:
                self.report(problem.with_traceback(trace))

        sys.excepthook = escaped

        def in_a_thread(args: threading.ExceptHookArgs) -> None:
            if args.exc_value is not None:
                self.report(args.exc_value)

        threading.excepthook = in_a_thread


reports = Reports()


def painted(method: Callable[..., None]) -> Callable[..., None]:
    """For every method that Qt calls to paint: an error in it is reported, and its painter is let go."""

    @functools.wraps(method)
    def guarded(*arguments: Any) -> None:
        try:
            method(*arguments)
        except Exception as problem:
            reports.report(problem)
            # The frames hold the painter; it must end before Qt takes the widget back.
            traceback.clear_frames(problem.__traceback__)

    return guarded
