"""Solvers of riding along a path and over a ground."""

from contextlib import suppress

import numpy as np

from ...arrays import Array
from ...scene import AnyNode, Ground, Model, ModelFile, Path, RideGround, RidePath
from ...scene.channels import RELIEF
from ...space.ground import Field, Hit, intersect_field, intersect_mesh
from ...space.mesh import solid
from ...space.path import track
from ...space.path_lengths import parameters
from ...space.rotation import axis_quaternion, matrix_to_quaternion, multiply, quaternion_to_matrix, slerp, turn_onto
from ...space.transform import apply, cross, invert, length
from ..context import EvaluationContext
from ..rows import applied, dot, moved_to, rows, turned_axes, unit, with_rotation
from .solver import Solvers

_FOOTPRINT = 8


def on_path(evaluation: EvaluationContext, node: AnyNode, bind: RidePath, number: int, world: Array) -> Array:
    """World matrices (N, 4, 4) on the path at its progress, and turned along it; the node's own rotation is added to
    that."""
    path = evaluation.node(bind.path)
    assert isinstance(path, Path)
    way = track(path.curve)
    progress = evaluation.number(node, f"{bind.id}.progress")
    share = progress - np.floor(progress) if bind.loops else np.clip(progress, 0.0, 1.0)
    carried = evaluation.pose_of(bind.path)
    u = parameters(way, share, carried[:, :3, :3]) if bind.by == "length" else share
    position = apply(*rows(carried, way.point(u)))
    out = moved_to(world, position)
    if not bind.along:
        return out
    carried, along, up = rows(carried, way.tangent(u), way.up(u))
    ahead = unit(applied(carried, along), (0.0, 0.0, -1.0))
    top = applied(carried, up)
    top = unit(top - ahead * dot(top, ahead)[:, None], (0.0, 1.0, 0.0))
    right = cross(ahead, top)
    axes = np.stack([right, top, -ahead], axis=2)
    bank = axis_quaternion(2, -np.radians(evaluation.number(node, f"{bind.id}.bank")))
    onto_front = {"-z": 0.0, "+z": np.pi, "+x": np.pi / 2, "-x": -np.pi / 2}[bind.front]
    turned, bank, own = rows(matrix_to_quaternion(axes), bank, evaluation.rotation(node))
    facing = axis_quaternion(1, np.full(len(turned), onto_front))
    return with_rotation(out, quaternion_to_matrix(multiply(multiply(multiply(turned, bank), facing), own)))


def on_ground(evaluation: EvaluationContext, node: AnyNode, bind: RideGround, number: int, world: Array) -> Array:
    """World matrices (N, 4, 4) on the surface along a direction, at the height above it, tilted with the slope under
    the footprint.

    Where there is no surface that way, the node stays where it is.
    """
    axis, sign = "xyz".index(bind.down[1]), (1.0 if bind.down[0] == "+" else -1.0)
    down = np.zeros(3)
    down[axis] = sign
    height, tilt, footprint = (evaluation.number(node, f"{bind.id}.{name}") for name in ("height", "tilt", "footprint"))
    height, tilt, footprint, world = rows(height, tilt, footprint, world)
    surface = _Surface(evaluation, bind)
    position = world[:, :3, 3]
    hit = surface.meet(position, down)
    distance, normal, position, height, tilt, footprint, world = rows(
        hit.distance, hit.normal, position, height, tilt, footprint, world
    )
    if footprint.any():
        distance, normal = _averaged(surface, position, down, distance, normal, footprint)
    found = np.isfinite(distance)
    reach = np.where(found, distance, 0.0) - height
    out = moved_to(world, np.where(found[:, None], position + down * reach[:, None], position))
    level = np.broadcast_to(-down, normal.shape)
    turn = turn_onto(level, np.where(found[:, None], normal, level))
    none = np.zeros_like(turn)
    none[:, 3] = 1.0
    turn = np.where((tilt == 1.0)[:, None], turn, slerp(none, turn, tilt))
    flat = (turn[:, 3] == 1.0)[:, None, None]
    matrix = quaternion_to_matrix(turn)
    out[:, :3, :3] = np.where(flat, out[:, :3, :3], turned_axes(matrix, out))
    return out


