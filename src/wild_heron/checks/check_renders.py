"""Low-resolution renders for the checks, and what is read from them."""

from typing import Literal, NamedTuple

import numpy as np

from ..arrays import Array, Pixels
from ..scene import Projection, Scene
from .coverage import BEYOND, Coverage, pixels_per_pixel, read_coverage, size_of_map
from .format_windows import reach, windows_of
from .measures import Measures, Pictured
from .subjects import nodes_of

_GROUPS = 3
"""Subjects to a picture: one for each colour."""
_LEAST_SEEN = 3.0
"""Pixels that a subject takes up by itself, below which it is not told how much of it is hidden."""
_FARTHEST = 4.0
"""Frames to either side of the middle beyond which a window is not looked at."""
_EXCEEDED = 0.02
"""By so much of what receives it a photograph may be stretched farther than it is said to be."""


class CheckRender(NamedTuple):
    """A picture of a frame: ``times`` as much as the camera's, in pixels of a size. Where groups of nodes are seen in
    red, green and blue, with alpha for coverage; those ``alone``; or how far a photograph is ``stretched``."""

    kind: Literal["mattes", "alone", "stretched"]
    times: float
    size: tuple[int, int]
    groups: tuple[tuple[str, ...], ...] = ()


def looks_at(scene: Scene) -> tuple[CheckRender, ...]:
    """The pictures of each frame that a scene's checks need; none where those that look at pictures are off."""
    checks = scene.checks
    covered = coverage_look(scene)
    times, size = covered.times, covered.size
    subjects = () if "framing" in checks.off else checks.subjects
    groups = tuple(nodes_of(scene, subject) for subject in subjects)
    out: list[CheckRender] = []
    for start in range(0, len(groups), _GROUPS):
        part = groups[start : start + _GROUPS]
        out += [CheckRender("mattes", times, size, part), CheckRender("alone", times, size, part)]
    if not out and "edges" not in checks.off:
        out.append(covered)
    if "nearness" not in checks.off and any(isinstance(node, Projection) and node.receivers for node in scene.nodes):
        out.append(photograph_look(scene))
    return tuple(out)


def coverage_look(scene: Scene) -> CheckRender:
    """The picture that tells what is bare, in all formats."""
    settings = scene.settings
    frames = np.arange(settings.first, settings.last + 1, dtype=np.float64)
    times = min(reach(scene, frames), _FARTHEST) * BEYOND
    return CheckRender("mattes", times, size_of_map(settings, times))


def looks_at_frame(looks: tuple[CheckRender, ...], measures: Measures, row: int) -> tuple[CheckRender, ...]:
    """Those that can tell anything of one frame, whose numbers are known: subjects that are not in it are not looked
    for, nor photographs."""
    settings_box = (0.0, 0.0, *measures.frame_size)
    first, out = 0, []
    for look in looks:
        if look.kind == "alone":
            boxes = measures.numbers.boxes[row, first : first + len(look.groups)]
            first += len(look.groups)
            if _touch(boxes, settings_box):
                out.append(look)
        elif look.kind == "stretched":
            if measures.numbers.receiving[row] > 0.0:
                out.append(look)
        else:
            out.append(look)
    return tuple(out)


def _touch(boxes: Array, frame: tuple[float, float, float, float]) -> bool:
    """Whether any of boxes (K, 4) reaches into a frame, or behind the lens."""
    with np.errstate(invalid="ignore"):
        away = (boxes[:, 2] < frame[0]) | (boxes[:, 0] > frame[2]) | (boxes[:, 3] < frame[1]) | (boxes[:, 1] > frame[3])
    return bool((~away).any())


def read_looks(scene: Scene, frame: float, looks: tuple[CheckRender, ...], pictures: list[Pixels]) -> Pictured:
    """What the pictures (H, W, 4) of a frame tell, in the order of the looks; a subject of which there is none is not
    seen."""
    settings, formats = scene.settings, scene.formats_with_main()
    coverage: tuple[Coverage, ...] = ()
    if looks and looks[0].kind == "mattes":
        coverage = tuple(
            read_coverage(pictures[0], settings, windows_of(scene, np.array([frame]), shape), looks[0].times)
            for shape in formats
        )
    subjects = () if "framing" in scene.checks.off else scene.checks.subjects
    seen = [float("nan")] * len(subjects)
    order = {nodes_of(scene, subject): k for k, subject in enumerate(subjects)}
    stretch = missing = float("nan")
    shown: Pixels | None = None
    for look, picture in zip(looks, pictures, strict=True):
        if look.kind == "mattes":
            shown = picture
        elif look.kind == "alone" and shown is not None:
            for k in range(len(look.groups)):
                whole = float(picture[..., k].sum()) / 255.0
                part = float(shown[..., k].sum()) / 255.0
                if whole >= _LEAST_SEEN:
                    seen[order[look.groups[k]]] = min(part / whole, 1.0)
        elif look.kind == "stretched":
            stretch, missing = stretched(scene, picture)
    return Pictured(coverage, tuple(seen), stretch, missing)


def photograph_look(scene: Scene) -> CheckRender:
    """The picture that photographs are looked at in."""
    return CheckRender("stretched", 1.0, size_of_map(scene.settings, 1.0))


def stretched(scene: Scene, picture: Pixels) -> tuple[float, float]:
    """What it (H, W, 4) tells: how far a photograph is stretched, and what it misses."""
    return _stretched(picture, pixels_per_pixel(scene.settings, 1.0))


def _stretched(picture: Pixels, per: float) -> tuple[float, float]:
    """Pixels of the scene's frame to one of a photograph, where nearly all of it is stretched less, and the share of
    the frame that should receive it and does not."""
    receives, got = picture[..., 3] > 127, picture[..., 1] > 127
    if not receives.any():
        return float("nan"), float("nan")
    missing = float((receives & ~got).sum()) / receives.size
    if not (receives & got).any():
        return float("nan"), missing
    shown = picture[receives & got].astype(np.float64)
    # In steps of a byte over eight octaves, and what is left over of them.
    octaves = ((shown[:, 0] + shown[:, 2] / 255.0) / 255.0 - 0.5) * 8.0
    return float(2.0 ** np.quantile(octaves, 1.0 - _EXCEEDED)) / per, missing
