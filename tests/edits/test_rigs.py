"""Rigs do what their name says, and dissolve into keys that do the same."""

import numpy as np
import pytest

import wild_heron as wh
from wild_heron.edits import baking, rigs
from wild_heron.edits.framings import play_through
from wild_heron.evaluate import evaluate
from wild_heron.evaluate.cameras import BY_FRAME, LENS, LENS_PARTS

FRAMES = np.arange(0.0, 240.0)


@pytest.fixture
def stage() -> wh.Scene:
    """An emblem, a cart that runs past it, hills, and a camera that looks on."""
    scene = wh.Scene(
        nodes=(
            wh.Null(id="emblem", name="Emblem", channels=(wh.Channel("position.y", 3.0),)),
            wh.Null(id="cart", name="Cart"),
            wh.Ground(id="hills", name="Hills", surface=wh.Waves((wh.Wave(0.0, 9.0, 1.0),))),
            wh.Camera(id="cam", name="Cam"),
        )
    )
    scene = wh.edits.set_key(scene, "cart", "position.x", 0, -6.0, wh.Linear())
    scene = wh.edits.set_key(scene, "cart", "position.x", 239, 6.0)
    for name, value in (("position.x", 4.0), ("position.y", 5.0), ("position.z", 11.0), ("rotation.y", 12.0)):
        scene = wh.edits.set_value(scene, "cam", name, value)
    return scene


def aim_error(here, camera, point):
    pose = here.world(camera)
    way = point - here.position(camera)
    way = way / np.linalg.norm(way, axis=1)[:, None]
    return np.linalg.norm(np.cross(-pose[:, :3, 2], way), axis=1).max()


def test_an_orbit_keeps_its_radius_looks_at_the_middle_and_starts_where_the_camera_was(stage):
    before = evaluate(stage, 0.0).position("cam")[0]
    scene, (pivot, lift, camera) = rigs.orbit(stage, "cam", ["emblem"], 0.0, turns=2.0)
    here = evaluate(scene, FRAMES)
    away = here.position(camera) - here.position("emblem")
    assert here.position(camera)[0] == pytest.approx(before, abs=1e-5)
    assert np.abs(np.linalg.norm(away, axis=1) - np.linalg.norm(away[0])).max() < 1e-9
    assert aim_error(here, camera, here.position("emblem")) < 1e-9
    # Whole turns loop: the frame after the last is the first one again.
    assert evaluate(scene, 240.0).position(camera)[0] == pytest.approx(before, abs=1e-5)
    assert scene.node(camera).carrier == lift
    assert scene.node(lift).carrier == pivot


@pytest.mark.parametrize("factor", [0.5, 3.0])
def test_pulling_back_works_by_the_arm_and_by_scaling_the_pivot(stage, factor):
    scene, (pivot, _, camera) = rigs.orbit(stage, "cam", ["emblem"], 0.0)
    here = evaluate(scene, 0.0)
    distance = np.linalg.norm(here.position(camera)[0] - here.position("emblem")[0])
    arm = wh.edits.set_value(scene, camera, "position.z", distance * factor)
    scaled = scene
    for axis in "xyz":
        scaled = wh.edits.set_value(scaled, pivot, f"scale.{axis}", factor)
    for pulled in (arm, scaled):
        then = evaluate(pulled, 0.0)
        assert np.linalg.norm(then.position(camera)[0] - then.position("emblem")[0]) == pytest.approx(distance * factor)
        assert then.camera(camera).pose[0, :3, :3] == pytest.approx(here.camera(camera).pose[0, :3, :3])
        assert then.camera(camera).focal_px == pytest.approx(here.camera(camera).focal_px)


def test_base_turn_and_arm_each_do_one_thing(stage):
    scene, (pivot, base, arm, aim, camera) = rigs.base_turn_arm(stage, "cam", ["emblem"], 0.0)
    start = evaluate(scene, 0.0)
    moved = evaluate(wh.edits.set_value(scene, base, "position.x", 5.0), 0.0)
    assert moved.position(camera)[0] - start.position(camera)[0] == pytest.approx([5.0, 0.0, 0.0])
    assert moved.position(aim)[0] - start.position(aim)[0] == pytest.approx([5.0, 0.0, 0.0])
    turned = evaluate(wh.edits.set_value(scene, pivot, "rotation.y", 90.0), 0.0)
    assert turned.position(pivot) == pytest.approx(start.position(pivot))
    pushed = evaluate(wh.edits.set_value(scene, arm, "position.z", 2.0), 0.0)
    assert np.linalg.norm(pushed.position(camera)[0] - pushed.position(aim)[0]) == pytest.approx(2.0)
    for here in (start, moved, turned, pushed):
        assert aim_error(here, camera, here.position(aim)) < 1e-9


