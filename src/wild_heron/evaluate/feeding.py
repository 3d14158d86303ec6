"""Channels fed by others: links, which add up, and formulas, which make of the sum what they say."""

from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from ..motion import evaluate_channel
from ..motion.easing import unit_ease
from ..motion.formula import evaluate_formula
from ..scene import AnyNode, Channel, FormulaError, Link, Scene, spec
from ..scene.feeding import named_node

Array = NDArray[np.float64]


class Channels(Protocol):
    """The channels of a scene at frames (N,)."""

    @property
    def scene(self) -> Scene: ...

    @property
    def frames(self) -> Array: ...

    def node(self, node_id: str) -> AnyNode: ...

    def has_channel(self, node_id: str, channel: str) -> bool: ...

    def number(self, node: AnyNode, name: str) -> Array: ...


def fed(evaluation: Channels, node: AnyNode, channel: Channel) -> Array:
    """The channel's values (N,), or (1,) where nothing that feeds it changes, kept inside its range.

    Where a formula gives no number, and where it cannot be used, the channel keeps its own value.
    """
    value = evaluate_channel(channel, evaluation.frames)
    for link in channel.links:
        if evaluation.has_channel(link.node, link.channel):
            value = value + linked(link, evaluation.number(evaluation.node(link.node), link.channel))
    if channel.formula:
        made = _formula_values(evaluation, node, channel, value)
        value = np.where(np.isfinite(made), made, value)
    known = spec(node, channel.name)
    return np.clip(value, max(known.low, -1e9), min(known.high, 1e9))


def linked(link: Link, source: Array) -> Array:
    """What a link gives for its source's values (N,)."""
    share = (source - link.low) / (link.high - link.low)
    inside = np.clip(share, 0.0, 1.0)
    eased = unit_ease(link.ease)(inside)
    if not link.clamp:
        eased = eased + (share - inside)
    return np.asarray(link.out_low + (link.out_high - link.out_low) * eased)


def _formula_values(evaluation: Channels, node: AnyNode, channel: Channel, value: Array) -> Array:
    def of(name: str, other_channel: str) -> Array:
        other = named_node(evaluation.scene, name, node)
        if other is None or not evaluation.has_channel(other.id, other_channel):
            return np.array([np.nan])
        return evaluation.number(other, other_channel)

    try:
        return evaluate_formula(channel.formula, value, evaluation.frames, evaluation.scene.settings.rate.fps, of)
    except FormulaError:
        return np.array([np.nan])


def formula_problem(evaluation: Channels, node: AnyNode, channel: Channel) -> str | None:
    """Why a channel's formula does not give a number at every frame of an evaluation; None where it does."""
    try:
        value = evaluate_channel(channel, evaluation.frames)
        made = _formula_values(evaluation, node, channel, value)
    except FormulaError as problem:
        return str(problem)
    bad = np.flatnonzero(~np.isfinite(np.broadcast_to(made, evaluation.frames.shape)))
    if not bad.size:
        return None
    return f"It gives no number at frame {evaluation.frames[bad[0]]:g}; the channel keeps its own value there."
