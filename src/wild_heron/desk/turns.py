"""Refreshes that can wait a moment take turns, so that none of them holds the interface up together with others."""

from collections.abc import Callable

from PyQt6.QtCore import QObject, QTimer

_INTERVAL_MS = 11


class Turns(QObject):
    """Carries out one waiting refresh at a time. Asking again for one that waits changes nothing."""

    def __init__(self) -> None:
        super().__init__()
        self._waiting: dict[int, Callable[[], None]] = {}
        self._timer = QTimer(self)
        self._timer.setInterval(_INTERVAL_MS)
        self._timer.timeout.connect(self._next)

    def ask(self, owner: QObject, refresh: Callable[[], None]) -> None:
        """Refresh before long; one refresh waits for each owner."""
        self._waiting.setdefault(id(owner), refresh)
        if not self._timer.isActive():
            self._timer.start()

    def _next(self) -> None:
        if not self._waiting:
            self._timer.stop()
            return
        refresh = self._waiting.pop(next(iter(self._waiting)))
        refresh()

    def finish(self) -> None:
        """Carry out everything that waits now."""
        while self._waiting:
            self._next()
