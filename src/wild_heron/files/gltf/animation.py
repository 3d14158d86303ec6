"""Node animation: keyframe tracks and the poses they give (glTF 2.0, section 3.11)."""

from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...space.rotation import slerp

Array = NDArray[np.float64]


class Track(NamedTuple):
    """Keys of one property of one node: times (K,) in seconds, values (K, C), or (K, 3, C) for cubic splines, where
    they are in-tangent, value, out-tangent."""

    node: int
    path: Literal["translation", "rotation", "scale"]
    times: Array
    values: Array
    interpolation: str

    def at(self, seconds: float) -> Array:
        """The value at a time; before the first key and after the last it holds."""
        times, cubic = self.times, self.interpolation == "CUBICSPLINE"
        right = int(np.searchsorted(times, seconds, side="right"))
        if right == 0 or right == len(times):
            value = self.values[0 if right == 0 else -1]
            return self._unit(value[1] if cubic else value)
        left = right - 1
        step = float(times[right] - times[left])
        share = (seconds - float(times[left])) / step if step > 0.0 else 0.0
        if cubic:
            p0, m0 = self.values[left, 1], self.values[left, 2] * step
            p1, m1 = self.values[right, 1], self.values[right, 0] * step
            s2, s3 = share * share, share * share * share
            return self._unit(
                (2 * s3 - 3 * s2 + 1) * p0 + (s3 - 2 * s2 + share) * m0 + (3 * s2 - 2 * s3) * p1 + (s3 - s2) * m1
            )
        a, b = self.values[left], self.values[right]
        if self.interpolation == "STEP":
            return self._unit(a)
        if self.path == "rotation":
            return slerp(a, b, np.float64(share))
        return np.asarray(a + (b - a) * share)

    def _unit(self, value: Array) -> Array:
        return value / max(float(np.linalg.norm(value)), 1e-12) if self.path == "rotation" else value
