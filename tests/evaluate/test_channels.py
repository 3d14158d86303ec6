"""Dials, links and formulas."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import wild_heron as wh
from wild_heron.evaluate import evaluate
from wild_heron.evaluate.channels import formula_problem, own_values
from wild_heron.scene.formulas import FUNCTIONS, NAMES, parsed
from wild_heron.scene.validate import validate

FRAMES = np.arange(0.0, 60.0, 0.5)


@pytest.fixture
def board() -> wh.Scene:
    scene = wh.Scene(nodes=(wh.Null(id="desk", name="The desk"), wh.Null(id="cart", name="Cart")))
    scene, _ = wh.edits.add_dial(scene, "desk", wh.Dial("push", "Push", "units", 0.0, 10.0, 2.0))
    scene = wh.edits.set_key(scene, "desk", "dial.push", 0, 0.0, wh.Linear())
    return wh.edits.set_key(scene, "desk", "dial.push", 50, 10.0)


def formula(scene, text, channel="position.x", node="cart"):
    there = evaluate(wh.edits.set_formula(scene, node, channel, text), FRAMES)
    values = there.value(node, channel)
    # What cannot be worked out keeps its value, and would pass for one that is the same.
    assert there.faults == {}
    return values


def test_a_link_turns_one_range_into_another_and_several_add_up(board):
    there = wh.Link("desk", "dial.push", 0.0, 10.0, 100.0, 200.0, wh.Linear(), clamp=False)
    soft = wh.Link("desk", "dial.push", 2.0, 4.0, 0.0, 7.0, wh.Family("quad", "in"), clamp=True)
    scene = wh.edits.set_value(board, "cart", "rotation.y", 5.0)
    scene = wh.edits.set_links(scene, "cart", "rotation.y", (there, soft))
    push = np.minimum(FRAMES / 5.0, 10.0)
    share = np.clip((push - 2.0) / 2.0, 0.0, 1.0)
    assert evaluate(scene, FRAMES).value("cart", "rotation.y") == pytest.approx(5 + 100 + 10 * push + 7 * share**2)


def test_a_link_stays_inside_the_channels_range_and_moves_the_node(board):
    scene = wh.edits.set_links(board, "cart", "position.y", (wh.Link("desk", "dial.push", out_high=1e9),))
    assert evaluate(scene, FRAMES).position("cart")[:, 1].max() == 1e9
    assert not evaluate(scene, FRAMES).is_still("cart")


@pytest.mark.parametrize(
    ("text", "wanted"),
    [
        ("value + frame / 2", 3.0 + FRAMES / 2),
        ("sin(turn * seconds) ** 2", np.sin(2 * np.pi * FRAMES / 24) ** 2),
        ('of("The desk", "dial.push") * 2', 2 * np.minimum(FRAMES / 5, 10)),
        ('of("", "position.y") - 1', np.full(len(FRAMES), -1.0)),
        ("1 if frame < 10 else clamp(frame, 12, 20)", np.where(FRAMES < 10, 1, np.clip(FRAMES, 12, 20))),
        ("remap(frame, 0, 60, -1, 1)", FRAMES / 30 - 1),
        ("mix(2, 4, ease(frame, 0, 1000))", None),
        ("7 // 2 + fract(2.25) - -3 % 2", 3 + 0.25 - 1 + 0 * FRAMES),
        ("max(frame, 20, value) - min(2, 3)", np.maximum(FRAMES, 20) - 2),
        ("atan2(1, 1) + degrees_free", None),
    ],
)
def test_formulas_come_to_what_they_say(board, text, wanted):
    scene = wh.edits.set_value(board, "cart", "position.x", 3.0)
    if "degrees_free" in text:
        with pytest.raises(wh.FormulaError, match="nothing called “degrees_free”"):
            formula(scene, text)
    elif wanted is None:
        got = formula(scene, text)
        assert (got >= 2).all()
        assert (np.diff(got) >= 0).all()
    else:
        assert formula(scene, text) == pytest.approx(wanted)


@given(st.integers(0, 5), st.floats(-50, 50))
def test_noise_is_one_smooth_curve_per_seed_whatever_is_asked_for(seed, at):
    scene = wh.Scene(nodes=(wh.Null(id="n", name="N"),))
    scene = wh.edits.set_formula(scene, "n", "position.x", f"noise(frame / 3, {seed})")
    there = evaluate(scene, [at, at + 1e-6, np.floor(at / 3) * 3])
    near = there.value("n", "position.x")
    assert there.faults == {}
    assert abs(near[0]) <= 1.0
    assert abs(near[1] - near[0]) < 1e-5
    assert near[2] == pytest.approx(0.0, abs=1e-9)
    assert evaluate(scene, at).value("n", "position.x")[0] == near[0]


@pytest.mark.parametrize(
    ("text", "place"),
    [
        ("1 +", 3), ("value.x", 0), ("2 ^ 3", 0), ("[1, 2]", 0), ("__import__('os')", 0), ("lambda: 1", 0),
        ("frame + spin", 8), ("sin(1, 2)", 0), ('"a" + 1', 0), ("sin", 0), ("2 + (3", 6), ("True", 0), ("of(1, 2)", 3),
        ("frame + of('cart', 'position.q')", 12), ("of('nobody', 'opacity')", 4), ("(" * 200 + ")" * 200, None),
        ("-" * 400 + "1", None), ("1" * 600, 500), ("1; 2", None), ("(lambda: 0)()", 0), ("f'{frame}'", None),
        ("x := 3", None), ("sin(*value)", 0), ("sin(x=1)", 0),
    ],
)  # fmt: skip
def test_what_cannot_be_a_formula_is_refused_with_the_place(board, text, place):
    with pytest.raises(wh.FormulaError) as caught:
        wh.edits.set_formula(board, "cart", "position.x", text)
    assert place is None or caught.value.place == place


@given(st.text(st.sampled_from("0123456789.+-*/%()<>=!,'\" \t\\ofsinvaluefrmtp_[]{}:@#ü\x00"), max_size=60))
def test_no_text_gets_past_the_check_as_anything_but_arithmetic(text):
    scene = wh.Scene(nodes=(wh.Null(id="n", name="N"),))
    try:
        scene = wh.edits.set_formula(scene, "n", "position.x", text)
    except wh.SceneError:
        return
    assert np.isfinite(evaluate(scene, FRAMES).value("n", "position.x")).all()


def test_every_listed_word_can_be_used():
    for name in NAMES:
        parsed(name)
    for name, (least, _, _) in FUNCTIONS.items():
        args = ["''", "'position.y'"] if name == "of" else ["1"] * least
        scene = wh.Scene(nodes=(wh.Null(id="n", name="N"),))
        scene = wh.edits.set_formula(scene, "n", "position.x", f"{name}({', '.join(args)})")
        evaluate(scene, FRAMES)


def test_where_a_formula_gives_no_number_the_channel_keeps_its_own(board):
    scene = wh.edits.set_value(board, "cart", "position.x", 3.0)
    scene = wh.edits.set_formula(scene, "cart", "position.x", "1 / (frame - 10)")
    here = evaluate(scene, FRAMES)
    assert here.value("cart", "position.x")[20] == 3.0
    node = scene.node("cart")
    assert "no number at frame 10" in formula_problem(here, node, node.channel("position.x"))


def test_formulas_name_nodes_by_id_and_show_their_names(board):
    scene = wh.edits.set_formula(board, "cart", "position.x", 'of("The desk", "dial.push")')
    stored = scene.node("cart").channel("position.x").formula
    assert stored == 'of("desk", "dial.push")'
    scene = wh.edits.rename(scene, "desk", "Board")
    assert wh.edits.readable(scene, stored) == 'of("Board", "dial.push")'
    assert evaluate(scene, 25.0).position("cart")[0, 0] == pytest.approx(5.0)
    # A name that other letters cannot spell keeps the places of the rest.
    scene = wh.edits.rename(scene, "desk", "Lötpult ☂")
    assert evaluate(
        wh.edits.set_formula(scene, "cart", "position.y", 'of("Lötpult ☂", "dial.push") + 1'), 25.0
    ).position("cart")[0, 1] == pytest.approx(6.0)


def test_channels_cannot_feed_themselves(board):
    scene = wh.edits.set_formula(board, "cart", "position.x", 'of("The desk", "position.x")')
    with pytest.raises(wh.LoopError, match="Cart · position x"):
        wh.edits.set_links(scene, "desk", "position.x", (wh.Link("cart", "position.x"),))
    with pytest.raises(wh.LoopError):
        wh.edits.set_formula(board, "cart", "position.x", 'of("", "position.x")')
    loop = wh.edits.set_channel(scene, "desk", wh.Channel("position.x", links=(wh.Link("cart", "position.x"),)))
    with pytest.raises(wh.SceneError, match="loop"):
        validate(loop)
    with pytest.raises(wh.LoopError):
        evaluate(loop, 0.0)


def test_a_dial_keeps_its_values_in_its_range_and_takes_its_links_with_it(board):
    scene = wh.edits.set_links(board, "cart", "position.x", (wh.Link("desk", "dial.push"),))
    narrow = wh.edits.change_dial(scene, "desk", "push", high=4.0)
    assert [key.value for key in narrow.node("desk").channel("dial.push").keys] == [0.0, 4.0]
    gone = wh.edits.remove_dial(scene, "desk", "push")
    assert gone.node("cart").channel("position.x") is None or not gone.node("cart").channel("position.x").links
    validate(gone)
    deleted = wh.edits.remove_nodes(scene, ["desk"])
    validate(deleted)
    copied, ids = wh.edits.duplicate(scene, ["desk", "cart"])
    assert copied.node(ids[1]).channel("position.x").links[0].node == ids[0]


def test_a_drag_from_one_channel_to_another_makes_a_fitting_link(board):
    link = wh.edits.link_between(board, ("desk", "dial.push"), ("cart", "rotation.y"))
    assert (link.low, link.high, link.out_low, link.out_high) == (0.0, 10.0, 0.0, 100.0)
    alike = wh.edits.link_between(board, ("desk", "dial.push"), ("cart", "position.y"))
    assert (alike.out_low, alike.out_high, alike.clamp) == (0.0, 10.0, False)


@pytest.mark.parametrize(
    "formula", ["value + 3", "2 * value - wave", "value * value * value", "exp(value / 40)", "-value", "max(value, 1)"]
)
def test_the_way_back_finds_the_keys_for_a_value(formula):
    scene = wh.edits.add_node(wh.Scene(), wh.Null(id="n", name="N"))
    scene = wh.edits.set_value(scene, "n", "position.y", 2.0)
    scene = wh.edits.set_links(scene, "n", "position.x", (wh.Link("n", "position.y", 0.0, 10.0, 0.0, 5.0),))
    scene = wh.edits.set_formula(scene, "n", "position.x", formula.replace("wave", "sin(frame)"))
    here = evaluate(scene, np.array([3.0, 7.0]))
    node = scene.node("n")
    wanted = np.array([4.0, 11.0])
    own = own_values(here, node, node.channel("position.x"), wanted)
    for k, frame in enumerate((3.0, 7.0)):
        there = wh.edits.set_value(scene, "n", "position.x", float(own[k]))
        assert evaluate(there, frame).value("n", "position.x") == pytest.approx([wanted[k]], rel=1e-9)


def test_what_a_formula_does_not_heed_is_written_as_it_is():
    scene = wh.edits.add_node(wh.Scene(), wh.Null(id="n", name="N"))
    scene = wh.edits.set_formula(scene, "n", "position.x", "frame")
    node = scene.node("n")
    assert own_values(evaluate(scene, 3.0), node, node.channel("position.x"), np.array([8.0])).tolist() == [8.0]


@pytest.mark.parametrize(
    "formula",
    [
        "value ** 2", "abs(value) ** 0.5", "2 ** value", "value ** value", "atan2(value, 0.3)", "atan2(1, value)",
        "value % 0.37", "value // 0.1", "exp(value) + log(value + 3)", "sin(value * 70) * tan(value * 30)",
        "ease(value, -1, 1)", "noise(value * 9, 3)", "remap(value, -1, 1, 3, 0.1)",
    ],
)  # fmt: skip
def test_a_formulas_bits_do_not_depend_on_the_frames_beside(formula):
    keys = (wh.Key(0.0, -1.0, wh.Linear()), wh.Key(100.0, 1.0))
    null = wh.Null(id="n", name="N", channels=(wh.Channel("position.x", 0.0, keys, formula=formula),))
    scene = wh.Scene(nodes=(null,), settings=wh.Settings(last=100))
    frames = np.sort(np.random.default_rng(1).uniform(0.0, 100.0, 300))
    together = wh.evaluate(scene, frames).value("n", "position.x")
    alone = [wh.evaluate(scene, [frame]).value("n", "position.x")[0] for frame in frames]
    assert (together == alone).all()
