"""The move in other programs' formats: read back by readers that we did not write, and by our own."""

import csv
import io
import json
import struct
import subprocess
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace
from PIL import Image
from pxr import Ar, Gf, Usd, UsdGeom, UsdLux, UsdShade, UsdValidation
from scipy.spatial.transform import Rotation

import wild_heron as wh
from wild_heron.demo import DEMO_SCENE
from wild_heron.evaluate.film_output import output
from wild_heron.files.errors import FileError
from wild_heron.files.export_formats.camera_takes import with_cameras
from wild_heron.files.export_formats.fewest import Tolerances, fewest
from wild_heron.files.export_formats.gltf import _rising
from wild_heron.files.export_formats.writing import MoveJob, write_move
from wild_heron.files.project import load
from wild_heron.files.reader import Reader
from wild_heron.space.ground import height_map

READERS = Path(__import__("sys").prefix) / "other-readers"
FRAMES = tuple(float(frame) for frame in range(0, 49))
POINTS = np.random.default_rng(4).uniform(-3.0, 3.0, (200, 3)) * [1.0, 1.0, 0.6]


@pytest.fixture
def scene() -> wh.Scene:
    """A camera that goes round and changes its lens, on a null; cards, a logo and a model."""
    null = wh.Null(id="arm", name="Arm", channels=(wh.Channel("position.y", 0.5),))
    camera = wh.Camera(id="cam", name="Cam", carrier="arm", channels=(wh.Channel("position.z", 9.0),))
    card = wh.Picture(id="card", name="Card", artwork=wh.Solid("#f2c25b"), width=200, height=100)
    model = wh.Model(id="box", name="Box", shape=wh.Box(), channels=(wh.Channel("position.x", 2.0),))
    logo = wh.Logo(id="logo", name="Logo", outlines=wh.Text("Fair"), width=200, height=80, depth=20.0)
    made = wh.Scene(
        settings=wh.Settings(width=640, height=360, last=48), nodes=(null, camera, card, model, logo), camera="cam"
    )
    for frame, turn, focal, x in ((0.0, 0.0, 35.0, -1.0), (24.0, 50.0, 50.0, 1.0), (48.0, 90.0, 24.0, 0.0)):
        made = wh.edits.set_key(made, "arm", "rotation.y", frame, turn)
        made = wh.edits.set_key(made, "cam", "lens.focal", frame, focal)
        made = wh.edits.set_key(made, "card", "position.x", frame, x)
        made = wh.edits.set_key(made, "card", "opacity", frame, 1.0 - frame / 96.0)
    return made


def carried(scene: wh.Scene, node: str, carrier: str) -> wh.Scene:
    nodes = tuple(replace(each, carrier=carrier) if each.id == node else each for each in scene.nodes)
    return replace(scene, nodes=nodes)


def written(scene: wh.Scene, path: Path, **wish) -> Path:
    write_move(scene, None, MoveJob(**({"path": path, "frames": FRAMES} | wish)))
    return path


def expected(scene: wh.Scene, frames) -> np.ndarray:
    view = output(scene, frames)
    return np.stack([_pixels(view, k) for k in range(len(view))])


def _pixels(view, k: int) -> np.ndarray:
    local = (POINTS - view.pose[k, :3, 3]) @ view.pose[k, :3, :3]
    at = local[:, :2] / -local[:, 2:] * view.focal_px[k] * [1.0, -1.0]
    return np.add(at, [view.width / 2, view.height / 2])


def read_gltf(path: Path, frames, size=(640, 360)) -> dict:
    asked = {"seconds": [frame / 24.0 for frame in frames], "points": (0.1 * POINTS).tolist(), "size": size}
    done = subprocess.run(
        ["node", READERS / "read_gltf.mjs", path, "Cam"],
        input=json.dumps(asked),
        capture_output=True,
        text=True,
        timeout=120,
    )
    assert done.returncode == 0, done.stderr
    return json.loads(done.stdout)


