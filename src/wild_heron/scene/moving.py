"""Which channels a node's movers and take affect, and what those depend on."""

from functools import lru_cache

from .channels import FOCUS, ROTATION
from .inputs import ChannelRef
from .movers import LIFE, POSE, Impact, Mover, Shake
from .nodes import AnyNode
from .takes import TAKE_STRENGTH, TakeUse


def is_moved(node: AnyNode, name: str) -> bool:
    """Whether a mover or a take may make another value of a channel than its keys have."""
    return bool(node.movers or node.take) and name in _groups_of(node)


def may_change(node: AnyNode, name: str) -> bool:
    """Whether a channel may change over time: by its keys, what drives it, movers or a take."""
    return node.is_animated(name) or is_moved(node, name)


def moved_channels(node: AnyNode) -> tuple[str, ...]:
    """All such channels of the node."""
    return tuple(_groups_of(node)) if node.movers or node.take else ()


def group_of(node: AnyNode, name: str) -> tuple[str, ...]:
    """The channels that are worked out together with a moved one, itself among them."""
    return _groups_of(node)[name]


@lru_cache(maxsize=4096)
def _groups_of(node: AnyNode) -> dict[str, tuple[str, ...]]:
    driven = frozenset(channel.name for channel in node.channels if channel.has_inputs)
    return _groups(node.movers, node.take, driven)


@lru_cache(maxsize=4096)
def _groups(movers: tuple[Mover, ...], take: TakeUse | None, driven: frozenset[str]) -> dict[str, tuple[str, ...]]:
    """Every moved channel, and those that are worked out together with it: because they have to be, or, where nothing
    else drives them, because it takes less time."""
    active = [each for each in movers if each.on]
    names = dict.fromkeys(name for each in active for name in each.names)
    used = take if take is not None and take.on else None
    if used is not None:
        names |= dict.fromkeys(used.channels)
    together: tuple[str, ...] = ()
    if any(each.couples for each in active):
        together = POSE
    elif used is not None and not set(used.channels).isdisjoint(ROTATION):
        together = ROTATION
    groups: dict[str, tuple[str, ...]] = {name: (name,) for name in names if name not in together}
    alike: dict[tuple[str, ...], list[str]] = {}
    for name in groups:
        if name not in driven and not (used is not None and name in used.channels):
            alike.setdefault(tuple(each.id for each in active if name in each.names), []).append(name)
    for members in map(tuple, alike.values()):
        groups |= dict.fromkeys(members, members)
    return groups | dict.fromkeys(together, together)


def consulted(node: AnyNode, group: tuple[str, ...]) -> tuple[ChannelRef, ...]:
    """The channels of the node that say how much, and about what, a group of channels is moved."""
    movers = [each for each in node.movers if each.on and concerns(each, group)]
    found = [each.strength for each in movers]
    if any(looks_at_aim(node, each) for each in movers) and node.aim is not None and not node.aim.targets:
        found += [f"{node.aim.id}.{axis}" for axis in "xyz"]
    if any(isinstance(each, Shake) and each.about == "aim" for each in movers) and node.serves_as("shown"):
        found.append(FOCUS)
    if movers:
        found.append(LIFE)
    if takes_part(node.take, group):
        found.append(TAKE_STRENGTH.name)
    return tuple((node.id, name) for name in found)


def concerns(mover: Mover, group: tuple[str, ...]) -> bool:
    """Whether a mover acts on any of a group of channels."""
    return not set(mover.names).isdisjoint(group)


def takes_part(take: TakeUse | None, group: tuple[str, ...]) -> bool:
    """Whether a take gives any of a group of channels."""
    return take is not None and take.on and not set(take.channels).isdisjoint(group)


def turns_about_aim(mover: Mover) -> bool:
    """Whether it turns a node about what that is about: its aim, or what it is focused on."""
    return isinstance(mover, Shake) and mover.about == "aim"


def looks_at_aim(node: AnyNode, mover: Mover) -> bool:
    """Whether a mover has to know where the node's aim is: it turns about it, or along axes that follow from it."""
    aim = node.aim
    if aim is None or not aim.on or not mover.couples:
        return False
    return turns_about_aim(mover) or mover.space == "own" or (mover.space == "picture" and node.serves_as("lens"))


def looks_at_carrier(node: AnyNode, mover: Mover) -> bool:
    """Whether a mover has to know where the node's carrier is."""
    if node.carrier is None or not mover.couples:
        return False
    outside = mover.space == "world" or (mover.space == "picture" and not node.serves_as("lens"))
    return outside or turns_about_aim(mover) or looks_at_aim(node, mover)


def looks_at_output(node: AnyNode, mover: Mover) -> bool:
    """Whether a mover acts along the axes of what the film shows."""
    return mover.couples and mover.space == "picture" and not node.serves_as("lens")


def waits_for(mover: Mover) -> str | None:
    """The name of the event that a mover waits for, if any."""
    return mover.name if isinstance(mover, Impact) and mover.when == "event" else None
