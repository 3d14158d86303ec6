"""The first moving picture: what came in fills the frame of a camera that drifts past it."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import wild_heron as wh
from wild_heron.checks import Measures
from wild_heron.edits.beginning import begin_with
from wild_heron.evaluate.extent import corners


def cards(*sizes: tuple[int, int], width: int = 1920, height: int = 1080) -> wh.Scene:
    nodes = tuple(
        wh.Picture(id=f"p{k}", name=f"P{k}", artwork=wh.Solid("#445566"), width=w, height=h)
        for k, (w, h) in enumerate(sizes)
    )
    return wh.Scene(settings=wh.Settings(width=width, height=height, last=47), nodes=nodes)


def in_frame(scene: wh.Scene, camera: str, node: str, frame: float) -> np.ndarray:
    """Corners in pixels from the middle of the frame, and the depth."""
    here = wh.evaluate(scene, frame, [camera, node])
    view = here.camera(camera)
    away = corners(here, node) - view.position[0]
    across = away @ view.pose[0][:3, :3]
    depth = -across[:, 2]
    return np.concatenate([across[:, :2] / depth[:, None] * float(view.focal_px[0]), depth[:, None]], axis=1)


sides = st.integers(40, 6000)


@settings(max_examples=40, deadline=None)
@given(
    st.lists(st.tuples(sides, sides), min_size=1, max_size=6), st.sampled_from([(1920, 1080), (1080, 1920), (999, 999)])
)
def test_the_background_fills_the_frame_at_every_moment(sizes, frame):
    before = cards(*sizes, width=frame[0], height=frame[1])
    scene, camera = begin_with(before, [node.id for node in before.nodes])
    areas = [across * down for across, down in sizes]
    rear = next(k for k, area in enumerate(areas) if 4 * area >= max(areas))
    for moment in (0.0, 11.7, 23.5, 47.0):
        places = in_frame(scene, camera, f"p{rear}", moment)
        assert places[:, 0].min() <= -0.5 * frame[0]
        assert places[:, 0].max() >= 0.5 * frame[0]
        assert places[:, 1].min() <= -0.5 * frame[1]
        assert places[:, 1].max() >= 0.5 * frame[1]


def test_pictures_stand_from_far_to_near_as_large_as_each_other():
    before = cards((1920, 1080), (1920, 1080), (960, 540))
    scene, camera = begin_with(before, ["p0", "p1", "p2"])
    seen = [in_frame(scene, camera, f"p{k}", 23.5) for k in range(3)]
    depths = [float(each[:, 2].mean()) for each in seen]
    assert depths == sorted(depths, reverse=True)
    widths = [float(np.ptp(each[:, 0])) for each in seen]
    assert widths == pytest.approx([widths[0], widths[0], widths[0] / 2], rel=1e-3)
    # What is near slides past what is far.
    slides = [
        abs(in_frame(scene, camera, f"p{k}", 0.0)[0, 0] - in_frame(scene, camera, f"p{k}", 47.0)[0, 0])
        for k in range(3)
    ]
    assert slides[0] < slides[1] < slides[2]
    assert slides[0] > 0.05 * 1920


def test_nothing_is_bare_in_the_film():
    before = cards((1600, 1200), (800, 300))
    scene, _ = begin_with(before, ["p0", "p1"])
    measures = Measures(scene)
    measures.measure(scene, np.arange(len(measures)))
    assert not [each for each in wh.checks.judged(scene, measures, 0).findings if each.check == "edges"]


def test_a_sky_behind_a_longer_street_fills_the_frame_and_a_small_moon_does_not():
    before = cards((1600, 900), (3000, 1000))
    scene, camera = begin_with(before, ["p0", "p1"])
    assert np.ptp(in_frame(scene, camera, "p0", 23.5)[:, 1]) >= 1080
    moon = cards((200, 200), (1600, 900))
    scene, camera = begin_with(moon, ["p0", "p1"])
    assert np.ptp(in_frame(scene, camera, "p0", 23.5)[:, 1]) < 300
    assert np.ptp(in_frame(scene, camera, "p1", 23.5)[:, 1]) >= 1080


def test_layers_under_a_null_are_begun_with_as_one():
    scene = cards((1000, 500), (200, 100))
    scene = wh.edits.add_node(scene, wh.Null(id="file", name="File"))
    for k in range(2):
        scene = wh.edits.change_node(scene, f"p{k}", carrier="file")
    begun, camera = begin_with(scene, ["file"])
    wide = np.ptp(in_frame(begun, camera, "p0", 23.5)[:, 0])
    assert wide >= 1920 * 1.1
    assert np.ptp(in_frame(begun, camera, "p1", 23.5)[:, 0]) == pytest.approx(wide / 5, rel=1e-3)


def test_without_a_picture_nothing_begins():
    scene = wh.Scene(nodes=(wh.Null(id="n", name="N"),))
    with pytest.raises(wh.SceneError, match="no picture"):
        begin_with(scene, ["n"])
