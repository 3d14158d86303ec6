"""Binds, each solved in the same frame as what it depends on."""

import numpy as np

from ...arrays import Array
from ...scene import AnyNode, Bind
from ...space.rotation import slerp
from ...space.transform import compose, decompose
from . import aiming, following, placing, riding, rolling, touring
from .solver import Solvers
from .surroundings import Surroundings

SOLVERS: Solvers = (
    aiming.SOLVERS | placing.SOLVERS | following.SOLVERS | riding.SOLVERS | rolling.SOLVERS | touring.SOLVERS
)


def bound(evaluation: Surroundings, node: AnyNode, bind: Bind, number: int, world: Array) -> Array:
    """World matrices (M, 4, 4) of a node after its bind of that number (from 1), at the bind's strength."""
    strength = evaluation.number(node, f"{bind.id}.strength")
    if len(strength) == 1 and strength[0] == 0.0:
        return world
    return _mixed(world, SOLVERS[type(bind)](evaluation, node, bind, number, world), strength)


def _mixed(before: Array, after: Array, strength: Array) -> Array:
    """Between two poses: position and scale straight, rotation the short way."""
    if (strength == 1.0).all():
        return after
    size = max(len(before), len(after), len(strength))
    before, after = np.broadcast_to(before, (size, 4, 4)), np.broadcast_to(after, (size, 4, 4))
    share = np.broadcast_to(strength, (size,))
    p0, q0, s0 = decompose(before)
    p1, q1, s1 = decompose(after)
    wide = share[:, None]
    mixed = compose(p0 + (p1 - p0) * wide, slerp(q0, q1, share), s0 + (s1 - s0) * wide)
    return np.where((share == 1.0)[:, None, None], after, np.where((share == 0.0)[:, None, None], before, mixed))
