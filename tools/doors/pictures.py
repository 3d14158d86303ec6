"""Pictures and movies as others decode them, against what was drawn."""

from pathlib import Path

import av
import numpy as np
import OpenEXR
import tifffile
from PIL import Image

import wild_heron as wh
from wild_heron.gl.request import FrameRequest, ThroughLens
from wild_heron.output.job import ExportJob
from wild_heron.output.running import export
from wild_heron.process.stream import FrameStream

SIZE = (320, 180)
FRAMES = tuple(map(float, range(12)))


def _scene() -> wh.Scene:
    """A card in half an opacity that goes across another one, a solid and words."""
    camera = wh.Camera(id="cam", name="Cam", channels=(wh.Channel("position.z", 10.0),))
    shade = wh.Gradient((wh.Stop(0.0, "#f2c25b"), wh.Stop(1.0, "#40506a")))
    card = wh.Picture(id="card", name="Card", artwork=shade, width=400, height=260,
                      channels=(wh.Channel("opacity", 0.5),))  # fmt: skip
    back = wh.Picture(id="back", name="Back", artwork=wh.Solid("#446688"), width=300, height=500,
                      channels=(wh.Channel("position.z", -1.0),))  # fmt: skip
    box = wh.Model(id="box", name="Box", shape=wh.Box(), channels=(wh.Channel("position.x", 3.0),))
    settings = wh.Settings(width=SIZE[0], height=SIZE[1], last=11, background="#1c262b")
    scene = wh.Scene(settings=settings, nodes=(camera, back, card, box), camera="cam")
    for frame, x in ((0.0, -2.0), (11.0, 2.0)):
        scene = wh.edits.set_key(scene, "card", "position.x", frame, x)
    return scene


def _drawn(scene: wh.Scene, numbers: str, clear: bool) -> list[np.ndarray]:
    wish = FrameRequest(0.0, ThroughLens("cam", transparent=clear), *SIZE, fine=True, numbers=numbers)
    with FrameStream(scene, None, wish) as stream:
        return list(stream.frames(FRAMES))


def rows(folder: Path) -> list[str]:
    """A table: what is lossless in values of 255, what is not in decibels."""
    scene = _scene()
    opaque, clear = _drawn(scene, "bytes", False), _drawn(scene, "bytes", True)
    deep, light = _drawn(scene, "shown", False), _drawn(scene, "full light", True)

    def job(name: str, **more: object) -> Path:
        path = folder / name
        assert export(scene, None, ExportJob(path, FRAMES, "cam", SIZE, quality=100.0, **more))  # type: ignore[arg-type]
        return path

    def decoded(path: Path, layout: str) -> list[np.ndarray]:
        with av.open(str(path)) as movie:
            return [frame.to_ndarray(format=layout) for frame in movie.decode(video=0)]

    def first(path: Path) -> Path:
        return path.with_name(path.name.replace("##", "05"))

    def worst(found: list[np.ndarray], want: list[np.ndarray], scale: float = 255.0) -> str:
        off = max(float(np.abs(a.astype(float) - b).max()) for a, b in zip(found, want, strict=True))
        return f"{off * scale:.4f} of 255"

    def noise(found: list[np.ndarray]) -> str:
        square = np.mean([(a.astype(float) - b[..., :3]) ** 2 for a, b in zip(found, opaque, strict=True)])
        return f"{10.0 * np.log10(255.0**2 / max(float(square), 1e-9)):.1f} dB"

    sixteen = [np.clip(each[..., :3], 0.0, 1.0) for each in deep]
    out = [
        ("FFV1 .mkv", "FFmpeg", worst(decoded(job("a.mkv"), "rgb24"), [each[..., :3] for each in opaque], 1.0)),
        ("FFV1 .mkv, transparent", "FFmpeg", worst(decoded(job("b.mkv", transparent=True), "rgba"), clear, 1.0)),
        ("FFV1 .mkv, 16 bits", "FFmpeg",
         worst([each / 65_535.0 for each in decoded(job("c.mkv", depth="16"), "rgb48le")], sixteen)),
        ("Animated PNG", "FFmpeg", worst(decoded(job("a.apng"), "rgb24"), [each[..., :3] for each in opaque], 1.0)),
        ("PNG, transparent", "Pillow",
         worst([np.asarray(Image.open(first(job("p_##.png", transparent=True))))], [clear[5]], 1.0)),
        ("PNG, 16 bits", "FFmpeg",
         worst([decoded(first(job("q_##.png", depth="16")), "rgb48le")[0] / 65_535.0], [sixteen[5]])),
        ("TIFF, 16 bits", "tifffile", worst([tifffile.imread(first(job("t_##.tif"))) / 65_535.0], [sixteen[5]])),
        ("WebP, lossless", "Pillow",
         worst([np.asarray(Image.open(first(job("w_##.webp", transparent=True))))], [clear[5]], 1.0)),
        ("EXR, 32 bits", "OpenEXR",
         worst([OpenEXR.File(str(first(job("e_##.exr", depth="float")))).channels()["RGBA"].pixels], [light[5]])),
        ("EXR, half", "OpenEXR",
         worst([OpenEXR.File(str(first(job("h_##.exr", depth="half")))).channels()["RGBA"].pixels], [light[5]])),
        ("H.264 .mp4 at 100", "FFmpeg", noise(decoded(job("m.mp4"), "rgb24"))),
        ("AV1 .mp4 at 100, 10 bits", "FFmpeg", noise(decoded(job("n.mp4", codec="av1", depth="10"), "rgb24"))),
        ("VP9 .webm at 100", "FFmpeg", noise(decoded(job("v.webm"), "rgb24"))),
        ("GIF", "FFmpeg", noise(decoded(job("g.gif"), "rgb24"))),
    ]  # fmt: skip
    lines = ["| pictures | reader | worst difference from what was drawn |", "| --- | --- | --- |"]
    return [*lines, *(f"| {name} | {reader} | {said} |" for name, reader, said in out)]
