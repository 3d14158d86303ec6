"""The operator's moves."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from wild_heron.space.moves import Moves, moved_pose

ANGLE = st.floats(-170, 170)
START = np.eye(4)
START[:3, 3] = (1.0, 2.0, 10.0)
AIM = np.array([1.0, 2.0, 0.0])


@given(ANGLE, st.floats(-60, 60))
def test_an_orbit_keeps_the_distance_and_goes_on_looking_at_the_aim(turn, lift):
    pose, aim = moved_pose(START, AIM, Moves(orbit=turn, lift=lift))
    assert aim == pytest.approx(AIM)
    offset = aim - pose[:3, 3]
    assert np.linalg.norm(offset) == pytest.approx(10.0, abs=1e-9)
    assert -pose[:3, 2] == pytest.approx(offset / 10.0, abs=1e-9)
    assert pose[1, 0] == pytest.approx(0.0, abs=1e-9)  # level


def test_directions_are_the_operators():
    assert moved_pose(START, AIM, Moves(truck=2))[0][:3, 3] == pytest.approx([3, 2, 10])
    assert moved_pose(START, AIM, Moves(pedestal=2))[0][:3, 3] == pytest.approx([1, 4, 10])
    assert moved_pose(START, AIM, Moves(dolly=3))[0][:3, 3] == pytest.approx([1, 2, 7])
    right = moved_pose(START, AIM, Moves(orbit=90))[0]
    assert right[:3, 3] == pytest.approx([11, 2, 0])
    over = moved_pose(START, AIM, Moves(lift=90))[0]
    assert over[:3, 3] == pytest.approx([1, 12, 0])
    left, aim = moved_pose(START, AIM, Moves(pan=90))
    assert -left[:3, 2] == pytest.approx([-1, 0, 0])
    assert aim == pytest.approx([-9, 2, 10])
    assert -moved_pose(START, AIM, Moves(tilt=90))[0][:3, 2] == pytest.approx([0, 1, 0])
    assert moved_pose(START, AIM, Moves(roll=90))[0][:3, 0] == pytest.approx([0, 1, 0])


@given(st.builds(Moves, pan=ANGLE, tilt=ANGLE, roll=ANGLE, truck=ANGLE, dolly=ANGLE, orbit=ANGLE, lift=ANGLE))
def test_a_moved_lens_is_rigid_and_nothing_is_none(moves):
    rotation = moved_pose(START, AIM, moves)[0][:3, :3]
    assert rotation @ rotation.T == pytest.approx(np.eye(3), abs=1e-9)
    assert np.linalg.det(rotation) == pytest.approx(1.0)
    assert moved_pose(START, AIM, Moves())[0] == pytest.approx(START)
