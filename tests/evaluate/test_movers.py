"""Movers of a scene: what they add, in whose axes, and that nothing depends on how frames are asked for."""

import msgspec
import numpy as np
import pytest
from scipy.signal import step as scipy_step
from scipy.spatial.transform import Rotation

from wild_heron.edits import (
    add_bind,
    add_movers,
    add_node,
    add_take,
    change_mover,
    change_node,
    duplicate,
    move_mover,
    remove_mover,
    remove_nodes,
    set_aim,
    set_formula,
    set_key,
    set_links,
    set_value,
    use_take,
)
from wild_heron.edits.baking import dissolve
from wild_heron.edits.framings import keep_framing, play_through
from wild_heron.edits.mover_baking import back_to_movers, let_it_land, to_keys, with_more_life
from wild_heron.evaluate import evaluate
from wild_heron.evaluate.movers.stopping import nothing_to_swing, stops
from wild_heron.files.project import decode, encode
from wild_heron.motion.movers.springs import spring
from wild_heron.scene import (
    TURN,
    AimAt,
    AtMarker,
    Beats,
    Bezier,
    Camera,
    Channel,
    EasePart,
    Event,
    Family,
    Framing,
    Handles,
    Hold,
    Impact,
    Key,
    Lag,
    Limiter,
    Linear,
    LinePath,
    Link,
    LoopError,
    Marker,
    Null,
    Oscillator,
    Overshoot,
    Path,
    RidePath,
    Scene,
    SceneError,
    Settings,
    Shake,
    Shot,
    SteadyRate,
    StepHold,
    Steps,
    Take,
    TakeUse,
    Target,
    Tour,
    packed,
)
from wild_heron.scene.channels import POSITION, ROTATION
from wild_heron.scene.mover_presets import MOVER_PRESETS, mover_preset, new_mover
from wild_heron.scene.movers import MOVER_KINDS
from wild_heron.scene.validate import validate, validate_change

FRAMES = np.arange(0.0, 240.0)


def on(*names, amount=1.0):
    return tuple(Target(name, amount) for name in names)


@pytest.fixture
def scene():
    """A camera that moves over a null that turns; something to look at."""
    made = Scene(settings=Settings(first=0, last=239), beats=Beats(first=3.0))
    for node in (
        Null(id="rig", name="Rig"),
        Null(id="thing", name="Thing"),
        Camera(id="cam", name="Cam", carrier="rig"),
    ):
        made = add_node(made, node)
    for frame, value in ((10, 0.0), (60, 5.0)):
        made = set_key(made, "cam", "position.x", frame, value, Linear())
    for frame, value in ((0, 0.0), (100, 90.0)):
        made = set_key(made, "rig", "rotation.y", frame, value, Linear())
    made = set_value(made, "cam", "position.z", 8.0)
    return made


STEEP = (
    Hold(), Steps(4), Steps(4, "start"), Family("expo", "out"), Family("elastic", "out"), Family("circ", "in"),
    Family("quint", "in"), Bezier(0.3, 0.0, 1.0, 0.2), Bezier(0.3, 0.0, 0.9999, 0.2), Handles(0.0, 0.3, 1e4, 1e-5),
    EasePart(Family("bounce", "out"), 0.0, 0.3),
)  # fmt: skip


def keyed(*keys):
    """A camera that moves along x by keys: frame, value and span."""
    scene = add_node(Scene(settings=Settings(first=0, last=239)), Camera(id="cam", name="Cam"))
    for key in keys:
        scene = set_key(scene, "cam", "position.x", *key)
    return scene


def moved(scene, *movers, node="cam"):
    changed, _ = add_movers(scene, node, movers)
    validate(changed)
    validate_change(scene, changed)
    assert decode(encode(changed)) == changed
    return changed


def value(scene, channel="position.x", frames=FRAMES, node="cam"):
    return evaluate(scene, frames).value(node, channel)


EVERY = [
    Oscillator(targets=on("position.x")),
    Oscillator(targets=on("position.x", "rotation.y"), per="beats", space="own"),
    SteadyRate(targets=on("position.x"), since=20, ease_in=1.0, space="world"),
    Shake(targets=on(*POSITION, *ROTATION), space="world"),
    Shake(targets=on(*ROTATION, amount=2.0), about="aim"),
    Shake(targets=on(*POSITION), space="picture", stride=0.5),
    Overshoot(targets=on("position.x")),
    Overshoot(targets=on("position.x"), only_stops=False),
    Overshoot(targets=on("position.x"), only_stops=False, loop=2.0),
    Overshoot(targets=on(*POSITION, *ROTATION), only_stops=False, space="world"),
    Lag(targets=on("position.x")),
    Lag(targets=on("position.x"), by="frames", delay=5.0),
    Lag(targets=on(*POSITION, *ROTATION), space="world"),
    Limiter(targets=on("position.x"), low=1.0, high=3.0, soft=0.5),
    StepHold(targets=on("position.x"), every=3.0),
    Impact(targets=on("position.x"), when="beats", seed=3),
]


def named(mover):
    return f"{mover.label}, {mover.space}"


