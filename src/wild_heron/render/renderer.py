"""Drawing a scene with OpenGL 3.3, without a window."""

from collections.abc import Callable
from pathlib import Path

import moderngl
import numpy as np
from numpy.typing import NDArray

from ..evaluate import Evaluation, evaluate
from ..motion import evaluate_channel
from ..scene import Camera, Format, Logo, Model, Picture, Projection, Scene
from ..scene.channels import APERTURE, FOCAL, FOCUS, SHUTTER, channel_or_default
from . import shaders
from .artwork import Artwork, ArtworkStore, Want
from .blurring import LEAST, Blurring
from .eye import Eye, Offset, make_eye
from .frames import Frames
from .lighting import Lighting, ShadowMap, lighting
from .meshes import MeshStore
from .messages import FreeView, LensView
from .pictures import Paint, PicturePainter, PlacedPicture, centres, depth_at, place_pictures
from .sampling import lens_points, pixel_offsets, shutter_times
from .solids import PlacedSolid, SolidPainter, in_view, place
from .throwing import ReachMaps, Thrown, photograph, projector_eye, strength_of

Array = NDArray[np.float64]
Step = Callable[[int, int], None]
Report = Callable[[int, int, dict[str, str]], None]

_DEPTH_CLAMP = 0x864F  # GL_DEPTH_CLAMP, OpenGL 3.2


class Overtaken(Exception):
    """Drawing was given up for a newer request."""


class Drawing:
    """One frame under way: how it is drawn, and what is found out on the way."""

    def __init__(
        self, view: LensView | FreeView, output: Format | None, final: bool, check: Callable[[], None], report: Report
    ) -> None:
        self.view, self.output, self.final = view, output, final
        self.check, self.report = check, report
        self.stretch = isinstance(view, LensView) and view.stretch
        self.problems: dict[str, str] = {}
        self.complete = True

    def step(self, done: int, total: int) -> None:
        self.check()
        self.report(done, total, {})


