"""Drawing a scene with OpenGL 3.3, without a window."""

from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

import moderngl
import numpy as np
from numpy.typing import NDArray

from ..evaluate import Evaluation, evaluate
from ..motion import evaluate_channel
from ..scene import Camera, Format, Picture, Scene
from ..scene.channels import APERTURE, FOCAL, FOCUS, OPACITY, SHUTTER, channel_or_default
from ..space.transform import product
from . import shaders
from .artwork import Artwork, ArtworkStore
from .bsp import DrawOrder, Piece
from .messages import FreeView, LensView
from .sampling import lens_points, pixel_offsets, shutter_times

Array = NDArray[np.float64]

_NEAR = 1e-3
_MAX_PIECES = 4096
_KEPT_FRAMES = 8


class Overtaken(Exception):
    """Drawing was given up for a newer request."""


class _Offset(NamedTuple):
    """Where one sample lies inside the pixel, and on the lens in units."""

    pixel: tuple[float, float] = (0.0, 0.0)
    lens: tuple[float, float] = (0.0, 0.0)


class _Eye(NamedTuple):
    """How one sample is drawn: clip matrix (4, 4) from the world, the point it is seen from, the scale of a unit."""

    clip: Array
    position: Array
    depth_row: Array
    pixels_at_unit: float
    parallel: bool


