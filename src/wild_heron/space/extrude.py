"""Outlines to polygons with holes, and polygons to solid letters with depth and bevel."""

from itertools import pairwise
from typing import NamedTuple

import mapbox_earcut
import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import LineString, MultiPolygon, Polygon
from shapely.ops import polygonize

from ..arrays import Array
from .mesh import Mesh

_BEVEL_STEPS = 3
_CREASE = np.cos(np.radians(32.0))


_DIGITS = 9


def filled(rings: list[Array], even_odd: bool) -> MultiPolygon:
    """What closed rings (K, 2) fill, by the even-odd or the nonzero rule, rings that cross themselves included.

    Their lines are cut where they cross, and each face that results is kept or not by its winding number.
    """
    # Points that all but coincide are one: lines that all but meet would cross nowhere, or at no number.
    rings = [np.round(ring, _DIGITS) + 0.0 for ring in rings]
    closed = [np.concatenate([ring, ring[:1]]) for ring in rings if len(ring) >= 3 and np.isfinite(ring).all()]
    if not closed:
        return MultiPolygon()
    lines = shapely.unary_union([LineString(ring) for ring in closed])
    kept = []
    for face in polygonize(lines):
        if face.area <= 0.0:
            continue
        winding = sum(_winding(ring, *face.representative_point().coords[0]) for ring in closed)
        if winding % 2 if even_odd else winding:
            kept.append(face)
    return as_polygons(shapely.unary_union(kept))


def _winding(ring: Array, x: float, y: float) -> int:
    """How often a closed ring runs round a point, counter-clockwise counted positive (Sunday 2001)."""
    x0, y0 = ring[:-1].T
    x1, y1 = ring[1:].T
    side = (x1 - x0) * (y - y0) - (x - x0) * (y1 - y0)
    upward = (y0 <= y) & (y1 > y) & (side > 0)
    downward = (y0 > y) & (y1 <= y) & (side < 0)
    return int(upward.sum()) - int(downward.sum())


def as_polygons(shape: shapely.Geometry) -> MultiPolygon:
    """The areas of any geometry."""
    if isinstance(shape, Polygon):
        return MultiPolygon([shape] if not shape.is_empty else [])
    parts = [part for part in getattr(shape, "geoms", ()) if isinstance(part, Polygon | MultiPolygon)]
    flat = [each for part in parts for each in (part.geoms if isinstance(part, MultiPolygon) else [part])]
    return MultiPolygon([each for each in flat if each.area > 0.0])


class Extrusion(NamedTuple):
    """The faces and bevels of a shape, and its side walls."""

    face: Mesh
    side: Mesh


def extrude(shape: MultiPolygon, depth: float, bevel: float) -> Extrusion:
    """A shape given a thickness: its front lies at z = 0, its back at −depth, and both edges are bevelled.

    The bevel is cut at 45°, never deeper than half the depth. Where the shape is thinner than twice the bevel, its
    slopes meet in a ridge. Flat (depth 0) it has a front alone.
    """
    bevel = min(bevel, 0.5 * depth)
    steps = np.linspace(0.0, bevel, _BEVEL_STEPS + 1) if bevel > 0.0 else np.zeros(1)
    faces, walls = _Builder(), _Builder()
    for polygon in shape.geoms:
        insets = [MultiPolygon([polygon])]
        insets += [as_polygons(polygon.buffer(-step, join_style="mitre", mitre_limit=2.5)) for step in steps[1:]]
        faces.flat(insets[-1], 0.0)
        for k, (outer, inner) in enumerate(pairwise(insets)):
            faces.band(outer, inner, -bevel + steps[k], -bevel + steps[k + 1], polygon.boundary)
        if depth > 0.0:
            walls.wall(polygon, -bevel, -depth + bevel)
    if depth > 0.0:
        faces.mirror(-depth)
    return Extrusion(faces.mesh(), walls.mesh())


