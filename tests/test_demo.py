"""The shipped scenes: made by their scripts, and what they are there to show can be measured."""

import numpy as np
import pytest

import wild_heron as wh
from demo.build import build
from demo.study import build_study
from wild_heron.demo import DEMO_SCENE, STUDY_SCENE
from wild_heron.evaluate import evaluate
from wild_heron.files.artwork import missing_artwork
from wild_heron.render.client import RenderClient
from wild_heron.render.messages import FrameRequest, ThroughLens

ART = DEMO_SCENE.with_name("art")


@pytest.mark.parametrize(("path", "make"), [(DEMO_SCENE, build), (STUDY_SCENE, build_study)])
def test_the_shipped_scene_is_what_its_script_builds(path, make):
    shipped = wh.load(path)
    assert shipped == make(ART)
    assert missing_artwork(shipped, path.parent) == []


def speeds(camera: str, *frames: float) -> list[float]:
    """How fast a camera of the study goes, in units per frame."""
    scene = wh.load(STUDY_SCENE)
    ends = np.array([[frame - 0.05, frame + 0.05] for frame in frames]).ravel()
    places = evaluate(scene, ends, [camera]).position(camera).reshape(-1, 2, 3)
    return (np.linalg.norm(places[:, 1] - places[:, 0], axis=1) / 0.1).tolist()


def test_the_flat_move_goes_at_one_speed():
    flat = speeds("flat", 5.0, 70.0, 138.0)
    assert flat == pytest.approx([flat[0]] * 3, rel=1e-6)
    assert flat[0] > 0.05


def test_before_it_is_shaped_the_move_stops_at_every_pose():
    assert speeds("before", 0.0, 48.0, 96.0, 143.0) == pytest.approx([0.0] * 4, abs=1e-3)
    assert min(speeds("before", 24.0, 72.0, 120.0)) > 0.1


def test_after_it_is_shaped_the_move_is_going_at_the_cut_and_never_stumbles():
    after = speeds("after", *np.arange(0.0, 118.0))
    assert after[0] > 0.02
    assert min(after) > 0.01
    # One rise and one fall: it gains speed once and then settles.
    turns = np.diff(np.sign(np.diff(np.convolve(after, np.ones(5) / 5, "valid"))))
    assert np.count_nonzero(turns) <= 1
    scene = wh.load(STUDY_SCENE)
    ends = [evaluate(scene, 143.0).position(camera)[0] for camera in ("flat", "before", "after")]
    assert ends[0] == pytest.approx(ends[1])
    assert ends[0] == pytest.approx(ends[2])


def test_no_camera_of_the_demo_shows_bare_background():
    scene = wh.load(DEMO_SCENE)
    cameras = [node.id for node in scene.nodes if isinstance(node, wh.Camera)]
    assert len(cameras) == 4
    with RenderClient(slots=3) as client:
        client.set_scene(scene, DEMO_SCENE.parent)
        for camera in cameras:
            for frame in range(0, 240, 40):
                picture = client.draw(FrameRequest(float(frame), ThroughLens(camera), 240, 135, 1))
                assert (picture[..., 3] < 250).sum() == 0, (camera, frame)
