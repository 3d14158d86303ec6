"""Affine transforms."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from wild_heron.space.aim import heading, level_frame, unit_directions
from wild_heron.space.rotation import quaternion_to_matrix
from wild_heron.space.transform import apply, compose, decompose, invert, product, rigid

vectors = st.tuples(*[st.floats(-100, 100)] * 3).map(np.array)
scales = st.tuples(*[st.floats(0.05, 20)] * 3).map(np.array)
turns = st.integers(0, 10_000).map(lambda seed: Rotation.random(rng=np.random.default_rng(seed)).as_quat())


def matrix(position, quaternion, scale) -> np.ndarray:
    return compose(position[None], quaternion[None], scale[None])


@given(vectors, turns, scales)
def test_parts_of_a_matrix_come_back(position, quaternion, scale):
    whole = matrix(position, quaternion, scale)
    back = decompose(whole)
    assert back[0][0] == pytest.approx(position)
    assert back[2][0] == pytest.approx(scale, rel=1e-9)
    assert quaternion_to_matrix(back[1])[0] == pytest.approx(Rotation.from_quat(quaternion).as_matrix(), abs=1e-9)


@given(vectors, turns, scales)
def test_a_mirror_is_a_negative_depth(position, quaternion, scale):
    scale = scale * [1, 1, -1]
    assert decompose(matrix(position, quaternion, scale))[2][0] == pytest.approx(scale, rel=1e-9)


@given(vectors, turns, scales, vectors, turns, scales, vectors)
def test_products_carry_points_in_turn(p1, q1, s1, p2, q2, s2, point):
    a, b = matrix(p1, q1, s1), matrix(p2, q2, s2)
    assert product(a, b)[0] == pytest.approx(a[0] @ b[0], rel=1e-9, abs=1e-6)
    there = apply(product(a, b), point[None])[0]
    assert there == pytest.approx(apply(a, apply(b, point[None]))[0], rel=1e-9, abs=1e-6)
    assert apply(invert(a), apply(a, point[None]))[0] == pytest.approx(point, rel=1e-6, abs=1e-5)


@given(vectors, turns, scales, turns, scales)
def test_a_lens_under_uneven_carriers_is_rigid_and_looks_the_same_way(position, q1, s1, q2, s2):
    sheared = product(matrix(position, q1, s1), matrix(np.zeros(3), q2, s2))
    lens = rigid(sheared)[0]
    assert lens[:3, :3] @ lens[:3, :3].T == pytest.approx(np.eye(3), abs=1e-9)
    assert np.linalg.det(lens[:3, :3]) == pytest.approx(1.0)
    ahead = sheared[0, :3, 2] / np.linalg.norm(sheared[0, :3, 2])
    assert lens[:3, 2] == pytest.approx(ahead, abs=1e-9)
    assert lens[:3, 3] == pytest.approx(position)


@pytest.mark.parametrize("scale", [[0, 0, 0], [1, 0, 1], [0, 1, 1], [1, 1, 0]])
def test_vanished_axes_make_no_nan(scale):
    flat = matrix(np.ones(3), np.array([0.0, 0.0, 0.0, 1.0]), np.array(scale, dtype=float))
    assert np.isfinite(rigid(flat)).all()
    assert all(np.isfinite(part).all() for part in decompose(flat))


@given(vectors, st.floats(-3, 3))
def test_a_level_frame_looks_along_its_direction_with_the_roll_asked_for(offset, roll):
    direction = unit_directions(offset[None])
    frame = level_frame(direction, heading(direction), np.array([roll]), np.zeros((1, 3)))[0]
    assert -frame[:3, 2] == pytest.approx(direction[0], abs=1e-9)
    assert frame[:3, :3] @ frame[:3, :3].T == pytest.approx(np.eye(3), abs=1e-6)
    if abs(direction[0, 1]) < 0.999:
        level = level_frame(direction, heading(direction), np.zeros(1), np.zeros((1, 3)))[0]
        assert level[1, 0] == pytest.approx(0.0, abs=1e-9)
        assert level[1, 1] > 0
        assert float(frame[:3, 0] @ level[:3, 0]) == pytest.approx(np.cos(roll), abs=1e-6)
        assert float(frame[:3, 0] @ level[:3, 1]) == pytest.approx(np.sin(roll), abs=1e-6)
