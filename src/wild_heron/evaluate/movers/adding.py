"""Solvers of movers that add an offset: oscillator, rate, shake, impact."""

from zlib import crc32

import numpy as np

from ...arrays import Array
from ...motion.movers.waves import bursts, eased_in, treads, wave
from ...motion.noise import fractal_noise, gradient_noise, peaked
from ...motion.tempo import beat_frames, beat_numbers
from ...scene import Rate, Scene
from ...scene.channels import POSITION, ROTATION
from ...scene.dependencies import subscene, unmoved_scene
from ...scene.lookup import nodes_by_id
from ...scene.movers import LIFE, POSE, Impact, Oscillator, Shake, SteadyRate
from ...scene.moving import turns_about_aim
from ...sized_cache import cached_by_size
from ...space.rotation import multiply, quaternion_to_matrix, vector_to_quaternion
from ..binds.rolling import hits
from ..context import Evaluator, in_blocks
from ..events import crossings
from ..rows import rows
from .mover_case import MoverCase, Solvers, Values, weight_of
from .spaces import (
    aim_point,
    along,
    axes_of,
    is_aimed,
    own_axes,
    own_quaternion,
    stacked,
    turned_about,
    turned_to,
    with_columns,
)


def added(case: MoverCase, values: Values, offsets: Values) -> Values:
    """Values with offsets, each in its channel's unit, added along the axes of the mover's space."""
    plain = {name: value for name, value in offsets.items() if not case.mover.couples or name not in POSE}
    values = values | {name: values[name] + value for name, value in plain.items()}
    if not case.mover.couples:
        return values
    still = np.zeros(1)
    move = np.stack(rows(*(offsets.get(name, still) for name in POSITION)), axis=1)
    angles = np.radians(np.stack(rows(*(offsets.get(name, still) for name in ROTATION)), axis=1))
    for_places, for_turns = axes_of(case, values)
    turns, moves = (not set(offsets).isdisjoint(names) for names in (ROTATION, POSITION))
    if turns and turns_about_aim(case.mover):
        values = _about_aim(case, values, angles)
    elif turns and is_aimed(case.node):
        # An aim decides where it looks: only the roll is left to it.
        values = values | {ROTATION[2]: values[ROTATION[2]] + np.degrees(angles[:, 2])}
    elif turns:
        turned = multiply(*rows(vector_to_quaternion(along(for_turns, angles)), own_quaternion(case.node, values)))
        values = turned_to(case.node, values, turned)
    if moves:
        position, shift = rows(stacked(values, POSITION), along(for_places, move))
        values = with_columns(values, POSITION, position + shift)
    return values


def _about_aim(case: MoverCase, values: Values, angles: Array) -> Values:
    """The pose turned by angles (N, 3) about what it is aimed at, which stays where it is in the picture."""
    there, node = case.there, case.node
    point = aim_point(there, node, values)
    if point is None:
        point = stacked(values, POSITION)
    if not is_aimed(node):
        return turned_about(there, node, values, point, angles)
    # Its aim turns it after its place: only the roll is left to it.
    swing = vector_to_quaternion(along(own_axes(there, node, values), angles * np.array([1.0, 1.0, 0.0])))
    position, point, matrix = rows(stacked(values, POSITION), point, quaternion_to_matrix(swing))
    values = with_columns(values, POSITION, point + along(matrix, position - point))
    return values | {ROTATION[2]: values[ROTATION[2]] + np.degrees(angles[:, 2])}


def _beats(case: MoverCase) -> Array:
    scene = case.there.scene
    return beat_numbers(scene.beats, scene.settings.rate, case.there.frames)


def oscillated(case: MoverCase, values: Values) -> Values:
    mover: Oscillator = case.mover
    time = _beats(case) if mover.per == "beats" else case.seconds
    swing = mover.low + (mover.high - mover.low) * wave(mover.wave, time / mover.period + mover.phase)
    return added(case, values, {name: mover.amount(name) * swing * case.weight for name in case.names})


def drifted(case: MoverCase, values: Values) -> Values:
    mover: SteadyRate = case.mover
    rate = case.there.scene.settings.rate
    gone = eased_in((case.there.frames - mover.since) / rate.fps, mover.ease_in)
    if mover.per == "beats":
        # As many beats as would have gone by at a full rate from when that much time was left.
        start = np.full(len(gone), mover.since)
        beats = case.there.scene.beats
        gone = beat_numbers(beats, rate, start + gone * rate.fps) - beat_numbers(beats, rate, start)
    return added(case, values, {name: mover.amount(name) * gone * case.weight for name in case.names})


# Shake


def shaken(case: MoverCase, values: Values) -> Values:
    """Noise less its mean over the scene, weighted as the mover counts there: so what is added has no mean."""
    mover: Shake = case.mover
    means = _means_of(case)
    offsets = {}
    for name, mean in zip(case.names, means, strict=True):
        noise = _noise(mover, name, case.seconds) - mean
        offsets[name] = mover.amount(name) * noise * case.weight
    return added(case, values, offsets)


