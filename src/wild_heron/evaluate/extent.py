"""Bounding boxes of what nodes show."""

from collections.abc import Callable
from itertools import product
from typing import Any

import numpy as np

from ..arrays import Array
from ..scene import (
    AnyNode,
    Box,
    Cone,
    Cylinder,
    Ground,
    HeightMap,
    Logo,
    Model,
    ModelFile,
    Picture,
    Plane,
    Settings,
    Sphere,
    Torus,
)
from .evaluation import Evaluation

Bounds = tuple[Array, Array]
"""Lowest and highest corner (3,)."""


def local_bounds(node: AnyNode, settings: Settings) -> Bounds:
    """Lowest and highest corner of a node's contents in its own units; its origin where it has none."""
    extent = EXTENTS.get(type(node))
    return (np.zeros(3), np.zeros(3)) if extent is None else extent(node, settings.pixels_per_unit)


def _picture_bounds(node: Picture, unit: float) -> Bounds:
    half = np.array([node.width / 2, node.height / 2, 0.0]) / unit
    return -half, half


def _logo_bounds(node: Logo, unit: float) -> Bounds:
    half = np.array([node.width / 2, node.height / 2, 0.0]) / unit
    return np.array([-half[0], -half[1], -node.depth / unit]), half


def _ground_bounds(node: Ground, unit: float) -> Bounds:
    if isinstance(node.surface, HeightMap):
        low, high = sorted((node.surface.low, node.surface.high))
    else:
        high = 0.5 * sum(wave.height for wave in node.surface.waves)
        low = -high
    return np.array([-node.width / 2, low, -node.depth / 2]), np.array([node.width / 2, high, node.depth / 2])


def _model_bounds(node: Model, unit: float) -> Bounds:
    match node.shape:
        case Plane(width, height):
            size = (width, height, 0.0)
        case Box(width, height, depth):
            size = (width, height, depth)
        case Sphere(radius):
            size = (2 * radius,) * 3
        case Cylinder(radius, height) | Cone(radius, height):
            size = (2 * radius, height, 2 * radius)
        case Torus(radius, tube):
            size = (2 * (radius + tube), 2 * (radius + tube), 2 * tube)
        case ModelFile():
            return np.array(node.shape.low), np.array(node.shape.high)
    half = np.array(size) / 2
    return -half, half


EXTENTS: dict[type, Callable[[Any, float], Bounds]] = {
    Picture: _picture_bounds, Logo: _logo_bounds, Model: _model_bounds, Ground: _ground_bounds,
}  # fmt: skip
"""Of every kind of node that is seen."""


def corners(evaluation: Evaluation, node_id: str, i: int = 0) -> Array:
    """The corners (8, 3) of a node's contents in the world, at frame ``i`` of an evaluation."""
    low, high = local_bounds(evaluation.scene.node(node_id), evaluation.scene.settings)
    box = np.array(list(product(*zip(low, high, strict=True))))
    content = evaluation.content(node_id)[i]
    return np.asarray(box @ content[:3, :3].T + content[:3, 3])
