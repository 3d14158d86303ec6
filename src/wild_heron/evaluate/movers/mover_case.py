"""The arguments of a mover's solver: evaluation, node, and weight."""

from collections.abc import Callable
from typing import Any, NamedTuple

import numpy as np

from ...arrays import Array
from ...scene import AnyNode, Mover, Scene
from ...scene.dependencies import unmoved_scene
from ...scene.movers import LIFE
from ..context import EvaluationContext

Values = dict[str, Array]
"""Channels of a group, each (N,) or (1,)."""


class MoverCase(NamedTuple):
    """A mover at work on a group of its node's channels."""

    there: EvaluationContext
    node: AnyNode
    mover: Any
    number: int
    """Its place in the node's list."""
    group: tuple[str, ...]
    weight: Array
    """How much it counts, (N,) or (1,)."""

    @property
    def names(self) -> tuple[str, ...]:
        """The channels of the group that it acts on."""
        return tuple(name for name in self.mover.names if name in self.group)

    @property
    def seconds(self) -> Array:
        """The frames as seconds (N,)."""
        return self.there.frames / self.there.scene.settings.rate.fps

    def before(self) -> Scene:
        """The scene with only what goes into the mover, and the mover not yet at work."""
        return unmoved_scene(self.there.scene, self.node.id, self.group, self.number)


Solvers = dict[type, Callable[[MoverCase, Values], Values]]
"""What each kind of mover makes of values."""


def weight_of(there: EvaluationContext, node: AnyNode, mover: Mover) -> Array:
    """How much a mover counts at each frame, (N,) or (1,): its strength, times the node's life, inside its range."""
    strength = there.number(node, mover.strength) * there.number(node, LIFE)
    if mover.start is None and mover.end is None:
        return strength
    return strength * inside(mover, there.frames)


def inside(mover: Mover, frames: Array) -> Array:
    """1 inside the range of a mover, 0 outside, (N,), softly where it fades."""
    share = np.ones(len(frames))
    for edge, fade, way in ((mover.start, mover.fade_in, 1.0), (mover.end, mover.fade_out, -1.0)):
        if edge is None:
            continue
        into = (frames - edge) * way
        if fade > 0.0:
            part = np.clip(into / fade, 0.0, 1.0)
            share = share * (part * part * (3.0 - 2.0 * part))
        else:
            share = np.where(into >= 0.0, share, 0.0)
    return share
