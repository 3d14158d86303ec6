"""Blends, tours and takes between what moves: nothing leaps between frames, whatever turns meanwhile."""

import msgspec
import numpy as np
import pytest

import wild_heron as wh
from wild_heron import edits
from wild_heron.edits.framings import keep_framing, play_through
from wild_heron.evaluate import binds
from wild_heron.scene import (
    TURN,
    AimAt,
    Blend,
    Camera,
    Channel,
    Family,
    Flow,
    Key,
    Linear,
    Null,
    Settings,
    Shot,
    Take,
    TakeUse,
    packed,
)
from wild_heron.scene.channels import POSITION, ROTATION

WAYS = ("auto", "straight", "round", "rise")


def wandering(chance, name, low, high):
    times = np.sort(chance.uniform(0.0, 150.0, int(chance.integers(2, 4))))
    eases = (Linear(), Family("cubic", "in-out"), Flow("smooth"))
    keys = [Key(float(t), float(chance.uniform(low, high)), eases[int(chance.integers(3))]) for t in times]
    return Channel(name, 0.0, tuple(keys))


def nested(seed, upright):
    """Five cameras on nulls that travel and turn by up to two turns, aimed or not, each blended in before the blend
    before it has ended."""
    chance = np.random.default_rng(seed)
    nodes = [
        Null(id="t", name="t", channels=tuple(wandering(chance, name, -3, 3) for name in POSITION)),
        Null(id="u", name="u", channels=(wandering(chance, "position.x", -20, 20),)),
    ]
    for k in range(5):
        turns = Channel("rotation.y", 0.0, (Key(0.0, 0.0, Linear()), Key(150.0, float(chance.uniform(-720, 720)))))
        tilts = () if upright else (wandering(chance, "rotation.x", -60, 60),)
        nodes.append(
            Null(id=f"rig{k}", name=f"rig{k}", channels=(wandering(chance, POSITION[0], -4, 4), *tilts, turns))
        )
        channels = [
            Channel("position.x", float(chance.normal(0, 3))),
            Channel("position.y", float(chance.normal(1, 2))),
        ]
        channels.append(Channel("position.z", float(chance.uniform(4, 14))))
        channels += [
            Channel("lens.focal", float(chance.uniform(20, 80))),
            Channel("lens.focus", float(chance.uniform(3, 15))),
        ]
        binds = ()
        if chance.random() < 0.5:
            binds = (AimAt(("t" if chance.random() < 0.6 else "u",)),)
            channels.append(Channel("aim.off.x", float(chance.uniform(-0.5, 0.5))))
        else:
            channels += [wandering(chance, name, -200, 200) for name in (ROTATION[1:2] if upright else ROTATION)]
        channels.sort(key=lambda each: each.name)
        nodes.append(Camera(id=f"c{k}", name=f"c{k}", carrier=f"rig{k}", channels=tuple(channels), binds=binds))
    shots, start = [Shot("s0", "c0")], 10.0
    for k in range(1, 5):
        start += float(chance.uniform(12, 22))
        join = Blend(float(chance.uniform(20, 40)), place="after", way=WAYS[int(chance.integers(4))])
        shots.append(Shot(f"s{k}", f"c{k}", start, join=join))
    return wh.Scene(settings=Settings(last=149), nodes=tuple(nodes), camera="c0", shots=tuple(shots))


def steps(view):
    """From each moment to the next: how far the lens turns, in degrees, and goes, in units and shares of its length."""
    turned = np.linalg.norm(np.diff(view.pose[:, :3, :3], axis=0), axis=(1, 2)) / np.sqrt(2.0)
    lens = np.abs(np.diff(np.log(view.focal_px))) + np.abs(np.diff(np.log(view.focus)))
    return np.degrees(turned), np.linalg.norm(np.diff(view.position, axis=0), axis=1), lens


