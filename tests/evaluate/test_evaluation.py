"""Carriers, aims and cameras over arrays of frames."""

import json

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

import wild_heron as wh
from fuzzing.everything import everything
from wild_heron.demo import DEMO_SCENE
from wild_heron.evaluate import evaluate, turn_speed
from wild_heron.evaluate import evaluation as evaluation_module
from wild_heron.evaluate.sample import sample
from wild_heron.files.project import decode

FRAMES = np.arange(49.0)


def test_an_orbit_keeps_its_radius_and_its_aim(rig):
    there = evaluate(rig, FRAMES)
    assert there.camera("cam").aim_distance() == pytest.approx(np.full(49, 10.0), abs=1e-9)
    pose = there.camera("cam").pose
    ideal = -there.position("cam") / 10.0
    error = np.arccos(np.clip(np.einsum("ni,ni->n", -pose[:, :3, 2], ideal), -1, 1))
    assert error.max() < 1e-7
    assert there.position("cam")[-1] == pytest.approx([10, 0, 0], abs=1e-9)


def test_a_chain_of_carriers_is_the_product_of_its_matrices():
    scene = wh.Scene()
    expected = np.eye(4)
    rng = np.random.default_rng(4)
    carrier = None
    for k, order in enumerate(("xyz", "zxy", "yxz")):
        place, angles, scale = rng.uniform(-5, 5, 3), rng.uniform(-900, 900, 3), rng.uniform(0.2, 3, 3)
        node = wh.Null(id=f"n{k}", name=f"N{k}", carrier=carrier, rotation_order=order)
        scene = wh.edits.add_node(scene, node)
        for names, values in (("position", place), ("rotation", angles), ("scale", scale)):
            for axis, value in zip("xyz", values, strict=True):
                scene = wh.edits.set_value(scene, node.id, f"{names}.{axis}", float(value))
        local = np.eye(4)
        turn = Rotation.from_euler(order.upper(), [angles["xyz".index(a)] for a in order], degrees=True)
        local[:3, :3] = turn.as_matrix() @ np.diag(scale)
        local[:3, 3] = place
        expected = expected @ local
        carrier = node.id
    assert evaluate(scene, [0.0]).world("n2")[0] == pytest.approx(expected, abs=1e-9)


@given(st.lists(st.floats(-20, 80), min_size=1, max_size=24))
def test_one_call_equals_single_calls_bit_for_bit(frames):
    scene = over_the_top()
    together = evaluate(scene, frames)
    for i, frame in enumerate(frames):
        alone = evaluate(scene, [frame])
        for node in scene.nodes:
            assert together.world(node.id)[i].tobytes() == alone.world(node.id)[0].tobytes()
        assert together.camera("cam").pose[i].tobytes() == alone.camera("cam").pose[0].tobytes()


def over_the_top(sideways: float = 0.0) -> wh.Scene:
    """A camera that goes over its aim through the very top, from the front to the back."""
    scene = wh.Scene(settings=wh.Settings(last=60))
    scene = wh.edits.add_node(scene, wh.Null(id="lift", name="Lift"))
    scene = wh.edits.add_node(scene, wh.Null(id="aim", name="Aim"))
    scene = wh.edits.add_node(scene, wh.Camera(id="cam", name="Cam", carrier="lift", binds=(wh.AimAt(("aim",)),)))
    scene = wh.edits.set_value(scene, "cam", "position.z", 10.0)
    scene = wh.edits.set_value(scene, "cam", "position.x", sideways)
    scene = wh.edits.set_key(scene, "lift", "rotation.x", 0.0, -30.0, wh.Linear())
    return wh.edits.set_key(scene, "lift", "rotation.x", 60.0, -150.0)


@pytest.mark.parametrize("sideways", [0.0, 1e-9, 0.02, -0.5])
def test_over_the_pole_the_picture_turns_steadily(sideways):
    frames = np.arange(0.0, 60.01, 0.25)
    pose = evaluate(over_the_top(sideways), frames).camera("cam").pose[:, :3, :3]
    assert np.isfinite(pose).all()
    step = np.einsum("nij,nij->n", pose[1:], pose[:-1])
    turned = np.degrees(np.arccos(np.clip((step - 1) / 2, -1, 1)))
    assert turned.max() < 12.0  # a quarter of a frame; a flip would be near 180
    # Upright on both sides.
    assert pose[0, 1, 1] > 0.5
    assert pose[-1, 1, 1] > 0.5


