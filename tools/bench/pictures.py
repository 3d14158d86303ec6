"""Pictures, against bare loops that draw the same."""

import statistics
import tempfile
from pathlib import Path

import moderngl
import numpy as np
from msgspec.structs import replace
from PIL import Image

import wild_heron as wh
from wild_heron.evaluate import evaluate
from wild_heron.files.decode.pixels import read_pixels
from wild_heron.files.decode.source import on_disk
from wild_heron.files.pixels import file_of
from wild_heron.gl.request import FrameRequest, ThroughLens
from wild_heron.gl.textures import SRGB8_ALPHA8
from wild_heron.output.job import ExportJob
from wild_heron.output.running import export
from wild_heron.process.client import RenderClient
from wild_heron.process.stream import FrameStream
from wild_heron.scene.dependencies import descendants

from .measuring import ms, paired, report
from .window import opened

VIEW = ThroughLens("main-camera")


WIDTH, HEIGHT = 1280, 720


VIEW = ThroughLens("main-camera")


class BareLoop:
    """The least that draws the same pictures and reads them back: textured quads, one after the other."""

    def __init__(self, scene: wh.Scene, base: Path, frame: float, only: set[str] | None = None) -> None:
        gl = self.gl = moderngl.create_context(standalone=True, backend="egl", require=330)
        self.program = gl.program(
            vertex_shader="#version 330\nin vec2 uv; uniform mat4 m; out vec2 t;\n"
            "void main() { t = uv; gl_Position = m * vec4(uv, 0, 1); }",
            fragment_shader="#version 330\nin vec2 t; uniform sampler2D s; uniform float o; out vec4 c;\n"
            "void main() { c = texture(s, t) * o; }",
        )
        # In linear light where the scene is: half floats, colours decoded, and made into display values at the end.
        self.linear = scene.settings.light == "linear"
        shown = gl.program(
            vertex_shader="#version 330\nin vec2 uv; void main() { gl_Position = vec4(uv * 2 - 1, 0, 1); }",
            fragment_shader="#version 330\nuniform sampler2D s; out vec4 c;\n"
            "void main() { vec4 f = texelFetch(s, ivec2(gl_FragCoord.xy), 0);\n"
            "c = vec4(mix(f.rgb * 12.92, 1.055 * pow(max(f.rgb, 1e-9), vec3(1 / 2.4)) - 0.055,"
            " step(vec3(0.0031308), f.rgb)), f.a); }",
        )
        corners = gl.buffer(np.array([0, 0, 1, 0, 0, 1, 1, 1], "f4"))
        self.develop = gl.vertex_array(shown, [(corners, "2f", "uv")])
        self.result = gl.framebuffer([gl.texture((WIDTH, HEIGHT), 4)])
        self.square = gl.vertex_array(self.program, [(gl.buffer(np.array([0, 0, 1, 0, 0, 1, 1, 1], "f4")), "2f", "uv")])
        self.target = gl.framebuffer([gl.texture((WIDTH, HEIGHT), 4, dtype="f2" if self.linear else "f1")])
        here = evaluate(scene, [frame])
        camera = here.camera("main-camera", size=(WIDTH, HEIGHT))
        pose, focal = camera.pose[0], float(camera.focal_px[0])
        lens = np.array(
            [[2 * focal / WIDTH, 0, 0, 0], [0, -2 * focal / HEIGHT, 0, 0], [0, 0, -1, -2e-3], [0, 0, -1, 0]]
        )
        view = lens @ np.linalg.inv(pose)
        found = []
        for node in scene.nodes:
            if isinstance(node, wh.Picture) and (only is None or node.id in only):
                path = file_of(node, base)
                pixels = read_pixels(node, None if path is None else on_disk(path), 1.0, 8192).pixels
                size = (pixels.shape[1], pixels.shape[0])
                kind = {"internal_format": SRGB8_ALPHA8} if self.linear else {}
                texture = gl.texture(size, 4, np.ascontiguousarray(pixels), **kind)
                texture.build_mipmaps()
                texture.filter = (moderngl.LINEAR_MIPMAP_LINEAR, moderngl.LINEAR)
                texture.repeat_x = texture.repeat_y = False
                w, h = node.width / 100, node.height / 100
                place = np.array([[w, 0, 0, -w / 2], [0, -h, 0, h / 2], [0, 0, 1, 0], [0, 0, 0, 1]])
                matrix = view @ here.world(node.id)[0] @ place
                depth = float(camera.pixels(here.position(node.id))[1][0])
                opacity = float(here.value(node.id, "opacity")[0])
                found.append((depth, texture, np.ascontiguousarray(matrix.T, dtype="f4"), opacity))
        self.quads = sorted(found, key=lambda each: -each[0])

    def draw(self) -> bytes:
        self.target.use()
        self.target.clear(0, 0, 0, 1)
        self.gl.enable(moderngl.BLEND)
        self.gl.blend_func = moderngl.ONE, moderngl.ONE_MINUS_SRC_ALPHA
        for _, texture, matrix, opacity in self.quads:
            texture.use(0)
            self.program["m"].write(matrix)
            self.program["o"] = opacity
            self.square.render(moderngl.TRIANGLE_STRIP)
        if not self.linear:
            return self.target.read(components=4)
        self.result.use()
        self.gl.disable(moderngl.BLEND)
        self.target.color_attachments[0].use(0)
        self.develop.render(moderngl.TRIANGLE_STRIP)
        return self.result.read(components=4)


