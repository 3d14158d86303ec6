"""How fast the picture slides, against closed forms; and moves that meet at a cut."""

import numpy as np
import pytest

import wild_heron as wh
from wild_heron import edits
from wild_heron.edits.matched_cuts import even_in_shot, keys_of_shot, match_speed_at_cut, moving_at_cut
from wild_heron.evaluate.picture_speed import picture_speed
from wild_heron.scene import Channel, Family, Key, Linear, Shot

FOCAL = 35.0 / 36.0 * 1920.0


def card(z: float = 0.0, **fields: object) -> wh.Picture:
    place = (Channel("position.z", z), Channel("scale.x", 50.0), Channel("scale.y", 50.0))
    return wh.Picture(id="card", name="Card", artwork=wh.Solid(), width=400, height=400, channels=place, **fields)


def slider(node_id: str, keys: tuple[Key, ...], z: float = 10.0, **fields: object) -> wh.Camera:
    channels = (Channel("position.x", keys[0].value, keys), Channel("position.z", z))
    return wh.Camera(id=node_id, name=node_id, channels=channels, **fields)


def test_a_sideways_camera_slides_the_picture_by_focal_length_times_speed_over_distance():
    scene = wh.Scene(nodes=(card(), slider("a", (Key(0.0, 0.0, Linear()), Key(48.0, 8.0)))), camera="a")
    found = picture_speed(scene, np.arange(2.0, 46.0))
    speed = 8.0 / 48.0 * 24.0
    assert found.middle == pytest.approx(np.full(44, FOCAL * speed / 10.0), rel=1e-6)
    assert np.isnan(found.subject).all()


def test_a_camera_that_follows_what_moves_leaves_it_where_it_is():
    keys = (Key(0.0, 0.0, Linear()), Key(48.0, 8.0))
    moving = wh.Null(id="rail", name="Rail", channels=(Channel("position.x", 0.0, keys),))
    scene = wh.Scene(nodes=(moving, card(carrier="rail"), slider("a", keys)), camera="a")
    assert picture_speed(scene, np.arange(2.0, 46.0)).middle == pytest.approx(np.zeros(44), abs=1e-6)


def test_going_round_an_aim_is_seen_though_the_aim_stands_still():
    turn = (Key(0.0, 0.0, Linear()), Key(48.0, 90.0))
    null = wh.Null(id="turn", name="Turn", channels=(Channel("rotation.y", 0.0, turn),))
    camera = wh.Camera(
        id="a", name="A", carrier="turn", channels=(Channel("position.z", 10.0),), binds=(wh.AimAt(("aim",)),)
    )
    scene = wh.Scene(nodes=(wh.Null(id="aim", name="Aim"), null, card(-6.0), camera), camera="a")
    found = picture_speed(scene, np.array([5.0, 10.0]))
    assert found.subject == pytest.approx([0.0, 0.0], abs=1e-6)
    assert (found.middle > 50.0).all()


def film(first: tuple[Key, ...], second: tuple[Key, ...]) -> wh.Scene:
    nodes = (card(), slider("a", first), slider("b", second))
    shots = (Shot("A", "a"), Shot("B", "b", 48.0))
    return wh.Scene(settings=wh.Settings(last=95), nodes=nodes, camera="a", shots=shots)


EASED = film(
    (Key(0.0, 0.0, Family("cubic")), Key(48.0, 8.0)), (Key(48.0, 0.0, Family("cubic")), Key(96.0, -3.0))
)  # fmt: skip


def around(scene: wh.Scene) -> np.ndarray:
    return picture_speed(scene, np.array([47.5, 48.5])).middle


def test_speed_is_not_measured_across_a_cut():
    still = film((Key(0.0, 0.0),), (Key(0.0, 4.0),))
    assert picture_speed(still, np.array([47.9, 48.0])).middle == pytest.approx([0.0, 0.0], abs=1e-9)


def test_dead_ends_at_a_cut_are_set_in_motion():
    assert around(EASED).max() < 2.0
    moved = moving_at_cut(EASED, 1)
    assert around(moved).min() > 20.0
    # About the middle of its shot: what is there stays.
    here, then = (picture_speed(scene, np.array([24.0])).middle for scene in (EASED, moved))
    assert then == pytest.approx(here * 24.0 / (48.0 + 9.6 - 24.0), rel=1e-2)
    with pytest.raises(wh.SceneError, match="in motion at the cut already"):
        moving_at_cut(moved, 1)
    with pytest.raises(wh.SceneError, match="no cut here"):
        moving_at_cut(EASED, 0)
    with pytest.raises(wh.SceneError, match="Neither A nor B has two keys"):
        moving_at_cut(film((Key(0.0, 0.0),), (Key(0.0, 1.0),)), 1)


def test_the_speeds_on_both_sides_are_made_to_meet():
    moved = moving_at_cut(EASED, 1)
    before, after = around(moved)
    assert before > 1.5 * after
    met = around(match_speed_at_cut(moved, 1))
    assert met[1] == pytest.approx(met[0], rel=0.1)
    with pytest.raises(wh.SceneError, match="stands still at the end of A"):
        match_speed_at_cut(EASED, 1)


def test_a_shot_is_made_even_and_others_stay():
    keys = (Key(0.0, 0.0, Family("cubic")), Key(20.0, 2.0, Family("cubic")), Key(48.0, 9.0))
    scene = film(keys, (Key(48.0, 0.0, Family("cubic")), Key(96.0, -3.0)))
    even = even_in_shot(scene, 0)
    speed = picture_speed(even, np.arange(2.0, 46.0)).middle
    assert np.ptp(speed) < 0.02 * speed.mean()
    assert even.node("b") is scene.node("b")


def test_the_keys_of_a_shot_are_those_of_its_camera_and_what_moves_it():
    null = wh.Null(id="rail", name="Rail", channels=(Channel("position.y", 0.0, (Key(10.0, 0.0), Key(70.0, 1.0))),))
    scene = edits.change_node(edits.add_node(EASED, null, 0), "a", carrier="rail")
    assert {(ref.node, ref.frame) for ref in keys_of_shot(scene, 0)} == {("a", 0.0), ("a", 48.0), ("rail", 10.0)}
    assert {ref.node for ref in keys_of_shot(scene, 1)} == {"b"}
