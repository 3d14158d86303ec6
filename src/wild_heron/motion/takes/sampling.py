"""A take between its samples, its angles, and a take on another grid of times."""

from functools import lru_cache

import msgspec
import numpy as np

from ...arrays import Array
from ...scene import TURN, Mark, Take, packed
from ...space.rotation import AXES, matrix_to_euler, quaternion_to_matrix


def between(take: Take, names: tuple[str, ...], seconds: Array) -> Array:
    """Columns (N, K) at times (N,) between a take's first and last sample. A rotation is asked for whole, as TURN, and
    comes back as unit quaternions."""
    at = _upright(take) if names == TURN else take.column(*names)
    times = take.times
    if len(times) == 1:
        return np.repeat(at, len(seconds), axis=0)
    left = np.clip(np.searchsorted(times, seconds, side="right") - 1, 0, len(times) - 2)
    length = times[left + 1] - times[left]
    share = ((seconds - times[left]) / length)[:, None]
    low, high = at[left], at[left + 1]
    slopes = take.slope_table()
    if slopes is None:
        made = low + (high - low) * share if names != TURN else _slerped(low, high, share)
    else:
        columns = [take.columns.index(name) for name in names]
        out, into = slopes[left][:, columns] * length[:, None], slopes[left + 1][:, columns] * length[:, None]
        if names == TURN:
            # Where a sample's sign was changed, its slope's is too.
            signs = _signs(take)[:, None]
            out, into = out * signs[left], into * signs[left + 1]
        rest = 1.0 - share
        made = low + (high - low) * share * share * (3.0 - 2.0 * share) + share * rest * (out * rest - into * share)
    if names == TURN:
        made = made / np.sqrt(sum(made[:, k] ** 2 for k in range(4)))[:, None]
    return made


def _slerped(a: Array, b: Array, share: Array) -> Array:
    """From a to b (N, 4), which lie on one side, evenly."""
    cosine = np.clip(sum(a[:, k] * b[:, k] for k in range(4)), -1.0, 1.0)[:, None]
    angle = np.arccos(cosine)
    sine = np.sin(angle)
    safe = np.where(sine > 1e-7, sine, 1.0)
    first = np.where(sine > 1e-7, np.sin((1.0 - share) * angle) / safe, 1.0 - share)
    second = np.where(sine > 1e-7, np.sin(share * angle) / safe, share)
    return a * first + b * second


@lru_cache(maxsize=64)
def _signs(take: Take) -> Array:
    turns = take.column(*TURN)
    flips = np.where((turns[1:] * turns[:-1]).sum(axis=1) < 0.0, -1.0, 1.0)
    return np.concatenate([[1.0], np.cumprod(flips)])


@lru_cache(maxsize=64)
def _upright(take: Take) -> Array:
    """A take's quaternions (N, 4), each on the side of the one before it, so that all ways are short."""
    return take.column(*TURN) * _signs(take)[:, None]


def side_by_side(quaternions: Array) -> Array:
    """Quaternions (N, 4), each on the side of the one before it."""
    flips = np.where((quaternions[1:] * quaternions[:-1]).sum(axis=1) < 0.0, -1.0, 1.0)
    return quaternions * np.concatenate([[1.0], np.cumprod(flips)])[:, None]


def unrolled(quaternions: Array, order: str) -> Array:
    """Euler angles in degrees (N, 3) of quaternions (N, 4) in order of time, that run on without jumps.

    Of the two sets of angles that a rotation has (Diebel 2006, Representing Attitude), which are each other's mirror,
    each sample takes the one that is nearer to the sample's before it.
    """
    i, j, k = (AXES.index(axis) for axis in order)
    first = matrix_to_euler(quaternion_to_matrix(quaternions), order)
    other = first.copy()
    other[:, i], other[:, j], other[:, k] = first[:, i] + np.pi, np.pi - first[:, j], first[:, k] + np.pi

    def apart(a: Array, b: Array) -> Array:
        turn = np.mod(a - b + np.pi, 2.0 * np.pi) - np.pi
        return (turn * turn).sum(axis=1)

    swaps = apart(other[1:], first[:-1]) < apart(first[1:], first[:-1])
    mirrored = np.concatenate([[False], np.cumsum(swaps) % 2 == 1])
    return np.degrees(np.unwrap(np.where(mirrored[:, None], other, first), axis=0))


def at_times(take: Take, seconds: Array) -> Array:
    """All columns (N, C) of a take at times (N,)."""
    out = np.empty((len(seconds), len(take.columns)))
    plain = tuple(name for name in take.columns if name not in TURN)
    if plain:
        out[:, [take.columns.index(name) for name in plain]] = between(take, plain, seconds)
    if take.turns:
        out[:, [take.columns.index(name) for name in TURN]] = between(take, TURN, seconds)
    return out


def derived(
    take: Take,
    step: str,
    times: Array,
    columns: Array,
    slopes: Array | None = None,
    marks: tuple[Mark, ...] = (),
) -> Take:
    """A new take made from another by samples (N, C) at times (N,): a step, which says in words what was done."""
    return msgspec.structs.replace(
        take,
        name=f"{take.name}, {step}"[:200],
        samples=packed(times, columns),
        slopes=b"" if slopes is None else np.ascontiguousarray(slopes, dtype="<f8").tobytes(),
        source=take.id,
        step=step,
        marks=marks,
    )


def onto_frames(take: Take, fps: float, offset: float = 0.0) -> Take:
    """The take with a sample on each frame. ``offset``: which part of a frame its first sample lies on."""
    times = take.times
    first = np.ceil(offset - 1e-9) - offset
    last = np.floor(offset + take.seconds * fps + 1e-9) - offset
    seconds = times[0] + np.arange(first, last + 0.5) / fps
    if not len(seconds):
        seconds = times[:1]
    seconds = np.clip(seconds, times[0], times[-1])
    return derived(take, "on frames", seconds, at_times(take, seconds), marks=take.marks)


def even_step(take: Take) -> float:
    """The usual time from one sample to the next, in seconds."""
    return float(np.median(np.diff(take.times))) if take.count > 1 else 1.0
