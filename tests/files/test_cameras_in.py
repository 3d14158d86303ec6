"""Cameras of other programs' files, as those programs' own readers or SciPy see them: on frames and between."""

import json
from pathlib import Path

import numpy as np
import pytest
from msgspec.structs import replace
from pxr import Gf, Sdf, Ts, Usd, UsdGeom
from scipy.interpolate import CubicHermiteSpline
from scipy.spatial.transform import Rotation, Slerp

import wild_heron as wh
from wild_heron.evaluate.film_output import output
from wild_heron.files.decode.camera_files import read_cameras
from wild_heron.files.decode.source import on_disk
from wild_heron.files.errors import FileError
from wild_heron.files.export_formats.camera_takes import with_cameras
from wild_heron.files.reader import Reader

MOMENTS = np.concatenate([np.arange(0.0, 48.0), np.random.default_rng(3).uniform(0.0, 48.0, 60)])
POINTS = np.random.default_rng(4).uniform(-3.0, 3.0, (40, 3))
SETTINGS = wh.Settings(width=640, height=360, last=48, mm_per_unit=100.0)


def brought(path: Path, settings: wh.Settings = SETTINGS) -> tuple[wh.Scene, str, tuple[str, ...]]:
    found = read_cameras(on_disk(path), 24.0)
    scene, ids, notes = with_cameras(wh.Scene(settings=settings), found, 0.0)
    return scene, ids[0], notes


def stage_of(metres: float | None = 0.1) -> Usd.Stage:
    stage = Usd.Stage.CreateInMemory()
    stage.SetTimeCodesPerSecond(24.0)
    if metres is not None:
        UsdGeom.SetStageMetersPerUnit(stage, metres)
    return stage


def off_in_pixels(stage: Usd.Stage, path: str, scene: wh.Scene, camera: str, unit: float = 1.0, shape=None) -> float:
    """The largest distance in pixels between where OpenUSD's own frustum has points, and where the scene has them."""
    worst = 0.0
    view = output(replace(scene, camera=camera), MOMENTS, shape)
    for k, frame in enumerate(MOMENTS.tolist()):
        frustum = UsdGeom.Camera(stage.GetPrimAtPath(path)).GetCamera(frame).frustum
        matrix = frustum.ComputeViewMatrix() * frustum.ComputeProjectionMatrix()
        want = np.array([matrix.Transform(Gf.Vec3d(*each)) for each in POINTS.tolist()])
        seen = np.array([frustum.ComputeViewMatrix().Transform(Gf.Vec3d(*each))[2] for each in POINTS.tolist()]) < -1.0
        own = view.at(k)
        at = own.pixels(POINTS[seen] * unit)[0] if seen.any() else np.zeros((0, 2))
        high = own.width / frustum.ComputeAspectRatio()
        wanted = want[seen, :2] * [0.5, -0.5] * [own.width, high] + [own.width / 2, own.height / 2]
        near = (np.abs(want[seen, :2]) < 2.0).all(axis=1)
        if near.any():
            worst = max(worst, float(np.abs(at - wanted)[near].max()))
    return worst


def usd_camera(stage: Usd.Stage, path: str = "/Arm/Cam", z: float = 9.0) -> UsdGeom.Camera:
    camera = UsdGeom.Camera.Define(stage, path)
    camera.AddTranslateOp().Set(Gf.Vec3d(0.0, 0.5, z))
    camera.GetHorizontalApertureAttr().Set(36.0)
    camera.GetVerticalApertureAttr().Set(20.25)
    camera.GetFocalLengthAttr().Set(30.0)
    return camera


def test_a_long_turn_by_angles_is_the_whole_turn(tmp_path):
    stage = stage_of()
    arm = UsdGeom.Xform.Define(stage, "/Arm")
    turn = arm.AddRotateYOp()
    turn.Set(0.0, 0.0)
    turn.Set(300.0, 48.0)
    usd_camera(stage)
    stage.Export(str(tmp_path / "a.usda"))
    scene, camera, _ = brought(tmp_path / "a.usda")
    assert off_in_pixels(stage, "/Arm/Cam", scene, camera) < 0.05


def test_what_moves_above_a_scope_moves_the_camera(tmp_path):
    stage = stage_of()
    arm = UsdGeom.Xform.Define(stage, "/Arm")
    UsdGeom.Scope.Define(stage, "/Arm/Holder")
    place = arm.AddTranslateOp()
    for frame, x in ((0.0, 0.0), (11.0, 2.0), (48.0, -1.0)):
        place.Set(Gf.Vec3d(x, 0.0, 0.0), frame)
    usd_camera(stage, "/Arm/Holder/Cam")
    stage.Export(str(tmp_path / "a.usda"))
    scene, camera, _ = brought(tmp_path / "a.usda")
    assert off_in_pixels(stage, "/Arm/Holder/Cam", scene, camera) < 0.05


