"""Edits that keep a pose."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import wild_heron as wh
from wild_heron.edits.posing import (
    add_null_at,
    aim_at_node,
    aim_at_point,
    carry_together,
    delete_nodes,
    depth_of,
    give_carrier,
    middle,
    release_aim,
    values_for_depth,
    values_for_pose,
)
from wild_heron.evaluate import evaluate
from wild_heron.scene.validate import validate

degrees = st.floats(-1000, 1000)


def place(scene: wh.Scene, node: str, **values: float) -> wh.Scene:
    for name, value in values.items():
        scene = wh.edits.set_value(scene, node, name.replace("_", "."), value)
    return scene


def pair(x: float, y: float, z: float) -> wh.Scene:
    scene = wh.Scene(nodes=(wh.Null(id="a", name="A"), wh.Null(id="b", name="B")))
    scene = place(
        scene, "a", position_x=3.0, rotation_x=x, rotation_y=y, rotation_z=z, scale_x=2.0, scale_y=2.0, scale_z=2.0
    )
    return place(scene, "b", position_y=-4.0, rotation_y=370.0, rotation_x=20.0)


@given(degrees, degrees, degrees)
def test_giving_and_taking_a_carrier_keeps_the_world_pose(x, y, z):
    scene = pair(x, y, z)
    before = evaluate(scene, 0.0).world("b")[0]
    hung = give_carrier(scene, "b", "a", 0.0)
    assert evaluate(hung, 0.0).world("b")[0] == pytest.approx(before, abs=1e-6)
    freed = give_carrier(hung, "b", None, 0.0)
    assert evaluate(freed, 0.0).world("b")[0] == pytest.approx(before, abs=1e-6)


def test_a_keyed_node_keeps_its_pose_at_every_key_and_its_turns():
    scene = pair(10.0, 90.0, 0.0)
    for frame, angle in ((0.0, 0.0), (24.0, 720.0), (48.0, 1080.0)):
        channel = scene.node("b").channel("rotation.y")
        if channel and not channel.keys:
            scene = wh.edits.set_channel(scene, "b", wh.Channel("rotation.y"))
        scene = wh.edits.set_key(scene, "b", "rotation.y", frame, angle, wh.Linear())
    scene = wh.edits.set_channel(scene, "b", wh.Channel("rotation.x"))
    scene = place(scene, "a", rotation_x=0.0)
    frames = [0.0, 24.0, 48.0]
    before = evaluate(scene, frames).world("b")
    hung = give_carrier(scene, "b", "a", 12.0)
    assert evaluate(hung, frames).world("b") == pytest.approx(before, abs=1e-6)
    values = [key.value for key in hung.node("b").channel("rotation.y").keys]
    assert np.diff(values) == pytest.approx([720.0, 360.0], abs=1e-6)


def test_loops_are_refused_and_named(rig):
    with pytest.raises(wh.LoopError, match="Turn"):
        give_carrier(rig, "turn", "cam", 0.0)
    hung = give_carrier(rig, "target", "turn", 0.0)
    with pytest.raises(wh.LoopError, match=r"Cam → Target|Target → Cam"):
        give_carrier(hung, "target", "cam", 0.0)
    with pytest.raises(wh.SceneError, match="aim at itself"):
        aim_at_node(rig, "cam", "cam")


def test_a_carrier_scaled_to_nothing_is_named(rig):
    scene = place(rig, "target", scale_x=0.0)
    with pytest.raises(wh.SceneError, match="Target is scaled to nothing"):
        give_carrier(scene, "card", "target", 0.0)


def test_deleting_a_carrier_leaves_what_it_carried_in_place(rig):
    before = evaluate(rig, 24.0).position("cam")[0]
    scene = delete_nodes(rig, ["turn"], 24.0)
    assert scene.node("cam").carrier is None
    assert evaluate(scene, 24.0).position("cam")[0] == pytest.approx(before, abs=1e-6)


def test_deleting_the_aim_frees_the_camera_and_deleting_the_camera_leaves_none(rig):
    assert delete_nodes(rig, ["target"], 0.0).node("cam").aim is None
    assert delete_nodes(rig, ["cam"], 0.0).camera is None


def test_nulls_are_put_where_they_are_wanted(rig):
    scene = place(rig, "card", position_x=4.0, position_y=2.0)
    assert middle(scene, ["card", "target"], 0.0) == pytest.approx([2, 1, 0])
    scene, null = add_null_at(scene, "Null", np.array([5.0, 6.0, 7.0]), "turn", 48.0)
    assert evaluate(scene, 48.0).world(null)[0] == pytest.approx(
        np.block([[np.eye(3), np.array([[5], [6], [7]])], [0, 0, 0, 1]])
    )


def test_an_aim_becomes_a_point_and_is_released_with_the_pose_kept(rig):
    pose = evaluate(rig, 30.0).camera("cam").pose[0]
    pointed = aim_at_point(rig, "cam", 30.0)
    assert evaluate(pointed, 30.0).camera("cam").pose[0] == pytest.approx(pose, abs=1e-6)
    freed, values = release_aim(rig, "cam", 30.0)
    for name, value in values.items():
        freed = wh.edits.set_value(freed, "cam", name, value)
    assert evaluate(freed, 30.0).camera("cam").pose[0] == pytest.approx(pose, abs=1e-6)


@given(st.floats(1.0, 60.0))
def test_depth_keeps_apparent_size_and_place(depth):
    scene = wh.Scene(
        nodes=(
            wh.Camera(id="c", name="C"),
            wh.Picture(id="p", name="P", artwork=wh.ImageFile("p.png"), width=10, height=10),
        )
    )
    scene = place(scene, "c", position_x=1.0, position_z=20.0, rotation_y=5.0)
    scene = place(scene, "p", position_x=2.0, position_y=3.0, scale_x=2.0, scale_y=1.5)
    view = evaluate(scene, 0.0).camera("c")
    corner = np.array([0.05, 0.05, 0.0, 1.0])

    def pixel(at: wh.Scene) -> np.ndarray:
        return view.pixels((evaluate(at, 0.0).world("p")[0] @ corner)[None, :3])[0][0]

    before = pixel(scene)
    for name, value in values_for_depth(scene, "c", "p", depth, 0.0, keep_size=True).items():
        scene = wh.edits.set_value(scene, "p", name, value)
    assert depth_of(scene, "c", "p", 0.0) == pytest.approx(depth, abs=1e-6)
    assert pixel(scene) == pytest.approx(before, abs=0.2)  # the picture does not face the lens squarely


def test_an_aim_that_was_a_point_leaves_nothing_behind(rig):
    pointed = aim_at_point(rig, "cam", 0.0)
    pointed = wh.edits.set_key(pointed, "cam", "aim.x", 0.0, 3.0)
    assert aim_at_point(pointed, "cam", 5.0) is pointed
    for scene in (aim_at_node(pointed, "cam", "target"), release_aim(pointed, "cam", 0.0)[0]):
        validate(scene)
        assert not [channel for channel in scene.node("cam").channels if channel.name.startswith("aim")]


def test_depth_behind_the_lens_is_refused(rig):
    with pytest.raises(wh.SceneError, match="behind the lens"):
        values_for_depth(place(rig, "card", position_z=50.0), "cam", "card", 5.0, 0.0, True)


def test_a_pose_that_is_no_number_is_refused(rig):
    with pytest.raises(wh.SceneError, match="not a finite"):
        values_for_pose(rig, "card", np.full((4, 4), np.nan), 0.0)


def test_carrying_together_leaves_inner_carriers_alone(rig):
    scene = carry_together(rig, ["turn", "cam", "card"], "target", 0.0)
    assert [scene.node(i).carrier for i in ("turn", "cam", "card")] == ["target", "turn", "target"]
