"""What the set adds to pictures: solids, light, shadows, haze, blur, projected photographs, moving pictures."""

import numpy as np
import pytest
from msgspec.structs import replace
from PIL import Image
from scipy.special import erf

import wild_heron as wh
from tests.files.layered_files import write_movie
from wild_heron.gl.request import FrameRequest, FreeView, ThroughLens
from wild_heron.process.client import RenderClient
from wild_heron.process.messages import Drawn, Loading

SIZE = (160, 90)


@pytest.fixture(scope="module")
def client():
    with RenderClient(slots=3) as running:
        yield running


def channels(**values: float) -> tuple[wh.Channel, ...]:
    return tuple(wh.Channel(name.replace("_", "."), value) for name, value in values.items())


def stage(*nodes, distance: wh.Distance | None = None, **camera: float) -> wh.Scene:
    eye = wh.Camera(id="cam", name="Cam", channels=channels(**(camera or {"position_z": 10.0})))
    settings = wh.Settings(width=SIZE[0], height=SIZE[1], background="#000000", light="display", distance=distance)
    return wh.Scene(settings=settings, nodes=(eye, *nodes), camera="cam")


def drawn(client, scene, base=None, frame: float = 0.0, samples: int = 1, view=None) -> np.ndarray:
    client.set_scene(scene, base)
    return client.draw(FrameRequest(frame, view or ThroughLens("cam"), *SIZE, samples)).astype(float)


def card(node_id: str, tone: str = "#c80000", size: int = 200, **values: float) -> wh.Picture:
    return wh.Picture(
        id=node_id, name=node_id, artwork=wh.Solid(tone), width=size, height=size, channels=channels(**values)
    )


def model(node_id: str, shape, tone: str = "#808080", lit: bool = False, **values: float) -> wh.Model:
    return wh.Model(
        id=node_id, name=node_id, shape=shape, surface=tone, gloss=0.0, takes_light=lit, channels=channels(**values)
    )


def display(linear: float) -> float:
    """IEC 61966-2-1."""
    return 255.0 * (12.92 * linear if linear <= 0.0031308 else 1.055 * linear ** (1 / 2.4) - 0.055)


# Solids among pictures


def test_a_solid_hides_and_is_hidden_by_depth(client):
    ball = model("ball", wh.Sphere(1.0), "#00c800")
    middle, beside = (45, 80), (45, 80 + 19)  # A unit is 15.6 pixels at this distance.
    through = drawn(client, stage(card("c", size=400), ball))
    assert through[middle][:3].tolist() == [0, 200, 0]
    assert through[beside][:3].tolist() == [200, 0, 0]
    before = drawn(client, stage(card("c", size=400, position_z=1.5), ball))
    assert before[middle][:3].tolist() == [200, 0, 0]
    behind = drawn(client, stage(card("c", size=400, position_z=-500.0, scale_x=60.0, scale_y=60.0), ball))
    assert behind[middle][:3].tolist() == [0, 200, 0]
    assert behind[beside][:3].tolist() == [200, 0, 0]
    # A picture that cuts through it shows on the near side only.
    cut = drawn(client, stage(card("c", size=400, rotation_y=80.0), ball))
    assert (cut[..., 0] > 150).any()
    assert (cut[..., 1] > 150).any()


def test_a_solid_is_where_the_maths_says_and_its_edge_is_smooth(client):
    frame = drawn(client, stage(model("box", wh.Box(2.0, 1.0, 0.001), "#ffffff", position_x=0.253)))
    per_unit = 35.0 * 160 / 36 / 10
    covered = frame[..., 3].sum() / 255.0
    assert covered == pytest.approx(2.0 * per_unit * per_unit, rel=0.01)
    row = frame[45, :, 3]
    assert np.flatnonzero(row > 127)[[0, -1]] == pytest.approx(
        [80 + (0.253 - 1) * per_unit, 80 + (0.253 + 1) * per_unit - 1], abs=0.6
    )
    assert ((row > 10) & (row < 245)).any()


