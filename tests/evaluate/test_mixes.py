"""Mixes: cameras that are the mean of others by weights."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

import wild_heron as wh
from wild_heron import edits
from wild_heron.edits.mixes import members_on_pad, mix_of, pad_places, with_pad
from wild_heron.files import project
from wild_heron.scene import SceneError
from wild_heron.scene.errors import LoopError

PARTS = ("pose", "focal_px", "focal_mm", "focus", "f_stop", "shutter", "near", "far", "sensor")
TENTHS = np.arange(0.0, 100.05, 0.1)


def keyed(name: str, *keys: tuple[float, float]) -> wh.Channel:
    return wh.Channel(
        name, keys[0][1], tuple(wh.Key(frame, value, wh.Family("sine", "in-out")) for frame, value in keys)
    )


def camera(node_id: str, aim: str | None, *channels: wh.Channel, **more) -> wh.Camera:
    binds = (wh.AimAt((aim,)),) if aim else ()
    return wh.Camera(
        id=node_id, name=node_id, channels=tuple(sorted(channels, key=lambda each: each.name)), binds=binds, **more
    )


def stage(aims: tuple[str | None, ...] = ("thing", "thing", "thing")) -> wh.Scene:
    """Three cameras, of which one moves and one is carried and scaled, about something that moves."""
    thing = wh.Null(id="thing", name="Thing", channels=(keyed("position.x", (0.0, 0.0), (100.0, 2.0)),))
    crane = wh.Null(id="crane", name="Crane", channels=(
        keyed("rotation.y", (0.0, 0.0), (100.0, 50.0)), wh.Channel("scale.x", 2.0), wh.Channel("scale.y", 2.0),
        wh.Channel("scale.z", 2.0),
    ))  # fmt: skip
    a = camera("a", aims[0], wh.Channel("position.z", 10.0), wh.Channel("lens.focus", 10.0))
    b = camera(
        "b", aims[1], keyed("position.x", (0.0, 6.0), (100.0, 9.0)), wh.Channel("position.y", 3.0),
        wh.Channel("position.z", 4.0), wh.Channel("lens.focal", 85.0), wh.Channel("lens.f_stop", 8.0),
    )  # fmt: skip
    c = camera("c", aims[2], wh.Channel("position.z", -6.0), wh.Channel("position.y", 1.0),
               wh.Channel("rotation.y", 180.0), carrier="crane")  # fmt: skip
    return wh.Scene(settings=wh.Settings(last=100), nodes=(thing, crane, a, b, c), camera="a")


def mixed(scene: wh.Scene, *weights: wh.Channel | float, members=("a", "b", "c"), way: str = "auto") -> wh.Scene:
    scene, mix = mix_of(scene, members)
    scene = edits.change_bind(scene, mix, "mix", way=way)
    for k, each in enumerate(weights, 1):
        name = f"mix.weight.{k}"
        channel = replace(each, name=name) if isinstance(each, wh.Channel) else wh.Channel(name, each)
        scene = edits.set_channel(scene, mix, channel)
    return scene


def view(scene: wh.Scene, node: str = "mix", frames=TENTHS):
    return wh.evaluate(scene, frames).camera(node)


def same(a, b, within: float = 0.0) -> bool:
    return all(np.abs(getattr(a, part) - getattr(b, part)).max() <= within for part in PARTS)


@pytest.mark.parametrize("aims", [("thing", "thing", "thing"), (None, "thing", None), (None, None, None)])
@pytest.mark.parametrize("weight", [1.0, 0.25, 40.0])
@pytest.mark.parametrize("alone", [0, 1, 2])
def test_one_weight_alone_is_that_camera_bit_for_bit(alone, weight, aims):
    weights = [0.0, 0.0, 0.0]
    weights[alone] = weight
    scene = mixed(stage(aims), *weights)
    assert same(view(scene), view(scene, "abc"[alone]))


@pytest.mark.parametrize("way", ["auto", "straight", "round", "rise"])
@pytest.mark.parametrize("aims", [("thing", "thing", "thing"), (None, "thing", None), (None, None, None)])
@pytest.mark.parametrize("pair", [("a", "b"), ("b", "a"), ("a", "c")])
def test_a_weight_that_goes_over_is_the_films_blend(pair, aims, way):
    """From the one to the other over a span with an ease: what the film shows where it blends from the one to the
    other over that span with that ease."""
    ease = wh.Family("sine", "in-out")
    up = wh.Channel("w", 0.0, (wh.Key(30.0, 0.0, ease), wh.Key(54.0, 1.0)))
    down = wh.Channel("w", 1.0, (wh.Key(30.0, 1.0, ease), wh.Key(54.0, 0.0)))
    scene = mixed(stage(aims), down, up, members=pair, way=way)
    shots = (wh.Shot("One", pair[0], 0.0), wh.Shot("Two", pair[1], 42.0, join=wh.Blend(24.0, ease=ease, way=way)))
    film = replace(stage(aims), shots=shots)
    shown = wh.output(film, TENTHS)
    assert same(view(scene), shown, 1e-9)


@given(
    first=st.floats(0.01, 5.0), second=st.floats(0.01, 5.0), times=st.floats(0.01, 100.0),
    way=st.sampled_from(["straight", "round"]),
)  # fmt: skip
def test_weights_count_by_their_share(first, second, times, way):
    frames = np.array([3.0, 50.0, 97.3])
    scene = stage()
    plain = view(mixed(scene, first, second, members=("a", "b"), way=way), frames=frames)
    scaled = view(mixed(scene, first * times, second * times, members=("a", "b"), way=way), frames=frames)
    assert same(plain, scaled, 1e-7)
    share = second / (first + second)
    a, b = (view(scene, each, frames) for each in "ab")
    assert np.log(plain.focal_px) == pytest.approx(np.log(a.focal_px) * (1.0 - share) + np.log(b.focal_px) * share)
    if way == "straight":
        assert plain.position == pytest.approx(a.position * (1.0 - share) + b.position * share)
    else:
        subject = plain.pixels(wh.evaluate(scene, frames).position("thing"))[0]
        assert subject == pytest.approx(np.array([[960.0, 540.0]] * 3), abs=1e-3)


@pytest.mark.parametrize("order", [("a", "b", "c"), ("c", "a", "b"), ("b", "c", "a")])
def test_three_are_the_mean_in_whatever_order(order):
    """Places and lenses; turns nearly, as they are mixed one after the other."""
    weight = {"a": 1.0, "b": 2.0, "c": 0.5}
    scene = mixed(stage(), *(weight[each] for each in order), members=order, way="straight")
    found = view(scene)
    mean = sum(view(scene, each).position * weight[each] for each in "abc") / 3.5
    assert found.position == pytest.approx(mean, abs=1e-9)
    focal = sum(np.log(view(scene, each).focal_px) * weight[each] for each in "abc") / 3.5
    assert np.log(found.focal_px) == pytest.approx(focal, abs=1e-9)


def test_it_moves_on_smoothly_where_a_weight_comes_and_goes():
    ways = [keyed("w", (0.0, 1.0), (50.0, 0.0), (100.0, 1.0)), keyed("w", (0.0, 0.0), (50.0, 1.0), (100.0, 0.0)),
            keyed("w", (20.0, 0.0), (60.0, 1.0), (80.0, 0.0))]  # fmt: skip
    found = view(mixed(stage(), *ways))
    step = np.linalg.norm(np.diff(found.position, axis=0), axis=1)
    assert np.abs(np.diff(step)).max() < 0.02
    turn = np.einsum("nij,nij->n", found.pose[1:, :3, :3], found.pose[:-1, :3, :3])
    assert (3.0 - turn).max() < 1e-3


def test_any_order_of_frames_gives_the_same():
    scene = mixed(stage(), 1.0, keyed("w", (10.0, 0.0), (60.0, 2.0)), keyed("w", (50.0, 0.0), (90.0, 1.0)))
    whole = view(scene)
    order = np.random.default_rng(4).permutation(len(TENTHS))[:60]
    some = view(scene, frames=TENTHS[order])
    assert all((getattr(some, part) == getattr(whole, part)[order]).all() for part in PARTS)
    for k in order[:5]:
        one = view(scene, frames=TENTHS[k : k + 1])
        assert all((getattr(one, part) == getattr(whole, part)[k : k + 1]).all() for part in PARTS)


def test_nothing_weighs_anything():
    scene = mixed(stage(), 0.0, 0.0, 0.0)
    assert same(view(scene), view(scene, "a"))


def test_a_mix_of_a_mix_and_of_a_tour():
    scene = mixed(stage(), 1.0, 3.0, members=("a", "b"))
    outer, top = mix_of(scene, ("mix", "c"))
    assert same(view(outer, top), view(outer, "mix"))
    with pytest.raises(LoopError):
        edits.change_bind(outer, "mix", "mix", members=("a", top))


def test_when_a_member_goes_the_others_keep_their_weights():
    scene = mixed(stage(), 0.2, 0.3, 0.5)
    left = edits.remove_nodes(scene, {"b"})
    mix = left.node("mix")
    assert mix.binds[0].members == ("a", "c")
    assert {each.name: each.value for each in mix.channels} == {"mix.weight.1": 0.2, "mix.weight.2": 0.5}
    assert edits.remove_nodes(scene, {"a", "b", "c"}).node("mix").binds == ()


def test_it_dissolves_into_keys_and_is_saved():
    from wild_heron.edits.baking import dissolve

    scene = mixed(stage(), 1.0, keyed("w", (10.0, 0.0), (60.0, 2.0)), members=("a", "b"))
    assert project.decode(project.encode(scene)) == scene
    baked, _ = dissolve(scene, ["mix"])
    old, new = view(scene), view(baked)
    assert new.position == pytest.approx(old.position, abs=0.003)
    assert new.focal_mm == pytest.approx(old.focal_mm, rel=2e-4)
    assert not baked.node("mix").binds


def test_only_what_can_be_shown_is_mixed():
    with pytest.raises(SceneError, match="neither a camera nor a framing"):
        mix_of(stage(), ("a", "thing"))


def test_weights_are_moved_linked_and_shot_like_any_channel():
    swing = wh.Oscillator(targets=(wh.Target("mix.weight.2", 1.0),), low=0.0, high=1.0, period=2.0)
    scene = mixed(stage(), 1.0, 0.0, members=("a", "b"))
    scene = edits.add_movers(scene, "mix", [swing])[0]
    scene = replace(scene, shots=(wh.Shot("Mixed", "mix", 0.0),))
    found = wh.output(scene, TENTHS)
    assert np.ptp(found.focal_px) > 10.0
    assert same(found, view(scene))


@pytest.mark.parametrize("count", [2, 3, 4, 7])
def test_a_pad_weighs_by_inverse_squared_distance(count):
    members = tuple(f"c{k}" for k in range(count))
    cameras = tuple(camera(each, None, wh.Channel("position.x", float(k))) for k, each in enumerate(members))
    scene, mix = mix_of(wh.Scene(nodes=cameras), members)
    scene = with_pad(edits.change_bind(scene, mix, "mix", way="straight"), mix)
    places = pad_places(count)
    assert np.abs(places).max() <= 1.0
    for at in (*places, np.array([0.3, -0.2]), np.zeros(2)):
        for name, value in zip(("dial.across", "dial.up"), at.tolist(), strict=True):
            scene = edits.set_value(scene, mix, name, value)
        weights = 1.0 / np.maximum(((places - at) ** 2).sum(axis=1), 1e-6)
        wanted = float((weights * np.arange(count)).sum() / weights.sum())
        assert wh.evaluate(scene, [0.0]).position(mix)[0, 0] == pytest.approx(wanted, abs=1e-6)
    assert [(name, x, y) for name, x, y in members_on_pad(scene.node(mix))] == [
        (each, x, y) for each, (x, y) in zip(members, places.tolist(), strict=True)
    ]
    # One that goes leaves the others where they stand.
    left = edits.remove_nodes(scene, {members[0]}).node(mix)
    assert members_on_pad(left) == members_on_pad(scene.node(mix))[1:]
    with pytest.raises(SceneError, match="a pad already"):
        with_pad(scene, mix)
    with pytest.raises(SceneError, match="no mix"):
        with_pad(scene, members[0])
