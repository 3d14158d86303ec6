"""Windows of formats: seen through a shifted lens as cut from a larger picture, judged, and solved."""

import itertools

import msgspec
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import wild_heron as wh
from wild_heron.checks.format_windows import windows_of
from wild_heron.checks.solving import Weights, calmest, follow_subjects, solved, with_window
from wild_heron.checks.subjects import subject_boxes
from wild_heron.gl.request import FrameRequest, ThroughLens
from wild_heron.scene import Format, FormatWindow, Subject
from wild_heron.scene.checks import AREAS
from wild_heron.scene.mover_presets import MOVER_PRESETS, mover_preset, new_mover
from wild_heron.scene.movers import MOVER_KINDS
from wild_heron.scene.validate import validate

from .scenes import camera, card, film, keyed, leaving, two_shots, with_checks


def windowed(scene: wh.Scene, shape: Format, **values: float) -> wh.Scene:
    scene = msgspec.structs.replace(scene, formats=(shape,))
    scene, node = with_window(scene, shape.name)
    for name, value in values.items():
        scene = wh.edits.set_value(scene, node, f"window.{name}", value)
    return scene


def draw(renderer, scene: wh.Scene, size: tuple[int, int], name: str | None) -> np.ndarray:
    renderer.set_scene(scene, None)
    target, _ = renderer.draw(FrameRequest(0.0, ThroughLens(format=name), *size))
    data = bytearray(size[0] * size[1] * 4)
    renderer.read_into(target, data)
    return np.frombuffer(data, np.uint8).reshape(size[1], size[0], 4)


def fair() -> wh.Scene:
    """Cards of many colours at several depths, one of them slanted."""
    stops = (wh.Stop(0.0, "#103060"), wh.Stop(0.5, "#e0a040"), wh.Stop(1.0, "#204020"))
    glow = wh.Picture(id="glow", name="Glow", width=4000, height=2400, artwork=wh.Gradient(stops, angle=37.0))
    scene = film(glow, card("kite", 3.0, 2.0, x=2.0, y=1.0, z=3.0), card("board", 2.0, 3.0, x=-3.0, z=2.0), camera())
    return wh.edits.set_value(scene, "board", "rotation.y", 40.0)


class TestThroughAWindow:
    def test_a_frame_is_that_window_cut_from_a_picture_twice_as_large(self, renderer):
        """Half as wide and high as the camera's picture, off its middle: two pixels of it to one of the scene's."""
        scene = windowed(fair(), Format("Half", 640, 360), across=0.1, up=-0.05, size=0.5)
        ours = draw(renderer, scene, (640, 360), "Half")
        whole = draw(renderer, scene, (1280, 720), None)
        left, top = 320 + 128, 180 + 36
        cut = whole[top : top + 360, left : left + 640]
        off = np.abs(ours.astype(int) - cut.astype(int)).max(axis=2)
        edges = np.abs(np.diff(cut.astype(int), axis=1)).max(axis=2)[:-1] > 8
        edges |= np.abs(np.diff(cut.astype(int), axis=0)).max(axis=2)[:, :-1] > 8
        assert off[:-1, :-1][~edges].max() <= 1
        assert edges.mean() < 0.05

    def test_beyond_the_camera_s_picture_it_shows_what_is_there(self, renderer):
        scene = windowed(fair(), Format("Wide", 640, 180, "width"), up=0.6)
        ours = draw(renderer, scene, (640, 180), "Wide")
        assert ours[..., 3].min() == 255
        assert not np.array_equal(
            ours, draw(renderer, windowed(fair(), Format("Wide", 640, 180, "width")), (640, 180), "Wide")
        )

    @given(
        st.floats(-0.5, 0.5), st.floats(-0.5, 0.5), st.floats(0.2, 2.0), st.floats(-180.0, 180.0),
        st.tuples(st.floats(-4, 4), st.floats(-3, 3), st.floats(-5, 5)), st.sampled_from(["cover", "contain", "width"]),
    )  # fmt: skip
    def test_a_point_is_seen_where_the_window_has_it(self, across, up, size, roll, point, fit):
        scene = windowed(fair(), Format("Tall", 900, 1600, fit), across=across, up=up, size=size, roll=roll)
        shape = scene.formats[0]
        here = wh.evaluate(scene, 0.0)
        place = np.array([point])
        main, depth = here.camera().pixels(place)
        seen, again = here.camera(None, shape).pixels(place)
        inside = windows_of(scene, np.zeros(1), shape).inside(main, scene.settings)
        assert seen[0] == pytest.approx((inside * [900, 1600])[0], abs=1e-6)
        assert again == pytest.approx(depth)
        back = here.camera(None, shape).place(seen, again)
        assert back[0] == pytest.approx(place[0], abs=1e-8)
        # What the film shows is the same as what its camera does.
        assert wh.output(scene, 0.0, shape).pixels(place)[0].tolist() == seen.tolist()

    def test_it_is_keyed_like_anything_and_goes_with_its_node(self):
        scene = windowed(fair(), Format("Tall", 900, 1600))
        node = scene.formats[0].window
        scene = keyed(scene, node, "window.across", (0.0, -0.1), (30.0, 0.1))
        middle = windows_of(scene, np.array([0.0, 15.0, 30.0]), scene.formats[0]).middle
        assert middle[:, 0] == pytest.approx([-160.0, 0.0, 160.0])
        assert wh.edits.remove_nodes(scene, [node]).formats[0].window is None
        wrong = msgspec.structs.replace(scene, formats=(Format("Tall", 900, 1600, window="glow"),))
        with pytest.raises(wh.SceneError, match="no window"):
            validate(wrong)

    def test_edges_are_judged_where_the_window_is(self, check):
        scene = film(card("sky", 16.0, 12.0), camera(), last=1)
        tall = Format("Tall", 900, 1600)
        assert not check(windowed(scene, tall), "Tall").findings
        # A window of 5.0625 units; its right side is at 2.53 from its middle, and the sky ends at 8.
        moved = windowed(scene, tall, across=0.4)
        (found,) = [each for each in check(moved, "Tall").findings if each.kind == "bare"]
        assert found.about == "right"
        assert found.worst == pytest.approx(100.0 * (6.4 + 2.53125 - 8.0) / 5.0625, abs=1.0)
        rolled = windowed(film(card("sky", 16.2, 9.2), camera(), last=1), Format("Same", 1600, 900), roll=10.0)
        assert [each.kind for each in check(rolled, "Same").findings] == ["bare"]


