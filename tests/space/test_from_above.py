"""Triangles from above, against lines that are sent down one by one."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from wild_heron.space.from_above import highest
from wild_heron.space.ground import intersect_mesh


@given(st.integers(0, 1000), st.integers(1, 60))
def test_the_highest_is_what_a_line_from_above_meets_first(seed, count):
    rng = np.random.default_rng(seed)
    corners = rng.uniform(-3.0, 3.0, (count, 1, 3)) + rng.uniform(-1.5, 1.5, (count, 3, 3))
    x, z = np.sort(rng.uniform(-4.0, 4.0, 13)), np.sort(rng.uniform(-4.0, 4.0, 9))
    found = highest(corners, x, z)
    across, along = np.meshgrid(x, z)
    origin = np.stack([across.ravel(), np.full(across.size, 50.0), along.ravel()], axis=1)
    hit = intersect_mesh(corners, origin, np.tile([0.0, -1.0, 0.0], (len(origin), 1)))
    want = np.where(np.isfinite(hit.distance), 50.0 - hit.distance, -np.inf).reshape(found.shape)
    assert (np.isfinite(found) == np.isfinite(want)).all()
    assert found[np.isfinite(found)] == pytest.approx(want[np.isfinite(want)], abs=1e-9)


def test_nothing_falls_between_two_that_share_an_edge_and_upright_ones_are_no_roof():
    x = z = np.linspace(0.0, 1.0, 41)
    flat = np.array([[[0, 1, 0], [1, 1, 0], [1, 1, 1]], [[0, 1, 0], [1, 1, 1], [0, 1, 1.0]]])
    wall = np.array([[[0.5, 0, 0.2], [0.5, 9, 0.2], [0.5, 0, 0.8]]])
    assert (highest(np.concatenate([flat, wall]), x, z) == 1.0).all()
