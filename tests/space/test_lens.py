"""The lens against the handbook's formulas and round trips."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from wild_heron.scene import Format, Settings
from wild_heron.space.depth import along_ray
from wild_heron.space.lens import (
    angle_of_view,
    focal_pixels,
    focus_range,
    frame_distance,
    pixel_to_world,
    world_to_pixel,
)

HD = Settings()


def pixels(fit="width", size=(1920, 1080), output=None, sensor=(36.0, 24.0)):
    return float(focal_pixels(np.array([35.0]), sensor, fit, HD, size, output)[0])


def test_focal_length_angle_and_frame_distance_of_the_35_mm_lens():
    focal = pixels()
    assert focal == pytest.approx(35.0 * 1920 / 36.0)
    assert math.degrees(angle_of_view(1920, np.array([focal]))[0]) == pytest.approx(
        2 * math.degrees(math.atan(36 / 70))
    )
    assert frame_distance(focal, 100.0) == pytest.approx(18.6667, abs=1e-4)


def test_sensor_fits():
    assert pixels("height") == pytest.approx(35.0 * 1080 / 24.0)
    assert pixels("cover") == pixels("width")
    assert pixels("contain") == pixels("height")


def test_a_format_lies_over_the_cameras_picture():
    # A vertical format inside a wide picture keeps its height: the same pixels a unit when scaled to it.
    vertical = Format("Vertical", 1080, 1920, "cover")
    assert pixels(size=(1080, 1920), output=vertical) == pytest.approx(pixels() * 1920 / 1080)
    around = Format("Around", 1080, 1920, "contain")
    assert pixels(size=(1080, 1920), output=around) == pytest.approx(pixels() * 1080 / 1920)


coordinate = st.floats(-500, 500)


@given(st.floats(0, 1919), st.floats(0, 1079), st.floats(0.1, 900), st.floats(300, 5000))
def test_world_and_pixel_are_inverse(x, y, depth, focal):
    pose = np.eye(4)[None]
    pose[0, :3, 3] = (3.0, -2.0, 7.0)
    point = pixel_to_world(np.array([[x, y]]), np.array([depth]), pose, np.array([focal]), 1920, 1080)
    pixel, back = world_to_pixel(point, pose, np.array([focal]), 1920, 1080)
    assert pixel[0] == pytest.approx([x, y], abs=1e-6)
    assert back[0] == pytest.approx(depth)


def test_pixels_count_from_the_top_left_and_nothing_is_seen_behind():
    pose = np.eye(4)[None]
    pixel, depth = world_to_pixel(np.array([[1.0, 1.0, -10.0]]), pose, np.array([1000.0]), 1920, 1080)
    assert pixel[0] == pytest.approx([1060.0, 440.0])
    pixel, depth = world_to_pixel(np.array([[0.0, 0.0, 5.0]]), pose, np.array([1000.0]), 1920, 1080)
    assert depth[0] == -5.0
    assert np.isnan(pixel).all()


@given(st.tuples(coordinate, coordinate, st.floats(-500, -1)), st.floats(0.05, 20))
def test_along_the_ray_the_pixel_stays(point, factor):
    pose = np.eye(4)[None]
    start = np.array(point)
    moved = along_ray(np.zeros(3), start, factor)
    before, depth = world_to_pixel(start[None], pose, np.array([800.0]), 640, 360)
    after, deeper = world_to_pixel(moved[None], pose, np.array([800.0]), 640, 360)
    assert after[0] == pytest.approx(before[0], rel=1e-9, abs=1e-6)
    assert deeper[0] == pytest.approx(depth[0] * factor)


def test_focus_range_meets_the_blur_circle_formula():
    focal, f_stop, focus, mm = 50.0, 2.8, 30.0, 100.0
    sharp = focus_range(focus, focal, f_stop, 36.0, mm)
    for distance in (sharp.near, sharp.far):
        d, s = distance * mm, focus * mm
        assert focal**2 / f_stop * abs(d - s) / (d * (s - focal)) == pytest.approx(36.0 / 1500.0)
    assert focus_range(1000.0, 18.0, 16.0, 36.0, 100.0).far == math.inf