def test_a_solid_seen_through_shows_its_nearest_surface_once(client):
    frame = drawn(
        client, stage(card("c", "#0000ff", 400, position_z=-4.0), model("b", wh.Sphere(1.0), "#ff0000", opacity=0.5))
    )
    assert frame[45, 80, :3] == pytest.approx([128, 0, 128], abs=2)
    both = drawn(
        client,
        stage(
            model("far", wh.Plane(4, 4), "#0000ff", position_z=-2.0, opacity=0.5),
            model("near", wh.Plane(2, 2), "#ff0000", position_z=2.0, opacity=0.5),
        ),
    )
    assert both[45, 80, :3] == pytest.approx([128, 0, 64], abs=2)


def test_a_logo_keeps_its_colours_and_its_holes(client, tmp_path):
    (tmp_path / "m.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="200" height="200">'
        '<path fill="#00c800" fill-rule="evenodd" d="M0 0H200V200H0zM60 60H140V140H60z"/>'
        '<rect x="0" y="0" width="30" height="30" fill="#c80000"/></svg>'
    )
    for depth in (0.0, 40.0):
        logo = wh.Logo(
            id="l", name="L", outlines=wh.ImageFile("m.svg"), width=200, height=200, depth=depth, takes_light=False
        )
        frame = drawn(client, stage(logo), tmp_path)
        assert frame[45, 80].tolist() == [0, 0, 0, 0]
        assert frame[45, 80 + 12, :3].tolist() == [0, 200, 0]
        assert frame[45 - 14, 80 - 14, :3].tolist() == [200, 0, 0]


# Light


@pytest.mark.parametrize(("angle", "strength"), [(0.0, 0.8), (60.0, 1.0), (120.0, 1.0)])
def test_light_from_afar_falls_off_with_the_cosine(client, angle, strength):
    light = wh.Light(id="l", name="L", channels=channels(rotation_y=angle, light_strength=strength))
    dim = wh.Light(id="a", name="A", light="ambient", channels=channels(light_strength=0.1))
    own = ((128 / 255 + 0.055) / 1.055) ** 2.4
    wanted = display(own * (0.1 + strength * max(0.0, np.cos(np.radians(angle)))))
    wall = model("w", wh.Plane(9, 9), lit=True)
    assert drawn(client, stage(wall, light, dim))[45, 80, :3] == pytest.approx(wanted, abs=1.5)
    lit_card = replace(card("c", "#808080", 900), takes_light=True)
    assert drawn(client, stage(lit_card, light, dim))[45, 80, :3] == pytest.approx(wanted, abs=1.5)
    assert drawn(client, stage(replace(lit_card, takes_light=False), light))[45, 80, 0] == 128


@pytest.mark.parametrize(("falloff", "share"), [("none", 1.0), ("even", 0.75), ("square", 0.75)])
def test_light_from_a_point_fades_up_to_its_reach(client, falloff, share):
    reach = 8.0 if falloff != "square" else 4.0 / float(np.sqrt(1.0 - np.sqrt(0.75)))
    away = 2.0 if falloff == "even" else 4.0
    lamp = wh.Light(
        id="l", name="L", light="point", falloff=falloff, channels=channels(position_z=away, light_reach=reach)
    )
    wall = model("w", wh.Plane(9, 9), "#ffffff", lit=True)
    frame = drawn(client, stage(wall, lamp))
    # White that is lit in full is white; the middle pixel's corner is a hair off the axis.
    assert frame[45, 80, 0] == pytest.approx(display(share), abs=1.5)


def test_the_key_light_throws_soft_shadows(client):
    sun = wh.Light(id="s", name="S", shadow=True, softness=0.4, channels=channels(rotation_x=-45.0))
    floor = model("f", wh.Plane(20, 20), "#ffffff", lit=True)
    bar = model("b", wh.Box(6, 0.5, 0.5), "#ffffff", lit=True, position_y=1.0, position_z=1.0)
    frame = drawn(client, stage(floor, bar, sun, position_z=14.0))[..., 0]
    bright = display(np.cos(np.radians(45.0)))
    # The bar's shadow falls where 45° takes it: on the wall at y = 0.
    column = frame[:, 80]
    per_unit = 35.0 * 160 / 36 / 14
    assert column[45] < 0.2 * bright
    assert column[int(45 - 2.5 * per_unit)] == pytest.approx(bright, abs=2)
    assert column[int(45 + 1.5 * per_unit)] == pytest.approx(bright, abs=2)
    edge = column[45 : int(45 + 1.2 * per_unit)]
    assert ((edge > 0.2 * bright) & (edge < 0.9 * bright)).sum() >= 1
    off = drawn(client, stage(floor, bar, replace(sun, shadow=False), position_z=14.0))[..., 0]
    assert off[45, 80] == pytest.approx(bright, abs=2)


