"""Draws models, logos and grounds, with lights and projected photographs."""

import math
from typing import NamedTuple

import moderngl
import numpy as np

from ..arrays import Array
from ..colour import to_light
from ..evaluate import Evaluation
from ..motion.timing import source_seconds
from ..scene import Ground, Logo, Model, ModelFile
from ..scene.channels import OPACITY
from . import shaders
from .lighting import set_haze, set_light
from .meshes import GpuPart, GpuSolid
from .projections import ProjectedPhoto, bind_projections
from .uniforms import PassUniforms, Uniforms
from .view_transform import WHOLE_DEPTH, ViewTransform

_SMALL_PIXELS = 90.0


class PlacedSolid(NamedTuple):
    """A solid at one sample: the matrix of its contents (4, 4), the poses of its parts (K, 4, 4), a sphere around it
    in the world."""

    node: Model | Logo | Ground
    solid: GpuSolid
    world: Array
    poses: Array
    opacity: float
    middle: Array
    radius: float
    in_contents: Array
    """From what its parts stand in to the node's contents, (4, 4)."""

    @property
    def is_solid(self) -> bool:
        """Whether nothing of it can be seen through."""
        return self.opacity >= 1.0 and not any(part.material.blend for part in self.solid.parts)


def place(node: Model | Logo | Ground, solid: GpuSolid, evaluation: Evaluation, i: int) -> PlacedSolid | None:
    """A solid as it stands at sample ``i``; None where it does not show."""
    opacity = float(evaluation.value(node.id, OPACITY)[i])
    if opacity <= 0.0:
        return None
    settings = evaluation.scene.settings
    own = np.diag([*[1.0 / settings.pixels_per_unit] * 3, 1.0]) if isinstance(node, Logo) else np.eye(4)
    world = evaluation.content(node.id)[i] @ own
    poses = np.eye(4)[None]
    if solid.contents is not None and isinstance(node, Model) and isinstance(node.shape, ModelFile):
        name, frame = node.shape.animation, float(evaluation.frames[i])
        length = solid.contents.length(name)
        seconds = source_seconds(node.shape.timing, length, frame, settings.rate.fps) if name else 0.0
        if seconds is None:
            return None
        poses = solid.contents.poses(name, seconds)
    middle = world[:3, :3] @ solid.middle + world[:3, 3]
    reach = solid.radius * float(np.sqrt((world[:3, :3] ** 2).sum(axis=0).max()))
    return PlacedSolid(node, solid, world, poses, opacity, middle, reach, own)


def in_view(solid: PlacedSolid, eye: ViewTransform) -> bool:
    """Whether any of a solid's sphere can be in the picture."""
    if solid.solid.contents is not None and len(solid.poses) > 1:
        return True  # An animation may take it out of the sphere it fills at rest.
    rows = (eye.clip[3] + eye.clip[0], eye.clip[3] - eye.clip[0], eye.clip[3] + eye.clip[1], eye.clip[3] - eye.clip[1])
    for row in rows:
        size = float(np.linalg.norm(row[:3]))
        if size > 0.0 and float(row[:3] @ solid.middle + row[3]) < -solid.radius * size:
            return False
    return eye.parallel or float(eye.depth(solid.middle)) > -solid.radius


def is_small(solid: PlacedSolid, eye: ViewTransform) -> bool:
    """Whether a solid takes up so few pixels that its draft does."""
    depth = 1.0 if eye.parallel else max(float(eye.depth(solid.middle)) - solid.radius, 1e-6)
    return eye.pixels_at_unit * solid.radius / depth < _SMALL_PIXELS


