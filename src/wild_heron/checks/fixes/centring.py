"""The smallest change of where a camera looks that keeps a subject in its area."""

import numpy as np

from ...arrays import Array
from ...evaluate import evaluate, output
from ...scene import Scene, SceneError
from ...scene.checks import AREAS
from ...scene.specs import specs
from ..finding import Finding
from ..subjects import subject_boxes
from ..windows import windows_of
from .changes import plus, with_all_values

_ROUNDS = 6
_ENOUGH = 2e-4


def centred(
    scene: Scene, finding: Finding, camera: str, around: tuple[float, float]
) -> tuple[tuple[float, float], Scene] | None:
    """By how much of the frame's width and height the look goes right and up, and the scene with it: a constant over
    the stretch, the least that has the subject in its area at every frame between two. None where it does not fit."""
    subject = next(each for each in scene.checks.subjects if each.node == finding.about)
    shape = next(each for each in scene.formats_with_main() if each.name == finding.format)
    frames = np.arange(around[0], around[1] + 0.5, 0.5)
    rim = 0.5 * (1.0 - AREAS[subject.area]) + 1e-4
    total, made = np.zeros(2), scene
    for _ in range(_ROUNDS):
        here = evaluate(made, frames)
        box = subject_boxes(here, output(made, frames), (subject,))[:, 0]
        windows = windows_of(made, frames, shape)
        corners = windows.inside(box[:, [[0, 1], [2, 1], [2, 3], [0, 3]]], made.settings)
        shares = np.concatenate([corners.min(axis=1), corners.max(axis=1)], axis=1)
        size = windows.size.mean(axis=0)
        shift = _least_shift(shares, rim)
        if shift is None:
            return None
        if np.abs(shift).max() < _ENOUGH:
            return (float(total[0]), float(total[1])), made
        # The subject goes left when the look goes right, and down when it goes up.
        total += np.array([-shift[0], shift[1]]) * 1.002
        made = looking_aside(scene, camera, total * size, finding.at)
    return None


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
    """A camera that looks aside by pixels of the scene's frame to the right and up: its aim off by so much, or, without
    an aim, it is turned. SceneError where that cannot be changed."""
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
