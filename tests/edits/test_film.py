"""Edits of shots and joins: nothing is lost, no gap is left, and what is left fits."""

from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

import wild_heron as wh
from wild_heron import edits
from wild_heron.edits.film import sequence_of
from wild_heron.scene import Blend, Cut, JoiningRule, Shot
from wild_heron.scene.film import film_problem, joined_by_rule
from wild_heron.scene.validate import validate


@pytest.fixture
def film() -> wh.Scene:
    scene = wh.Scene(settings=wh.Settings(last=119))
    for name in ("a", "b", "c"):
        scene = edits.add_node(scene, wh.Camera(id=name, name=name.upper()))
    shots = (Shot("One", "a"), Shot("Two", "b", 40.0, join=Blend(10.0)), Shot("Three", "c", 80.0))
    return edits.with_shots(scene, shots)


def told(scene: wh.Scene) -> list[tuple[str, float]]:
    validate(scene)
    return [(shot.camera, shot.first) for shot in scene.shots]


def test_a_first_cut_makes_the_one_camera_a_shot():
    scene = edits.add_node(edits.add_node(wh.Scene(), wh.Camera(id="a", name="A")), wh.Camera(id="b", name="B"))
    assert told(edits.cut_to(scene, 24.0, "b")) == [("a", 0.0), ("b", 24.0)]
    with pytest.raises(wh.SceneError, match="neither a camera nor a framing"):
        edits.cut_to(edits.add_node(scene, wh.Null(id="n", name="N")), 24.0, "n")


def test_cutting_splitting_and_removing(film):
    cut = edits.cut_to(film, 60.0, "a")
    assert told(cut) == [("a", 0.0), ("b", 40.0), ("a", 60.0), ("c", 80.0)]
    assert told(edits.cut_to(cut, 60.0, "c")) == [("a", 0.0), ("b", 40.0), ("c", 60.0), ("c", 80.0)], "on a join"
    assert told(edits.split_shot(film, 20.0)) == [("a", 0.0), ("a", 20.0), ("b", 40.0), ("c", 80.0)]
    with pytest.raises(wh.SceneError, match="begins here"):
        edits.split_shot(film, 40.0)
    assert told(edits.remove_shots(film, [1])) == [("a", 0.0), ("c", 80.0)]
    first = edits.remove_shots(film, [0])
    assert told(first) == [("b", 0.0), ("c", 80.0)]
    assert isinstance(first.shots[0].join, Cut)


def test_swapping_and_duplicating_keep_lengths(film):
    swapped = edits.swap_shots(film, 0, 1)
    assert told(swapped) == [("b", 0.0), ("a", 40.0), ("c", 80.0)]
    uneven = edits.roll_join(film, 1, 25.0)
    assert told(edits.swap_shots(uneven, 0, 1)) == [("b", 0.0), ("a", 55.0), ("c", 80.0)]
    longer = edits.duplicate_shot(film, 1)
    assert told(longer) == [("a", 0.0), ("b", 40.0), ("b", 80.0), ("c", 120.0)]
    assert longer.settings.last == 159


def test_rolling_stays_between_its_neighbours(film):
    assert told(edits.roll_join(film, 1, -50.0))[1] == ("b", 1.0)
    assert told(edits.roll_join(film, 1, 500.0))[1] == ("b", 79.0)
    with pytest.raises(wh.SceneError, match="begins with the scene"):
        edits.roll_join(film, 0, 5.0)


def test_a_ripple_takes_keys_and_markers_along(film):
    scene = edits.set_key(edits.set_key(film, "a", "position.x", 20.0, 0.0), "a", "position.x", 90.0, 5.0)
    scene = edits.set_marker(edits.set_marker(scene, 30.0, "early"), 100.0, "late")
    moved = edits.ripple(scene, 80.0, 12.0)
    assert told(moved) == [("a", 0.0), ("b", 40.0), ("c", 92.0)]
    assert [key.frame for key in moved.node("a").channel("position.x").keys] == [20.0, 102.0]
    assert [marker.frame for marker in moved.markers] == [30.0, 112.0]
    assert moved.settings.last == 131
    assert edits.ripple(moved, 92.0, -12.0) == scene
    with pytest.raises(wh.SceneError, match="nothing left of Two"):
        edits.ripple(scene, 80.0, -60.0)


def test_trimming(film):
    assert told(edits.trim_scene(film, 50, 90)) == [("b", 50.0), ("c", 80.0)]


def test_a_run_of_cuts_holds_its_last_and_gives_back_what_was(film):
    run = edits.run_of_cuts(film, 84.0, 104.0, 5.0, ["a", "b"], held=4.0)
    assert told(run)[2:] == [("c", 80.0), ("a", 84.0), ("b", 89.0), ("a", 94.0), ("b", 99.0), ("c", 108.0)]
    assert sequence_of("abc", 7, "back and forth") == list("abcbabc")
    shuffled = sequence_of("abc", 300, "shuffled", 3)
    assert shuffled == sequence_of("abc", 300, "shuffled", 3) != sequence_of("abc", 300, "shuffled", 4)
    assert all(x != y for x, y in pairwise(shuffled))
    assert {shuffled.count(each) for each in "abc"} == {100}


