"""Finds the frames that have to be measured again after an edit."""

import numpy as np
from numpy.typing import NDArray

from ..arrays import Array, Rows
from ..evaluate import evaluate
from ..evaluate.differences import changed_frames
from ..scene import Scene
from .format_windows import windows_of
from .subjects import nodes_of

_BESIDE = 1
"""Speeds are measured between frames, so what changes at a frame changes its neighbours' too."""


def other_frames(old: Scene, new: Scene, frames: Array) -> tuple[Rows, Rows]:
    """Which of all frames (N,) have other numbers, and which look different, in two scenes whose measures are alike.

    What is only said of the checks changes no picture; of the numbers only the line does.
    """
    everything = np.arange(len(frames))
    if _same_but_checks(old, new):
        moved = old.checks.line != new.checks.line
        return (everything if moved else everything[:0]), everything[:0]
    looks = changed_frames(old, new, frames)
    for shape in new.formats:
        if shape.window is not None:
            pairs = zip(windows_of(old, frames, shape), windows_of(new, frames, shape), strict=True)
            for before, after in pairs:
                looks |= (before != after).reshape(len(frames), -1).any(axis=1)
    numbers = looks | _moved(old, new, frames)
    if old.checks.line != new.checks.line or (old.shots, old.events) != (new.shots, new.events):
        numbers[:] = True
    return np.flatnonzero(_dilated(numbers)), np.flatnonzero(looks)


def _same_but_checks(old: Scene, new: Scene) -> bool:
    return all(
        getattr(old, name) is getattr(new, name) or getattr(old, name) == getattr(new, name)
        for name in new.__struct_fields__
        if name not in ("checks", "guides")
    )


def _dilated(flags: NDArray[np.bool_]) -> NDArray[np.bool_]:
    out = flags.copy()
    out[_BESIDE:] |= flags[:-_BESIDE]
    out[:-_BESIDE] |= flags[_BESIDE:]
    return out


def _moved(old: Scene, new: Scene, frames: Array) -> NDArray[np.bool_]:
    """Where what is measured without being drawn is elsewhere: subjects, the line, what the camera is about."""
    ids = {subject.node for subject in new.checks.subjects} | set(new.checks.line or ())
    ids |= {each for subject in new.checks.subjects for each in nodes_of(new, subject)}
    before, after = evaluate(old, frames), evaluate(new, frames)
    changed = np.zeros(len(frames), dtype=bool)
    for node_id in ids:
        if node_id in old and node_id in new:
            changed |= (before.world(node_id) != after.world(node_id)).reshape(len(frames), -1).any(axis=1)
    aims = [each.camera().aim for each in (before, after)]
    if (aims[0] is None) != (aims[1] is None):
        changed[:] = True
    elif aims[0] is not None and aims[1] is not None:
        changed |= ~np.isclose(aims[0], aims[1], rtol=0.0, atol=0.0, equal_nan=True).all(axis=1)
    return changed
