"""Binds against closed forms."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import wild_heron as wh
from wild_heron.evaluate import evaluate
from wild_heron.evaluate.binds import SOLVERS
from wild_heron.space.path import track

FRAMES = np.arange(0.0, 48.0, 0.5)


def null(name, **values):
    channels = tuple(wh.Channel(key.replace("_", "."), value) for key, value in sorted(values.items()))
    return wh.Null(id=name, name=name.title(), channels=channels)


def keyed(scene, node, channel, *pairs, span=None):
    for frame, value in pairs:
        scene = wh.edits.set_key(scene, node, channel, frame, value, span or wh.Linear())
    return scene


def moving(name="cart", **ends):
    """A scene with a null that runs straight over 48 frames."""
    scene = wh.Scene(nodes=(null(name),))
    for axis, (start, end) in ends.items():
        scene = keyed(scene, name, f"position.{axis}", (0, start), (48, end))
    return scene


def bound(scene, node, bind, **values):
    scene = wh.edits.add_node(scene, node)
    scene, bind_id = wh.edits.add_bind(scene, node.id, bind)
    for name, value in values.items():
        scene = wh.edits.set_value(
            scene, node.id, f"{bind_id}.{name if name == 'half_life' else name.replace('_', '.')}", value
        )
    return scene


def camera(**values):
    return wh.Camera(id="cam", name="Cam", channels=null("x", **values).channels)


# Aim


@pytest.mark.parametrize("up", [None, "tilt"])
def test_an_aim_is_exact_at_the_middle_of_several_nodes(up):
    scene = moving(x=(-3, 5), y=(0, 4))
    scene = wh.edits.add_node(scene, null("post", position_x=2.0, position_z=-6.0))
    scene = wh.edits.add_node(scene, null("tilt", rotation_z=20.0, rotation_x=5.0))
    scene = bound(scene, camera(position_z=9.0), wh.AimAt(("cart", "post"), up))
    here = evaluate(scene, FRAMES)
    wanted = 0.5 * (here.position("cart") + here.position("post")) - here.position("cam")
    wanted /= np.linalg.norm(wanted, axis=1)[:, None]
    pose = here.world("cam")
    error = np.linalg.norm(np.cross(-pose[:, :3, 2], wanted), axis=1)
    assert error.max() < 1e-9
    # The horizon is level with what is up: the right-hand axis is square to it.
    upward = np.array([0, 1.0, 0]) if up is None else here.world("tilt")[0, :3, 1]
    assert np.abs(pose[:, :3, 0] @ upward).max() < 1e-9


@settings(max_examples=60)
@given(
    st.tuples(*[st.floats(-9, 9)] * 3),
    st.floats(-0.8, 0.8),
    st.floats(-0.8, 0.8),
    st.floats(-180, 180),
    st.floats(14, 120),
)
def test_an_aim_puts_its_target_where_in_the_frame_it_is_asked_to(at, across, upward, roll, focal):
    scene = wh.Scene(nodes=(null("cart", position_x=at[0], position_y=at[1], position_z=at[2]),))
    scene = bound(scene, camera(position_z=12.0, rotation_z=roll), wh.AimAt(("cart",)), off_x=across, off_y=upward)
    scene = wh.edits.set_value(scene, "cam", "lens.focal", focal)
    here = evaluate(scene, 0.0)
    pixel, depth = here.camera("cam").pixels(here.position("cart"))
    assert depth[0] > 0
    assert pixel[0] == pytest.approx([960 * (1 + across), 540 * (1 - upward)], abs=1e-6)


@pytest.mark.parametrize("off", [0.0, 1 / 3])
def test_an_aim_passes_over_the_pole_without_a_jump(off):
    scene = moving(x=(0.2, 0.2), z=(-6, 6))
    scene = bound(scene, camera(position_y=8.0), wh.AimAt(("cart",)), off_x=off)
    poses = evaluate(scene, np.arange(0.0, 48.0, 0.05)).world("cam")
    step = np.arccos(np.clip((np.einsum("nij,nij->n", poses[1:, :3, :3], poses[:-1, :3, :3]) - 1) / 2, -1, 1))
    assert np.degrees(step.max()) < 6.0
    assert np.degrees(step.max()) < 40 * np.degrees(np.median(step))


def turned_by(poses):
    """Degrees (N − 1,) from one pose to the next."""
    trace = np.einsum("nij,nij->n", poses[1:, :3, :3], poses[:-1, :3, :3])
    return np.degrees(np.arccos(np.clip((trace - 1) / 2, -1, 1)))


RIM = 8 * np.tan(np.radians(8.0))


@pytest.mark.parametrize("speed", [0.03, 0.3, 2.0, 10.0, 20.0])
@pytest.mark.parametrize("beside", [0.0, 1e-9, 0.3, RIM - 0.1, RIM - 1e-3, RIM - 1e-8, RIM + 1e-9, RIM + 0.01])
@pytest.mark.parametrize("off", [0.0, 0.3])
def test_an_aim_that_grazes_the_pole_cone_never_steps(speed, beside, off):
    scene = wh.Scene(nodes=(null("cart", position_x=beside),), settings=wh.Settings(last=48))
    scene = keyed(scene, "cart", "position.z", (-9.7, -30 * speed), (50.3, 30 * speed))
    scene = bound(scene, camera(position_y=8.0), wh.AimAt(("cart",)), off_x=off)
    frames = np.arange(15.0, 26.0, 0.01)
    poses = evaluate(scene, frames).world("cam")
    assert turned_by(poses).max() < 15.0
    assert np.array_equal(evaluate(scene, frames[531:532]).world("cam"), poses[531:532])


@pytest.mark.parametrize("seed", range(40))
def test_no_smooth_move_makes_an_aim_step_within_the_scene_and_beyond(seed):
    rng = np.random.default_rng(seed)
    scene = wh.Scene(nodes=(null("cart"),), settings=wh.Settings(last=96))
    for axis in "xz":
        times = np.cumsum(rng.uniform(5.0, 30.0, int(rng.integers(3, 8)))) - 20.0
        values = rng.uniform(-4.0, 4.0, len(times))
        pairs = zip(times.tolist(), values.tolist(), strict=True)
        scene = keyed(scene, "cart", f"position.{axis}", *pairs, span=wh.Flow("smooth"))
    channels = [("cart", "position.x"), ("cart", "position.z")]
    scene = wh.edits.set_beyond(scene, channels, ("go", "hold", "swing")[seed % 3])
    scene = bound(scene, camera(position_y=rng.uniform(5, 9)), wh.AimAt(("cart",)), off_x=0.3 * (seed % 4 == 0))
    start = (-60.0, 0.0, 40.0, 100.0, 900.0)[seed % 5]
    assert turned_by(evaluate(scene, np.arange(start, start + 150.0, 0.01)).world("cam")).max() < 15.0


def test_a_lens_that_always_looks_nearly_down_keeps_its_horizon():
    scene = bound(wh.Scene(nodes=(null("cart", position_x=0.4),)), camera(position_y=8.0), wh.AimAt(("cart",)))
    right = evaluate(scene, 0.0).world("cam")[0, :3, 0]
    assert right == pytest.approx([0.0, 0.0, 1.0], abs=1e-12)


# Match, opposite, limits


def test_a_match_takes_axes_over_and_keeps_its_offset():
    scene = moving(x=(0, 8), y=(1, 3))
    scene = wh.edits.set_value(scene, "cart", "rotation.y", 30.0)
    scene = bound(scene, null("rider", position_z=7.0), wh.Match("cart", "xy", "xyz"), move_x=1.5, turn_y=10.0)
    here = evaluate(scene, FRAMES)
    cart, rider = here.position("cart"), here.position("rider")
    assert rider[:, 0] == pytest.approx(cart[:, 0] + 1.5)
    assert rider[:, 1] == pytest.approx(cart[:, 1])
    assert rider[:, 2] == pytest.approx(7.0)
    assert here.world("rider")[0, :3, :3] == pytest.approx(
        evaluate(wh.Scene(nodes=(null("n", rotation_y=40.0),)), 0.0).world("n")[0, :3, :3]
    )


def test_opposite_stays_across_the_centre_from_a_camera():
    scene = wh.Scene(nodes=(null("emblem", position_y=5.0), camera(position_x=3.0, position_y=2.0, position_z=4.0)))
    light = wh.Light(id="rim", name="Rim", light="point")
    scene = bound(scene, light, wh.Opposite("cam", "emblem"), distance=10.0, height=1.0)
    assert evaluate(scene, 0.0).position("rim")[0] == pytest.approx([-6.0, 6.0, -8.0])


@pytest.mark.parametrize(
    ("bind", "ends", "measure"),
    [
        (wh.Limit("height"), (1.0, 2.5), lambda here: here.position("rider")[:, 1]),
        (wh.Limit("distance", "post"), (4.0, 6.0), lambda here: np.linalg.norm(here.position("rider"), axis=1)),
        (wh.Limit("tilt"), (-10, 25), lambda here: np.degrees(np.arcsin(-here.world("rider")[:, 1, 2]))),
    ],
)
def test_a_limit_holds_and_leaves_alone_what_is_inside(bind, ends, measure):
    scene = wh.Scene(nodes=(null("post"), null("rider")))
    for channel, far in (("position.y", 9.0), ("position.x", 3.0), ("rotation.x", 60.0)):
        scene = keyed(scene, "rider", channel, (0, -far), (48, far))
    free = measure(evaluate(scene, FRAMES))
    scene, bind_id = wh.edits.add_bind(scene, "rider", bind)
    scene = wh.edits.set_value(scene, "rider", f"{bind_id}.high", ends[1])
    scene = wh.edits.set_value(scene, "rider", f"{bind_id}.low", ends[0])
    assert measure(evaluate(scene, FRAMES)) == pytest.approx(np.clip(free, *ends))


def test_strength_goes_evenly_from_nothing_to_the_whole_bind():
    scene = wh.Scene(nodes=(null("post", position_x=10.0),))
    scene = bound(scene, null("rider"), wh.Match("post"))
    scene = keyed(scene, "rider", "match.strength", (0, 0.0), (10, 1.0))
    assert evaluate(scene, [0, 5, 10]).position("rider")[:, 0] == pytest.approx([0.0, 5.0, 10.0])
    off = wh.edits.change_bind(scene, "rider", "match", on=False)
    assert evaluate(off, [10]).position("rider")[0, 0] == 0.0


# Follow


def test_a_follower_stays_between_its_distances_and_behind():
    scene = moving(x=(0, 60), z=(0, 3))
    scene = bound(scene, null("heron"), wh.Follow("cart"), nearest=4.0, farthest=7.0, half_life=0.4, rise=0.0)
    here = evaluate(scene, np.arange(0.0, 60.0, 0.25))
    away = here.position("heron") - here.position("cart")
    distance = np.linalg.norm(away, axis=1)
    assert distance.min() >= 4.0 - 1e-9
    assert distance.max() <= 7.0 + 1e-9
    assert away[100, 0] < -3.9


def test_a_follower_without_lag_is_at_the_mean_distance_and_with_it_lags_as_in_closed_form():
    scene = moving(x=(0, 48))
    kept = {"nearest": 2.0, "farthest": 40.0, "rise": 0.0}
    still = bound(scene, null("heron"), wh.Follow("cart", "fixed"), half_life=0.0, turn=90.0, **kept)
    assert evaluate(still, FRAMES).position("heron")[:, 0] == pytest.approx(FRAMES + 21.0)
    # A first-order lag behind a ramp that starts at frame 0: v·τ·(1 − 2^(−t/h)).
    late = bound(scene, null("heron"), wh.Follow("cart", "fixed"), half_life=0.25, turn=90.0, **kept)
    lag = FRAMES + 21.0 - evaluate(late, FRAMES).position("heron")[:, 0]
    half = 0.25 * 24
    assert lag == pytest.approx(half / np.log(2) * (1 - 2 ** (-FRAMES / half)), abs=1e-9)


def test_a_follower_without_lag_is_exactly_behind_what_runs_in_a_circle():
    scene = wh.Scene(nodes=(null("hub"), wh.Null(id="cart", name="Cart", carrier="hub")))
    scene = wh.edits.set_value(keyed(scene, "hub", "rotation.y", (-200, 0.0), (200, 1200.0)), "cart", "position.x", 6.0)
    scene = bound(scene, null("heron"), wh.Follow("cart"), nearest=2.0, farthest=2.0, half_life=0.0, rise=0.0)
    here = evaluate(scene, np.arange(0.0, 48.0))
    back = here.position("heron") - here.position("cart")
    centre = here.position("cart")
    assert np.abs((back * centre).sum(axis=1)).max() < 1e-9  # Square to the radius: along the way it came.


@settings(max_examples=20, deadline=None)
@given(st.lists(st.floats(-20, 300), min_size=1, max_size=12))
def test_what_remembers_does_not_depend_on_how_frames_are_asked_for(frames):
    scene = keyed(moving(x=(0, 20)), "cart", "position.y", (0, 0), (20, 4), (48, 1))
    scene = bound(scene, null("heron"), wh.Follow("cart"))
    scene = bound(scene, null("wren"), wh.Follow("heron", "fixed"), half_life=0.6)
    ground = wh.Ground(id="hills", name="Hills")
    scene = bound(wh.edits.add_node(scene, ground), null("ball", position_y=4.0), wh.DropAndRoll("hills"))
    together = evaluate(scene, frames)
    for i, frame in enumerate(frames):
        alone = evaluate(scene, frame)
        for node in ("heron", "wren", "ball"):
            assert alone.world(node)[0].tobytes() == together.world(node)[i].tobytes()


# Riding


def circle(radius=6.0, **kept):
    return wh.Path(id="ring", name="Ring", curve=wh.CirclePath(radius), **kept)


def test_an_orbit_on_a_path_keeps_its_radius_and_looks_along():
    scene = bound(wh.Scene(nodes=(circle(7.0),)), null("rider"), wh.RidePath("ring", loops=True))
    scene = keyed(scene, "rider", "ride.progress", (0, 0.0), (48, 2.0))
    here = evaluate(scene, FRAMES)
    at = here.position("rider")
    assert np.linalg.norm(at, axis=1) == pytest.approx(np.full(len(at), 7.0), abs=1e-9)
    ahead = -here.world("rider")[:, :3, 2]
    assert np.abs((ahead * at).sum(axis=1)).max() < 1e-9
    assert here.world("rider")[:, :3, 1] == pytest.approx(np.tile([0.0, 1.0, 0.0], (len(at), 1)), abs=1e-9)


CURVES = [
    wh.EllipsePath(9.0, 3.0),
    wh.ThroughPath(((0.0, 0.0, 0.0), (4.0, 1.0, 0.0), (4.5, 1.0, -6.0), (-3.0, 5.0, 2.0))),
    wh.ThroughPath(((0.0, 0.0, 0.0), (4.0, 0.0, 0.0), (4.0, 0.0, 4.0)), closed=True),
    wh.BezierPath(
        (
            wh.PathPoint((0.0, 0.0, 0.0), after=(9.0, 0.0, 0.0)),
            wh.PathPoint((1.0, 3.0, 0.0), (0.0, 0.0, -8.0), (0.0, 0.0, 1.0)),
            wh.PathPoint((5.0, 3.0, 9.0)),
        )
    ),
]


@pytest.mark.parametrize("curve", CURVES, ids=lambda curve: type(curve).__name__)
def test_even_progress_is_even_speed(curve):
    path = wh.Path(id="ring", name="Ring", curve=curve)
    scene = bound(wh.Scene(nodes=(path,)), null("rider"), wh.RidePath("ring"))
    scene = keyed(scene, "rider", "ride.progress", (0, 0.0), (240, 1.0))
    fine = evaluate(scene, np.arange(0.0, 240.0 + 1 / 64, 1 / 64)).position("rider")
    steps = np.linalg.norm(np.diff(fine, axis=0), axis=1)[: 240 * 64].reshape(240, 64).sum(axis=1)
    assert np.abs(steps / steps.mean() - 1).max() < 1e-3
    assert steps.sum() == pytest.approx(track(curve).length, rel=1e-4)


@pytest.mark.parametrize("moving", [False, True])
@pytest.mark.parametrize("curve", CURVES, ids=lambda curve: type(curve).__name__)
def test_even_progress_is_even_speed_on_a_path_that_is_scaled_unevenly(curve, moving):
    """Also while what carries it is turned, and where its scale changes with time: then at every moment alike."""
    nodes = (null("base", rotation_y=30.0, rotation_x=15.0, scale_x=4.0, scale_z=0.5),)
    path = wh.Path(id="ring", name="Ring", curve=curve, carrier="base", channels=(wh.Channel("rotation.z", 40.0),))
    scene = bound(wh.Scene(nodes=(*nodes, path)), null("rider"), wh.RidePath("ring"))
    if moving:
        scene = keyed(scene, "base", "scale.x", (0, 4.0), (240, 1.0))
        for frame in (60.0, 180.0):
            held = keyed(scene, "rider", "ride.progress", (0, 0.25))
            seen = evaluate(held, np.array([frame]))
            fine = apply_to_path(curve, seen.world("ring")[0])
            run = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(fine, axis=0), axis=1))])
            at = fine[np.searchsorted(run, 0.25 * run[-1])]
            assert seen.position("rider")[0] == pytest.approx(at, abs=2e-3 * run[-1])
        return
    scene = keyed(scene, "rider", "ride.progress", (0, 0.0), (240, 1.0))
    frames = np.arange(0.0, 240.0 + 1 / 64, 1 / 64)
    fine = evaluate(scene, frames).position("rider")
    steps = np.linalg.norm(np.diff(fine, axis=0), axis=1)[: 240 * 64].reshape(240, 64).sum(axis=1)
    assert np.abs(steps / steps.mean() - 1).max() < 2e-3
    some = frames[5000:5003]
    assert np.array_equal(evaluate(scene, some[1:2]).position("rider"), fine[5001:5002])


def apply_to_path(curve, world):
    return track(curve).point(np.linspace(0.0, 1.0, 40_001)) @ world[:3, :3].T + world[:3, 3]


@pytest.mark.parametrize("curve", CURVES, ids=lambda curve: type(curve).__name__)
def test_frames_along_a_path_do_not_twist_and_close_where_it_does(curve):
    way = track(curve)
    u = np.linspace(0, 1, 4000)
    up, along = way.up(u), way.tangent(u)
    assert np.abs((up * along).sum(axis=1)).max() < 1e-9
    if way.closed:
        assert up[0] == pytest.approx(up[-1], abs=1e-6)
    elif not isinstance(curve, wh.EllipsePath):
        # Rotation-minimising: the up vector changes only along the path.
        change = np.diff(up, axis=0)
        side = np.cross(along[:-1], up[:-1])
        assert np.abs((change * side).sum(axis=1)).sum() < 0.05


WAVES = wh.Waves((wh.Wave(20.0, 9.0, 1.2, 1.5, 30.0), wh.Wave(100.0, 5.0, 0.5, -0.7, 0.0)))


def wave_height(x, z, seconds):
    total = 0.0
    for wave in WAVES.waves:
        angle = np.radians(wave.direction)
        run = np.cos(angle) * x - np.sin(angle) * z - wave.speed * seconds
        total = total + 0.5 * wave.height * np.sin(2 * np.pi * run / wave.wavelength + np.radians(wave.phase))
    return total


@pytest.mark.parametrize("start", [30.0, -30.0])
def test_height_above_an_analytic_ground_is_exact(start):
    scene = moving(x=(-20, 20), z=(4, -9), y=(start, start))
    scene = wh.edits.add_node(scene, wh.Ground(id="hills", name="Hills", surface=WAVES))
    scene, _ = wh.edits.add_bind(scene, "cart", wh.RideGround("hills"))
    scene = wh.edits.set_value(scene, "cart", "ground.height", 1.7)
    here = evaluate(scene, FRAMES)
    at = here.position("cart")
    assert at[:, 1] - 1.7 == pytest.approx(wave_height(at[:, 0], at[:, 2], FRAMES / 24), abs=1e-12)
    # It tilts with the slope: up is square to the surface's tangents.
    step = 1e-5
    along = (
        wave_height(at[:, 0] + step, at[:, 2], FRAMES / 24) - wave_height(at[:, 0] - step, at[:, 2], FRAMES / 24)
    ) / (2 * step)
    assert (
        np.abs((here.world("cart")[:, :3, 1] * np.stack([0 * along + 1, along, 0 * along], axis=1)).sum(axis=1)).max()
        < 1e-6
    )


def test_a_leaning_line_meets_the_ground_and_a_tilted_ground_is_ridden():
    ground = wh.Ground(id="hills", name="Hills", surface=wh.Waves(()), channels=(wh.Channel("rotation.x", 30.0),))
    scene = wh.edits.add_node(moving(z=(-3, 3), y=(9, 9)), ground)
    scene, _ = wh.edits.add_bind(scene, "cart", wh.RideGround("hills"))
    here = evaluate(scene, FRAMES)
    at = here.position("cart")
    assert at[:, 1] == pytest.approx(-at[:, 2] * np.tan(np.radians(30.0)), abs=1e-7)
    assert here.world("cart")[:, 1, 1] == pytest.approx(np.full(len(at), np.cos(np.radians(30.0))), abs=1e-7)


def test_a_footprint_averages_the_slope_and_a_model_is_ridden_too():
    cut = wh.Model(id="box", name="Box", shape=wh.Box(4.0, 2.0, 4.0), channels=(wh.Channel("position.y", 3.0),))
    scene = wh.edits.add_node(moving(x=(-6, 6), y=(9, 9)), cut)
    scene, _ = wh.edits.add_bind(scene, "cart", wh.RideGround("box"))
    at = evaluate(scene, FRAMES).position("cart")
    over = np.abs(at[:, 0]) < 1.99
    assert at[over, 1] == pytest.approx(4.0, abs=1e-6)
    assert (at[np.abs(at[:, 0]) > 2.01, 1] == 9.0).all()
    wave = wh.Ground(id="hills", name="Hills", surface=wh.Waves((wh.Wave(0.0, 1.0, 0.4),)))
    scene = bound(wh.edits.add_node(moving(x=(-6, 6)), wave), null("raft"), wh.Match("cart"))
    scene, _ = wh.edits.add_bind(scene, "raft", wh.RideGround("hills"))
    rough = evaluate(scene, FRAMES).world("raft")[:, 1, 1].min()
    scene = wh.edits.set_value(scene, "raft", "ground.footprint", 2.0)
    assert rough < 0.9 < evaluate(scene, FRAMES).world("raft")[:, 1, 1].min()


def test_a_height_map_is_read_between_its_points_and_kept_beyond_its_edge():
    grid = np.round(np.add.outer(np.linspace(0, 1, 5) * 30000, np.linspace(0, 1, 9) * 30000)).astype("<u2")
    ground = wh.Ground(
        id="hills", name="Hills", surface=wh.HeightMap(9, 5, grid.tobytes(), 0.0, 65.535), width=8.0, depth=4.0
    )
    scene = wh.edits.add_node(moving(x=(-8, 8), y=(90, 90)), ground)
    scene, _ = wh.edits.add_bind(scene, "cart", wh.RideGround("hills"))
    at = evaluate(scene, FRAMES).position("cart")
    wanted = 15.0 + 30.0 * np.clip(at[:, 0] / 8.0 + 0.5, 0, 1)
    assert at[:, 1] == pytest.approx(wanted, abs=2e-3)


# Loops


def test_a_loop_of_binds_is_refused_by_name():
    scene = moving(x=(0, 1))
    scene = bound(scene, null("heron"), wh.Follow("cart"))
    with pytest.raises(wh.LoopError, match=r"(Cart → Heron → Cart|Heron → Cart → Heron)"):
        wh.edits.add_bind(scene, "cart", wh.Follow("heron"))
    # What only turns is no loop: either needs only where the other is.
    scene, _ = wh.edits.add_bind(scene, "cart", wh.AimAt(("heron",)))
    evaluate(scene, FRAMES)


def test_a_bind_that_moves_goes_before_those_that_turn():
    scene = bound(moving(x=(0, 9)), camera(), wh.AimAt(("cart",)))
    scene, _ = wh.edits.add_bind(scene, "cam", wh.Follow("cart"))
    assert [bind.id for bind in scene.node("cam").binds] == ["follow", "aim"]
    here = evaluate(scene, FRAMES)
    pixel, _ = here.camera("cam").pixels(here.position("cart"))
    assert pixel == pytest.approx(np.tile([960.0, 540.0], (len(FRAMES), 1)), abs=1e-6)


class Made:
    """Two nodes that are where they are said to be: all that a bind of one to the other asks for."""

    def __init__(self, node, values, worlds):
        self.scene = wh.Scene(nodes=(node, null("other")))
        self.frames = np.arange(float(len(worlds)))
        self._values, self._worlds = values, worlds

    def number(self, node, name):
        return np.array([self._values.get(name.partition(".")[2], 0.0)])

    def pose_of(self, node_id):
        assert node_id == "other"
        return self._worlds

    def position_of(self, node_id):
        return self.pose_of(node_id)[:, :3, 3]


def test_a_solver_needs_no_evaluation():
    there = np.tile(np.eye(4), (3, 1, 1))
    there[:, :3, 3] = [(1, 2, 3), (4, 5, 6), (7, 8, 9)]
    match = wh.Match("other", id="m", position="xz")
    made = Made(null("a"), {"move.x": 10.0}, there)
    world = SOLVERS[wh.Match](made, made.scene.node("a"), match, 1, np.eye(4)[None])
    assert np.array_equal(world[:, :3, 3], [(11, 0, 3), (14, 0, 6), (17, 0, 9)])
    limit = wh.Limit("height", id="l")
    made = Made(null("a"), {"low": 4.5, "high": 7.0}, there)
    world = SOLVERS[wh.Limit](made, made.scene.node("a"), limit, 1, there)
    assert world[:, 1, 3].tolist() == [4.5, 5.0, 7.0]