def leaps(read, frames, least=(1.0, 0.1, 0.02)):
    """Where something changes as much over a thousandth of a step as over the whole: (what, frame, by how much)."""
    found = []
    for what, (changes, small) in enumerate(zip(steps(read(frames)), least, strict=True)):
        for k in np.argsort(changes)[-3:].tolist():
            if changes[k] < small:
                continue
            low, high, now = frames[k], frames[k + 1], changes[k]
            for _ in range(3):
                close = np.linspace(low, high, 11)
                finer = steps(read(close))[what]
                at = int(finer.argmax())
                low, high, now = close[at], close[at + 1], finer[at]
            if now > 0.05 * changes[k]:
                found.append((what, float(low), float(now)))
    return found


@pytest.mark.parametrize("upright", [True, False])
@pytest.mark.parametrize("seed", range(10))
def test_nested_blends_between_moving_cameras_never_leap(seed, upright):
    scene = nested(seed, upright)
    assert leaps(lambda frames: wh.output(scene, frames), np.arange(5.0, 140.0, 0.05)) == []
    # The same alone, in any order, and with others beside it.
    frames = np.arange(5.0, 140.0, 1.7)
    whole = wh.output(scene, frames)
    mixed = np.random.default_rng(seed).permutation(len(frames))
    assert np.array_equal(wh.output(scene, frames[mixed]).pose, whole.pose[mixed])
    for k in (7, 23, 41):
        assert np.array_equal(wh.output(scene, frames[k]).pose[0], whole.pose[k])


@pytest.mark.parametrize("way", ["straight", "round", "rise"])
def test_a_camera_that_spins_many_times_while_it_is_left(way):
    spin = Channel("rotation.y", 0.0, (Key(0.0, 0.0, Linear()), Key(100.0, 3600.0)))
    nodes = (
        Null(id="t", name="t"),
        Null(id="p", name="p", channels=(spin,)),
        Camera(id="a", name="a", carrier="p", channels=(Channel("position.y", 1.0), Channel("position.z", 8.0))),
        Camera(id="b", name="b", channels=(Channel("position.x", 6.0), Channel("rotation.y", 70.0)), binds=()),
    )
    shots = (Shot("A", "a"), Shot("B", "b", 50.0, join=Blend(80.0, way=way)))
    scene = wh.Scene(settings=Settings(last=100), nodes=nodes, camera="a", shots=shots)
    turned, _, _ = steps(wh.output(scene, np.arange(0.0, 100.0, 0.02)))
    assert turned.max() < 1.5  # It turns by 0.72 itself, and its share of it changes.


@pytest.mark.parametrize("way", ["round", "rise"])
@pytest.mark.parametrize("offs", [(0.6, 0.4, -0.5, -0.3), (0.0, 0.7, 0.5, 0.0)])
def test_level_cameras_stay_level_whatever_lies_off_their_middle(way, offs):
    nodes = [Null(id="t", name="t", channels=(Channel("position.y", 1.0),))]
    for name, place, off in (("a", (3.0, 6.0, 9.0), offs[:2]), ("b", (-8.0, 2.0, -4.0), offs[2:])):
        channels = [Channel(n, v) for n, v in zip(("aim.off.x", "aim.off.y"), off, strict=True)]
        channels += [Channel(n, v) for n, v in zip(POSITION, place, strict=True)]
        nodes.append(Camera(id=name, name=name, channels=tuple(channels), binds=(AimAt(("t",)),)))
    shots = (Shot("A", "a"), Shot("B", "b", 50.0, join=Blend(40.0, way=way)))
    view = wh.output(wh.Scene(nodes=tuple(nodes), camera="a", shots=shots), np.arange(30.0, 70.0, 0.13))
    assert np.abs(view.pose[:, 1, 0]).max() < 1e-9
    # And the subject runs straight across the picture.
    pixel, depth = view.pixels(np.broadcast_to(np.array([0.0, 1.0, 0.0]), (len(view), 3)))
    run, off = pixel[-1] - pixel[0], pixel - pixel[0]
    assert np.abs(off[:, 0] * run[1] - off[:, 1] * run[0]).max() / np.linalg.norm(run) < 0.01
    assert (depth > 0.0).all()