def test_cuts_fall_on_markers_of_a_kind(film):
    scene = edits.set_marker(edits.set_marker(film, 20.0, "x"), 60.0, "y", "beat")
    assert told(edits.cut_at_markers(scene, ["a", "b", "c"], "beat")) == [
        ("a", 0.0), ("b", 40.0), ("c", 60.0), ("c", 80.0),
    ]  # fmt: skip
    assert len(edits.cut_at_markers(scene, [], None).shots) == 5
    with pytest.raises(wh.SceneError, match="no such markers"):
        edits.cut_at_markers(film, ["a"], None)


def test_the_rule_for_the_pair_goes_before_the_others(film):
    def rule(before: str | None, after: str | None, length: float) -> JoiningRule:
        return JoiningRule(before, after, Blend(length))

    rules = (rule(None, None, 1.0), rule(None, "b", 2.0), rule("a", None, 3.0), rule("a", "b", 4.0))
    lengths = [joined_by_rule(rules, *pair).length for pair in (("a", "b"), ("a", "c"), ("c", "b"), ("c", "a"))]
    assert lengths == [4.0, 3.0, 2.0, 1.0]
    assert joined_by_rule((), "a", "b") == Cut()
    scene = edits.set_rule(film, rule("a", "b", 8.0))
    assert edits.cut_to(scene, 12.0, "b").shots[1].join.length == 8.0


def test_what_was_switched_lies_over_what_was(film):
    switched = edits.switched(film, [(10.0, "c"), (30.0, "a")], 60.0)
    assert told(switched) == [("a", 0.0), ("c", 10.0), ("a", 30.0), ("c", 80.0)]
    kept = edits.keep_pass(switched, film.shots)
    assert [each.name for each in kept.passes] == ["Before", "Pass 1"]
    assert kept.passes[0].shots == film.shots
    assert [each.name for each in edits.keep_pass(kept, switched.shots).passes] == ["Before", "Pass 1", "Pass 2"]


def test_seconds_are_kept_at_another_rate(film):
    sound = wh.Sound("S", "s.wav", 3.0, start=24.0)
    scene = edits.set_beats(edits.add_sound(film, sound), wh.Beats(120.0, 12.0))
    faster = edits.change_rate(scene, wh.Rate(48), "seconds")
    assert told(faster) == [("a", 0.0), ("b", 80.0), ("c", 160.0)]
    assert faster.shots[1].join.length == 20.0
    assert (faster.sounds[0].start, faster.beats.first) == (48.0, 24.0)


def test_what_names_a_node_that_is_gone_goes_with_it(film):
    scene = edits.set_rule(film, JoiningRule("b", None))
    scene = edits.add_event(scene, wh.Event("E", wh.AtMarker("m"), "b"))
    left = edits.remove_nodes(edits.keep_pass(scene, ()), ["b"])
    assert told(left) == [("a", 0.0), ("c", 80.0)]
    assert (left.rules, left.events, left.passes) == ((), (), ())


def changed(scene: wh.Scene, what: str, number: int, camera: str) -> wh.Scene:
    """The scene after one of the tools."""
    count = max(len(scene.shots), 1)
    match what:
        case "cut":
            return edits.cut_to(scene, float(number), camera)
        case "split":
            return edits.split_shot(scene, float(number))
        case "swap":
            return edits.swap_shots(scene, number % count, number % count + 1)
        case "remove":
            return edits.remove_shots(scene, [number % count])
        case "roll":
            return edits.roll_join(scene, number % count, number * 1.3)
        case "duplicate":
            return edits.duplicate_shot(scene, number % count)
    return edits.run_of_cuts(scene, number, number + 20.0, 5.0, ["a", camera])


@given(st.lists(st.tuples(st.sampled_from(["cut", "split", "swap", "remove", "roll", "duplicate", "run"]),
                          st.integers(0, 119), st.sampled_from("abc")), max_size=12))  # fmt: skip
def test_no_edit_leaves_a_film_that_does_not_fit(steps):
    scene = wh.Scene(settings=wh.Settings(last=119), rules=(JoiningRule(None, "b", Blend(14.0, place="before")),))
    for name in "abc":
        scene = edits.add_node(scene, wh.Camera(id=name, name=name))
    for what, number, camera in steps:
        try:
            scene = changed(scene, what, number, camera)
        except wh.SceneError:
            continue
        validate(scene)
        assert film_problem(scene.shots, scene.settings.rate) is None
        firsts = [shot.first for shot in scene.shots]
        assert firsts == sorted(set(firsts))
        assert len({shot.name for shot in scene.shots}) == len(scene.shots)


def test_a_film_that_does_not_fit_is_refused_with_its_place(film):
    bad = replace(film, shots=(Shot("One", "a"), Shot("Two", "b", 10.0, join=Blend(60.0))))
    with pytest.raises(wh.SceneError, match=r"\$\.scene\.shots\[1\]: The blend into Two begins at frame -20"):
        validate(bad)
    with pytest.raises(wh.SceneError, match=r"\$\.scene\.shots\[0\]\.camera: there is no camera or framing “x”"):
        validate(replace(film, shots=(Shot("One", "x"),)))
    event = wh.Event("E", wh.ChannelPasses("a", "nothing"), "b")
    with pytest.raises(wh.SceneError, match="has no channel “nothing”"):
        validate(replace(film, events=(event,)))
    with pytest.raises(wh.SceneError, match="does not drop and roll"):
        edits.add_event(film, wh.Event("E", wh.Hits("a"), "b"))
