"""Moves fitted to sets: within what is covered, clear of artwork, at a comfortable pace, by the smallest change."""

import numpy as np
import pytest
from msgspec.structs import replace

import wild_heron as wh
from wild_heron.checks.check_renders import coverage_look, read_looks
from wild_heron.checks.fit import Change, fit
from wild_heron.checks.fit.looked import spread
from wild_heron.edits.moves import Placing, put
from wild_heron.edits.rigs import FrameRange
from wild_heron.files.move_files import shipped_moves
from wild_heron.process.checking import request_of
from wild_heron.scene.movers import Oscillator, Target

MOVES = {kept.move.name: kept.move for kept in shipped_moves()}
SPAN = FrameRange(0.0, 48.0)


def picture(node_id: str, width: int, height: int, z: float, **values: float) -> wh.Picture:
    channels = [
        wh.Channel("position.z", z),
        *(wh.Channel(name.replace("_", "."), each) for name, each in values.items()),
    ]
    return wh.Picture(
        id=node_id, name=node_id.capitalize(), artwork=wh.Solid("#7b86a8"), width=width, height=height,
        channels=tuple(sorted(channels, key=lambda each: each.name)),
    )  # fmt: skip


def staged(*nodes: wh.AnyNode, last: int = 95, back: int = 2600) -> wh.Scene:
    """A sign a metre before a wall."""
    wall = picture("wall", back, back * 9 // 16, -1.0)
    return wh.Scene(settings=wh.Settings(last=last), nodes=(wall, picture("sign", 300, 300, 0.0), *nodes))


@pytest.fixture
def look(renderer):
    """Draws in this process, and counts."""

    def looked(scene, measures, row):
        want, frame = coverage_look(scene), float(measures.frames[row])
        renderer.set_scene(scene, None)
        target, _ = renderer.draw(request_of(want, frame))
        data = bytearray(want.size[0] * want.size[1] * 4)
        renderer.read_into(target, data)
        looked.count += 1
        return read_looks(scene, frame, (want,), [np.frombuffer(data, np.uint8).reshape(want.size[1], want.size[0], 4)])

    looked.count = 0
    return looked


def open_in(check, scene: wh.Scene, *kinds: str) -> list[str]:
    return [each.title for each in check(scene).findings if each.kind in kinds and each.first <= SPAN.last]


def test_what_is_covered_stays_as_it_is(look, check):
    found = fit(staged(), MOVES["Push in"], "sign", SPAN, look)
    assert (found.line, found.left, found.change) == ("as it is", (), Change())
    assert found.built == put(staged(), MOVES["Push in"], "sign", SPAN)


@pytest.mark.parametrize(("name", "back"), [("Pull out", 1300), ("Push in", 1350), ("Drift left", 1150)])
def test_a_move_that_shows_bare_edges_comes_nearer_or_goes_less_far(name, back, look, check):
    scene, move = staged(back=back), MOVES[name]
    assert open_in(check, put(scene, move, "sign", SPAN)[0], "bare")
    found = fit(scene, move, "sign", SPAN, look)
    assert found.left == ()
    assert not open_in(check, found.built[0], "bare", "hole", "through", "near", "fast", "busy")
    assert found.change.length == 1.0
    assert "nearer" in found.line or "of its way" in found.line


@pytest.mark.parametrize("may", ["distance", "turn"])
def test_the_change_is_within_a_twentieth_of_the_smallest_of_a_grid(may, look, check):
    scene, move = staged(back=1250), MOVES["Pull out"]
    found = fit(scene, move, "sign", SPAN, look, may=frozenset((may,)))
    amounts = np.arange(0.0, 0.6, 0.005)
    made = [Change(size=1.0 - t) if may == "distance" else Change(strength=1.0 - t) for t in amounts]

    def clean(change: Change) -> bool:
        how = Placing(size=change.size, strength=change.strength)
        return not open_in(check, put(scene, move, "sign", SPAN, how)[0], "bare", "hole")

    low, high = 0, len(made) - 1
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (low, middle) if clean(made[middle]) else (middle, high)
    assert found.change.amount == pytest.approx(made[high].amount, rel=0.05)
    assert not clean(made[low])


def test_a_turn_goes_less_far_round(look, check):
    scene = staged(back=1250)
    found = fit(scene, MOVES["Arc left"], "sign", SPAN, look, may=frozenset(("turn",)))
    assert found.left == ()
    assert found.line.startswith("turns ")
    assert found.line.endswith("° instead of 30°")
    assert 0.0 < found.change.strength < 1.0


def test_what_stands_in_the_way_keeps_the_lens_away(look, check):
    scene = staged(picture("curtain", 4000, 3000, 9.2, opacity=0.5), back=3600)
    before = put(scene, MOVES["Push in"], "sign", SPAN)[0]
    assert open_in(check, before, "through", "near")
    found = fit(scene, MOVES["Push in"], "sign", SPAN, look)
    assert found.left == ()
    assert not open_in(check, found.built[0], "through", "near", "bare")


def test_a_hurried_move_takes_longer_and_a_bold_one_may_hurry(look):
    scene, hurried = staged(back=6000), FrameRange(0.0, 14.0)
    arc = fit(scene, MOVES["Drift left"], "sign", hurried, look, may=frozenset(("length",)))
    if arc.change.length == 1.0:
        arc = fit(scene, MOVES["Slide out from behind"], "sign", hurried, look, may=frozenset(("length",)))
    assert arc.left == ()
    assert arc.span.last > 14.0
    assert arc.line.endswith("frames longer")
    bold = replace(MOVES["Slide out from behind"], tags=("bold",))
    assert fit(scene, bold, "sign", hurried, look).line == "as it is"


def test_several_things_are_changed_where_one_is_not_enough(look, check):
    """Bare at its far end, and too fast."""
    scene = staged(back=1700)
    move = replace(MOVES["Pull out"], tags=())
    found = fit(scene, move, "sign", FrameRange(0.0, 6.0), look, how=Placing(strength=2.0))
    assert found.left == () or all("Bare" not in each for each in found.left)
    assert found.change != Change()


def test_what_cannot_be_put_right_is_told_and_nothing_is_changed(look):
    scene = staged(back=300)
    found = fit(scene, MOVES["Half turn"], "sign", SPAN, look)
    assert (found.line, found.change) == ("as it is", Change())
    assert any("Bare" in each for each in found.left)
    assert found.built == put(scene, MOVES["Half turn"], "sign", SPAN)


def test_a_camera_that_the_film_does_not_show_is_fitted_all_the_same(look):
    """What is looked at is the move, not what the film shows at its frames."""
    cameras = [wh.Camera(id=each, name=each, channels=(wh.Channel("position.z", 6.0),)) for each in ("one", "two")]
    alone = staged(*cameras, back=1300)
    shots = (wh.Shot("One", "one"), wh.Shot("Two", "two", 20.0))
    film = replace(alone, camera="one", shots=shots)
    how, wanted = Placing(shown="no"), fit(alone, MOVES["Pull out"], "sign", SPAN, look)
    found = fit(film, MOVES["Pull out"], "sign", SPAN, look, how)
    assert wanted.change != Change()
    assert found.change == wanted.change
    assert found.built[0].shots == shots


def test_what_happens_between_the_moments_that_are_looked_at_first_is_found(look, check):
    """A sway that shows the edge twice in a second, whose dips lie between the first moments."""
    sway = Oscillator(targets=(Target("position.x", 0.35),), period=0.4)
    move = MOVES["Breathing hold"]
    move = replace(move, nodes=(replace(move.nodes[0], movers=(sway,)),), tags=("bold",))
    scene = staged(back=1150)
    found = fit(scene, move, "sign", SPAN, look)
    assert found.left == ()
    assert not open_in(check, found.built[0], "bare", "hole")


def test_it_looks_at_little_more_than_the_range(look):
    """At most twice as many pictures as every frame once, three times with what is looked at before."""
    fit(staged(back=1250), MOVES["Pull out"], "sign", FrameRange(0.0, 90.0), look)
    assert look.count <= 3 * 91


def test_it_can_be_ended(look):
    class Enough(Exception):
        pass

    calls = []

    def step() -> None:
        calls.append(1)
        if len(calls) == 5:
            raise Enough

    with pytest.raises(Enough):
        fit(staged(back=1250), MOVES["Pull out"], "sign", SPAN, look, step=step)


@pytest.mark.parametrize("count", [1, 2, 7, 64, 97])
def test_every_frame_is_looked_at_once(count):
    assert sorted(spread(count)) == list(range(count))
