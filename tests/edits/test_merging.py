"""A change that was worked out on one state of a scene and is made to another."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

import wild_heron as wh
from wild_heron.edits import applied_to

NODES = ("a", "b", "c")
CHANNELS = ("position.x", "position.y", "rotation.z")


def scene() -> wh.Scene:
    nodes = tuple(wh.Null(id=each, name=each.upper(), channels=(wh.Channel("position.x", 1.0),)) for each in NODES)
    return wh.Scene(nodes=(*nodes, wh.Camera(id="cam", name="Cam")), camera="cam")


edits = st.lists(
    st.one_of(
        st.tuples(st.just("value"), st.sampled_from(NODES), st.sampled_from(CHANNELS), st.floats(-9.0, 9.0)),
        st.tuples(st.just("name"), st.sampled_from(NODES), st.text("xyz", min_size=1, max_size=4)),
        st.tuples(st.just("add"), st.text("pq", min_size=1, max_size=3)),
        st.tuples(st.just("remove"), st.sampled_from(NODES)),
        st.tuples(st.just("last"), st.integers(1, 300)),
    ),
    max_size=4,
)


def edited(start: wh.Scene, steps) -> wh.Scene:
    out = start
    for kind, *what in steps:
        try:
            if kind == "value":
                out = wh.edits.set_value(out, *what)
            elif kind == "name":
                out = wh.edits.rename(out, *what)
            elif kind == "add":
                out = wh.edits.add_node(out, wh.Null(id=f"new-{what[0]}", name=f"New {what[0]}"))
            elif kind == "remove":
                out = wh.edits.remove_nodes(out, [what[0]])
            else:
                out = replace(out, settings=replace(out.settings, last=what[0]))
        except wh.SceneError:
            continue
    return out


@given(edits)
def test_on_the_scene_it_was_made_of_it_is_the_change_itself(steps):
    base = scene()
    changed = edited(base, steps)
    assert applied_to(base, base, changed) == changed
    assert applied_to(replace(base), base, changed) == changed
    assert applied_to(changed, base, base) == changed


@given(edits, edits)
def test_two_changes_meet_in_one_scene_in_either_order_or_are_refused_in_both(first, other):
    base = scene()
    one, two = edited(base, first), edited(base, other)
    met = []
    for now, changed in ((one, two), (two, one)):
        try:
            found = applied_to(now, base, changed)
        except wh.SceneError:
            found = None
        met.append(found)
    if met[0] is None or met[1] is None:
        assert met == [None, None]
        return
    assert replace(met[0], nodes=()) == replace(met[1], nodes=())
    assert {node.id: _plain(node) for node in met[0].nodes} == {node.id: _plain(node) for node in met[1].nodes}


def _plain(node):
    return replace(node, channels=tuple(sorted(node.channels, key=lambda each: each.name)))


def test_what_both_have_changed_is_named():
    base = scene()
    one = wh.edits.set_value(base, "a", "position.x", 5.0)
    two = wh.edits.set_value(base, "a", "position.x", 6.0)
    with pytest.raises(wh.SceneError, match=r"A's position\.x was changed meanwhile"):
        applied_to(one, base, two)
    assert applied_to(one, base, one) == one
    gone = wh.edits.remove_nodes(base, ["a"])
    with pytest.raises(wh.SceneError, match="A is gone"):
        applied_to(gone, base, two)
    moved = wh.edits.move_in_list(base, "c", 0)
    assert [node.id for node in applied_to(one, base, moved).nodes] == ["c", "a", "b", "cam"]


def test_new_nodes_come_where_they_came():
    base = scene()
    changed = replace(base, nodes=(*base.nodes[:1], wh.Null(id="n", name="N"), *base.nodes[1:]))
    now = wh.edits.add_node(base, wh.Null(id="late", name="Late"))
    assert [node.id for node in applied_to(now, base, changed).nodes] == ["a", "n", "b", "c", "cam", "late"]
