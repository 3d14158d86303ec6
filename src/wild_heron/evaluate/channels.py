"""The stages of a channel's value (keys, links, formula, movers), and their inverses, by which auto-key writes."""

from collections.abc import Callable
from typing import NamedTuple, Protocol

import numpy as np

from ..arrays import Array
from ..motion import evaluate_channel
from ..motion.easing import unit_ease
from ..motion.formula import evaluate_formula
from ..scene import TAKE_STRENGTH, AnyNode, Channel, FormulaError, Link, Scene, is_moved, spec
from ..scene.links import named_node


class Channels(Protocol):
    """The channels of a scene at frames (N,)."""

    @property
    def scene(self) -> Scene: ...

    @property
    def frames(self) -> Array:
        """The frames (N,)."""
        ...

    def node(self, node_id: str) -> AnyNode: ...

    def has_channel(self, node_id: str, channel: str) -> bool: ...

    def number(self, node: AnyNode, name: str) -> Array:
        """A channel's values (N,)."""
        ...


class Stage(NamedTuple):
    """One step from keys to value. ``apply`` makes of what comes in, (N,) or (1,), what goes out; ``invert`` finds what
    has to come in for what is wanted."""

    name: str
    is_used: Callable[[Channel], bool]
    apply: Callable[[Channels, AnyNode, Channel, Array], Array]
    invert: Callable[[Channels, AnyNode, Channel, Array], Array]


def channel_values(there: Channels, node: AnyNode, channel: Channel) -> Array:
    """What the channel's keys, links and formula come to (N,), or (1,) where nothing that goes into it changes, kept
    inside its range."""
    value = evaluate_channel(channel, there.frames)
    stages = _used(channel)
    if not stages:
        return value
    for stage in stages:
        value = stage.apply(there, node, channel, value)
    known = spec(node, channel.name)
    return np.clip(value, max(known.low, -1e9), min(known.high, 1e9))


def own_values(there: Channels, node: AnyNode, channel: Channel, wanted: Array, seen: bool = True) -> Array:
    """What the channel's keys have to come to, (N,), for it to have the wanted values (N,) at the end of all stages.

    Where a formula gives them for no value, or heeds none, they are given as they are. Movers go on as they do: what
    the keys come to is changed by as much as is wanted of what is seen, and beside a take by as much more as its
    strength leaves to the keys. Unless it is what is ``seen`` that is wanted: then they are left out of account.
    """
    if seen and is_moved(node, channel.name):
        keyed = channel_values(there, node, channel)
        left = np.ones(1)
        if node.take is not None and node.take.on and channel.name in node.take.channels:
            left = 1.0 - there.number(node, TAKE_STRENGTH.name)
        wanted = keyed + (wanted - there.number(node, channel.name)) / np.where(left > 1e-3, left, 1.0)
    for stage in reversed(_used(channel)):
        wanted = stage.invert(there, node, channel, wanted)
    return wanted


def _used(channel: Channel) -> list[Stage]:
    return [stage for stage in STAGES if stage.is_used(channel)] if channel.has_inputs else []


# Links add up.


def _links_sum(there: Channels, node: AnyNode, channel: Channel, value: Array) -> Array:
    for link in channel.links:
        if there.has_channel(link.node, link.channel):
            value = value + linked(link, there.number(there.node(link.node), link.channel))
    return value


def _without_links(there: Channels, node: AnyNode, channel: Channel, wanted: Array) -> Array:
    return wanted - _links_sum(there, node, channel, np.zeros(1))


def linked(link: Link, source: Array) -> Array:
    """What a link gives for its source's values (N,)."""
    share = (source - link.low) / (link.high - link.low)
    inside = np.clip(share, 0.0, 1.0)
    eased = unit_ease(link.ease)(inside)
    if not link.clamp:
        eased = eased + (share - inside)
    return np.asarray(link.out_low + (link.out_high - link.out_low) * eased)


# A formula makes of the sum what it says; where it gives no number, or cannot be used, the sum stays.


def _formula_applied(there: Channels, node: AnyNode, channel: Channel, value: Array) -> Array:
    made = _formula_values(there, node, channel, value)
    return np.where(np.isfinite(made), made, value)


def _formula_inverted(there: Channels, node: AnyNode, channel: Channel, wanted: Array) -> Array:
    """By the secant method, from two values beside what is wanted."""

    def off(value: Array) -> Array:
        return np.broadcast_to(_formula_applied(there, node, channel, value), wanted.shape) - wanted

    with np.errstate(all="ignore"):
        before, now = wanted, wanted + np.maximum(1e-3, 1e-3 * np.abs(wanted))
        off_before, off_now = off(before), off(now)
        best, least = (
            np.where(np.abs(off_now) < np.abs(off_before), now, before),
            np.minimum(np.abs(off_now), np.abs(off_before)),
        )
        for _ in range(_MOST_STEPS):
            step = off_now * (now - before) / (off_now - off_before)
            before, off_before = now, off_now
            now = np.where(np.isfinite(step), now - step, now)
            off_now = off(now)
            better = np.abs(off_now) < least
            best, least = np.where(better, now, best), np.where(better, np.abs(off_now), least)
    found = np.isfinite(best) & (least <= 1e-9 * np.maximum(1.0, np.abs(wanted)))
    return np.where(found, best, wanted)


_MOST_STEPS = 40


def _formula_values(there: Channels, node: AnyNode, channel: Channel, value: Array) -> Array:
    def of(name: str, other_channel: str) -> Array:
        other = named_node(there.scene, name, node)
        if other is None or not there.has_channel(other.id, other_channel):
            return np.array([np.nan])
        return there.number(other, other_channel)

    try:
        return evaluate_formula(channel.formula, value, there.frames, there.scene.settings.rate.fps, of)
    except FormulaError:
        return np.array([np.nan])


STAGES = (
    Stage("links", lambda channel: bool(channel.links), _links_sum, _without_links),
    Stage("formula", lambda channel: bool(channel.formula), _formula_applied, _formula_inverted),
)
"""In the order in which a value passes them, after its keys; takes and movers come after them."""


def formula_problem(there: Channels, node: AnyNode, channel: Channel) -> str | None:
    """Why a channel's formula does not give a number at every frame of an evaluation; None where it does."""
    try:
        value = evaluate_channel(channel, there.frames)
        made = _formula_values(there, node, channel, value)
    except FormulaError as problem:
        return str(problem)
    bad = np.flatnonzero(~np.isfinite(np.broadcast_to(made, there.frames.shape)))
    if not bad.size:
        return None
    return f"It gives no number at frame {there.frames[bad[0]]:g}; the channel keeps its own value there."
