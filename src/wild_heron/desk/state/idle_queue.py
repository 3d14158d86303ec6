"""A queue of deferred refreshes, run one at a time between events."""

from collections.abc import Callable

from PyQt6.QtCore import QObject, QTimer

_INTERVAL_MS = 11


class Turns(QObject):
    """Carries out one waiting refresh at a time. Asking again for one that waits changes nothing."""

    def __init__(self) -> None:
        super().__init__()
        self._waiting: dict[int, Callable[[], None]] = {}
        self._stopped = False
        self._timer = QTimer(self)
        self._timer.setInterval(_INTERVAL_MS)
        self._timer.timeout.connect(self._next)

    def ask(self, owner: QObject, refresh: Callable[[], None]) -> None:
        """Refresh before long; one refresh waits for each owner."""
        if self._stopped:
            return
        self._waiting.setdefault(id(owner), refresh)
        if not self._timer.isActive():
            self._timer.start()

    def _next(self) -> None:
        if not self._waiting:
            self._timer.stop()
            return
        refresh = self._waiting.pop(next(iter(self._waiting)))
        refresh()

    def stop(self) -> None:
        """Forget what waits, for good; for when the window closes."""
        self._stopped = True
        self._waiting.clear()
        self._timer.stop()

    def finish(self) -> None:
        """Carry out everything that waits now."""
        while self._waiting:
            self._next()