def test_a_lit_picture_throws_the_shadow_of_what_is_painted_on_it(client, tmp_path):
    pixels = np.zeros((100, 100, 4), np.uint8)
    pixels[:, :50] = (255, 255, 255, 255)
    Image.fromarray(pixels).save(tmp_path / "half.png")
    sun = wh.Light(id="s", name="S", shadow=True, softness=0.0, channels=channels(rotation_y=-45.0))
    wall = replace(card("w", "#ffffff", 900), takes_light=True)
    half = wh.Picture(
        id="h", name="H", artwork=wh.ImageFile("half.png"), width=100, height=100, takes_light=True,
        channels=channels(position_x=-2.0, position_z=2.0),
    )  # fmt: skip
    frame = drawn(client, stage(wall, half, sun), tmp_path)[..., 0]
    per_unit = 35.0 * 160 / 36 / 10
    # Its left half, 2.5 to 2 left and 2 before the wall, lands 0.5 left up to the middle.
    assert frame[45, int(80 - 0.25 * per_unit)] < 30
    assert frame[45, int(80 + 0.25 * per_unit)] > 150


# Distance


def test_haze_mixes_by_distance_and_leaves_out_what_takes_none(client):
    haze = wh.Distance("#0000ff", 5.0, 15.0, 0.8, 0.0)
    frame = drawn(client, stage(card("c", "#ff0000", 900), distance=haze))
    assert frame[45, 80, :3] == pytest.approx([255 * 0.6, 0, 255 * 0.4], abs=1.5)
    assert frame[45, 80, 3] == 255
    clear = drawn(client, stage(replace(card("c", "#ff0000", 900), takes_haze=False), distance=haze))
    assert clear[45, 80, :3].tolist() == [255, 0, 0]
    solid = drawn(client, stage(model("m", wh.Plane(9, 9), "#ff0000"), distance=haze))
    assert solid[45, 80, :3] == pytest.approx([255 * 0.6, 0, 255 * 0.4], abs=1.5)
    # From outside, the set is seen clear.
    pose = np.eye(4)
    pose[2, 3] = 10.0
    outside = FreeView(tuple(pose.ravel().tolist()), 100.0)
    assert drawn(client, stage(card("c", "#ff0000", 900), distance=haze), view=outside)[45, 80, 2] == 0


@pytest.mark.parametrize("radius", [4.0, 20.0, 60.0])
def test_blur_is_a_gaussian_that_loses_no_light(client, radius):
    scene = stage(card("c", "#ffffff", 100, blur=radius), lens_focal=90.0, position_z=10.0)
    frame = drawn(client, scene)[..., 0]
    per_pixel = 90.0 * 160 / 36 / 10 / 100
    sigma = 0.5 * radius * per_pixel
    x = np.arange(160) + 0.5 - 80
    side = 50 * per_pixel
    profile = 0.5 * (erf((x + side) / (sigma * np.sqrt(2))) - erf((x - side) / (sigma * np.sqrt(2))))
    y = 0.5 * (erf((0.5 + side) / (sigma * np.sqrt(2))) - erf((0.5 - side) / (sigma * np.sqrt(2))))
    assert frame[45] / 255.0 == pytest.approx(profile * y, abs=0.04)


def test_distance_blurs_what_is_far(client):
    look = wh.Distance("#000000", 5.0, 15.0, 0.0, 40.0)
    edge = drawn(client, stage(card("c", "#ffffff", 200), distance=look))[45, :, 0]
    assert ((edge > 20) & (edge < 235)).sum() > 6


# Moving pictures and text