@pytest.mark.parametrize("few", [None, Tolerances()])
def test_three_js_sees_what_we_see_in_a_valid_gltf(scene, tmp_path, few):
    path = written(scene, tmp_path / "move.glb", few=few)
    moments = (0.0, 7.0, 24.0, 33.0, 48.0)
    found = read_gltf(path, moments)
    assert (found["errors"], found["warnings"], found["messages"]) == (0, 0, [])
    within = 0.01 if few is None else 0.35
    assert np.array(found["pixels"]) == pytest.approx(expected(scene, moments), abs=within)
    assert {"Card", "Box", "Logo"} <= set(found["meshes"])


def test_usd_sees_what_we_see_and_its_checker_is_content(scene, tmp_path):
    path = written(scene, tmp_path / "move.usda")
    stage = Usd.Stage.Open(str(path))
    every = UsdValidation.ValidationRegistry().GetOrLoadAllValidators()
    assert len(every) > 10
    assert [each.GetMessage() for each in UsdValidation.ValidationContext(every).Validate(stage)] == []
    camera = UsdGeom.Camera(stage.GetPrimAtPath("/Scene/Arm/Cam"))
    for frame, want in zip((0.0, 7.0, 24.0, 48.0), expected(scene, (0.0, 7.0, 24.0, 48.0)), strict=True):
        frustum = camera.GetCamera(frame).frustum
        matrix = frustum.ComputeViewMatrix() * frustum.ComputeProjectionMatrix()
        for point, pixel in zip(POINTS, want, strict=True):
            at = matrix.Transform(Gf.Vec3d(*point))
            assert ((at[0] * 0.5 + 0.5) * 640, (0.5 - at[1] * 0.5) * 360) == pytest.approx(tuple(pixel), abs=0.01)
    lens = camera.GetCamera(24.0)
    assert (lens.focalLength, camera.GetShutterCloseAttr().Get(24.0)) == pytest.approx((50.0, 0.25))
    assert (tmp_path / "move_artwork").is_dir()
    assert stage.GetPrimAtPath("/Scene/Card/Mesh_0").IsA(UsdGeom.Mesh)


def test_usd_has_the_window_of_a_format(scene, tmp_path):
    shape = wh.Format("Tall", 200, 360)
    scene = replace(scene, formats=(shape,))
    path = written(scene, tmp_path / "tall.usda", shape=shape)
    view = output(scene, [24.0], shape)
    stage = Usd.Stage.Open(str(path))
    frustum = UsdGeom.Camera(stage.GetPrimAtPath("/Scene/Arm/Cam")).GetCamera(24.0).frustum
    matrix = frustum.ComputeViewMatrix() * frustum.ComputeProjectionMatrix()
    at = matrix.Transform(Gf.Vec3d(*POINTS[0]))
    assert ((at[0] * 0.5 + 0.5) * 200, (0.5 - at[1] * 0.5) * 360) == pytest.approx(tuple(_pixels(view, 0)[0]), abs=0.01)


def test_the_film_with_its_cuts_goes_out_as_one_camera(tmp_path):
    scene = load(DEMO_SCENE)
    frames = tuple(float(frame) for frame in range(0, 480, 1))
    path = tmp_path / "film.usda"
    write_move(scene, DEMO_SCENE.parent, MoveJob(path, frames, nodes=[]))
    stage = Usd.Stage.Open(str(path))
    camera = UsdGeom.Camera(stage.GetPrimAtPath("/Scene/Film"))
    view = output(scene, frames)
    for frame in (0, 119, 120, 300, 479):
        frustum = camera.GetCamera(float(frame)).frustum
        assert np.array(frustum.GetPosition()) == pytest.approx(view.position[frame], abs=1e-6)
    # Nothing goes from one shot to the next.
    cut = view.segments.starts[0]
    before = np.array(camera.GetCamera(cut - 0.01).frustum.GetPosition())
    assert before == pytest.approx(output(scene, [cut - 0.01]).position[0], abs=0.02)