class TestCalmest:
    @pytest.mark.parametrize("seed", range(4))
    def test_no_path_on_a_grid_is_calmer(self, seed):
        """Every path over seven frames and five places, tried."""
        draws = np.random.default_rng(seed)
        centre = np.cumsum(draws.integers(-1, 2, 7)).astype(float)
        low, high = centre - 1.0, centre + 1.0
        weights = Weights(1.0, 3.0, 5.0)
        path, outside = calmest(low, high, -2.0, 2.0, weights, at_rest=0)

        def cost(x: np.ndarray) -> float:
            out = np.maximum(np.maximum(low - x, x - high), 0.0).sum()
            return float(sum(w * np.abs(np.diff(x, k)).sum() for k, w in enumerate(weights, 1)) + 2000.0 * out)

        best = min(cost(np.array(each)) for each in itertools.product(np.arange(-2.0, 2.5), repeat=7))
        assert cost(path) <= best + 0.02
        assert ((path >= -2.0 - 1e-9) & (path <= 2.0 + 1e-9)).all()
        assert outside == pytest.approx(np.maximum(np.maximum(low - path, path - high), 0.0), abs=1e-7)

    def test_where_standing_still_is_enough_it_stands_still_nearest_to_the_middle(self):
        wave = 3.0 * np.sin(np.arange(60) * 0.3)
        path, outside = calmest(wave - 5.0, wave + 5.0, -10.0, 10.0, Weights())
        assert np.ptp(path) < 1e-6
        assert abs(path[0]) < 1e-6
        assert outside.max() == 0.0

    def test_it_starts_and_ends_at_rest(self):
        ramp = np.linspace(-50.0, 50.0, 80)
        path, outside = calmest(ramp - 12.0, ramp + 12.0, -100.0, 100.0, Weights())
        assert np.abs(np.diff(path))[[0, 1, -2, -1]] == pytest.approx([0.0] * 4, abs=1e-6)
        assert outside.max() < 1e-6

    def test_what_cannot_be_kept_is_told_and_shared(self):
        low, high = np.full(20, 3.0), np.full(20, -3.0)
        path, outside = calmest(low, high, -10.0, 10.0, Weights())
        assert path == pytest.approx(np.zeros(20), abs=1e-6)
        far, outside = calmest(np.full(20, 15.0), np.full(20, np.inf), -10.0, 10.0, Weights())
        assert far == pytest.approx(np.full(20, 10.0))
        assert outside == pytest.approx(np.full(20, 5.0))

    @given(st.integers(0, 10_000))
    def test_it_keeps_to_where_nothing_is_bare_whatever_is_asked(self, seed):
        draws = np.random.default_rng(seed)
        low = np.cumsum(draws.normal(0.0, 3.0, 40))
        least = -5.0 + np.cumsum(draws.uniform(-0.2, 0.2, 40))
        most = least + draws.uniform(0.0, 9.0, 40)
        path, outside = calmest(low, low + 2.0, least, most, Weights())
        assert (path >= least - 1e-6).all()
        assert (path <= most + 1e-6).all()
        assert outside == pytest.approx(np.maximum(np.maximum(low - path, path - low - 2.0), 0.0), abs=1e-6)

    def test_weights_say_what_calm_is(self):
        """A step that has to be gone: going as little as can be stops there; soft changes of speed overshoot."""
        low = np.where(np.arange(60) < 30, -np.inf, 10.0)
        high = np.where(np.arange(60) < 10, 0.0, np.inf)
        plain, _ = calmest(low, high, -50.0, 50.0, Weights(100.0, 0.01, 0.01))
        soft, _ = calmest(low, high, -50.0, 50.0, Weights(1.0, 10.0, 1000.0))
        assert np.abs(np.diff(plain)).sum() == pytest.approx(10.0, abs=0.01)
        assert np.abs(np.diff(soft, 3)).sum() < 0.5 * np.abs(np.diff(plain, 3)).sum()
        assert np.ptp(soft) > 11.0