def test_a_movie_and_numbered_frames_show_their_time(client, tmp_path):
    tones = [(20 * k, 255 - 20 * k, 0) for k in range(10)]
    write_movie(tmp_path / "m.mp4", tones)
    for k, tone in enumerate(tones):
        Image.new("RGB", (64, 48), tone).save(tmp_path / f"f_{k + 3:03}.png")
    movie = wh.Picture(id="m", name="M", artwork=wh.Movie("m.mp4", 10, 12.0), width=640, height=480)
    for frame, shown in ((0.0, 0), (7.0, 3), (19.0, 9), (90.0, 9), (6.0, 3)):
        assert drawn(client, stage(movie), tmp_path, frame)[45, 80, :3] == pytest.approx(tones[shown], abs=6)
    gone = replace(movie, artwork=wh.Movie("m.mp4", 10, 12.0, wh.Timing(ends="nothing")))
    assert drawn(client, stage(gone), tmp_path, 40.0)[45, 80, 3] == 0
    run = replace(movie, artwork=wh.Sequence("f_###.png", 3, 10, 24.0, wh.Timing(start=2.0, ends="swing")))
    for frame, shown in ((2.0, 0), (8.0, 6), (12.0, 8), (20.0, 0)):
        assert drawn(client, stage(run), tmp_path, frame)[45, 80, :3] == pytest.approx(tones[shown], abs=1)


def test_text_stays_sharp_when_it_is_seen_large(client):
    text = wh.Picture(
        id="t", name="T", artwork=wh.Text("I", size=20.0, weight=600, colour="#ffffff"), width=13, height=30
    )
    frame = drawn(client, stage(text, position_z=0.55))
    row = frame[45, :, 3]
    assert (row == 255).any()
    # From nothing to full within three pixels: drawn anew, not enlarged.
    assert ((row > 5) & (row < 250)).sum() <= 4


# Projected photographs


def photo_scene(*extra, receivers=("wall",), distance: float = 10.0, **photo) -> wh.Scene:
    projector = wh.Projection(
        id="photo", name="Photo", source="photo.png", width=160, height=90, receivers=receivers,
        channels=channels(position_z=10.0, **photo),
    )  # fmt: skip
    wall = model("wall", wh.Plane(40, 40), "#808080")
    return stage(wall, projector, *extra, position_z=distance)


@pytest.fixture
def photograph(tmp_path):
    """Blocks of colour, 10 pixels wide, so that every pixel of a block is its colour."""
    chance = np.random.default_rng(3)
    blocks = chance.integers(0, 255, (9, 16, 3), np.uint8)
    Image.fromarray(np.repeat(np.repeat(blocks, 10, axis=0), 10, axis=1)).save(tmp_path / "photo.png")
    return np.repeat(np.repeat(blocks, 10, axis=0), 10, axis=1).astype(float), tmp_path


@pytest.mark.parametrize("turn", [0.0, 35.0])
def test_from_where_it_is_thrown_a_photograph_is_itself_on_any_surface(client, photograph, turn):
    photo, folder = photograph
    scene = photo_scene(
        model("box", wh.Box(1.5, 1.5, 1.5), "#202020", position_z=3.0, rotation_y=25.0), receivers=("wall", "box")
    )
    if turn:
        scene = wh.edits.set_value(scene, "wall", "rotation.y", turn)
    frame = drawn(client, scene, folder)[..., :3]
    inner = np.ones((90, 160), bool)
    inner[::10], inner[9::10] = False, False
    inner[:, ::10], inner[:, 9::10] = False, False
    off = np.abs(frame - photo).max(axis=-1)[inner]
    # All but the silhouette of the box, where the surface behind is just missed.
    assert np.quantile(off, 0.97) <= 3.0
    assert (off > 3.0).mean() < 0.03


def test_what_stands_in_the_way_leaves_the_wall_its_own_colour(client, photograph):
    _, folder = photograph
    block = model("block", wh.Box(1.0, 1.0, 0.2), "#ff00ff", position_z=5.0)
    scene = photo_scene(block)
    # Seen from the side, past the block: its shadow on the wall is 2 × 2 units, in the wall's own grey.
    scene = wh.edits.set_value(wh.edits.set_value(scene, "cam", "position.x", 6.0), "cam", "rotation.y", 31.0)
    frame = drawn(client, scene, folder)
    here = wh.evaluate(scene, 0.0).camera("cam", size=SIZE)

    def seen(x: float, y: float) -> list[float]:
        (u, v), _ = (part[0] for part in here.pixels(np.array([[x, y, 0.0]])))
        return frame[int(v), int(u), :3].tolist()

    for x, y in ((0.0, 0.0), (0.8, 0.8), (-0.8, 0.7), (0.8, -0.8)):
        assert seen(x, y) == [128, 128, 128], (x, y)
    for x, y in ((1.3, 0.0), (-1.3, 0.5), (0.0, 1.3)):
        assert seen(x, y) != [128, 128, 128], (x, y)
    # The block itself is no receiver.
    assert [255, 0, 255] in frame[..., :3].reshape(-1, 3).tolist()


