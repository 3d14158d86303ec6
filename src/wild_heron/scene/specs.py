"""Which channels a node has: those of every node, of its kind, of its binds and its dials."""

from functools import lru_cache

import msgspec

from .binds import Bind
from .channel import Channel
from .channels import TRANSFORM, ChannelSpec
from .errors import SceneError
from .inputs import Dial
from .movers import Mover, mover_specs
from .nodes import AnyNode
from .takes import TAKE_STRENGTH, TakeUse


@lru_cache(maxsize=4096)
def _table(
    kind: type[AnyNode],
    binds: tuple[Bind, ...],
    dials: tuple[Dial, ...],
    movers: tuple[Mover, ...],
    take: TakeUse | None,
) -> dict[str, ChannelSpec]:
    bound = [
        msgspec.structs.replace(each, name=f"{bind.id}.{each.name}")
        for bind in binds
        for each in (bind.strength_spec, *bind.channels("lens" in kind.roles))
    ]
    turned = [
        ChannelSpec(dial.channel, dial.name, dial.unit, dial.default, *dial.limits, (dial.high - dial.low) / 100)
        for dial in dials
    ]
    taken = (TAKE_STRENGTH,) if take is not None else ()
    every = (*TRANSFORM, *kind.own_channels, *bound, *turned, *taken, *mover_specs(movers))
    return {spec.name: spec for spec in every}


def specs(node: AnyNode) -> dict[str, ChannelSpec]:
    """Every channel the node has, by name, in display order."""
    return _table(type(node), node.binds, node.dials, node.movers, node.take)


def spec(node: AnyNode, name: str) -> ChannelSpec:
    """The channel's description; SceneError where the node has no such channel."""
    try:
        return specs(node)[name]
    except KeyError:
        raise SceneError(f"{node.name} ({node.kind}) has no channel “{name}”.") from None


def channel_or_default(node: AnyNode, name: str) -> Channel:
    """The node's channel, made from its default where it is not stored."""
    return node.channel(name) or Channel(name, spec(node, name).default)
