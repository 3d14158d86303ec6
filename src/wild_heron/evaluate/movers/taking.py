"""A take in use: its motion at a node's frames, mixed with what the keys come to."""

from functools import lru_cache

import numpy as np

from ...arrays import Array
from ...motion.takes.sampling import between, unrolled
from ...scene import TAKE_STRENGTH, TURN, AnyNode, Take, TakeUse
from ...scene.channels import POSITION, ROTATION
from ...space.rotation import euler_to_quaternion, multiply, quaternion_to_matrix, slerp
from ..binds.rows import rows
from ..binds.surroundings import Surroundings
from .case import Values
from .spaces import along, own_quaternion, stacked, turned_to


def with_take(there: Surroundings, node: AnyNode, values: Values) -> Values:
    """The values with those of the node's take in their place, as far as its strength goes."""
    use = node.take
    assert use is not None
    strength = there.number(node, TAKE_STRENGTH.name)
    if len(strength) == 1 and strength[0] == 0.0:
        return values
    take = next(each for each in there.scene.takes if each.id == use.take)
    seconds = take_seconds(take, use, there.frames, there.scene.settings.rate.fps)
    out = dict(values)
    moved = [name for name in POSITION if name in values and name in use.channels]
    if moved:
        place = placed(take, use, seconds, node.rotation_order)
        for name in moved:
            k = POSITION.index(name)
            out[name] = values[name] + (place[:, k] - values[name]) * strength
    if set(ROTATION) <= values.keys() and set(use.channels) & set(ROTATION):
        out |= _turned(take, use, seconds, node, values, strength)
    for name in use.channels:
        if name in values and name not in POSITION and name not in ROTATION:
            out[name] = values[name] + (between(take, (name,), seconds)[:, 0] - values[name]) * strength
    return out


def take_seconds(take: Take, use: TakeUse, frames: Array, fps: float) -> Array:
    """The times (N,) of a take at frames, in its own seconds; before its first sample and after its last it stays."""
    times = take.times
    return np.clip(times[0] + (frames - use.start) / fps * use.speed, times[0], times[-1])


def placed(take: Take, use: TakeUse, seconds: Array, order: str) -> Array:
    """Where a take is (N, 3), moved, turned and scaled as a whole."""
    position = between(take, POSITION, seconds) * use.size
    if any(use.turn):
        matrix = quaternion_to_matrix(euler_to_quaternion(np.radians([use.turn]), order))[0]
        position = along(matrix[None], position)
    return position + np.array(use.move)


def turns_of(take: Take, use: TakeUse, seconds: Array, order: str) -> Array:
    """How a take is turned (N, 4), as a whole too."""
    own = between(take, TURN, seconds)
    if not any(use.turn):
        return own
    return multiply(*rows(euler_to_quaternion(np.radians([use.turn]), order), own))


def _turned(take: Take, use: TakeUse, seconds: Array, node: AnyNode, values: Values, strength: Array) -> Values:
    """Rotation channels that run on without jumps, however the frames are asked for: near what the take's own angles
    come to, counted on from its first sample."""
    taken = turns_of(take, use, seconds, node.rotation_order)
    angles = _angles(take, use.turn, node.rotation_order)
    near = np.stack([np.interp(seconds, take.times, angles[:, k]) for k in range(3)], axis=1)
    given = {name: near[:, k] for k, name in enumerate(ROTATION)}
    if not (strength == 1.0).all():
        own_turn, taken = rows(own_quaternion(node, values), taken)
        mixed = slerp(own_turn, taken, np.broadcast_to(strength, seconds.shape))
        share = strength[:, None]
        own, wide = rows(stacked(values, ROTATION), near)
        near = own + (wide - own) * share
        given = {name: near[:, k] for k, name in enumerate(ROTATION)}
        taken = mixed
    made = turned_to(node, given, taken)
    return {name: made[name] for name in ROTATION if name in use.channels}


@lru_cache(maxsize=64)
def _angles(take: Take, turn: tuple[float, float, float], order: str) -> Array:
    """Angles in degrees (N, 3) at the samples of a take, without jumps."""
    own = take.column(*TURN)
    if any(turn):
        own = multiply(*rows(euler_to_quaternion(np.radians([turn]), order), own))
    return unrolled(own, order)
