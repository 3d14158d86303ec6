"""Key reduction for export, where other programs interpolate linearly."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...arrays import Array
from ...space.rotation import slerp


class Tolerances(NamedTuple):
    """How far what lies between keys may be from the samples: units, degrees, a share of any other number; and by how
    many pixels what turns a lens may move its picture at most."""

    units: float = 0.002
    degrees: float = 0.02
    share: float = 1e-4
    pixels: float = 0.2

    def words(self) -> str:
        return f"{self.units:g} units, {self.degrees:g} degrees and {self.pixels:g} pixels"


def fewest(
    frames: Array, values: Array, quaternions: Array | None, scales: Array | None, within: Tolerances
) -> NDArray[np.int64]:
    """The numbers of the samples to keep, of frames (N,), values (N, C) in units, quaternions (N, 4) and scales
    (N, C): spans from each as long as they go."""
    last = len(frames) - 1
    kept = [0]
    while kept[-1] < last:
        start = kept[-1]

        def good(end: int, start: int = start) -> bool:
            return _keeps_to(frames, values, quaternions, scales, within, start, end)

        near, step = start + 1, 1
        while near < last and good(min(near + step, last)):
            near, step = min(near + step, last), step * 2
        far = min(near + step, last + 1)
        while far - near > 1:
            middle = (near + far) // 2
            near, far = (middle, far) if good(middle) else (near, middle)
        kept.append(near)
    return np.array(kept)


def _keeps_to(
    frames: Array, values: Array, quaternions: Array | None, scales: Array | None, within: Tolerances, start: int,
    end: int,
) -> bool:  # fmt: skip
    inside = slice(start + 1, end)
    share = ((frames[inside] - frames[start]) / (frames[end] - frames[start]))[:, None]
    if not len(share):
        return True
    straight = values[start] + (values[end] - values[start]) * share
    if np.abs(straight - values[inside]).max() > within.units:
        return False
    if scales is not None:
        even = scales[start] + (scales[end] - scales[start]) * share
        if (np.abs(even - scales[inside]) > within.share * np.abs(scales[inside])).any():
            return False
    if quaternions is None:
        return True
    count = len(share)
    first, other = (np.broadcast_to(quaternions[k], (count, 4)) for k in (start, end))
    turned = slerp(first, other, share[:, 0])
    alike = np.abs((turned * quaternions[inside]).sum(axis=1))
    return bool(np.degrees(2.0 * np.arccos(np.clip(alike, -1.0, 1.0))).max() <= within.degrees)