class Renderer:
    """Draws one scene at a time into 8-bit RGBA frames, rows from the top."""

    def __init__(self, context: moderngl.Context | None = None) -> None:
        self.context = context or moderngl.create_context(standalone=True, backend="egl", require=330)
        gl = self.context
        self.artwork = ArtworkStore(gl)
        self._plain = gl.program(vertex_shader=shaders.PICTURE_VERTEX, fragment_shader=shaders.PICTURE_FRAGMENT)
        self._edged = gl.program(vertex_shader=shaders.PICTURE_VERTEX, fragment_shader=shaders.EDGED_FRAGMENT)
        self._corners = gl.buffer(reserve=_MAX_PIECES * 8)
        self._vertex_arrays = {
            program: gl.vertex_array(program, [(self._corners, "2f", "place")])
            for program in (self._plain, self._edged)
        }
        weighted = gl.program(vertex_shader=shaders.WHOLE_FRAME_VERTEX, fragment_shader=shaders.WEIGHTED_FRAGMENT)
        square = gl.buffer(np.array([0, 0, 1, 0, 0, 1, 1, 1], dtype="f4"))
        self._weighted = gl.vertex_array(weighted, [(square, "2f", "place")])
        self._frames: dict[tuple[int, int, str], moderngl.Framebuffer] = {}
        self._order: tuple[bytes, DrawOrder] | None = None
        self.scene = Scene()
        self.base: Path | None = None

    def set_scene(self, scene: Scene, base: Path | None) -> None:
        self.scene, self.base = scene, base
        self.artwork.drop_unused([node for node in scene.nodes if isinstance(node, Picture)], base)

    def draw(
        self,
        frame: float,
        view: LensView | FreeView,
        width: int,
        height: int,
        samples: int = 1,
        check: Callable[[], None] = lambda: None,
        loading: Callable[[int, int, dict[str, str]], None] = lambda done, total, problems: None,
    ) -> moderngl.Framebuffer:
        """Draw a frame and return the framebuffer that holds it.

        A frame is the mean of ``samples``, each with its own time inside the shutter. ``check`` is called between
        steps and may raise Overtaken. KeyError where a lens view names no camera.
        """
        times, output = self._times(frame, view, samples)
        evaluation = evaluate(self.scene, times)
        target = self._frame(width, height, "picture")
        if samples == 1:
            self._draw_sample(target, evaluation, 0, view, output, _Offset(), check, loading)
            return target
        total = self._frame(width, height, "sum")
        total.use()
        total.clear(0.0, 0.0, 0.0, 0.0)
        on_lens = self._on_lens(evaluation, view, samples)
        for i, inside in enumerate(pixel_offsets(samples)):
            check()
            offset = _Offset((inside[0], inside[1]), (on_lens[i, 0], on_lens[i, 1]))
            self._draw_sample(target, evaluation, i, view, output, offset, check, loading)
            self._add(target, total, 1.0 / samples, blend=True)
        self._add(total, target, 1.0, blend=False)
        return target

    def read_into(self, frame: moderngl.Framebuffer, buffer: memoryview | bytearray) -> None:
        """Copy a frame's RGBA bytes into a buffer."""
        frame.read_into(buffer, components=4, alignment=1)

    def _times(self, frame: float, view: LensView | FreeView, samples: int) -> tuple[Array, Format | None]:
        if isinstance(view, FreeView):
            return np.full(samples, frame), None
        camera = self.scene.node(view.camera)
        if not isinstance(camera, Camera):
            raise KeyError(view.camera)
        output = next((f for f in self.scene.formats if f.name == view.format), None)
        shutter = float(evaluate_channel(channel_or_default(camera, SHUTTER), np.array([frame]))[0])
        return shutter_times(frame, shutter, samples), output

    def _on_lens(self, evaluation: Evaluation, view: LensView | FreeView, samples: int) -> Array:
        """Where each sample lies on the lens, (n, 2) in units; in its middle without depth of field."""
        node = self.scene.node(view.camera) if isinstance(view, LensView) else None
        if not isinstance(node, Camera) or not node.depth_of_field:
            return np.zeros((samples, 2))
        mm = self.scene.settings.mm_per_unit
        focal, focus = evaluation.value(node.id, FOCAL), evaluation.value(node.id, FOCUS) * mm
        # The aperture's radius f/2N, drawn as if the sensor were at f; focused nearer it is farther back, by
        # s/(s − f), which makes the blur circle that of a thin lens: (f²/N)·|d − s| / (d·(s − f)).
        radius = focal / (2.0 * evaluation.value(node.id, APERTURE)) * focus / np.maximum(focus - focal, 0.1 * focal)
        return lens_points(samples) * (radius / mm)[:, None]

    def _frame(self, width: int, height: int, use: str) -> moderngl.Framebuffer:
        key = (width, height, use)
        frame = self._frames.pop(key, None)
        if frame is None:
            # The one that was not used for longest goes; what this very draw uses was used just now.
            if len(self._frames) >= _KEPT_FRAMES:
                old = self._frames.pop(next(iter(self._frames)))
                for attachment in old.color_attachments:
                    attachment.release()
                old.release()
            texture = self.context.texture((width, height), 4, dtype="f4" if use == "sum" else "f1")
            texture.filter = (moderngl.NEAREST, moderngl.NEAREST)
            frame = self.context.framebuffer([texture])
        self._frames[key] = frame
        return frame

    def _add(self, source: moderngl.Framebuffer, target: moderngl.Framebuffer, weight: float, blend: bool) -> None:
        target.use()
        if blend:
            self.context.enable(moderngl.BLEND)
            self.context.blend_func = moderngl.ONE, moderngl.ONE
        else:
            self.context.disable(moderngl.BLEND)
        source.color_attachments[0].use(0)
        self._weighted.program["weight"] = weight
        self._weighted.render(moderngl.TRIANGLE_STRIP, 4)

    def _eye(
        self,
        evaluation: Evaluation,
        i: int,
        view: LensView | FreeView,
        output: Format | None,
        size: tuple[int, int],
        offset: _Offset,
    ) -> _Eye:
        width, height = size
        if isinstance(view, LensView):
            camera = evaluation.camera(view.camera, output, size)
            pose = camera.pose[i]
            focal: float | None = float(camera.focal_px[i])
            focus = float(camera.focus[i])
        else:
            pose = np.array(view.pose).reshape(4, 4)
            focal, focus = view.focal_px, np.inf
        world_to_eye = np.eye(4)
        world_to_eye[:3, :3] = pose[:3, :3].T
        world_to_eye[:3, 3] = -pose[:3, :3].T @ pose[:3, 3]
        lens = np.zeros((4, 4))
        dx, dy = 2.0 * offset.pixel[0] / width, 2.0 * offset.pixel[1] / height
        # Rows run from the top, so y is turned over here and nowhere else.
        if focal is not None:
            # Seen from a point beside the middle of the lens, and sheared so that what is in focus stays where it is.
            world_to_eye[:2, 3] -= offset.lens
            dx += 2.0 * focal * offset.lens[0] / (width * focus)
            dy -= 2.0 * focal * offset.lens[1] / (height * focus)
            lens[0] = (2.0 * focal / width, 0.0, -dx, 0.0)
            lens[1] = (0.0, -2.0 * focal / height, -dy, 0.0)
            lens[2] = (0.0, 0.0, -1.0, -2.0 * _NEAR)
            lens[3] = (0.0, 0.0, -1.0, 0.0)
            seen_from = pose[:3, 3] + pose[:3, :2] @ np.array(offset.lens)
            return _Eye(lens @ world_to_eye, seen_from, -world_to_eye[2], focal, False)
        assert isinstance(view, FreeView)
        scale = view.pixels_per_unit
        lens[0] = (2.0 * scale / width, 0.0, 0.0, dx)
        lens[1] = (0.0, -2.0 * scale / height, 0.0, dy)
        lens[3, 3] = 1.0
        return _Eye(lens @ world_to_eye, pose[:3, 3] + pose[:3, 2] * 1e7, np.zeros(4), scale, True)

    def _draw_sample(
        self,
        target: moderngl.Framebuffer,
        evaluation: Evaluation,
        i: int,
        view: LensView | FreeView,
        output: Format | None,
        offset: _Offset,
        check: Callable[[], None],
        loading: Callable[[int, int, dict[str, str]], None],
    ) -> None:
        eye = self._eye(evaluation, i, view, output, target.size, offset)
        pictures = self._visible(evaluation, i)
        artworks = self._artworks(pictures, evaluation, i, eye, check, loading)
        placed = [evaluation.world(picture.id)[i] @ self._picture_matrix(picture) for picture, _ in pictures]
        order = self._sorted(placed, artworks)
        target.use()
        background = view.background if isinstance(view, FreeView) else self.scene.settings.background
        red, green, blue = (int(background[k : k + 2], 16) / 255.0 for k in (1, 3, 5))
        # Alpha starts at nothing, so that it comes to say how far artwork covers the background.
        target.clear(red, green, blue, 0.0)
        self.context.enable(moderngl.BLEND)
        self.context.blend_func = moderngl.ONE, moderngl.ONE_MINUS_SRC_ALPHA
        for piece in order.from_eye(eye.position):
            self._draw_piece(
                piece, placed[piece.picture], artworks[piece.picture], pictures[piece.picture][1], eye, target
            )

    def _visible(self, evaluation: Evaluation, i: int) -> list[tuple[Picture, float]]:
        hidden = _hidden(self.scene)
        out = []
        for node in self.scene.nodes:
            if isinstance(node, Picture) and node.id not in hidden:
                opacity = float(evaluation.value(node.id, OPACITY)[i])
                if opacity > 0.0:
                    out.append((node, opacity))
        return out

    def _picture_matrix(self, picture: Picture) -> Array:
        """From u, v (v down) to the picture's own plane, in units."""
        unit = self.scene.settings.pixels_per_unit
        w, h = picture.width / unit, picture.height / unit
        return np.array([[w, 0, 0, -w / 2], [0, -h, 0, h / 2], [0, 0, 1, 0], [0, 0, 0, 1.0]])

    def _artworks(
        self,
        pictures: list[tuple[Picture, float]],
        evaluation: Evaluation,
        i: int,
        eye: _Eye,
        check: Callable[[], None],
        loading: Callable[[int, int, dict[str, str]], None],
    ) -> list[Artwork]:
        def step(done: int, total: int) -> None:
            check()
            loading(done, total, {})

        self.artwork.drop_smaller()
        wanted = [(picture, self._scale(evaluation.world(picture.id)[i], eye)) for picture, _ in pictures]
        artworks, fresh = self.artwork.get_all(wanted, self.base, step)
        if fresh:
            pairs = zip(wanted, artworks, strict=True)
            loading(fresh, fresh, {picture.id: art.problem for (picture, _), art in pairs if art.problem})
        return artworks

    def _scale(self, world: Array, eye: _Eye) -> float:
        """Output pixels per artwork pixel at the node's origin."""
        size = float(np.sqrt(max((world[:3, 0] ** 2).sum(), (world[:3, 1] ** 2).sum())))
        depth = 1.0 if eye.parallel else max(float(eye.depth_row @ world[:, 3]), 0.5)
        return eye.pixels_at_unit * size / (depth * self.scene.settings.pixels_per_unit)

    def _sorted(self, placed: list[Array], artworks: list[Artwork]) -> DrawOrder:
        key = b"".join(matrix.tobytes() for matrix in placed) + b"".join(
            np.array(artwork.bounds).tobytes() for artwork in artworks
        )
        if self._order is None or self._order[0] != key:
            pieces = []
            for number, (matrix, artwork) in enumerate(zip(placed, artworks, strict=True)):
                u0, v0, u1, v1 = artwork.bounds
                uv = np.array([[u0, v0], [u1, v0], [u1, v1], [u0, v1]])
                corners = np.concatenate([uv, np.zeros((4, 1)), np.ones((4, 1))], axis=1) @ matrix.T
                pieces.append(Piece(number, corners[:, :3], uv))
            self._order = (key, DrawOrder(pieces))
        return self._order[1]

    def _draw_piece(
        self, piece: Piece, placed: Array, artwork: Artwork, opacity: float, eye: _Eye, target: moderngl.Framebuffer
    ) -> None:
        clip = product(eye.clip, placed)
        corners = np.concatenate([piece.uv, np.zeros((len(piece.uv), 1)), np.ones((len(piece.uv), 1))], axis=1) @ clip.T
        if _outside(corners):
            return
        margin, edge_in_view = _edges(piece, corners, clip, target.size)
        program = self._edged if edge_in_view else self._plain
        program["clip_from_picture"].write(np.ascontiguousarray(clip.T, dtype="f4"))
        program["margin"] = margin
        program["opacity"] = opacity
        self._corners.write(np.ascontiguousarray(piece.uv, dtype="f4"))
        artwork.texture.use(0)
        self._vertex_arrays[program].render(moderngl.TRIANGLE_FAN, len(piece.uv))