def test_few_keys_keep_within_the_tolerances(scene, tmp_path):
    frames = np.linspace(0.0, 48.0, 481)
    values = np.stack([np.sin(frames / 9.0), np.where(frames < 20, 0.0, 3.0)], axis=1)
    kept = fewest(frames, values, None, None, Tolerances(units=0.01))
    between = np.stack([np.interp(frames, frames[kept], values[kept, k]) for k in (0, 1)], axis=1)
    assert np.abs(between - values).max() <= 0.01 + 1e-12
    assert len(kept) < 80
    sizes = [
        written(scene, tmp_path / f"{k}.csv", few=few).stat().st_size
        for k, few in enumerate((None, Tolerances(0.03, 0.3, 0.003, 4.0)))
    ]
    assert sizes[1] < 0.7 * sizes[0]


def test_what_a_format_cannot_hold_is_baked_and_said(scene, tmp_path):
    formula = wh.edits.set_formula(scene, "box", "position.x", "frame / 10")
    lamp = wh.Light(id="lamp", name="Lamp", light="ambient")
    notes = write_move(wh.edits.add_node(formula, lamp), None, MoveJob(tmp_path / "m.glb", FRAMES))
    said = " ".join(notes)
    for words in ("Formulas and links are baked", "no focus, aperture and shutter", "no ambient light: Lamp",
                  "keeps the first focal length", "shows Card at its most opaque"):  # fmt: skip
        assert words in said
    path = wh.Path(id="way", name="Way")
    left = write_move(wh.edits.add_node(scene, path), None, MoveJob(tmp_path / "m.csv", FRAMES, nodes=["way"]))
    assert "Way" in left[-1]
    shifted = wh.Format("Side", 200, 360, window="w")
    window = wh.FormatWindow(id="w", name="W", channels=(wh.Channel("window.across", 0.2),))
    moved = replace(wh.edits.add_node(scene, window), formats=(shifted,))
    with pytest.raises(wh.SceneError, match="no shifted lens"):
        write_move(moved, None, MoveJob(tmp_path / "m.glb", FRAMES, shape=shifted))
    assert not list(tmp_path.glob(".*"))


def test_all_that_looks_otherwise_elsewhere_is_said(scene, tmp_path):
    waves = wh.Waves(waves=(wh.Wave(speed=1.0),))
    sea = wh.Ground(id="sea", name="Sea", surface=waves)
    blurred = replace(scene.node("card"), id="soft", name="Soft", channels=(wh.Channel("blur", 3.0),))
    point = wh.Light(id="bulb", name="Bulb", light="point", shadow=True)
    projection = wh.Projection(id="photo", name="Photo", source="a.png", width=100, height=100)
    settings = replace(scene.settings, background="#102030", distance=wh.scene.Distance(blur=2.0))
    made = replace(scene, settings=settings)
    for node in (sea, blurred, point):
        made = wh.edits.add_node(made, node)
    made = wh.edits.set_key(made, "sea", "relief", 0.0, 0.25)
    made = wh.edits.set_key(made, "sea", "relief", 9.0, 1.0)
    said = " ".join(write_move(made, None, MoveJob(tmp_path / "m.usda", FRAMES)))
    for words in (
        "Waves stand still: Sea",
        "Relief stays as on the first frame: Sea",
        "Blur is left out: Soft",
        "half their reach: Bulb",
        "Shadows are",
        "Left out: haze, blur by distance, the background's colour",
    ):
        assert words in said, words  # fmt: skip
    every = [node.id for node in made.nodes if not isinstance(node, wh.Camera)]
    more = write_move(wh.edits.add_node(made, projection), None,
                      MoveJob(tmp_path / "m.usda", FRAMES, nodes=[*every, "photo"]))  # fmt: skip
    assert "Photo" in more[-1]