@pytest.mark.parametrize("mover", EVERY, ids=named)
class TestEveryMover:
    def test_a_frame_does_not_depend_on_those_asked_for_with_it(self, scene, mover):
        scene = moved(scene, mover)
        scene = set_key(scene, "cam", f"{mover.id}.strength", 0, 0.2, Linear())
        scene = set_key(scene, "cam", f"{mover.id}.strength", 90, 1.0, Linear())
        mixed = np.array([200.0, 7.3, 59.999, 60.0, 10.0, -3.0, 300.0])
        many = evaluate(scene, mixed)
        assert not many.faults
        for i, frame in enumerate(mixed):
            one = evaluate(scene, frame)
            assert (one.world("cam")[0] == many.world("cam")[i]).all()
            assert one.value("cam", "position.x")[0] == many.value("cam", "position.x")[i]

    def test_it_does_something_and_what_the_keys_say_stays(self, scene, mover):
        changed = moved(scene, mover)
        assert np.abs(evaluate(changed, FRAMES).world("cam") - evaluate(scene, FRAMES).world("cam")).max() > 1e-3
        assert changed.node("cam").channels == scene.node("cam").channels

    def test_without_strength_it_does_nothing(self, scene, mover):
        changed = set_value(moved(scene, mover), "cam", f"{mover.id}.strength", 0.0)
        assert (evaluate(changed, FRAMES).world("cam") == evaluate(scene, FRAMES).world("cam")).all()
        quiet = set_value(moved(scene, mover), "cam", "life", 0.0)
        assert (evaluate(quiet, FRAMES).world("cam") == evaluate(scene, FRAMES).world("cam")).all()
        off = change_mover(moved(scene, mover), "cam", mover.id, on=False)
        assert (evaluate(off, FRAMES).world("cam") == evaluate(scene, FRAMES).world("cam")).all()

    def test_outside_its_range_it_does_nothing(self, scene, mover):
        ranged = msgspec.structs.replace(mover, start=40.0, end=120.0, fade_in=10.0, fade_out=20.0)
        changed, plain = evaluate(moved(scene, ranged), FRAMES), evaluate(scene, FRAMES)
        outside = (FRAMES < 40.0) | (FRAMES > 120.0)
        assert np.abs(changed.world("cam") - plain.world("cam"))[outside].max() < 1e-9
        assert np.abs(changed.world("cam") - plain.world("cam"))[~outside].max() > 1e-4

    def test_an_evaluation_taken_over_is_the_same_as_a_fresh_one(self, scene, mover):
        scene = moved(scene, mover)
        before = evaluate(scene, FRAMES)
        for change in (
            lambda s: set_key(s, "rig", "rotation.y", 50, 10.0),
            lambda s: set_key(s, "cam", "position.x", 30, 4.0),
            lambda s: set_value(s, "cam", "life", 0.5),
            lambda s: msgspec.structs.replace(s, beats=Beats(tempo=90.0)),
        ):
            after = change(scene)
            assert (evaluate(after, FRAMES, previous=before).world("cam") == evaluate(after, FRAMES).world("cam")).all()


