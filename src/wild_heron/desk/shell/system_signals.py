"""Handles signals of the system that ask the program to end."""

import signal
import socket
from typing import Protocol

from PyQt6.QtCore import QObject, QSocketNotifier, pyqtSignal


class Leaving(Protocol):
    def leave_now(self) -> None: ...


class Signals(QObject):
    """SIGTERM, SIGHUP and Ctrl-C close the window without a question; its work is autosaved.

    Python sees a signal only when its interpreter runs, which may be long after, or in the midst of painting. So the
    signal's number is written to a socket by Python's own handler, and the event loop reads it there.
    """

    ended = pyqtSignal(int)
    """The window is closed; the program ends with this status."""

    def __init__(self, window: Leaving) -> None:
        super().__init__()
        self._window = window
        self.status = 0
        """What the program ends with."""
        self._ours, theirs = socket.socketpair()
        theirs.setblocking(False)
        self._theirs = theirs
        signal.set_wakeup_fd(theirs.fileno(), warn_on_full_buffer=False)
        for number in (signal.SIGTERM, signal.SIGHUP, signal.SIGINT):
            signal.signal(number, lambda *_: None)
        self._notifier = QSocketNotifier(self._ours.fileno(), QSocketNotifier.Type.Read)  # type: ignore[call-overload]
        self._notifier.activated.connect(self._arrived)

    def _arrived(self) -> None:
        number = self._ours.recv(1)
        if number and number[0] in (signal.SIGTERM, signal.SIGHUP, signal.SIGINT):
            self.status = 128 + number[0]
            self._window.leave_now()
            self.ended.emit(self.status)
