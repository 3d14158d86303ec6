"""The film: cuts, blends and their ways, events, tours; between frames too, and the same however it is asked for."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

import wild_heron as wh
from wild_heron.edits.framings import keep_framing, play_through, update_framing, values_for_framing
from wild_heron.evaluate.evaluation import Evaluation
from wild_heron.evaluate.events import crossings, event_showings
from wild_heron.evaluate.film import film_of
from wild_heron.evaluate.mixing import mixed, rows_of
from wild_heron.gl.sampling import shutter_times
from wild_heron.scene import AimAt, Blend, Channel, Cut, Event, Key, Linear, Shot
from wild_heron.scene.film import film_problem, settled
from wild_heron.space.blending import RHO, path_turn, zoom_and_pan

PARTS = ("pose", "focal_px", "focal_mm", "focus", "f_stop", "shutter", "near", "far", "sensor")


def camera(
    node_id: str, at: tuple[float, float, float], turn: float = 0.0, aim: str = "", **values: float
) -> wh.Camera:
    channels = [Channel(f"position.{axis}", value) for axis, value in zip("xyz", at, strict=True) if value]
    channels += [Channel("rotation.y", turn)] if turn else []
    channels += [Channel(name.replace("_", ".", 1), value) for name, value in values.items()]
    return wh.Camera(id=node_id, name=node_id, channels=tuple(channels), binds=(AimAt((aim,)),) if aim else ())


def moving(node_id: str, start: float, end: float, **fields: object) -> wh.Null:
    keys = (Key(0.0, start, Linear()), Key(100.0, end, Linear()))
    return wh.Null(id=node_id, name=node_id, channels=(Channel("position.x", start, keys),), **fields)


def fair() -> wh.Scene:
    """Three cameras about a moving subject, one of them on a moving carrier, and one that looks elsewhere."""
    return wh.Scene(
        nodes=(
            moving("kite", -1.0, 2.0),
            moving("rail", 0.0, 6.0),
            camera("front", (0.0, 2.0, 12.0), aim="kite", lens_focal=35.0),
            replace(camera("side", (14.0, 1.0, -3.0), aim="kite", lens_focal=85.0, lens_focus=9.0), carrier="rail"),
            camera("wide", (-9.0, 6.0, 8.0), turn=-40.0, lens_focal=20.0, lens_near=0.5),
            camera("far", (80.0, 3.0, 12.0), lens_focal=50.0, lens_focus=12.0),
        ),
        camera="front",
    )


def film(*shots: Shot) -> wh.Scene:
    return replace(fair(), shots=shots)


def same(a, b, rows=slice(None)) -> bool:
    return all(getattr(a, name)[rows].tobytes() == getattr(b, name)[rows].tobytes() for name in PARTS)


BLENDED = film(
    Shot("A", "front"), Shot("B", "side", 40.0, join=Blend(20.0)),
    Shot("C", "wide", 80.0, join=Blend(10.0, place="after")),
    Shot("D", "front", 120.0), Shot("E", "far", 150.0, join=Blend(1.0, "seconds", place="before")),
)  # fmt: skip


class TestJoins:
    def test_both_ends_are_the_cameras_bit_for_bit(self):
        frames = np.array([0.0, 30.0, 50.0, 79.0, 80.0, 90.0, 119.999, 120.0, 126.0, 150.0, 200.0])
        here = wh.evaluate(BLENDED, frames)
        seen = here.camera()
        for rows, name in (
            ((0, 1), "front"),
            ((2, 3, 4), "side"),
            ((5, 6), "wide"),
            ((7, 8), "front"),
            ((9, 10), "far"),
        ):
            assert same(seen, here.camera(name), list(rows)), name

    def test_it_is_the_same_in_any_order_and_by_itself(self):
        frames = np.arange(20.0, 160.0, 0.37)
        whole = wh.output(BLENDED, frames)
        assert same(whole, wh.evaluate(BLENDED, frames).camera())
        turned = np.random.default_rng(5).permutation(len(frames))
        assert same(wh.output(BLENDED, frames[turned]), whole, slice(0, 0))
        again = wh.output(BLENDED, frames[turned])
        assert all(np.array_equal(getattr(again, name), getattr(whole, name)[turned]) for name in PARTS)
        for i in (70, 160, 350):
            assert same(wh.evaluate(BLENDED, frames[i]).camera(), wh.evaluate(BLENDED, frames).at(i).camera())

    def test_it_is_the_same_beside_frames_at_which_nothing_is_aimed_at(self):
        """A camera without an aim is put together with one that has, which tells of it by NaN."""
        scene = film(
            Shot("One", "front", 0.0), Shot("Two", "wide", 10.0, join=Blend(8.0, way="round")),
            Shot("Three", "far", 20.0), Shot("Four", "side", 30.0, join=Blend(10.0, place="after")),
        )  # fmt: skip
        frames = np.arange(0.0, 45.0, 0.5)
        whole = wh.output(scene, frames)
        for row, frame in enumerate(frames.tolist()):
            alone = wh.output(scene, frame)
            assert same(alone, rows_of(whole, np.array([row])))
            for other in (0.0, 25.0, 44.0):
                beside = wh.output(scene, [frame, other])
                assert same(alone, rows_of(beside, np.array([0])))

    def test_both_cameras_go_on_moving_during_a_blend(self):
        still = replace(BLENDED, nodes=tuple(replace(n, channels=()) if n.id == "rail" else n for n in BLENDED.nodes))
        assert np.abs(wh.output(BLENDED, 45.0).position - wh.output(still, 45.0).position).max() > 0.5

    def test_no_sample_of_a_shutter_reaches_across_a_cut(self):
        wide = wh.edits.set_value(BLENDED, "front", "lens.shutter", 720.0)
        view = wh.output(wide, [119.0, 119.5, 120.0, 120.5])
        for i in range(4):
            opens, closes = view.shutter_open(i)
            times = shutter_times(opens, closes, 33)
            assert (view.segments.number(times) == view.segment[i]).all()
            film_ = film_of(Evaluation.evaluator, wide)
            assert set(film_.number(times).tolist()) == set(film_.number(view.frames[i : i + 1]).tolist())
        # A blend is no cut: its shutter goes on across it.
        assert wh.output(wide, 80.0).shutter_open(0)[0] < 80.0

    def test_the_last_goes_to_the_first_directly(self):
        nodes = tuple(camera(name, (10.0 * k, 0.0, 10.0)) for k, name in enumerate("abcd"))
        nodes = (
            *nodes[:1],
            *(replace(n, channels=(*n.channels, Channel("position.y", 50.0))) for n in nodes[1:3]),
            nodes[3],
        )
        scene = wh.Scene(nodes=nodes, camera="a", shots=(Shot("D", "d"), Shot("A", "a", 50.0, join=Blend(40.0))))
        at = wh.output(scene, np.linspace(30.0, 70.0, 81)).position
        assert at[:, 1] == pytest.approx(np.zeros(81))
        assert at[:, 2] == pytest.approx(np.full(81, 10.0))

    @pytest.mark.parametrize("way", wh.WAYS)
    def test_a_blend_inside_another_starts_from_the_picture_there_is_with_its_speed(self, way):
        def join(length: float) -> Blend:
            return Blend(length, place="after", way=way)

        scene = film(
            Shot("A", "front"), Shot("B", "side", 30.0, join=join(60.0)), Shot("C", "wide", 55.0, join=join(40.0))
        )
        assert film_problem(scene.shots, scene.settings.rate) is None
        before, after = wh.output(scene, [55.0 - 2e-3, 55.0 - 1e-3]), wh.output(scene, [55.0 + 1e-3, 55.0 + 2e-3])
        speed = [(view.position[1] - view.position[0]) / 1e-3 for view in (before, after)]
        assert np.abs(after.position[0] - before.position[1]).max() < 2.5e-3 * np.abs(speed[0]).max() + 1e-9
        assert speed[1] == pytest.approx(speed[0], abs=2e-2 * np.abs(speed[0]).max() + 1e-6)
        turn = [np.abs(view.pose[1, :3, :3] - view.pose[0, :3, :3]).max() for view in (before, after)]
        assert turn[1] == pytest.approx(turn[0], abs=1e-5)

    def test_focus_comes_in_with_the_aperture(self):
        nodes = (camera("a", (0, 0, 5.0)), replace(camera("b", (1.0, 0, 5.0)), depth_of_field=True))
        scene = wh.Scene(nodes=nodes, camera="a", shots=(Shot("A", "a"), Shot("B", "b", 20.0, join=Blend(20.0))))
        radius = wh.output(scene, np.arange(9.0, 32.0)).aperture_radius()
        assert radius[0] == 0.0
        assert (np.diff(radius) >= 0.0).all()
        assert radius[-1] == wh.evaluate(scene, 31.0).camera("b").aperture_radius()[0]


class TestWays:
    def test_round_the_subject_keeps_its_place_and_a_steady_distance(self):
        scene = film(Shot("A", "front"), Shot("B", "side", 50.0, join=Blend(60.0, way="round", ease=Linear())))
        scene = wh.edits.set_value(scene, "front", "aim.off.x", 0.4)
        scene = wh.edits.set_value(scene, "side", "aim.off.y", -0.3)
        still = replace(
            scene, nodes=tuple(replace(n, channels=()) if n.id in ("kite", "rail") else n for n in scene.nodes)
        )
        frames = np.linspace(20.0, 80.0, 241)
        view = wh.output(still, frames)
        kite = wh.evaluate(still, frames).position("kite")
        pixel, depth = view.pixels(kite)
        share = np.linspace(0.0, 1.0, 241)[:, None]
        line = pixel[0] + (pixel[-1] - pixel[0]) * share
        assert np.abs(pixel - line).max() < 1.0
        assert (depth > 0.0).all()
        distance = np.linalg.norm(view.position - kite, axis=1)
        assert (np.diff(distance) * np.sign(distance[-1] - distance[0]) >= -1e-9).all()

    def test_it_goes_round_level_and_never_over_the_top(self):
        nodes = (
            wh.Null(id="t", name="t"),
            camera("a", (0, 6.0, 9.0), aim="t"),
            camera("b", (0.01, 6.0, -9.0), aim="t"),
        )
        scene = wh.Scene(nodes=nodes, camera="a", shots=(Shot("A", "a"), Shot("B", "b", 50.0, join=Blend(40.0))))
        view = wh.output(scene, np.linspace(30.0, 70.0, 81))
        assert view.position[:, 1] == pytest.approx(np.full(81, 6.0), abs=1e-6)
        assert np.abs(view.pose[:, 1, 0]).max() < 1e-6, "the horizon stays level"

    @pytest.mark.parametrize("way", ["straight", "round", "rise"])
    def test_it_moves_without_a_jump_while_both_cameras_orbit(self, way):
        """Two cameras on either side of what they both go round: which way round is shorter changes meanwhile."""
        turn = Channel("rotation.y", 0.0, (Key(0.0, 0.0, Linear()), Key(100.0, 90.0, Linear())))
        slow = Channel("rotation.y", 0.0, (Key(0.0, 0.0, Linear()), Key(100.0, 30.0, Linear())))
        nodes = (
            wh.Null(id="t", name="t"), wh.Null(id="p", name="p", channels=(turn,)),
            wh.Null(id="q", name="q", channels=(slow,)),
            replace(camera("a", (0.0, 1.0, 8.0), aim="t"), carrier="p"),
            replace(camera("b", (5.0, 1.0, -6.0), aim="t"), carrier="q"),
        )  # fmt: skip
        scene = wh.Scene(
            nodes=nodes, camera="a", shots=(Shot("A", "a"), Shot("B", "b", 50.0, join=Blend(80.0, way=way)))
        )
        view = wh.output(scene, np.arange(5.0, 95.0, 0.05))
        step = np.linalg.norm(np.diff(view.position, axis=0), axis=1)
        assert step.max() < 0.08
        assert np.abs(np.diff(view.pose[:, :3, :3], axis=0)).max() < 0.02

    def test_the_optimal_path_has_its_published_length_and_is_the_shortest(self):
        """van Wijk & Nuij (2003): S = (r₁ − r₀)/ρ, as is integrated along it; any other height of the arc is longer."""
        trip, wide_a, wide_b = np.array([30.0]), np.array([2.0]), np.array([3.0])
        r0, r1, _ = path_turn(trip, wide_a, wide_b)
        length = float((r1 - r0)[0] / RHO)
        share = np.linspace(0.0, 1.0, 20_001)
        ones = np.ones_like(share)
        along, wide = zoom_and_pan(trip * ones, wide_a * ones, wide_b * ones, share)
        u = along * trip

        def measured(u, w):
            middle = 0.5 * (w[1:] + w[:-1])
            return float((np.sqrt(RHO**4 * np.diff(u) ** 2 + np.diff(w) ** 2 / 1.0) / (RHO * middle)).sum())

        # ds² = ρ² du²/w² + dw²/(ρ²w²)
        assert measured(u, wide) == pytest.approx(length, rel=1e-6)
        assert (along[0], along[-1]) == pytest.approx((0.0, 1.0), abs=1e-12)
        assert (wide[0], wide[-1]) == pytest.approx((2.0, 3.0), rel=1e-12)
        for factor in (0.8, 0.9, 1.1, 1.25):
            bump = 1.0 + (factor - 1.0) * np.sin(np.pi * share)
            assert measured(u, wide * bump) > length

    def test_a_long_trip_rises_by_itself_and_a_short_one_does_not(self):
        long = film(Shot("W", "front"), Shot("F", "far", 60.0, join=Blend(40.0)))
        assert wh.output(long, 60.0).position[0, 1] > 7.0
        near = replace(long, shots=(Shot("A", "front"), Shot("B", "side", 60.0, join=Blend(40.0))))
        courses = [film_of(Evaluation.evaluator, scene).course(1).way for scene in (long, near)]
        assert courses == ["rise", "round"]

    @settings(max_examples=30, deadline=None)
    @given(st.integers(0, 10_000), st.sampled_from(["straight", "round", "rise"]))
    def test_any_two_cameras_blend_into_sound_pictures(self, seed, way):
        chance = np.random.default_rng(seed)
        nodes = [wh.Null(id="t", name="t", channels=(Channel("position.y", float(chance.normal())),))]
        for name in "ab":
            place = tuple(chance.normal(0.0, 8.0, 3).tolist())
            nodes.append(camera(name, place, float(chance.uniform(-180, 180)), "t" if chance.random() < 0.5 else ""))
        shots = (Shot("A", "a"), Shot("B", "b", 50.0, join=Blend(40.0, way=way)))
        view = wh.output(wh.Scene(nodes=tuple(nodes), camera="a", shots=shots), np.linspace(30.0, 70.0, 41))
        assert all(np.isfinite(getattr(view, name)).all() for name in PARTS)
        turn = view.pose[:, :3, :3]
        assert np.abs(turn @ turn.transpose(0, 2, 1) - np.eye(3)).max() < 1e-9
        assert np.linalg.norm(np.diff(view.position, axis=0), axis=1).max() < 15.0


class TestOutputInBinds:
    def test_a_card_faces_the_output_at_the_very_frame_of_a_cut(self):
        card = wh.Picture(
            id="card", name="card", artwork=wh.Solid(), width=10, height=10, binds=(wh.FaceCamera("@output"),)
        )
        scene = replace(BLENDED, nodes=(*BLENDED.nodes, card))
        frames = np.array([119.0, 119.999, 120.0, 121.0, 40.0, 45.5])
        here = wh.evaluate(scene, frames)
        to_lens = here.camera().position - here.position("card")
        to_lens /= np.linalg.norm(to_lens, axis=1)[:, None]
        assert here.world("card")[:, :3, 2] == pytest.approx(to_lens, abs=1e-9)
        one = wh.evaluate(scene, 120.0).world("card")[0]
        assert one.tobytes() == here.world("card")[2].tobytes()

    def test_what_depends_on_itself_through_the_output_is_refused(self):
        scene = wh.edits.change_node(BLENDED, "rail", binds=())
        with pytest.raises(wh.LoopError, match="the output"):
            wh.edits.change_node(scene, "rail", binds=(wh.Match("@output"),))

    def test_an_edit_of_the_film_moves_what_faces_it(self):
        card = wh.Null(id="card", name="card", binds=(wh.Match("@output"),))
        scene = replace(BLENDED, nodes=(*BLENDED.nodes, card))
        before = wh.evaluate(scene, 100.0)
        other = replace(scene, shots=(Shot("A", "front"),))
        after = wh.evaluate(other, 100.0, previous=before)
        assert after.position("card") == pytest.approx(after.camera("front").position)


class TestFittingJoins:
    def test_what_does_not_fit_is_said_and_mended(self):
        rate = wh.Rate(24)
        tight = (Shot("A", "a"), Shot("B", "b", 10.0), Shot("C", "c", 14.0, join=Blend(12.0)), Shot("D", "a", 18.0))
        number, words = film_problem(tight, rate)
        assert number == 2
        assert "begins at frame 8, before B does at 10" in words
        fitted = settled(tight, rate)
        assert film_problem(fitted, rate) is None
        assert isinstance(fitted[2].join, Blend)
        assert settled(fitted, rate) == fitted

    @settings(max_examples=60, deadline=None)
    @given(
        st.lists(
            st.tuples(
                st.integers(0, 120), st.floats(0.5, 60.0), st.sampled_from(["before", "on", "after"]), st.booleans()
            ),
            max_size=9,
        )
    )
    def test_any_film_can_be_settled(self, parts):
        shots = [
            Shot(f"S{k}", "a", float(first), join=Blend(length, place=place) if blends else Cut())
            for k, (first, length, place, blends) in enumerate(parts)
        ]
        fitted = settled(shots, wh.Rate(24))
        assert film_problem(fitted, wh.Rate(24)) is None
        assert [shot.first for shot in fitted] == sorted({shot.first for shot in shots})


def touring() -> tuple[wh.Scene, list[str]]:
    scene, ids = fair(), []
    for lens, frame, carrier in (("front", 0.0, None), ("wide", 20.0, None), ("side", 0.0, "rail"), ("far", 0.0, None)):
        scene, made = keep_framing(scene, lens, frame, carrier)
        ids.append(made)
    return scene, ids


class TestTours:
    def test_a_framing_shows_what_was_seen(self):
        scene, (a, b, c, _) = touring()
        here = wh.evaluate(scene, [0.0, 20.0])
        for name, kept, row in (("front", a, 0), ("wide", b, 1), ("side", c, 0)):
            seen, again = here.camera(name), here.camera(kept)
            assert again.pose[row] == pytest.approx(seen.pose[row], abs=1e-6)
            assert again.focal_px[row] == pytest.approx(seen.focal_px[row])
            assert again.focus[row] == pytest.approx(seen.focus[row])
        # The one on the rail travels along, and goes on looking at the kite.
        later = wh.evaluate(scene, 80.0)
        assert later.camera(c).pose[0] == pytest.approx(later.camera("side").pose[0], abs=1e-6)

    @pytest.mark.parametrize("carrier", [None, "rail"])
    def test_a_framing_keeps_an_aim_off_the_middle_and_goes_on_with_it(self, carrier):
        scene = wh.edits.set_value(wh.edits.set_value(fair(), "front", "aim.off.x", 0.4), "front", "aim.off.y", -0.3)
        scene, made = keep_framing(scene, "front", 10.0, carrier)
        assert scene.node(made).aim is not None
        for frame in (10.0, 63.7):
            here = wh.evaluate(scene, frame)
            (pixel,), _ = here.camera(made).pixels(here.position("kite"))
            assert pixel == pytest.approx((960.0 * 1.4, 540.0 * 1.3), abs=1e-3)
        here = wh.evaluate(scene, 10.0)
        assert here.camera(made).pose == pytest.approx(here.camera("front").pose)

    @pytest.mark.parametrize("seed", range(8))
    def test_a_framing_on_an_unevenly_scaled_carrier_shows_the_same(self, seed):
        chance = np.random.default_rng(seed)
        names = ("position.x", "rotation.x", "rotation.y", "rotation.z", "scale.x", "scale.y", "scale.z")
        values = (3.0, *chance.uniform(-180.0, 180.0, 3), 2.5, 0.6, -1.3 if seed % 2 else 1.3)
        outer = wh.Null(id="outer", name="outer", channels=tuple(map(Channel, names, map(float, values))))
        tilted = tuple(Channel(f"rotation.{axis}", float(chance.uniform(-180.0, 180.0))) for axis in "xyz")
        inner = wh.Null(id="inner", name="inner", carrier="outer", channels=tilted)
        lens = replace(camera("own", (1.0, 2.0, 3.0)), channels=tilted)
        scene = wh.Scene(nodes=(outer, inner, lens), camera="own")
        scene, made = keep_framing(scene, "own", 0.0, "inner")
        here = wh.evaluate(scene, 0.0)
        assert here.camera(made).pose == pytest.approx(here.camera("own").pose, abs=1e-9)

    def test_it_hits_each_framing_exactly_and_leaves_by_its_ease(self):
        scene, ids = touring()
        scene, end = play_through(scene, "front", ids, 10.0)
        place = scene.node("front").channel("tour.place")
        here = wh.evaluate(scene, [key.frame for key in place.keys])
        for row, key in enumerate(place.keys):
            assert same(here.camera("front"), here.camera(ids[int(key.value)]), [row])
        assert end == place.keys[-1].frame

    def test_it_goes_directly_between_keys_on_whole_numbers_and_swings_over(self):
        scene, ids = touring()
        scene, _ = play_through(scene, "front", ids, 0.0)
        keys = (Key(0.0, 3.0, wh.Spring(2.0, 0.4)), Key(50.0, 0.0, Linear()), Key(80.0, 4.0))
        scene = wh.edits.set_channel(scene, "front", Channel("tour.place", 3.0, keys))
        binds = tuple(
            replace(each, way="straight") if each.id == "tour" else each for each in scene.node("front").binds
        )
        scene = wh.edits.change_node(scene, "front", binds=binds)
        here = wh.evaluate(scene, np.arange(0.0, 50.0, 0.5))
        u = here.value("front", "tour.place")
        assert u.min() < -0.5, "a spring swings past its end"
        a, b = here.camera(ids[3]), here.camera(ids[0])
        at = here.camera("front").position
        line = np.cross(at - a.position, b.position - a.position)
        assert np.abs(line).max() / np.linalg.norm(b.position - a.position, axis=1).max() < 1e-9
        # From the first to number 4, which is the first again: it stays.
        again = wh.evaluate(scene, np.array([55.0, 70.0]))
        assert same(again.camera("front"), again.camera(ids[0]))

    def test_loops_and_back_and_forth(self):
        scene, ids = touring()
        looped, _ = play_through(scene, "wide", ids[:3], 0.0, loops=True)
        back, _ = play_through(scene, "wide", ids[:3], 0.0, back=True)
        values = [[k.value for k in s.node("wide").channel("tour.place").keys] for s in (looped, back)]
        assert [list(dict.fromkeys(values[0])), values[1][0], values[1][-1]] == [[0.0, 1.0, 2.0, 3.0], 0.0, 0.0]
        end = looped.node("wide").channel("tour.place").keys[-1].frame
        here = wh.evaluate(looped, end)
        assert same(here.camera("wide"), here.camera(ids[0]))

    def test_it_follows_an_update_and_is_dissolved_into_keys(self):
        from wild_heron.edits.baking import dissolve

        scene, ids = touring()
        scene, _ = play_through(scene, "wide", ids[:2], 0.0)
        moved = wh.edits.set_value(scene, "front", "position.y", 5.0)
        updated = update_framing(moved, ids[0], "front", 0.0)
        assert wh.evaluate(updated, 0.0).camera("wide").position[0, 1] == pytest.approx(5.0)
        frames = np.linspace(0.0, 100.0, 333)
        baked, _ = dissolve(updated, ["wide"])
        a, b = (wh.evaluate(s, frames).camera("wide") for s in (updated, baked))
        assert np.abs(a.position - b.position).max() < 0.004
        assert a.focal_px == pytest.approx(b.focal_px, rel=1e-3)

    def test_going_to_a_framing_gives_its_picture(self):
        scene, ids = touring()
        values = values_for_framing(scene, "far", ids[1], 30.0)
        for name, value in values.items():
            scene = wh.edits.set_value(scene, "far", name, value)
        here = wh.evaluate(scene, 30.0)
        assert here.camera("far").pose == pytest.approx(here.camera(ids[1]).pose, abs=1e-6)

    def test_a_speed_gives_the_time(self):
        scene, ids = touring()
        scene = wh.edits.change_node(scene, ids[3], timed_by="speed", time=20.0)
        scene, end = play_through(scene, "front", [ids[0], ids[3]], 0.0)
        distance = np.linalg.norm(wh.evaluate(scene, 0.0).position(ids[3]) - wh.evaluate(scene, 0.0).position(ids[0]))
        stay = round(scene.node(ids[0]).stay * 24)
        assert end == stay + round(distance / 20.0 * 24)


class TestEvents:
    def test_crossings_lie_between_frames_where_they_are_in_truth(self):
        keys = (Key(0.0, 0.0, Linear()), Key(100.0, 10.0, Linear()), Key(200.0, 0.0, Linear()))
        scene = wh.Scene(
            nodes=(wh.Null(id="n", name="n", channels=(Channel("position.y", 0.0, keys),)), wh.Null(id="o", name="o"))
        )
        find = lambda condition: crossings(Evaluation.evaluator, scene, condition)  # noqa: E731
        assert find(wh.HeightPasses("n", 3.333, "up")) == pytest.approx((33.33,), abs=1e-6)
        assert find(wh.HeightPasses("n", 3.333, "down")) == pytest.approx((166.67,), abs=1e-6)
        assert find(wh.DistancePasses("n", "o", 9.9999, "up")) == pytest.approx((99.999,), abs=1e-6), (
            "in a hundredth of a frame"
        )
        assert find(wh.ChannelPasses("n", "position.y", 5.0, "up")) == pytest.approx((50.0,), abs=1e-6)
        assert find(wh.SpeedPasses("n", 1.0, "up")) == ()
        assert find(wh.HeightPasses("n", 11.0)) == ()

    def test_a_node_comes_into_a_frame_and_leaves_it(self):
        scene = replace(fair(), nodes=(*fair().nodes, camera("still", (0.0, 0.0, 4.0), lens_focal=50.0)))
        kite = wh.edits.set_channel(
            scene, "kite", Channel("position.x", 0.0, (Key(0.0, -10.0, Linear()), Key(100.0, 10.0, Linear())))
        )
        (into,) = crossings(Evaluation.evaluator, kite, wh.InFrame("kite", "still", "up"))
        (out,) = crossings(Evaluation.evaluator, kite, wh.InFrame("kite", "still", "down"))
        pixel, _ = (
            wh.evaluate(kite, [into, out]).camera("still").pixels(wh.evaluate(kite, [into, out]).position("kite"))
        )
        assert pixel[:, 0] == pytest.approx([0.0, 1920.0], abs=1e-3)

    def test_a_ball_hits_where_it_falls(self):
        """From 5 units, at 9.81 units a second squared, a ball of half a unit falls for 0.958 s."""
        ball = wh.Null(id="ball", name="ball", channels=(Channel("position.y", 5.0),), binds=(wh.DropAndRoll("g"),))
        scene = wh.Scene(
            nodes=(wh.Ground(id="g", name="g", surface=wh.Waves(())), ball), settings=wh.Settings(last=200)
        )
        hits = crossings(Evaluation.evaluator, scene, wh.Hits("ball", 1.0))
        assert hits[0] == pytest.approx(24.0 * np.sqrt(2.0 * 4.5 / 9.81), abs=0.1)
        assert len(hits) >= 2

    def shown(self, scene: wh.Scene) -> list[tuple[str, float]]:
        return [(shot.camera, shot.first) for shot in film_of(Evaluation.evaluator, scene).shots]

    def test_it_shows_its_camera_and_returns_to_what_would_have_been_shown(self):
        rules = (wh.JoiningRule(None, "far", Blend(6.0, place="after")),)
        event = Event(
            "Close", wh.ChannelPasses("kite", "position.x", 0.5), "far", aim="kite", delay=0.5, hold=1.0, tilt=7.0
        )
        scene = replace(film(Shot("A", "front"), Shot("B", "wide", 70.0)), events=(event,), rules=rules)
        assert self.shown(scene) == [("front", 0.0), ("far", 62.0), ("wide", 86.0)]
        view = wh.output(scene, [70.0, 85.0])
        kite = wh.evaluate(scene, [70.0, 85.0]).position("kite")
        assert view.pixels(kite)[0] == pytest.approx(np.array([[960.0, 540.0]] * 2), abs=1e-6)
        assert np.degrees(np.arctan2(view.pose[:, 1, 0], view.pose[:, 1, 1])) == pytest.approx([7.0, 7.0], abs=1e-6)
        frames = np.random.default_rng(2).permutation(np.arange(50.0, 95.0, 0.5))
        assert same(wh.output(scene, np.sort(frames)), wh.evaluate(scene, np.sort(frames)).camera())
        assert film_of(Evaluation.evaluator, scene).segments.starts == (86.0,)

    def test_a_blend_into_an_event_knows_what_only_the_event_aims_at(self):
        lone = wh.Null(id="lone", name="Lone", channels=(Channel("position.x", 3.0),))
        rules = (wh.JoiningRule(None, "far", Blend(6.0, place="after")),)
        event = Event("Close", wh.ChannelPasses("kite", "position.x", 0.5), "far", aim="lone", hold=1.0)
        scene = replace(film(Shot("A", "wide")), nodes=(*fair().nodes, lone), events=(event,), rules=rules)
        view = wh.output(scene, [60.0])
        assert view.pixels(np.array([[3.0, 0.0, 0.0]]))[0] == pytest.approx(np.array([[960.0, 540.0]]), abs=1e-6)

    def test_priority_cooling_and_until(self):
        keys = tuple(Key(20.0 * k, float(k % 2), Linear()) for k in range(12))
        nodes = (*fair().nodes, wh.Null(id="n", name="n", channels=(Channel("position.y", 0.0, keys),)))
        up = wh.HeightPasses("n", 0.5, "up")
        often = Event("Often", up, "side", hold=0.5, cooling=2.0)
        scene = replace(film(Shot("A", "front")), nodes=nodes, events=(often,))
        starts = [start for _, start, _ in event_showings(Evaluation.evaluator, scene)]
        assert starts == [10.0, 90.0, 170.0], "every second one falls into the cooling-off time"
        until = replace(often, hold=100.0, until=wh.HeightPasses("n", 0.25, "down"), cooling=0.0)
        shown = event_showings(Evaluation.evaluator, replace(scene, events=(until,)))
        assert [(s, e) for _, s, e in shown] == [
            (10.0, 35.0),
            (50.0, 75.0),
            (90.0, 115.0),
            (130.0, 155.0),
            (170.0, 195.0),
            (210.0, 2610.0),
        ]
        first = Event("First", wh.AtMarker("now"), "wide", hold=0.25, priority=1)
        both = replace(scene, events=(until, first), markers=(wh.Marker(20.0, "now"),))
        pieces = [tuple(each) for each in event_showings(Evaluation.evaluator, both)][:3]
        assert pieces == [(0, 10.0, 20.0), (1, 20.0, 26.0), (0, 26.0, 35.0)]

    def test_what_depends_on_the_output_is_refused(self):
        from wild_heron.scene.validate import validate

        card = wh.Null(id="card", name="Card", binds=(wh.Match("@output"),))
        scene = replace(film(Shot("A", "front")), nodes=(*fair().nodes, card))
        validate(scene)
        with pytest.raises(wh.SceneError, match="Near depends on Card, which is bound to the output"):
            validate(replace(scene, events=(Event("Near", wh.HeightPasses("card", 1.0), "far"),)))


def test_a_mix_of_a_picture_with_itself_is_that_picture():
    view = wh.evaluate(fair(), np.arange(5.0)).camera("front")
    for way in ("straight", "round", "rise"):
        from wild_heron.evaluate.mixing import BlendCourse

        again = mixed(view, view, np.full(5, 0.4), BlendCourse(way))
        assert again.pose == pytest.approx(view.pose, abs=1e-9)
        assert again.focal_px == pytest.approx(view.focal_px)


@pytest.mark.parametrize("long", [0.24, 0.11, 0.02])
@pytest.mark.parametrize("shape", ["keyed", "smooth"])
def test_a_visit_shorter_than_a_quarter_of_a_frame_is_found(long, shape):
    """A node that rises above a height for only so many frames, between any two that are looked at."""
    middle, height = 30.13, 1.0
    if shape == "keyed":
        keys = (Key(0.0, 0.0, Linear()), Key(middle - 0.4, 0.2, Linear()), Key(middle, 0.0), Key(96.0, 0.0, Linear()))
        rise = 1.0 + 0.5 * long * (1.0 - 0.2) / (0.4 - 0.5 * long)
        keys = (keys[0], keys[1], Key(middle, rise, Linear()), Key(middle + 0.4, 0.2, Linear()), keys[3])
        scene = wh.Scene(
            settings=wh.Settings(last=96),
            nodes=(wh.Null(id="n", name="n", channels=(Channel("position.y", 0.0, keys),)),),
        )
    else:
        formula = f"1 + 0.3 * ({long / 2} * {long / 2} - (frame - {middle}) * (frame - {middle}))"
        scene = wh.Scene(settings=wh.Settings(last=96), nodes=(wh.Null(id="n", name="n"),))
        scene = wh.edits.set_formula(scene, "n", "position.y", formula)
    (found,) = crossings(Evaluation.evaluator, scene, wh.HeightPasses("n", height))
    assert found == pytest.approx(middle - 0.5 * long, abs=1e-3)
