"""Moves changed as a whole: mirrored, run backwards, stretched, and by halves. Pure functions of moves."""

from collections.abc import Callable, Sequence
from typing import Literal

import numpy as np
from msgspec.structs import replace

from ...motion import evaluate_channel
from ...motion.keys import affine, reversed_keys, stretched
from ...scene import Channel, Limiter, SceneError, SteadyRate, StepHold, Target, spec
from ...scene.channels import FOCAL, POSITION, ROTATION
from ...scene.movers import Mover
from ...scene.moves import Move, MoveMoment, MoveNode
from ...scene.specs import channel_or_default

_OTHER_WAY = (POSITION[0], ROTATION[1], ROTATION[2])
"""What changes its sign in a mirror that stands upright before the subject: Rx(a)·Ry(b)·Rz(c), in whatever order, seen
there is Rx(a)·Ry(−b)·Rz(−c)."""


_ON_BEAT = 0.1
"""Of a beat: a moment so near to one lay on it."""
_RESTS = {"start": 0.0, "middle": 0.5, "end": 1.0}
_BACKWARDS: dict[str, Literal["start", "middle", "end"]] = {"start": "end", "middle": "middle", "end": "start"}


def mirrored(move: Move) -> Move:
    """Left for right."""
    return replace(move, nodes=tuple(map(_mirrored, move.nodes)))


def _mirrored(node: MoveNode) -> MoveNode:
    names = {*_OTHER_WAY}
    for bind in node.binds:
        names |= {f"{bind.id}.{name}" for name in bind.other_way}
    channels = tuple(times(each, -1.0) if each.name in names else each for each in node.channels)
    movers = tuple(_mirrored_mover(each, names) for each in node.movers)
    return replace(node, channels=channels, movers=movers)


def _mirrored_mover(mover: Mover, names: set[str]) -> Mover:
    if mover.adds:
        turned = tuple(Target(each.channel, -each.amount) if each.channel in names else each for each in mover.targets)
        return replace(mover, targets=turned)
    if isinstance(mover, Limiter) and names.issuperset(mover.names):
        return replace(mover, low=-mover.high, high=-mover.low)
    return mover


def times(channel: Channel, factor: float) -> Channel:
    links = tuple(
        replace(each, out_low=each.out_low * factor, out_high=each.out_high * factor) for each in channel.links
    )
    return replace(channel, value=channel.value * factor, keys=affine(channel.keys, factor), links=links)


def reversed_(move: Move) -> Move:
    """From its end to its beginning."""

    def back(channel: Channel) -> Channel:
        if not channel.keys:
            return channel
        keys = reversed_keys(channel.keys)
        shift = move.frames - channel.keys[0].frame - channel.keys[-1].frame
        keys = tuple(replace(key, frame=key.frame + shift) for key in keys)
        return replace(channel, keys=keys, before=channel.after, after=channel.before)

    moments = tuple(MoveMoment(move.frames - each.frame, each.marker) for each in reversed(move.moments))
    made = _with_channels(move, back)
    return replace(made, moments=moments, rest=_BACKWARDS[move.rest])


def of_length(move: Move, frames: float) -> Move:
    """As long as so many of the scene's frames; movers keep their own time."""
    factor = frames / move.frames

    def slower(channel: Channel) -> Channel:
        return replace(channel, keys=stretched(channel.keys, 0.0, factor))

    made = _with_channels(move, slower)
    nodes = tuple(
        replace(node, movers=tuple(shifted_mover(each, factor, 0.0) for each in node.movers)) for node in made.nodes
    )
    moments = tuple(MoveMoment(each.frame * factor, each.marker) for each in move.moments)
    return replace(made, nodes=nodes, frames=frames, moments=moments)


