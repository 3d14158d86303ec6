"""Renders frames with OpenGL 3.3, off screen."""

import functools
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Concatenate, NamedTuple, ParamSpec, TypeVar

import moderngl
import msgspec
import numpy as np
from msgspec.structs import replace

from ..arrays import Array, ascending
from ..evaluate import CameraView, Evaluation, evaluate
from ..files.reader import Reader
from ..gl.request import FrameRequest, FreeView, ThroughLens
from ..scene import AnyNode, Format, Scene
from ..scene.output import lens_nodes
from . import shaders
from .aov import Aov, Numbers, aov_of
from .artwork_store import ArtworkStore
from .edge_pixels import NEAREST_DEPTH, EdgePixels
from .edges import EdgeBox, edge_boxes
from .frame_context import WHOLE_PIXEL, FrameContext, Overtaken, PixelPart, Report
from .framebuffers import Framebuffers, picture_use
from .opening import open_context
from .sample_renderer import SampleRenderer
from .sampling import lens_points, pixel_parts, shutter_times
from .stage_clock import StageClock
from .uniforms import PassUniforms
from .view_transform import Offset, make_view_transform

__all__ = ["Overtaken", "Renderer"]

P = ParamSpec("P")
R = TypeVar("R")

_NODE_SAMPLES = 16
_DEPTH_CLAMP = 0x864F  # GL_DEPTH_CLAMP, OpenGL 3.2


def _in_its_context(method: Callable[Concatenate["Renderer", P], R]) -> Callable[Concatenate["Renderer", P], R]:
    """OpenGL speaks to the context that is current in the thread, and numbers its objects anew in each: what one
    renderer asks for must not reach another's."""

    @functools.wraps(method)
    def called(self: "Renderer", /, *arguments: P.args, **named: P.kwargs) -> R:
        with self.context:
            return method(self, *arguments, **named)

    return called