@pytest.mark.parametrize("suffix", [".glb", ".usda", ".csv"])
def test_a_camera_comes_back_as_it_went(scene, tmp_path, suffix):
    path = written(scene, tmp_path / f"move{suffix}", nodes=[])
    with Reader() as reader:
        found = reader.cameras(path, 24.0)
    back, (node_id,), _ = with_cameras(scene, found, 0.0)
    moments = np.linspace(0.0, 48.0, 25)
    ours, theirs = (wh.evaluate(back, moments, [each]).camera(each) for each in ("cam", node_id))
    assert theirs.position == pytest.approx(ours.position, abs=2e-3)
    assert theirs.focal_px == pytest.approx(ours.focal_px, rel=2e-4)
    assert theirs.axis == pytest.approx(ours.axis, abs=1e-3)
    assert back.node(node_id).name == "Cam 2"
    assert len(back.node(node_id).channels[0].keys) < 30


def test_the_scenes_own_json_is_the_scene(scene, tmp_path):
    assert load(written(scene, tmp_path / "scene.json")) == scene


def test_what_fails_leaves_what_was_there(scene, tmp_path, monkeypatch):
    path = tmp_path / "move.usda"
    path.write_text("the old one")
    monkeypatch.setattr("wild_heron.files.export_formats.usd_files.write_atomically", _full)
    with pytest.raises(FileError, match="No space"):
        written(scene, path)
    assert path.read_text() == "the old one"
    assert not list(tmp_path.glob(".*"))
    with pytest.raises(FileError, match="no kind"):
        written(scene, tmp_path / "move.abc")


def _full(path, data, mode=None):
    raise FileError(path, "could not be written: No space left on device.", "Choose another place.")


@pytest.mark.parametrize(("short", "long"), [(35.0, 50.0), (24.0, 85.0), (18.0, 135.0)])
def test_few_keys_of_a_changing_lens_keep_to_the_picture_between_frames(scene, tmp_path, short, long):
    for frame, focal in ((4.0, short), (44.0, long)):
        scene = wh.edits.set_key(scene, "cam", "lens.focal", frame, focal, wh.Family("cubic", "in-out"))
    path = written(scene, tmp_path / "zoom.glb", few=Tolerances())
    moments = np.random.default_rng(5).uniform(0.0, 48.0, 40)
    found = read_gltf(path, moments)
    assert np.abs(np.array(found["pixels"]) - expected(scene, moments)).max() < 0.5


def test_few_keys_of_what_holds_jumps_and_is_carried_keep_to_it_between_frames(scene, tmp_path):
    """Cards, too: an arm that turns evenly and holds, a card on it that hops, under uneven scale."""
    scene = carried(scene, "card", "arm")
    for frame, value, span in ((0.0, 0.0, wh.Linear()), (9.5, 140.0, wh.Hold()), (30.0, -200.0, wh.Linear())):
        scene = wh.edits.set_key(scene, "arm", "rotation.y", frame, value, span)
    scene = wh.edits.set_key(scene, "card", "position.x", 12.0, 2.0, wh.Hold())
    moments = np.sort(np.random.default_rng(7).uniform(0.0, 48.0, 60))
    moments = moments[np.abs(moments - 30.0) > 0.01]
    found = read_gltf(written(scene, tmp_path / "m.glb", few=Tolerances()), moments)
    there = wh.evaluate(scene, moments, ["card", "box", "logo"])
    for name, node in (("Card", "card"), ("Box", "box"), ("Logo", "logo")):
        seen = np.array(found["places"][name]).reshape(-1, 4, 4).transpose(0, 2, 1)
        want = there.content(node)
        assert seen[:, :3, :3] == pytest.approx(want[:, :3, :3], abs=2e-3)
        assert seen[:, :3, 3] * 10.0 == pytest.approx(want[:, :3, 3], abs=6e-3)
    near = np.abs(np.array(found["pixels"]) - expected(scene, moments))
    assert near[(np.abs(expected(scene, moments)) < 2000.0).all(axis=2)].max() < 0.5


