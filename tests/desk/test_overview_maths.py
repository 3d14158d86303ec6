"""The Overview's viewpoint, handles and paths, without a window."""

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from shapely import LineString, Polygon, box

import wild_heron as wh
from wild_heron.demo import DEMO_SCENE
from wild_heron.desk.overview.camera_shapes import seen_cameras
from wild_heron.desk.overview.clipping import clipped_area, clipped_line
from wild_heron.desk.overview.free_view import Eye
from wild_heron.desk.overview.gizmo import handle_at, handles, moved_by
from wild_heron.desk.overview.shapes import all_corners, motion_path
from wild_heron.evaluate import evaluate

MODES = ["free", "plan", "side", "front"]
points = st.lists(st.tuples(*[st.floats(-200, 200)] * 3), min_size=1, max_size=20).map(np.array)


@pytest.mark.parametrize("mode", MODES)
@given(points)
def test_framing_shows_every_point(mode, cloud):
    eye = Eye(mode).framing(cloud, 400, 225)
    pixels, depth = eye.project(cloud, 400, 225)
    assert (depth > 0).all() or eye.is_parallel
    assert (pixels > 0).all()
    assert (pixels < np.array([400, 225])).all()


@pytest.mark.parametrize("mode", MODES)
def test_a_pixel_is_worth_what_it_says(mode):
    eye = Eye(mode, centre=(3.0, 1.0, -2.0), span=50.0)
    at = np.array([3.0, 1.0, -2.0])
    unit = eye.units_per_pixel(at, 400)
    moved = at + eye.axes()[:, 0] * 10 * unit - eye.axes()[:, 1] * 5 * unit
    pixels, _ = eye.project(np.stack([at, moved]), 400, 225)
    assert pixels[1] - pixels[0] == pytest.approx([10, 5], abs=1e-6)


@given(st.floats(-300, 300), st.floats(-300, 300))
def test_sliding_and_looking_round_never_flip(dx, dy):
    eye = Eye().orbited(dx, dy)
    axes = eye.axes()
    assert axes.T @ axes == pytest.approx(np.eye(3), abs=1e-9)
    assert axes[1, 1] > 0
    slid = eye.panned(dx, dy, 400)
    centre = np.array([eye.centre])
    moved = slid.project(centre, 400, 225)[0][0] - eye.project(centre, 400, 225)[0][0]
    assert moved == pytest.approx([dx, dy], abs=1e-6)


@pytest.fixture
def hung(rig):
    """The card on a carrier that is turned and scaled."""
    for name, value in (("rotation.y", 90.0), ("scale.x", 2.0), ("scale.y", 2.0), ("scale.z", 2.0)):
        rig = wh.edits.set_value(rig, "target", name, value)
    return wh.edits.change_node(rig, "card", carrier="target")


@pytest.mark.parametrize("mode", MODES)
def test_stalks_follow_the_carriers_axes_and_the_drag(hung, mode):
    here, eye = evaluate(hung, [0.0]), Eye(mode, centre=(0.0, 0.0, 0.0), span=20.0)
    origin = here.position("card")[0]
    for handle in handles(hung.node("card"), here, eye, 400, 225):
        if handle.turns:
            continue
        start = handle.bead
        amount = moved_by(handle, start, start + (handle.line[1] - handle.line[0]) * 0.5, origin, eye, 400, 225)
        changed = wh.edits.set_value(hung, "card", handle.channel, amount)
        there = evaluate(changed, [0.0]).position("card")
        before, after = (eye.project(p, 400, 225)[0][0] for p in (origin[None], there))
        # The node has followed the pointer (in perspective, nearly).
        assert after - before == pytest.approx(
            (handle.line[1] - handle.line[0]) * 0.5, abs=4 if mode == "free" else 1e-6
        )


