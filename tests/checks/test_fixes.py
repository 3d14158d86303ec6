"""Every fix of every kind of finding, on scenes made to fail: once taken, the check passes, and it was the smallest."""

import msgspec
import numpy as np
import pytest

import wild_heron as wh
from wild_heron.checks.fixes import NEEDS_LOOK, fixes_for
from wild_heron.checks.fixes.fixing import FIXERS
from wild_heron.checks.fixes.trial import smallest
from wild_heron.checks.judging import CHECKS, judged
from wild_heron.checks.measures import Measures
from wild_heron.scene import Format, Subject, Text

from .scenes import (
    FOCAL,
    bare_right,
    camera,
    card,
    film,
    keyed,
    leaving,
    limited,
    rushing,
    two_shots,
    with_checks,
)

SOFT = wh.Family("expo", "in-out")


def photo(width: float, height: float) -> wh.Picture:
    return msgspec.structs.replace(card("photo", width, height), artwork=wh.ImageFile("photo.png"))


def aimed(name: str, x: float) -> wh.Camera:
    return camera(name, x=x, binds=(wh.AimAt(("kite",)),))


def jumping() -> wh.Scene:
    scene = two_shots(camera("one"), camera("two", x=3.0))
    scene = keyed(scene, "one", "position.x", (0.0, 0.0), (60.0, 2.0))
    return keyed(scene, "two", "position.x", (0.0, 0.0), (60.0, 10.0))


def dead() -> wh.Scene:
    scene = two_shots(camera("one"), camera("two", x=3.0))
    scene = keyed(scene, "one", "position.x", (0.0, 0.0), (22.0, 1.0))
    return keyed(scene, "two", "position.y", (36.0, 0.0), (58.0, 1.0))


def crossing() -> wh.Scene:
    scene = two_shots(
        camera("one", z=0.6), camera("two", z=-0.6), card("left", 1.0, 1.0, x=-2.0), card("right", 1.0, 1.0, x=2.0)
    )
    scene = wh.edits.set_value(scene, "sky", "position.z", -40.0)
    return with_checks(scene, line=("left", "right"))


def shaken() -> wh.Scene:
    scene = film(card("sky", 80.0, 60.0), camera(), last=96)
    wobble = wh.Oscillator(targets=(wh.Target("rotation.y", 1.0),), period=0.25, low=-3.0, high=3.0)
    return wh.edits.add_movers(scene, "cam", [wobble])[0]


def rolled() -> wh.Scene:
    scene = film(card("sky", 80.0, 60.0), camera(), last=96)
    return keyed(scene, "cam", "rotation.z", (36.0, 0.0), (60.0, 30.0))


def beside() -> wh.Scene:
    scene = film(card("sky", 80.0, 60.0, z=-30.0), card("mist", 4.0, 4.0, z=5.0), camera(z=7.0), last=60)
    return keyed(scene, "cam", "position.z", (0.0, 7.0), (60.0, 5.1))


def unread() -> wh.Scene:
    title = wh.Picture(
        id="title", name="Title", width=600, height=200, artwork=Text("The lantern fair opens at dusk"),
        channels=(wh.Channel("position.x", 30.0),),
    )  # fmt: skip
    return two_shots(camera("two", x=30.0), camera("one"), title, last=96)


def busy() -> wh.Scene:
    """All at once: it zooms, its aim moves, and the picture slides."""
    scene = film(card("sky", 90.0, 60.0), card("kite", 1.0, 1.0, z=0.5), aimed("cam", 0.0), last=96)
    scene = keyed(scene, "kite", "position.x", (36.0, 0.0), (60.0, 4.0))
    scene = keyed(scene, "cam", "lens.focal", (36.0, 22.5), (60.0, 40.0))
    return keyed(scene, "cam", "position.x", (36.0, 0.0), (60.0, 3.0))


def hole() -> wh.Scene:
    """A gap of one unit, of which a sky that begins too far to the right fills only a part."""
    cards = (
        card("sky", 14.0, 12.0, x=7.5, z=-5.0), card("left", 10.0, 12.0, x=-5.5), card("right", 10.0, 12.0, x=5.5),
        card("roof", 30.0, 6.0, y=4.0), card("floor", 30.0, 6.0, y=-4.0),
    )  # fmt: skip
    return film(*cards, camera(), last=1)


def clipped() -> wh.Scene:
    return wh.edits.set_value(film(card("sky", 40.0, 30.0), camera(), last=2), "cam", "lens.far", 8.0)


