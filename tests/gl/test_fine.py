"""Frames that go out: linear light, edges and artwork against exact pictures, samples, and what lies in each pixel."""

import numpy as np
import pytest
from msgspec.structs import replace
from PIL import Image

import wild_heron as wh
from wild_heron.colour import to_display, to_light
from wild_heron.gl.aov import NOTHING, ranked
from wild_heron.gl.renderer import Renderer
from wild_heron.gl.request import FrameRequest, ThroughLens
from wild_heron.gl.sampling import shutter_times

SIZE = (160, 90)
FOCAL = 35.0 * SIZE[0] / 36.0
LENS = ThroughLens("cam")


@pytest.fixture(scope="module")
def renderer():
    return Renderer()


def stage(*nodes: wh.AnyNode, light: str = "linear", **camera) -> wh.Scene:
    settings = wh.Settings(width=SIZE[0], height=SIZE[1], background="#1c262b", light=light)
    channels = tuple(wh.Channel(name.replace("_", ".", 1), value) for name, value in camera.items())
    eye = wh.Camera(id="cam", name="Cam", channels=(wh.Channel("position.z", 10.0), *channels))
    return wh.Scene(settings=settings, nodes=(eye, *nodes), camera="cam")


def card(colour: str = "#efe8d6", width: int = 200, height: int = 100, node_id: str = "card", **values) -> wh.Picture:
    channels = tuple(wh.Channel(name.replace("_", "."), value) for name, value in values.items())
    return wh.Picture(id=node_id, name=node_id, artwork=wh.Solid(colour), width=width, height=height, channels=channels)


def drawn(renderer, scene, base=None, size=SIZE, **wish) -> np.ndarray:
    renderer.set_scene(scene, base)
    frame, complete = renderer.draw(FrameRequest(**{"frame": 0.0, "view": LENS} | wish, width=size[0], height=size[1]))
    assert complete
    kind = {"f1": np.uint8, "f4": np.float32}[frame.color_attachments[0].dtype]
    buffer = bytearray(size[0] * size[1] * 4 * np.dtype(kind).itemsize)
    renderer.read_into(frame, buffer)
    return np.frombuffer(buffer, kind).reshape(size[1], size[0], 4)


def exact(renderer, scene, base=None, times: int = 16, size=SIZE) -> np.ndarray:
    """The mean of ``times`` × ``times`` places in each pixel, as it is displayed, 0 to 255."""
    large = drawn(renderer, scene, base, (size[0] * times, size[1] * times), numbers="light")[..., :3]
    light = large.reshape(size[1], times, size[0], times, 3).mean(axis=(1, 3))
    return to_display(light) * 255.0


def errors(frame: np.ndarray, reference: np.ndarray) -> tuple[float, float]:
    away = np.abs(frame[..., :3].astype(float) - reference)
    return float(away.mean()), float(away.max())


def test_renderers_that_take_turns_do_not_draw_into_each_other(renderer):
    """Each has a context of its own, where the same numbers are other objects."""
    scenes = [stage(card(colour, rotation_z=turn)) for colour, turn in (("#efe8d6", 20.0), ("#f2c25b", -50.0))]
    alone = [drawn(renderer, scene, fine=True, samples=4, numbers="light") for scene in scenes]
    other = Renderer()
    for _ in range(2):
        for each, scene, wanted in ((renderer, scenes[0], alone[0]), (other, scenes[1], alone[1])):
            assert (drawn(each, scene, fine=True, samples=4, numbers="light") == wanted).all()


# Linear light


@pytest.mark.parametrize("colour", ["#000000", "#1c262b", "#7b86a8", "#f2c25b", "#fefefe"])
@pytest.mark.parametrize("wish", [{}, {"fine": True}, {"fine": True, "samples": 5}])
def test_a_flat_opaque_card_keeps_its_values(renderer, colour, wish):
    frame = drawn(renderer, stage(card(colour, 1200, 800)), **wish)
    assert (frame[..., :3] == [int(colour[k : k + 2], 16) for k in (1, 3, 5)]).all()


@pytest.mark.parametrize("opacity", [0.25, 0.5, 0.9])
def test_what_is_seen_through_is_mixed_as_light(renderer, opacity):
    scene = stage(card("#ffffff", 1200, 800, opacity=opacity))
    back = np.array([0x1C, 0x26, 0x2B]) / 255.0
    for light, mixed in (
        ("linear", to_display(opacity + (1.0 - opacity) * to_light(back))),
        ("display", opacity + (1.0 - opacity) * back),
    ):  # fmt: skip
        frame = drawn(renderer, replace(scene, settings=replace(scene.settings, light=light)))
        assert frame[45, 80, :3] == pytest.approx(mixed * 255.0, abs=1.0)


