"""Overshoot only where keys stop: finds stops and jumps of key curves, and adds the swing after them."""

from functools import lru_cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...arrays import Array, ascending
from ...motion.curve import Curve
from ...motion.movers.springs import SpringMotion, swing_height, swung_on
from ...motion.sides import sides, slopes_at
from ...scene import AnyNode, Channel, Scene, SceneError
from ...scene.channels import POSITION, ROTATION
from ...scene.dependencies import final_stage, subscene
from ...scene.movers import POSE, Overshoot
from ...sized_cache import cached_by_size
from ...space.rotation import (
    conjugate,
    euler_rates_to_spin,
    euler_to_quaternion,
    multiply,
    quaternion_to_vector,
    vector_to_quaternion,
)
from ...space.transform import invert, rigid
from ..context import Evaluator, in_blocks
from ..rows import rows
from .mover_case import MoverCase, Values
from .spaces import along, own_quaternion, stacked, turned_to, with_columns

_MOST_LOOPED = 5_000
_STILL = 1e-9
_SAMPLES = np.arange(1, 9) / 9.0


class Stops(NamedTuple):
    """Frames (K,) at which a channel's keys come to a stop; by how much they jump there, how fast they arrive (in
    values a frame, ±∞ where vertical), and how far they went that way since they last turned, (K,) each."""

    frames: Array
    jumps: Array
    speeds: Array
    rises: Array

    def let_go(self, law: SpringMotion, bounce: float, fps: float) -> tuple[Array, Array]:
        """How far (K,) from the stop a spring that was carried along is let go, and how fast in values a second.

        A jump it has not followed. It goes on as fast as it came, but no farther than ``bounce`` of the rise: a spring
        that follows a rise by itself never overshoots it by more than a step of its height.
        """
        most = bounce * self.rises / swing_height(law)
        return -self.jumps, np.sign(self.speeds) * np.minimum(np.abs(self.speeds) * fps, most)


_NONE = Stops(*np.zeros((4, 0)))


@lru_cache(maxsize=4096)
def stops(channel: Channel | None) -> Stops:
    """A key is a stop where its value jumps, and where from it on it stands still, or goes slower than a hundredth of
    how it arrived."""
    if channel is None or len(channel.keys) < 2:
        return _NONE
    keys = channel.keys
    near = sides(keys)
    out = near.out.copy()
    out[-1] = 0.0 if channel.after == "hold" else near.into[-1]
    jumps = near.after - near.before
    steps = np.abs(jumps) > _STILL * np.maximum(np.abs(near.after), np.abs(near.before))
    with np.errstate(invalid="ignore"):
        lands = (np.abs(near.into) > _STILL) & (np.abs(out) <= 0.01 * np.abs(near.into)) & np.isfinite(out)
    lands[0] = steps[0] = False
    at = np.flatnonzero(lands | steps)
    if not len(at):
        return _NONE
    frames = np.array([key.frame for key in keys])
    # What is not a stop but a jump goes on as it came.
    speeds = np.where(lands, near.into - np.where(np.isfinite(out), out, 0.0), 0.0)
    return Stops(frames[at], np.where(steps, jumps, 0.0)[at], speeds[at], _rises(channel, frames, steps, at))


def _rises(channel: Channel, frames: Array, jumps: NDArray[np.bool_], at: NDArray[np.intp]) -> Array:
    """How far a curve went one way, without a turn or a jump, up to some keys (K,), by number."""
    near = sides(channel.keys)
    inside = frames[:-1, None] + np.diff(frames)[:, None] * _SAMPLES
    values = Curve(channel.keys)(inside.ravel()).reshape(inside.shape)
    gone = np.diff(np.concatenate([near.after[:-1, None], values, near.before[1:, None]], axis=1), axis=1)
    ways = np.sign(gone)
    turns = np.ones(gone.shape, dtype=bool)
    turns[:, 1:] = ways[:, 1:] != ways[:, :-1]
    turns[1:, 0] = (ways[1:, 0] != ways[:-1, -1]) | jumps[1:-1]
    starts, ends = np.flatnonzero(turns), at * gone.shape[1]
    first = starts[np.searchsorted(starts, ends - 1, side="right") - 1]
    total = np.concatenate([[0.0], np.cumsum(gone)])
    return np.asarray(np.abs(total[ends] - total[first]))