class TestAdding:
    def test_an_oscillator_adds_its_wave(self, scene):
        made = value(moved(scene, Oscillator(targets=on("position.x", amount=0.5), period=2.0))) - value(scene)
        assert np.allclose(made, 0.5 * np.sin(np.pi * FRAMES / 24.0))

    def test_by_beats_it_keeps_time_with_them(self, scene):
        scene = msgspec.structs.replace(scene, beats=Beats(tempo=100.0, first=6.0))
        changed = moved(scene, Oscillator(targets=on("position.x"), per="beats", period=1.0, wave="saw", low=0.0))
        beat = 6.0 + 60.0 / 100.0 * 24.0 * 3
        made = value(changed, frames=np.array([beat - 1e-6, beat + 1e-6])) - value(scene, frames=np.array([beat] * 2))
        assert np.allclose(made, [1.0, 0.0], atol=1e-3)

    def test_a_rate_goes_on_from_its_frame(self, scene):
        made = value(moved(scene, SteadyRate(targets=on("position.x", amount=2.0), since=24.0))) - value(scene)
        assert np.allclose(made, 2.0 * np.maximum(FRAMES - 24.0, 0.0) / 24.0)

    @pytest.mark.parametrize("space", ["carrier", "own", "world", "picture"])
    @pytest.mark.parametrize("peakiness", [0.6, 1.0, 3.0])
    def test_a_shake_has_no_mean_over_the_scene(self, scene, space, peakiness):
        shake = Shake(targets=on(*POSITION), space=space, peakiness=peakiness, stride=0.6, seed=5)
        there, plain = evaluate(moved(scene, shake), FRAMES), evaluate(scene, FRAMES)
        off = there.position("cam") - plain.position("cam")
        if space in ("own", "picture", "carrier"):
            off = np.einsum("nji,nj->ni", plain.world("rig")[:, :3, :3], off)
        assert np.abs(off).max() > 0.1
        assert np.abs(off.mean(axis=0)).max() < 1e-9

    def test_it_has_none_either_where_its_strength_changes(self, scene):
        scene = moved(scene, Shake(targets=on("position.y"), start=30.0, end=200.0, fade_in=24.0))
        scene = set_key(scene, "cam", "shake.strength", 60, 0.0, Linear())
        scene = set_key(scene, "cam", "shake.strength", 180, 2.0, Linear())
        made = value(scene, "position.y")
        assert np.abs(made).max() > 0.1
        assert abs(made.mean()) < 1e-9

    def test_a_shake_that_loops_closes(self, scene):
        scene = moved(scene, Shake(targets=on(*POSITION), loop=3.0, stride=0.5))
        for channel in POSITION[1:]:
            made = value(scene, channel, np.array([5.0, 5.0 + 72.0, 5.25, 5.25 + 72.0]))
            assert abs(made[0] - made[1]) < 1e-9
            assert abs(made[2] - made[3]) < 1e-9

    def test_about_the_aim_what_matters_stays_where_it_is_in_the_picture(self, scene):
        free = moved(scene, Shake(targets=on("rotation.x", "rotation.y", amount=4.0), about="aim"))
        free = set_value(free, "cam", "lens.focus", 8.0)
        # The point in focus, as the camera without its shake sees it.
        plain = evaluate(set_value(free, "cam", "life", 0.0), FRAMES).camera("cam")
        point = plain.position + plain.axis * 8.0
        seen = evaluate(free, FRAMES).camera("cam")
        pixel, _ = seen.pixels(point)
        assert np.abs(pixel - [960.0, 540.0]).max() < 1e-6
        assert np.abs(seen.position - plain.position).max() > 0.2

    def test_an_aimed_camera_goes_round_its_aim(self, scene):
        scene = add_bind(scene, "cam", AimAt(("thing",)))[0]
        shaken = moved(scene, Shake(targets=on("rotation.x", "rotation.y", amount=4.0), about="aim"))
        there, plain = evaluate(shaken, FRAMES), evaluate(scene, FRAMES)
        away, usual = (np.linalg.norm(each.position("cam"), axis=1) for each in (there, plain))
        assert np.abs(away - usual).max() < 1e-9
        assert np.abs(there.position("cam") - plain.position("cam")).max() > 0.2
        assert np.abs(there.camera("cam").pixels(there.position("thing"))[0] - [960.0, 540.0]).max() < 1e-6

    def test_in_the_world_it_is_the_worlds_axis_that_counts(self, scene):
        scene = set_value(scene, "rig", "scale.x", 2.0)
        changed = moved(scene, Oscillator(targets=on("position.y", amount=0.5), space="world"))
        turned = set_value(changed, "rig", "rotation.x", 70.0)
        plain = set_value(scene, "rig", "rotation.x", 70.0)
        off = evaluate(turned, FRAMES).position("cam") - evaluate(plain, FRAMES).position("cam")
        assert np.allclose(off[:, [0, 2]], 0.0, atol=1e-9)
        assert np.allclose(off[:, 1], 0.5 * np.sin(2.0 * np.pi * FRAMES / 24.0 / 4.0))

    def test_across_the_picture_a_layer_moves_across_whatever_the_camera_does(self, scene):
        scene = add_node(scene, Null(id="layer", name="Layer"))
        changed = moved(scene, Oscillator(targets=on("position.x", amount=0.4), space="picture"), node="layer")
        there = evaluate(changed, FRAMES)
        camera = there.camera("cam")
        off = np.einsum("nji,nj->ni", camera.pose[:, :3, :3], there.position("layer"))
        assert np.allclose(off[:, 1:], 0.0, atol=1e-12)
        assert np.abs(off[:, 0]).max() == pytest.approx(0.4, rel=1e-2)

    def test_impacts_come_at_markers_and_events(self, scene):
        scene = msgspec.structs.replace(scene, markers=(Marker(50.0, "Bang"), Marker(90.0, "Other")))
        scene = msgspec.structs.replace(
            scene, shots=(Shot("One", "cam"),), events=(Event("Boom", AtMarker("Other"), "cam"),)
        )
        for mover, frame in (
            (Impact(targets=on("position.y"), name="Bang"), 50.0),
            (Impact(targets=on("position.y"), when="event", name="Boom"), 90.0),
        ):
            made = value(moved(scene, mover), "position.y")
            assert (made[frame >= FRAMES] == 0.0).all()
            assert np.abs(made[frame < FRAMES]).max() > 0.5

    @pytest.mark.parametrize("scale", [(1.0, 1.0, 1.0), (2.5, 2.5, 2.5), (2.5, 0.7, 1.4)])
    def test_about_the_aim_it_stays_in_place_on_a_carrier_of_any_scale(self, scene, scale):
        for axis, factor in zip("xyz", scale, strict=True):
            scene = set_value(scene, "rig", f"scale.{axis}", factor)
        scene = set_value(set_value(scene, "rig", "rotation.z", 25.0), "cam", "rotation.y", 40.0)
        scene = set_value(scene, "cam", "lens.focus", 7.0)
        shaken = moved(scene, Shake(targets=on(*ROTATION, amount=8.0), about="aim", period=0.8))
        fine = np.arange(0.0, 100.0, 0.37)
        plain = evaluate(scene, fine).camera("cam")
        view = evaluate(shaken, fine).camera("cam")
        assert np.abs(view.pose - plain.pose).max() > 0.05
        pixel, depth = view.pixels(plain.subject())
        assert np.abs(pixel - np.array([960.0, 540.0])).max() < 1e-6
        assert depth == pytest.approx(np.full(len(fine), 7.0))

    @pytest.mark.parametrize("kind", ["turn", "take", "off", "tour"])
    def test_what_starts_later_is_the_same_alone_and_with_frames_after_its_start(self, scene, kind):
        scene = set_value(set_value(scene, "cam", "rotation.y", 33.3), "cam", "rotation.x", -12.7)
        if kind == "turn":
            scene = moved(scene, Oscillator(targets=on(*ROTATION, *POSITION), low=1.0, high=3.0, start=50.0))
        elif kind == "take":
            half = np.linspace(0.0, 1.0, 30)
            table = np.stack([*np.zeros((4, 30)), np.sin(half), np.zeros(30), np.cos(half)], axis=1)
            scene, take = add_take(scene, Take("t", "T", "cam", (*POSITION, *TURN), packed(half * 3.0, table)))
            scene = use_take(scene, "cam", TakeUse(take, (*POSITION, *ROTATION), 10.0))
            for frame, strength in ((50.0, 0.0), (80.0, 1.0), (110.0, 1.0), (120.0, 0.4)):
                scene = set_key(scene, "cam", "take.strength", frame, strength, Linear())
        elif kind == "off":
            scene = set_aim(scene, "cam", AimAt(("thing",)))
            for frame, off in ((50.0, 0.0), (80.0, 0.5)):
                scene = set_key(scene, "cam", "aim.off.x", frame, off, Linear())
        else:
            scene, first = keep_framing(scene, "cam", 0.0, "rig")
            scene, other = keep_framing(scene, "cam", 30.0)
            scene, _ = play_through(scene, "cam", [first, other], 20.0)
            for frame, strength in ((30.0, 0.0), (60.0, 1.0), (90.0, 0.0)):
                scene = set_key(scene, "cam", "tour.strength", frame, strength, Linear())
        frames = np.array([3.0, 20.7, 50.0, 61.3, 80.0, 95.0, 110.0, 130.0])
        whole = evaluate(scene, frames).camera("cam")
        for k, frame in enumerate(frames.tolist()):
            alone = evaluate(scene, frame).camera("cam")
            assert np.array_equal(alone.pose[0], whole.pose[k]), frame


