"""Moves: kept relative to a subject, put on others, mirrored, run backwards, stretched and scaled."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

import wild_heron as wh
from wild_heron import edits
from wild_heron.edits import moves, rigs
from wild_heron.edits.moves import Placing
from wild_heron.edits.rigs import FrameRange
from wild_heron.scene import SceneError
from wild_heron.scene.movers import Lag, Oscillator, Overshoot, Shake, Target
from wild_heron.scene.moves import check_move

SPAN = FrameRange(12.0, 96.0)
TENTHS = np.arange(SPAN.first, SPAN.last + 0.05, 0.1)
SIZES = ("scale_x", "scale_y", "scale_z")
PARTS = ("pose", "focal_px", "focal_mm", "focus", "f_stop", "shutter", "near", "far")


EASED = wh.Bezier(0.42, 0.0, 0.58, 1.0)


def keyed(name: str, *keys: tuple[float, float], span: wh.Span = EASED) -> wh.Channel:
    return wh.Channel(name, keys[0][1], tuple(wh.Key(frame, value, span) for frame, value in keys))


def subject(**values) -> wh.Picture:
    channels = tuple(wh.Channel(name.replace("_", "."), value) for name, value in sorted(values.items()))
    return wh.Picture(id="sign", name="Sign", artwork=wh.Solid("#efe8d6"), width=400, height=300, channels=channels)


def stage(*nodes: wh.AnyNode, **values) -> wh.Scene:
    return wh.Scene(settings=wh.Settings(last=119), nodes=(subject(**values), *nodes), camera="cam")


def free_camera() -> wh.Scene:
    """Keys of every kind, of which some lie outside the range."""
    return stage(
        wh.Camera(id="cam", name="Cam", channels=(
            keyed("lens.focal", (30.0, 35.0), (60.0, 50.0), span=wh.Flow()),
            keyed("lens.focus", (0.0, 9.0), (110.0, 5.0), span=wh.Linear()),
            keyed("position.x", (0.0, -3.0), (40.0, 1.0), (70.0, 2.0), (119.0, 0.0), span=wh.Flow("smooth")),
            wh.Channel("position.y", 0.4),
            keyed("position.z", (5.0, 12.0), (100.0, 6.0), span=wh.Family("back", "out")),
            keyed("rotation.y", (12.0, 10.0), (60.0, -25.0), (96.0, 0.0), span=wh.Handles(0.2, 0.4, -1.0, 0.3)),
            keyed("rotation.z", (20.0, 0.0), (90.0, 4.0), span=wh.Spring()),
        )), position_x=0.5, position_y=1.0,
    )  # fmt: skip


def aimed_camera() -> wh.Scene:
    scene = free_camera()
    shake = Shake(targets=(Target("position.x", 0.1), Target("rotation.z", 1.0)), space="picture")
    lag = Lag(id="lag", targets=(Target("position.z"),), delay=0.3)
    scene = edits.add_movers(edits.set_aim(scene, "cam", wh.AimAt(("sign",))), "cam", [shake, lag])[0]
    return edits.set_value(scene, "cam", "aim.off.x", 0.2)


def orbit() -> wh.Scene:
    scene, ids = rigs.orbit(free_camera(), "cam", ["sign"], 12.0)
    scene = edits.set_key(scene, ids[0], "rotation.y", 12.0, -20.0)
    scene = edits.set_key(scene, ids[0], "rotation.y", 96.0, 30.0)
    over = Overshoot(targets=(Target("rotation.y"),), only_stops=False)
    return edits.add_movers(scene, ids[0], [over])[0]


def ring() -> wh.Scene:
    scene, ids = rigs.ring(free_camera(), "cam", ["sign"], 12.0)
    for frame, value in ((12.0, 0.0), (80.0, 70.0)):
        scene = edits.set_key(scene, ids[0], "dial.turn", frame, value)
    return scene


def drifting() -> wh.Scene:
    return rigs.drift(free_camera(), "cam", 12.0, "x", 0.4, turn=5.0)[0]


def carried() -> wh.Scene:
    """A subject that goes about and carries the camera."""
    scene = edits.set_key(free_camera(), "sign", "position.x", 0.0, 0.0)
    scene = edits.set_key(edits.set_key(scene, "sign", "position.x", 100.0, 8.0), "sign", "rotation.y", 0.0, 0.0)
    scene = edits.set_key(scene, "sign", "rotation.y", 100.0, 40.0)
    return scene.with_node(replace(scene.node("cam"), carrier="sign"))


def based() -> wh.Scene:
    """Base, turn and arm, and an aim of its own beside them, about a subject that faces another way."""
    scene, ids = rigs.base_turn_arm(free_camera(), "cam", ["sign"], 12.0)
    scene = edits.set_value(scene, "sign", "rotation.y", 25.0)
    scene = edits.change_node(scene, "aim", carrier=None)
    for frame, value in ((12.0, 1.0), (90.0, 2.0)):
        scene = edits.set_key(scene, "aim", "position.y", frame, value)
        scene = edits.set_key(scene, ids[0], "rotation.y", frame, 20.0 * value)
    return scene


KINDS = {
    "free": free_camera, "aimed": aimed_camera, "orbit": orbit, "ring": ring, "drift": drifting, "carried": carried,
    "based": based,
}  # fmt: skip


def seen(scene: wh.Scene, camera: str, frames: np.ndarray = TENTHS):
    return wh.evaluate(scene, frames).camera(camera)


def same(a, b, within: float = 1e-9) -> bool:
    return all(np.abs(getattr(a, part) - getattr(b, part)).max() < within for part in PARTS)


@pytest.mark.parametrize("kind", KINDS)
def test_a_move_put_back_on_its_subject_is_the_same_camera(kind):
    scene = KINDS[kind]()
    move = moves.keep(scene, "cam", "sign", SPAN, "A move")
    made, ids = moves.put(scene, move, "sign", SPAN)
    assert same(seen(scene, "cam"), seen(made, ids[-1]))


@pytest.mark.parametrize("turn", [0.0, 35.0, 160.0])
@pytest.mark.parametrize("kind", KINDS)
def test_a_move_put_on_another_subject_shows_it_alike(kind, turn):
    """Moved, turned and scaled: what of the subject is seen is seen in the same pixels."""
    scene = KINDS[kind]()
    move = moves.keep(scene, "cam", "sign", SPAN, "A move")
    before = wh.evaluate(scene, [SPAN.first])
    content = before.content("sign")[0]
    other = replace(
        subject(position_x=-40.0, position_y=7.0, position_z=3.0, rotation_y=turn, **dict.fromkeys(SIZES, 2.5)),
        id="far", name="Far",
    )  # fmt: skip
    scene = edits.add_node(scene, other)
    made, ids = moves.put(scene, move, "far", SPAN)
    corners = np.array([[x, y, 0.0, 1.0] for x in (-2.0, 2.0) for y in (-1.5, 1.5)])
    frames = np.arange(SPAN.first, SPAN.last + 0.5, 3.5)
    old, new = seen(scene, "cam", frames), seen(made, ids[-1], frames)
    far = wh.evaluate(made, [SPAN.first]).content("far")[0]
    moving = wh.evaluate(scene, frames).content("sign")
    for point in corners:
        place = moving @ point if kind == "carried" else content @ point
        there = np.broadcast_to(place[..., :3], (len(frames), 3))
        assert old.pixels(there)[0] == pytest.approx(
            new.pixels(np.broadcast_to((far @ point)[:3], there.shape))[0], abs=0.01
        )


@pytest.mark.parametrize("kind", ["free", "aimed", "orbit", "ring", "drift"])
def test_mirrored_twice_or_run_backwards_twice_is_nothing(kind):
    scene = KINDS[kind]()
    move = moves.keep(scene, "cam", "sign", SPAN, "A move")
    assert moves.mirrored(moves.mirrored(move)) == move
    made, ids = moves.put(scene, moves.reversed_(moves.reversed_(move)), "sign", SPAN)
    assert same(seen(scene, "cam"), seen(made, ids[-1]), 1e-6)


@pytest.mark.parametrize("kind", ["free", "aimed", "orbit", "ring", "drift"])
def test_mirrored_it_sees_what_a_mirror_shows(kind):
    scene = KINDS[kind]()
    move = moves.keep(scene, "cam", "sign", SPAN, "A move")
    made, ids = moves.put(scene, move, "sign", SPAN, Placing(mirrored=True))
    old, new = seen(scene, "cam"), seen(made, ids[-1])
    flip = np.diag([-1.0, 1.0, 1.0])
    middle = np.array([0.5, 0.0, 0.0])
    assert new.position == pytest.approx((old.position - middle) @ flip + middle, abs=1e-9)
    assert new.pose[:, :3, :3] == pytest.approx(flip @ old.pose[:, :3, :3] @ flip, abs=1e-9)


def test_run_backwards_it_is_the_same_way():
    scene = free_camera()
    scene = edits.set_channel(scene, "cam", wh.Channel("rotation.z"))  # A spring has no mirror image.
    move = moves.keep(scene, "cam", "sign", SPAN, "A move")
    made, ids = moves.put(scene, move, "sign", SPAN, Placing(reversed=True))
    old, new = seen(scene, "cam", TENTHS[::-1].copy()), seen(made, ids[-1])
    assert same(old, new, 1e-6)


@given(size=st.floats(0.2, 5.0), side=st.floats(-400.0, 400.0), strength=st.floats(0.0, 2.0))
def test_size_side_and_strength_do_what_they_say(size, side, strength):
    scene = stage(wh.Camera(id="cam", name="Cam", channels=(keyed("position.z", (12.0, 12.0), (96.0, 6.0)),)))
    move = moves.keep(scene, "cam", "sign", SPAN, "Push in")
    made, ids = moves.put(scene, move, "sign", SPAN, Placing(size=size, side=side, strength=strength))
    view = seen(made, ids[-1], np.array([SPAN.first, SPAN.last]))
    away = np.linalg.norm(view.position, axis=1)
    assert away == pytest.approx([size * (6.0 + strength * 6.0), size * 6.0])
    assert view.position[1] == pytest.approx(
        size * 6.0 * np.array([np.sin(np.radians(side)), 0.0, np.cos(np.radians(side))]), abs=1e-9
    )
    assert view.focus == pytest.approx([18.0 * size] * 2)


@pytest.mark.parametrize("length", [10.0, 84.0, 300.0])
def test_a_move_lasts_as_long_as_its_range(length):
    scene = orbit()
    scene = scene.with_node(replace(scene.nodes[2], movers=()))
    move = moves.keep(scene, "cam", "sign", SPAN, "A move")
    scene = replace(scene, settings=replace(scene.settings, last=400))
    at = FrameRange(7.0, 7.0 + length)
    made, ids = moves.put(scene, move, "sign", at)
    share = np.linspace(0.0, 1.0, 21)
    old = seen(scene, "cam", SPAN.first + share * (SPAN.last - SPAN.first))
    assert same(old, seen(made, ids[-1], at.first + share * length), 1e-6)


@pytest.mark.parametrize("factor", [0.01, 100.0])
@pytest.mark.parametrize("kind", ["aimed", "orbit", "ring"])
def test_it_does_not_depend_on_the_size_of_the_set(kind, factor):
    move = moves.keep(KINDS[kind](), "cam", "sign", SPAN, "A move")
    small = stage(position_x=2.0)
    large = stage(position_x=2.0 * factor, scale_x=factor, scale_y=factor, scale_z=factor)
    views = []
    for scene in (small, large):
        made, ids = moves.put(scene, move, "sign", SPAN)
        views.append(seen(made, ids[-1]))
    assert views[0].position * factor == pytest.approx(views[1].position, rel=1e-6)
    assert views[0].focus * factor == pytest.approx(views[1].focus)
    assert views[0].pose[:, :3, :3] == pytest.approx(views[1].pose[:, :3, :3], abs=1e-6)


def test_it_fits_what_is_wide_and_other_frames():
    """What is wider than the frame counts by its width; a vertical format asks for more room."""
    move = moves.keep(free_camera(), "cam", "sign", SPAN, "A move")
    tall = wh.Format("Vertical", 1080, 1920, "cover")
    for width, height, shape, wanted in (
        (400, 300, None, 3.0),
        (1600, 300, None, 9.0),
        (400, 300, tall, 400 / 100 * 9 / 16 * 256 / 81),
    ):
        scene = wh.Scene(nodes=(replace(subject(), width=width, height=height),))
        assert moves.subject_place(scene, "sign", 0.0, shape).size == pytest.approx(wanted)
    assert move.frames == 84.0


def test_a_null_counts_as_what_it_carries_or_says_how_high_it_is():
    group = wh.Null(id="group", name="Group", channels=(wh.Channel("position.x", 5.0),))
    scene = edits.add_node(stage(), group)
    with pytest.raises(SceneError, match="Group has no size"):
        moves.subject_place(scene, "group", 0.0)
    assert moves.subject_place(scene, "group", 0.0, reach=2.0).size == 2.0
    scene = scene.with_node(replace(scene.node("sign"), carrier="group"))
    place = moves.subject_place(scene, "group", 0.0)
    assert (place.size, *place.middle) == pytest.approx((3.0, 5.0, 0.0, 0.0))
    nothing = scene.with_node(
        replace(scene.node("group"), channels=tuple(wh.Channel(f"scale.{a}", 0.0) for a in "xyz"))
    )
    with pytest.raises(SceneError, match="scaled to nothing"):
        moves.subject_place(nothing, "group", 0.0)


def test_what_depends_on_more_is_kept_with_keys_of_its_own():
    """A camera that follows something else, or has a formula, has no rig to be kept."""
    scene = edits.set_formula(free_camera(), "cam", "position.y", "value + frame / 100")
    move = moves.keep(scene, "cam", "sign", SPAN, "A move")
    made, ids = moves.put(scene, move, "sign", SPAN)
    assert [node.id for node in move.nodes] == ["camera"]
    locked = scene.with_node(replace(scene.node("cam"), locked=True))
    assert moves.keep(locked, "cam", "sign", SPAN, "A move") == move
    assert same(seen(scene, "cam"), seen(made, ids[-1]), 3e-4)


def test_a_move_goes_from_one_subject_to_another():
    scene = edits.add_node(stage(wh.Camera(id="cam", name="Cam", channels=(wh.Channel("position.z", 10.0),))),
                           wh.Null(id="end", name="End", channels=(wh.Channel("position.x", 4.0),)))  # fmt: skip
    scene = edits.add_node(scene, wh.Null(id="look", name="Look", binds=(wh.Match("sign"), wh.Match("end", id="to"))))
    for frame, value in ((12.0, 0.0), (96.0, 1.0)):
        scene = edits.set_key(scene, "look", "to.strength", frame, value)
    scene = edits.set_aim(scene, "cam", wh.AimAt(("look",)))
    move = moves.keep(scene, "cam", "sign", SPAN, "From here to there", other="end")
    assert move.has_other
    made, ids = moves.put(scene, move, "sign", SPAN, other="end")
    assert same(seen(scene, "cam"), seen(made, ids[-1]))
    with pytest.raises(SceneError, match="choose where it ends"):
        moves.put(scene, move, "sign", SPAN)


def test_it_becomes_a_shot_of_its_own_in_the_film():
    scene = free_camera()
    move = moves.keep(scene, "cam", "sign", SPAN, "A move")
    whole, ids = moves.put(scene, move, "sign", FrameRange(0.0, 119.0))
    assert (whole.camera, whole.shots) == (ids[-1], ())
    part, ids = moves.put(scene, move, "sign", SPAN)
    assert [(shot.camera, shot.first) for shot in part.shots] == [("cam", 0.0), (ids[-1], 12.0), ("cam", 97.0)]
    again, more = moves.put(part, move, "sign", FrameRange(97.0, 119.0))
    assert [shot.camera for shot in again.shots] == ["cam", ids[-1], more[-1]]
    with pytest.raises(SceneError, match="a cut at frame 97"):
        moves.put(part, move, "sign", FrameRange(50.0, 110.0))
    only, _ = moves.put(scene, move, "sign", SPAN, Placing(shown="no"))
    assert (only.camera, only.shots) == ("cam", ())


def test_what_lay_on_the_beat_is_told():
    scene = replace(free_camera(), beats=wh.Beats(tempo=120.0), markers=(wh.Marker(70.0, "Bang"),))
    move = moves.keep(scene, "cam", "sign", SPAN, "A move")
    assert move.beats == pytest.approx(7.0)
    assert [(each.frame, each.marker) for each in move.moments] == [
        (0.0, ""), (48.0, ""), (58.0, "Bang"), (84.0, "")
    ]  # fmt: skip


def test_what_lay_on_a_beat_lies_on_a_beat_again():
    """Put on a piece whose beats are not even."""
    keys = tuple(wh.Key(12.0 * k, float(k % 3), wh.Handles(0.1, 0.3, 0.2, 0.3)) for k in range(1, 9))
    camera = wh.Camera(id="cam", name="Cam", channels=(wh.Channel("position.x", 0.0, keys),))
    scene = replace(stage(camera), beats=wh.Beats(tempo=120.0))
    move = moves.keep(scene, "cam", "sign", SPAN, "On the beat")
    at = (30.0, 40.0, 55.0, 63.0, 80.0, 92.0, 101.0, 119.0, 130.0)
    scene = replace(scene, settings=replace(scene.settings, last=200), beats=wh.Beats(at=at))
    span = FrameRange(30.0, 119.0)
    how = Placing(beats=tuple(each - 30.0 for each in at))
    made, ids = moves.put(scene, move, "sign", span, how)
    assert [key.frame for key in made.node(ids[-1]).channel("position.x").keys] == pytest.approx(at[:8])
    old = wh.evaluate(scene, np.linspace(24.0, 36.0, 13)).value("cam", "position.x")
    new = wh.evaluate(made, np.linspace(40.0, 55.0, 13)).position(ids[-1])[:, 0]
    assert new - new[0] == pytest.approx(old - old[0])
    with pytest.raises(SceneError, match="not so many beats"):
        moves.put(scene, move, "sign", span, Placing(beats=(0.0, 12.0)))
    with pytest.raises(SceneError, match="not kept to beats"):
        moves.put(scene, replace(move, beats=None), "sign", span, how)


def test_what_cannot_be_kept_is_told():
    scene = free_camera()
    with pytest.raises(SceneError, match="at least one frame"):
        moves.keep(scene, "cam", "sign", FrameRange(5.0, 5.0), "A move")
    with pytest.raises(SceneError, match="something else than its camera"):
        moves.keep(scene, "cam", "cam", SPAN, "A move")
    led = scene.with_node(replace(scene.node("sign"), carrier="cam"))
    with pytest.raises(SceneError, match="goes where Cam goes"):
        moves.keep(led, "cam", "sign", SPAN, "A move")
    cut = edits.cut_to(edits.add_node(scene, wh.Camera(id="b", name="B")), 40.0, "b")
    with pytest.raises(SceneError, match="a cut at frame 40"):
        moves.keep(cut, "cam", "sign", SPAN, "A move")


def test_a_move_names_nothing_but_itself():
    move = moves.keep(orbit(), "cam", "sign", SPAN, "A move")
    check_move(move)
    pivot = move.nodes[0]
    for broken, words in (
        (replace(move, nodes=(*move.nodes, pivot)), "two nodes of one id"),
        (replace(move, camera=pivot.id), "no camera"),
        (replace(move, nodes=(replace(pivot, carrier="elsewhere"), *move.nodes[1:])), "elsewhere"),
        (replace(move, nodes=(replace(pivot, carrier="camera"), *move.nodes[1:])), "circle"),
        (replace(move, nodes=(replace(pivot, binds=(wh.AimAt(("moon",)),)), *move.nodes[1:])), "moon"),
    ):
        with pytest.raises(SceneError, match=words):
            check_move(broken)


def test_an_oscillator_keeps_its_time():
    swing = Oscillator(targets=(Target("rotation.y", 10.0),), period=2.0)
    scene = edits.add_movers(free_camera(), "cam", [swing])[0]
    move = moves.keep(scene, "cam", "sign", SPAN, "A move")
    made, ids = moves.put(scene, move, "sign", SPAN)
    assert same(seen(scene, "cam"), seen(made, ids[-1]))
    half, ids = moves.put(scene, move, "sign", SPAN, Placing(strength=0.5))
    assert wh.evaluate(half, 30.0).value(ids[-1], "oscillator.strength")[0] == 0.5