FAILING = {
    "bare": bare_right(),
    "margin": limited(film(card("sky", 16.4, 12.0), camera(), last=2), "edges.margin", 0.05),
    "hole": hole(),
    "clipped": clipped(),
    "out": leaving(),
    "small": with_checks(
        film(card("sky", 60.0, 40.0, z=-1.0), card("kite", 1.0, 0.9), camera(), last=2),
        subjects=(Subject("kite", least=0.15),),
    ),
    "hidden": with_checks(
        film(card("sky", 60.0, 40.0, z=-1.0), card("kite", 1.0, 0.9), card("post", 0.4, 2.0, z=5.0), camera(), last=4),
        subjects=(Subject("kite"),),
    ),
    "long": limited(two_shots(camera("one"), camera("two", x=3.0), cut=50.0), "cuts.long", 2.0),
    "fast": rushing(SOFT),
    "busy": busy(),
    "shake": shaken(),
    "strobe": limited(limited(rushing(SOFT), "comfort.cross", 0.3), "comfort.strobe", 0.012),
    "roll": rolled(),
    "dead": dead(),
    "jump": jumping(),
    "angle": two_shots(aimed("one", 0.0), aimed("two", 3.0), card("kite", 1.0, 1.0)),
    "line": crossing(),
    "short": two_shots(camera("one"), camera("two", x=3.0), cut=4.0),
    "through": keyed(beside(), "cam", "position.z", (60.0, 4.8)),
    "near": beside(),
    "soft": film(photo(30.0, 20.0), camera(z=4.0), last=1),
    "words": unread(),
}


@pytest.mark.parametrize("kind", FAILING)
def test_what_a_fix_gives_passes_the_check(kind, check):
    scene = FAILING[kind]
    found = next(each for each in check(scene).findings if each.kind == kind)
    fixes = fixes_for(scene, found)
    assert fixes, f"nothing is offered for {found.title}"
    for fix in fixes:
        after = check(fix.scene)
        again = [each for each in after.findings if (each.kind, each.about) == (kind, found.about)]
        assert not again, f"{fix.label}: {again}"
        assert len({each.label for each in fixes}) == len(fixes)


def test_every_kind_has_fixes():
    kinds = {kind for each in CHECKS for kind in each.kinds}
    assert kinds == set(FIXERS)
    # Those for which pictures are looked at are in test_photographs.py.
    assert set(FIXERS) == {*FAILING, *NEEDS_LOOK}
    assert all(FIXERS.values())


class TestSmallest:
    def offered(self, scene: wh.Scene, check, kind: str) -> dict[str, str]:
        found = next(each for each in check(scene).findings if each.kind == kind)
        return {fix.undo: fix.label for fix in fixes_for(scene, found)}

    def test_a_bare_side(self, check):
        labels = self.offered(bare_right(), check, "bare")
        # Its half has to be 11 units of 10; or it goes 1 unit, or the lens is as much nearer; the rim takes a little.
        assert labels["Scale Sky over the edges"] in ("scale Sky to 111 %", "scale Sky to 110 %")
        assert labels["Move Sky over the edges"].startswith("move Sky 1.0")
        assert labels["Dolly in to cover the edges"].startswith("dolly in 1.2")
        assert labels["Use a longer lens to cover the edges"] == "longer lens, 26.0 mm"

    def test_a_subject_that_leaves(self, check):
        labels = self.offered(leaving(), check, "out")
        # The kite's top, 10 units away, goes 5 up, and is to be no higher than 4.185, in a frame 9 units high: the lens
        # turns by the angle between the two.
        turn = np.arctan(0.5) - np.arctan(0.4185)
        assert labels["Aim so that it stays in"].endswith("up")
        assert float(labels["Aim so that it stays in"].split()[1]) == pytest.approx(
            1000.0 * np.tan(turn) / 9.0, abs=0.1
        )

    @pytest.mark.parametrize(("x", "focal"), [(7.3, FOCAL), (-7.8, 12.0), (7.6, 10.0)])
    def test_a_camera_turns_no_farther_than_it_has_to(self, x, focal):
        scene = film(card("sky", 90.0, 60.0, z=-1.0), card("kite", 1.0, 1.0, y=2.0), camera(), last=20)
        scene = wh.edits.set_value(scene, "cam", "lens.focal", focal)
        x = x * FOCAL / focal
        scene = keyed(scene, "kite", "position.x", (0.0, 0.4 * x), (20.0, x))
        scene = with_checks(scene, subjects=(Subject("kite"),))

        def out(scene):
            measures = Measures(scene)
            measures.measure(scene, np.arange(len(measures)))
            return [each for each in judged(scene, measures).findings if each.kind == "out"]

        fix = next(each for each in fixes_for(scene, out(scene)[0]) if each.undo == "Aim so that it stays in")
        turned = float(wh.evaluate(fix.scene, 0.0).value("cam", "rotation.y")[0])
        assert out(fix.scene) == []
        assert out(wh.edits.set_value(scene, "cam", "rotation.y", 0.99 * turned))

    def test_a_subject_that_is_hidden(self, check):
        labels = self.offered(FAILING["hidden"], check, "hidden")
        # The post is 0.4 wide, halfway to a kite of 1: moved by d it hides 0.9 − 2 d of it, and 0.6 may be hidden.
        word, name, by, aside = labels["Move Post aside"].split()
        assert (word, name, aside) == ("move", "Post", "aside")
        assert float(by) == pytest.approx(0.2, abs=0.051)
        assert labels["Bring it forward"] == "bring Kite before Post"

    def test_a_format_that_loses_its_subject_follows_it(self, check):
        scene = film(card("sky", 60.0, 40.0, z=-1.0), card("kite", 1.0, 1.0), camera(), last=48)
        scene = keyed(scene, "kite", "position.x", (0.0, -5.0), (48.0, 5.0), span=wh.Family("sine", "in-out"))
        scene = msgspec.structs.replace(scene, formats=(Format("Tall", 900, 1600),))
        scene = with_checks(scene, subjects=(Subject("kite"),))
        found = next(each for each in check(scene, "Tall").findings if each.kind == "out")
        fix = fixes_for(scene, found)[0]
        assert (fix.label, fix.undo) == ("let Tall follow", "Tall follows its subjects")
        assert not [each for each in check(fix.scene, "Tall").findings if each.kind == "out"]

    def test_a_shot_that_is_long(self, check):
        assert self.offered(FAILING["long"], check, "long") == {"Shorten One": "cut 2 frames earlier"}