def test_an_edge_in_artwork_fades_as_light(renderer, tmp_path):
    pixels = np.zeros((100, 200, 4), np.uint8)
    pixels[..., :3] = (240, 200, 40)
    pixels[..., 3] = 128
    Image.fromarray(pixels).save(tmp_path / "half.png")
    picture = wh.Picture(id="p", name="p", artwork=wh.ImageFile("half.png"), width=1200, height=800)
    back, own = np.array([0x1C, 0x26, 0x2B]) / 255.0, np.array([240, 200, 40]) / 255.0
    share = 128 / 255.0
    wanted = to_display(share * to_light(own) + (1.0 - share) * to_light(back)) * 255.0
    assert drawn(renderer, stage(picture), tmp_path)[45, 80, :3] == pytest.approx(wanted, abs=1.5)


def test_haze_and_light_are_light(renderer):
    scene = stage(card("#ffffff", 1200, 800))
    haze = wh.Distance("#000000", 0.0, 20.0, 0.5)
    scene = replace(scene, settings=replace(scene.settings, distance=haze))
    # Ten units away, half of half of it is haze.
    assert drawn(renderer, scene)[45, 80, 0] == pytest.approx(to_display(0.75) * 255.0, abs=1.0)
    lamp = wh.Light(id="l", name="L", light="ambient", channels=(wh.Channel("light.strength", 0.25),))
    lit = stage(replace(card("#ffffff", 1200, 800), takes_light=True), lamp)
    assert drawn(renderer, lit)[45, 80, 0] == pytest.approx(to_display(0.25) * 255.0, abs=1.0)


def test_numbers_are_light_or_as_displayed(renderer):
    scene = stage(card("#f2c25b", 200, 100, opacity=0.5))
    tone = to_light(np.array([0xF2, 0xC2, 0x5B]) / 255.0)
    view = ThroughLens("cam", transparent=True)
    clear = drawn(renderer, scene, view=view, numbers="light")
    assert clear[45, 80] == pytest.approx([*(0.5 * tone), 0.5], abs=1e-3)
    assert (clear[0, 0] == 0.0).all()
    straight = drawn(renderer, scene, view=view)
    assert straight[45, 80] == pytest.approx([0xF2, 0xC2, 0x5B, 128], abs=1)
    over = drawn(renderer, scene, numbers="light")
    assert over[0, 0] == pytest.approx([*to_light(np.array([0x1C, 0x26, 0x2B]) / 255.0), 1.0], abs=1e-4)
    shown = drawn(renderer, scene, numbers="shown")
    assert shown[..., :3] * 255.0 == pytest.approx(drawn(renderer, scene)[..., :3].astype(float), abs=0.6)


# Edges and artwork, against 16 × 16 places in each pixel


