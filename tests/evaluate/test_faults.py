"""What cannot be worked out stands still and says so; nothing else is touched. And what is not worked out for ever."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

import wild_heron as wh
from wild_heron.evaluate import evaluate
from wild_heron.evaluate.binds import SOLVERS
from wild_heron.motion.noise import gradient_noise
from wild_heron.scene.dependencies import MAX_NESTED, subscene
from wild_heron.scene.validate import validate, validate_change


def huge_chain(count: int = 40) -> wh.Scene:
    """Carriers whose sizes multiply beyond what a number holds, and two nodes beside them."""
    large = tuple(wh.Channel(f"scale.{axis}", 1e9) for axis in "xyz")
    nodes = [
        wh.Null(id=f"n{k}", name=f"N{k}", carrier=f"n{k - 1}" if k else None, channels=large) for k in range(count)
    ]
    calm = wh.Null(id="calm", name="Calm", channels=(wh.Channel("position.x", 3.0),))
    aimed = wh.Camera(id="cam", name="Cam", binds=(wh.AimAt((f"n{count - 1}",)),))
    return wh.Scene(nodes=(*nodes, calm, aimed))


def test_what_leads_beyond_all_numbers_stands_still_and_the_rest_is_as_ever():
    scene = huge_chain()
    here = evaluate(scene, [0.0, 5.0])
    assert here.faults
    assert all("stands still" in each and "beyond all measure" in each for each in here.faults.values())
    assert all(np.isfinite(here.world(node.id)).all() for node in scene.nodes)
    assert "calm" not in here.faults
    alone = evaluate(wh.Scene(nodes=(scene.node("calm"),)), [0.0, 5.0])
    assert here.world("calm").tobytes() == alone.world("calm").tobytes()


def test_a_fault_of_a_solver_is_kept_to_its_node(monkeypatch):
    def broken(*_: object) -> None:
        raise MemoryError

    bound = wh.Null(id="a", name="A", binds=(wh.Match("b"),), channels=(wh.Channel("position.x", 2.0),))
    scene = wh.Scene(nodes=(wh.Null(id="b", name="B"), bound, wh.Null(id="c", name="C", carrier="a")))
    monkeypatch.setitem(SOLVERS, wh.Match, broken)
    here = evaluate(scene, [0.0])
    assert here.faults == {"a": "A stands still: match needs more memory than there is."}
    assert here.position("a")[0].tolist() == here.position("c")[0].tolist() == [2.0, 0.0, 0.0]


def test_faults_go_with_what_is_taken_over_and_end_when_it_is_mended():
    scene = huge_chain()
    before = evaluate(scene, [0.0])
    other = evaluate(wh.edits.set_value(scene, "calm", "position.y", 1.0), [0.0], previous=before)
    assert other.faults == before.faults
    mended = wh.edits.remove_nodes(scene, [f"n{k}" for k in range(5, 40)])
    assert evaluate(mended, [0.0], previous=before).faults == {}


@pytest.mark.parametrize(
    "last", [wh.AimAt(("other",)), wh.Match("other", "", "y", ""), wh.RidePath("way"), wh.FaceCamera("eye"), wh.Limit()]
)
@pytest.mark.parametrize(
    "first", [wh.Follow("target"), wh.DropAndRoll(None, ("wall",)), wh.AimAt(("target",), "target", "first")]
)
def test_what_looks_elsewhere_may_be_followed_by_any_bind(first, last):
    target = wh.Null(
        id="target", name="T",
        channels=(wh.Channel("position.x", 0.0, (wh.Key(0.0, 0.0, wh.Linear()), wh.Key(40.0, 9.0))),),
    )  # fmt: skip
    wall = wh.Model(id="wall", name="W", shape=wh.Box())
    others = (wh.Null(id="other", name="O"), wh.Path(id="way", name="Way"), wh.Camera(id="eye", name="Eye"))
    node = wh.Null(id="n", name="N", binds=(first, last), channels=(wh.Channel("position.y", 8.0),))
    scene = wh.Scene(nodes=(target, wall, *others, node))
    validate(scene)
    here = evaluate(scene, np.linspace(0.0, 40.0, 17))
    assert here.faults == {}
    # The bind before it gives what it would give by itself.
    alone = evaluate(replace(scene, nodes=(*scene.nodes[:-1], replace(node, binds=(first,)))), here.frames)
    assert here.at_stage(("n", 1)).tobytes() == alone.world("n").tobytes()


def test_an_excerpt_keeps_what_feeds_channels_and_lets_later_binds_rest():
    link = wh.Link("desk", "dial.push")
    desk = wh.Null(id="desk", name="Desk", carrier="far", dials=(wh.Dial("push", "Push"),))
    node = wh.Null(
        id="n", name="N", binds=(wh.Follow("t"), wh.Match("m")), channels=(wh.Channel("position.x", links=(link,)),)
    )
    nodes = (*(wh.Null(id=name, name=name) for name in ("far", "t", "m", "none")), desk, node)
    part = subscene(wh.Scene(nodes=nodes), (("n", 1),))
    assert {each.id for each in part.nodes} == {"t", "desk", "n"}
    assert [bind.on for bind in part.node("n").binds] == [True, False]
    assert part.node("desk").carrier is None


def test_aims_that_level_each_other_are_worked_out_once_each():
    nodes = [wh.Null(id="n0", name="N0", channels=(wh.Channel("position.y", 9.0),))]
    for k in range(1, MAX_NESTED + 1):
        # Straight up, where an aim has to look at its whole motion.
        nodes.append(wh.Null(id=f"n{k}", name=f"N{k}", binds=(wh.AimAt(("n0",), f"n{k - 1}"),)))
    scene = wh.Scene(nodes=tuple(nodes))
    validate(scene)
    assert evaluate(scene, [3.0]).faults == {}
    longer = wh.Null(id="last", name="Last", binds=(wh.AimAt(("n0",), f"n{MAX_NESTED}"),))
    with pytest.raises(wh.SceneError, match="Last is at the end of more than"):
        wh.edits.add_node(scene, longer)


def test_a_long_chain_of_formulas_is_no_deeper_than_one():
    nodes = [wh.Null(id="n0", name="N", channels=(wh.Channel("position.x", 1.0),))]
    deep = "+".join(["0"] * 20)
    for k in range(1, 100):
        formula = f'of("n{k - 1}", "position.x") + 1 + {deep}'
        nodes.append(wh.Null(id=f"n{k}", name="N", channels=(wh.Channel("position.x", formula=formula),)))
    scene = wh.Scene(nodes=tuple(reversed(nodes)))
    validate(scene)
    here = evaluate(scene, [0.0])
    assert here.faults == {}
    assert here.position("n99")[0, 0] == 100.0


@given(st.lists(st.integers(-(10**9), 10**9), min_size=1, max_size=20), st.floats(-1e6, 1e6))
def test_noise_of_many_seeds_is_that_of_each(seeds, x):
    together = gradient_noise(np.full(len(seeds), x), np.array(seeds))
    assert together.tolist() == [float(gradient_noise(np.array([x]), seed)[0]) for seed in seeds]


@pytest.mark.parametrize(
    ("formula", "says"),
    [("1" * 400, "too large"), ("1e999", "too large"), ("-" * 90 + "1", "nested"), ("9" * 499 + "9", "too large")],
)
def test_formulas_without_measure_are_refused(formula, says):
    scene = wh.Scene(nodes=(wh.Null(id="n", name="N"),))
    with pytest.raises(wh.SceneError, match=says):
        wh.edits.set_formula(scene, "n", "position.x", formula)


@pytest.mark.parametrize(
    "formula", ["noise(1, frame)", "noise(frame, frame)", "noise(frame / 0, 1)", "noise(1, 0 / 0)"]
)
def test_noise_takes_numbers_of_any_kind(formula):
    scene = wh.edits.set_formula(wh.Scene(nodes=(wh.Null(id="n", name="N"),)), "n", "position.x", formula)
    here = evaluate(scene, np.arange(3000.0))
    assert here.faults == {}
    assert np.isfinite(here.position("n")).all()


@pytest.mark.parametrize(
    "make",
    [
        lambda: wh.Rate(90_000), lambda: wh.Rate(1, 3), lambda: wh.Settings(first=0, last=100_000),
        lambda: wh.Settings(first=-1_000_000, last=1_000_000),
    ],
)  # fmt: skip
def test_rates_and_ranges_have_bounds(make):
    with pytest.raises(ValueError, match=r"(between|up to)"):
        make()


def test_keys_too_close_to_tell_apart_are_refused_and_edits_leave_none():
    keys = (wh.Key(0.0, 0.0), wh.Key(5e-324, 1.0), wh.Key(9.0, 2.0))
    scene = wh.Scene(nodes=(wh.Null(id="n", name="N", channels=(wh.Channel("position.x", 0.0, keys),)),))
    with pytest.raises(wh.SceneError, match="closer than can be told apart"):
        validate(scene)
    close = (wh.Key(0.0, 0.0), wh.Key(3e-6, 1.0), wh.Key(9.0, 2.0))
    scene = wh.Scene(nodes=(wh.Null(id="n", name="N", channels=(wh.Channel("position.x", 0.0, close),)),))
    slower = wh.edits.change_rate(scene, wh.Rate(1), "seconds")
    validate(slower)
    assert [key.value for key in slower.node("n").channel("position.x").keys] == [1.0, 2.0]


@pytest.mark.parametrize(
    ("node", "says"),
    [
        (wh.Null(id="n", name="bad\udcff"), "proper text"),
        (wh.Null(id="n", name="N", channels=(wh.Channel("position.x", 1e300),)), r"<= 1000000000"),
        (wh.Null(id="n", name="N", channels=(wh.Channel("position.x", float("nan")),)), r"N"),
        (wh.Picture(id="n", name="N", artwork=wh.ImageFile("a.png"), width=100_000, height=9), "65536"),
        (
            wh.Picture(id="n", name="N", artwork=wh.Sequence("a_#.png", 20261126, 4, 24.0), width=9, height=9),
            "10000000",
        ),
        (wh.Null(id="n", name="N", carrier="nobody"), "nobody"),
    ],
)
def test_a_change_that_no_file_can_hold_is_refused_by_name(node, says):
    with pytest.raises(wh.SceneError, match=says):
        validate_change(wh.Scene(), wh.Scene(nodes=(node,)))


def test_frames_beyond_reach_are_refused_and_what_remembers_ends_before(rig):
    with pytest.raises(ValueError, match="must lie between"):
        evaluate(rig, [1e8])
    follower = wh.Null(id="f", name="F", binds=(wh.Follow("target"),))
    scene = wh.edits.add_node(rig, follower)
    far = evaluate(scene, [50.0 + 30_000, 1_000_000.0])
    assert far.world("f")[0].tobytes() == far.world("f")[1].tobytes()


def test_an_unknown_node_is_a_scene_error():
    for ask in (
        lambda s: s.node("x"),
        lambda s: evaluate(s, 0.0, ["x"]),
        lambda s: wh.edits.set_value(s, "x", "a", 1.0),
    ):
        with pytest.raises(wh.SceneError, match="There is no node “x”"):
            ask(wh.Scene())
    with pytest.raises(wh.UnknownNodeError):
        evaluate(wh.Scene(), 0.0).world("x")