def test_what_is_carried_stays_on_what_carries_it(scene, tmp_path):
    scene = carried(scene, "card", "arm")
    path = written(scene, tmp_path / "m.glb")
    length, _ = struct.unpack("<I4s", path.read_bytes()[12:20])
    told = json.loads(path.read_bytes()[20 : 20 + length])
    nodes = told["nodes"]
    arm = next(node for node in nodes if node["name"] == "Arm")
    assert {nodes[k]["name"] for k in arm["children"]} == {"Cam", "Card"}
    # What stands still on it has no keys of its own.
    keyed = {nodes[each["target"]["node"]]["name"] for each in told["animations"][0]["channels"] if "node" in
             each["target"]}  # fmt: skip
    assert keyed == {"Arm", "Card"}
    stage = Usd.Stage.Open(str(written(scene, tmp_path / "m.usda")))
    assert stage.GetPrimAtPath("/Scene/Arm/Card/Mesh_0")


def test_a_skewed_card_goes_out_whole_in_usd_and_straightened_in_gltf(scene, tmp_path):
    carrier = wh.Null(id="flat", name="Flat", channels=(wh.Channel("scale.x", 3.0),))
    scene = carried(wh.edits.add_node(scene, carrier), "card", "flat")
    scene = wh.edits.set_value(scene, "card", "rotation.z", 30.0)
    stage = Usd.Stage.Open(str(written(scene, tmp_path / "m.usda", nodes=["card"])))
    cache = UsdGeom.XformCache(Usd.TimeCode(7.0))
    seen = np.array(cache.GetLocalToWorldTransform(stage.GetPrimAtPath("/Scene/Card"))).T
    assert seen == pytest.approx(wh.evaluate(scene, 7.0, ["card"]).content("card")[0], abs=1e-9)
    notes = write_move(scene, None, MoveJob(tmp_path / "m.glb", FRAMES, nodes=["card"]))
    assert any("skewed" in note for note in notes)
    # With what skews it, it needs no words: each keeps to what a place, a turn and a size can tell.
    whole = write_move(scene, None, MoveJob(tmp_path / "m.glb", FRAMES, nodes=["flat", "card"]))
    assert not any("skewed" in note for note in whole)
    found = read_gltf(tmp_path / "m.glb", [7.0])
    want = wh.evaluate(scene, 7.0, ["card"]).content("card")[0]
    assert np.array(found["places"]["Card"]).reshape(4, 4).T[:3, :3] == pytest.approx(want[:3, :3], abs=1e-5)


@pytest.mark.parametrize("suffix", [".usdc", ".usdz"])
def test_binary_usd_and_packages_hold_the_same(scene, tmp_path, suffix):
    text = Usd.Stage.Open(str(written(scene, tmp_path / "a.usda")))
    path = written(scene, tmp_path / f"b{suffix}")
    stage = Usd.Stage.Open(str(path))
    assert [str(each.GetPath()) for each in stage.Traverse()] == [str(each.GetPath()) for each in text.Traverse()]
    for frame in (0.0, 11.5, 48.0):
        first, other = (UsdGeom.Camera(each.GetPrimAtPath("/Scene/Arm/Cam")).GetCamera(frame) for each in (text, stage))
        assert other.frustum == first.frustum
    every = UsdValidation.ValidationRegistry().GetOrLoadAllValidators()
    found = [each.GetMessage() for each in UsdValidation.ValidationContext(every).Validate(stage)]
    assert found == []
    texture = next(each for each in stage.Traverse() if each.GetName() == "Texture")
    asset = UsdShade.Shader(texture).GetInput("file").Get()
    with Image.open(io.BytesIO(Ar.GetResolver().OpenAsset(Ar.ResolvedPath(asset.resolvedPath)).GetBuffer())) as image:
        assert image.size == (4, 4)
    assert (tmp_path / "b_artwork").is_dir() == (suffix == ".usdc")
    assert not list(tmp_path.glob(".*"))


