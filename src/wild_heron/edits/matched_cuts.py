"""Edits of keys at cuts: cameras on either side retimed so that they meet in motion."""

from collections.abc import Callable

import numpy as np

from ..evaluate.picture_speed import picture_speed
from ..scene import Linear, Scene, SceneError
from ..scene.channels import POSITION
from ..scene.dependencies import closure, final_stage
from ..scene.film import OUTPUT
from ..scene.lookup import nodes_by_id
from ..scene.output import shot_range
from . import SAME_FRAME, KeyRef, set_spans
from .even_speed import even_speed
from .key_ranges import extent, stretch

_BEYOND = 0.2
"""How far beyond a cut a move begins or ends, as a share of its shot."""
_LEAST = 4.0
"""In frames, at the least."""
_REACH = 0.25
"""How far beyond its shot a key still belongs to it, as a share of the shot."""
_STEADY = 0.25
"""How far from a cut, in frames, speeds are read."""


def rig_of(scene: Scene, node_id: str) -> tuple[str, ...]:
    """A camera and everything that moves it, but for what is seen in the picture."""
    nodes = nodes_by_id(scene)
    found = {each for each, _ in closure(scene, [final_stage(nodes[node_id])]) if each != OUTPUT}
    return tuple(node.id for node in scene.nodes if node.id in found and not node.serves_as("seen"))


def keys_of_shot(scene: Scene, number: int) -> frozenset[KeyRef]:
    """The keys within a shot of its camera and what moves it, and those a little beyond its ends, up to which a move
    that is going at a cut reaches."""
    first, end = shot_range(scene, number)
    reach = _REACH * (end - first)
    return frozenset(
        KeyRef(node_id, channel.name, key.frame)
        for node_id in rig_of(scene, scene.shots[number].camera)
        for channel in scene.node(node_id).channels
        for key in channel.keys
        if first - reach - SAME_FRAME <= key.frame <= end + reach + SAME_FRAME
    )


def moving_at_cut(scene: Scene, number: int) -> Scene:
    """The cut at the beginning of a shot met in motion: the keys on either side are stretched about the middle of their
    shot, so that the one move ends after the cut and the other begins before it.

    SceneError where neither camera has keys to stretch.
    """
    _check_cut(scene, number)
    cut = scene.shots[number].first
    before = _moved_over(scene, number - 1, cut)
    after = _moved_over(before, number, cut)
    if after is scene:
        if any(len({ref.frame for ref in keys_of_shot(scene, each)}) > 1 for each in (number - 1, number)):
            raise SceneError("What has keys there is in motion at the cut already.")
        raise SceneError(
            f"Neither {scene.shots[number - 1].name} nor {scene.shots[number].name} has two keys to stretch."
        )
    return after


def _check_cut(scene: Scene, number: int) -> None:
    if not 0 < number < len(scene.shots):
        raise SceneError("There is no cut here: the first shot begins with the scene.")


def _moved_over(scene: Scene, number: int, cut: float) -> Scene:
    """A shot's move stretched so far that it crosses a cut at one of its ends."""
    refs = keys_of_shot(scene, number)
    low, high = extent(refs)
    if high - low < 1.0:
        return scene
    first, end = shot_range(scene, number)
    middle = 0.5 * (first + end)
    beyond = max(_LEAST, _BEYOND * (end - first))
    if cut > middle:
        wanted, now = cut + beyond, high
    else:
        wanted, now = cut - beyond, low
    if (wanted - middle) * (now - middle) <= 0.0 or abs(now - middle) >= abs(wanted - middle):
        return scene  # It is in motion there already.
    return stretch(scene, refs, middle, (wanted - middle) / (now - middle))[0]


def match_speed_at_cut(scene: Scene, number: int) -> Scene:
    """The keys of a shot stretched about its beginning until the picture slides as fast after the cut as before it.

    SceneError where one of the two stands still, or no stretch does it.
    """
    _check_cut(scene, number)
    shot, cut = scene.shots[number], scene.shots[number].first
    refs = keys_of_shot(scene, number)
    if len({ref.frame for ref in refs}) < 2:
        raise SceneError(f"{shot.name} has no two keys to stretch.")
    wanted = _speed(scene, cut - _STEADY)
    if not wanted > 0.5:
        raise SceneError(
            f"The picture stands still at the end of {scene.shots[number - 1].name}. Let it move at the cut first."
        )
    if not _speed(scene, cut + _STEADY) > 0.5:
        raise SceneError(f"The picture stands still at the beginning of {shot.name}. Let it move at the cut first.")

    def stretched(log_factor: float) -> Scene:
        return stretch(scene, refs, cut, float(np.exp(log_factor)))[0]

    def off(log_factor: float) -> float:
        return float(np.log(max(_speed(stretched(log_factor), cut + _STEADY), 1e-6) / wanted))

    best = _root(off)
    if abs(off(best)) > 0.02:
        raise SceneError(f"No stretch of {shot.name} makes the two speeds meet: the move is too short, or stops there.")
    return stretched(best)


def _root(off: Callable[[float], float]) -> float:
    """Where a function nearly vanishes, by the secant method from 0, within a factor of 8."""
    a, b = 0.0, 0.1
    fa, fb = off(a), off(b)
    best = min(((abs(fa), a), (abs(fb), b)))
    for _ in range(24):
        if abs(fb) < 1e-4 or fa == fb:
            break
        step = b - fb * (b - a) / (fb - fa)
        a, fa = b, fb
        b = float(np.clip(step, -2.08, 2.08))
        fb = off(b)
        best = min(best, (abs(fb), b))
    return best[1]


def _speed(scene: Scene, frame: float) -> float:
    """Of the subject, where there is one, else of the middle of the picture."""
    found = picture_speed(scene, np.array([frame]))
    middle, subject = float(found.middle[0]), float(found.subject[0])
    # What is aimed at stands still in the picture: then its surroundings tell.
    return middle if np.isfinite(middle) and not subject > middle else subject


def even_in_shot(scene: Scene, number: int) -> Scene:
    """One speed for the camera over a shot: along the way through its position keys, and from key to key of everything
    else that moves it. SceneError where it has no keys there."""
    refs = keys_of_shot(scene, number)
    if len({ref.frame for ref in refs}) < 2:
        raise SceneError(f"{scene.shots[number].name} has no two keys to even out.")
    others = frozenset(ref for ref in refs if ref.channel not in POSITION)
    scene = set_spans(scene, others, Linear()) if others else scene
    for node_id in {ref.node for ref in refs if ref.channel in POSITION}:
        low, high = extent([ref for ref in refs if ref.node == node_id and ref.channel in POSITION])
        if high - low >= 1.0:
            try:
                scene = even_speed(scene, node_id, low, high)
            except SceneError:
                continue  # It has keys, and goes nowhere between them.
    return scene