@pytest.mark.parametrize("between", [Ts.InterpHeld, Ts.InterpCurve, Ts.InterpLinear])
def test_splines_of_usd_hold_and_bend_as_they_do_there(tmp_path, between):
    stage = stage_of()
    UsdGeom.Xform.Define(stage, "/Arm")
    camera = usd_camera(stage)
    spline = Ts.Spline()
    for time, value in ((0.0, 0.0), (10.3, 1.6), (30.0, -0.7), (48.0, 0.4)):
        knot = Ts.Knot(time=time, value=value, nextInterp=between)
        knot.SetPreTanWidth(4.0)
        knot.SetPostTanWidth(5.0)
        knot.SetPostTanSlope(0.2)
        knot.SetPreTanSlope(-0.1)
        spline.SetKnot(knot)
    camera.AddTranslateXOp(opSuffix="more").GetAttr().SetSpline(spline)
    stage.Export(str(tmp_path / "a.usda"))
    scene, node, _ = brought(tmp_path / "a.usda")
    assert off_in_pixels(stage, "/Arm/Cam", scene, node) < 0.05


def test_an_upright_z_and_another_unit_are_turned_and_scaled(tmp_path):
    stage = stage_of(metres=0.01)
    UsdGeom.SetStageUpAxis(stage, UsdGeom.Tokens.z)
    arm = UsdGeom.Xform.Define(stage, "/Arm")
    camera = usd_camera(stage)
    camera.GetFocusDistanceAttr().Set(250.0)
    turn = arm.AddRotateZOp()
    turn.Set(0.0, 0.0)
    turn.Set(90.0, 48.0)
    stage.Export(str(tmp_path / "a.usda"))
    scene, node, notes = brought(tmp_path / "a.usda")
    view = wh.evaluate(scene, MOMENTS, [node]).camera(node)
    for k, frame in enumerate(MOMENTS.tolist()):
        x, y, z = UsdGeom.Camera(stage.GetPrimAtPath("/Arm/Cam")).GetCamera(frame).frustum.GetPosition()
        # A centimetre is a tenth of a unit of 100 mm.
        assert view.position[k] == pytest.approx(np.array([x, z, -y]) * 0.1, abs=2e-4)
    assert view.focus == pytest.approx(25.0)
    assert notes == ()
    silent = stage_of(metres=None)
    usd_camera(silent)
    silent.Export(str(tmp_path / "b.usda"))
    scene, node, notes = brought(tmp_path / "b.usda")
    assert wh.evaluate(scene, 0.0, [node]).position(node)[0] == pytest.approx([0.0, 0.5, 9.0])
    assert "says nothing of its unit" in notes[0]


def test_a_shifted_lens_comes_in_as_a_format_whose_picture_is_the_files(tmp_path):
    stage = stage_of()
    UsdGeom.Xform.Define(stage, "/Arm").AddRotateYOp().Set(7.0)
    camera = usd_camera(stage)
    camera.GetVerticalApertureAttr().Set(24.0)
    camera.GetHorizontalApertureOffsetAttr().Set(4.0, 0.0)
    camera.GetHorizontalApertureOffsetAttr().Set(-9.0, 48.0)
    camera.GetVerticalApertureOffsetAttr().Set(2.5)
    stage.Export(str(tmp_path / "a.usda"))
    scene, node, notes = brought(tmp_path / "a.usda")
    (shape,) = scene.formats
    assert (shape.width, shape.height) == (640, 427)
    assert off_in_pixels(stage, "/Arm/Cam", scene, node, shape=shape) < 0.05
    assert "shifted" in " ".join(notes)
    assert "“Cam”" in " ".join(notes)


def test_an_orthographic_camera_is_said_to_be_one(tmp_path):
    stage = stage_of()
    usd_camera(stage, "/Cam")
    usd_camera(stage, "/Plan").GetProjectionAttr().Set(UsdGeom.Tokens.orthographic)
    stage.Export(str(tmp_path / "a.usda"))
    _, _, notes = brought(tmp_path / "a.usda")
    assert notes == ("Plan is an orthographic camera, and is left out.",)
    stage.RemovePrim(Sdf.Path("/Cam"))
    stage.Export(str(tmp_path / "a.usda"))
    with pytest.raises(FileError, match="orthographic cameras only"):
        read_cameras(on_disk(tmp_path / "a.usda"), 24.0)