@pytest.mark.parametrize("height", [10.0, -10.0])
def test_straight_up_and_down_is_a_clean_view(height):
    scene = wh.Scene(
        nodes=(wh.Null(id="aim", name="Aim"), wh.Camera(id="cam", name="Cam", binds=(wh.AimAt(("aim",)),)))
    )
    scene = wh.edits.set_value(scene, "cam", "position.y", height)
    pose = evaluate(scene, [0.0, 7.0]).camera("cam").pose
    assert -pose[:, 1, 2] == pytest.approx([-np.sign(height)] * 2)
    assert pose[:, :3, 0] == pytest.approx(np.array([[1, 0, 0], [1, 0, 0]]))


def test_an_aim_in_the_lens_itself_is_no_nan():
    scene = wh.Scene(
        nodes=(wh.Null(id="aim", name="Aim"), wh.Camera(id="cam", name="Cam", binds=(wh.AimAt(("aim",)),)))
    )
    assert np.isfinite(evaluate(scene, [0.0]).world("cam")).all()


def test_the_roll_is_kept_under_an_aim(rig):
    scene = wh.edits.set_value(rig, "cam", "rotation.z", 25.0)
    pose = evaluate(scene, [10.0]).camera("cam").pose[0]
    level = evaluate(rig, [10.0]).camera("cam").pose[0]
    cosine = float(pose[:3, 0] @ level[:3, 0])
    assert np.degrees(np.arccos(cosine)) == pytest.approx(25.0)


def test_an_aim_point_travels_with_the_carrier(rig):
    scene = wh.edits.change_node(rig, "cam", binds=(wh.AimAt(),))
    scene = wh.edits.set_value(scene, "cam", "aim.x", 2.0)
    aim = evaluate(scene, [0.0, 48.0]).aim("cam")
    assert aim == pytest.approx(np.array([[2, 0, 0], [0, 0, -2]]), abs=1e-9)


def test_a_scaled_carrier_moves_the_lens_but_does_not_scale_it(rig):
    for axis in "xyz":
        rig = wh.edits.set_value(rig, "turn", f"scale.{axis}", 3.0)
    there = evaluate(wh.edits.change_node(rig, "cam", binds=()), [12.0])
    assert np.linalg.norm(there.position("cam")) == pytest.approx(30.0)
    rotation = there.camera("cam").pose[0, :3, :3]
    assert rotation @ rotation.T == pytest.approx(np.eye(3), abs=1e-12)


def test_turn_speed_is_degrees_a_second(rig):
    around = (evaluate(rig, frame).camera("cam") for frame in (19.0, 21.0))
    assert turn_speed(*around, 24.0) == pytest.approx(90.0 / 48.0 * 24.0, rel=1e-6)


@pytest.mark.parametrize("frames", [[np.nan], [np.inf], [[1.0, 2.0]]])
def test_frames_that_are_no_frames_are_refused(rig, frames):
    with pytest.raises(ValueError, match="frames"):
        evaluate(rig, frames)


def test_sample_says_where_things_are_in_the_picture(rig):
    first, camera = list(sample(rig, ["target", "cam"], [0.0], "cam"))
    assert first["pixel"] == pytest.approx([320.0, 180.0])
    assert first["in_frame"] is True
    assert first["depth"] == pytest.approx(10.0)
    assert np.array(camera["matrix"]).reshape(4, 4)[:3, 3] == pytest.approx([0, 0, 10])
    assert camera["hfov_deg"] == pytest.approx(54.4322, abs=1e-3)
    assert camera["focal_mm"] == 35.0
    assert camera["sensor_mm"] == [36.0, 24.0]


@pytest.mark.parametrize("frames", [[3.0], [3.0, 4.0]])
def test_what_moves_is_known_to_move_even_of_one_frame(rig, frames):
    scene = wh.edits.set_key(rig, "turn", "rotation.y", 0.0, 0.0)
    scene = wh.edits.set_key(scene, "turn", "rotation.y", 9.0, 40.0)
    here = evaluate(scene, frames)
    assert not here.is_still("turn")
    assert not here.is_still("cam")
    assert here.is_still("target")


