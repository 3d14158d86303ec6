"""Going from framing to framing."""

import numpy as np

from ...arrays import Array
from ...scene import AnyNode, Tour
from ..touring import tour_view
from .rows import rows, with_rotation
from .solver import Solvers
from .surroundings import Surroundings


def toured(evaluation: Surroundings, node: AnyNode, bind: Tour, number: int, world: Array) -> Array:
    """Where its tour has a node, its scale kept."""
    pose = tour_view(evaluation, node, bind).pose
    world, pose = rows(world, pose)
    if not node.scales:
        return np.array(pose)
    out = with_rotation(world, pose[:, :3, :3])
    out[:, :3, 3] = pose[:, :3, 3]
    return out


SOLVERS: Solvers = {Tour: toured}
