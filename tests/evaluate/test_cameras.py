"""A camera's picture over time, without a scene that is evaluated; and which camera is meant."""

import numpy as np
import pytest
from msgspec.structs import replace

import wild_heron as wh
from wild_heron.evaluate import evaluate, turn_speed
from wild_heron.evaluate.cameras import Segments, own_view
from wild_heron.evaluate.differences import changed_frames
from wild_heron.gl.sampling import shutter_times
from wild_heron.scene import spec
from wild_heron.scene.output import output_camera, resolve_camera, with_output_camera

FRAMES = np.arange(5.0)


class Scenery:
    """Numbers that are made up: a camera that slides along x by a unit a frame, looking at the origin's depth."""

    def __init__(self, scene: wh.Scene, **numbers: np.ndarray) -> None:
        self.scene, self.frames, self._numbers = scene, FRAMES, numbers

    def number(self, node: wh.Camera, name: str) -> np.ndarray:
        return self._numbers.get(name.partition(".")[2], np.array([spec(node, name).default]))

    def pose_of(self, node_id: str) -> np.ndarray:
        pose = np.tile(np.eye(4), (len(FRAMES), 1, 1))
        pose[:, 0, 3] = FRAMES
        pose[:, 2, 3] = 9.0
        return 3.0 * pose  # A scaled carrier.

    def aim(self, node_id: str) -> np.ndarray | None:
        return None


def one_camera(**fields: object) -> wh.Scene:
    return wh.edits.add_node(wh.Scene(), wh.Camera(id="cam", name="Cam", **fields))


def test_a_camera_is_solved_from_numbers_alone():
    scene = one_camera(sensor_width=24.0, sensor_height=18.0, depth_of_field=True)
    there = Scenery(scene, focal=np.linspace(20.0, 60.0, 5), focus=np.full(5, 27.0))
    view = own_view(there, scene.node("cam"), size=(480, 360))
    assert view.focal_px == pytest.approx(np.linspace(20.0, 60.0, 5) * 480 / 24)
    assert view.pose[:, :3, :3] == pytest.approx(np.tile(np.eye(3), (5, 1, 1)))
    assert view.subject() == pytest.approx(np.stack([3.0 * FRAMES, 0 * FRAMES, 0 * FRAMES], axis=1))
    pixel, depth = view.pixels(np.zeros((5, 3)))
    assert depth == pytest.approx(np.full(5, 27.0))
    assert pixel[:, 0] == pytest.approx(240.0 - 3.0 * FRAMES * view.focal_px / 27.0)
    # The blur circle of a thin lens, measured where the sensor is: 2 · radius · |d − s| / s · focal / d.
    mm, far = scene.settings.mm_per_unit, 40.0 * scene.settings.mm_per_unit
    focal, s = view.focal_mm, 27.0 * mm
    circle = 2.0 * view.aperture_radius() * mm * (far - s) / s * focal / far
    assert circle == pytest.approx((focal**2 / 4.0) * (far - s) / (far * (s - focal)))


def test_the_shutter_stays_in_its_segment():
    view = own_view(Scenery(one_camera(), shutter=np.full(5, 360.0)), one_camera().node("cam"))
    assert view.shutter_open(2) == (1.5, 2.5)
    cut = replace(view, segments=Segments((2.0, 3.25)))
    assert cut.segment.tolist() == [0, 0, 1, 1, 2]
    assert cut.shutter_open(1) == (0.5, 1.5)
    assert cut.shutter_open(2) == (2.0, 2.5)
    assert cut.shutter_open(3) == (2.5, 3.25)
    for i in range(5):
        times = shutter_times(*cut.shutter_open(i), 7)
        assert (cut.segments.number(times) == cut.segment[i]).all()


def test_speed_is_not_measured_across_a_cut():
    views = [own_view(Scenery(one_camera()), one_camera().node("cam")) for _ in range(2)]
    turned = views[1].pose.copy()
    turned[:, :3, :3] = [[0, 0, 1], [0, 1, 0], [-1, 0, 0]]
    later = replace(views[1], frames=FRAMES + 2.0, pose=turned)
    assert turn_speed(views[0], later, 24.0) == pytest.approx(45.0 * 24.0)
    parted = [replace(each, segments=Segments((1.0,))) for each in (views[0], later)]
    assert turn_speed(*parted, 24.0) == 0.0


def test_a_projection_is_seen_through_as_a_camera():
    photo = wh.Projection(id="p", name="Photo", source="p.png", width=300, height=200, sensor_width=30.0)
    view = evaluate(wh.edits.add_node(one_camera(), photo), FRAMES).camera("p")
    assert view.focal_px == pytest.approx(np.full(5, 350.0))
    assert (view.width, view.height) == (300, 200)
    assert view.shutter_open(0) == (0.0, 0.0)
    assert view.aperture_radius() == pytest.approx(np.zeros(5))


def test_which_camera_is_meant():
    scene = wh.edits.add_node(one_camera(), wh.Camera(id="two", name="Two"))
    scene = wh.edits.add_node(scene, wh.Camera(id="three", name="Two"))
    assert output_camera(scene) == "cam"
    assert resolve_camera(scene, None) is None
    assert resolve_camera(scene, "Cam") == "cam"
    assert output_camera(with_output_camera(scene, "two")) == "two"
    with pytest.raises(wh.SceneError, match=r"Several cameras are called “Two”\. Use an id: two, three\."):
        resolve_camera(scene, "Two")
    with pytest.raises(wh.SceneError, match=r"There is no camera “Four”\. The scene has: Cam, Two, Two\."):
        resolve_camera(scene, "Four")
    with pytest.raises(wh.SceneError, match="no camera"):
        resolve_camera(wh.Scene(), None)
    left = wh.edits.remove_nodes(scene, ["cam"])
    assert output_camera(left) == "two"
    assert output_camera(wh.edits.remove_nodes(left, ["two", "three"])) is None


def test_another_camera_changes_no_picture():
    scene = wh.edits.add_node(one_camera(), wh.Camera(id="two", name="Two"))
    moved = wh.edits.set_value(scene, "two", "position.x", 3.0)
    assert not changed_frames(scene, moved, FRAMES).any()
    assert changed_frames(scene, moved, FRAMES, "two").all()
    assert changed_frames(scene, with_output_camera(moved, "two"), FRAMES).all()