def on_beats(move: Move, beats: Sequence[float]) -> Move:
    """As many beats long as it was kept, given their frames counted from its beginning: what lay on a beat does again,
    and what lies between goes along. SceneError where the move was not kept to beats, or there are too few."""
    count = round(move.beats or 0.0)
    if count < 1:
        raise SceneError(f"“{move.name}” was not kept to beats.")
    if len(beats) <= count:
        raise SceneError("There are not so many beats. Play ▸ Sound ▸ Find the beats finds them.")
    knots = {0.0: float(beats[0]), move.frames: float(beats[count])}
    for each in move.moments:
        number = round(each.frame / move.frames * count)
        if not each.marker and 0 < number < count and abs(each.frame / move.frames * count - number) < _ON_BEAT:
            knots[each.frame] = float(beats[number])
    before = np.array(sorted(knots))
    after = np.array([knots[each] for each in before.tolist()])

    def there(frame: float) -> float:
        if frame <= before[0] or frame >= before[-1]:
            # Beyond its ends, where only what springs and lags follow lies, at its mean pace.
            edge = 0 if frame <= before[0] else -1
            return float(after[edge] + (frame - before[edge]) * (after[-1] - after[0]) / (before[-1] - before[0]))
        return float(np.interp(frame, before, after))

    def moved(channel: Channel) -> Channel:
        keys = []
        for number, key in enumerate(channel.keys):
            factor = 1.0
            if number + 1 < len(channel.keys):
                end = channel.keys[number + 1].frame
                factor = (there(end) - there(key.frame)) / (end - key.frame)
            (slower,) = stretched((key,), key.frame, factor)
            keys.append(replace(slower, frame=there(key.frame)))
        return replace(channel, keys=tuple(keys))

    made = _with_channels(move, moved)
    length = float(after[-1] - after[0])
    nodes = tuple(_retimed(node, length / move.frames, 0.0) for node in made.nodes)
    moments = tuple(MoveMoment(max(there(each.frame), 0.0), each.marker) for each in move.moments)
    return replace(made, nodes=nodes, frames=length, moments=moments)


def begun_at(move: Move, frame: float) -> tuple[MoveNode, ...]:
    """A move's nodes with frame 0 where it begins in a scene."""

    def later(channel: Channel) -> Channel:
        return replace(channel, keys=tuple(replace(key, frame=key.frame + frame) for key in channel.keys))

    return tuple(_retimed(node, 1.0, frame) for node in _with_channels(move, later).nodes)


def _retimed(node: MoveNode, factor: float, by: float) -> MoveNode:
    return replace(node, movers=tuple(shifted_mover(each, factor, by) for each in node.movers))


def shifted_mover(mover: Mover, factor: float, by: float) -> Mover:
    """A mover with its own frames times a factor, and so many later."""
    fields = {name: value * factor + by for name in ("start", "end") if (value := getattr(mover, name)) is not None} | {
        name: getattr(mover, name) * factor for name in ("fade_in", "fade_out")
    }
    if isinstance(mover, SteadyRate | StepHold):
        fields["since"] = mover.since * factor + by
    return replace(mover, **fields)


def stronger(move: Move, strength: float) -> Move:
    """The way of everything that moves or turns times a strength, counted from where it rests; lens too, and what
    movers add."""
    if strength == 1.0:
        return move
    rest = move.frames * _RESTS[move.rest]

    def scaled(channel: Channel) -> Channel:
        if not channel.keys or not _is_way(channel.name):
            return channel
        stays = _value_at(channel, rest)
        return replace(channel, keys=affine(channel.keys, strength, stays * (1.0 - strength)))

    made = _with_channels(move, scaled)
    return replace(made, nodes=tuple(_livelier(node, strength) for node in made.nodes))


def _is_way(name: str) -> bool:
    return name in (*POSITION, *ROTATION, FOCAL) or name.startswith("dial.") or name.endswith((".off.x", ".off.y"))


def _livelier(node: MoveNode, strength: float) -> MoveNode:
    channels = {each.name: each for each in node.channels}
    for mover in node.movers:
        if mover.adds:
            own = channel_or_default(node, mover.strength)
            most = spec(node, mover.strength).high
            value = min(own.value * strength, most)
            channels[mover.strength] = replace(times(own, strength), value=value)
    return replace(node, channels=tuple(channels[name] for name in sorted(channels)))


def _with_channels(move: Move, change: Callable[[Channel], Channel]) -> Move:
    nodes = tuple(replace(node, channels=tuple(map(change, node.channels))) for node in move.nodes)
    return replace(move, nodes=nodes)


def _value_at(channel: Channel, frame: float) -> float:
    return float(evaluate_channel(channel, np.array([frame]))[0])