def gltf_of(path: Path, tracks: list[tuple[int, str, str, np.ndarray, np.ndarray]], nodes: list[dict]) -> Path:
    """A file of nodes with animation: node, path, interpolation, times and values."""
    data, views, accessors, channels, samplers = b"", [], [], [], []

    def accessor(values: np.ndarray) -> int:
        nonlocal data
        flat = values.astype("<f4")
        views.append({"buffer": 0, "byteOffset": len(data), "byteLength": flat.nbytes})
        data += flat.tobytes()
        wide = {1: "SCALAR", 3: "VEC3", 4: "VEC4"}[flat.shape[-1] if flat.ndim > 1 else 1]
        count = flat.size // {"SCALAR": 1, "VEC3": 3, "VEC4": 4}[wide]
        bounds = {"min": [float(flat.min())], "max": [float(flat.max())]} if wide == "SCALAR" else {}
        accessors.append({"bufferView": len(views) - 1, "componentType": 5126, "count": count, "type": wide, **bounds})
        return len(accessors) - 1

    for node, what, kind, times, values in tracks:
        samplers.append({"input": accessor(times), "output": accessor(values), "interpolation": kind})
        channels.append({"sampler": len(samplers) - 1, "target": {"node": node, "path": what}})
    made = {
        "asset": {"version": "2.0"}, "scene": 0, "scenes": [{"nodes": [0]}], "nodes": nodes,
        "cameras": [{"type": "perspective", "perspective": {"yfov": 0.6, "znear": 0.1, "aspectRatio": 16 / 9}}],
        "animations": [{"channels": channels, "samplers": samplers}], "accessors": accessors, "bufferViews": views,
        "buffers": [{"uri": path.stem + ".bin", "byteLength": len(data)}],
    }  # fmt: skip
    path.with_suffix(".bin").write_bytes(data)
    path.write_text(json.dumps(made))
    return path


ARM = [{"children": [1]}, {"camera": 0, "translation": [0.0, 0.0, 0.9], "name": "Cam"}]


def test_an_arm_takes_the_camera_round_and_not_across(tmp_path):
    turns = Rotation.from_euler("y", [[0.0], [130.0], [250.0]], degrees=True)
    times = np.array([0.0, 1.0, 2.0])
    path = gltf_of(tmp_path / "arm.gltf", [(0, "rotation", "LINEAR", times, turns.as_quat())], ARM)
    scene, node, _ = brought(path)
    arm = Slerp(times, turns)(MOMENTS / 24.0)
    # A glTF unit is a metre: ten units of 100 mm.
    want = arm.apply([0.0, 0.0, 9.0])
    seen = wh.evaluate(scene, MOMENTS, [node]).camera(node)
    assert seen.position == pytest.approx(want, abs=2e-3)
    assert seen.axis == pytest.approx(arm.apply([0.0, 0.0, -1.0]), abs=1e-4)


def test_cubic_splines_and_steps_arrive_as_they_are(tmp_path):
    times = np.array([0.0, 0.7, 2.0])
    values = np.array([[0.0, 0.0, 0.0], [0.3, 0.1, 0.0], [-0.2, 0.0, 0.4]])
    slopes = np.array([[1.0, 0.0, 0.0], [-0.5, 0.3, 0.2], [0.0, 0.0, 1.0]])
    cubic = np.stack([slopes, values, slopes], axis=1)
    path = gltf_of(tmp_path / "cubic.gltf", [(0, "translation", "CUBICSPLINE", times, cubic)], ARM)
    scene, node, _ = brought(path)
    want = CubicHermiteSpline(times, values, slopes)(MOMENTS / 24.0)
    seen = wh.evaluate(scene, MOMENTS, [node]).position(node) - [0.0, 0.0, 9.0]
    assert seen == pytest.approx(want * 10.0, abs=2e-3)

    path = gltf_of(tmp_path / "steps.gltf", [(0, "translation", "STEP", times, values)], ARM)
    scene, node, _ = brought(path)
    beside = np.sort(np.concatenate([MOMENTS, [16.799, 16.801, 47.99, 48.0]]))
    held = values[np.searchsorted(np.float32(times).astype(float), beside / 24.0, side="right") - 1]
    seen = wh.evaluate(scene, beside, [node]).position(node) - [0.0, 0.0, 9.0]
    assert seen == pytest.approx(held * 10.0, abs=1e-4)


def test_a_file_that_goes_on_for_ever_is_refused(tmp_path):
    path = gltf_of(
        tmp_path / "long.gltf",
        [(0, "translation", "LINEAR", np.array([0.0, 1e6]), np.array([[0.0, 0, 0], [1.0, 0, 0]]))],
        ARM,
    )
    with pytest.raises(FileError, match="200000 frames"):
        read_cameras(on_disk(path), 24.0)