class _Surface:
    """A ground or model over the frames of an evaluation."""

    def __init__(self, evaluation: EvaluationContext, bind: RideGround) -> None:
        self.node = evaluation.node(bind.ground)
        self.seconds = evaluation.frames / evaluation.scene.settings.rate.fps
        if isinstance(self.node, Ground):
            self.field = Field(self.node.surface, self.node.width, self.node.depth)
            self.relief = evaluation.number(self.node, RELIEF)
            self.world = evaluation.pose_of(bind.ground)
        elif isinstance(self.node, Model) and not isinstance(self.node.shape, ModelFile):
            mesh = solid(self.node.shape)
            self.corners = mesh.positions[mesh.faces].astype(np.float64)
            self.world = evaluation.content_of(bind.ground)
        self.inverse: Array | None = None
        with suppress(np.linalg.LinAlgError, AttributeError):
            self.inverse = invert(self.world)
        self.moves = isinstance(self.node, Ground) and any(
            wave.speed != 0.0 for wave in getattr(self.node.surface, "waves", ())
        )

    def meet(self, position: Array, down: Array) -> Hit:
        """Where lines from points (N, 3) along a direction (3,) meet it, in the world."""
        if self.inverse is None:
            return Hit(np.full(len(position), np.nan), np.tile(-down, (len(position), 1)))
        seconds = self.seconds if self.moves else self.seconds[:1]
        position, inverse, seconds = rows(position, self.inverse, seconds)
        origin = apply(inverse, position)
        way = applied(inverse, np.broadcast_to(down, position.shape))
        # A ground that stands straight keeps an upright line exactly upright.
        way = np.where(np.abs(way) < 1e-14 * length(way)[:, None], 0.0, way)
        if isinstance(self.node, Ground):
            factor, origin, way, inverse, seconds = rows(self.relief, origin, way, inverse, seconds)
            hit = intersect_field(self.field, origin, way, seconds, factor)
        else:
            hit = intersect_mesh(self.corners, origin, way)
        # Normals turn by the inverse transpose.
        normal = np.stack([dot(inverse[:, :3, k], hit.normal) for k in range(3)], axis=1)
        normal = unit(normal, tuple((-down).tolist()))
        facing = dot(normal, np.broadcast_to(down, normal.shape)) > 0.0
        return Hit(hit.distance, np.where(facing[:, None], -normal, normal))

    def meet_many(self, positions: Array, down: Array) -> Array:
        """Distances (K, N) along the direction from K points at each of N frames (K, N, 3)."""
        many, count = positions.shape[:2]
        wide = object.__new__(_Surface)
        wide.__dict__.update(self.__dict__)
        for name in ("seconds", "relief", "inverse", "world"):
            array = getattr(self, name, None)
            if array is not None and len(array) > 1:
                setattr(wide, name, np.tile(array, (many, *[1] * (array.ndim - 1))))
        return wide.meet(positions.reshape(-1, 3), down).distance.reshape(many, count)


def _averaged(
    surface: _Surface, position: Array, down: Array, distance: Array, normal: Array, footprint: Array
) -> tuple[Array, Array]:
    """Distance and normal of the plane that fits the surface best on a disc: its middle and a ring around it.

    The mean of slopes read off a ring, a·cos + b·sin, is the least-squares plane of its heights.
    """
    k = int(np.argmax(np.abs(down)))
    first, second = np.eye(3)[(k + 1) % 3], np.eye(3)[(k + 2) % 3]
    total, count = np.where(np.isfinite(distance), distance, 0.0), np.isfinite(distance) * 1.0
    along, across = np.zeros_like(total), np.zeros_like(total)
    angles = np.arange(_FOOTPRINT) * (2.0 * np.pi / _FOOTPRINT)
    ring = np.cos(angles)[:, None] * first + np.sin(angles)[:, None] * second
    around = position[None] + ring[:, None] * footprint[None, :, None]
    met = surface.meet_many(around, down)
    for k, found in enumerate(met):
        good = np.isfinite(found)
        found = np.where(good, found, distance)
        total, count = total + np.where(good, found, 0.0), count + good
        along, across = along + found * float(np.cos(angles[k])), across + found * float(np.sin(angles[k]))
    mean = np.where(count > 0.0, total / np.maximum(count, 1.0), np.nan)
    wide = np.where(footprint > 0.0, footprint, 1.0)
    slope_a, slope_b = 2.0 / _FOOTPRINT * along / wide, 2.0 / _FOOTPRINT * across / wide
    # The surface is at p + down·d with d = d0 + a·u + b·v: it rises against down where d falls.
    plane = -down + first * slope_a[:, None] + second * slope_b[:, None]
    used = (footprint > 0.0) & np.isfinite(slope_a) & np.isfinite(slope_b)
    return np.where(footprint > 0.0, mean, distance), np.where(used[:, None], unit(plane), normal)


SOLVERS: Solvers = {RidePath: on_path, RideGround: on_ground}
