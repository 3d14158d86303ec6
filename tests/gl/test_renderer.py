"""Pictures drawn by the render process."""

import os
import signal

import numpy as np
import pytest
from msgspec.structs import replace
from PIL import Image

import wild_heron as wh
from tests.files.layered_files import glb, triangle
from wild_heron.gl.bsp import DrawOrder, Piece
from wild_heron.gl.request import FrameRequest, FreeView, ThroughLens
from wild_heron.gl.sampling import pixel_parts, shutter_times
from wild_heron.process.client import RenderClient
from wild_heron.process.messages import Drawn, Dropped, Failed, ProcessEnded, RenderError

SIZE = (160, 90)


@pytest.fixture(scope="module")
def client():
    with RenderClient(slots=3) as running:
        yield running


def picture(node_id: str, source: str = "card.png", **values: float) -> wh.Picture:
    channels = tuple(wh.Channel(name.replace("_", "."), value) for name, value in sorted(values.items()))
    return wh.Picture(id=node_id, name=node_id, artwork=wh.ImageFile(source), width=200, height=100, channels=channels)


def stage(*pictures: wh.Picture, **camera: float) -> wh.Scene:
    channels = tuple(wh.Channel(name.replace("_", ".", 1), value) for name, value in camera.items())
    eye = wh.Camera(id="cam", name="Cam", channels=channels or (wh.Channel("position.z", 10.0),))
    return wh.Scene(
        settings=wh.Settings(width=SIZE[0], height=SIZE[1], background="#000000", light="display"),
        nodes=(eye, *pictures),
        camera="cam",
    )


def drawn(client: RenderClient, scene: wh.Scene, base, samples: int = 1, view=None) -> np.ndarray:
    client.set_scene(scene, base)
    return client.draw(FrameRequest(0.0, view or ThroughLens("cam"), *SIZE, samples))


@pytest.mark.parametrize(("near", "far", "red", "blue"), [
    (1e-3, 1e6, True, True), (9.0, 1e6, False, True), (1e-3, 9.0, True, False), (7.9, 8.1, True, False),
    (8.1, 9.9, False, False),
])  # fmt: skip
@pytest.mark.parametrize("solid", [False, True])
def test_clip_planes_hide_what_lies_beyond_them(client, art, near, far, red, blue, solid):
    nodes = [
        wh.Picture(id=name, name=name, artwork=wh.Solid(colour), width=100, height=100, channels=(
            wh.Channel("position.x", x), wh.Channel("position.z", z),
        ))
        for name, colour, x, z in (("near", "#ff0000", -0.6, 2.0), ("far", "#0000ff", 0.6, 0.0))
    ]  # fmt: skip
    if solid:
        nodes = [
            wh.Model(id=node.id, name=node.name, shape=wh.Plane(1.0, 1.0), surface=node.artwork.colour,
                     takes_light=False, channels=node.channels)
            for node in nodes
        ]  # fmt: skip
    frame = drawn(client, stage(*nodes, position_z=10.0, lens_near=near, lens_far=far), art)
    assert ((frame[..., 0] > 200) & (frame[..., 2] < 50)).any() == red
    assert ((frame[..., 2] > 200) & (frame[..., 0] < 50)).any() == blue


