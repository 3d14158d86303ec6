"""Numbers that go in and out at the depth that was asked for: read by readers of others, against closed forms."""

from pathlib import Path

import av
import numpy as np
import OpenEXR
import pytest
import tifffile
from msgspec.structs import replace
from PIL import Image

import wild_heron as wh
from wild_heron.colour import to_display, to_light
from wild_heron.files.export_formats.writing import MoveJob, write_move
from wild_heron.output.job import ExportJob
from wild_heron.output.running import export

W, H = 256, 8


def scene_of(source: Path | str, light: str, opacity: float = 1.0, *more: wh.AnyNode) -> wh.Scene:
    """A picture that fills the frame, texel upon pixel."""
    artwork = wh.Solid(source) if isinstance(source, str) else wh.ImageFile(str(source.name))
    card = wh.Picture(id="c", name="C", artwork=artwork, width=W, height=H, channels=(wh.Channel("opacity", opacity),))
    camera = wh.Camera(id="k", name="K")
    settings = wh.Settings(width=W, height=H, last=0, light=light)
    scene = wh.Scene(settings=settings, nodes=(card, camera, *more), camera="k")
    away = float(wh.evaluate(scene, 0.0, ["k"]).camera("k").frame_distance(settings.pixels_per_unit)[0])
    return wh.edits.set_value(scene, "k", "position.z", away)


def drawn(scene: wh.Scene, base: Path, name: str, depth: str | None = None, clear: bool = False) -> Path:
    path = base / name
    job = ExportJob(path, (0.0,), None, (W, H), fine=False, depth=depth, transparent=clear, quality=100.0)
    assert export(scene, base, job)
    return path


def exr(path: Path) -> np.ndarray:
    pixels = OpenEXR.File(str(path)).channels()
    return pixels["RGBA" if "RGBA" in pixels else "RGB"].pixels


def deep_png(path: Path, values: np.ndarray) -> Path:
    """16-bit grey (H, W) as a PNG, by FFmpeg."""
    encoder = av.CodecContext.create("png", "w")
    encoder.width, encoder.height, encoder.pix_fmt, encoder.time_base = values.shape[1], values.shape[0], "gray16be", 1
    frame = av.VideoFrame.from_ndarray(values.astype(np.uint16), format="gray16le").reformat(format="gray16be")
    path.write_bytes(b"".join(bytes(packet) for each in (frame, None) for packet in encoder.encode(each)))
    return path


@pytest.mark.parametrize("light", ["display", "linear"])
@pytest.mark.parametrize("kind", ["png", "tif"])
def test_a_dark_ramp_of_sixteen_bits_keeps_all_of_its_levels(tmp_path, light, kind):
    ramp = np.tile(np.arange(W) * 6, (H, 1)).astype(np.uint16)
    if kind == "png":
        source = deep_png(tmp_path / "ramp.png", ramp)
    else:
        source = tmp_path / "ramp.tif"
        tifffile.imwrite(source, np.repeat(ramp[..., None], 3, axis=2), photometric="rgb")
    scene = scene_of(source, light)
    out = next(av.open(str(drawn(scene, tmp_path, "out.png", "16"))).decode(video=0)).to_ndarray(format="rgb48le")
    assert np.abs(out[2, :, 0].astype(int) - ramp[2]).max() <= 1
    lights = exr(drawn(scene, tmp_path, "out.exr", "float"))
    assert lights.dtype == np.float32
    assert lights[2, :, 1] == pytest.approx(to_light(ramp[2] / 65_535.0), rel=2e-4, abs=1e-7)
    # Eight bits are enough for what is shown.
    bytes_ = np.asarray(Image.open(drawn(scene, tmp_path, "bytes.png")))[2, :, 0]
    assert np.abs(bytes_.astype(float) - ramp[2] / 257.0).max() <= 1.0