@pytest.mark.parametrize("way", WAYS)
def test_a_tour_past_a_framing_on_a_turning_null_never_leaps(way):
    turn = Channel("rotation.y", 0.0, (Key(0.0, 0.0, Linear()), Key(100.0, 400.0)))
    tilt = Channel("rotation.x", 0.0, (Key(0.0, -30.0, Linear()), Key(100.0, 30.0)))
    far = (Channel("position.z", 9.0), Channel("rotation.y", 20.0))
    scene = wh.Scene(
        settings=Settings(last=100),
        nodes=(
            Null(id="p", name="p", channels=(tilt, turn)),
            Camera(id="a", name="a", carrier="p", channels=far),
            Camera(id="b", name="b", channels=(Channel("position.x", 5.0), Channel("rotation.y", -100.0))),
            Camera(id="cam", name="cam"),
        ),
    )
    ids = []
    for lens, carrier in (("a", "p"), ("b", None), ("a", "p")):
        scene, made = keep_framing(scene, lens, 0.0, carrier)
        ids.append(made)
    scene, _ = play_through(scene, "cam", ids, 0.0)
    binds = tuple(msgspec.structs.replace(each, way=way) for each in scene.node("cam").binds)
    scene = edits.change_node(scene, "cam", binds=binds)
    keys = (Key(5.0, 0.0, Family("cubic", "in-out")), Key(60.0, 1.0, Linear()), Key(95.0, 2.0))
    scene = edits.set_channel(scene, "cam", Channel("tour.place", 0.0, keys))

    def read(frames):
        return wh.evaluate(scene, frames).camera("cam")

    assert leaps(read, np.arange(0.0, 100.0, 0.05)) == []
    frames = np.arange(0.0, 100.0, 3.3)
    whole = read(frames)
    assert all(np.array_equal(read(frames[k : k + 1]).pose[0], whole.pose[k]) for k in range(0, 30, 7))


@pytest.mark.parametrize("axis", ROTATION)
@pytest.mark.parametrize("strength", [0.3, 0.6])
def test_a_take_that_turns_past_half_a_turn_from_the_keys_never_leaps(axis, strength):
    times = np.linspace(0.0, 4.0, 241)
    angles = np.zeros((241, 3))
    angles[:, 1] = times * np.radians(80.0)
    half = 0.5 * angles[:, 1]
    zero = np.zeros(241)
    columns = np.stack([zero, zero, zero, zero, np.sin(half), zero, np.cos(half)], axis=1)
    scene = edits.add_node(wh.Scene(settings=Settings(last=119)), Camera(id="cam", name="Cam"))
    for frame, value in ((0, -40.0), (119, -100.0)):
        scene = edits.set_key(scene, "cam", axis, frame, value, Linear())
    scene = edits.set_value(scene, "cam", "rotation.x", 15.0) if axis != "rotation.x" else scene
    hand = Take("hand", "Hand", "cam", (*POSITION, *TURN), packed(times, columns), frame=5.0)
    scene, take = edits.add_take(scene, hand)
    scene = edits.use_take(scene, "cam", TakeUse(take, (*POSITION, *ROTATION), 5.0))
    scene = edits.set_value(scene, "cam", "take.strength", strength)
    assert leaps(lambda frames: wh.evaluate(scene, frames).camera("cam"), np.arange(0.0, 119.0, 0.05)) == []
    # Its angles run on without whole turns between, but where it looks straight up or down.
    fine = wh.evaluate(scene, np.arange(0.0, 119.0, 0.05))
    apart = np.cos(np.radians(fine.value("cam", "rotation.x")))[1:]
    for name in ROTATION:
        assert (np.abs(np.diff(fine.value("cam", name))) * np.abs(apart)).max() < 1.0


