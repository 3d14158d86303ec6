"""Applies takes and movers to channels, after keys, links and formulas."""

from collections.abc import Callable

import numpy as np

from ...arrays import Array
from ...scene import AnyNode, spec
from ...scene.moving import concerns, takes_part
from ..context import EvaluationContext
from . import adding, followers, limiting
from .mover_case import MoverCase, Solvers, Values, weight_of
from .taking import with_take

SOLVERS: Solvers = adding.SOLVERS | followers.SOLVERS | limiting.SOLVERS


def moved_values(
    there: EvaluationContext, node: AnyNode, group: tuple[str, ...], unmoved: Callable[[str], Array]
) -> Values:
    """The values (N,), or (1,) where nothing changes, of channels that are worked out together: first the take, then
    one mover after the other, in the end inside their ranges. ``unmoved`` gives what the keys come to."""
    values = {name: unmoved(name) for name in group}
    if takes_part(node.take, group):
        values = with_take(there, node, values)
    for number, mover in enumerate(node.movers):
        if mover.on and concerns(mover, group):
            weight = weight_of(there, node, mover)
            if weight.any():
                made = SOLVERS[type(mover)](MoverCase(there, node, mover, number, group, weight), values)
                # Where it does not count nothing is changed, to the last bit, whichever frames are asked for with it.
                values = {name: np.where(weight == 0.0, values[name], value) for name, value in made.items()}
    for name, value in values.items():
        known = spec(node, name)
        values[name] = np.clip(value, max(known.low, -1e9), min(known.high, 1e9))
    return values