def test_a_ring_is_three_dials(stage):
    scene, (hub, _, camera) = rigs.ring(stage, "cam", ["emblem"], 0.0)
    assert evaluate(scene, 0.0).position(camera)[0] == pytest.approx([4.0, 5.0, 11.0], abs=1e-5)
    for dial, value in (("radius", 6.0), ("height", -1.0), ("turn", 90.0)):
        scene = wh.edits.set_value(scene, hub, f"dial.{dial}", value)
    here = evaluate(scene, 0.0)
    assert here.position(camera)[0] == pytest.approx([6.0, 2.0, 0.0], abs=1e-9)
    assert aim_error(here, camera, here.position("emblem")) < 1e-9
    # A turn goes round as often as is asked for, and keeps count.
    twice = evaluate(wh.edits.set_value(scene, hub, "dial.turn", 720.0 + 90.0), 0.0)
    assert twice.value(hub, "dial.turn")[0] == 810.0
    assert twice.position(camera)[0] == pytest.approx([6.0, 2.0, 0.0], abs=1e-9)


@pytest.mark.parametrize(("over_span", "way"), [(False, 0.5 * 239 / 24), (True, 0.5)])
def test_a_drift_is_steady_and_its_variants_make_the_same_move(stage, over_span, way):
    before = evaluate(stage, 60.0).world("cam")[0]
    scene, (_, _, camera) = rigs.drift(stage, "cam", 60.0, "x", 0.5, over_span, turn=4.0)
    here = evaluate(scene, FRAMES)
    assert here.world(camera)[60] == pytest.approx(before, abs=1e-5)
    steps = np.diff(here.position(camera), axis=0)
    assert np.linalg.norm(steps, axis=1) == pytest.approx(np.full(239, way / 239), rel=1e-5)
    scene, copies = rigs.variants(scene, camera, [rigs.Variant(2.0, -5.0, 50.0), rigs.Variant(-1.0)])
    there = evaluate(scene, FRAMES)
    assert np.diff(there.position(copies[0]), axis=0) != pytest.approx(0.0)
    # Drifts turn what they carry, so a copy higher up travels with it, always as far above.
    assert there.position(copies[0])[:, 1] - there.position(camera)[:, 1] == pytest.approx(np.full(240, 2.0), abs=1e-6)
    assert there.value(copies[0], "lens.focal")[0] == 50.0
    assert there.value(copies[1], "lens.focal")[0] == 35.0


def test_a_crane_swings_level_and_looks_at_its_target(stage):
    scene, (boom, post, camera) = rigs.crane(stage, "cam", ["emblem"], 0.0)
    start = evaluate(scene, 0.0)
    assert start.position(camera)[0] == pytest.approx([4.0, 5.0, 11.0], abs=1e-5)
    raised = evaluate(wh.edits.set_value(scene, boom, "rotation.x", 50.0), 0.0)
    assert raised.position(camera)[0, 1] > 5.0
    reach = np.linalg.norm(start.position(camera)[0] - start.position(post)[0])
    assert np.linalg.norm(raised.position(camera)[0] - raised.position(post)[0]) == pytest.approx(reach)
    assert aim_error(raised, camera, raised.position("emblem")) < 1e-9
    assert abs(raised.world(camera)[0, 1, 0]) < 1e-9


def test_a_path_ride_goes_round_and_a_ground_ride_keeps_eye_height(stage):
    scene, (camera, path) = rigs.path_ride(stage, "cam", None, 0.0, "emblem")
    here = evaluate(scene, FRAMES)
    flat = (here.position(camera) - here.position(path))[:, [0, 2]]
    assert np.linalg.norm(flat, axis=1) == pytest.approx(np.full(240, np.linalg.norm(flat[0])))
    assert aim_error(here, camera, here.position("emblem")) < 1e-9
    scene, (cart, _, camera) = rigs.ground_ride(stage, "cam", "hills", 0.0, 1.6, tilt=0.0)
    scene = wh.edits.set_value(scene, cart, "ground.footprint", 0.0)
    scene = wh.edits.set_key(scene, cart, "position.x", 0, -9.0, wh.Linear())
    scene = wh.edits.set_key(scene, cart, "position.x", 239, 9.0)
    at = evaluate(scene, FRAMES).position(camera)
    assert at[:, 1] - 1.6 == pytest.approx(0.5 * np.sin(2 * np.pi * at[:, 0] / 9.0), abs=1e-9)