class TestFollowing:
    def test_stops_are_where_keys_stop_at_speed(self, scene):
        channel = scene.node("cam").channel("position.x")
        found = stops(channel)
        assert found.frames.tolist() == [60.0]
        assert (found.speeds[0], found.jumps[0]) == (pytest.approx(0.1, rel=1e-12), 0.0)

    def test_it_follows_exactly_until_then_and_swings_on(self, scene):
        changed = moved(scene, Overshoot(targets=on("position.x"), bounce=0.5, speed=2.0))
        made, plain = value(changed), value(scene)
        assert (made[FRAMES <= 60.0] == plain[FRAMES <= 60.0]).all()
        assert made.max() > 5.05
        assert made[-1] == pytest.approx(5.0, abs=1e-3)
        # It goes on as fast as it came: no kink.
        near = value(changed, frames=np.array([59.99, 60.0, 60.01]))
        assert np.allclose(np.diff(near), 0.1 * 0.01, rtol=1e-2)

    @pytest.mark.parametrize("span", STEEP, ids=repr)
    @pytest.mark.parametrize("length", [0.01, 1.0, 20.0])
    def test_however_steeply_keys_stop_it_goes_beyond_by_no_more_than_the_bounce(self, span, length):
        plain = keyed((10.0, 0.0, span), (10.0 + length, 5.0))
        for bounce in (0.0, 0.3, 0.7):
            changed = moved(plain, Overshoot(targets=on("position.x"), bounce=bounce, speed=2.0))
            fine = np.linspace(10.0 + length, 80.0, 7001)
            made = value(changed, frames=fine)
            # An elastic ease is half a thousandth beyond its end right before it.
            assert 5.0 - 1e-9 <= made.max() <= 5.0 * (1.0 + bounce) + 3e-3
            # Until then it is the keys, bit for bit; from there on it runs on without a jump.
            early = np.linspace(0.0, np.nextafter(10.0 + length, 0.0), 500)
            assert (value(changed, frames=early) == value(plain, frames=early)).all()
            assert np.abs(np.diff(value(changed, frames=np.append(early[-1], fine)))).max() < 0.05 * 5.0

    @pytest.mark.parametrize("span", [Hold(), Steps(4), Steps(2, "both")], ids=repr)
    def test_a_jump_is_the_step_that_it_is(self, span):
        plain = keyed((10.0, 0.0, span), (34.0, 5.0))
        height = {Hold(): 5.0, Steps(4): 1.25, Steps(2, "both"): 5.0 / 3.0}[span]
        changed = moved(plain, Overshoot(targets=on("position.x"), bounce=0.4, speed=1.5))
        fine = np.linspace(34.0, 200.0, 4001)
        law, times = spring(0.4, 1.5), (fine - 34.0) / 24.0
        free = height * scipy_step(((law.omega**2,), (1.0, 2.0 * law.decay, law.omega**2)), T=times)[1]
        assert np.abs(value(changed, frames=fine) - (5.0 - height + free)).max() < 1e-6
        assert value(changed, frames=fine).max() == pytest.approx(5.0 + 0.4 * height, abs=1e-4)

    def test_many_keys_of_one_move_swing_as_two_do(self):
        two = keyed((10.0, 0.0, Linear()), (40.0, 5.0))
        many = keyed(*((10.0 + k, k / 6.0, Linear()) for k in range(31)))
        mover = Overshoot(targets=on("position.x"), bounce=0.5, speed=2.0)
        fine = np.linspace(0.0, 100.0, 1001)
        assert np.abs(value(moved(two, mover), frames=fine) - value(moved(many, mover), frames=fine)).max() < 1e-9

    def test_in_the_world_it_swings_on_the_way_it_went_whatever_its_carrier_does(self, scene):
        wide = set_value(set_value(scene, "rig", "scale.x", 3.0), "rig", "scale.z", 0.5)
        mover = Overshoot(targets=on(*POSITION), bounce=0.5, speed=1.0, space="world")
        changed = moved(wide, mover)
        early = np.linspace(0.0, 59.9, 300)
        assert np.abs(evaluate(changed, early).position("cam") - evaluate(wide, early).position("cam")).max() < 1e-12
        fine = np.linspace(60.0, 200.0, 801)
        off = evaluate(changed, fine).position("cam") - evaluate(wide, fine).position("cam")
        # It went along the rig's x axis of that moment: 0.1 units a frame, three times as long in the world.
        turn = np.radians(54.0)
        law, late = spring(0.5, 1.0), (fine - 60.0) / 24.0
        swing = 7.2 * np.exp(-law.decay * late) * np.sin(law.swing * late) / law.swing
        assert np.abs(off - swing[:, None] * np.array([np.cos(turn), 0.0, -np.sin(turn)])).max() < 1e-9

    def test_in_the_world_a_turn_swings_about_the_axis_that_it_turned_about(self, scene):
        tilted = set_value(scene, "rig", "rotation.x", 50.0)
        for frame, angle in ((10, 0.0), (60, 30.0)):
            tilted = set_key(tilted, "cam", "rotation.y", frame, angle, Linear())
        changed = moved(tilted, Overshoot(targets=on(*ROTATION), bounce=0.5, speed=1.0, space="world"))
        fine = np.linspace(60.0, 160.0, 801)
        after, before = (evaluate(each, fine).world("cam")[:, :3, :3] for each in (changed, tilted))
        seen = Rotation.from_matrix(after @ np.swapaxes(before, 1, 2)).as_rotvec()
        axis = Rotation.from_euler("YX", [54.0, 50.0], degrees=True).apply([0.0, 1.0, 0.0])
        law, late = spring(0.5, 1.0), (fine - 60.0) / 24.0
        swing = np.radians(0.6 * 24.0) * np.exp(-law.decay * late) * np.sin(law.swing * late) / law.swing
        assert np.abs(seen - swing[:, None] * axis).max() < 1e-9

    def test_a_soft_landing_leaves_nothing_to_swing(self, scene):
        soft = set_key(scene, "cam", "position.y", 10, 0.0)
        soft = set_key(soft, "cam", "position.y", 60, 3.0)
        mover = Overshoot(targets=on("position.x", "position.y"))
        assert nothing_to_swing(soft.node("cam"), mover) == ("position.y",)

    @pytest.mark.parametrize("fps", [24, 25, 60])
    def test_a_jump_overshoots_by_the_bounce_at_any_rate(self, scene, fps):
        scene = msgspec.structs.replace(
            scene,
            settings=msgspec.structs.replace(scene.settings, rate=type(scene.settings.rate)(fps, 1), last=10 * fps),
        )
        scene = set_key(scene, "cam", "position.y", 0, 0.0, Hold())
        scene = set_key(scene, "cam", "position.y", fps, 2.0, Hold())
        changed = moved(scene, Overshoot(targets=on("position.y"), bounce=0.3, speed=1.0, only_stops=False))
        fine = np.linspace(fps, 3.0 * fps, 4001)
        made = value(changed, "position.y", fine)
        assert made.max() == pytest.approx(2.0 * 1.3, abs=1e-4)
        assert (value(changed, "position.y", np.array([fps - 1e-3, fps - 1.0])) == 0.0).all()

    def test_in_the_world_it_swings_when_its_carrier_stops(self, scene):
        still = set_value(scene, "cam", "position.z", 8.0)
        here = moved(still, Overshoot(targets=on(*POSITION), only_stops=False, space="world", bounce=0.6, speed=1.0))
        off = np.linalg.norm(evaluate(here, FRAMES).position("cam") - evaluate(still, FRAMES).position("cam"), axis=1)
        assert off[FRAMES == 105.0] > 0.05
        assert off[-1] < 0.02

    def test_the_same_some_frames_later(self, scene):
        changed = moved(scene, Lag(targets=on("position.x"), by="frames", delay=7.5))
        assert np.allclose(value(changed), value(scene, frames=FRAMES - 7.5))

    def test_steps_hold_on_every_nth_frame(self, scene):
        changed = moved(scene, StepHold(targets=on("position.x"), every=4.0, since=1.0))
        assert np.allclose(value(changed), value(scene, frames=1.0 + np.floor((FRAMES - 1.0) / 4.0) * 4.0))

    def test_what_comes_after_in_the_list_sees_what_came_before(self, scene):
        movers = (
            Oscillator(targets=on("position.x"), low=0.0, high=4.0),
            Limiter(targets=on("position.x"), low=0.0, high=2.0),
        )
        limited = moved(scene, *movers)
        assert value(limited).max() == pytest.approx(2.0)
        assert value(move_mover(limited, "cam", "limiter", 0)).max() > 4.0

    def test_an_overshoot_follows_what_the_movers_before_it_make(self, scene):
        plain = Scene(settings=scene.settings, nodes=(Null(id="cam", name="Cam"),))
        steps = StepHold(targets=on("position.x"), every=12.0)
        scene = set_key(set_key(plain, "cam", "position.x", 0, 0.0, Linear()), "cam", "position.x", 240, 20.0)
        changed = moved(scene, steps, Overshoot(targets=on("position.x"), bounce=0.5, speed=3.0, only_stops=False))
        held = value(moved(scene, steps))
        assert (value(changed) - held).max() > 0.2