def test_an_arc_that_is_seen_from_the_front_turns_with_the_pointer(rig):
    here, eye = evaluate(rig, [0.0]), Eye("front", centre=(0.0, 0.0, 0.0), span=20.0)
    handle = next(h for h in handles(rig.node("card"), here, eye, 400, 225) if h.channel == "rotation.z")
    middle = np.array([200.0, 112.5])
    for degrees in (30.0, -50.0, 170.0):
        angle = np.radians(degrees)
        out = handle.bead - middle
        # Pixels run down, so an anticlockwise turn is clockwise in them.
        turned = np.array(
            [out[0] * np.cos(angle) + out[1] * np.sin(angle), -out[0] * np.sin(angle) + out[1] * np.cos(angle)]
        )
        amount = moved_by(handle, handle.bead, middle + turned, np.zeros(3), eye, 400, 225)
        assert amount == pytest.approx(degrees)


def test_beads_do_not_lie_on_each_other(rig):
    for mode in MODES:
        found = handles(rig.node("card"), evaluate(rig, [0.0]), Eye(mode), 400, 225)
        for handle in found:
            assert handle_at(found, *handle.bead).channel == handle.channel


def test_an_aimed_camera_only_rolls(rig):
    found = handles(rig.node("cam"), evaluate(rig, [0.0]), Eye(), 400, 225)
    assert {handle.channel for handle in found if handle.turns} <= {"rotation.z"}


def test_a_path_has_a_dot_a_frame_and_knows_its_keys(rig):
    path = motion_path(rig, "cam")
    assert path.frames.tolist() == list(range(49))
    assert np.linalg.norm(path.positions, axis=1) == pytest.approx(np.full(49, 10.0))
    assert path.frames[path.keyed].tolist() == [0.0, 48.0]  # the carrier's keys are the camera's
    assert motion_path(rig, "card") is None


def test_corners_are_those_of_the_picture(rig):
    corners = all_corners([rig.node("card")], rig, evaluate(rig, [0.0]))[0]
    assert corners.tolist() == [[-1, 0.5, 0], [1, 0.5, 0], [1, -0.5, 0], [-1, -0.5, 0]]


POINTS = st.tuples(st.floats(-3e5, 3e5), st.floats(-3e5, 3e5))


@given(st.lists(POINTS, min_size=3, max_size=5))
def test_a_clipped_area_is_what_lies_in_the_window(corners):
    whole = Polygon(corners)
    assume(whole.is_valid and whole.area > 1.0)
    seen = whole.intersection(box(-8.0, -8.0, 408.0, 308.0))
    found = clipped_area(corners, 400.0, 300.0)
    area = Polygon(found).area if len(found) > 2 else 0.0
    assert area == pytest.approx(seen.area, rel=1e-6, abs=1e-3)
    assert all(-8.001 <= x <= 408.001 and -8.001 <= y <= 308.001 for x, y in found)


@given(POINTS, POINTS)
def test_a_clipped_line_is_what_lies_in_the_window(start, end):
    seen = LineString([start, end]).intersection(box(-8.0, -8.0, 408.0, 308.0))
    found = clipped_line(start, end, 400.0, 300.0)
    length = 0.0 if found is None else float(np.hypot(*np.subtract(*found)))
    assert length == pytest.approx(seen.length, rel=1e-6, abs=1e-2)


def test_all_cameras_at_once_are_where_each_of_them_is():
    scene = wh.load(DEMO_SCENE)
    here = wh.evaluate(scene, 130.0)
    eye, size = Eye(span=50.0), (420.0, 240.0)
    seen = seen_cameras(scene, here, eye, size, "main-camera", ())
    assert [each.node.id for each in seen] == [node.id for node in scene.nodes if isinstance(node, wh.Camera)]
    for each in seen:
        view = here.camera(each.node.id)
        distance = view.aim_distance()
        depth = max(float(view.focus[0] if distance is None else (view.aim[0] - view.position[0]) @ view.axis[0]), 1.0)
        depth *= 1.15 if each.node.id == "main-camera" else 1.0
        pixels = np.array([[0, 0], [view.width, 0], [view.width, view.height], [0, view.height]], dtype=float)
        corners, _ = eye.project(view.place(pixels, np.full(4, depth)), *size)
        lens, _ = eye.project(view.position, *size)
        assert each.lens == pytest.approx(tuple(lens[0]), abs=1e-6)
        assert np.array(each.corners) == pytest.approx(corners, abs=1e-6)
