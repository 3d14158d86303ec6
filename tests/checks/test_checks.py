"""Each check on scenes made to fail in known ways, with the numbers that follow from how they are made."""

from itertools import pairwise

import msgspec
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import wild_heron as wh
from wild_heron.checks.comfort import seconds_needed
from wild_heron.checks.coverage import BEYOND, pixels_per_pixel, read_coverage, size_of_map
from wild_heron.checks.finding import Finding, runs
from wild_heron.desk.timeline.shots.picture_speeds import trouble_at_cuts
from wild_heron.edits.acceptances import accept, take_back
from wild_heron.evaluate.picture_speed import picture_speed
from wild_heron.evaluate.windows import Windows
from wild_heron.scene import Format, Subject, Text

from .scenes import (
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


def of_kind(judged, kind: str) -> list[Finding]:
    return [each for each in judged.findings if each.kind == kind]


def _jumping() -> wh.Scene:
    scene = two_shots(camera("one"), camera("two", x=3.0))
    scene = keyed(scene, "one", "position.x", (0.0, 0.0), (60.0, 2.0))
    return keyed(scene, "two", "position.x", (0.0, 0.0), (60.0, 6.0))


class TestEdges:
    @pytest.mark.parametrize(
        ("x", "width", "words"),
        [
            (4.0, 14.0, "Bare everywhere but at the right"), (-4.0, 14.0, "Bare everywhere but at the left"),
            (0.0, 14.0, "Bare all round"), (0.0, 18.0, "Bare at the bottom and the top"),
        ],
    )  # fmt: skip
    def test_the_sides_that_are_bare_are_named(self, check, x, width, words):
        scene = film(card("sky", width, 7.0, x=x), camera(), last=4)
        (found,) = of_kind(check(scene), "bare")
        assert found.title.partition(",")[0] in (words, words.replace("bottom and the top", "top and the bottom"))

    def test_a_side_is_bare_for_exactly_as_long_and_as_deep_as_it_is(self, check):
        (found,) = of_kind(check(bare_right()), "bare")
        # The frame's right edge is at x + 8, the sky's at 10; x grows by a twentieth of a unit a frame.
        assert (found.first, found.last, found.at, found.about) == (41.0, 60.0, 60.0, "right")
        assert found.worst == pytest.approx(100.0 / 16.0, abs=0.1)
        assert "100 px deep" in found.detail

    def test_frames_that_were_not_looked_at_yet_lie_within_a_stretch_and_count_for_nothing(self, check):
        looked_at = [41, 42, 44, 47, 48, 50, 53]
        judged = check(limited(bare_right(), "edges.margin", 0.06), frames=looked_at)
        assert {each.kind for each in judged.findings} >= {"bare"}
        for each in judged.findings:
            assert np.isfinite([each.badness, each.worst]).all(), each.title
            assert each.at in looked_at
        (bare,) = of_kind(judged, "bare")
        assert (bare.first, bare.last, bare.at) == (41.0, 53.0, 53.0)

    def test_what_is_covered_is_no_finding_and_its_margin_is_measured(self, check):
        scene = limited(film(card("sky", 17.6, 12.0), camera(), last=2), "edges.margin", 0.06)
        (found,) = of_kind(check(scene), "margin")
        # 0.8 units beyond either side, of a frame of 16.
        assert found.worst == pytest.approx(5.0, abs=0.2)
        assert not of_kind(check(limited(scene, "edges.margin", 0.06)), "bare")
        assert not check(film(card("sky", 17.6, 12.0), camera(), last=2)).findings

    def test_a_hole_between_layers_is_told_from_an_edge(self, check):
        left, right = card("left", 10.0, 12.0, x=-5.5), card("right", 10.0, 12.0, x=5.5)
        roof, floor = card("roof", 30.0, 6.0, y=5.0), card("floor", 30.0, 6.0, y=-5.0)
        judged = check(film(left, right, roof, floor, camera(), last=1))
        (found,) = of_kind(judged, "hole")
        # One unit wide, between 2 above and 2 below: 4 of 16 × 9.
        assert found.worst == pytest.approx(100.0 * 4.0 / 144.0, rel=0.05)
        assert not of_kind(judged, "bare")

    def test_every_format_is_judged_by_its_own_window(self, check):
        scene = msgspec.structs.replace(bare_right(), formats=(Format("Tall", 900, 1600),))
        assert not of_kind(check(scene, "Tall"), "bare")
        wide = msgspec.structs.replace(scene, formats=(Format("Around", 1600, 1600, "contain"),))
        (found,) = of_kind(check(wide, "Around", frames=[0]), "bare")
        # 16 units high over a sky of 12, two bare at the top and two below.
        assert found.worst == pytest.approx(25.0, abs=0.6)

    def test_a_layer_beyond_the_far_plane_is_named(self, check):
        scene = film(card("sky", 40.0, 30.0), camera(), last=2)
        scene = wh.edits.set_value(scene, "cam", "lens.far", 8.0)
        judged = check(scene)
        (found,) = of_kind(judged, "clipped")
        assert found.about == "sky"
        assert found.worst == pytest.approx(2.0, abs=1e-6)
        assert of_kind(judged, "bare")

    @given(
        st.floats(0.0, 0.4), st.floats(0.0, 0.4), st.floats(0.0, 0.4), st.floats(0.0, 0.4), st.sampled_from([16, 9, 1])
    )
    def test_a_rectangle_of_alpha_is_measured_as_it_is(self, left, top, right, bottom, high):
        """A covered rectangle inside the frame, its edges anywhere within pixels."""
        settings = wh.Settings(width=1600, height=100 * high)
        wide, tall = size_of_map(settings, BEYOND)
        per = pixels_per_pixel(settings, BEYOND)
        x0 = 0.5 * wide + (left - 0.5) * settings.width * per
        x1 = 0.5 * wide + (0.5 - right) * settings.width * per
        y0 = 0.5 * tall + (top - 0.5) * settings.height * per
        y1 = 0.5 * tall + (0.5 - bottom) * settings.height * per
        cover = [
            np.clip(np.minimum(np.arange(n) + 1.0, high_) - np.maximum(np.arange(n), low), 0.0, 1.0)
            for n, low, high_ in ((tall, y0, y1), (wide, x0, x1))
        ]
        picture = np.zeros((tall, wide, 4), np.uint8)
        picture[..., 3] = np.round(255.0 * cover[0][:, None] * cover[1])
        size = np.array([[settings.width, settings.height]], dtype=np.float64)
        found = read_coverage(picture, settings, Windows(np.zeros((1, 2)), size, np.zeros(1), np.ones(1)), BEYOND)
        exact = 1.0 - (1.0 - left - right) * (1.0 - top - bottom)
        assert found.bare == pytest.approx(exact, abs=0.012)
        assert found.hole == 0.0
        for margin, depth in zip(found.margin, (left, top, right, bottom), strict=True):
            assert margin == pytest.approx(-depth, abs=2.0 / (per * min(settings.width, settings.height)) + 1e-9)


class TestFraming:
    def test_a_subject_leaves_its_area_at_the_frame_it_does(self, check):
        (found,) = of_kind(check(leaving()), "out")
        # Its top is at y + 0.5, 0.15 a frame; the area ends at 0.93 × 4.5 = 4.185: from y = 3.685 on.
        assert (found.first, found.last, found.about) == (25.0, 30.0, "kite")
        assert found.worst == pytest.approx(100.0 * (5.0 - 4.185) / 9.0, abs=1e-3)

    def test_the_whole_frame_and_a_part_of_a_node_can_be_meant(self, check):
        scene = with_checks(leaving(), subjects=(Subject("kite", "frame", (0.0, 0.5, 1.0, 1.0)),))
        # The lower half's top is at y, and the frame ends at 4.5, where it comes at the last frame.
        assert not of_kind(check(scene), "out")

    def test_a_subject_matters_only_in_the_shots_that_are_named(self, check):
        scene = two_shots(camera("one"), camera("two", x=30.0), card("kite", 1.0, 1.0, z=1.0))
        assert not of_kind(check(with_checks(scene, subjects=(Subject("kite"),))), "out")
        named = with_checks(scene, subjects=(Subject("kite", shots=("Two",)),))
        (found,) = of_kind(check(named), "out")
        assert (found.first, found.last) == (30.0, 60.0)

    def test_too_small_and_hidden(self, check):
        scene = film(card("sky", 60.0, 40.0, z=-1.0), card("kite", 1.0, 0.9), camera(), last=2)
        small = with_checks(scene, subjects=(Subject("kite", least=0.2),))
        (found,) = of_kind(check(small), "small")
        assert found.worst == pytest.approx(10.0, abs=1e-6)
        # A post before it leaves a quarter of it to be seen.
        post = card("post", 0.75 * 0.5, 2.0, x=(-0.5 + 0.375) * 0.5, z=5.0)
        hidden = with_checks(wh.edits.add_node(scene, post), subjects=(Subject("kite"),))
        (found,) = of_kind(check(hidden), "hidden")
        assert found.worst == pytest.approx(75.0, abs=4.0)


class TestComfort:
    def test_the_seven_second_rule(self, check):
        (found,) = of_kind(check(rushing()), "fast")
        assert found.worst == pytest.approx(2.0, rel=1e-3)
        assert (found.first, found.last) == (24.0, 48.0)

    def test_the_rule_is_scaled_by_rate_and_shutter(self):
        shutters = np.array([180.0, 90.0, 0.0, 360.0])
        assert seconds_needed(7.0, 24.0, shutters) == pytest.approx([7.0, 10.5, 14.0, 1.4])
        assert seconds_needed(7.0, 48.0, np.array([180.0])) == pytest.approx([3.5])

    def test_shake_is_told_from_a_move(self, check):
        scene = film(card("sky", 80.0, 60.0), camera(), last=120)
        calm = keyed(scene, "cam", "rotation.y", (0.0, 0.0), (120.0, 20.0), span=wh.Family("sine", "in-out"))
        assert not of_kind(check(calm, frames=[]), "shake")
        shaken, _ = wh.edits.add_movers(
            calm, "cam",
            [wh.Oscillator(targets=(wh.Target("rotation.y", 1.0),), period=0.25, low=-2.0, high=2.0)],
        )  # fmt: skip
        (found,) = of_kind(check(shaken, frames=[]), "shake")
        # An amplitude of 2°: a tangent of the root of a half of that, over a frame of 16 at 10.
        assert found.worst == pytest.approx(100.0 * np.radians(2.0) / np.sqrt(2.0) * 10.0 / 16.0, rel=0.1)

    def test_roll_and_edges_seen_twice(self, check):
        scene = film(card("sky", 80.0, 60.0), camera(), last=48)
        rolled = keyed(scene, "cam", "rotation.z", (0.0, 0.0), (48.0, 90.0))
        (found,) = of_kind(check(rolled, frames=[]), "roll")
        assert found.worst == pytest.approx(45.0, rel=1e-6)
        rushed = limited(rushing(), "comfort.cross", 0.3)
        # 8 units a second: an eighth of the frame's width … a step of 1/48 of it, half of which is blurred.
        (found,) = of_kind(check(limited(rushed, "comfort.strobe", 0.01), frames=[]), "strobe")
        assert found.worst == pytest.approx(100.0 * 0.5 / 48.0, rel=1e-3)


class TestCuts:
    def cut(self) -> wh.Scene:
        """Each camera moves for a while and rests at the cut, as keys that sit exactly on it have it."""
        scene = two_shots(camera("one"), camera("two", x=3.0))
        scene = keyed(scene, "one", "position.x", (0.0, 0.0), (20.0, 1.0))
        return keyed(scene, "two", "position.y", (36.0, 0.0), (60.0, 1.0))

    def test_dead_frames_on_both_sides_are_counted(self, check):
        found = {each.about: each for each in of_kind(check(self.cut(), frames=[]), "dead")}
        assert (found["end"].first, found["end"].last, found["end"].worst) == (21.0, 29.0, 9.0)
        assert (found["start"].first, found["start"].last, found["start"].worst) == (30.0, 35.0, 6.0)

    def test_a_shot_that_never_moves_is_no_fault(self, check):
        assert not check(two_shots(camera("one"), camera("two", x=3.0)), frames=[]).findings

    def test_a_jump_in_speed(self, check):
        scene = two_shots(camera("one"), camera("two", x=3.0))
        scene = keyed(scene, "one", "position.x", (0.0, 0.0), (60.0, 2.0))
        scene = keyed(scene, "two", "position.x", (0.0, 0.0), (60.0, 10.0))
        (found,) = of_kind(check(scene, frames=[]), "jump")
        assert found.worst == pytest.approx(5.0, rel=1e-3)

    @pytest.mark.parametrize("limits", [{}, {"cuts.dead": 8.0, "cuts.jump": 6.0}, {"cuts.dead": 1.0, "cuts.jump": 1.5}])
    def test_the_shots_tab_rings_what_the_checks_find(self, check, limits):
        """Slow ends, ends at rest, jumps, and what aims while it stands: by the same limits in both."""
        ends = wh.Family("cubic", "in-out")
        scene = two_shots(camera("one"), camera("two", x=3.0))
        for node, keys in (("one", ((0.0, 0.0), (25.0, 2.0), (29.0, 2.0))), ("two", ((30.0, 0.0), (60.0, 9.0)))):
            for frame, value in keys:
                scene = wh.edits.set_key(scene, node, "position.x", frame, value, ends)
        for made in (scene, self.cut(), two_shots(camera("one"), camera("two", x=3.0)), _jumping()):
            held = with_checks(made, limits=tuple(wh.LimitOfScene(name, value) for name, value in limits.items()))
            settings = held.settings
            frames = np.arange(settings.first, settings.last + 1.0)
            ringed = sorted(frame for frame, _, _ in trouble_at_cuts(held, picture_speed(held, frames)))
            found = check(held, frames=[]).findings
            paced = [each for each in found if each.kind in ("dead", "jump")]
            want = [each.first if each.about == "start" else each.last for each in paced]
            assert ringed == sorted(want)
            off = with_checks(held, off=("cuts",))
            assert trouble_at_cuts(off, picture_speed(off, frames)) == []

    def test_the_thirty_degree_rule(self, check):
        def cut_by(degrees: float) -> wh.Scene:
            angle = np.radians(degrees)
            first, second = (
                camera(name, x=10.0 * np.sin(a), z=10.0 * np.cos(a), binds=(wh.AimAt(("kite",)),))
                for name, a in (("one", 0.0), ("two", angle))
            )
            return two_shots(first, second, card("kite", 1.0, 1.0))

        (found,) = of_kind(check(cut_by(20.0), frames=[]), "angle")
        assert found.worst == pytest.approx(20.0, abs=1e-6)
        assert not of_kind(check(cut_by(31.0), frames=[]), "angle")

    def test_crossing_the_line(self, check):
        front, back = camera("one"), camera("two", z=-10.0)
        back = wh.edits.set_value(film(back), "two", "rotation.y", 180.0).node("two")
        scene = two_shots(front, back, card("left", 1.0, 1.0, x=-2.0), card("right", 1.0, 1.0, x=2.0))
        assert not of_kind(check(scene, frames=[]), "line")
        (found,) = of_kind(check(with_checks(scene, line=("left", "right")), frames=[]), "line")
        assert found.first == 29.0

    def test_lengths(self, check):
        scene = two_shots(camera("one"), camera("two", x=3.0), cut=58.0)
        judged = check(limited(scene, "cuts.long", 2.0), frames=[])
        assert of_kind(judged, "short")[0].worst == pytest.approx(3.0 / 24.0)
        assert of_kind(judged, "long")[0].worst == pytest.approx(58.0 / 24.0)


class TestNearness:
    def test_softness_follows_from_the_distance(self, check):
        photo = msgspec.structs.replace(card("photo", 8.0, 6.0), artwork=wh.ImageFile("photo.png"))
        # At 10 units a unit of 100 artwork pixels takes up 100 of the frame; at 4 it takes up 250.
        near = film(photo, camera(z=4.0), last=1)
        (found,) = of_kind(check(near, frames=[]), "soft")
        assert found.worst == pytest.approx(2.5, abs=1e-6)
        assert not of_kind(check(film(photo, camera(), last=1), frames=[]), "soft")
        # What is drawn as fine as it is seen is never soft.
        assert not of_kind(check(film(card("photo", 8.0, 6.0), camera(z=4.0), last=1), frames=[]), "soft")

    def test_flying_through_and_past_a_layer(self, check):
        scene = film(card("sky", 80.0, 60.0, z=-30.0), card("mist", 4.0, 4.0, z=5.0), camera())
        through = keyed(scene, "cam", "position.z", (0.0, 10.0), (30.0, 1.0))
        (found,) = of_kind(check(through, frames=[]), "through")
        assert found.about == "mist"
        assert found.first <= 16.0 + 2.0 / 3.0 <= found.last
        beside = keyed(through, "cam", "position.x", (0.0, 2.1))
        assert not of_kind(check(beside, frames=[]), "through")
        (found,) = of_kind(check(beside, frames=[]), "near")
        assert found.worst == pytest.approx(0.1, abs=0.05)

    def test_text_needs_time(self, check):
        title = wh.Picture(
            id="title", name="Title", width=400, height=200, artwork=Text("The lantern fair opens at dusk")
        )
        scene = keyed(film(title, camera(), last=60), "title", "opacity", (0.0, 1.0), (24.0, 0.0), span=wh.Hold())
        (found,) = of_kind(check(scene, frames=[]), "words")
        assert found.worst == pytest.approx(1.0)
        # Six words at three a second, and half a second to find them.
        assert "reading takes 2.5 s" in found.detail
        longer = keyed(film(title, camera(), last=90), "title", "opacity", (0.0, 1.0), (72.0, 0.0), span=wh.Hold())
        assert not of_kind(check(longer, frames=[]), "words")


class TestAccepting:
    def test_an_accepted_finding_is_one_again_when_it_gets_worse(self, check):
        scene = bare_right()
        (found,) = of_kind(check(scene), "bare")
        calm = accept(scene, found.acceptance("it is night there"))
        (again,) = of_kind(check(calm), "bare")
        assert again.accepted
        assert again.note == "it is night there"
        assert not check(calm).open
        worse = keyed(calm, "cam", "position.x", (60.0, 3.4))
        assert check(worse).open
        assert not of_kind(check(take_back(calm, again.here)), "bare")[0].accepted

    def test_checks_can_be_off_and_limits_changed(self, check):
        assert not check(with_checks(bare_right(), off=("edges",))).findings
        assert not check(limited(bare_right(), "edges.bare", 0.07)).findings


@given(st.lists(st.booleans(), max_size=60), st.integers(0, 4))
def test_runs_cover_what_is_bad_and_join_small_gaps(bad, gap):
    flags = np.array(bad, dtype=bool)
    found = runs(flags, gap=gap)
    covered = np.zeros(len(flags), dtype=bool)
    for first, last in found:
        assert flags[first]
        assert flags[last]
        covered[first : last + 1] = True
    assert (covered | ~flags).all()
    for (_, end), (start, _) in pairwise(found):
        assert start - end > gap + 1
