"""Renders one sample of a frame: places, lights and draws everything in view."""

import contextlib
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

import moderngl
import numpy as np

from ..arrays import Array
from ..evaluate import CameraView, Evaluation
from ..files.permission import for_scene
from ..files.reader import Reader
from ..gl.request import FreeView, ThroughLens
from ..scene import Ground, Logo, Model, Picture, Projection, Scene
from ..scene.dependencies import hidden_nodes
from .artwork_store import Artwork, ArtworkStore, ArtworkWant
from .blurring import LEAST, Blurring
from .footprints import Footprint, change_between
from .frame_context import FrameContext
from .framebuffers import Framebuffers, picture_use
from .ground_store import GroundStore
from .lighting import Lighting, lighting, mixed
from .meshes import MeshStore
from .picture_painter import (
    ANISOTROPY,
    FARTHEST,
    PicturePainter,
    PlacedPicture,
    ShownPiece,
    StillPictures,
    centres,
    depth_at,
    is_software,
    place_pictures,
)
from .projections import ProjectedPhoto, ReachMaps, photograph, projector_transform, strength_of
from .shadows import ShadowMap
from .solid_painter import PlacedSolid, SolidPainter, in_view, is_small, place
from .stage_clock import StageClock
from .uniforms import PassUniforms, Uniforms
from .view_transform import Offset, ViewTransform, make_view_transform

CLIP_PLANES = (0x3000, 0x3001)  # GL_CLIP_DISTANCE0 and 1, OpenGL 3.0


def is_drawable(matrix: Array) -> bool:
    """Whether a graphics card's numbers can hold a matrix (4, 4) and what becomes of it."""
    return bool(np.abs(matrix).max() < FARTHEST)


class RoughNodes(NamedTuple):
    """By their ids: solids, those of them with creases, and pictures that cut through each other."""

    solids: set[str]
    creased: set[str]
    cut: set[str]