def squares(folder) -> wh.Picture:
    across, down = np.meshgrid(np.arange(1024) // 32, np.arange(1024) // 32)
    pixels = np.where(((across + down) % 2)[..., None] == 1, [239, 232, 214], [28, 38, 43]).astype(np.uint8)
    Image.fromarray(pixels).save(folder / "squares.png")
    return wh.Picture(id="p", name="p", artwork=wh.ImageFile("squares.png"), width=1024, height=1024)


@pytest.mark.parametrize("turn", [15.0, 60.0, 75.0, 82.0])
def test_a_slanted_checkerboard_is_as_exact(renderer, tmp_path, turn):
    picture = squares(tmp_path)
    for name, value in (("rotation.y", turn), ("rotation.z", 13.0), ("position.z", 2.0)):
        scene = stage(picture := wh.edits.set_value(stage(picture), "p", name, value).node("p"))
    mean, worst = errors(drawn(renderer, scene, tmp_path, fine=True), exact(renderer, scene, tmp_path))
    assert mean < 1.5
    assert worst < 16.0


@pytest.mark.parametrize("away", [-4.0, 2.0, 7.0])
@pytest.mark.parametrize("blur", [1.5, 6.0, 40.0])
def test_blurred_artwork_is_as_exact_however_small_it_is_seen(renderer, tmp_path, blur, away):
    """It is blurred at the size at which it is seen, which is coarser than the artwork, the smaller the farther."""
    picture = squares(tmp_path)
    for name, value in (("blur", blur), ("position.z", away), ("rotation.y", 30.0)):
        scene = stage(picture := wh.edits.set_value(stage(picture), "p", name, value).node("p"))
    mean, worst = errors(drawn(renderer, scene, tmp_path, fine=True), exact(renderer, scene, tmp_path))
    assert mean < 1.5
    assert worst < 16.0


@pytest.mark.parametrize("turn", [10.0, 37.0, 64.0])
def test_a_turning_logo_is_as_exact(renderer, turn):
    logo = wh.Logo(
        id="logo", name="Logo", outlines=wh.Text("WH", size=140.0), width=300, height=160, depth=40.0, bevel=6.0,
        channels=(wh.Channel("rotation.y", turn), wh.Channel("rotation.z", 7.0)),
    )  # fmt: skip
    scene = stage(logo, card("#465a64", 1200, 800, "back", position_z=-3.0))
    mean, worst = errors(drawn(renderer, scene, fine=True), exact(renderer, scene))
    assert mean < 1.5
    assert worst < 16.0


def test_where_pictures_cut_through_each_other_the_line_is_smooth(renderer):
    scene = stage(card("#f2c25b", 500, 300, "a", rotation_y=31.0, rotation_z=9.0), card("#7fb2c9", 500, 300, "b"))
    mean, worst = errors(drawn(renderer, scene, fine=True), exact(renderer, scene))
    assert mean < 0.5
    assert worst < 16.0


def test_a_smooth_ground_is_drawn_finer_where_its_hills_end_alone(renderer, monkeypatch):
    """Hills that hide each other, and a lamp: as exact, with few of the pixels drawn larger."""
    hills = (wh.Wave(wavelength=6.0, height=1.4), wh.Wave(direction=70.0, wavelength=9.0, height=0.8))
    ground = wh.Ground(
        id="g", name="G", surface=wh.Waves(hills), width=40.0, depth=40.0,
        channels=(wh.Channel("position.y", -2.0), wh.Channel("position.z", -6.0)),
    )  # fmt: skip
    light = wh.Light(id="l", name="L", light="directional", channels=(wh.Channel("rotation.x", -40.0),))
    scene = stage(ground, light, card("#465a64", 1200, 800, "back", position_z=-26.0))
    boxes = []
    edges = Renderer._edge_boxes
    monkeypatch.setattr(Renderer, "_edge_boxes", lambda *given: boxes.extend(edges(*given)) or boxes)
    frame = drawn(renderer, scene, fine=True)
    larger = sum(int(box.pixels.sum()) for box in boxes)
    assert 0 < larger < 0.2 * SIZE[0] * SIZE[1]
    mean, worst = errors(frame, exact(renderer, scene))
    assert mean < 1.5
    assert worst < 16.0


def test_a_thin_line_does_not_crawl(renderer, tmp_path):
    """A line half a pixel wide gives as much light wherever it lies."""
    pixels = np.zeros((1200, 2400, 4), np.uint8)
    pixels[:, 1196:1204] = 255
    Image.fromarray(pixels).save(tmp_path / "line.png")
    picture = wh.Picture(id="p", name="p", artwork=wh.ImageFile("line.png"), width=2400, height=1200)
    scale = SIZE[0] / 2400 / (FOCAL / 10.0 / 100.0)
    sums = []
    for step in np.linspace(0.0, 1.0, 9):
        scene = stage(picture, light="linear")
        for name, value in (("scale.x", scale), ("scale.y", scale), ("position.x", step * 10.0 / FOCAL)):
            scene = wh.edits.set_value(scene, "p", name, value)
        sums.append(drawn(renderer, scene, tmp_path, fine=True, numbers="light")[45, :, 0].sum())
    assert max(sums) - min(sums) < 0.08 * (np.mean(sums) - 150 * to_light(0x1C / 255.0))


# Samples


def moving(speed: float, *, light: str = "linear") -> wh.Scene:
    """A card that goes ``speed`` pixels a frame, with a shutter that is always open."""
    scene = stage(card("#ffffff", 60, 60), light=light, lens_shutter=360.0)
    for frame in (-1.0, 1.0):
        scene = wh.edits.set_key(scene, "card", "position.x", frame, frame * speed * 10.0 / FOCAL, wh.Linear())
    return scene


@pytest.mark.parametrize("speed", [20.0, 40.0, 100.0])
def test_sixteen_samples_err_less_than_half_as_much_as_evenly_spaced_ones(renderer, speed):
    scene = wh.edits.set_value(moving(speed), "card", "rotation.z", 20.0)
    ours = drawn(renderer, scene, samples=16, fine=True, numbers="light")[..., :3]
    want, even = (
        np.mean([drawn(renderer, scene, frame=float(moment), fine=True, numbers="light")[..., :3]
                 for moment in shutter_times(-0.5, 0.5, count)], axis=0)
        for count in (600, 16)
    )  # fmt: skip
    ours_off, even_off = (float(np.sqrt(((each - want) ** 2).mean())) for each in (ours, even))
    assert ours_off < 0.5 * even_off


def test_sixteen_samples_of_the_lens_err_less_than_half_as_much_as_points_on_it(renderer):
    light = card("#ffffff", 20, 20, position_z=4.0)
    scene = stage(light, lens_focus=20.0, lens_aperture=1.0)
    scene = replace(scene, nodes=(replace(scene.nodes[0], depth_of_field=True), light))
    wide, ours, points = (
        drawn(renderer, scene, samples=count, fine=fine, numbers="light")[..., :3]
        for count, fine in ((1000, True), (16, True), (16, False))
    )
    ours_off, points_off = (float(np.sqrt(((each - wide) ** 2).mean())) for each in (ours, points))
    assert ours_off < 0.5 * points_off


def test_a_moving_card_leaves_a_streak_of_the_right_shape(renderer):
    """Along its way the light of a card of width w that goes s pixels rises and falls over min(w, s) pixels."""
    speed, width = 40.0, 0.6 * FOCAL / 10.0
    row = drawn(renderer, moving(speed), samples=16, fine=True, numbers="light",
                view=ThroughLens("cam", transparent=True))[45, :, 3]  # fmt: skip
    at = np.arange(SIZE[0]) + 0.5 - SIZE[0] / 2
    shape = np.clip((0.5 * (speed + width) - np.abs(at)) / speed, 0.0, width / speed)
    assert row == pytest.approx(shape, abs=0.02)


def test_a_soft_shutter_lets_in_a_raised_cosine():
    times = shutter_times(10.0, 11.0, 4000, "soft")
    for share in (0.1, 0.25, 0.5, 0.8):
        light = share - 0.5 + np.sin(2.0 * np.pi * (share - 0.5)) / (2.0 * np.pi) + 0.5
        assert np.mean(times < 10.0 + share) == pytest.approx(light, abs=1e-3)


def test_what_jumps_leaves_no_streak(renderer):
    scene = stage(card("#ffffff", 60, 60), lens_shutter=360.0)
    for frame, x in ((-1.0, -3.0), (0.0, 3.0)):
        scene = wh.edits.set_key(scene, "card", "position.x", frame, x, wh.Hold())
    row = drawn(renderer, scene, samples=16, fine=True, numbers="light",
                view=ThroughLens("cam", transparent=True))[45, :, 3]  # fmt: skip
    left, right = SIZE[0] / 2 - 3.0 * FOCAL / 10.0, SIZE[0] / 2 + 3.0 * FOCAL / 10.0
    assert row[int(left)] == pytest.approx(0.5, abs=0.01)
    assert row[int(right)] == pytest.approx(0.5, abs=0.01)
    assert row[int(left) + 8 : int(right) - 8].max() < 1e-3


# What lies in each pixel


def told(renderer, scene, **wish):
    renderer.set_scene(scene, None)
    return renderer.passes(FrameRequest(**{"frame": 0.0, "view": LENS, "width": SIZE[0], "height": SIZE[1]} | wish))


def test_the_depth_of_a_slanted_plane_is_the_formulas(renderer):
    facts = told(renderer, stage(card(width=3000, height=800, rotation_y=40.0)))
    across = (np.arange(SIZE[0]) + 0.5 - SIZE[0] / 2) / FOCAL
    # On the plane z = −x·tan 40°, seen from 10 along the ray (across, ·, −1)·depth.
    wanted = 10.0 / (1.0 - across * np.tan(np.radians(40.0)))
    assert facts.depth[45] == pytest.approx(wanted, rel=1e-4)


def test_motion_is_that_of_the_card_and_of_the_camera(renderer):
    facts = told(renderer, moving(13.0))
    inside = facts.nodes[..., 0] == 2.0
    assert facts.motion[inside] == pytest.approx(np.tile([13.0, 0.0], (inside.sum(), 1)), abs=1e-3)
    assert (facts.motion[~inside] == 0.0).all()
    assert (facts.depth[0, 0], facts.nodes[0, 0, 0]) == (np.float32(NOTHING), 0.0)
    still = stage(card(width=1200, height=800))
    for frame in (-1.0, 1.0):
        still = wh.edits.set_key(still, "cam", "position.y", frame, 0.2 * frame, wh.Linear())
    assert told(renderer, still).motion[45, 80] == pytest.approx([0.0, 0.2 * FOCAL / 10.0], abs=1e-3)
    model = wh.Model(id="m", name="M", shape=wh.Plane(30.0, 30.0), channels=(wh.Channel("rotation.x", 30.0),))
    turned = wh.edits.add_node(stage(), model)
    for frame in (-1.0, 1.0):
        turned = wh.edits.set_key(turned, "m", "position.x", frame, 0.5 * frame, wh.Linear())
    assert told(renderer, turned).motion[45, 80] == pytest.approx([0.5 * FOCAL / 10.0, 0.0], abs=0.02)


def test_nodes_cover_their_share_of_a_pixel(renderer):
    scene = stage(card("#ff0000", 1200, 800, "back", position_z=-1.0), card("#00ff00", 200, 100, "front"))
    facts = told(renderer, scene)
    edge = SIZE[0] / 2 + FOCAL / 10.0
    column = int(edge)
    assert facts.nodes[45, column - 2, 0] == 3.0
    assert facts.shares[45, column - 2, 0] == 1.0
    found = dict(zip(facts.nodes[45, column], facts.shares[45, column], strict=True))
    assert found[3.0] == pytest.approx(edge - column, abs=0.1)
    assert found[2.0] == pytest.approx(1.0 - (edge - column), abs=0.1)


def test_ranks_are_by_share():
    numbers = np.array([[3, 3, 0, 5, 3, 5, 9, 0]], np.float32)
    nodes, shares = ranked(numbers, 8)
    assert nodes[0].tolist() == [3, 5, 9, 0, 0, 0]
    assert (shares[0] * 8).tolist() == [3, 2, 1, 0, 0, 0]


# Vector art


def _slope(folder) -> wh.Picture:
    (folder / "slope.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="400" height="300" viewBox="-200 -150 400 300">'
        '<path d="M55 150 145 -150 -200 -150 -200 150z" fill="#fff"/></svg>'
    )
    return wh.Picture(id="p", name="p", artwork=wh.ImageFile("slope.svg"), width=400, height=300)


@pytest.mark.parametrize("near", [0.05, 0.02])
def test_vector_art_is_drawn_as_fine_as_it_is_seen(renderer, tmp_path, near):
    """Looking at a slanted edge from so near that all of it would not fit a texture."""
    scene = stage(_slope(tmp_path), position_z=near)
    camera = replace(scene.nodes[0], channels=(wh.Channel("position.x", 1.0), wh.Channel("position.z", near)))
    scene = replace(scene, nodes=(camera, scene.nodes[1]))
    for fine in (False, True):
        frame = drawn(renderer, scene, tmp_path, fine=fine, view=ThroughLens("cam", transparent=True), numbers="light")
        alpha = frame[..., 3]
        y, x = (np.indices(alpha.shape) + 0.5 - np.array([SIZE[1], SIZE[0]])[:, None, None] / 2) / FOCAL * near
        away = (x + 0.3 * y) / np.hypot(1.0, 0.3) * FOCAL / near
        assert (alpha[away < -2.0] > 0.99).all()
        assert (alpha[away > 2.0] < 0.01).all()
        edge = np.abs(away) < 0.5
        assert edge.sum() > 40
        assert np.abs(alpha[edge] - (0.5 - away[edge])).mean() < 0.4


def test_a_part_of_vector_art_lies_where_the_whole_does(renderer, tmp_path):
    """Seen so near that parts are drawn, it is what a larger drawing of all of it is."""
    picture = _slope(tmp_path)
    near = stage(picture, position_z=0.12)
    seen_from = (("position.x", 0.7), ("position.y", 0.7), ("position.z", 0.12), ("rotation.y", 20.0))
    camera = replace(near.nodes[0], channels=tuple(wh.Channel(name, value) for name, value in seen_from))
    scene = replace(near, nodes=(camera, near.nodes[1]))
    parts = drawn(renderer, scene, tmp_path).astype(float)
    other = Renderer()
    other.artwork.longest_side = 16_384
    whole = drawn(other, scene, tmp_path).astype(float)
    assert np.abs(parts - whole).mean() < 1.0


@pytest.mark.parametrize("away", [-60.0, -400.0, -9000.0])
def test_what_is_blurred_is_drawn_however_far_away(renderer, tmp_path, away):
    """Where its blur is far below a pixel of the frame, it is as it is without."""
    picture = squares(tmp_path)
    frames = []
    for blur in (1.0, 0.0):
        scene = wh.edits.set_value(stage(picture), "p", "blur", blur)
        there = wh.edits.set_value(scene, "p", "position.z", away)
        frames.append(drawn(renderer, there, tmp_path, fine=True).astype(float))
    assert np.abs(frames[0] - frames[1]).mean() < 0.5