class TestRelations:
    def test_a_mover_may_hang_on_the_null(self, scene):
        changed = moved(scene, Oscillator(targets=on("rotation.y", amount=10.0)), node="rig")
        assert np.abs(evaluate(changed, FRAMES).position("cam") - evaluate(scene, FRAMES).position("cam")).max() > 0.5

    def test_links_see_what_is_moved(self, scene):
        scene = moved(scene, Oscillator(targets=on("position.x")))
        scene = set_links(scene, "thing", "position.y", (Link("cam", "position.x", clamp=False),))
        assert np.allclose(value(scene, "position.y", node="thing"), value(scene))

    def test_links_of_what_looks_at_places_come_after_those(self, scene):
        scene = moved(scene, Oscillator(targets=on("position.x"), space="world"))
        scene = set_links(scene, "thing", "position.y", (Link("cam", "position.x", clamp=False),))
        before = evaluate(scene, FRAMES)
        assert np.allclose(before.value("thing", "position.y"), value(scene))
        turned = set_value(set_key(scene, "rig", "rotation.y", 100, 200.0), "rig", "rotation.x", 30.0)
        again = evaluate(turned, FRAMES, previous=before)
        assert (again.value("thing", "position.y") == evaluate(turned, FRAMES).value("thing", "position.y")).all()

    def test_a_strength_that_depends_on_what_it_moves_is_refused(self, scene):
        scene = moved(scene, Oscillator(targets=on("position.x")))
        with pytest.raises(LoopError):
            set_links(scene, "cam", "oscillator.strength", (Link("cam", "position.x"),))

    def test_a_space_that_depends_on_the_node_is_refused(self, scene):
        changed, _ = add_movers(scene, "thing", [Oscillator(targets=on("position.y"), space="picture")])
        loop = set_links(changed, "rig", "position.z", (Link("thing", "position.y"),))
        with pytest.raises(LoopError):
            validate_change(changed, loop)

    def test_movers_act_only_on_what_is_there(self, scene):
        with pytest.raises(SceneError, match="none of the channels"):
            add_movers(scene, "rig", [Oscillator(targets=on("lens.focal"))])
        changed, _ = add_movers(scene, "rig", [Oscillator(targets=on("lens.focal", "position.x"))])
        assert changed.node("rig").movers[0].names == ("position.x",)
        with pytest.raises(SceneError):
            validate(
                msgspec.structs.replace(
                    scene, nodes=(Null(id="a", name="A", movers=(Oscillator(targets=on("oscillator.strength")),)),)
                )
            )

    def test_more_than_can_be_worked_out_is_refused(self, scene):
        shakes = tuple(Shake(id=f"s{k}", targets=on("position.x")) for k in range(31))
        changed = moved(scene, *shakes)
        settings = msgspec.structs.replace(changed.settings, last=99_999)
        with pytest.raises(SceneError, match="more than can be worked out"):
            validate(msgspec.structs.replace(changed, settings=settings))

    def test_very_many_impacts_and_stops_take_no_longer_than_they_last(self, scene):
        keys = tuple(Key(0.5 * k, float(k % 4 == 1), Linear() if k % 4 == 0 else Hold()) for k in range(40_000))
        node = msgspec.structs.replace(scene.node("thing"), channels=(Channel("position.x", 0.0, keys),))
        scene = msgspec.structs.replace(scene.with_node(node), beats=Beats(tempo=400.0))
        movers = Overshoot(targets=on("position.x")), Impact(targets=on("position.x"), when="beats")
        far = msgspec.structs.replace(scene, settings=msgspec.structs.replace(scene.settings, last=20_000))
        made = value(moved(far, *movers, node="thing"), frames=np.arange(0.0, 20_000.0), node="thing")
        assert np.isfinite(made).all()
        assert made[5] == value(moved(far, *movers, node="thing"), frames=np.array([5.0]), node="thing")[0]

    def test_its_strength_goes_with_it(self, scene):
        scene = set_key(moved(scene, Shake(targets=on("position.x"))), "cam", "shake.strength", 5, 0.5)
        left = remove_mover(scene, "cam", "shake")
        assert left.node("cam").channel("shake.strength") is None
        validate_change(scene, left)

    def test_copies_and_removals_keep_what_they_name(self, scene):
        scene = moved(scene, Impact(targets=on("position.x"), when="contact", node="thing"))
        copied, (thing, cam) = duplicate(scene, ["cam", "thing"])
        assert copied.node(cam).movers[0].node == thing
        assert remove_nodes(scene, ["thing"]).node("cam").movers[0].node is None


