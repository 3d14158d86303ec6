"""Moves a node along the camera's depth axis."""

import numpy as np

from ..arrays import Array


def along_ray(lens: Array, point: Array, factor: float) -> Array:
    """Where a point (3,) lands when its distance from the lens (3,) is multiplied: p' = C + (p − C)·d'/d.

    Scaling the node by the same factor keeps its size and place in the picture.
    """
    return np.asarray(lens + (point - lens) * factor)