def swung(case: MoverCase, values: Values, law: SpringMotion) -> Values:
    """The values of a mover's channels with what swings on after their keys stopped."""
    mover: Overshoot = case.mover
    found = {name: stops(case.node.channel(name)) for name in case.names}
    for each in found.values():
        if mover.loop and len(each.frames) > _MOST_LOOPED:
            most = f"a loop of an overshoot takes up to {_MOST_LOOPED}."
            raise SceneError(f"its keys stop {len(each.frames)} times; {most}")
    in_world = mover.space == "world"
    made = {}
    fps = case.there.scene.settings.rate.fps
    for name, each in found.items():
        if not (in_world and name in POSE):
            let_go = each.let_go(law, mover.bounce, fps)
            made[name] = values[name] + swung_on(law, case.seconds, each.frames / fps, *let_go, mover.loop)
    if in_world and not set(case.names).isdisjoint(POSE):
        made |= _swung_in_world(case, values, law, {name: found[name] for name in case.names if name in POSE})
    return made


def _swung_in_world(case: MoverCase, values: Values, law: SpringMotion, found: dict[str, Stops]) -> Values:
    """The same of place and turn, along the way that it went in the world, whatever the carrier does afterwards."""
    mover, node, fps = case.mover, case.node, case.there.scene.settings.rate.fps
    at = ascending(np.concatenate([each.frames for each in found.values()]))
    if not len(at):
        return {name: values[name] for name in found}
    apart, speeds = np.zeros((2, len(at), 6))
    for name, each in found.items():
        k = POSE.index(name)
        numbers = np.searchsorted(at, each.frames)
        apart[numbers, k], speeds[numbers, k] = each.let_go(law, mover.bounce, fps)
    angles = np.stack([_keyed(node, name, at) for name in ROTATION], axis=1)
    moves = apart[:, :3], speeds[:, :3]
    turns = _as_turns(apart[:, 3:], speeds[:, 3:], angles, node.rotation_order)
    there = _carried(case, at)

    def total(let_go: tuple[Array, Array], axes: Array) -> Array:
        far, fast = (along(axes, each) for each in let_go)
        columns = [swung_on(law, case.seconds, at / fps, far[:, k], fast[:, k], mover.loop) for k in range(3)]
        return np.stack(columns, axis=1)

    move, spin = total(moves, there[:, :3, :3]), total(turns, rigid(there)[:, :3, :3])
    if node.carrier is not None:
        pose = case.there.pose_of(node.carrier)
        move = along(invert(pose)[:, :3, :3], move)
        spin = along(np.swapaxes(rigid(pose)[:, :3, :3], 1, 2), spin)
    position, move = rows(stacked(values, POSITION), move)
    made = with_columns(values, POSITION, position + move)
    if not set(found).isdisjoint(ROTATION):
        made = turned_to(node, made, multiply(*rows(vector_to_quaternion(spin), own_quaternion(node, values))))
    return {name: made[name] for name in found}


def _keyed(node: AnyNode, name: str, frames: Array) -> Array:
    channel = node.channel(name)
    if channel is None:
        return np.zeros(len(frames))
    return Curve(channel.keys)(frames) if channel.keys else np.full(len(frames), channel.value)


def _as_turns(apart: Array, speeds: Array, angles: Array, order: str) -> tuple[Array, Array]:
    """Angles apart and angular speeds (K, 3) in degrees, at angles (K, 3), as axis times angle in radians (K, 3)."""
    here = np.radians(angles)
    off = multiply(
        euler_to_quaternion(here + np.radians(apart), order),
        conjugate(euler_to_quaternion(here, order)),
    )
    return quaternion_to_vector(off), euler_rates_to_spin(here, np.radians(speeds), order)


def _carried(case: MoverCase, frames: Array) -> Array:
    """World matrices of the node's carrier at frames (K,): (K, 4, 4), or (1, 4, 4) without one."""
    carrier = case.node.carrier
    if carrier is None:
        return np.eye(4)[None]
    scene = case.before()
    stage = final_stage(scene.node(carrier))
    return _world_at(case.there.evaluator, subscene(scene, (stage,)), carrier, frames.tobytes())


@cached_by_size
def _world_at(evaluator: Evaluator, scene: Scene, node_id: str, frames: bytes) -> Array:
    stage = final_stage(scene.node(node_id))
    (found,) = in_blocks(evaluator, scene, np.frombuffer(frames), [stage], lambda there: (there.pose_of(node_id),))
    return found


def nothing_to_swing(node: AnyNode, mover: Overshoot) -> tuple[str, ...]:
    """The channels on which an overshoot has nothing left to swing: their last key lands softly. Those that have no
    keys to land, or do not change, are left out."""
    soft = []
    for name in mover.names:
        channel = node.channel(name)
        if channel is None or len(channel.keys) < 2 or channel.after != "hold":
            continue
        left, right = channel.keys[-2], channel.keys[-1]
        change = abs(right.value - left.value)
        near = sides(channel.keys)
        if change < _STILL or abs(near.after[-1] - near.before[-1]) > 0.05 * change:
            continue
        even = change / (right.frame - left.frame)
        if abs(slopes_at(channel.keys, len(channel.keys) - 1)[0]) < 0.05 * even:
            soft.append(name)
    return tuple(soft)