@pytest.mark.parametrize("kind", ["aim", "tour"])
@pytest.mark.parametrize("ramp", [None, (30.0, 42.0), (80.0, 92.0)])
def test_a_bind_that_counts_in_part_on_what_turns_never_leaps(kind, ramp):
    spin = Channel("rotation.y", 0.0, (Key(0.0, 0.0, Linear()), Key(119.0, 700.0)))
    tilt = Channel("rotation.x", 0.0, (Key(0.0, -20.0, Linear()), Key(119.0, 35.0)))
    scene = wh.Scene(
        settings=Settings(last=119),
        nodes=(
            Null(id="p", name="p", channels=(tilt, spin)),
            Null(id="t", name="t", channels=(Channel("position.x", 4.0), Channel("position.z", -30.0))),
            Camera(id="own", name="own", carrier="p", channels=(Channel("position.z", 6.0),)),
            Camera(id="cam", name="cam", carrier="p", channels=(Channel("position.z", 6.0),)),
        ),
    )
    if kind == "aim":
        scene = edits.set_aim(scene, "cam", AimAt(("t",)))
    else:
        scene, first = keep_framing(scene, "own", 0.0)
        scene, other = keep_framing(scene, "own", 60.0)
        scene, _ = play_through(scene, "cam", [first, other], 20.0)
    if ramp is None:
        scene = edits.set_value(scene, "cam", f"{kind}.strength", 0.45)
    else:
        for frame, value in zip(ramp, (0.0, 1.0), strict=True):
            scene = edits.set_key(scene, "cam", f"{kind}.strength", frame, value, Family("sine", "in-out"))

    def read(frames):
        return wh.evaluate(scene, frames).camera("cam")

    assert leaps(read, np.arange(0.0, 119.0, 0.05)) == []
    # Over a ramp it goes the short way, however far they have turned against each other by then.
    if ramp is not None:
        turned, _, _ = steps(read(np.linspace(*ramp, 241)))
        assert turned.sum() < 360.0
    frames = np.arange(0.0, 119.0, 3.7)
    whole = read(frames)
    assert all(np.array_equal(read(frames[k : k + 1]).pose[0], whole.pose[k]) for k in range(0, 30, 4))


def test_a_take_is_come_into_the_short_way_however_far_it_has_turned_by_its_middle():
    times = np.linspace(0.0, 4.0, 241)
    half = 0.5 * np.radians(times * 200.0)
    zero = np.zeros(241)
    columns = np.stack([zero, zero, zero, zero, np.sin(half), zero, np.cos(half)], axis=1)
    scene = edits.add_node(wh.Scene(settings=Settings(last=119)), Camera(id="cam", name="Cam"))
    scene, take = edits.add_take(scene, Take("hand", "Hand", "cam", (*POSITION, *TURN), packed(times, columns)))
    scene = edits.use_take(scene, "cam", TakeUse(take, (*POSITION, *ROTATION), 0.0))
    for frame, value in ((4.0, 0.0), (16.0, 1.0), (80.0, 1.0), (92.0, 0.0)):
        scene = edits.set_key(scene, "cam", "take.strength", frame, value, Linear())
    for begins, ends in ((4.0, 16.0), (80.0, 92.0)):
        view = wh.evaluate(scene, np.linspace(begins, ends, 241)).camera("cam")
        assert steps(view)[0].sum() < 360.0
    assert leaps(lambda frames: wh.evaluate(scene, frames).camera("cam"), np.arange(0.0, 119.0, 0.05)) == []


def test_how_a_bind_counts_in_part_is_told_once(monkeypatch):
    turn = Channel("rotation.y", 0.0, (Key(0.0, 0.0, Linear()), Key(119.0, 300.0)))
    scene = wh.Scene(nodes=(Null(id="t", name="t"), Camera(id="cam", name="cam", channels=(turn,))))
    scene = edits.set_value(edits.set_aim(scene, "cam", AimAt(("t",))), "cam", "aim.strength", 0.5)
    # Where nothing keys the strength, a mover or a take may make it part all the same.
    wave = wh.Oscillator(targets=(wh.Target("aim.strength", 1.0), wh.Target("rotation.x", 5.0)), low=-0.8, high=-0.1)
    moved, _ = edits.add_movers(edits.set_value(scene, "cam", "aim.strength", 1.0), "cam", [wave])
    told, ways_over = [], binds.ways_over
    monkeypatch.setattr(binds, "ways_over", lambda *given: told.append(1) or ways_over(*given))
    for count, each in enumerate((scene, moved), 1):
        for frame in (3.0, 50.0, 51.0):
            wh.evaluate(each, frame).world("cam")
        assert len(told) == count
