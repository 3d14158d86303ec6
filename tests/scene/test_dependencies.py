"""Order, loops, and what hangs under what."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

import wild_heron as wh
from wild_heron.evaluate import evaluate
from wild_heron.scene.budget import check_budget
from wild_heron.scene.dependencies import closure, descendants, evaluation_order, final_stage
from wild_heron.scene.validate import validate


@st.composite
def forests(draw) -> wh.Scene:
    """Nodes whose carriers and aims point at earlier ones, then shuffled."""
    nodes = []
    for k in range(draw(st.integers(1, 12))):
        earlier = [node.id for node in nodes]
        carrier = draw(st.sampled_from([None, *earlier]))
        aim = draw(st.sampled_from([None, *earlier])) if earlier else None
        if aim is not None:
            nodes.append(wh.Camera(id=f"n{k}", name=f"N{k}", carrier=carrier, binds=(wh.AimAt((aim,)),)))
        else:
            nodes.append(wh.Null(id=f"n{k}", name=f"N{k}", carrier=carrier))
    return wh.Scene(nodes=tuple(draw(st.permutations(nodes))))


@given(forests())
def test_every_node_comes_after_what_it_depends_on(scene):
    order = evaluation_order(scene)
    assert sorted(order) == sorted((node.id, k) for node in scene.nodes for k in range(len(node.binds) + 1))
    place = {part: k for k, part in enumerate(order)}
    for node in scene.nodes:
        last = len(node.binds)
        assert all(place[target, 0] < place[node.id, last] for bind in node.binds for target in bind.targets)
        assert node.carrier is None or place[final_stage(scene.node(node.carrier))] < place[node.id, 0]
    validate(scene)


@given(forests())
def test_asking_for_some_nodes_gives_the_same_as_asking_for_all(scene):
    whole = evaluate(scene, [0.0, 1.0])
    for node in scene.nodes:
        part = evaluate(scene, [0.0, 1.0], [node.id])
        assert part.world(node.id).tobytes() == whole.world(node.id).tobytes()


@pytest.mark.parametrize("length", [1, 2, 5])
def test_a_loop_of_any_length_is_named_whole(length):
    nodes = tuple(wh.Null(id=f"n{k}", name=f"N{k}", carrier=f"n{(k + 1) % length}") for k in range(length))
    with pytest.raises(wh.LoopError) as caught:
        evaluation_order(wh.Scene(nodes=nodes))
    assert len(set(caught.value.names)) == length
    assert caught.value.names[0] == caught.value.names[-1]
    assert " → ".join(caught.value.names) in str(caught.value)


def test_a_very_long_chain_is_no_trouble():
    nodes = [wh.Null(id="n0", name="N", channels=(wh.Channel("position.x", 1.0),))]
    for k in range(1, 3000):
        nodes.append(replace(nodes[0], id=f"n{k}", carrier=f"n{k - 1}"))
    scene = wh.Scene(nodes=tuple(reversed(nodes)))
    assert evaluate(scene, [0.0]).position("n2999")[0, 0] == 3000.0
    assert len(descendants(scene, "n0")) == 2999
    assert {node_id for node_id, _ in closure(scene, [("n9", 0)])} == {f"n{k}" for k in range(10)}


def test_a_missing_carrier_is_named():
    with pytest.raises(wh.SceneError, match="ghost"):
        evaluation_order(wh.Scene(nodes=(wh.Null(id="n", name="N", carrier="ghost"),)))
    with pytest.raises(wh.SceneError, match="ghost"):
        wh.edits.add_node(wh.Scene(), wh.Null(id="n", name="N", carrier="ghost"))


def test_what_would_take_too_long_is_refused_before_it_is_worked_out_and_named():
    from wild_heron.scene.budget import MOST_SECONDS, costs
    from wild_heron.scene.validate import validate_change

    null = wh.Null(id="base", name="Base")
    ground = wh.Ground(id="ground", name="Field", surface=wh.Waves(()))
    ball = wh.Null(id="ball", name="Ball", binds=(wh.DropAndRoll("ground"),))
    riders = tuple(
        wh.Null(id=f"n{k}", name=f"Rider {k}", carrier="ball", binds=(wh.Follow("base"),)) for k in range(30)
    )
    short = wh.Scene(settings=wh.Settings(last=200), nodes=(null, ground, ball, *riders))
    validate(short)
    long = replace(short, settings=wh.Settings(last=99_990))
    assert sum(each.seconds for each in costs(short)) < MOST_SECONDS < sum(each.seconds for each in costs(long))
    for refuse in (lambda: validate(long), lambda: validate_change(short, long)):
        with pytest.raises(wh.SceneError, match=r"over 99991 frames.*drop and roll of Ball.*make the scene shorter"):
            refuse()
    # The same things that depend on little are cheap, however many nodes there are beside them.
    alone = tuple(replace(each, carrier=None) for each in riders)
    validate(replace(long, nodes=(null, *alone)))


def test_movers_that_ask_again_for_what_comes_before_them_are_few():
    """Each of them doubles the work of those before it, however short the scene."""
    scene = wh.edits.add_node(wh.Scene(settings=wh.Settings(last=10)), wh.Camera(id="cam", name="Cam"))

    def stacked(count):
        lags = [
            wh.Lag(id=f"lag{k}", targets=(wh.Target("position.x", 1.0),), by="frames", delay=1.5 + k)
            for k in range(count)
        ]
        return wh.edits.add_movers(scene, "cam", lags)[0]

    check_budget(stacked(8))
    with pytest.raises(wh.SceneError, match=r"take about .* the lag of Cam"):
        check_budget(stacked(16))


def test_a_fall_costs_as_long_as_it_lasts_however_short_the_scene_is():
    def falling(start: float) -> wh.Scene:
        roll = wh.DropAndRoll(id="roll")
        since = wh.Channel("roll.start", start)
        balls = [wh.Null(id=f"b{k}", name=f"Ball {k}", binds=(roll,), channels=(since,)) for k in range(6)]
        return wh.Scene(settings=wh.Settings(last=50), nodes=tuple(balls))

    check_budget(falling(0.0))
    with pytest.raises(wh.SceneError, match=r"take about 8 s .* the drop and roll of Ball"):
        check_budget(falling(-9_000.0))
