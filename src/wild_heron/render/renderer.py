"""Drawing a scene with OpenGL 3.3, without a window."""

from collections.abc import Callable
from pathlib import Path

import moderngl
import numpy as np
from msgspec.structs import replace

from ..arrays import Array
from ..evaluate import CameraView, Evaluation, evaluate
from ..files.reader import Reader
from ..scene import Scene
from ..scene.output import lens_nodes
from . import shaders
from .eye import Offset
from .frames import Frames
from .messages import FrameRequest, FreeView
from .sampling import lens_points, pixel_offsets, shutter_times
from .stage import Drawing, Overtaken, Report, Stage

__all__ = ["Overtaken", "Renderer"]

_DEPTH_CLAMP = 0x864F  # GL_DEPTH_CLAMP, OpenGL 3.2


class Renderer:
    """Draws one scene at a time into 8-bit RGBA frames, rows from the top."""

    def __init__(self, context: moderngl.Context | None = None, reader: Reader | None = None) -> None:
        self.context = context or moderngl.create_context(standalone=True, backend="egl", require=330)
        gl = self.context
        # Depths are spent on the range of the solids; what lies before or beyond it is drawn all the same.
        gl.enable_direct(_DEPTH_CLAMP)
        self._frames = Frames(gl)
        self._stage = Stage(gl, self._frames, reader or Reader(2))
        weighted = gl.program(vertex_shader=shaders.WHOLE_FRAME_VERTEX, fragment_shader=shaders.WEIGHTED_FRAGMENT)
        square = gl.buffer(np.array([0, 0, 1, 0, 0, 1, 1, 1], dtype="f4"))
        self._weighted = gl.vertex_array(weighted, [(square, "2f", "place")])
        self._reported: dict[str, str] = {}
        self._last: Evaluation | None = None

    @property
    def scene(self) -> Scene:
        return self._stage.scene

    def set_scene(
        self, scene: Scene, base: Path | None, version: int = 0, allowed: tuple[str, ...] | None = None
    ) -> None:
        """Draw another scene from now on; see Stage."""
        self._stage.set_scene(scene, base, version, allowed)

    def forget_files(self) -> None:
        """Look at every file anew."""
        self._stage.artwork.forget()
        self._stage.meshes.forget()
        self._reported = {}

    @property
    def pending(self) -> int:
        """How many files are still being read in the background."""
        return self._stage.artwork.pending + self._stage.meshes.pending

    def collect(self) -> int:
        """Take in what was read in the background; returns how much arrived since it was last asked, in draws too."""
        stage = self._stage
        stage.artwork.collect()
        stage.meshes.collect()
        arrived = stage.artwork.arrived + stage.meshes.arrived
        stage.artwork.arrived = stage.meshes.arrived = 0
        return arrived

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
        self._stage.use(request.version)
        evaluation, seen = self._seen(request)
        drawing = Drawing(request.view, seen, final, check, report)
        samples, (width, height) = request.samples, request.size
        target = self._frames.get(width, height, "picture")
        if samples == 1:
            self._stage.draw(target, evaluation, 0, Offset(), drawing, smooth=True)
        else:
            total = self._frames.get(width, height, "sum")
            total.use()
            total.clear(0.0, 0.0, 0.0, 0.0)
            on_lens = lens_points(samples)
            if isinstance(seen, CameraView):
                on_lens = on_lens * seen.aperture_radius()[:, None]
            else:
                on_lens = on_lens * 0.0
            for i, inside in enumerate(pixel_offsets(samples)):
                check()
                offset = Offset((inside[0], inside[1]), (on_lens[i, 0], on_lens[i, 1]))
                self._stage.draw(target, evaluation, i, offset, drawing, smooth=False)
                self._add(target, total, 1.0 / samples, blend=True)
            self._add(total, target, 1.0, blend=False)
        self._stage.tidy()
        if drawing.problems != self._reported and drawing.complete:
            self._reported = dict(drawing.problems)
            report(1, 1, drawing.problems)
        return target, drawing.complete

    def read_into(self, frame: moderngl.Framebuffer, buffer: memoryview | bytearray) -> None:
        """Copy a frame's RGBA bytes into a buffer."""
        frame.read_into(buffer, components=4, alignment=1)

    def _seen(self, request: FrameRequest) -> tuple[Evaluation, CameraView | FreeView]:
        """The scene at the times of a frame's samples, and what is seen then."""
        view, samples = request.view, request.samples
        if isinstance(view, FreeView):
            return self._evaluated(np.full(samples, request.frame)), view
        output = next((each for each in self.scene.formats if each.name == view.format), None)
        times = np.array([request.frame])
        if samples > 1:
            wanted = lens_nodes(self.scene, view.camera)
            still = evaluate(self.scene, times, wanted).camera(view.camera, output, request.size)
            times = shutter_times(*still.shutter_open(), samples)
        evaluation = self._evaluated(times)
        seen = evaluation.camera(view.camera, output, request.size)
        if view.around != 1.0:
            seen = replace(seen, focal_px=seen.focal_px / view.around)
        return evaluation, seen

    def _evaluated(self, times: Array) -> Evaluation:
        """The scene at some times; what did not change since it was drawn last at the same ones is taken over."""
        self._last = evaluate(self.scene, times, previous=self._last)
        return self._last

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
