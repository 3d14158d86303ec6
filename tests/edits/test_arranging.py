"""Putting nodes in their places: what it looks like through the lens, and where things end up."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import wild_heron as wh
from wild_heron.edits import arranging
from wild_heron.evaluate import evaluate
from wild_heron.evaluate.extent import corners

FRAME = 6.0
names = ("far", "mid", "near")


@pytest.fixture
def stage() -> wh.Scene:
    """Three cards before a camera that looks askew, one of them on a turned carrier."""
    scene = wh.Scene(settings=wh.Settings(width=1920, height=1080, last=24))
    scene = wh.edits.add_node(scene, wh.Camera(id="cam", name="Cam"))
    for channel, value in {"position.z": 12.0, "position.x": 1.5, "rotation.y": 9.0, "rotation.x": -4.0}.items():
        scene = wh.edits.set_value(scene, "cam", channel, value)
    scene = wh.edits.add_node(scene, wh.Null(id="hold", name="Hold"))
    scene = wh.edits.set_value(scene, "hold", "rotation.y", 30.0)
    scene = wh.edits.set_value(scene, "hold", "scale.x", 2.0)
    for k, name in enumerate(names):
        carrier = "hold" if name == "mid" else None
        card = wh.Picture(id=name, name=name, artwork=wh.Solid(), width=300, height=200 + 50 * k, carrier=carrier)
        scene = wh.edits.add_node(scene, card)
        scene = wh.edits.set_value(scene, name, "position.x", -1.0 + k)
        scene = wh.edits.set_value(scene, name, "position.y", 0.4 * k)
    return scene


def apply(scene: wh.Scene, changes: arranging.Changes) -> wh.Scene:
    for (node, channel), value in changes.items():
        scene = wh.edits.set_value(scene, node, channel, value)
    return scene


def pixels(scene: wh.Scene, node: str) -> np.ndarray:
    here = evaluate(scene, FRAME)
    view = here.camera("cam")
    return np.stack([view.pixels(point[None])[0][0] for point in corners(here, node)[::2]])


def depth(scene: wh.Scene, node: str) -> float:
    here = evaluate(scene, FRAME)
    return float(here.camera("cam").pixels(here.position(node))[1][0])


@pytest.mark.parametrize("spacing", ["even", "perspective"])
def test_a_spread_looks_the_same_through_the_lens(stage, spacing):
    done = apply(stage, arranging.spread(stage, "cam", names, 5.0, 40.0, spacing, FRAME))
    depths = np.array([depth(done, name) for name in names])
    assert depths[[0, -1]] == pytest.approx([40.0, 5.0])
    if spacing == "even":
        assert np.ptp(np.diff(depths)) == pytest.approx(0.0, abs=1e-9)
    else:
        assert np.ptp(np.diff(1.0 / depths)) == pytest.approx(0.0, abs=1e-12)
    for name in ("far", "near"):
        # Flat cards that do not face the lens squarely keep their middle and, to first order, their size.
        middle = pixels(stage, name).mean(axis=0)
        assert pixels(done, name).mean(axis=0) == pytest.approx(middle, abs=3.0)
        assert np.ptp(pixels(done, name), axis=0) == pytest.approx(np.ptp(pixels(stage, name), axis=0), rel=0.06)


def test_a_spread_that_cannot_be_is_refused(stage):
    with pytest.raises(wh.SceneError, match="nearest"):
        arranging.spread(stage, "cam", names, 9.0, 3.0, "even", FRAME)
    with pytest.raises(wh.SceneError, match="nearest"):
        arranging.spread(stage, "cam", names, 0.0, 3.0, "even", FRAME)


@given(st.floats(0.2, 4.0))
def test_a_push_together_keeps_proportions(factor):
    scene = wh.Scene(nodes=(wh.Camera(id="cam", name="Cam", channels=(wh.Channel("position.z", 12.0),)),))
    for k, name in enumerate(names):
        card = wh.Picture(id=name, name=name, artwork=wh.Solid(), width=30, height=20)
        scene = wh.edits.set_value(wh.edits.add_node(scene, card), name, "position.z", 3.0 * k)
    done = apply(scene, arranging.push_together(scene, "cam", names, factor, FRAME, True))
    for name in names:
        assert depth(done, name) == pytest.approx(depth(scene, name) * factor)


@pytest.mark.parametrize("line", ["x", "y", "depth"])
def test_align_and_distribute(stage, line):
    along = {
        "x": np.array([1.0, 0, 0]),
        "y": np.array([0, 1.0, 0]),
        "depth": -evaluate(stage, FRAME).camera("cam").pose[0, :3, 2],
    }[line]

    def places(scene: wh.Scene) -> np.ndarray:
        here = evaluate(scene, FRAME)
        boxes = [corners(here, name) for name in names]
        return np.array([0.5 * (b.min(axis=0) + b.max(axis=0)) @ along for b in boxes])

    lined = apply(stage, arranging.align(stage, "cam", names, line, FRAME))
    assert places(lined) == pytest.approx(places(stage)[-1], abs=1e-8)
    spaced = apply(stage, arranging.distribute(stage, "cam", names, line, FRAME))
    assert np.diff(np.sort(places(spaced))) == pytest.approx(np.ptp(places(stage)) / 2, abs=1e-8)


def test_standing_on_the_ground_snapping_and_frame_distance(stage):
    done = apply(stage, arranging.stand_on_ground(stage, names, FRAME))
    for name in names:
        assert corners(evaluate(done, FRAME), name)[:, 1].min() == pytest.approx(0.0, abs=1e-9)
    snapped = apply(stage, arranging.snap(stage, ("far", "mid", "near"), FRAME))
    here = evaluate(snapped, FRAME)
    assert here.position("far") == pytest.approx(here.position("near"))
    assert here.position("mid") == pytest.approx(here.position("near"), abs=1e-9)
    dropped = apply(stage, arranging.to_frame_distance(stage, "cam", ("far",), FRAME))
    assert depth(dropped, "far") == pytest.approx(35.0 * 1920 / 36 / 100)


@pytest.mark.parametrize("node", ["far", "mid"])
def test_filling_the_frame_covers_it_and_no_more(stage, node):
    before = depth(stage, node)
    done = apply(stage, arranging.fill_frame(stage, "cam", (node,), FRAME))
    assert depth(done, node) == pytest.approx(before, rel=0.05)
    low, high = pixels(done, node).min(axis=0), pixels(done, node).max(axis=0)
    if node == "far":
        assert low[0] <= 1e-6
        assert low[1] <= 1e-6
        assert high[0] >= 1920 - 1e-6
        assert high[1] >= 1080 - 1e-6
        # One of the two sides fits to a pixel.
        assert min(abs(low[0]), abs(low[1])) < 1e-6


def test_moving_the_anchor_moves_nothing(stage):
    scene = wh.edits.set_key(stage, "near", "position.x", 0.0, 1.0)
    scene = wh.edits.set_key(scene, "near", "position.x", 12.0, 4.0)
    scene = wh.edits.set_value(scene, "near", "rotation.z", 25.0)
    scene = wh.edits.set_value(scene, "near", "scale.y", 3.0)
    scene = wh.edits.add_node(scene, wh.Null(id="child", name="Child", carrier="near"))
    scene = wh.edits.set_key(scene, "child", "position.y", 0.0, 2.0)
    scene = wh.edits.set_key(scene, "child", "position.y", 24.0, 3.0)
    moved = arranging.set_anchor(scene, "near", (0.5, 0.0, 0.5), FRAME)
    for frame in (0.0, 5.0, 12.0, 24.0):
        old, new = evaluate(scene, frame), evaluate(moved, frame)
        assert corners(new, "near") == pytest.approx(corners(old, "near"), abs=1e-8)
        assert new.position("child") == pytest.approx(old.position("child"), abs=1e-8)
    # It grows from its lower edge now.
    here = evaluate(wh.edits.set_value(moved, "near", "scale.y", 9.0), FRAME)
    edge = corners(here, "near")[corners(here, "near")[:, 1].argsort()[:2]]
    old_edge = corners(evaluate(moved, FRAME), "near")
    assert edge[0] in old_edge or np.abs(old_edge - edge[0]).min() < 1e-6


def test_a_size_in_pixels_keeps_the_proportions(stage):
    done = apply(stage, arranging.values_for_size(stage, "far", 600.0, None, FRAME))
    assert evaluate(done, FRAME).value("far", "scale.x")[0] == pytest.approx(2.0)
    assert evaluate(done, FRAME).value("far", "scale.y")[0] == pytest.approx(2.0)


@given(st.floats(-20, 20), st.floats(-6, 6), st.floats(3, 30), st.booleans())
def test_facing_the_camera(x, y, z, upright):
    bind = wh.FaceCamera("cam", upright)
    card = wh.Picture(id="card", name="Card", artwork=wh.Solid(), width=10, height=10, binds=(bind,))
    # A camera that aims at what faces it is no loop.
    scene = wh.Scene(nodes=(wh.Camera(id="cam", name="Cam", binds=(wh.AimAt(("card",)),)), card))
    for channel, value in {"position.x": x, "position.y": y, "position.z": z}.items():
        scene = wh.edits.set_value(scene, "cam", channel, value)
    scene = wh.edits.set_value(scene, "card", "scale.x", 3.0)
    here = evaluate(scene, 0.0)
    world = here.world("card")[0]
    toward = here.position("cam")[0] - here.position("card")[0]
    if upright:
        toward[1] = 0.0
        assert world[:3, 1] == pytest.approx([0.0, 1.0, 0.0], abs=1e-9)
    front = world[:3, 2] / np.linalg.norm(world[:3, 2])
    assert front == pytest.approx(toward / np.linalg.norm(toward), abs=1e-9)
    assert np.linalg.norm(world[:3, 0]) == pytest.approx(3.0)
    assert here.world("cam")[0, :3, 2] @ front >= 0.0


def test_nodes_that_face_a_carried_camera_in_a_loop_are_refused():
    card = wh.Picture(id="card", name="Card", artwork=wh.Solid(), width=10, height=10, binds=(wh.FaceCamera("cam"),))
    scene = wh.Scene(nodes=(wh.Camera(id="cam", name="Cam"), card))
    with pytest.raises(wh.LoopError, match="Card"):
        wh.edits.change_node(scene, "cam", carrier="card")
