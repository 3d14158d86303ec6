"""``output``: the film's camera view at many frames, each camera evaluated only where it is seen."""

from collections.abc import Iterable

from ..scene import Format, Scene
from ..scene.output import lens_node
from .cameras import CameraView
from .evaluation import Evaluation, checked_frames, evaluate
from .film import filmed
from .windows import through_window


def output(
    scene: Scene, frames: Iterable[float] | float, format: Format | None = None, size: tuple[int, int] | None = None
) -> CameraView:
    """What the film shows at frames (N,), in a format or the scene's own frame: each camera is evaluated at just the
    frames at which it is seen.

    Raises UnknownNodeError for a scene without a camera, and what :func:`evaluate` does.
    """
    array = checked_frames(frames)
    if not scene.shots:
        lens = lens_node(scene, None).id
        return evaluate(scene, array, [lens]).camera(lens, format, size)
    seen = filmed(Evaluation.evaluator, evaluate, scene, array, format, size)
    if format is None or format.window is None:
        return seen
    return through_window(seen, evaluate(scene, array, [format.window]), scene.settings, format)