def test_one_frame_out_of_many_is_the_same_as_alone(rig):
    many = evaluate(rig, np.arange(0.0, 40.0))
    for frame in (0, 17, 39):
        one, alone = many.at(frame), evaluate(rig, float(frame))
        for node in rig.nodes:
            assert one.world(node.id).tobytes() == alone.world(node.id).tobytes()
            assert one.is_still(node.id) == alone.is_still(node.id)
        assert one.camera("cam").pose.tobytes() == alone.camera("cam").pose.tobytes()
        assert one.aim("cam").tobytes() == alone.aim("cam").tobytes()


def test_an_edit_works_out_only_what_depends_on_it(rig):
    scene = wh.edits.add_node(rig, wh.Null(id="far", name="Far"))
    scene = wh.edits.set_formula(scene, "far", "position.x", 'of("Card", "position.y")')
    before = evaluate(scene, [3.0, 9.0])
    assert before.computed == len(scene.nodes) + 1
    for node, channel, count in (("card", "position.x", 2), ("turn", "position.x", 3), ("target", "position.y", 2)):
        edited = wh.edits.set_value(scene, node, channel, 1.5)
        after, alone = evaluate(edited, [3.0, 9.0], previous=before), evaluate(edited, [3.0, 9.0])
        assert after.computed == count
        for each in edited.nodes:
            assert after.world(each.id).tobytes() == alone.world(each.id).tobytes()
    fed = wh.edits.set_value(scene, "card", "position.y", 4.0)
    assert evaluate(fed, [3.0, 9.0], previous=before).position("far")[0, 0] == 4.0
    assert evaluate(scene, [3.0, 10.0], previous=before).computed == before.computed
    gone = wh.edits.remove_nodes(scene, ["target"])
    assert (
        evaluate(gone, [3.0, 9.0], previous=before).world("cam").tobytes()
        == evaluate(gone, [3.0, 9.0]).world("cam").tobytes()
    )


def test_which_nodes_stand_still_is_worked_out_once_for_an_evaluation(monkeypatch):
    """Whoever paints asks of every node."""
    scene = wh.edits.add_nodes(wh.Scene(), [wh.Null(id=f"null-{k}", name=f"Null {k}") for k in range(9)])
    for frame in (0.0, 9.0):
        scene = wh.edits.set_key(scene, "null-3", "position.x", frame, frame)
    asked = []
    known = evaluation_module.still_nodes
    monkeypatch.setattr(evaluation_module, "still_nodes", lambda *given: asked.append(1) or known(*given))
    here = wh.evaluate(scene, 4.0)
    assert [node.id for node in scene.nodes if not here.is_still(node.id)] == ["null-3"]
    assert len(asked) == 1


@pytest.mark.parametrize("path", [DEMO_SCENE, None], ids=["demo", "everything"])
def test_what_a_camera_sees_is_the_same_bits_looked_up_in_a_block_or_asked_for_alone(path):
    """In cuts, blends and events, in formats with windows, for cameras with and without an aim."""
    if path is not None:
        scene = wh.load(path)
    else:
        scene = decode(json.dumps(everything()).encode())
    frames = np.arange(scene.settings.first, scene.settings.last + 1, 7.0)
    block = wh.evaluate(scene, frames)
    cameras = [None, *(node.id for node in scene.nodes if node.serves_as("camera"))]
    for i, frame in enumerate(frames.tolist()):
        alone = wh.evaluate(scene, frame)
        for camera in cameras:
            for shape in (None, *scene.formats):
                ours, theirs = block.at(i).camera(camera, shape), alone.camera(camera, shape)
                for name in ours.__struct_fields__:
                    a, b = getattr(ours, name), getattr(theirs, name)
                    if name == "aim":
                        a, b = (None if each is None or np.isnan(each).any() else each for each in (a, b))
                    if isinstance(a, np.ndarray):
                        assert a.tobytes() == np.broadcast_to(b, a.shape).tobytes(), (frame, camera, shape, name)
                    else:
                        assert a == b, (frame, camera, shape, name)
