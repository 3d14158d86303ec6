"""Applies a take to a node: its samples at the node's frames, blended with the keys."""

import numpy as np

from ...arrays import Array
from ...motion.takes.sampling import between, unrolled
from ...scene import TAKE_STRENGTH, TURN, AnyNode, Scene, Take, TakeUse
from ...scene.channels import POSITION, ROTATION
from ...scene.dependencies import stages_of_channels, unmoved_scene
from ...sized_cache import cached_by_size
from ...space.rotation import euler_to_quaternion, multiply, quaternion_to_matrix
from ...space.turning import Ways, even_frames, ways_over
from ..context import EvaluationContext, Evaluator, in_blocks
from ..rows import rows
from .mover_case import Values
from .spaces import along, own_quaternion, turned_to


def with_take(there: EvaluationContext, node: AnyNode, values: Values) -> Values:
    """The values with those of the node's take in their place, as far as its strength goes."""
    use = node.take
    assert use is not None
    strength = there.number(node, TAKE_STRENGTH.name)
    if len(strength) == 1 and strength[0] == 0.0:
        return values
    take = next(each for each in there.scene.takes if each.id == use.take)
    seconds = take_seconds(take, use, there.frames, there.scene.settings.rate.fps)
    own, out = values, dict(values)
    moved = [name for name in POSITION if name in values and name in use.channels]
    if moved:
        place = placed(take, use, seconds, node.rotation_order)
        for name in moved:
            k = POSITION.index(name)
            out[name] = values[name] + (place[:, k] - values[name]) * strength
    if set(ROTATION) <= values.keys() and set(use.channels) & set(ROTATION):
        out |= _turned(there, take, use, seconds, node, values, strength)
    for name in use.channels:
        if name in values and name not in POSITION and name not in ROTATION:
            out[name] = values[name] + (between(take, (name,), seconds)[:, 0] - values[name]) * strength
    # Where it does not count nothing is changed, to the last bit.
    return {name: np.where(strength == 0.0, own[name], value) for name, value in out.items()}


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


def _turned(
    there: EvaluationContext, take: Take, use: TakeUse, seconds: Array, node: AnyNode, values: Values, strength: Array
) -> Values:
    """Rotation channels that run on without jumps, however the frames are asked for: near what the angles come to that
    are counted on from the first moment."""
    turned = turns_of(take, use, seconds, node.rotation_order)
    if not node.is_animated(TAKE_STRENGTH.name) and strength[0] == 1.0:
        times, angles, at = take.times, _angles(take, use.turn, node.rotation_order), seconds
    else:
        scene = unmoved_scene(there.scene, node.id, (*ROTATION, TAKE_STRENGTH.name), 0)
        ways, times, angles = _ways(there.evaluator, scene, node.id, use)
        own, turned = rows(own_quaternion(node, values), turned)
        turned = _mixed(ways, there.frames, own, turned, np.broadcast_to(strength, seconds.shape))
        at = there.frames
    near = {name: np.interp(at, times, angles[:, k]) for k, name in enumerate(ROTATION)}
    made = turned_to(node, near, turned)
    return {name: made[name] for name in ROTATION if name in use.channels}


def _mixed(ways: Ways, frames: Array, own: Array, taken: Array, strength: Array) -> Array:
    made = ways.at(frames, own, taken, strength)
    return np.where((strength == 1.0)[:, None], taken, np.where((strength == 0.0)[:, None], own, made))


@cached_by_size
def _ways(evaluator: Evaluator, scene: Scene, node_id: str, use: TakeUse) -> tuple[Ways, Array, Array]:
    """How a node's keys go over into its take where both count, told in the middle of the take; and frames (M,) with
    the angles in degrees (M, 3) that this comes to, without jumps."""
    node = scene.node(node_id)
    take = next(each for each in scene.takes if each.id == use.take)
    settings = scene.settings
    stages = stages_of_channels(scene).get(node_id, ())

    def read(there: EvaluationContext) -> tuple[Array, ...]:
        own = own_quaternion(node, {name: there.unmoved(node, name) for name in ROTATION})
        return own, there.number(node, TAKE_STRENGTH.name)

    def both(frames: Array) -> tuple[Array, Array]:
        seconds = take_seconds(take, use, frames, settings.rate.fps)
        own, _ = in_blocks(evaluator, scene, frames, stages, read)
        return own, turns_of(take, use, seconds, node.rotation_order)

    def strength(frames: Array) -> Array:
        return in_blocks(evaluator, scene, frames, stages, read)[1]

    end = use.start + take.seconds * settings.rate.fps / use.speed
    first, last = min(settings.first - 1.0, use.start), max(settings.last + 1.0, end)
    ways = ways_over(both, strength, first, last, (use.start, end))
    frames = even_frames(first, last)
    made = _mixed(ways, frames, *both(frames), strength(frames))
    return ways, frames, unrolled(made, node.rotation_order)


@cached_by_size
def _angles(take: Take, turn: tuple[float, float, float], order: str) -> Array:
    """Angles in degrees (N, 3) at the samples of a take, without jumps."""
    own = take.column(*TURN)
    if any(turn):
        own = multiply(*rows(euler_to_quaternion(np.radians([turn]), order), own))
    return unrolled(own, order)