def test_lights_go_out_in_the_units_of_physics(scene, tmp_path):
    lamp = wh.Light(id="lamp", name="Lamp", light="point", tint="#ff8000", channels=(wh.Channel("light.reach", 20.0),))
    sun = wh.Light(id="sun", name="Sun", channels=(wh.Channel("light.strength", 0.5),))
    sky = wh.Light(id="sky", name="Sky", light="ambient", channels=(wh.Channel("light.strength", 0.2),))
    for node in (lamp, sun, sky):
        scene = wh.edits.add_node(scene, node)
    scene = wh.edits.set_value(scene, "sun", "rotation.x", -40.0)
    scene = wh.edits.set_value(scene, "lamp", "position.x", 3.0)
    found = read_gltf(written(scene, tmp_path / "m.glb"), [0.0])
    assert (found["errors"], found["warnings"]) == (0, 0)
    (first, other) = sorted(found["lights"], key=lambda each: each["type"])
    assert (first["type"], other["type"]) == ("DirectionalLight", "PointLight")
    assert first["intensity"] == pytest.approx(0.5 * np.pi)
    # As bright as here at half the reach of 2 m: the square falloff is 0.75² there.
    assert other["intensity"] / 1.0**2 == pytest.approx(np.pi * 0.75**2)
    assert other["at"] == pytest.approx([0.3, 0.0, 0.0], abs=1e-6)
    assert first["along"] == pytest.approx([0.0, -np.sin(np.radians(40)), -np.cos(np.radians(40))], abs=1e-6)
    stage = Usd.Stage.Open(str(written(scene, tmp_path / "m.usda")))
    kinds = {each.GetName(): each.GetTypeName() for each in stage.Traverse() if each.HasAPI(UsdLux.LightAPI)}
    assert kinds == {"Lamp": "SphereLight", "Sun": "DistantLight", "Sky": "DomeLight"}
    sphere = UsdLux.SphereLight(stage.GetPrimAtPath("/Scene/Lamp"))
    # Its luminance fills a disc of its radius, as seen from half the reach, 10 units away.
    luminance = sphere.GetIntensityAttr().Get() / (4.0 * np.pi * sphere.GetRadiusAttr().Get() ** 2)
    solid_angle = np.pi * sphere.GetRadiusAttr().Get() ** 2 / 10.0**2
    assert luminance * solid_angle == pytest.approx(np.pi * 0.75**2, rel=1e-6)


def test_a_grounds_relief_is_as_high_as_it_stands(scene, tmp_path):
    heights = height_map(np.array([[0.0, 1.0], [0.5, 0.0]]), 0.0, 4.0)
    ground = wh.Ground(id="hill", name="Hill", surface=heights, channels=(wh.Channel("relief", 0.25),))
    write_move(wh.edits.add_node(scene, ground), None, MoveJob(tmp_path / "m.usda", FRAMES))
    stage = Usd.Stage.Open(str(tmp_path / "m.usda"))
    points = np.array(UsdGeom.Mesh(stage.GetPrimAtPath("/Scene/Hill/Mesh_0")).GetPointsAttr().Get())
    assert points[:, 1].max() == pytest.approx(1.0, abs=1e-4)


def test_what_fades_in_from_nothing_is_there_without_pointers_and_has_no_size_before(scene, tmp_path):
    for frame, value in ((0.0, 0.0), (10.0, 0.0), (20.0, 0.8)):
        scene = wh.edits.set_key(scene, "card", "opacity", frame, value)
    found = read_gltf(written(scene, tmp_path / "m.glb"), [0.0, 5.0, 9.0, 15.0, 48.0])
    size = [np.abs(np.array(each).reshape(4, 4)[:3, :3]).max() for each in found["shown"]["Card"]]
    assert size[:3] == [0.0, 0.0, 0.0]
    assert min(size[3:]) > 0.5


