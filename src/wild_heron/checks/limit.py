"""What a check holds a film to."""

from typing import NamedTuple

from ..scene import ChecksOfScene


class CheckLimit(NamedTuple):
    """``name`` in a scene, what it is called, its usual value, its unit on screen (after ``shown`` times its value),
    its range, and where it comes from."""

    name: str
    label: str
    value: float
    unit: str
    low: float
    high: float
    source: str
    shown: float = 1.0

    def of(self, checks: ChecksOfScene) -> float:
        """The limit as it is in a scene."""
        own = next((each.value for each in checks.limits if each.name == self.name), None)
        return self.value if own is None else min(max(own, self.low), self.high)