class TestOnTopOfBinds:
    """Where a bind puts the node somewhere, whatever its own position, its movers act on top of that."""

    def test_a_camera_on_tour_breathes(self, scene):
        for k, x in enumerate((0.0, 6.0)):
            scene = add_node(scene, Framing(id=f"f{k}", name=f"F{k}"))
            scene = set_value(set_value(scene, f"f{k}", "position.x", x), f"f{k}", "rotation.y", 30.0 * k)
        scene = change_node(scene, "cam", carrier=None)
        scene = add_bind(scene, "cam", Tour(("f0", "f1")))[0]
        scene = set_key(set_key(scene, "cam", "tour.place", 20, 0.0), "cam", "tour.place", 120, 1.0)
        alive = moved(scene, Oscillator(targets=on("position.y", amount=0.5) + on("rotation.z", amount=3.0)))
        plain, there = evaluate(scene, FRAMES), evaluate(alive, FRAMES)
        swing = np.sin(2.0 * np.pi * FRAMES / 24.0 / 4.0)
        off = there.position("cam") - plain.position("cam")
        assert np.allclose(off, plain.world("cam")[:, :3, 1] * 0.5 * swing[:, None], atol=1e-9)
        roll = np.einsum("nij,nik->njk", plain.world("cam")[:, :3, :3], there.world("cam")[:, :3, :3])
        assert np.allclose(np.degrees(np.arctan2(roll[:, 1, 0], roll[:, 0, 0])), 3.0 * swing)
        assert np.allclose(there.camera("cam").pose, there.world("cam"))
        assert (evaluate(alive, 77.0).world("cam")[0] == there.world("cam")[77]).all()

    @pytest.mark.parametrize("along", [True, False])
    def test_what_rides_a_path_sways_across_it(self, scene, along):
        way = Path(id="way", name="Way", curve=LinePath((0.0, 0.0, 0.0), (0.0, 0.0, -20.0)))
        scene = add_node(add_node(scene, way), Null(id="rider", name="Rider"))
        scene = set_value(scene, "way", "rotation.y", 90.0)
        scene = add_bind(scene, "rider", RidePath("way", along=along))[0]
        scene = set_key(set_key(scene, "rider", "ride.progress", 0, 0.0), "rider", "ride.progress", 200, 1.0)
        alive = moved(scene, Oscillator(targets=on("position.x")), node="rider")
        off = evaluate(alive, FRAMES).position("rider") - evaluate(scene, FRAMES).position("rider")
        across = np.sin(2.0 * np.pi * FRAMES / 24.0 / 4.0)
        # Along the path it goes to −X, so that its right-hand side is −Z.
        right = np.array([0.0, 0.0, -1.0]) if along else np.array([1.0, 0.0, 0.0])
        wanted = across[:, None] * right
        assert np.allclose(off, wanted, atol=1e-9)