class Renderer:
    """Draws one scene at a time into RGBA frames, rows from the top."""

    def __init__(self, reader: Reader | None = None) -> None:
        self.context = open_context()[0]
        gl = self.context
        # Depths are spent on the range of the solids; what lies before or beyond it is drawn all the same.
        gl.enable_direct(_DEPTH_CLAMP)
        gl.depth_clamp_range = (NEAREST_DEPTH, 1.0)
        self._framebuffers = Framebuffers(gl)
        self.clock = StageClock(gl)
        self._sample_renderer = SampleRenderer(gl, self._framebuffers, reader or Reader(2), self.clock)
        weighted = shaders.compiled(gl, "whole_frame", "weighted")
        square = gl.buffer(np.array([0, 0, 1, 0, 0, 1, 1, 1], dtype="f4"))
        self._weighted = gl.vertex_array(weighted, [(square, "2f", "place")])
        developing = shaders.compiled(gl, "whole_frame", "develop")
        self._developing = gl.vertex_array(developing, [(square, "2f", "place")])
        self._edges = EdgePixels(gl)
        self._reported: dict[str, str] = {}
        self._last: Evaluation | None = None
        self._block: Evaluation | None = None
        """What is drawn, at many frames of which one is asked for after another."""

    @property
    def scene(self) -> Scene:
        return self._sample_renderer.scene

    @property
    def artwork(self) -> ArtworkStore:
        return self._sample_renderer.artwork

    @_in_its_context
    def set_scene(
        self, scene: Scene, base: Path | None, version: int = 0, allowed: tuple[str, ...] | None = None
    ) -> None:
        """Draw another scene from now on; see SampleRenderer."""
        self._sample_renderer.set_scene(scene, base, version, allowed)

    @_in_its_context
    def forget_files(self) -> None:
        """Look at every file anew."""
        self._sample_renderer.artwork.forget()
        self._sample_renderer.meshes.forget()
        self._reported = {}

    @property
    def pending(self) -> int:
        """How many files are still being read in the background."""
        return self._sample_renderer.artwork.pending + self._sample_renderer.meshes.pending

    @_in_its_context
    def collect(self) -> int:
        """Take in what was read in the background; returns how much arrived since it was last asked, in draws too."""
        stage = self._sample_renderer
        stage.artwork.collect()
        stage.meshes.collect()
        arrived = stage.artwork.arrived + stage.meshes.arrived
        stage.artwork.arrived = stage.meshes.arrived = 0
        return arrived

    @_in_its_context
    def draw(
        self,
        request: FrameRequest,
        check: Callable[[], None] = lambda: None,
        report: Report = lambda done, total, problems: None,
        final: bool = True,
    ) -> tuple[moderngl.Framebuffer, bool]:
        """Draw a frame and return the framebuffer that holds it, and whether nothing is missing from it.

        A frame is the mean of its samples, each with its own time inside the shutter. ``check`` is called between
        steps and may raise Overtaken. Unless it is ``final``, artwork that is still being read is left out.
        KeyError where it is seen through a camera that is not there.
        """
        self._sample_renderer.use(request.version)
        self.clock.on = request.profile
        with self.clock.stage("evaluation"):
            evaluation, seen = self._seen(request)
        context = FrameContext(request.view, seen, final, check, report)
        context.size, context.tile = request.size, request.tile
        if not context.stretch and context.mattes is None:
            light = self._sample_renderer.linear and request.precision == "bytes"
            context.precision = "half" if light else request.precision
            context.exact = request.numbers != "bytes"
        context.fine = request.fine and not context.stretch and context.mattes is None
        if (samples := request.samples) > 1:
            drawn = self._mean(evaluation, context, samples)
        else:
            drawn = self._target(context, request.drawn)
            with self.clock.stage("drawing"):
                self._sample_renderer.draw(drawn, evaluation, 0, Offset(), context, smooth=True)
            if context.fine:
                with self.clock.stage("edges"):
                    self._smoothed(drawn, evaluation, context)
        with self.clock.stage("conversion"):
            frame = self._developed(drawn, request, context)
        self._sample_renderer.tidy()
        if context.problems != self._reported and context.complete:
            self._reported = dict(context.problems)
            report(1, 1, context.problems)
        return frame, context.complete

    @_in_its_context
    def read_into(self, frame: moderngl.Framebuffer, buffer: memoryview | bytearray) -> None:
        """Copy a frame's RGBA numbers, as they were asked for, into a buffer."""
        kind = frame.color_attachments[0].dtype
        with self.clock.stage("reading back"):
            frame.read_into(buffer, components=4, alignment=1, dtype=kind)

    @_in_its_context
    def passes(self, request: FrameRequest, check: Callable[[], None] = lambda: None) -> Aov:
        """What lies in each pixel of a frame, as of the scene's moment and its lens's middle; which nodes, as all of
        the frame's samples have it."""
        self._sample_renderer.use(request.version)
        samples = max(request.samples, _NODE_SAMPLES)
        moments = np.full(samples, request.frame) if request.samples == 1 else None
        evaluation, seen = self._seen(msgspec.structs.replace(request, samples=samples), moments)
        assert isinstance(seen, CameraView)
        context = FrameContext(request.view, seen, True, check, lambda done, total, problems: None)
        context.size = request.size
        target = self._framebuffers.get(*request.size, "aov")

        prepared = self._prepared_at(request, 0.5)
        self._sample_renderer.draw(
            target, prepared.evaluation, 1, Offset(), prepared.context(context), smooth=False, aov=prepared.aov
        )
        middle = _numbers(target)

        def each() -> Iterator[Numbers]:
            on_lens = lens_points(samples) * seen.aperture_radius()[:, None]
            if request.samples == 1:
                on_lens = on_lens * 0.0
            for i, inside in enumerate(pixel_parts(samples).places):
                check()
                offset = Offset((-inside[0], -inside[1]), (on_lens[i, 0], on_lens[i, 1]))
                aov = prepared.aov._replace(least=(i * 7 % samples + 0.5) / samples)
                self._sample_renderer.draw(target, evaluation, i, offset, context, smooth=False, aov=aov)
                yield _numbers(target)

        return aov_of(middle, each(), samples)

    def _prepared_at(self, request: FrameRequest, half: float) -> "_PreparedPasses":
        """The scene half a frame before, at and after a moment, as far as its segment goes."""
        output = self._format(request)
        view = request.view
        assert isinstance(view, ThroughLens)
        wanted = lens_nodes(self.scene, view.camera)
        still = evaluate(self.scene, [request.frame], wanted).camera(view.camera, output, request.size)
        first, last = still.segments.bounds(request.frame)
        # The end of a segment belongs to the next.
        times = np.array([max(request.frame - half, first), request.frame, min(request.frame + half, last - 1e-6)])
        evaluation = evaluate(self.scene, times)
        seen = evaluation.camera(view.camera, output, request.size)
        if view.around != 1.0:
            seen = replace(seen, focal_px=seen.focal_px / view.around)
        clips = [make_view_transform(seen, k, request.size, Offset()).clip for k in (0, 2)]
        numbers = {node.id: k for k, node in enumerate(self.scene.nodes, 1)}

        def moved(node: AnyNode) -> tuple[Array, Array]:
            world = evaluation.content(node.id)
            return world[0], world[2]

        return _PreparedPasses(
            evaluation, seen, PassUniforms(clips[0], clips[1], float(times[2] - times[0]), 0.5, numbers, moved)
        )

    def _target(self, context: FrameContext, size: tuple[int, int]) -> moderngl.Framebuffer:
        return self._framebuffers.get(*size, picture_use(context.precision))

    def _is_light(self, context: FrameContext) -> bool:
        return self._sample_renderer.linear and not context.stretch and context.mattes is None

    def _mean(self, evaluation: Evaluation, context: FrameContext, samples: int) -> moderngl.Framebuffer:
        """The mean of as many samples as there are moments."""
        size, seen = context.drawn, context.seen
        target, total = self._target(context, size), self._framebuffers.get(*size, "sum")
        total.use()
        total.clear(0.0, 0.0, 0.0, 0.0)
        on_lens = lens_points(samples)
        on_lens = on_lens * (seen.aperture_radius()[:, None] if isinstance(seen, CameraView) else 0.0)
        parts = pixel_parts(samples)
        for i, ((x, y), (dx, dy), (width, height)) in enumerate(
            zip(parts.places, parts.middles - parts.places, parts.sides, strict=True)
        ):
            context.check()
            context.part = PixelPart((dx, dy), (-x, -y), (width, height))
            offset = Offset((-x, -y), (on_lens[i, 0], on_lens[i, 1]))
            with self.clock.stage("drawing"):
                self._sample_renderer.draw(target, evaluation, i, offset, context, smooth=False)
            with self.clock.stage("mixing samples"):
                self._add(target, total, 1.0 / samples)
        return total

    def _smoothed(self, drawn: moderngl.Framebuffer, evaluation: Evaluation, context: FrameContext) -> None:
        """Draw the pixels of a frame anew in which one sample is too few for the edges there."""
        whole, (left, top, _, _) = context.tile, context.tile or (0, 0, 0, 0)
        size = context.drawn
        for (x, y, width, height), pixels, times in self._edge_boxes(evaluation, context):
            context.check()
            context.tile = (x + left, y + top, width, height)
            context.part = WHOLE_PIXEL._replace(fewest=2.0)
            large = self._target(context, (width * times, height * times))
            self._edges.choose(pixels, times, (x, y))
            context.edges = self._edges
            self._sample_renderer.draw(large, evaluation, 0, Offset(), context, smooth=True)
            # Asked for again, so that it counts as in use.
            assert self._target(context, size) is drawn
            self._edges.put(large, drawn)
        context.tile, context.part, context.edges = whole, WHOLE_PIXEL, None

    def _edge_boxes(self, evaluation: Evaluation, context: FrameContext) -> list[EdgeBox]:
        rough = self._sample_renderer.rough_nodes(evaluation, 0, context)
        seen = context.seen
        if not (rough.solids or rough.cut) or not isinstance(seen, CameraView):
            return []
        numbers = {node.id: k for k, node in enumerate(self.scene.nodes, 1)}
        clip = make_view_transform(seen, 0, context.size, Offset(), context.tile).clip

        def still(node: AnyNode) -> tuple[Array, Array]:
            return (evaluation.content(node.id)[0],) * 2

        pass_uniforms = PassUniforms(clip, clip, 1.0, 0.02, numbers, still)
        target = self._framebuffers.get(*context.drawn, "aov")
        context.alone_ids = rough.solids | rough.cut
        self._sample_renderer.draw(target, evaluation, 0, Offset(), context, smooth=False, aov=pass_uniforms)
        context.alone_ids = None
        solids, creased, cut = ({float(numbers[each]) for each in group} for group in rough)
        return edge_boxes(_numbers(target), solids, creased, cut, float(seen.focal_px[0]))

    def _developed(
        self, drawn: moderngl.Framebuffer, request: FrameRequest, context: FrameContext
    ) -> moderngl.Framebuffer:
        """A frame as it was asked for, from what was drawn."""
        light_in, light_out = self._is_light(context), request.numbers in ("light", "full light")
        clear = isinstance(request.view, ThroughLens) and request.view.transparent
        kind = drawn.color_attachments[0].dtype
        if kind == "f1" and not clear and request.numbers == "bytes":
            return drawn
        target = self._framebuffers.get(*request.drawn, "bytes" if request.numbers == "bytes" else "floats")
        target.use()
        self.context.disable(moderngl.DEPTH_TEST)
        self.context.disable(moderngl.BLEND)
        self._develop(drawn, light_in, light_out, clear)
        return target

    def _develop(self, source: moderngl.Framebuffer, light_in: bool, light_out: bool, clear: bool) -> None:
        source.color_attachments[0].use(0)
        values = {"light_in": light_in, "light_out": light_out, "clear": clear}
        for name, value in values.items():
            self._developing.program[name] = value
        self._developing.render(moderngl.TRIANGLE_STRIP, 4)

    def _seen(self, request: FrameRequest, moments: Array | None = None) -> tuple[Evaluation, CameraView | FreeView]:
        """The scene at the times of a frame's samples, or at others, and what is seen then."""
        view, samples = request.view, request.samples
        if isinstance(view, FreeView):
            return self._evaluated(np.full(samples, request.frame)), view
        output = self._format(request)
        times = np.array([request.frame]) if moments is None else moments
        if samples > 1 and moments is None:
            wanted = lens_nodes(self.scene, view.camera)
            still = evaluate(self.scene, times, wanted).camera(view.camera, output, request.size)
            times = shutter_times(*still.shutter_open(), samples, self.scene.settings.exposure)
        evaluation = self._one_of_many(request) if samples == 1 and moments is None else self._evaluated(times)
        seen = evaluation.camera(view.camera, output, request.size)
        if view.around != 1.0:
            seen = replace(seen, focal_px=seen.focal_px / view.around)
        return evaluation, seen

    def _format(self, request: FrameRequest) -> Format | None:
        assert isinstance(request.view, ThroughLens)
        name = request.view.format
        return next((each for each in self.scene.formats if each.name == name), None)

    def _one_of_many(self, request: FrameRequest) -> Evaluation:
        """The scene at a frame, worked out together with those that are asked for next: over many it costs hardly more
        than at one, and each is the same bits."""
        frame, block = request.frame, self._block
        if not request.ahead:
            return self._evaluated(np.array([frame]))
        if block is None or block.scene is not self.scene or frame not in block.frames:
            block = self._block = evaluate(
                self.scene, ascending(np.array([frame, *request.ahead])), previous=self._last
            )
        # What cannot be worked out at one frame stands still at all of them.
        if block.faults:
            return self._evaluated(np.array([frame]))
        return block.at(int(np.searchsorted(block.frames, frame)))

    def _evaluated(self, times: Array) -> Evaluation:
        """The scene at some times; what did not change since it was drawn last at the same ones is taken over."""
        self._last = evaluate(self.scene, times, previous=self._last)
        return self._last

    def _add(self, source: moderngl.Framebuffer, target: moderngl.Framebuffer, weight: float) -> None:
        target.use()
        self.context.disable(moderngl.DEPTH_TEST)
        self.context.enable(moderngl.BLEND)
        self.context.blend_func = moderngl.ONE, moderngl.ONE
        source.color_attachments[0].use(0)
        self._weighted.program["weight"] = weight
        self._weighted.render(moderngl.TRIANGLE_STRIP, 4)


def _numbers(frame: moderngl.Framebuffer) -> Numbers:
    """What is in a framebuffer of floats, (H, W, 4)."""
    data = frame.read(components=4, alignment=1, dtype="f4")
    return np.frombuffer(data, np.float32).reshape(frame.height, frame.width, 4)


class _PreparedPasses(NamedTuple):
    evaluation: Evaluation
    seen: CameraView
    aov: PassUniforms

    def context(self, other: FrameContext) -> FrameContext:
        """Another one's drawing, of what is seen at these moments."""
        own = FrameContext(other.view, self.seen, other.final, other.check, other.report)
        own.size = other.size
        return own