@pytest.mark.parametrize("light", ["display", "linear"])
def test_what_is_brighter_than_white_stays_so(tmp_path, light):
    values = np.linspace(0.0, 4.0, W, dtype=np.float32)
    pixels = np.zeros((H, W, 4), np.float32)
    pixels[..., :3] = values[None, :, None]
    pixels[..., 3] = 1.0
    OpenEXR.File({"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}, {"RGBA": pixels}).write(
        str(tmp_path / "in.exr")
    )
    scene = scene_of(tmp_path / "in.exr", light)
    out = exr(drawn(scene, tmp_path, "out.exr", "float"))
    assert out[3, :, 0] == pytest.approx(values, rel=1e-3 if light == "display" else 5e-5, abs=1e-6)
    half = exr(drawn(scene, tmp_path, "half.exr"))
    assert half.dtype == np.float16
    assert half[3, :, 0] == pytest.approx(values, rel=4e-3, abs=1e-5)


def test_dark_values_are_turned_to_light_exactly(tmp_path):
    Image.fromarray(np.tile(np.arange(W, dtype=np.uint8), (H, 1))).convert("RGB").save(tmp_path / "grey.png")
    out = exr(drawn(scene_of(tmp_path / "grey.png", "linear"), tmp_path, "out.exr", "float"))
    assert out[1, :, 2] == pytest.approx(to_light(np.arange(W) / 255.0), rel=1e-3, abs=1e-8)


@pytest.mark.parametrize("light", ["display", "linear"])
@pytest.mark.parametrize("opacity", [0.5, 0.1, 0.02])
def test_colours_behind_half_an_alpha_are_exact(tmp_path, light, opacity):
    scene = scene_of("#c87828", light, opacity)
    own = np.array([0xC8, 0x78, 0x28])
    for name in ("a.png", "b.webp", "c.tif"):
        path = drawn(scene, tmp_path, name, "8" if name == "c.tif" else None, clear=True)
        pixels = tifffile.imread(path) if name == "c.tif" else np.asarray(Image.open(path))
        assert pixels[4, 99, :3].tolist() == own.tolist()
        assert pixels[4, 99, 3] == pytest.approx(255 * opacity, abs=1.0)
    light_out = exr(drawn(scene, tmp_path, "d.exr", "float", clear=True))[4, 99]
    assert light_out == pytest.approx([*to_light(own / 255.0) * opacity, opacity], rel=1e-3)


def test_layers_over_one_another_are_mixed_in_the_depth_that_goes_out(tmp_path):
    """A hundredth of white over black, twenty times: in bytes it would be lost or doubled."""
    cards = [
        wh.Picture(id=f"n{k}", name=f"N{k}", artwork=wh.Solid("#ffffff"), width=W, height=H,
                   channels=(wh.Channel("opacity", 0.001),))
        for k in range(20)
    ]  # fmt: skip
    scene = scene_of("#000000", "display", 1.0, *cards)
    out = next(av.open(str(drawn(scene, tmp_path, "out.png", "16"))).decode(video=0)).to_ndarray(format="rgb48le")
    assert out[4, 99, 0] / 65_535.0 == pytest.approx(1.0 - 0.999**20, rel=1e-3)


def test_textures_of_models_are_turned_to_light_exactly_half_clear_ones_too(tmp_path):
    """A card as another program would hand it over: a mesh with a texture."""
    ramp = np.zeros((H, W, 4), np.uint8)
    ramp[..., :3] = np.arange(W)[None, :, None]
    ramp[: H // 2, :, 3], ramp[H // 2 :, :, 3] = 255, 128
    Image.fromarray(ramp).save(tmp_path / "ramp.png")
    card = scene_of(tmp_path / "ramp.png", "linear")
    write_move(card, tmp_path, MoveJob(tmp_path / "card.glb", (0.0,), nodes=["c"]))
    shape = wh.ModelFile("card.glb", (-0.1, -0.1, 0.0), (0.1, 0.1, 0.0))
    sizes = tuple(wh.Channel(f"scale.{axis}", 10.0) for axis in "xyz")
    model = wh.Model(id="m", name="M", shape=shape, takes_light=False, channels=sizes)
    nodes = tuple(model if node.id == "c" else node for node in card.nodes)
    out = exr(drawn(replace(card, nodes=nodes), tmp_path, "out.exr", "float", clear=True))
    want = to_light(np.arange(W) / 255.0)
    # At the joint of the two halves they are mixed.
    assert out[1, :, 0] == pytest.approx(want, rel=4e-3, abs=1e-6)
    # What is half clear is multiplied in bytes when it is read.
    assert out[6, 100:, 0] == pytest.approx(want[100:] * 128 / 255, rel=2.5e-2)


def test_a_solid_with_smooth_edges_is_drawn_in_every_depth(tmp_path):
    box = wh.Model(id="b", name="B", shape=wh.Box(0.4, 0.04, 0.04), takes_light=False, surface="#804020")
    scene = scene_of("#000000", "linear", 1.0, box)
    want = to_light(np.array([0x80, 0x40, 0x20]) / 255.0)
    for depth in ("half", "float"):
        job = ExportJob(tmp_path / f"{depth}.exr", (0.0,), None, (W, H), depth=depth, transparent=False)
        assert export(scene, None, job)
        assert exr(tmp_path / f"{depth}.exr")[4, 128, :3] == pytest.approx(want, rel=2e-3)
    assert to_display(want)[0] == pytest.approx(0x80 / 255.0)
