"""Rotations against SciPy."""

from itertools import permutations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from wild_heron.space.rotation import (
    AXES,
    euler_near,
    euler_to_quaternion,
    matrix_to_euler,
    matrix_to_quaternion,
    multiply,
    quaternion_to_matrix,
)

ORDERS = ["".join(order) for order in permutations("xyz")]
angles = st.tuples(*[st.floats(-20.0, 20.0)] * 3).map(np.array)


def reference(order: str, a: np.ndarray) -> Rotation:
    # SciPy's capitals are rotations about the turned axes, which is what R = Ry·Rx·Rz for "yxz" says.
    return Rotation.from_euler(order.upper(), [a[AXES.index(axis)] for axis in order])


@pytest.mark.parametrize("order", ORDERS)
@given(a=angles)
def test_euler_to_matrix_is_scipys_in_every_order(order, a):
    got = quaternion_to_matrix(euler_to_quaternion(a[None], order))[0]
    assert got == pytest.approx(reference(order, a).as_matrix(), abs=1e-12)


@pytest.mark.parametrize("order", ORDERS)
@given(a=angles)
def test_near_angles_keep_whole_turns(order, a):
    matrix = reference(order, a).as_matrix()
    back = euler_near(matrix, order, a)
    again = quaternion_to_matrix(euler_to_quaternion(back[None], order))[0]
    assert again == pytest.approx(matrix, abs=1e-6)
    middle = abs(np.cos(a[AXES.index(order[1])]))
    if middle > 1e-3:
        assert back == pytest.approx(a, abs=1e-6)


@pytest.mark.parametrize("order", ORDERS)
@pytest.mark.parametrize("sign", [-1, 1])
def test_gimbal_lock_gives_finite_angles_that_make_the_same_rotation(order, sign):
    a = np.array([0.3, -0.7, 1.1])
    a[AXES.index(order[1])] = sign * np.pi / 2
    matrix = reference(order, a).as_matrix()
    for back in (matrix_to_euler(matrix, order), euler_near(matrix, order, a)):
        assert np.isfinite(back).all()
        assert quaternion_to_matrix(euler_to_quaternion(back[None], order))[0] == pytest.approx(matrix, abs=1e-6)


@given(a=angles, b=angles)
def test_quaternions_multiply_as_rotations_and_come_back_from_matrices(a, b):
    first, second = reference("xyz", a), reference("zyx", b)
    product = multiply(first.as_quat()[None], second.as_quat()[None])
    assert quaternion_to_matrix(product)[0] == pytest.approx((first * second).as_matrix(), abs=1e-12)
    back = matrix_to_quaternion(first.as_matrix()[None])
    assert quaternion_to_matrix(back)[0] == pytest.approx(first.as_matrix(), abs=1e-12)
    assert np.linalg.norm(back) == pytest.approx(1.0, abs=1e-12)