def test_a_clip_plane_cuts_a_slanted_card_at_its_depth(client, art):
    floor = wh.Picture(
        id="f", name="f", artwork=wh.Solid("#ffffff"), width=200, height=2000,
        channels=(wh.Channel("position.y", -1.0), wh.Channel("rotation.x", -90.0)),
    )  # fmt: skip
    frame = drawn(client, stage(floor, position_z=10.0, lens_near=4.0, lens_far=12.5), art)
    rows = np.flatnonzero(frame[:, SIZE[0] // 2, 0] > 127)
    focal = 35.0 * SIZE[0] / 36
    assert rows.min() == pytest.approx(SIZE[1] / 2 + focal / 12.5, abs=1.0)
    assert rows.max() + 1 == pytest.approx(SIZE[1] / 2 + focal / 4.0, abs=1.0)


def test_a_picture_lands_where_the_maths_says(client, art):
    frame = drawn(client, stage(picture("p", position_x=0.5, position_y=0.25)), art)
    red = np.argwhere(frame[..., 0] > 115)
    # 2 × 1 units at distance 10, focal length 35 · 160 / 36 = 155.6 px.
    per_unit = 35.0 * 160 / 36 / 10
    (top, left), (bottom, right) = red.min(axis=0), red.max(axis=0) + 1
    assert left == pytest.approx(80 + (0.5 - 1) * per_unit, abs=1)
    assert right == pytest.approx(80 + (0.5 + 1) * per_unit, abs=1)
    assert top == pytest.approx(45 - (0.25 + 0.5) * per_unit, abs=1)
    assert bottom == pytest.approx(45 - (0.25 - 0.5) * per_unit, abs=1)
    assert frame[45, 80, :3].tolist() == [230, 30, 20]


@pytest.mark.parametrize("how", ["keys", "formula"])
def test_what_moves_has_moved_in_the_next_frame_of_the_same_scene(client, art, how):
    scene = stage(picture("p"))
    if how == "keys":
        scene = wh.edits.set_key(scene, "p", "position.x", 0.0, 0.0, wh.Linear())
        scene = wh.edits.set_key(scene, "p", "position.x", 10.0, 2.0)
    else:
        scene = wh.edits.set_formula(scene, "p", "position.x", "frame / 5")
    client.set_scene(scene, art)
    middles = [
        np.argwhere(client.draw(FrameRequest(at, ThroughLens("cam"), *SIZE))[..., 0] > 115)[:, 1].mean()
        for at in (0.0, 10.0)
    ]
    assert middles[1] - middles[0] == pytest.approx(2.0 * 35.0 * 160 / 36 / 10, abs=1)


def test_a_ground_is_drawn_where_it_is_and_moves_with_its_waves(client, art):
    wave = wh.Waves((wh.Wave(0.0, 8.0, 1.0, speed=4.0),))
    ground = wh.Ground(id="g", name="G", surface=wave, width=30.0, depth=2.0, tone="#ff0000", takes_light=False)
    scene = stage(picture("p", position_y=40.0), position_y=2.0, position_z=10.0)
    client.set_scene(wh.edits.add_node(scene, ground), art)
    per_unit = 35.0 * 160 / 36 / 10
    for at in (0.0, 12.0):
        frame = client.draw(FrameRequest(at, ThroughLens("cam"), *SIZE))
        for column in (40, 60, 80, 100, 120):
            x = (column + 0.5 - 80) / per_unit
            height = 0.5 * np.sin(2 * np.pi * (x - 4.0 * at / 24) / 8.0)
            row = 45 + (2.0 - height) * per_unit
            assert frame[round(row), column, 0] > 200
            assert frame[round(row - 0.9 * per_unit), column, 0] == 0


def test_the_alpha_says_where_artwork_covers(client, art):
    frame = drawn(client, stage(picture("p")), art)
    assert frame[45, 80, 3] == 255
    assert frame[2, 2].tolist() == [0, 0, 0, 0]


def test_transparency_is_over_what_is_farther(client, art):
    frame = drawn(client, stage(picture("glass", "glass.png", position_z=1.0), picture("card")), art)
    blue = 128 / 255
    expected = [20 * blue + 230 * (1 - blue), 60 * blue + 30 * (1 - blue), 240 * blue + 20 * (1 - blue)]
    assert frame[45, 80, :3] == pytest.approx(expected, abs=2)
    half = drawn(client, stage(picture("card", opacity=0.5)), art)
    assert half[45, 80, 0] == pytest.approx(115, abs=1)


def test_planes_that_cut_through_each_other_are_each_in_front_on_one_side(client, art):
    scene = stage(picture("red", rotation_y=40.0), picture("blue", "glass.png", rotation_y=-40.0))
    frame = drawn(client, scene, art).astype(int)
    left, right = frame[45, 72], frame[45, 88]
    # The red plane's left half is nearer: there it hides the blue one, on the right the blue one lies over it.
    assert left[2] < 40
    assert right[2] > 100
    assert right[0] > 80


def test_edges_are_smooth(client, art):
    frame = drawn(client, stage(picture("p", rotation_z=10.0)), art)
    shades = np.unique(frame[..., 0])
    assert ((shades > 20) & (shades < 210)).sum() > 10


def test_hidden_nodes_and_what_they_carry_are_not_drawn(client, art):
    scene = stage(picture("p"))
    scene = wh.edits.add_node(scene, wh.Null(id="n", name="N", hidden=True))
    assert drawn(client, wh.edits.change_node(scene, "p", carrier="n"), art).max() == 0


def test_a_frame_is_the_mean_of_its_samples(client, art):
    scene = stage(picture("p"))
    scene = wh.edits.set_key(scene, "p", "position.x", -1.0, -2.0, wh.Linear())
    scene = wh.edits.set_key(scene, "p", "position.x", 1.0, 2.0)
    blurred = drawn(client, scene, art, samples=4).astype(float)
    still = drawn(client, scene, art)[45].astype(float)
    # A shutter of 180° sweeps 1 unit; the light is spread, not lost.
    assert blurred[45, :, 0].sum() == pytest.approx(still[:, 0].sum(), rel=0.03)
    assert ((blurred[45, :, 0] > 40) & (blurred[45, :, 0] < 200)).sum() >= 8
    shut = wh.edits.set_value(scene, "cam", "lens.shutter", 0.0)
    assert drawn(client, shut, art, samples=4)[45, :, 0] == pytest.approx(still[:, 0], abs=60)


def test_samples_lie_evenly_in_the_shutter_and_in_the_pixel():
    assert shutter_times(9.75, 10.25, 4).tolist() == [9.8125, 9.9375, 10.0625, 10.1875]
    for samples in (1, 4, 5, 7, 16):
        parts = pixel_parts(samples)
        low, high = parts.middles - parts.sides / 2, parts.middles + parts.sides / 2
        assert (low.min(), high.max()) == pytest.approx((-0.5, 0.5))
        # They fill the pixel evenly, and none lies over another.
        assert parts.sides.prod(axis=1) == pytest.approx(1.0 / samples)
        for place, own in zip(parts.places, range(samples), strict=True):
            within = ((low <= place) & (place <= high)).all(axis=1)
            assert np.flatnonzero(within).tolist() == [own]
    # Each row and each column of them gets moments from all quarters of the time.
    for axis in (0, 1):
        for line in np.unique(pixel_parts(16).middles[:, axis]):
            moments = np.flatnonzero(pixel_parts(16).middles[:, axis] == line)
            assert (moments // 4).tolist() == [0, 1, 2, 3]


@pytest.mark.parametrize("depth", [6.0, 15.0, 40.0])
def test_what_is_out_of_focus_blurs_by_the_thin_lens_formula(client, art, depth):
    """c = (f²/N) · |d − s| / (d · (s − f)), with f and everything else in millimetres."""
    focal, f_stop, focus, mm = 50.0, 0.5, 10.0, 60.0
    scale = depth * 0.02  # a dot of the same few pixels at every depth
    dot = picture("dot", position_z=-depth, scale_x=scale / 2, scale_y=scale, scale_z=1.0)
    scene = stage(dot, lens_focal=focal, lens_f_stop=f_stop, lens_focus=focus, lens_shutter=0.0)
    scene = wh.edits.change_settings(scene, replace(scene.settings, mm_per_unit=mm))
    size = (640, 360)
    scene = wh.edits.change_settings(scene, replace(scene.settings, width=size[0], height=size[1]))
    spread = {}
    for blur in (False, True):
        client.set_scene(wh.edits.change_node(scene, "cam", depth_of_field=blur), art)
        frame = client.draw(FrameRequest(0.0, ThroughLens("cam"), *size, 128))[..., 0].astype(float)
        columns = np.arange(size[0]) + 0.5 - size[0] / 2
        weight = frame.sum(axis=0)
        assert (weight @ columns) / weight.sum() == pytest.approx(0.0, abs=0.5)  # the framing does not shift
        spread[blur] = (weight @ columns**2) / weight.sum()
    d, s = depth * mm, focus * mm
    circle = focal**2 / f_stop * abs(d - s) / (d * (s - focal)) * size[0] / 36.0
    # The variance of a disc of diameter c along one axis is c²/16.
    assert spread[True] - spread[False] == pytest.approx(circle**2 / 16, rel=0.05)


def test_in_focus_nothing_blurs(client, art):
    scene = stage(picture("p", position_z=-10.0), lens_focus=10.0, lens_f_stop=0.5, lens_shutter=0.0)
    sharp = drawn(client, scene, art, 16).astype(int)
    assert drawn(client, wh.edits.change_node(scene, "cam", depth_of_field=True), art, 16) == pytest.approx(
        sharp, abs=2
    )


def test_a_format_shows_the_middle_of_the_picture(client, art):
    scene = stage(picture("p"))
    tall = wh.Format("Tall", 50, 90)
    client.set_scene(replace(scene, formats=(tall,)), art)
    wide = client.draw(FrameRequest(0.0, ThroughLens("cam"), 160, 90))
    narrow = client.draw(FrameRequest(0.0, ThroughLens("cam", "Tall"), 50, 90))
    assert narrow.astype(int) == pytest.approx(wide[:, 55:105].astype(int), abs=3)


def test_missing_and_broken_artwork_gives_a_stand_in(client, art):
    (art / "broken.png").write_bytes(b"no picture")
    frame = drawn(client, stage(picture("p", "nowhere.png"), picture("q", "broken.png", position_x=2.0)), art)
    assert frame[45, 60:100].max() > 0


def test_vector_art_is_redrawn_sharp_when_it_is_near(client, tmp_path):
    half = '<rect width="10" height="10" fill="#f00"/>'
    svg = f'<svg xmlns="http://www.w3.org/2000/svg" width="20" height="10">{half}</svg>'
    (tmp_path / "v.svg").write_text(svg)
    node = wh.Picture(
        id="v", name="v", artwork=wh.ImageFile("v.svg"), width=20, height=10, channels=(wh.Channel("position.z", 9.7),)
    )
    frame = drawn(client, stage(node), tmp_path)
    row = frame[45, :, 0].astype(int)
    assert ((row > 20) & (row < 235)).sum() <= 3


def test_one_vector_picture_may_be_seen_near_and_far_at_once(client, tmp_path):
    green = '<rect width="20" height="10" fill="#0f0"/>'
    (tmp_path / "v.svg").write_text(f'<svg xmlns="http://www.w3.org/2000/svg" width="20" height="10">{green}</svg>')
    far = wh.Picture(
        id="far",
        name="far",
        artwork=wh.ImageFile("v.svg"),
        width=20,
        height=10,
        channels=(wh.Channel("position.x", -0.5),),
    )
    near = wh.Picture(
        id="near", name="near", artwork=wh.ImageFile("v.svg"), width=20, height=10,
        channels=(wh.Channel("position.x", 0.05), wh.Channel("position.z", 9.0)),
    )  # fmt: skip
    for _ in range(3):
        frame = drawn(client, stage(far, near), tmp_path)
        assert frame[45, 72, 1] > 100
        assert frame[45, 88, 1] == 255


def test_a_parallel_view_has_no_perspective(client, art):
    scene = stage(picture("near", position_z=5.0, position_x=-1.5), picture("far", position_z=-50.0, position_x=1.5))
    pose = np.eye(4)
    pose[2, 3] = 100.0
    view = FreeView(tuple(pose.ravel().tolist()), None, 20.0, "#000000")
    frame = drawn(client, scene, art, view=view)
    columns = frame[45, :, 0] > 115
    assert columns[:80].sum() == columns[80:].sum() == 40


def test_newer_requests_overtake_older_ones_but_not_kept_ones(client, art):
    client.set_scene(stage(picture("p")), art)
    kept = client.request("film", 0, FrameRequest(0.0, ThroughLens("cam"), *SIZE), keep=True)
    first = client.request("lens", 1, FrameRequest(0.0, ThroughLens("cam"), *SIZE, samples=64))
    second = client.request("lens", 2, FrameRequest(1.0, ThroughLens("cam"), *SIZE))
    done: dict[int, str] = {}
    while len(done) < 3:
        for reply in client.wait(30):
            if isinstance(reply, Drawn | Dropped):
                done[reply.id] = type(reply).__name__
    assert done == {kept: "Drawn", first: "Dropped", second: "Drawn"}


def test_a_view_through_nothing_is_an_error_that_says_so(client, art):
    client.set_scene(wh.Scene(), art)
    with pytest.raises(RenderError, match="no node “ghost”"):
        client.draw(FrameRequest(0.0, ThroughLens("ghost"), *SIZE))


def test_a_window_that_is_resized_on_and_on_keeps_its_picture(client, art):
    client.set_scene(stage(picture("p")), art)
    for width in range(60, 100, 3):
        for samples in (1, 2):
            frame = client.draw(FrameRequest(0.0, ThroughLens("cam"), width, 45, samples))
            assert frame[22, width // 2, :3].tolist() == [230, 30, 20]


def test_the_same_scene_and_frame_give_the_same_bits(client, art):
    scene = stage(picture("p", rotation_y=33.0), picture("q", "glass.png", rotation_x=20.0))
    assert (drawn(client, scene, art, 3) == drawn(client, scene, art, 3)).all()


def test_a_killed_process_is_noticed():
    with RenderClient() as doomed:
        doomed.set_scene(wh.Scene(), None)
        os.kill(doomed.pid, signal.SIGKILL)

        def listen() -> None:
            while True:
                doomed.wait(10)

        with pytest.raises(ProcessEnded):
            listen()


def quad(number: int, z: float, tilt: float = 0.0) -> Piece:
    corners = np.array([[-1, 1, 0], [1, 1, 0], [1, -1, 0], [-1, -1, 0]], float)
    turn = np.radians(tilt)
    spin = np.array([[np.cos(turn), 0, np.sin(turn)], [0, 1, 0], [-np.sin(turn), 0, np.cos(turn)]])
    return Piece(number, corners @ spin.T + [0, 0, z], np.array([[0, 0], [1, 0], [1, 1], [0, 1]], float))


def test_a_thousand_layers_are_ordered_from_both_sides():
    order = DrawOrder([quad(k, float(k)) for k in range(1000)])
    assert [piece.picture for piece in order.from_eye(np.array([0, 0, 5000.0]))] == list(range(1000))
    assert [piece.picture for piece in order.from_eye(np.array([0, 0, -5000.0]))] == list(range(999, -1, -1))


def test_cuts_lose_no_area_and_share_their_corners():
    order = DrawOrder([quad(0, 0.0, 30.0), quad(1, 0.0, -50.0), quad(2, 0.3, 80.0)])
    area = dict.fromkeys(range(3), 0.0)
    for piece in order.from_eye(np.array([3.0, 2.0, 9.0])):
        middle = piece.corners[0]
        for a, b in zip(piece.corners[1:], piece.corners[2:], strict=False):
            area[piece.picture] += np.linalg.norm(np.cross(a - middle, b - middle)) / 2
    assert list(area.values()) == pytest.approx([4.0, 4.0, 4.0])


def test_pictures_in_one_plane_keep_their_order_from_either_side():
    order = DrawOrder([quad(k, 0.0) for k in (2, 0, 1)])
    for z in (5.0, -5.0):
        assert [piece.picture for piece in order.from_eye(np.array([0, 0, z]))] == [0, 1, 2]


def test_two_versions_of_a_scene_are_seen_beside_each_other_and_share_artwork(client, art):
    now, before = stage(picture("p", position_x=1.0)), stage(picture("p", position_x=-1.0))
    client.set_scene(now, art)
    client.set_scene(before, art, version=1)

    def side(version: int) -> float:
        number = client.request("lens", 0, FrameRequest(0.0, ThroughLens("cam"), *SIZE, version=version), keep=True)
        while True:
            for reply in client.wait(30):
                if isinstance(reply, Drawn) and reply.id == number:
                    frame = client.frame(0, *SIZE)
                    return float(np.argwhere(frame[..., 0] > 115)[:, 1].mean()) - SIZE[0] / 2

    assert side(0) > 5
    assert side(1) < -5
    assert side(0) > 5
    # The other version goes; what this one shows stays.
    client.set_scene(wh.Scene(), None, version=1)
    assert side(0) > 5
    number = client.request("lens", 0, FrameRequest(0.0, ThroughLens("cam"), *SIZE, version=1), keep=True)
    failed = [reply for reply in client.wait(30) if isinstance(reply, Failed)]
    assert [reply.id for reply in failed] == [number]


@pytest.mark.parametrize("turn", [55.0, 70.0, 78.0])
def test_artwork_stays_sharp_at_a_slant(client, tmp_path, turn):
    """Level stripes on a card that is turned away look as on one that faces the lens."""
    rows = np.zeros((512, 512, 4), np.uint8)
    rows[..., 3] = 255
    rows[(np.arange(512) // 8) % 2 == 0, :, :3] = 255
    Image.fromarray(rows).save(tmp_path / "stripes.png")
    card = wh.Picture(id="a", name="A", artwork=wh.ImageFile("stripes.png"), width=512, height=512)
    scene = stage(replace(card, channels=(wh.Channel("rotation.y", turn),)), position_z=7.0)
    client.set_scene(scene, tmp_path)
    frame = client.draw(FrameRequest(0.0, ThroughLens("cam"), *SIZE, fine=True))[..., 0].astype(float)
    columns = frame[20:70, 78:82]
    assert columns.max() - columns.min() > 200.0


def test_a_frame_that_goes_out_does_not_depend_on_what_was_drawn_before_it(tmp_path):
    """Words, a drawing, a picture and a model of a file, ever larger: in order, back, and each by itself."""
    (tmp_path / "mark.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 40 20"><circle cx="20" cy="10" r="9" fill="#d33"/></svg>'
    )
    Image.effect_noise((200, 100), 90).convert("RGB").save(tmp_path / "card.png")
    (tmp_path / "model.glb").write_bytes(glb(*triangle()))
    words = wh.Picture(
        id="words", name="words", width=200, height=60, artwork=wh.Text("Lantern fair"),
        channels=(wh.Channel("position.y", 0.6),),
    )  # fmt: skip
    mark = replace(picture("mark", "mark.svg", position_y=-0.8, position_x=0.7), width=80, height=40)
    model = wh.Model(id="model", name="model", shape=wh.ModelFile("model.glb"))
    model = replace(model, channels=tuple(wh.Channel(f"scale.{axis}", 0.3) for axis in "xyz"))
    scene = stage(words, mark, picture("card", position_y=-0.9, position_x=-0.9))
    scene = wh.edits.add_node(scene, model)
    for frame, away in ((0.0, 12.0), (6.0, 1.5)):
        scene = wh.edits.set_key(scene, "cam", "position.z", frame, away, wh.Linear())

    def frames(order, samples):
        with RenderClient() as client:
            client.set_scene(scene, tmp_path)
            asked = (FrameRequest(float(k), ThroughLens("cam"), *SIZE, samples, fine=samples > 1) for k in order)
            return {k: client.draw(each).tobytes() for k, each in zip(order, asked, strict=True)}

    for samples in (1, 4):
        forward = frames(range(7), samples)
        assert len(set(forward.values())) == 7
        assert frames(range(6, -1, -1), samples) == forward
        for piece in ([3], [6, 2]):
            assert frames(piece, samples) == {k: forward[k] for k in piece}
