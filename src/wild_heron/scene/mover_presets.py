"""Mover presets: a new mover of each kind fitted to a node, and sets named for what they feel like."""

from collections.abc import Callable

import msgspec

from .channels import ACROSS, FOCAL, OPACITY, POSITION, ROLL, ROTATION, UP
from .movers import (
    Impact,
    Limiter,
    Mover,
    NamedMovers,
    Oscillator,
    Shake,
    SteadyRate,
    Target,
)
from .nodes import AnyNode
from .specs import specs

_CALM = 0.01
"""What a calm hand does to the angle of a lens is about half a degree: as a share of half the picture, this."""


def new_mover(kind: type[Mover], node: AnyNode) -> Mover:
    """A mover of a kind that does something to a node as it is: by default to and fro where it adds, and to what is
    keyed where it does not."""
    make = _NEW.get(kind)
    if make is None:
        targets = _swayed_targets(node, 0.15, 3.0) if kind.adds else _followed(node)
        return _fitted(kind(targets=targets), node)
    return _fitted(make(node), node)


_FLAT = dict(zip((*POSITION[:2], ROTATION[2]), (ACROSS, UP, ROLL), strict=True))
"""What a window has in place of a place in space."""
_SHARES = 0.1
"""Of the picture, for a unit of a way."""


def _fitted(mover: Mover, node: AnyNode) -> Mover:
    """The same for what is nowhere in space: across, up and roll in the picture."""
    if node.placed:
        return mover
    targets = []
    for each in mover.targets:
        name = _FLAT.get(each.channel)
        if name is not None:
            share = _SHARES if mover.adds and name != ROLL else 1.0
            targets.append(Target(name, each.amount * share))
        elif each.channel not in (*POSITION, *ROTATION):
            targets.append(each)
    return msgspec.structs.replace(mover, targets=tuple(targets) or (Target(UP, _SHARES),))


def keyed_channels(node: AnyNode) -> tuple[str, ...]:
    """The channels of a node that have keys, of its pose first; position where none has."""
    keyed = [each.name for each in node.channels if len(each.keys) > 1]
    order = {name: k for k, name in enumerate((*POSITION, *ROTATION))}
    own = [name for name in keyed if name.partition(".")[0] not in {mover.id for mover in node.movers}]
    return tuple(sorted(own, key=lambda name: order.get(name, 99))) or (POSITION if node.placed else (ACROSS, UP))


def _targets(*pairs: tuple[str, float]) -> tuple[Target, ...]:
    return tuple(Target(name, amount) for name, amount in pairs)


def _is_aimed(node: AnyNode) -> bool:
    return node.aim is not None and node.aim.on


def _swayed(node: AnyNode) -> str:
    """The channel in which a to and fro shows most."""
    if node.kind == "null":
        return ROTATION[1]
    return POSITION[1]


def _swayed_targets(node: AnyNode, units: float, degrees: float) -> tuple[Target, ...]:
    name = _swayed(node)
    return _targets((name, degrees if name in ROTATION else units))


def _followed(node: AnyNode) -> tuple[Target, ...]:
    return tuple(Target(name) for name in keyed_channels(node))


def _limiter(node: AnyNode) -> Mover:
    name = keyed_channels(node)[0]
    channel = node.channel(name)
    values = [key.value for key in channel.keys] if channel is not None and channel.keys else [-1.0, 1.0]
    low, high = min(values), max(values)
    room = 0.1 * max(high - low, 0.5)
    return Limiter(targets=(Target(name),), low=low - room, high=high + room, soft=room)


def _impact(node: AnyNode) -> Mover:
    """Across and up in the picture of a camera that is aimed, else as turns; of anything else in its height."""
    if node.serves_as("lens"):
        return Impact(targets=_hand(node, 4.0))
    return Impact(targets=_targets((POSITION[1], 0.3)))


_NEW: dict[type, Callable[[AnyNode], Mover]] = {
    Oscillator: lambda node: Oscillator(targets=_swayed_targets(node, 0.15, 3.0), period=6.0),
    SteadyRate: lambda node: SteadyRate(targets=_swayed_targets(node, 0.2, 6.0), ease_in=1.0),
    Shake: lambda node: calm_hand(node)[0],
    Limiter: _limiter,
    Impact: _impact,
}


