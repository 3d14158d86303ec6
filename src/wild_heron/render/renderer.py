"""Drawing a scene with OpenGL 3.3, without a window."""

from collections.abc import Callable
from pathlib import Path

import moderngl
import numpy as np
from numpy.typing import NDArray

from ..evaluate import Evaluation, evaluate
from ..files.reader import Reader
from ..scene import Camera, Format, Projection, Scene
from ..scene.channels import APERTURE, FOCAL, FOCUS, SHUTTER
from . import shaders
from .eye import Offset
from .frames import Frames
from .messages import FreeView, LensView
from .sampling import lens_points, pixel_offsets, shutter_times
from .stage import Drawing, Overtaken, Report, Stage

Array = NDArray[np.float64]

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
        frame: float,
        view: LensView | FreeView,
        width: int,
        height: int,
        samples: int = 1,
        check: Callable[[], None] = lambda: None,
        report: Report = lambda done, total, problems: None,
        final: bool = True,
        version: int = 0,
    ) -> tuple[moderngl.Framebuffer, bool]:
        """Draw a frame and return the framebuffer that holds it, and whether nothing is missing from it.

        A frame is the mean of ``samples``, each with its own time inside the shutter. ``check`` is called between
        steps and may raise Overtaken. Unless it is ``final``, artwork that is still being read is left out.
        KeyError where a lens view names no camera.
        """
        self._stage.use(version)
        times, output = self._times(frame, view, samples)
        drawing = Drawing(view, output, final, check, report)
        evaluation = evaluate(self.scene, times)
        target = self._frames.get(width, height, "picture")
        if samples == 1:
            self._stage.draw(target, evaluation, 0, Offset(), drawing, smooth=True)
        else:
            total = self._frames.get(width, height, "sum")
            total.use()
            total.clear(0.0, 0.0, 0.0, 0.0)
            on_lens = self._on_lens(evaluation, view, samples)
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

    def _times(self, frame: float, view: LensView | FreeView, samples: int) -> tuple[Array, Format | None]:
        if isinstance(view, FreeView):
            return np.full(samples, frame), None
        camera = self.scene.node(view.camera)
        if isinstance(camera, Projection):
            return np.full(samples, frame), None
        if not isinstance(camera, Camera):
            raise KeyError(view.camera)
        output = next((f for f in self.scene.formats if f.name == view.format), None)
        shutter = float(evaluate(self.scene, frame, []).value(camera.id, SHUTTER)[0])
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