def test_following_keeps_the_target_in_the_middle(stage):
    scene, (camera, target) = rigs.follow(stage, "cam", "cart", "behind", 4.0, 9.0)
    here = evaluate(scene, FRAMES)
    distance = np.linalg.norm(here.position(camera) - here.position(target), axis=1)
    assert distance.min() >= 4.0 - 1e-9
    assert distance.max() <= 9.0 + 1e-9
    assert aim_error(here, camera, here.position(target)) < 1e-9


def test_a_hop_goes_over_at_a_kept_distance_and_lands_upright(stage):
    scene, (_, pivot, aim, camera) = rigs.hop_over(stage, "cam", "emblem", "cart", 0.0)
    here = evaluate(scene, FRAMES)
    away = here.position(camera) - here.position(pivot)
    assert np.ptp(np.linalg.norm(away, axis=1)) < 1e-9
    assert away[-1, [0, 2]] == pytest.approx(-away[0, [0, 2]], abs=1e-5)
    assert away[:, 1].max() == pytest.approx(np.linalg.norm(away[0]), rel=1e-3)
    assert aim_error(here, camera, here.position(aim)) < 1e-9
    up = here.world(camera)[:, 1, 1]
    assert up[0] > 0.5
    assert up[-1] > 0.5
    turn = np.einsum("nij,nij->n", here.world(camera)[1:, :3, :3], here.world(camera)[:-1, :3, :3])
    assert np.degrees(np.arccos(np.clip((turn - 1) / 2, -1, 1))).max() < 4.0


@pytest.mark.parametrize("place", [(7.0, 3.0, 0.0), (-9.0, 0.5, -6.0), (2.0, 6.0, 4.0), (0.5, 3.0, -14.0)])
def test_a_hop_onto_another_node_starts_and_lands_level(stage, place):
    scene = wh.edits.add_node(stage, wh.Null(id="kite", name="Kite"))
    for name, value in zip(("position.x", "position.y", "position.z"), place, strict=True):
        scene = wh.edits.set_value(scene, "kite", name, value)
    scene, (*_, camera) = rigs.hop_over(scene, "cam", "emblem", "kite", 0.0)
    here = evaluate(scene, np.array([0.0, float(scene.settings.last)])).world(camera)
    assert here[:, 1, 0] == pytest.approx([0.0, 0.0], abs=1e-6)
    assert (here[:, 1, 1] > 0.0).all()


@pytest.mark.parametrize("driver", ["focal", "distance"])
def test_a_held_size_is_held_within_a_tenth_of_a_pixel(stage, driver):
    scene, (_, _, camera) = rigs.orbit(stage, "cam", ["emblem"], 0.0)
    if driver == "focal":
        scene = wh.edits.set_key(scene, camera, "lens.focal", 20, 24.0)
        scene = wh.edits.set_key(scene, camera, "lens.focal", 180, 85.0)
    else:
        scene = wh.edits.set_key(scene, camera, "position.z", 20, 6.0)
        scene = wh.edits.set_key(scene, camera, "position.z", 180, 19.0)
    held, line = baking.hold_size(scene, camera, "emblem", rigs.FrameRange(10.0, 200.0))
    assert "Emblem keeps its size" in line
    here = evaluate(held, np.arange(10.0, 200.5, 0.25))
    view = here.camera(camera)
    up = here.position("emblem") + view.pose[:, :3, 1]
    size = np.linalg.norm(view.pixels(up)[0] - view.pixels(here.position("emblem"))[0], axis=1)
    assert np.ptp(size) < 0.1