# What they feel like


def _hand(node: AnyNode, strength: float) -> tuple[Target, ...]:
    """How a held lens trembles: where it is aimed, it is the picture that goes across and up."""
    if not node.serves_as("lens"):
        return _targets(*((name, 0.03 * strength) for name in POSITION), *((name, 0.4 * strength) for name in ROTATION))
    if _is_aimed(node):
        aim = node.aim
        assert aim is not None
        off = (f"{aim.id}.off.x", f"{aim.id}.off.y")
        return _targets((off[0], _CALM * strength), (off[1], _CALM * strength), (ROTATION[2], 0.15 * strength))
    return _targets((ROTATION[0], 0.3 * strength), (ROTATION[1], 0.35 * strength), (ROTATION[2], 0.15 * strength))


def _moves(amounts: tuple[float, float, float]) -> tuple[Target, ...]:
    return _targets(*zip(POSITION, amounts, strict=True))


def _held(node: AnyNode, strength: float, moves: tuple[float, float, float]) -> tuple[Target, ...]:
    """The same with the moves of the hand itself."""
    own = _hand(node, strength)
    return (*own, *_moves(moves)) if node.serves_as("lens") else own


def calm_hand(node: AnyNode) -> tuple[Mover, ...]:
    return (Shake(targets=_held(node, 1.0, (0.03, 0.02, 0.02)), period=2.2, octaves=3, persistence=0.4),)


def walk(node: AnyNode) -> tuple[Mover, ...]:
    return (
        Shake(
            targets=(*_moves((0.05, 0.06, 0.02)), Target(ROTATION[2], 0.35)),
            period=1.6, octaves=3, persistence=0.45, stride=0.52, tread=1.2, seed=2,
        ),
    )  # fmt: skip


def vehicle(node: AnyNode) -> tuple[Mover, ...]:
    return (
        Shake(
            targets=(*_moves((0.02, 0.05, 0.01)), Target(ROTATION[2], 0.25)),
            period=0.7, octaves=4, persistence=0.55, peakiness=1.6, seed=3,
        ),
        Oscillator(targets=_targets((POSITION[1], 0.03), (ROTATION[2], 0.3)), period=3.4),
    )  # fmt: skip


def storm(node: AnyNode) -> tuple[Mover, ...]:
    return (
        Shake(
            targets=_held(node, 5.0, (0.2, 0.16, 0.1)),
            period=0.9, octaves=5, persistence=0.6, peakiness=1.4, seed=4,
        ),
        Oscillator(targets=_targets((ROTATION[2], 1.6)), period=5.0, phase=0.2),
    )  # fmt: skip


def breath(node: AnyNode) -> tuple[Mover, ...]:
    return (Oscillator(targets=_targets((POSITION[1], 0.06), (ROTATION[2], 0.2)), period=4.6),)


def flicker(node: AnyNode) -> tuple[Mover, ...]:
    """Of a lantern: what shows or shines comes and goes."""
    known = next((name for name in ("light.strength", OPACITY, FOCAL) if name in specs(node)), POSITION[1])
    amount = {"light.strength": 0.4, OPACITY: 0.25, FOCAL: 0.5}.get(known, 0.05)
    return (Shake(targets=_targets((known, amount)), period=0.35, octaves=3, persistence=0.7, peakiness=1.2, seed=6),)


MOVER_PRESETS: dict[str, Callable[[AnyNode], tuple[Mover, ...]]] = {
    "Calm hand": calm_hand,
    "Walk": walk,
    "Vehicle": vehicle,
    "Storm": storm,
    "Breath": breath,
    "Lantern flicker": flicker,
}


def mover_preset(name: str, node: AnyNode) -> NamedMovers:
    """One of the starting points, for a node."""
    return NamedMovers(name, tuple(_fitted(each, node) for each in MOVER_PRESETS[name](node)))