@pytest.mark.parametrize("step", [1, 3])
def test_a_cut_between_frames_is_met_where_it_is(scene, tmp_path, step):
    other = replace(scene.node("cam"), id="other", name="Other")
    scene = wh.edits.set_value(wh.edits.add_node(scene, other), "other", "position.x", 2.5)
    scene = replace(scene, shots=(wh.Shot("One", "cam"), wh.Shot("Two", "other", 24.4)))
    path = tmp_path / "film.usda"
    write_move(scene, None, MoveJob(path, tuple(float(k) for k in range(0, 49, step)), nodes=[]))
    stage = Usd.Stage.Open(str(path))
    camera = UsdGeom.Camera(stage.GetPrimAtPath("/Scene/Film"))
    for frame in (24.0, 24.39, 24.4, 24.5, 24.9, 25.0):
        # Before it the first camera, after it the other one, however few frames there are.
        seen = output(scene, [frame]).position[0]
        at = camera.GetCamera(frame).frustum.GetPosition()
        assert tuple(at) == pytest.approx(tuple(seen), abs=0.02 * step**2)


@given(st.floats(0.0, 4000.0), st.integers(2, 6))
def test_moments_in_single_precision_go_on_rising(start, count):
    seconds = start + np.sort(np.concatenate([np.arange(count) / 24.0, np.arange(1, count) / 24.0 - 1e-3 / 24.0]))
    made = _rising(seconds)
    assert made.dtype == np.float32
    assert (np.diff(made) > 0.0).all()
    assert (made <= seconds).all()
    assert np.abs(made - seconds).max() <= 3.0 * np.spacing(np.float32(seconds[-1]))


def test_a_table_has_all_of_a_moved_windows_picture(scene, tmp_path):
    """A point's place in the picture of a format, from what a line of the table says and nothing else."""
    window = wh.FormatWindow(id="window", name="Window")
    channels = (wh.Channel("window.across", 0.2), wh.Channel("window.up", -0.1))
    shape = wh.Format("Tall", 200, 360, window="window")
    scene = replace(wh.edits.add_node(scene, replace(window, channels=channels)), formats=(shape,))
    path = written(scene, tmp_path / "tall.csv", shape=shape, nodes=[])
    lines = list(csv.DictReader(path.read_text().splitlines()))
    for frame in (0.0, 24.0, 48.0):
        row = {key: float(value) for key, value in next(x for x in lines if float(x["frame"]) == frame).items()
               if key != "node" and value}  # fmt: skip
        turned = Rotation.from_quat([row[f"q{axis}"] for axis in "xyzw"]).as_matrix()
        own = (POINTS - [row[axis] for axis in "xyz"]) @ turned
        place = own[:, :2] / -own[:, 2:] * row["focal_mm"] / [row["sensor_width"], row["sensor_height"]]
        landed = place + np.array([row["shift_right"], row["shift_up"]])
        at = np.stack([0.5 + landed[:, 0], 0.5 - landed[:, 1]], axis=1) * [200.0, 360.0]
        view = output(scene, [frame], shape)
        want, _ = view.pixels(POINTS[:1])
        assert at[0] == pytest.approx(want[0], abs=0.01)
        assert abs(row["shift_right"]) > 0.05


def test_working_out_a_move_can_be_given_up(scene, tmp_path):
    """In the midst of it, too, where keys are looked for between frames."""
    said: list[str] = []

    def step(what: str) -> None:
        said.append(what)
        if len(said) == 3:
            raise wh.SceneError("Cancelled.")

    with pytest.raises(wh.SceneError, match="Cancelled"):
        write_move(scene, None, MoveJob(tmp_path / "m.glb", FRAMES, few=Tolerances()), step)
    assert said == ["Working out the move"] * 3
    assert list(tmp_path.iterdir()) == []