class Renderer:
    """Draws one scene at a time into 8-bit RGBA frames, rows from the top."""

    def __init__(self, context: moderngl.Context | None = None) -> None:
        self.context = context or moderngl.create_context(standalone=True, backend="egl", require=330)
        gl = self.context
        # Depths are spent on the range of the solids; what lies before or beyond it is drawn all the same.
        gl.enable_direct(_DEPTH_CLAMP)
        self.artwork = ArtworkStore(gl)
        self.meshes = MeshStore(gl)
        self._pictures = PicturePainter(gl)
        self._solids = SolidPainter(gl)
        self._blurring = Blurring(gl)
        self._frames = Frames(gl)
        self._reach = ReachMaps(gl)
        self._shadow: ShadowMap | None = None
        weighted = gl.program(vertex_shader=shaders.WHOLE_FRAME_VERTEX, fragment_shader=shaders.WEIGHTED_FRAGMENT)
        square = gl.buffer(np.array([0, 0, 1, 0, 0, 1, 1, 1], dtype="f4"))
        self._weighted = gl.vertex_array(weighted, [(square, "2f", "place")])
        self._reported: dict[str, str] = {}
        self.scene = Scene()
        self.base: Path | None = None

    def set_scene(self, scene: Scene, base: Path | None) -> None:
        self.scene, self.base = scene, base
        throwers = [node for node in scene.nodes if isinstance(node, Projection)]
        pictures = [node for node in scene.nodes if isinstance(node, Picture)]
        self.artwork.drop_unused([*pictures, *map(photograph, throwers)], base)
        self.meshes.drop_unused([node for node in scene.nodes if isinstance(node, Model | Logo)], base)
        self._reach.drop_unused({node.id for node in throwers})

    def forget_files(self) -> None:
        """Look at every file anew."""
        self.artwork.forget()
        self.meshes.forget()
        self._reported = {}

    @property
    def pending(self) -> int:
        """How many files are still being read in the background."""
        return self.artwork.pending + self.meshes.pending

    def collect(self) -> int:
        """Take in what was read in the background; returns how much arrived."""
        return self.artwork.collect() + self.meshes.collect()

    def draw(
        self,
        frame: float,
        view: LensView | FreeView,
        width: int,
        height: int,
        samples: int = 1,
        check: Callable[[], None] = lambda: None,
        report: Report = lambda done, total, problems: None,
        final: bool = True,
    ) -> tuple[moderngl.Framebuffer, bool]:
        """Draw a frame and return the framebuffer that holds it, and whether nothing is missing from it.

        A frame is the mean of ``samples``, each with its own time inside the shutter. ``check`` is called between
        steps and may raise Overtaken. Unless it is ``final``, artwork that is still being read is left out.
        KeyError where a lens view names no camera.
        """
        times, output = self._times(frame, view, samples)
        drawing = Drawing(view, output, final, check, report)
        evaluation = evaluate(self.scene, times)
        target = self._frames.get(width, height, "picture")
        if samples == 1:
            self._sample(target, evaluation, 0, Offset(), drawing, smooth=True)
        else:
            total = self._frames.get(width, height, "sum")
            total.use()
            total.clear(0.0, 0.0, 0.0, 0.0)
            on_lens = self._on_lens(evaluation, view, samples)
            for i, inside in enumerate(pixel_offsets(samples)):
                check()
                offset = Offset((inside[0], inside[1]), (on_lens[i, 0], on_lens[i, 1]))
                self._sample(target, evaluation, i, offset, drawing, smooth=False)
                self._add(target, total, 1.0 / samples, blend=True)
            self._add(total, target, 1.0, blend=False)
        self.artwork.tidy()
        self._blurring.tidy()
        if drawing.problems != self._reported and drawing.complete:
            self._reported = dict(drawing.problems)
            report(1, 1, drawing.problems)
        return target, drawing.complete

    def read_into(self, frame: moderngl.Framebuffer, buffer: memoryview | bytearray) -> None:
        """Copy a frame's RGBA bytes into a buffer."""
        frame.read_into(buffer, components=4, alignment=1)

    def _times(self, frame: float, view: LensView | FreeView, samples: int) -> tuple[Array, Format | None]:
        if isinstance(view, FreeView):
            return np.full(samples, frame), None
        camera = self.scene.node(view.camera)
        if isinstance(camera, Projection):
            return np.full(samples, frame), None
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

    def _add(self, source: moderngl.Framebuffer, target: moderngl.Framebuffer, weight: float, blend: bool) -> None:
        target.use()
        self.context.disable(moderngl.DEPTH_TEST)
        if blend:
            self.context.enable(moderngl.BLEND)
            self.context.blend_func = moderngl.ONE, moderngl.ONE
        else:
            self.context.disable(moderngl.BLEND)
        source.color_attachments[0].use(0)
        self._weighted.program["weight"] = weight
        self._weighted.render(moderngl.TRIANGLE_STRIP, 4)

    # One sample

    def _sample(
        self,
        target: moderngl.Framebuffer,
        evaluation: Evaluation,
        i: int,
        offset: Offset,
        drawing: Drawing,
        smooth: bool,
    ) -> None:
        scene = self.scene
        eye = make_eye(evaluation, i, drawing.view, drawing.output, target.size, offset)
        hidden = hidden_nodes(scene)
        # Haze lies between the set and the camera; from outside, the set is seen clear.
        distance = scene.settings.distance if isinstance(drawing.view, LensView) else None
        solids = self._placed_solids(evaluation, i, hidden, drawing)
        pictures = [] if drawing.stretch else place_pictures(evaluation, i, hidden, eye, distance)
        artworks = self._artworks(pictures, eye, drawing)
        spheres = _spheres(solids, pictures)
        if len(solids):
            depths = eye.depth(spheres[: len(solids), :3])
            radii = spheres[: len(solids), 3]
            eye = eye.ranged(float((depths - radii).min()), float((depths + radii).max()))
        paint = self._lit(evaluation, i, hidden, solids, pictures, artworks, spheres, drawing)
        thrown = self._thrown(evaluation, i, hidden, solids, spheres[: len(solids)], drawing)
        seen = [solid for solid in solids if in_view(solid, eye)]
        artworks = self._blurred(pictures, artworks)
        frame = (
            self._frames.get(target.width, target.height, "smooth")
            if smooth and seen and not drawing.stretch
            else target
        )
        frame.use()
        self._clear(frame, drawing)
        paint = paint._replace(distance=distance)
        if drawing.stretch:
            self._draw_solids(seen, eye, paint, thrown, stretch=True)
        else:
            self._draw_all(seen, pictures, artworks, eye, paint, thrown, frame.size)
        if frame is not target:
            self.context.copy_framebuffer(target, frame)

    def _clear(self, frame: moderngl.Framebuffer, drawing: Drawing) -> None:
        view = drawing.view
        background = view.background if isinstance(view, FreeView) else self.scene.settings.background
        red, green, blue = (int(background[k : k + 2], 16) / 255.0 for k in (1, 3, 5))
        frame.depth_mask = True
        if drawing.stretch:
            red = green = blue = 0.0
        # Alpha starts at nothing, so that it comes to say how far artwork covers the background.
        frame.clear(red, green, blue, 0.0, depth=1.0)

    def _placed_solids(self, evaluation: Evaluation, i: int, hidden: set[str], drawing: Drawing) -> list[PlacedSolid]:
        nodes = [n for n in self.scene.nodes if isinstance(n, Model | Logo) and n.id not in hidden]
        out = []
        for node, solid in zip(nodes, self.meshes.get_all(nodes, self.base, drawing.final, drawing.step), strict=True):
            if solid is None:
                drawing.complete = False
                continue
            if solid.problem:
                drawing.problems[node.id] = solid.problem
            placed = place(node, solid, evaluation, i)
            if placed is not None:
                out.append(placed)
        return out

    def _artworks(self, pictures: list[PlacedPicture], eye: Eye, drawing: Drawing) -> list[Artwork | None]:
        """What the pictures show; nothing is read for those that are neither in view nor throw a shadow."""
        needed = [k for k, picture in enumerate(pictures) if picture.in_view or picture.node.takes_light]
        wanted = [pictures[k].want(eye) for k in needed]
        found = self.artwork.get_all(wanted, self.base, drawing.final, drawing.step)
        out: list[Artwork | None] = [None] * len(pictures)
        for k, artwork in zip(needed, found, strict=True):
            out[k] = artwork
            if artwork is None:
                drawing.complete = False
            elif artwork.problem:
                drawing.problems[pictures[k].node.id] = artwork.problem
        if not drawing.final and self.artwork.pending:
            drawing.complete = False
        return out

    def _blurred(self, pictures: list[PlacedPicture], artworks: list[Artwork | None]) -> list[Artwork | None]:
        out = list(artworks)
        for k, (picture, artwork) in enumerate(zip(pictures, artworks, strict=True)):
            if artwork is not None and picture.in_view and picture.blur >= LEAST:
                out[k] = self._blurring.get(artwork, picture.blur, picture.node.width, picture.node.height)
        return out

    def _lit(
        self,
        evaluation: Evaluation,
        i: int,
        hidden: set[str],
        solids: list[PlacedSolid],
        pictures: list[PlacedPicture],
        artworks: list[Artwork | None],
        spheres: Array,
        drawing: Drawing,
    ) -> Paint:
        lights = lighting(evaluation, i, hidden)
        shaded = [k for k, picture in enumerate(pictures) if picture.node.takes_light]
        if lights.key is None or not (solids or shaded):
            return Paint(_without_key(lights), self._idle_shadow(bool(solids or shaded)), None)
        chosen = [*range(len(solids)), *(len(solids) + k for k in shaded)]
        throwing = [pictures[k] for k in shaded]
        shown = [artworks[k] for k in shaded]
        state = _state(solids) + b"".join(
            picture.placed.tobytes() + str((id(art), picture.opacity)).encode()
            for picture, art in zip(throwing, shown, strict=True)
        )

        def depths(clip: Array) -> None:
            self._depth_only()
            self._solids.depths([solid for solid in solids if solid.is_solid], clip)
            self._pictures.depths(throwing, shown, clip)

        shadow = self._shadow_map()
        shadow.update(lights.key, evaluation.world(lights.key.id)[i], spheres[chosen], state, drawing.final, depths)
        return Paint(lights, shadow, None)

    def _shadow_map(self) -> ShadowMap:
        if self._shadow is None:
            self._shadow = ShadowMap(self.context)
        return self._shadow

    def _idle_shadow(self, needed: bool) -> ShadowMap | None:
        # A shader that may look a shadow up has to be given a map, even where no light throws one.
        return self._shadow_map() if needed else None

    def _thrown(
        self,
        evaluation: Evaluation,
        i: int,
        hidden: set[str],
        solids: list[PlacedSolid],
        spheres: Array,
        drawing: Drawing,
    ) -> list[Thrown]:
        nodes = [
            node
            for node in self.scene.nodes
            if isinstance(node, Projection) and node.receivers and (node.id not in hidden or drawing.stretch)
        ]
        if not nodes or not solids or (isinstance(drawing.view, LensView) and not drawing.view.thrown):
            return []
        wanted = [Want(photograph(node), 0, 1.0) for node in nodes]
        photos = self.artwork.get_all(wanted, self.base, drawing.final, drawing.step)
        blockers = [solid for solid in solids if solid.is_solid]
        out = []
        for node, photo in zip(nodes, photos, strict=True):
            if photo is None:
                drawing.complete = False
                continue
            if photo.problem:
                drawing.problems[node.id] = photo.problem
            eye = projector_eye(evaluation, i, node)

            def depths(clip: Array) -> None:
                self._depth_only()
                self._solids.depths(blockers, clip)

            reach, clip = self._reach.update(node, eye, spheres, _state(blockers), depths)
            strength = 1.0 if drawing.stretch else strength_of(evaluation, i, node)
            receivers = frozenset(node.receivers)
            size = (node.width, node.height)
            out.append(Thrown(receivers, clip, eye.position, strength, photo.texture, reach, size))
        return out

    def _depth_only(self) -> None:
        self.context.disable(moderngl.BLEND)
        self.context.enable(moderngl.DEPTH_TEST)
        self.context.depth_func = "<"

    def _draw_solids(
        self, solids: list[PlacedSolid], eye: Eye, paint: Paint, thrown: list[Thrown], stretch: bool = False
    ) -> None:
        """Draw solids that hide each other, the nearest first."""
        gl = self.context
        gl.enable(moderngl.DEPTH_TEST)
        gl.disable(moderngl.BLEND)
        gl.depth_func = "<"
        for solid in sorted(solids, key=lambda solid: float(eye.depth(solid.middle))):
            self._solids.draw(solid, eye, paint.lights, paint.shadow, paint.distance, thrown, stretch)

    def _draw_all(
        self,
        solids: list[PlacedSolid],
        pictures: list[PlacedPicture],
        artworks: list[Artwork | None],
        eye: Eye,
        paint: Paint,
        thrown: list[Thrown],
        size: tuple[int, int],
    ) -> None:
        gl = self.context
        frame = gl.fbo
        gl.disable(moderngl.DEPTH_TEST)
        shown = self._pictures.in_order(pictures, artworks, eye)
        gl.blend_func = moderngl.ONE, moderngl.ONE_MINUS_SRC_ALPHA
        if not solids:
            self._draw_flat(shown, eye, paint, size)
            return
        opaque = [solid for solid in solids if solid.is_solid]
        clear = sorted((s for s in solids if not s.is_solid), key=lambda s: float(eye.depth(s.middle)))
        self._draw_solids(opaque, eye, paint, thrown)
        gl.enable(moderngl.BLEND)
        gl.depth_func = "<="
        for each, depth in zip(shown, centres(shown, eye), strict=True):
            while clear and float(eye.depth(clear[-1].middle)) > depth:
                self._draw_clear(clear.pop(), eye, paint, thrown)
            frame.depth_mask = False
            self._pictures.draw(each, eye, paint, size)
        while clear:
            self._draw_clear(clear.pop(), eye, paint, thrown)
        frame.depth_mask = True

    def _draw_clear(self, solid: PlacedSolid, eye: Eye, paint: Paint, thrown: list[Thrown]) -> None:
        """Draw a solid that is seen through: its nearest surface alone."""
        frame = self.context.fbo
        frame.depth_mask = True
        self.context.depth_func = "<"
        self._solids.depths([solid], eye.clip)
        self.context.depth_func = "<="
        self._solids.draw(solid, eye, paint.lights, paint.shadow, paint.distance, thrown)

    def _draw_flat(self, shown: list, eye: Eye, paint: Paint, size: tuple[int, int]) -> None:  # type: ignore[type-arg]
        """Draw pictures alone: what is opaque fills first, from front to back."""
        gl = self.context
        frame = gl.fbo
        gl.enable(moderngl.DEPTH_TEST)
        gl.disable(moderngl.BLEND)
        gl.depth_func = "<"
        count = len(shown)
        filled = self._pictures.fill_first(shown, eye, paint, size)
        gl.enable(moderngl.BLEND)
        frame.depth_mask = False
        if not filled:
            gl.disable(moderngl.DEPTH_TEST)
        for number, each in enumerate(shown):
            self._pictures.draw(each, eye, paint, size, depth_at(number, count) if filled else 2.0)
        frame.depth_mask = True


def _state(solids: list[PlacedSolid]) -> bytes:
    return b"".join(
        solid.world.tobytes() + solid.poses.tobytes() + str((id(solid.solid), solid.opacity)).encode()
        for solid in solids
    )


def _without_key(lights: Lighting) -> Lighting:
    kind = lights.kind.copy()
    if len(kind):
        kind[:, 1] = 0.0
    return lights._replace(kind=kind)


def _spheres(solids: list[PlacedSolid], pictures: list[PlacedPicture]) -> Array:
    """Middles and radii (n, 4) of all that is placed, solids first."""
    rows = [np.array([*solid.middle, solid.radius]) for solid in solids]
    for picture in pictures:
        across, down = picture.placed[:3, 0], picture.placed[:3, 1]
        radius = 0.5 * float(np.sqrt((across**2).sum() + (down**2).sum()) * 1.0001) + 1e-9
        rows.append(np.array([*(picture.placed[:3, 3] + 0.5 * (across + down)), radius]))
    return np.array(rows).reshape(-1, 4)


def hidden_nodes(scene: Scene) -> set[str]:
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