class _Builder:
    """Collects triangles by their corners and normals, (F, 3, 3) each."""

    def __init__(self) -> None:
        self._corners: list[Array] = []
        self._normals: list[Array] = []

    def _add(self, corners: Array, normals: Array) -> None:
        self._corners.append(corners)
        self._normals.append(np.broadcast_to(normals, corners.shape))

    def flat(self, shape: MultiPolygon, z: float) -> None:
        for polygon in shape.geoms:
            points, faces = triangulated(polygon)
            corners = np.concatenate([points, np.full((len(points), 1), z)], axis=1)[faces]
            self._add(corners, np.array([0.0, 0.0, 1.0]))

    def band(
        self, outer: MultiPolygon, inner: MultiPolygon, z_outer: float, z_inner: float, edge: shapely.Geometry
    ) -> None:
        """The slope between a shape's rim and the rim of the shape inset from it.

        Its triangles lie this way and that; what it looks like is the slope away from the nearest ``edge``, so normals
        are taken from that.
        """
        rim = outer.boundary
        for polygon in as_polygons(outer.difference(inner)).geoms:
            points, faces = triangulated(polygon)
            if not len(faces):
                continue
            on_rim = shapely.distance(shapely.points(points), rim) < 1e-6 * max(1.0, abs(z_inner - z_outer))
            z = np.where(on_rim, z_outer, z_inner)
            corners = np.concatenate([points, z[:, None]], axis=1)[faces]
            flat = points[faces]
            # A little within its triangle, so that a corner on a crease knows its side.
            seen = (0.8 * flat + 0.2 * flat.mean(axis=1, keepdims=True)).reshape(-1, 2)
            ends = shapely.get_coordinates(shapely.shortest_line(shapely.points(seen), edge)).reshape(-1, 2, 2)
            out = ends[:, 1] - ends[:, 0]
            size = np.linalg.norm(out, axis=1, keepdims=True)
            out = out / np.maximum(size, 1e-12) * (size > 1e-12)
            self._add(corners, np.concatenate([out, np.ones((len(out), 1))], axis=1).reshape(corners.shape))

    def mirror(self, back: float) -> None:
        """The same again, seen from behind."""
        for corners, normals in list(zip(self._corners, self._normals, strict=True)):
            turned, turned_normals = corners[:, ::-1].copy(), normals[:, ::-1].copy()
            turned[..., 2] = back - turned[..., 2]
            turned_normals[..., 2] *= -1.0
            self._add(turned, turned_normals)

    def wall(self, polygon: Polygon, top: float, bottom: float) -> None:
        """Upright sides along all rings; smooth where they bend gently."""
        if top <= bottom:
            return
        outline = shapely.geometry.polygon.orient(polygon)
        for ring in (outline.exterior, *outline.interiors):
            points = np.array(ring.coords)[:, :2]
            points = points[np.r_[True, np.hypot(*np.diff(points, axis=0).T) > 1e-9]]
            a, b = points[:-1], points[1:]
            along = b - a
            out = np.stack([along[:, 1], -along[:, 0]], axis=1) / np.hypot(*along.T)[:, None]
            before, after = np.roll(out, 1, axis=0), np.roll(out, -1, axis=0)
            at_a = np.where(((out * before).sum(axis=1) > _CREASE)[:, None], out + before, out)
            at_b = np.where(((out * after).sum(axis=1) > _CREASE)[:, None], out + after, out)
            high, low, flat = np.full((len(a), 1), top), np.full((len(a), 1), bottom), np.zeros((len(a), 1))
            quad = [np.concatenate(pair, axis=1) for pair in ((a, low), (b, low), (b, high), (a, high))]
            turn = [np.concatenate([n, flat], axis=1) for n in (at_a, at_b, at_b, at_a)]
            for i, j, k in ((0, 1, 2), (0, 2, 3)):
                self._add(np.stack([quad[i], quad[j], quad[k]], 1), np.stack([turn[i], turn[j], turn[k]], 1))

    def mesh(self) -> Mesh:
        corners = np.concatenate(self._corners) if self._corners else np.zeros((0, 3, 3))
        normals = np.concatenate(self._normals) if self._normals else np.zeros((0, 3, 3))
        size = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
        kept = size > 1e-12
        positions = corners[kept].reshape(-1, 3).astype(np.float32)
        directions = normals[kept].reshape(-1, 3)
        directions = directions / np.linalg.norm(directions, axis=1, keepdims=True)
        faces = np.arange(len(positions), dtype=np.uint32).reshape(-1, 3)
        return Mesh(positions, directions.astype(np.float32), np.zeros((len(positions), 2), np.float32), faces)


def triangulated(polygon: Polygon) -> tuple[Array, NDArray[np.int64]]:
    """A polygon with holes as points (V, 2) and counter-clockwise triangles (F, 3)."""
    outline = shapely.geometry.polygon.orient(polygon)
    rings = [np.array(ring.coords)[:-1, :2] for ring in (outline.exterior, *outline.interiors)]
    points = np.concatenate(rings)
    ends = np.cumsum([len(ring) for ring in rings]).astype(np.uint32)
    faces = mapbox_earcut.triangulate_float64(points, ends).reshape(-1, 3).astype(np.int64)
    a, b, c = points[faces[:, 0]], points[faces[:, 1]], points[faces[:, 2]]
    area = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])
    faces[area < 0] = faces[area < 0][:, ::-1]
    return points, faces
