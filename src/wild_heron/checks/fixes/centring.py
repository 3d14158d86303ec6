"""Finds the smallest change of aim that keeps a subject in its area."""

from collections.abc import Callable

import numpy as np

from ...arrays import Array
from ...edits.shifting import plus, with_all_values
from ...evaluate import evaluate, output
from ...scene import Scene, SceneError
from ...scene.checks import AREAS
from ...scene.specs import specs
from ..finding import Finding
from ..format_windows import windows_of
from ..subjects import subject_boxes

_ROUNDS = 6
_ENOUGH = 2e-4
_HALVINGS = 10


def centred(
    scene: Scene, finding: Finding, camera: str, around: tuple[float, float]
) -> tuple[tuple[float, float], Scene] | None:
    """By how much of the frame's width and height the look goes right and up, and the scene with it: a constant over
    the stretch, the least that has the subject in its area at every frame between two. None where it does not fit."""
    subject = next(each for each in scene.checks.subjects if each.node == finding.about)
    shape = next(each for each in scene.formats_with_main() if each.name == finding.format)
    frames = np.arange(around[0], around[1] + 0.5, 0.5)
    rim = 0.5 * (1.0 - AREAS[subject.area]) + 1e-4
    size = windows_of(scene, frames, shape).size.mean(axis=0)

    def shift_of(made: Scene) -> Array | None:
        """How far the subject is still to go, in shares of the frame to the right and down."""
        here = evaluate(made, frames)
        box = subject_boxes(here, output(made, frames), (subject,))[:, 0]
        corners = windows_of(made, frames, shape).inside(box[:, [[0, 1], [2, 1], [2, 3], [0, 3]]], made.settings)
        return _least_shift(np.concatenate([corners.min(axis=1), corners.max(axis=1)], axis=1), rim)

    def looking(total: Array) -> Scene:
        return looking_aside(scene, camera, total * size, finding.at)

    total, made = np.zeros(2), scene
    for _ in range(_ROUNDS):
        shift = shift_of(made)
        if shift is None:
            return None
        if np.abs(shift).max() < _ENOUGH:
            return _reduced(total, lambda less: _is_enough(shift_of(looking(less))), looking)
        # The subject goes left when the look goes right, and down when it goes up.
        total = total + np.array([-shift[0], shift[1]]) * 1.002
        made = looking(total)
    return None


def _is_enough(shift: Array | None) -> bool:
    return shift is not None and float(np.abs(shift).max()) < _ENOUGH


def _reduced(
    total: Array, enough: Callable[[Array], bool], looking: Callable[[Array], Scene]
) -> tuple[tuple[float, float], Scene]:
    """As little of either amount as is enough: turned, what is at the rim of a picture moves farther than what is in
    its middle, so that the first guess is too much."""
    for axis in range(2):
        low, high = 0.0, float(total[axis])
        for _ in range(_HALVINGS if high else 0):
            total = total.copy()
            total[axis] = 0.5 * (low + high)
            if enough(total):
                high = float(total[axis])
            else:
                low = float(total[axis])
        total[axis] = high
    return (float(total[0]), float(total[1])), looking(total)


def _least_shift(shares: Array, rim: float) -> Array | None:
    """How far boxes (N, 4) have to be moved together, in shares of the frame to the right and down; None where no one
    shift does for all."""
    if not np.isfinite(shares).all():
        return None
    out = np.zeros(2)
    for k in range(2):
        low, high = float((rim - shares[:, k]).max()), float((1.0 - rim - shares[:, k + 2]).min())
        if low > high + 1e-9:
            return None
        out[k] = min(max(0.0, low), high)
    return out


def looking_aside(scene: Scene, camera: str, pixels: Array, frame: float) -> Scene:
    """A camera that looks aside by pixels (2,) of the scene's frame to the right and up: its aim off by so much, or,
    without an aim, it is turned. SceneError where that cannot be changed."""
    node = scene.node(camera)
    settings = scene.settings
    here = evaluate(scene, frame, [camera])
    if node.aim is not None and node.aim.on and f"{node.aim.id}.off.x" in specs(node):
        amounts = pixels / [0.5 * settings.width, 0.5 * settings.height]
        for name, by in zip(("off.x", "off.y"), amounts.tolist(), strict=True):
            if by:
                made = f"{node.aim.id}.{name}"
                scene = with_all_values(scene, camera, made, plus(-by))
        return scene
    focal = float(here.camera(camera).focal_px[0])
    right, up = np.degrees(np.arctan(pixels / focal)).tolist()
    if any(bind.turns and bind.on for bind in node.binds):
        raise SceneError(f"{node.name} is turned by a bind.")
    scene = with_all_values(scene, camera, "rotation.y", plus(-right)) if right else scene
    return with_all_values(scene, camera, "rotation.x", plus(up)) if up else scene