def test_no_fix_bares_another_edge_or_makes_something_else_wrong(check):
    """The lens goes to the right, and later as far to the left: what is moved over the one edge bares the other."""
    scene = film(card("sky", 20.0, 12.0), camera(), last=120)
    scene = keyed(scene, "cam", "position.x", (0.0, 0.0), (40.0, 3.0), (80.0, -1.9), (120.0, -1.9))
    found = next(each for each in check(scene).findings if each.kind == "bare")
    fixes = fixes_for(scene, found)
    assert {fix.undo for fix in fixes} >= {"Scale Sky over the edges"}
    assert "Move Sky over the edges" not in {fix.undo for fix in fixes}
    before = {(each.kind, each.about) for each in check(scene).findings}
    for fix in fixes:
        assert {(each.kind, each.about) for each in check(fix.scene).findings} <= before - {("bare", found.about)}


@pytest.mark.parametrize(("start", "end", "last"), [(40.0, 60.0, 120), (40.0, 60.0, 101), (11.0, 23.0, 60)])
def test_a_landing_is_found_that_just_fits_the_room(start, end, last):
    def too_fast(scene):
        measures = Measures(scene)
        measures.measure(scene, np.arange(len(measures)))
        return [each for each in judged(scene, measures).findings if each.kind == "fast"]

    scene = film(card("sky", 400.0, 200.0, z=-50.0), camera(), last=last)
    scene = keyed(scene, "cam", "rotation.y", (start, 0.0), (end, 55.0))
    (found,) = too_fast(scene)
    fix = next((each for each in fixes_for(scene, found) if each.undo == "Let the move land later"), None)

    def passes(by):
        later = wh.edits.move_keys(scene, [wh.edits.KeyRef("cam", "rotation.y", end)], float(by))[0]
        return not too_fast(later)

    least = next((by for by in range(1, int(last - end) + 1) if passes(by)), None)
    assert (fix is None) == (least is None)
    if least is not None:
        assert fix.label == f"land {least} frames later"


class TestSearch:
    @pytest.mark.parametrize("room", [3.0, 5.0, 9.5, 33.0, 34.0, 60.0, 95.0, 200.0])
    @pytest.mark.parametrize("least", [1.0, 4.0, 9.0, 33.0, 34.0, 59.0, 96.0])
    def test_it_finds_the_least_that_passes_wherever_the_room_ends(self, least, room):
        def make(amount):
            if amount > room:
                raise wh.SceneError("No room.")
            return wh.Scene(name=f"{amount}")

        made = smallest(make, lambda scene: float(scene.name) >= least, 4.0, 96.0, 1.0)
        assert (made is not None) == (least <= min(room, 96.0))
        if made is not None:
            assert made[0] == least


def test_a_camera_that_is_locked_or_driven_is_left_alone(check):
    scene = leaving()
    for name in ("rotation.x", "rotation.y", "lens.focal", "position.z", "position.y", "position.x"):
        scene = wh.edits.lock_channel(scene, "cam", name, True)
    found = next(each for each in check(scene).findings if each.kind == "out")
    assert fixes_for(scene, found) == []
