"""How far apart two takes are, as seen through the lens that makes the move."""

import numpy as np

from ...arrays import Array
from ...scene import TURN, Take
from ...scene.channels import POSITION
from ...space.rotation import multiply, quaternion_to_matrix
from .fewest import Pixels
from .sampling import at_times


def pixels_apart(columns: tuple[str, ...], distance: float, focal_px: float) -> Pixels | None:
    """A measure, for samples (N, C), of how far off a subject is in the picture, which lies ``distance`` ahead in the
    one version, when it is seen from the other; None for takes that hold no pose."""
    if not (set(POSITION) <= set(columns) and set(TURN) <= set(columns)):
        return None
    place, turn = [columns.index(name) for name in POSITION], [columns.index(name) for name in TURN]

    def measure(made: Array, given: Array) -> Array:
        size = np.sqrt((made[:, turn] ** 2).sum(axis=1))[:, None]
        back = made[:, turn] / np.maximum(size, 1e-12) * np.array([-1.0, -1.0, -1.0, 1.0])
        ahead = -quaternion_to_matrix(given[:, turn])[:, :, 2] * distance
        off = given[:, place] + ahead - made[:, place]
        pure = np.concatenate([off, np.zeros((len(off), 1))], axis=1)
        seen = multiply(multiply(back, pure), back * np.array([-1.0, -1.0, -1.0, 1.0]))[:, :3]
        depth = np.maximum(-seen[:, 2], 1e-6)
        return np.asarray(focal_px * np.hypot(seen[:, 0], seen[:, 1]) / depth)

    return measure


def worst_apart(take: Take, source: Take, distance: float, focal_px: float) -> float:
    """The worst error in pixels on the subject of a take against the one it was made from, at that one's samples as far
    as both go, but not where those are marked as wrong; NaN where there is no picture to measure in."""
    measure = pixels_apart(take.columns, distance, focal_px)
    if measure is None or set(take.columns) != set(source.columns):
        return float("nan")
    times = source.times
    kept = (times >= take.times[0]) & (times <= take.times[-1])
    for mark in source.marks:
        # A jump for good, once it is mended, shifts all that comes after it.
        end = mark.end if mark.kind != "step" else times[-1] + 1.0
        kept &= ~((times > mark.start) & (times < end))
    inside = times[kept]
    if not len(inside):
        return float("nan")
    order = [source.columns.index(name) for name in take.columns]
    return float(measure(at_times(take, inside), at_times(source, inside)[:, order]).max())