def flat(scene: wh.Scene) -> wh.Scene:
    """The demo's pictures alone, as a bare loop draws them: no solids, no haze, no second set."""
    gone = {
        node.id for node in scene.nodes if isinstance(node, wh.Logo | wh.Model | wh.Ground | wh.Projection | wh.Light)
    }
    gone |= descendants(scene, "market-lane")
    scene = wh.edits.remove_nodes(scene, gone)
    return replace(scene, settings=replace(scene.settings, distance=None))


def lens_frames(scene: wh.Scene, base: Path) -> None:
    scene = flat(scene)
    with RenderClient() as client:
        client.set_scene(scene, base)
        ratios, ours_all, theirs_all = [], [], []
        for frame in (0.0, 60.0, 120.0, 200.0):
            bare = BareLoop(scene, base, frame)
            ours, theirs = paired(
                lambda frame=frame: client.draw(FrameRequest(frame, VIEW, WIDTH, HEIGHT)), bare.draw, 15
            )
            ratios.append(ours / theirs)
            ours_all.append(ours)
            theirs_all.append(theirs)
    ours, theirs = statistics.median(ours_all), statistics.median(theirs_all)
    report(
        "A Lens frame of the demo's pictures at 1280×720, request to pixels",
        ms(ours),
        f"bare loop {ms(theirs)}",
        statistics.median(ratios),
        1.25,
    )


def crowd(folder: Path) -> tuple[wh.Scene, set[str]]:
    """200 pictures of two megapixels with soft edges, 30 of them in the picture; and which those are."""
    width, height = 1632, 1224
    v, u = np.mgrid[0:1:1224j, 0:1:1632j]
    fade = np.clip(12 * np.minimum(np.minimum(u, 1 - u), np.minimum(v, 1 - v)), 0, 1)
    nodes: list[wh.Picture | wh.Camera] = [
        wh.Camera(id="main-camera", name="Camera", channels=(wh.Channel("position.z", 60.0),))
    ]
    seen = set()
    for k in range(200):
        tone = np.array([(k * 37) % 256, (k * 91) % 256, (k * 53) % 256])
        pixels = np.concatenate([np.broadcast_to(tone, (height, width, 3)), fade[..., None] * 255], axis=-1)
        Image.fromarray(pixels.astype(np.uint8)).save(folder / f"{k}.png", compress_level=1)
        if k < 30:
            x, y, z = (k % 6 - 2.5) * 9.0, (k // 6 - 2) * 6.0, (k * 7) % 30 * 0.2
            seen.add(f"p{k}")
        else:
            x, y, z = 300.0 + (k % 17) * 9.0, (k // 17) * 8.0, 0.1 * k
        place = tuple(wh.Channel(f"position.{a}", float(value)) for a, value in zip("xyz", (x, y, z), strict=True))
        nodes.append(
            wh.Picture(
                id=f"p{k}", name=f"P{k}", artwork=wh.ImageFile(f"{k}.png"), width=width, height=height, channels=place
            )
        )
    return wh.Scene(settings=wh.Settings(background="#101010"), nodes=tuple(nodes), camera="main-camera"), seen


def large_set() -> None:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        scene, seen = crowd(folder)
        with RenderClient() as client:
            client.set_scene(scene, folder)
            bare = BareLoop(scene, folder, 0.0, seen)
            ours, theirs = paired(lambda: client.draw(FrameRequest(0.0, VIEW, WIDTH, HEIGHT)), bare.draw, 15)
        report(
            "200 pictures of 2 megapixels, 30 in the frame",
            ms(ours),
            f"bare loop of 30 {ms(theirs)}",
            ours / theirs,
            1.3,
        )
        wh.save(scene, folder / "crowd.heron")
        painted, complete = opened(folder / "crowd.heron")
    report("Opening it: window painted", ms(painted), f"last picture in {ms(complete)}", painted / complete, 1.0)


def movie(scene: wh.Scene, base: Path) -> None:
    scene = flat(scene)
    frames = tuple(float(frame) for frame in range(48))
    with tempfile.TemporaryDirectory() as folder:
        job = ExportJob(Path(folder) / "movie.mp4", frames, "main-camera", (WIDTH, HEIGHT), fine=False)

        def plain() -> None:
            with FrameStream(scene, base, FrameRequest(0.0, VIEW, WIDTH, HEIGHT)) as stream:
                for _ in stream.frames(frames):
                    pass

        ours, theirs = paired(lambda: export(scene, base, job), plain, 3)
    report("A 48-frame 1280×720 movie", ms(ours), f"rendering alone {ms(theirs)}", ours / theirs, 1.1)