class TestFollowing:
    def tall(self) -> wh.Scene:
        """A kite that flies across the picture, which a tall format loses."""
        scene = film(card("sky", 60.0, 40.0, z=-1.0), card("kite", 1.0, 1.0), camera(), last=96)
        scene = keyed(scene, "kite", "position.x", (0.0, -6.0), (96.0, 6.0), span=wh.Family("sine", "in-out"))
        scene = with_checks(scene, subjects=(Subject("kite"),))
        return msgspec.structs.replace(scene, formats=(Format("Tall", 900, 1600),))

    def test_the_subject_stays_in_with_few_keys(self, check):
        scene = self.tall()
        assert [each.kind for each in check(scene, "Tall").findings if each.kind == "out"]
        made, solution = follow_subjects(scene, "Tall")
        assert solution.worst is None
        judged = check(made, "Tall")
        assert [each.title for each in judged.findings if each.kind in ("out", "bare")] == []
        node = made.node(made.formats[0].window)
        assert isinstance(node, FormatWindow)
        assert 2 <= len(node.channel("window.across").keys) <= 12
        # The camera's picture has no room above and below: it does not move that way.
        assert node.channel("window.up") is None

    @pytest.mark.parametrize(("first", "last"), [(20.0, 21.0), (20.3, 22.7), (20.0, 23.0)])
    def test_a_subject_that_crosses_within_frames_stays_in_between_them(self, first, last):
        scene = film(card("sky", 60.0, 40.0, z=-1.0), card("kite", 1.0, 1.0), camera(), last=48)
        ease = wh.Family("cubic", "in-out")
        scene = keyed(scene, "kite", "position.x", (first, -6.0), (last, 6.0), span=ease)
        scene = with_checks(scene, subjects=(Subject("kite"),))
        scene = msgspec.structs.replace(scene, formats=(Format("Tall", 900, 1600),))
        made, solution = follow_subjects(scene, "Tall")
        fine = np.arange(0.0, 48.0, 0.04)
        windows = windows_of(made, fine, made.formats[0])
        # It never shows what lies beyond the camera's picture.
        assert (np.abs(windows.middle[:, 0]) + 0.5 * windows.size[:, 0]).max() <= 800.5
        box = subject_boxes(wh.evaluate(made, fine), wh.output(made, fine), made.checks.subjects)[:, 0]
        left, right = (box[:, k] - 800.0 - windows.middle[:, 0] for k in (0, 2))
        half = 0.5 * AREAS[made.checks.subjects[0].area] * windows.size[:, 0]
        assert max((right - half).max(), (-half - left).max()) <= solution.outside.max() + 25.0

    def test_each_shot_has_its_own_way_and_the_cut_is_met_at_rest(self):
        scene = two_shots(camera("one"), camera("two", x=4.0), card("kite", 1.0, 1.0, x=2.0, z=0.5))
        scene = with_checks(scene, subjects=(Subject("kite"),))
        scene = msgspec.structs.replace(scene, formats=(Format("Tall", 900, 1600),))
        made, _ = follow_subjects(scene, "Tall")
        middle = windows_of(made, np.array([0.0, 29.0, 29.99, 30.0, 60.0]), made.formats[0]).middle[:, 0]
        assert middle[:3] == pytest.approx([middle[0]] * 3, abs=1.0)
        assert middle[3] < 0.0 < middle[0]

    def test_where_it_cannot_be_it_says_which_frame_and_by_how_much(self):
        scene = msgspec.structs.replace(leaving(), formats=(Format("Tall", 900, 1600),))
        solution = solved(scene, scene.formats[0])
        # Its box of 1 unit leaves the area at the top, by 5 − 4.185 units of 100 pixels; what is beyond the picture
        # nothing can bring back.
        frame, out = solution.worst
        assert frame >= 27.0
        assert out == pytest.approx(100.0 * (4.5 - 4.185), abs=1.0)

    def test_it_goes_beyond_the_picture_as_far_as_there_is_artwork(self):
        """The kite ends at the picture's right edge, so the area around it goes over that by 3.5 % of the window."""
        scene = film(card("sky", 60.0, 40.0, z=-1.0), card("kite", 1.0, 1.0, x=7.5), camera(), last=20)
        scene = with_checks(scene, subjects=(Subject("kite"),))
        scene = msgspec.structs.replace(scene, formats=(Format("Tall", 900, 1600),))
        shape = scene.formats[0]
        assert solved(scene, shape).worst is not None
        covered = np.full((21, 4), 0.1)
        free = solved(scene, shape, margins=covered)
        assert free.worst is None
        right = free.middle[:, 0] + 0.5 * 506.25
        assert right == pytest.approx(np.full(21, 800.0 + 0.035 * 506.25), abs=2.0)
        # A pixel of the map is kept clear of: there the way ends.
        covered[:, 2] = 0.01
        assert solved(scene, shape, margins=covered).middle[:, 0].max() <= 800.0 + (0.01 - 1 / 160) * 1600 - 253.1
        # What nobody looked at yet counts as bare.
        assert solved(scene, shape, margins=np.full((21, 4), np.nan)).worst == solved(scene, shape).worst

    def test_along_a_locked_axis_it_stays_where_it_is(self):
        scene, node = with_window(self.tall(), "Tall")
        scene = wh.edits.set_value(scene, node, "window.across", 0.1)
        scene = wh.edits.lock_window(scene, node, "across", True)
        made, solution = follow_subjects(scene, "Tall")
        assert made.node(node).channel("window.across") == scene.node(node).channel("window.across")
        assert solution.middle[:, 0] == pytest.approx(np.full(97, 160.0))
        assert solution.worst is not None
        with pytest.raises(wh.SceneError, match="locked"):
            follow_subjects(wh.edits.lock_window(scene, node, "up", True), "Tall")

    @pytest.mark.parametrize(("lock", "size"), [("width", (1600.0, 1600.0 * 16 / 9)), ("height", (506.25, 900.0))])
    def test_it_keeps_as_wide_or_as_high_as_the_picture(self, lock, size):
        scene, node = with_window(self.tall(), "Tall")
        scene = keyed(scene, node, "window.size", (0.0, 0.5), (40.0, 2.0))
        scene = wh.edits.lock_window(scene, node, lock, True)
        assert wh.edits.window_locks(scene, node) == {lock}
        assert windows_of(scene, np.array([0.0, 20.0]), scene.formats[0]).size == pytest.approx(np.array([size, size]))
        assert not wh.edits.window_locks(wh.edits.lock_window(scene, node, lock, False), node)

    def test_without_a_subject_it_says_what_to_do(self):
        scene = msgspec.structs.replace(self.tall(), checks=wh.ChecksOfScene())
        with pytest.raises(wh.SceneError, match="Keep in frame"):
            follow_subjects(scene, "Tall")
        with pytest.raises(wh.SceneError, match="Choose another format"):
            follow_subjects(self.tall(), "Wide 16:9")


@pytest.mark.parametrize("name", MOVER_PRESETS)
def test_movers_move_a_window_across_up_and_roll(name):
    scene, node = with_window(msgspec.structs.replace(fair(), formats=(Format("Tall", 900, 1600),)), "Tall")
    scene, _ = wh.edits.add_movers(scene, node, mover_preset(name, scene.node(node)).movers)
    validate(scene)
    windows = windows_of(scene, np.arange(0.0, 31.0), scene.formats[0])
    assert 0.5 < np.ptp(windows.middle, axis=0).max() + 100.0 * np.ptp(windows.roll) < 400.0
    for kind in MOVER_KINDS:
        targets = {each.channel for each in new_mover(kind, scene.node(node)).targets}
        assert targets <= {"window.across", "window.up", "window.size", "window.roll"}


def test_a_window_is_nowhere_in_space():
    scene, node = with_window(msgspec.structs.replace(fair(), formats=(Format("Tall", 900, 1600),)), "Tall")
    validate(scene)
    for carried, by in ((node, "kite"), ("kite", node)):
        with pytest.raises(wh.SceneError, match="nowhere in space"):
            validate(wh.edits.change_node(scene, carried, carrier=by))