def test_a_dissolved_rig_makes_the_same_move_with_few_keys(stage):
    scene, (_, _, camera) = rigs.orbit(stage, "cam", ["emblem"], 0.0, turns=1.0)
    scene = wh.edits.set_key(scene, camera, "position.z", 0, 9.0)
    scene = wh.edits.set_key(scene, camera, "position.z", 239, 5.0)
    free, _ = baking.dissolve(scene, [camera], allowed=baking.Tolerance(0.01, 0.1))
    assert free.node(camera).carrier is None
    rigged, baked = evaluate(scene, FRAMES), evaluate(free, FRAMES)
    assert np.linalg.norm(rigged.position(camera) - baked.position(camera), axis=1).max() < 0.02
    turned = np.einsum("nij,nij->n", rigged.world(camera)[:, :3, :3], baked.world(camera)[:, :3, :3])
    assert np.degrees(np.arccos(np.clip((turned - 1) / 2, -1, 1))).max() < 0.2
    assert baking.key_count(free, [camera]) < 90
    kept, (copy,) = baking.dissolve(scene, [camera], keep=True)
    assert kept.node(camera) == scene.node(camera)
    assert kept.node(copy).name == "Cam, baked"


def test_a_move_lifted_to_a_path_stays_where_it_was_and_comes_back(stage):
    for name, pairs in (
        ("position.x", ((0, 4.0), (90, -3.0), (200, 6.0))),
        ("position.y", ((0, 5.0), (200, 2.0))),
        ("position.z", ((0, 11.0), (120, 7.0), (200, 12.0))),
    ):
        for frame, value in pairs:
            stage = wh.edits.set_key(stage, "cam", name, frame, value)
    before = evaluate(stage, FRAMES).position("cam")
    lifted, path = baking.lift_to_path(stage, "cam")
    assert np.abs(evaluate(lifted, FRAMES).position("cam") - before).max() < 0.02
    assert len(lifted.node(path).curve.points) < 30
    assert not lifted.node("cam").channel("position.x").keys
    back = baking.lower_to_keys(lifted, "cam")
    assert np.abs(evaluate(back, FRAMES[:201]).position("cam") - before[:201]).max() < 0.03
    assert back.node("cam").binds == ()


SPANS = (
    wh.Hold(), wh.Linear(), wh.Flow("monotone"), wh.Flow("smooth"), wh.Family("cubic", "in-out"), wh.Spring(3, 0.5),
    wh.Family("bounce", "out"), wh.Family("elastic", "out"), wh.Steps(3), wh.Steps(5, "both"), wh.Family("expo", "in"),
    wh.Bezier(0.9, 0.0, 0.1, 1.0), wh.Family("circ", "in-out"),
)  # fmt: skip
TENTHS = np.arange(0, 481) / 10


def restless(seed: int) -> wh.Scene:
    """A camera on two carriers, keyed at random on frames and between, with holds, steps, springs and kinks."""
    rng = np.random.default_rng(seed)
    scene = wh.Scene(
        settings=wh.Settings(last=48),
        nodes=(
            wh.Null(id="a", name="A", channels=(wh.Channel("scale.x", 3.0), wh.Channel("scale.y", 3.0))),
            wh.Null(id="b", name="B", carrier="a"),
            wh.Camera(id="cam", name="Cam", carrier="b"),
            wh.Null(id="subject", name="Subject", channels=(wh.Channel("position.z", -60.0),)),
        ),
    )
    for node, name, low, high in (
        ("a", "position.x", -4, 4), ("a", "position.y", -4, 4), ("a", "rotation.y", -90, 90),
        ("b", "rotation.x", -9, 9), ("cam", "position.x", -2, 2), ("cam", "position.z", 4, 9),
        ("cam", "rotation.z", -40, 40),
    ):  # fmt: skip
        times = np.sort(rng.uniform(0.0, 48.0, int(rng.integers(2, 6))))
        for frame in np.unique(np.where(rng.random(len(times)) < 0.5, np.round(times), times)).tolist():
            span = SPANS[int(rng.integers(len(SPANS)))]
            scene = wh.edits.set_key(scene, node, name, frame, rng.uniform(low, high), span)
    return scene


def apart(first, second):
    """How far the camera of two scenes is apart at every tenth of a frame, in units and degrees."""
    a, b = evaluate(first, TENTHS), evaluate(second, TENTHS)
    trace = np.einsum("nij,nij->n", a.world("cam")[:, :3, :3], b.world("cam")[:, :3, :3])
    turned = np.degrees(np.arccos(np.clip((trace - 1) / 2, -1, 1)))
    return np.linalg.norm(a.position("cam") - b.position("cam"), axis=1).max(), turned.max()