class SampleRenderer:
    """The scene as it is drawn: what was read and made for it, and the painters."""

    def __init__(
        self, context: moderngl.Context, framebuffers: Framebuffers, reader: Reader, clock: StageClock
    ) -> None:
        self.context, self._reader, self._clock = context, reader, clock
        self._versions: dict[int, tuple[Scene, Path | None, StillPictures]] = {}
        self.artwork = ArtworkStore(context, reader)
        self.meshes = MeshStore(context, reader)
        self.grounds = GroundStore(context)
        self._framebuffers = framebuffers
        self._software = is_software(context)
        self._pictures = PicturePainter(context)
        self._solids = SolidPainter(context)
        self._blurring = Blurring(context)
        self._reach = ReachMaps(context)
        self._shadow: ShadowMap | None = None
        self.set_scene(Scene(), None)

    @property
    def linear(self) -> bool:
        """Whether colours are mixed as linear light."""
        return self.scene.settings.light == "linear"

    def set_scene(
        self, scene: Scene, base: Path | None, version: int = 0, allowed: tuple[str, ...] | None = None
    ) -> None:
        """Draw another scene from now on; what no version uses any more is released. Files are read where ``base`` and
        the ``allowed`` folders are (None: everywhere)."""
        if allowed is not None:
            permission = for_scene(base, allowed)
            if permission != self._reader.permission:
                self._reader.permission = permission
                self.artwork.forget_problems()
        self._versions[version] = (scene, base, StillPictures())
        self.use(version)
        used = [(node, base) for scene, base, _ in self._versions.values() for node in scene.nodes]
        projections = [(node, base) for node, base in used if isinstance(node, Projection)]
        pictures = [(node, base) for node, base in used if isinstance(node, Picture)]
        self.artwork.drop_unused([*pictures, *((photograph(node), base) for node, base in projections)])
        self.meshes.drop_unused([(node, base) for node, base in used if isinstance(node, Model | Logo)])
        self.grounds.drop_unused({node.id for node, _ in used if isinstance(node, Ground)})
        self._reach.drop_unused({node.id for node, _ in projections})

    def use(self, version: int) -> None:
        """Draw one of the versions; KeyError where there is none of this number."""
        self.scene, self.base, self._still = self._versions[version]
        self.artwork.linear = self.meshes.linear = self.linear

    def tidy(self) -> None:
        """Between frames: keep to the budgets."""
        self.artwork.tidy()
        self._blurring.tidy()

    def draw(
        self,
        target: moderngl.Framebuffer,
        evaluation: Evaluation,
        i: int,
        offset: Offset,
        context: FrameContext,
        smooth: bool,
        aov: PassUniforms | None = None,
    ) -> None:
        """Draw sample ``i`` of an evaluation into a framebuffer; ``smooth``: with the edges of solids smoothed.
        ``aov``: not how it looks, but how it lies."""
        scene = self.scene
        context.problems |= evaluation.faults
        eye = make_view_transform(context.seen, i, context.size, offset, context.tile)
        hidden = hidden_nodes(scene)
        # Haze lies between the set and the camera; from outside, the set is seen clear.
        clear = context.mattes is not None or not isinstance(context.view, ThroughLens)
        distance = None if clear else scene.settings.distance
        if context.alone_ids is not None:
            hidden = hidden | {node.id for node in scene.nodes if node.id not in context.alone_ids}
        solids = self._placed_solids(evaluation, i, hidden, context)
        pictures = [] if context.stretch else place_pictures(evaluation, i, hidden, eye, distance, self._still, context)
        with self._clock.stage("artwork"):
            artworks = self._artworks(pictures, eye, context)
        coloured = context.mattes is None and aov is None
        lit = [picture for picture in pictures if picture.node.takes_light and coloured]
        spheres = _spheres(solids, pictures) if solids or lit else np.zeros((0, 4))
        if len(solids):
            eye = _ranged(eye, spheres[: len(solids)])
        if coloured:
            with self._clock.stage("shadows"):
                uniforms = self._lit(evaluation, i, hidden, solids, pictures, artworks, spheres, context)
        else:
            uniforms = Uniforms(lighting(evaluation, i, set()), None, None, mattes=context.mattes)
        projected = self._projected(evaluation, i, hidden, solids, context) if coloured else []
        seen = [solid for solid in solids if in_view(solid, eye)]
        with self._clock.stage("blur"):
            artworks = artworks if _unblurred(context) else self._blurred(pictures, artworks, eye)
        linear = self.linear and coloured and not context.stretch
        frame = target
        if smooth and seen and not context.stretch and coloured:
            frame = self._framebuffers.get(target.width, target.height, picture_use(context.precision, smooth=True))
        frame.use()
        self._clear(frame, context, linear, aov is not None)
        if context.edges is not None:
            context.edges.hide_the_rest()
        uniforms = uniforms._replace(
            distance=distance,
            drafts=not context.final,
            pixels_per_unit=scene.settings.pixels_per_unit,
            linear=linear,
            aov=aov,
            footprint=self._footprint(evaluation, i, context) if context.fine and coloured else None,
        )
        with self._clipped(eye):
            if context.stretch:
                self._draw_solids(seen, eye, uniforms, projected, stretch=True)
            else:
                self._draw_all(
                    seen, pictures, artworks, eye, uniforms, projected, frame.size, context.edges is not None
                )
        if frame is not target:
            self.context.copy_framebuffer(target, frame)

    def _footprint(self, evaluation: Evaluation, i: int, context: FrameContext) -> Footprint:
        """What sample ``i`` stands for."""
        seen, (shift, middle, sides, fewest) = context.seen, context.part
        if not isinstance(seen, CameraView) or len(evaluation.frames) == 1:
            return Footprint(sides, shift, middle, 0.0, 1.0, lambda node: None, fewest)
        near = {k: make_view_transform(seen, k, context.size, Offset(), context.tile).clip for k in (i - 1, i, i + 1)
                if 0 <= k < len(evaluation.frames)}  # fmt: skip
        known: dict[str, Array | None] = {}

        def drift(node: Picture) -> Array | None:
            if node.id not in known:
                known[node.id] = change(node)
            return known[node.id]

        def change(node: Picture) -> Array | None:
            found = {
                k: (clip @ self._still.look_up(evaluation, k, node)[0])[np.ix_((0, 1, 3), (0, 1, 3))]
                for k, clip in near.items()
            }
            return change_between(found.get(i - 1), found[i], found.get(i + 1))

        lens = float(seen.aperture_radius()[i] * seen.focal_px[i]) * (sides[0] * sides[1]) ** 0.5
        return Footprint(sides, shift, middle, lens, max(float(seen.focus[i]), 1e-6), drift, fewest)

    def rough_nodes(self, evaluation: Evaluation, i: int, context: FrameContext) -> RoughNodes:
        """The nodes in view that have edges which one sample does not smooth."""
        hidden = hidden_nodes(self.scene)
        eye = make_view_transform(context.seen, i, context.size, Offset())
        solids = [each for each in self._placed_solids(evaluation, i, hidden, context) if in_view(each, eye)]
        pictures = place_pictures(evaluation, i, hidden, eye, None, self._still, context)
        shown = self._pictures.in_order(pictures, self._artworks(pictures, eye, context), eye)
        return RoughNodes(
            {each.node.id for each in solids},
            {each.node.id for each in solids if each.solid.creased},
            {each.picture.node.id for each in shown if len(each.piece.cuts)},
        )

    @contextlib.contextmanager
    def _clipped(self, eye: ViewTransform) -> Iterator[None]:
        """While it draws, clip planes hide what lies before or beyond them."""
        if not eye.clips:
            yield
            return
        for plane in CLIP_PLANES:
            self.context.enable_direct(plane)
        try:
            yield
        finally:
            for plane in CLIP_PLANES:
                self.context.disable_direct(plane)

    def _clear(self, frame: moderngl.Framebuffer, context: FrameContext, linear: bool, plain: bool) -> None:
        view = context.view
        background = view.background if isinstance(view, FreeView) else self.scene.settings.background
        red, green, blue = mixed(background, linear)
        frame.depth_mask = True
        empty = isinstance(view, ThroughLens) and view.transparent
        if context.stretch or empty or plain or context.mattes is not None:
            red = green = blue = 0.0
        # Alpha starts at nothing, so that it comes to say how far artwork covers the background.
        frame.clear(red, green, blue, 0.0, depth=1.0)

    def _placed_solids(
        self, evaluation: Evaluation, i: int, hidden: set[str], context: FrameContext
    ) -> list[PlacedSolid]:
        nodes = [n for n in self.scene.nodes if isinstance(n, Model | Logo) and n.id not in hidden]
        out = []
        for node, solid in zip(nodes, self.meshes.get_all(nodes, self.base, context.final, context.step), strict=True):
            if solid is None:
                context.complete = False
                continue
            if solid.problem:
                context.problems[node.id] = solid.problem
            with context.alone(node):
                placed = place(node, solid, evaluation, i)
                if placed is not None and is_drawable(placed.world):
                    out.append(placed)
        for ground in self.scene.nodes:
            if isinstance(ground, Ground) and ground.id not in hidden:
                with context.alone(ground):
                    placed = place(ground, self.grounds.get(ground, evaluation, i), evaluation, i)
                    if placed is not None and is_drawable(placed.world):
                        out.append(placed)
        return out

    def _artworks(
        self, pictures: list[PlacedPicture], eye: ViewTransform, context: FrameContext
    ) -> list[Artwork | None]:
        """What the pictures show; nothing is read for those that are neither in view nor cast a shadow."""
        needed, wanted = [], []
        for k, picture in enumerate(pictures):
            if picture.in_view or (picture.node.takes_light and context.mattes is None):
                with context.alone(picture.node):
                    want = picture.want(eye)
                    if context.mattes is not None:
                        # What covers what is told in some hundred pixels: one drawing does, from wherever it is seen.
                        want = ArtworkWant(want.picture, want.moment, 1.0)
                    wanted.append(want)
                    needed.append(k)
        self.artwork.exact = context.exact
        found = self.artwork.get_all(wanted, self.base, context.final, context.step)
        out: list[Artwork | None] = [None] * len(pictures)
        for k, artwork in zip(needed, found, strict=True):
            out[k] = artwork
            if artwork is None:
                context.complete = False
            elif artwork.problem:
                context.problems[pictures[k].node.id] = artwork.problem
        if not context.final and self.artwork.pending:
            context.complete = False
        return out

    def _blurred(
        self, pictures: list[PlacedPicture], artworks: list[Artwork | None], eye: ViewTransform
    ) -> list[Artwork | None]:
        out = list(artworks)
        for k, (picture, artwork) in enumerate(zip(pictures, artworks, strict=True)):
            if artwork is not None and picture.in_view and picture.blur >= LEAST:
                node, scale = picture.node, picture.scale(eye)
                out[k] = self._blurring.get(artwork, picture.blur, node.width, node.height, scale)
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
        context: FrameContext,
    ) -> Uniforms:
        lights = lighting(evaluation, i, hidden)
        shaded = [k for k, picture in enumerate(pictures) if picture.node.takes_light]
        if lights.key is None or not (solids or shaded):
            return Uniforms(_without_key(lights), self._idle_shadow(bool(solids or shaded)), None)
        chosen = [*range(len(solids)), *(len(solids) + k for k in shaded)]
        casting = [pictures[k] for k in shaded]
        shown = [artworks[k] for k in shaded]
        state = _state(solids) + b"".join(
            picture.placed.tobytes() + str((id(art), picture.opacity)).encode()
            for picture, art in zip(casting, shown, strict=True)
        )

        def depths(clip: Array) -> None:
            self._depth_only()
            self._solids.depths([solid for solid in solids if solid.is_solid], clip)
            self._pictures.depths(casting, shown, clip)

        shadow = self._shadow_map()
        shadow.update(lights.key, evaluation.world(lights.key.id)[i], spheres[chosen], state, context.final, depths)
        return Uniforms(lights, shadow, None)

    def _shadow_map(self) -> ShadowMap:
        if self._shadow is None:
            self._shadow = ShadowMap(self.context)
        return self._shadow

    def _idle_shadow(self, needed: bool) -> ShadowMap | None:
        # A shader that may look a shadow up has to be given a map, even where no light casts one.
        return self._shadow_map() if needed else None

    def _projected(
        self,
        evaluation: Evaluation,
        i: int,
        hidden: set[str],
        solids: list[PlacedSolid],
        context: FrameContext,
    ) -> list[ProjectedPhoto]:
        nodes = [
            node
            for node in self.scene.nodes
            if isinstance(node, Projection) and node.receivers and (node.id not in hidden or context.stretch)
        ]
        if not nodes or not solids or (isinstance(context.view, ThroughLens) and not context.view.projected):
            return []
        wanted = [ArtworkWant(photograph(node), 0, 1.0) for node in nodes]
        photos = self.artwork.get_all(wanted, self.base, context.final, context.step)
        blockers = [solid for solid in solids if solid.is_solid]
        out = []
        for node, photo in zip(nodes, photos, strict=True):
            if photo is None:
                context.complete = False
                continue
            if photo.problem:
                context.problems[node.id] = photo.problem
            # On a processor it costs much, and is jagged.
            photo.texture.anisotropy = 1.0 if self._software else ANISOTROPY
            eye = projector_transform(evaluation, i, node)
            if not is_drawable(eye.clip):
                continue

            reach = self._reach.update(node, eye, _state(blockers), lambda clip: self._solids.nearness(blockers, clip))
            strength = 1.0 if context.stretch else strength_of(evaluation, i, node)
            receivers = frozenset(node.receivers)
            size = (node.width, node.height)
            out.append(ProjectedPhoto(receivers, eye.clip, eye.position, strength, photo.texture, reach, size))
        return out

    def _depth_only(self) -> None:
        self.context.disable(moderngl.BLEND)
        self.context.enable(moderngl.DEPTH_TEST)
        self.context.depth_func = "<"

    def _draw_solids(
        self,
        solids: list[PlacedSolid],
        eye: ViewTransform,
        uniforms: Uniforms,
        projected: list[ProjectedPhoto],
        stretch: bool = False,
    ) -> None:
        """Draw solids that hide each other, the nearest first."""
        gl = self.context
        gl.enable(moderngl.DEPTH_TEST)
        gl.disable(moderngl.BLEND)
        gl.depth_func = "<"
        for solid in sorted(solids, key=lambda solid: float(eye.depth(solid.middle))):
            small = uniforms.drafts and is_small(solid, eye)
            self._solids.draw(solid, eye, uniforms, projected, stretch, small)

    def _draw_all(
        self,
        solids: list[PlacedSolid],
        pictures: list[PlacedPicture],
        artworks: list[Artwork | None],
        eye: ViewTransform,
        uniforms: Uniforms,
        projected: list[ProjectedPhoto],
        size: tuple[int, int],
        partly: bool,
    ) -> None:
        """Draw all that there is; ``partly``: some pixels are hidden by their depth."""
        gl = self.context
        frame = gl.fbo
        gl.disable(moderngl.DEPTH_TEST)
        shown = self._pictures.in_order(pictures, artworks, eye)
        gl.blend_func = (
            (moderngl.ONE, moderngl.ONE_MINUS_SRC_ALPHA) if uniforms.aov is None else (moderngl.ONE, moderngl.ZERO)
        )
        if not solids:
            self._draw_flat(shown, eye, uniforms, size, partly)
            return
        opaque = [solid for solid in solids if solid.is_solid]
        clear = sorted((s for s in solids if not s.is_solid), key=lambda s: float(eye.depth(s.middle)))
        self._draw_solids(opaque, eye, uniforms, projected)
        gl.enable(moderngl.BLEND)
        gl.depth_func = "<="
        for each, depth in zip(shown, centres(shown, eye), strict=True):
            while clear and float(eye.depth(clear[-1].middle)) > depth:
                self._draw_clear(clear.pop(), eye, uniforms, projected)
            frame.depth_mask = False
            self._pictures.draw(each, eye, uniforms, size)
        while clear:
            self._draw_clear(clear.pop(), eye, uniforms, projected)
        frame.depth_mask = True

    def _draw_clear(
        self, solid: PlacedSolid, eye: ViewTransform, uniforms: Uniforms, projected: list[ProjectedPhoto]
    ) -> None:
        """Draw a solid that is seen through: its nearest surface alone."""
        frame = self.context.fbo
        frame.depth_mask = True
        self.context.depth_func = "<"
        self._solids.depths([solid], eye.clip, eye.seen_depth)
        self.context.depth_func = "<="
        self._solids.draw(solid, eye, uniforms, projected)

    def _draw_flat(
        self, shown: list[ShownPiece], eye: ViewTransform, uniforms: Uniforms, size: tuple[int, int], partly: bool
    ) -> None:
        """Draw pictures alone: what is opaque fills first, from front to back."""
        gl = self.context
        frame = gl.fbo
        gl.enable(moderngl.DEPTH_TEST)
        gl.disable(moderngl.BLEND)
        gl.depth_func = "<"
        count = len(shown)
        filled = self._pictures.fill_first(shown, eye, uniforms, size) or partly
        gl.enable(moderngl.BLEND)
        frame.depth_mask = False
        if not filled:
            gl.disable(moderngl.DEPTH_TEST)
        for number, each in enumerate(shown):
            self._pictures.draw(each, eye, uniforms, size, depth_at(number, count) if filled else 2.0)
        frame.depth_mask = True


def _unblurred(context: FrameContext) -> bool:
    """Whether blur would cost more than it is worth: it hardly changes what is covered, or a small picture."""
    return context.mattes is not None or (isinstance(context.view, ThroughLens) and not context.view.blurs)


def _ranged(eye: ViewTransform, spheres: Array) -> ViewTransform:
    """With the depths of spheres (N, 4), places and radii, filling the depth buffer."""
    depths = eye.depth(spheres[:, :3])
    return eye.ranged(float((depths - spheres[:, 3]).min()), float((depths + spheres[:, 3]).max()))


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
