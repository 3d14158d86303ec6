"""Meshes of solids and extruded shapes against closed forms."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st
from shapely.geometry import MultiPolygon, Point, Polygon, box

import wild_heron as wh
from wild_heron.space.extrude import extrude, filled, triangulated
from wild_heron.space.mesh import Mesh, fewer_faces, joined, solid

SQUARE = np.array([[0, 0], [4, 0], [4, 4], [0, 4.0]])
INNER = np.array([[1, 1], [3, 1], [3, 3], [1, 3.0]])


def volume(mesh: Mesh) -> float:
    """By the divergence theorem; right only for a closed mesh that faces outwards."""
    a, b, c = (mesh.positions[mesh.faces[:, k]].astype(float) for k in range(3))
    return float((a * np.cross(b, c)).sum() / 6.0)


def area(mesh: Mesh) -> float:
    a, b, c = (mesh.positions[mesh.faces[:, k]].astype(float) for k in range(3))
    return float(np.linalg.norm(np.cross(b - a, c - a), axis=1).sum() / 2.0)


@pytest.mark.parametrize(
    ("shape", "wanted", "surface"),
    [
        (wh.Box(2.0, 3.0, 4.0), 24.0, 52.0),
        (wh.Sphere(1.5), 4 / 3 * math.pi * 1.5**3, 4 * math.pi * 1.5**2),
        (wh.Cylinder(0.5, 2.0), math.pi * 0.5, math.pi * (0.5 * 2 * 2.0 + 0.5)),
        (wh.Cone(1.0, 3.0), math.pi, math.pi * (1.0 + math.sqrt(10.0))),
        (wh.Torus(2.0, 0.5), 2 * math.pi**2 * 2.0 * 0.25, 4 * math.pi**2 * 2.0 * 0.5),
    ],
)
def test_solids_have_the_volume_and_surface_of_what_they_are(shape, wanted, surface):
    mesh = solid(shape)
    assert volume(mesh) == pytest.approx(wanted, rel=0.012)
    assert area(mesh) == pytest.approx(surface, rel=0.008)
    assert np.linalg.norm(mesh.normals, axis=1) == pytest.approx(1.0, abs=1e-5)
    corners = mesh.positions[mesh.faces].astype(float)
    facing = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    assert ((facing * mesh.normals[mesh.faces].mean(axis=1)).sum(axis=1) >= -1e-9).all()


def test_fill_rules():
    assert filled([SQUARE, INNER], even_odd=True).area == pytest.approx(12.0)
    assert filled([SQUARE, INNER], even_odd=False).area == pytest.approx(16.0)
    assert filled([SQUARE, INNER[::-1]], even_odd=False).area == pytest.approx(12.0)
    # A ring that crosses itself: a bow tie.
    bow = np.array([[0, 0], [2, 2], [2, 0], [0, 2.0]])
    assert filled([bow], even_odd=True).area == pytest.approx(2.0)
    # A star: its middle is wound round twice.
    star = np.array([[math.sin(k * 4 * math.pi / 5), math.cos(k * 4 * math.pi / 5)] for k in range(5)])
    hull = filled([star], even_odd=False).area
    assert 0.0 < filled([star], even_odd=True).area < hull
    assert filled([np.array([[0, 0], [np.nan, 1], [1, 1]])], even_odd=True).is_empty


@given(st.lists(st.tuples(st.floats(-9, 9), st.floats(-9, 9)), min_size=3, max_size=12))
def test_any_ring_is_filled_and_triangulated_whole(points):
    shape = filled([np.array(points)], even_odd=True)
    assert shape.is_valid
    total = 0.0
    for polygon in shape.geoms:
        corners, faces = triangulated(polygon)
        a, b, c = (corners[faces[:, k]] for k in range(3))
        part = 0.5 * ((b - a)[:, 0] * (c - a)[:, 1] - (b - a)[:, 1] * (c - a)[:, 0])
        assert (part >= -1e-9).all()
        total += float(part.sum())
    assert total == pytest.approx(shape.area, rel=1e-6, abs=1e-6)


SHAPES = {
    "square": MultiPolygon([box(0, 0, 4, 4)]),
    "frame": MultiPolygon([Polygon(SQUARE, [INNER])]),
    "ring": MultiPolygon([Point(0, 0).buffer(3, 32).difference(Point(0, 0).buffer(2, 32))]),
    "two": MultiPolygon([box(0, 0, 1, 1), box(2, 0, 3, 2)]),
}


@pytest.mark.parametrize("name", SHAPES)
def test_an_extrusion_is_a_closed_prism(name):
    shape = SHAPES[name]
    made = extrude(shape, 2.0, 0.0)
    assert volume(joined([made.face, made.side])) == pytest.approx(shape.area * 2.0, rel=1e-5)
    assert area(made.side) == pytest.approx(shape.length * 2.0, rel=1e-5)
    assert made.face.bounds()[0][2] == -2.0
    assert made.face.bounds()[1][2] == 0.0
    flat = extrude(shape, 0.0, 1.0)
    assert area(flat.face) == pytest.approx(shape.area, rel=1e-5)
    assert not len(flat.side.faces)


@pytest.mark.parametrize("name", ["square", "frame"])
def test_a_bevel_cuts_its_wedge_off_every_edge(name):
    shape, bevel = SHAPES[name], 0.3
    made = extrude(shape, 2.0, bevel)
    # The volume is the integral of the area of the shape inset by each height of the bevel, at both ends.
    heights = np.linspace(0.0, bevel, 4)
    areas = [shape.buffer(-h, join_style="mitre").area for h in heights]
    sloped = sum(
        h * (a + b + math.sqrt(a * b)) / 3 for h, a, b in zip(np.diff(heights), areas, areas[1:], strict=False)
    )
    wanted = shape.area * (2.0 - 2 * bevel) + 2 * sloped
    assert volume(joined([made.face, made.side])) == pytest.approx(wanted, rel=2e-3)
    slopes = made.face.normals[np.abs(made.face.normals[:, 2]) < 0.9]
    assert np.abs(slopes[:, 2]) == pytest.approx(math.sqrt(0.5), abs=1e-3)


def test_a_bevel_wider_than_the_shape_makes_a_ridge_and_loses_nothing():
    bar = MultiPolygon([box(0, 0, 8, 1)])
    made = extrude(bar, 4.0, 1.5)
    assert not np.isnan(made.face.positions).any()
    whole = volume(joined([made.face, made.side]))
    assert 0.5 * 8 < whole < 8 * 4
    assert shapely.box(0, 0, 8, 1).area * 4 > whole


def test_a_draft_has_few_faces_of_the_same_form():
    u, v = np.meshgrid(np.linspace(0, 2 * np.pi, 301), np.linspace(0, np.pi, 151))
    points = np.stack([np.sin(v) * np.cos(u), np.cos(v), np.sin(v) * np.sin(u)], axis=-1).reshape(-1, 3)
    a = (np.arange(150)[:, None] * 301 + np.arange(300)).ravel()
    faces = np.concatenate([np.stack([a, a + 302, a + 301], 1), np.stack([a, a + 1, a + 302], 1)])
    ball = Mesh(points.astype(np.float32), points.astype(np.float32), np.zeros((len(points), 2), np.float32), faces)
    few = fewer_faces(ball, 24)
    assert len(few) < 0.1 * len(faces)
    assert few.max() < len(points)
    assert volume(ball._replace(faces=few)) == pytest.approx(volume(ball), rel=0.12)