@pytest.mark.parametrize("seed", range(12))
def test_what_is_baked_keeps_to_the_motion_at_every_tenth_of_a_frame(seed):
    scene = restless(seed)
    for node, name in (("a", "scale.x"), ("a", "scale.y")):
        scene = wh.edits.set_value(scene, node, name, 1.0)  # Uneven scale under a turn has no keys that do the same.
    units, degrees = apart(scene, baking.dissolve(scene, ["cam"])[0])
    assert units <= 0.002
    assert degrees <= 0.02


@pytest.mark.parametrize("seed", range(12))
def test_lifting_and_lowering_keep_to_the_motion_at_every_tenth_of_a_frame(seed):
    scene = restless(seed)
    lifted, _ = baking.lift_to_path(scene, "cam")
    assert apart(scene, lifted)[0] <= 0.01
    assert apart(lifted, baking.lower_to_keys(lifted, "cam"))[0] <= 0.002


@pytest.mark.parametrize("seed", range(12))
@pytest.mark.parametrize("driver", ["focal", "distance"])
def test_a_size_is_held_between_frames_too(seed, driver):
    scene = restless(seed)
    for name in ("rotation.y", "position.x", "position.y"):
        scene = wh.edits.set_channel(scene, "a", wh.Channel(name, 0.0))
    if driver == "focal":
        scene = wh.edits.set_key(scene, "cam", "lens.focal", 7.3, 35.0, wh.Steps(3))
        scene = wh.edits.set_key(scene, "cam", "lens.focal", 30.6, 70.0)
    held, _ = baking.hold_size(scene, "cam", "subject")
    here = evaluate(held, TENTHS)
    view = here.camera("cam")
    _, depth = view.pixels(here.position("subject"))
    size = view.focal_px / depth * 10.0  # Of ten units at the subject's depth, in pixels.
    assert np.ptp(size) < 0.1


@pytest.mark.parametrize(
    ("work", "says"),
    [
        (lambda s: baking.lift_to_path(s, "cam"), "Cam has no position keys"),
        (lambda s: baking.lower_to_keys(s, "cam"), "Cam rides no path"),
        (lambda s: baking.hold_size(s, "cam", "emblem"), "Neither the distance to Emblem nor the focal length"),
        (lambda s: rigs.follow(s, "cart", "cart", "behind", 1, 2), "loop: Cart → Cart"),
    ],
)
def test_what_cannot_be_done_is_refused_by_name(stage, work, says):
    with pytest.raises(wh.SceneError, match=says):
        work(stage)


def test_a_dissolved_tour_keeps_all_of_its_lens(stage):
    """Clip planes, too: near is mixed in log space, so half the way from 1 to 5 it is √5."""
    scene = stage
    for node, near, far, stop in (("one", 1.0, 50.0, 2.0), ("two", 5.0, 200.0, 8.0)):
        lens = {"lens.near": near, "lens.far": far, "lens.f_stop": stop, "lens.shutter": near * 30.0}
        lens["position.z"] = near
        channels = tuple(wh.Channel(name, value) for name, value in lens.items())
        scene = wh.edits.add_node(scene, wh.Framing(id=node, name=node.title(), channels=channels))
    scene, _ = play_through(scene, "cam", ["one", "two"], 24.0, ease=wh.Linear())
    toured = evaluate(scene, FRAMES, ["cam"]).camera("cam")
    assert toured.near.min() == pytest.approx(1.0)
    assert toured.near.max() == pytest.approx(5.0)
    assert np.abs(toured.near - 5.0**0.5).min() < 0.1
    free, _ = baking.dissolve(scene, ["cam"])
    baked = evaluate(free, FRAMES, ["cam"]).camera("cam")
    for part in LENS.values():
        assert getattr(baked, part) == pytest.approx(getattr(toured, part), rel=2e-3, abs=1e-6), part


def test_every_number_of_a_picture_is_mixed_chosen_and_put_together():
    """A field that is new in a picture has to be told how it is mixed, by name, before any picture is wrong."""
    told = {"frames", "pose", "focal_px", "shift", "aim", "about", *(part.field for part in LENS_PARTS)}
    assert set(BY_FRAME) - told == set()
    channels = {spec.name for spec in wh.Camera.own_channels}
    assert channels == set(LENS)