def _noise(mover: Shake, name: str, seconds: Array) -> Array:
    seed = mover.seed * 65_599 + crc32(name.encode()) % 1_000_003
    noise = fractal_noise(seconds, seed, mover.period, mover.octaves, mover.persistence, mover.loop)
    noise = peaked(noise, mover.peakiness)
    if mover.stride and mover.tread:
        stride = mover.stride
        if mover.loop:
            stride = mover.loop / (2.0 * max(1, round(mover.loop / (2.0 * stride))))
        # No two steps are alike: a quarter of a step earlier or later.
        cells = max(1, round(mover.loop / (4.0 * stride))) if mover.loop else 0
        unit = mover.loop / cells if cells else 4.0 * stride
        uneven = 0.25 * stride * gradient_noise(seconds / unit, mover.seed * 65_599, cells)
        bob, sway = treads(seconds + uneven, stride)
        noise = noise + mover.tread * (bob if name in _BOBS else sway if name in _SWAYS else 0.0)
    return noise


_BOBS = ("position.y", "rotation.x", "aim.off.y")
_SWAYS = ("position.x", "rotation.z", "rotation.y", "aim.off.x")


def _means_of(case: MoverCase) -> tuple[float, ...]:
    """The weighted mean over the scene of the noise of each channel that the mover acts on."""
    there, mover = case.there, case.mover
    settings = there.scene.settings
    alike = Shake(
        seed=mover.seed, period=mover.period, octaves=mover.octaves, persistence=mover.persistence,
        peakiness=mover.peakiness, loop=mover.loop, stride=mover.stride, tread=mover.tread,
    )  # fmt: skip
    span = (settings.first, settings.last, settings.rate)
    if mover.start is None and mover.end is None and not any(map(case.node.is_animated, (mover.strength, LIFE))):
        return tuple(_plain_mean(alike, name, *span) for name in case.names)
    scene = unmoved_scene(there.scene, case.node.id, (mover.strength, LIFE), case.number + 1)
    weights = _weights(there.evaluator, scene, case.node.id, case.number)
    return tuple(_weighted_mean(alike, name, *span, weights) for name in case.names)


@cached_by_size
def _plain_mean(mover: Shake, name: str, first: int, last: int, rate: Rate) -> float:
    return float(_noise(mover, name, np.arange(first, last + 1.0) / rate.fps).mean())


@cached_by_size
def _weighted_mean(mover: Shake, name: str, first: int, last: int, rate: Rate, weights: bytes) -> float:
    weight = np.frombuffer(weights)
    total = float(weight.sum())
    if total == 0.0:
        return 0.0
    return float((_noise(mover, name, np.arange(first, last + 1.0) / rate.fps) * weight).sum()) / total


@cached_by_size
def _weights(evaluator: Evaluator, scene: Scene, node_id: str, number: int) -> bytes:
    """How much a mover counts on each frame of a scene, as bytes, which can be part of a cache's key."""
    node = nodes_by_id(scene)[node_id]
    mover = node.movers[number]
    frames = np.arange(scene.settings.first, scene.settings.last + 1.0)
    (weight,) = in_blocks(evaluator, scene, frames, [], lambda there: (weight_of(there, node, mover),))
    return weight.tobytes()


# Impacts


def struck(case: MoverCase, values: Values) -> Values:
    mover: Impact = case.mover
    fps = case.there.scene.settings.rate.fps
    at = np.array(impacts(case)) / fps
    offsets = {}
    for name in case.names:
        # Which way first, and up to a third weaker, as chance has it: by the moment, so that no other changes it.
        chance = gradient_noise(at * 7.31 + 0.5, mover.seed * 65_599 + crc32(name.encode()) % 1_000_003)
        way = np.where(chance >= 0.0, 1.0, -1.0) if mover.seed else np.ones(len(at))
        height = 1.0 - np.minimum(np.abs(chance), 1.0) / 3.0 if mover.seed else np.ones(len(at))
        swing = bursts(case.seconds, at, height, mover.half_life, mover.speed, way)
        offsets[name] = mover.amount(name) * swing * case.weight
    return added(case, values, offsets)


def impacts(case: MoverCase) -> tuple[float, ...]:
    """The frames at which an impact comes, in order."""
    there, mover = case.there, case.mover
    scene = there.scene
    if mover.when == "beats":
        first, last = float(scene.settings.first), float(scene.settings.last)
        return tuple(beat_frames(scene.beats, scene.settings.rate, first, last)[0].tolist())
    if mover.when == "marker":
        return tuple(each.frame for each in scene.markers if not mover.name or each.name == mover.name)
    if mover.when == "event":
        event = next((each for each in scene.events if each.name == mover.name), None)
        return () if event is None else crossings(there.evaluator, scene, event.when)
    if mover.node is None:
        return ()
    node = there.node(mover.node)
    needed = subscene(scene, ((node.id, len(node.binds)),))
    return hits(there.evaluator, needed, node.id, mover.least)


SOLVERS: Solvers = {Oscillator: oscillated, SteadyRate: drifted, Shake: shaken, Impact: struck}