class TestKeysAndBack:
    def test_movers_become_keys_that_keep_to_them(self, scene):
        alive = moved(
            scene, Shake(targets=on("position.y", amount=0.3), period=2.0), Overshoot(targets=on("position.x"))
        )
        keyed = to_keys(alive, "cam")
        validate_change(alive, keyed)
        fine = np.arange(0.0, 239.0, 0.1)
        for name in ("position.x", "position.y"):
            assert np.abs(value(keyed, name, fine) - value(alive, name, fine)).max() < 0.0025
        assert not any(mover.on for mover in keyed.node("cam").movers)
        # Fewer keys than frames.
        assert len(keyed.node("cam").channel("position.x").keys) < 120

    def test_the_keys_there_were_come_back(self, scene):
        alive = moved(scene, Shake(targets=on("position.y", "position.x")), Lag(targets=on("position.x"), on=False))
        again = back_to_movers(to_keys(alive, "cam"), "cam")
        assert again == alive

    def test_without_movers_there_is_nothing_to_do(self, scene):
        with pytest.raises(SceneError, match="no movers"):
            to_keys(scene, "cam")
        with pytest.raises(SceneError, match="not turned into keys"):
            back_to_movers(scene, "cam")

    def test_a_soft_landing_is_made_to_land_at_speed(self, scene):
        soft = set_key(set_key(scene, "cam", "position.y", 10, 0.0), "cam", "position.y", 60, 3.0)
        alive = moved(soft, Overshoot(targets=on("position.y")))
        mover = alive.node("cam").movers[0]
        assert value(alive, "position.y").max() == pytest.approx(3.0, abs=1e-4)
        landed = let_it_land(alive, "cam", mover)
        assert nothing_to_swing(landed.node("cam"), mover) == ()
        assert value(landed, "position.y").max() > 3.05

    def test_more_life_goes_for_the_whole_rig(self, scene):
        alive = moved(moved(scene, Shake(targets=on("position.y"))), Oscillator(targets=on("position.y")), node="rig")
        more = with_more_life(alive, ["cam"], 1.5)
        assert {node: value(more, "life", np.zeros(1), node)[0] for node in ("cam", "rig")} == {"cam": 1.5, "rig": 1.5}
        assert with_more_life(with_more_life(alive, ["cam"], 0.5), ["cam"], 2.0) == alive

    @pytest.mark.parametrize("name", MOVER_PRESETS)
    def test_starting_points_suit_every_kind_of_node(self, scene, name):
        aimed = add_bind(scene, "cam", AimAt(("thing",)))[0]
        for there, node in ((scene, "cam"), (aimed, "cam"), (scene, "rig")):
            changed = moved(there, *mover_preset(name, there.node(node)).movers, node=node)
            before, after = evaluate(there, FRAMES), evaluate(changed, FRAMES)
            assert np.abs(after.world(node) - before.world(node)).max() > 1e-4 or name == "Lantern flicker"
            assert not after.faults

    @pytest.mark.parametrize("kind", MOVER_KINDS, ids=lambda kind: kind.__name__)
    def test_a_new_mover_of_each_kind_fits_the_node(self, scene, kind):
        for node in ("cam", "thing", "rig"):
            changed, _ = add_movers(scene, node, [new_mover(kind, scene.node(node))])
            assert changed.node(node).movers[0].targets
            validate_change(scene, changed)


