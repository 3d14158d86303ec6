"""The playback clock: audio time interpolated between the device's reports. Free of Qt."""

from collections.abc import Callable

_FOLLOW = 0.08
"""How much of what it is off is made up for each time a device tells where it is."""
_FAR_OFF = 0.08
"""Seconds from which on it goes there at once."""
_STALLED = 0.6
"""Seconds after which a device that tells nothing new is taken to stand still, and time runs on without it."""


class SoundClock:
    """Seconds of sound that have been heard, told from where a device is (``heard``) and a steady clock (``now``).

    Devices tell their place in steps of a few hundredths of a second, and run a little fast or slow; what is shown has
    to run evenly, and stay with what is heard.
    """

    def __init__(self, heard: Callable[[], float], now: Callable[[], float]) -> None:
        self._heard, self._now = heard, now
        self._last: float | None = None
        self._told = now()
        self._off: float | None = None

    def __call__(self) -> float:
        """Seconds, never running back."""
        now, heard = self._now(), self._heard()
        if heard != self._last:
            off = heard - now
            if self._off is None or abs(off - self._off) > _FAR_OFF:
                self._off = off
            else:
                self._off += _FOLLOW * (off - self._off)
            self._last, self._told = heard, now
        return now + (self._off if self._off is not None else 0.0)

    @property
    def is_stalled(self) -> bool:
        """Whether the device has told nothing new for a while."""
        return self._now() - self._told > _STALLED
