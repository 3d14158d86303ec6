"""The shipped scenes: made by their scripts, and what they are there to show can be measured."""

import numpy as np
import pytest

import wild_heron as wh
from demo.build import build
from demo.march import BARS, BEAT, MARCH, ROLL, TEMPO
from demo.study import build_study
from wild_heron.demo import DEMO_SCENE, STUDY_SCENE
from wild_heron.evaluate import evaluate
from wild_heron.evaluate.evaluation import Evaluation
from wild_heron.evaluate.film import film_of
from wild_heron.files.artwork_files import missing_artwork
from wild_heron.gl.request import FrameRequest, ThroughLens
from wild_heron.motion.beats import find_beats
from wild_heron.motion.sound import mono
from wild_heron.process.checking import check_scene
from wild_heron.process.client import RenderClient

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


def test_no_camera_of_the_demo_shows_bare_background_by_itself():
    """The film is looked at by its checks, below."""
    scene = wh.load(DEMO_SCENE)
    cameras = [node.id for node in scene.nodes if isinstance(node, wh.Camera)]
    assert len(cameras) == 5
    looks = [(camera, float(frame)) for camera in cameras for frame in (40, 200)]
    with RenderClient(slots=3) as client:
        client.set_scene(scene, DEMO_SCENE.parent)
        for camera, frame in looks:
            picture = client.draw(FrameRequest(frame, ThroughLens(camera), 160, 90, 1))
            assert (picture[..., 3] < 250).sum() == 0, (camera, frame)


def test_the_demo_is_a_film():
    scene = wh.load(DEMO_SCENE)
    assert 6 <= len(scene.shots) <= 9
    assert sum(isinstance(shot.join, wh.Blend) for shot in scene.shots) == 2
    film = film_of(Evaluation.evaluator, scene)
    assert [shot.name for shot in film.shots if shot.event >= 0] == ["The cart comes by"]
    # The run of cuts falls on the beats of the drum roll, and the roll is heard.
    run = [shot.first for shot in scene.shots if shot.name.startswith("Roll")]
    assert np.diff(run).tolist() == [10.0, 10.0]
    assert all(frame % 10.0 == 0.0 for frame in run)
    assert ROLL * 40 < run[0] < (ROLL + 1) * 40
    tour = scene.node("touring-camera").channel("tour.place")
    here = evaluate(scene, [key.frame for key in tour.keys])
    stops = next(bind for bind in scene.node("touring-camera").binds if isinstance(bind, wh.Tour)).framings
    still = evaluate(wh.edits.set_value(scene, "touring-camera", "life", 0.0), [key.frame for key in tour.keys])
    for row, key in enumerate(tour.keys):
        there = still.camera(stops[int(key.value)])
        assert np.allclose(still.camera("touring-camera").pose[row], there.pose[row], atol=1e-12)
        # With its movers it breathes, and stays near.
        off = np.linalg.norm(here.camera("touring-camera").position[row] - there.position[row])
        assert off < 0.2
    assert np.ptp([here.camera("touring-camera").position[:, 1] - still.camera("touring-camera").position[:, 1]]) > 0.02


def test_the_push_in_to_the_emblem_overshoots():
    scene = wh.load(DEMO_SCENE)
    distance = evaluate(scene, np.arange(120.0, 200.0, 0.1)).value("fair-board", "dial.distance")
    last = scene.node("fair-board").channel("dial.distance").keys[-1].value
    assert distance.min() < last - 0.05
    assert distance[-1] == pytest.approx(last, abs=0.01)


def test_a_shot_is_a_recorded_take_that_was_steadied():
    scene = wh.load(DEMO_SCENE)
    use = scene.node("lane-camera").take
    chain = [next(take for take in scene.takes if take.id == use.take)]
    while chain[-1].source is not None:
        chain.append(next(take for take in scene.takes if take.id == chain[-1].source))
    assert [take.step for take in chain] == ["steadied, firm", "mended", ""]
    assert {mark.kind for mark in chain[-1].marks} >= {"gap", "jump"}
    shot = next(shot for shot in scene.shots if shot.camera == "lane-camera")
    there = evaluate(scene, [shot.first, shot.first + 59.0]).position("lane-camera")
    assert np.linalg.norm(there[1] - there[0]) > 1.0


def test_the_march_is_small_and_on_the_beat(reader):
    assert MARCH.stat().st_size < 400_000
    found = find_beats(mono(reader.samples(MARCH).samples), 48_000)
    assert found.tempo == pytest.approx(TEMPO, rel=0.01)
    off = np.abs(found.seconds[:, None] - np.arange(BARS * 4) * BEAT).min(axis=1)
    assert (off < 0.025).mean() >= 0.95


def test_its_checks_find_nothing_in_any_format():
    scene = wh.load(DEMO_SCENE)
    assert len(scene.checks.subjects) == 2
    # Every frame of it takes a minute; ``wild-heron check`` looks at them.
    for judged in check_scene(scene, DEMO_SCENE.parent, every=8):
        assert [finding.title for finding in judged.open] == []
        # What was accepted is there to be accepted.
        assert {each.kind for each in judged.findings} >= {"through", "near"}