def _outside(corners: Array) -> bool:
    """Whether clip corners (K, 4) all lie beyond one side of the frame, or behind the lens."""
    x, y, w = corners[:, 0], corners[:, 1], corners[:, 3]
    reach = w * 1.02
    return bool((w <= _NEAR).all() or any((side > reach).all() for side in (x, -x, y, -y)))


def _edges(piece: Piece, corners: Array, clip: Array, size: tuple[int, int]) -> tuple[tuple[float, float], bool]:
    """How far in u and v to draw beyond the picture's true edges, and whether such an edge may be in view."""
    uv = piece.uv
    if not ((uv <= 0.0) | (uv >= 1.0)).any():
        return (0.0, 0.0), False
    w = corners[:, 3]
    margin = (0.0, 0.0)
    depth = float(np.abs(w).max())
    across = float(np.hypot(clip[0, 0] * size[0], clip[1, 0] * size[1])) / 2.0
    down = float(np.hypot(clip[0, 1] * size[0], clip[1, 1] * size[1])) / 2.0
    if across > 0.0 and down > 0.0:
        margin = (min(2.0 * depth / across, 0.25), min(2.0 * depth / down, 0.25))
    if (w <= _NEAR).any():
        return margin, True
    x, y = corners[:, 0] / w, corners[:, 1] / w
    count = len(uv)
    for i in range(count):
        j = (i + 1) % count
        true_edge = any(uv[i, k] == uv[j, k] and uv[i, k] in (0.0, 1.0) for k in (0, 1))
        if true_edge and not any((side[i] > limit and side[j] > limit) for side in (x, -x, y, -y) for limit in (1.01,)):
            return margin, True
    return margin, False


def _hidden(scene: Scene) -> set[str]:
    """Ids of nodes that are hidden themselves or hang, however far up, on one that is."""
    hidden = {node.id for node in scene.nodes if node.hidden}
    if not hidden:
        return hidden
    carriers = {node.id: node.carrier for node in scene.nodes}
    for node in scene.nodes:
        carrier = node.carrier
        while carrier is not None:
            if carrier in hidden:
                hidden.add(node.id)
                break
            carrier = carriers[carrier]
    return hidden