@pytest.mark.parametrize(("value", "said"), [
    (float("nan"), "no end"), (float("inf"), "no end"), (1e300, "no end"), (1e10, "position"),
])  # fmt: skip
def test_a_camera_beyond_all_measure_is_refused_at_once(tmp_path, value, said):
    stage = stage_of()
    UsdGeom.Xform.Define(stage, "/Arm")
    place = usd_camera(stage).AddTranslateXOp(opSuffix="more")
    place.Set(0.0, 0.0)
    place.Set(value, 9.0)
    stage.Export(str(tmp_path / "a.usda"))
    with pytest.raises((FileError, wh.SceneError), match=said):
        brought(tmp_path / "a.usda")


@pytest.mark.parametrize(("aperture", "focal"), [(1e-7, 1e-7), (1e8, 2e8), (36.0, 50.0)])
def test_a_sensor_of_any_size_gives_the_same_picture(tmp_path, aperture, focal):
    stage = stage_of()
    UsdGeom.Xform.Define(stage, "/Arm")
    camera = usd_camera(stage)
    camera.GetHorizontalApertureAttr().Set(aperture)
    camera.GetVerticalApertureAttr().Set(aperture * 9.0 / 16.0)
    camera.GetFocalLengthAttr().Set(focal)
    stage.Export(str(tmp_path / "a.usda"))
    scene, node, _ = brought(tmp_path / "a.usda")
    assert off_in_pixels(stage, "/Arm/Cam", scene, node) < 0.01


def test_a_lens_that_is_shifted_out_of_all_frames_stands_straight_and_says_so(tmp_path):
    stage = stage_of()
    UsdGeom.Xform.Define(stage, "/Arm")
    usd_camera(stage).GetHorizontalApertureOffsetAttr().Set(1e6)
    stage.Export(str(tmp_path / "a.usda"))
    scene, _, notes = brought(tmp_path / "a.usda")
    assert scene.formats == ()
    assert "more than a format can be" in notes[0]


@pytest.mark.parametrize(("name", "text", "said"), [
    ("a.csv", "frame,x\n1,2\n", "has no column"),
    ("a.csv", "frame,x,y,z,rx,ry,rz,focal_mm\n1,2,3,4,0,0,zero,35\n", "line 2"),
    ("a.usda", "#usda 1.0\ndef Xform \"A\" {}\n", "holds no camera"),
    ("a.usda", "not usd", "no USD that can be read"),
    ("a.glb", '{"asset": {"version": "2.0"}}', "holds no camera"),
])  # fmt: skip
def test_what_is_no_camera_is_named(tmp_path, name, text, said):
    path = tmp_path / name
    path.write_text(text)
    with Reader() as reader, pytest.raises(FileError, match=said):
        reader.cameras(path, 24.0)


def test_a_usd_that_refers_to_other_files_reads_none_of_them(tmp_path):
    (tmp_path / "secret.usda").write_text('#usda 1.0\ndef Camera "Hidden" {}\n')
    path = tmp_path / "a.usda"
    path.write_text(
        f'#usda 1.0\ndef Camera "Own" {{}}\ndef "Far" (references = @{tmp_path}/secret.usda@</Hidden>) {{}}\n'
    )
    with Reader() as reader:
        assert [track.name for track in reader.cameras(path, 24.0).tracks] == ["Own"]


def test_nothing_outside_is_composed_into_a_usd_where_no_kernel_holds_it(tmp_path):
    """The decoder itself, without the process that it is confined to."""
    other = tmp_path / "other.usda"
    other.write_text('#usda 1.0\n(defaultPrim = "Hidden")\ndef Camera "Hidden" {}\n')
    path = tmp_path / "a.usda"
    path.write_text(
        f"""#usda 1.0
(subLayers = [@{other}@])
def Camera "Own" {{}}
def "Far" (references = @{other}@) {{}}
def "Heavy" (prepend payload = @{other}@) {{}}
def "Either" (
    variants = {{ string v = "a" }}
    prepend variantSets = "v"
) {{
    variantSet "v" = {{
        "a" (references = @{other}@) {{}}
    }}
}}
def Xform "Up" {{
    def "Deep" (references = [@{other}@, @{other}@</Hidden>]) {{}}
}}
def Xform "Clipped" (
    clips = {{
        dictionary default = {{
            asset[] assetPaths = [@{other}@]
            string primPath = "/Hidden"
            double2[] active = [(0, 0)]
        }}
    }}
) {{
    def Camera "Inner" {{}}
}}
"""
    )
    assert [track.name for track in read_cameras(on_disk(path), 24.0).tracks] == ["Own", "Inner"]