class SolidPainter:
    """Draws placed solids."""

    def __init__(self, context: moderngl.Context) -> None:
        self._context = context
        self._programs: dict[tuple[tuple[str, ...], int], moderngl.Program] = {}
        self._passes: moderngl.Program | None = None
        self._depths, self._nearness = (
            shaders.compiled(context, "solid", fragment) for fragment in ("solid_shadow", "nearness")
        )

    def _program(self, switches: tuple[str, ...], projections: int) -> moderngl.Program:
        key = (switches, projections)
        if key not in self._programs:
            self._programs[key] = shaders.compiled(self._context, "solid", "solid", switches, projections)
        return self._programs[key]

    def depths(self, solids: list[PlacedSolid], clip: Array, seen_depth: tuple[float, float] = WHOLE_DEPTH) -> None:
        """Draw solids into a depth map, by a clip matrix (4, 4)."""
        self._all_parts(self._depths, solids, clip, seen_depth)

    def nearness(self, solids: list[PlacedSolid], clip: Array) -> None:
        """Draw one over the distance of the first surface of solids into a map of that, by a clip matrix (4, 4)."""
        gl = self._context
        gl.disable(moderngl.DEPTH_TEST)
        gl.enable(moderngl.BLEND)
        gl.blend_equation = moderngl.MAX
        self._all_parts(self._nearness, solids, clip, WHOLE_DEPTH)
        gl.blend_equation = moderngl.FUNC_ADD

    def _all_parts(
        self, program: moderngl.Program, solids: list[PlacedSolid], clip: Array, seen_depth: tuple[float, float]
    ) -> None:
        program["seen_depth"] = seen_depth
        for placed in solids:
            for part in placed.solid.parts:
                self._place(program, placed, part, clip, np.zeros(3))
                part.array(self._context, program).render(moderngl.TRIANGLES)

    def draw(
        self,
        placed: PlacedSolid,
        eye: ViewTransform,
        uniforms: Uniforms,
        projected: list[ProjectedPhoto],
        stretch: bool = False,
        draft: bool = False,
    ) -> None:
        """Draw one solid; blending and depth are set by whoever calls. ``draft``: with fewer faces if it has many."""
        node = placed.node
        if uniforms.aov is not None:
            self._draw_pass(placed, eye, uniforms.aov)
            return
        own = [each for each in projected if node.id in each.receivers][: 1 if stretch else shaders.MAX_PROJECTIONS]
        if stretch and not own:
            return
        haze = None if stretch else uniforms.haze_on(node)
        for part in placed.solid.parts:
            material = part.material
            lit = uniforms.lights_on(node) and not material.unlit and not stretch
            switches = shaders.chosen(
                TEXTURED=part.texture is not None, HAZED=haze is not None, LIT=lit, STRETCH=stretch,
                LINEAR=lit and uniforms.linear,
            )  # fmt: skip
            program = self._program(switches, len(own))
            self._place(program, placed, part, eye.clip, eye.origin)
            program["seen_depth"] = eye.seen_depth
            if "own" in program:
                red, green, blue, alpha = material.colour
                if uniforms.linear:
                    red, green, blue = to_light((red, green, blue)).tolist()
                program["own"] = (red, green, blue, alpha)
            sharper = 0.5 * math.log2(math.prod(uniforms.footprint.sides)) if uniforms.footprint is not None else 0.0
            for name, value in (
                ("opacity", placed.opacity), ("cutoff", material.cutoff), ("artwork", 0), ("sharper", sharper),
            ):  # fmt: skip
                if name in program:
                    program[name] = value
            if part.texture is not None:
                part.texture.use(0)
            if lit:
                set_light(program, uniforms.lights, eye.position, eye.origin, node.gloss)
                if uniforms.shadow is not None:
                    uniforms.shadow.bind(program, eye.origin)
            if haze is not None:
                set_haze(program, haze, eye.position, eye.origin, uniforms.linear)
            bind_projections(program, own, eye.origin)
            part.array(self._context, program, draft).render(moderngl.TRIANGLES)

    def _draw_pass(self, placed: PlacedSolid, eye: ViewTransform, aov: PassUniforms) -> None:
        """Draw how a solid lies and what it is."""
        if self._passes is None:
            self._passes = shaders.compiled(self._context, "solid", "solid_pass", ("MOVING",))
        program = self._passes
        program["seen_depth"] = eye.seen_depth
        for part in placed.solid.parts:
            self._place(program, placed, part, eye.clip, eye.origin)
            own = placed.in_contents @ placed.poses[part.node if part.node < len(placed.poses) else 0]
            aov.bind(program, placed.node, own, self._context.fbo.size)
            program["alpha"] = placed.opacity * part.material.colour[3]
            program["cutoff"] = part.material.cutoff
            program["textured"] = part.texture is not None
            if part.texture is not None:
                part.texture.use(0)
            part.array(self._context, program).render(moderngl.TRIANGLES)

    @staticmethod
    def _place(program: moderngl.Program, placed: PlacedSolid, part: GpuPart, clip: Array, origin: Array) -> None:
        world = placed.world @ placed.poses[part.node if part.node < len(placed.poses) else 0]
        program["clip_from_part"].write(np.ascontiguousarray((clip @ world).T, "f4"))
        if "world" in program:
            near = world.copy()
            near[:3, 3] -= origin
            program["world"].write(np.ascontiguousarray(near.T, "f4"))
        if "turned" in program:
            # The cofactors turn normals as the inverse transpose does, and exist where a solid is scaled to nothing.
            x, y, z = world[:3, 0], world[:3, 1], world[:3, 2]
            turned = np.stack([np.cross(y, z), np.cross(z, x), np.cross(x, y)], axis=1)
            if np.linalg.det(world[:3, :3]) < 0.0:
                turned = -turned
            size = float(np.abs(turned).max())
            program["turned"].write(np.ascontiguousarray((turned / (size or 1.0)).T, "f4"))
