"""Lens and pose from points and lines, against views that are known."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from wild_heron.space.lens import world_to_pixel
from wild_heron.space.matching import crossing, from_vanishing_points, pose_from_three, solve

SIZE = (1500, 1000)
BOX = np.array([[x, y, z] for x in (-2.0, 2.0) for y in (0.0, 3.0) for z in (-8.0, -3.0)])
NONE = (np.zeros((0, 2, 2)), np.zeros((0, 3)))


def posed(turn=(0.0, 0.0, 0.0), place=(0.0, 1.6, 4.0)) -> np.ndarray:
    pose = np.eye(4)
    pose[:3, :3] = Rotation.from_euler("yxz", turn, degrees=True).as_matrix()
    pose[:3, 3] = place
    return pose


def seen(points: np.ndarray, pose: np.ndarray, focal: float) -> np.ndarray:
    count = len(points)
    return world_to_pixel(points, np.broadcast_to(pose, (count, 4, 4)), np.full(count, focal), *SIZE)[0]


views = st.builds(
    lambda y, x, z, px, py, pz, f: (posed((y, x, z), (px, py, pz)), f),
    st.floats(-25, 25), st.floats(-12, 12), st.floats(-8, 8), st.floats(-1.5, 1.5), st.floats(0.8, 2.6),
    st.floats(3, 9), st.floats(700, 2600),
)  # fmt: skip


@given(views)
def test_three_points_give_the_pose_among_a_few(view):
    pose, _ = view
    points = BOX[[0, 3, 6]]
    rays = (points - pose[:3, 3]) @ pose[:3, :3]
    found = pose_from_three(points, rays / np.linalg.norm(rays, axis=1, keepdims=True))
    assert min(np.abs(each - pose).max() for each in found) < 1e-4


@given(views)
def test_six_corners_of_a_box_give_lens_and_pose_from_anywhere(view):
    pose, focal = view
    points = BOX[[0, 1, 2, 3, 5, 6]]
    match = solve(points, seen(points, pose, focal), *NONE, SIZE, posed((30, 10, 0), (3, 4, 12)), 900.0)
    assert match.error < 1e-3
    assert match.focal_px == pytest.approx(focal, rel=1e-3)
    assert match.pose == pytest.approx(pose, abs=2e-2)


def test_four_corners_of_a_wall_seen_askew_are_enough():
    pose, focal = posed((32.0, -6.0, 2.0), (4.0, 1.2, 3.0)), 1300.0
    points = BOX[[0, 2, 4, 6]]
    match = solve(points, seen(points, pose, focal), *NONE, SIZE, posed(), 2000.0)
    assert match.error < 1e-3
    assert match.focal_px == pytest.approx(focal, rel=1e-3)
    assert match.pose == pytest.approx(pose, abs=1e-2)


@pytest.mark.parametrize("wall", [False, True])
def test_four_points_find_the_view_from_wherever_it_is_looked_for(wall):
    """Of seeded views and starts, none ends in a fit that is only the best of its neighbourhood."""
    rng = np.random.default_rng(12)
    done = 0
    while done < 40:
        pose = posed(rng.uniform([-60, -25, -10], [60, 25, 10]), rng.uniform([-5, 0.5, 1], [5, 3.5, 10]))
        focal = rng.uniform(700, 2600)
        points = BOX[[0, 2, 4, 6]] if wall else rng.uniform([-3, 0, -9], [3, 3, -2], (4, 3))
        pixels = seen(points, pose, focal)
        inside = np.isfinite(pixels).all() and (pixels > 0).all() and (pixels < SIZE).all()
        if not inside or np.linalg.svd(pixels - pixels.mean(axis=0), compute_uv=False)[1] < 100:
            continue
        done += 1
        start = posed(rng.uniform([-60, -20, -5], [60, 20, 5]), rng.uniform([-5, 0.5, 1], [5, 3.5, 10]))
        assert solve(points, pixels, *NONE, SIZE, start, rng.uniform(700, 2600)).error < 0.02


def test_a_wall_seen_squarely_fits_many_lenses_and_that_is_said():
    pose, focal = posed(), 1300.0
    wall = BOX[[0, 2, 4, 6]]
    assert solve(wall, seen(wall, pose, focal), *NONE, SIZE, pose, focal).loose
    assert not solve(BOX, seen(BOX, pose, focal), *NONE, SIZE, pose, focal).loose


def test_noise_shows_in_the_residual_and_hardly_in_the_pose():
    pose, focal = posed((12.0, -4.0, 1.0)), 1100.0
    pixels = seen(BOX, pose, focal) + np.random.default_rng(5).normal(0.0, 0.7, (8, 2))
    match = solve(BOX, pixels, *NONE, SIZE, posed(), 900.0)
    assert 0.2 < match.error < 1.5
    assert match.focal_px == pytest.approx(focal, rel=0.02)
    assert match.pose[:3, 3] == pytest.approx(pose[:3, 3], abs=0.15)


@pytest.mark.parametrize("count", [1, 2, 3])
def test_fewer_points_are_met_and_the_rest_stays_near(count):
    start, focal = posed((5.0, 0.0, 0.0)), 1100.0
    pixels = seen(BOX[:count], start, focal) + np.array([20.0, -12.0])
    match = solve(BOX[:count], pixels, *NONE, SIZE, start, focal)
    assert match.error < 0.5
    assert match.focal_px == pytest.approx(focal, rel=0.1)
    assert match.pose[:3, 3] == pytest.approx(start[:3, 3], abs=0.5)


def test_two_vanishing_points_give_focal_length_and_turn():
    pose, focal = posed((35.0, -8.0, 3.0)), 1234.0
    middle = np.array(SIZE) / 2
    vanishing = []
    for axis in (0, 2):
        far = pose[:3, 3] + np.eye(3)[axis] * 1e9 * (-1.0 if axis == 2 else 1.0)
        d = np.eye(3)[axis] @ pose[:3, :3]
        vanishing.append(middle + focal * np.array([d[0], -d[1]]) / -d[2])
        assert np.isfinite(far).all()
    found, rotation = from_vanishing_points(*vanishing, middle)
    assert found == pytest.approx(focal)
    for column, axis in ((0, 0), (1, 2)):
        assert abs(rotation[:, column] @ (np.eye(3)[axis] @ pose[:3, :3])) == pytest.approx(1.0)
    with pytest.raises(ValueError, match="right angles"):
        from_vanishing_points(middle + np.array([9.0, 0.0]), middle + np.array([20.0, 1.0]), middle)


@pytest.mark.parametrize("turn", [(35.0, -8.0, 3.0), (-50.0, 5.0, -2.0)])
def test_lines_along_two_directions_turn_the_lens_and_leave_it_in_its_place(turn):
    pose, focal = posed(turn), 1234.0
    lines, axes = [], []
    for axis, pairs in ((0, ((0, 4), (2, 6), (3, 7))), (2, ((0, 1), (2, 3), (6, 7)))):
        for a, b in pairs:
            near = [pose[:3, 3] + pose[:3, :3] @ np.array([x, y, -5.0]) for x, y in ((a * 0.3 - 1, b * 0.2 - 1),)]
            ends = np.stack([near[0], near[0] + np.eye(3)[axis] * 0.8])
            lines.append(seen(ends, pose, focal))
            axes.append(np.eye(3)[axis])
    start = posed((turn[0] * 0.6, 0.0, 0.0))
    match = solve(np.zeros((0, 3)), np.zeros((0, 2)), np.array(lines), np.array(axes), SIZE, start, 900.0)
    assert match.error < 0.05
    assert match.focal_px == pytest.approx(focal, rel=0.01)
    assert match.pose[:3, :3] == pytest.approx(pose[:3, :3], abs=5e-3)
    assert match.pose[:3, 3] == pytest.approx(start[:3, 3], abs=1e-3)


def test_lines_cross_where_they_cross_even_far_off():
    lines = np.array([[[0, 0], [100, 10]], [[0, 200], [100, 190.0]]])
    point = crossing(lines)
    assert point[:2] / point[2] == pytest.approx([1000.0, 100.0])
    level = crossing(np.array([[[0, 0], [100, 0]], [[0, 200], [100, 200.0]]]))
    assert abs(level[2]) < 1e-9 * abs(level[0])