def _jumping():
    """Motions that jump, between frames too, by what makes them."""
    plain = keyed((0.0, 0.0, Linear()), (100.0, 10.0))
    shake = Shake(targets=on("position.x", amount=0.05))
    struck = msgspec.structs.replace(plain, markers=(Marker(33.37, "hit"),))
    yield "hold", keyed((0.0, 0.0, Hold()), (50.0, 10.0, Hold())), shake
    yield "steps", keyed((10.3, 0.0, Steps(5)), (50.0, 10.0)), shake
    yield "elastic", keyed((10.3, 0.0, Family("elastic", "out")), (50.0, 1000.0)), shake
    yield "small beside large", keyed((0.0, 0.0, Hold()), (50.5, 0.02)), Shake(targets=on("position.x", amount=5.0))
    yield "formula", set_formula(plain, "cam", "position.x", "floor(frame / 7.31) * 2 + sin(frame * 9)"), shake
    for wave in ("square", "saw", "triangle", Steps(3)):
        yield f"{wave} wave", plain, Oscillator(targets=on("position.x"), wave=wave, period=0.71, low=0.0, high=3.0)
    yield "every few frames", plain, StepHold(targets=on("position.x"), every=2.3)
    yield "a range", plain, Oscillator(targets=on("position.x"), low=1.0, high=3.0, start=20.33, end=61.71)
    yield "a hit", struck, Impact(targets=on("position.x"), when="marker")


JUMPING = {name: (scene, mover) for name, scene, mover in _jumping()}


class TestIntoKeys:
    @pytest.mark.parametrize("name", JUMPING)
    def test_they_keep_to_the_motion_between_frames_and_on_both_sides_of_a_jump(self, name):
        plain, mover = JUMPING[name]
        lively = moved(plain, mover)
        made = to_keys(lively, "cam")
        fine = np.arange(0.0, 239.0, 0.0173)
        before, after = value(lively, frames=fine), value(made, frames=fine)
        off = np.abs(after - before)
        assert off.max() < 0.003 / 3.0**0.5 or name == "elastic"
        assert off.max() < 0.003
        # And within a ten-thousandth of a frame of every jump.
        jumps = np.flatnonzero(np.abs(np.diff(before)) > 0.5)
        for place in fine[jumps].tolist():
            close = np.linspace(place, place + 0.0173, 400)
            wrong = np.abs(value(made, frames=close) - value(lively, frames=close)) > 0.003
            assert wrong.sum() <= 1

    def test_a_dissolved_rig_keeps_its_jumps(self, scene):
        jumping = set_key(set_key(scene, "rig", "rotation.y", 20.4, 50.0, Hold()), "rig", "rotation.y", 70.25, 10.0)
        made, _ = dissolve(jumping, ["cam"])
        fine = np.arange(0.0, 239.0, 0.0173)
        off = evaluate(made, fine).position("cam") - evaluate(jumping, fine).position("cam")
        assert np.abs(off).max() < 0.003