def test_beyond_its_edges_and_from_behind_nothing_is_received(client, photograph):
    _, folder = photograph
    wide = drawn(client, photo_scene(lens_focal=70.0), folder)
    assert wide[5, 5, :3].tolist() == [128, 128, 128]
    assert wide[45, 85, :3].tolist() != [128, 128, 128]
    away = drawn(client, photo_scene(rotation_y=180.0), folder)
    assert (away[..., :3] == 128).all()


@pytest.mark.parametrize(("distance", "stretch"), [(10.0, 1.0), (5.0, 2.0), (20.0, 0.5)])
def test_the_stretch_map_measures_what_closed_form_says(client, photograph, distance, stretch):
    _, folder = photograph
    frame = drawn(client, photo_scene(distance=distance), folder, view=ThroughLens("cam", stretch=True))
    assert frame[45, 80, 1] == 255
    steps = frame[45, 80, 0] + frame[45, 80, 2] / 255.0
    assert 2.0 ** ((steps / 255.0 - 0.5) * 8) == pytest.approx(stretch, rel=2e-3)
    # Beside the photograph there is a receiver, but nothing on it.
    if distance == 20.0:
        assert frame[10, 10, 1] == 0
        assert frame[10, 10, 3] == 255


# Reading while drawing


@pytest.mark.parametrize("light", ["linear", "display"])
def test_frames_that_may_be_dropped_do_not_wait_for_files_and_complete_later(client, tmp_path, light):
    for k in range(6):
        noise = np.random.default_rng(k).integers(0, 255, (900, 1200, 3), np.uint8)
        Image.fromarray(noise).save(tmp_path / f"n{k}.png")
    cards = [
        wh.Picture(id=f"n{k}", name=f"N{k}", artwork=wh.ImageFile(f"n{k}.png"), width=1200, height=900,
                   channels=channels(position_z=-float(k), position_x=3.0 * k - 8))
        for k in range(6)
    ]  # fmt: skip
    scene = stage(*cards)
    client.set_scene(replace(scene, settings=replace(scene.settings, light=light)), tmp_path)
    complete: list[bool] = []
    client.request("live", 1, FrameRequest(0.0, ThroughLens("cam"), *SIZE))
    for _ in range(400):
        for reply in client.wait():
            if isinstance(reply, Drawn):
                complete.append(reply.complete)
                done = reply.complete
            if isinstance(reply, Loading) and not complete[-1]:
                client.request("live", 1, FrameRequest(0.0, ThroughLens("cam"), *SIZE))
        if complete and complete[-1]:
            break
    assert not complete[0]
    assert done
    live = client.frame(1, *SIZE).astype(float)
    kept = client.draw(FrameRequest(0.0, ThroughLens("cam"), *SIZE), slot=2).astype(float)
    # The draft that is seen small and the full picture look alike.
    assert np.abs(live - kept).mean() < 4.0


def test_a_file_that_changed_is_read_again_and_the_rest_is_kept(client, art):
    scene = stage(wh.Picture(id="p", name="P", artwork=wh.ImageFile("card.png"), width=200, height=100))
    assert drawn(client, scene, art)[45, 80, :3].tolist() == [230, 30, 20]
    Image.new("RGB", (200, 100), (0, 200, 0)).save(art / "other.png")
    (art / "other.png").replace(art / "card.png")
    client.reload_artwork()
    assert drawn(client, scene, art)[45, 80, :3].tolist() == [0, 200, 0]
    (art / "card.png").unlink()
    client.reload_artwork()
    missing = drawn(client, scene, art)
    assert missing[45, 80, :3].tolist() != [0, 200, 0]
    assert missing[45, 80, 3] > 0
