"""Measurements of every frame that the checks judge: from evaluation, and from renders."""

from typing import NamedTuple

import numpy as np

from ..arrays import Array, Rows
from ..evaluate import CameraView, Evaluation, evaluate, output
from ..evaluate.picture_speed import picture_speed
from ..scene import Projection, Scene, Subject
from .coverage import Coverage
from .layers import LayerMeasures, checked_layers, measure_layers
from .subjects import subject_boxes


class MeasuredNumbers(NamedTuple):
    """At n frames: the output's pose (n, 4, 4), focal length in pixels of the scene's frame, millimetres, shutter in
    degrees, near and far (n,), the aim (n, 3), NaN without one; picture speeds in pixels a second (n,); the subjects'
    boxes (n, S, 4): left, top, right, bottom in pixels of the scene's frame, NaN behind the lens; the layers (n, L);
    how far the lens is beside the line that no cut is to cross, whether anything that receives a photograph may be
    in the frame; and how far what the camera is about is from the lens (n,)."""

    pose: Array
    focal_px: Array
    focal_mm: Array
    shutter: Array
    near: Array
    far: Array
    aim: Array
    middle: Array
    subject: Array
    fastest: Array
    boxes: Array
    distance: Array
    beside: Array
    magnified: Array
    shown: Array
    front: Array
    line_side: Array
    receiving: Array
    about: Array


def measure_numbers(scene: Scene, frames: Array) -> MeasuredNumbers:
    """What an evaluation tells of frames (n,)."""
    seen = output(scene, frames)
    speeds = picture_speed(scene, frames)
    here = evaluate(scene, frames)
    layers = measure_layers(here, seen, checked_layers(scene))
    aim = np.full((len(frames), 3), np.nan) if seen.aim is None else seen.aim
    return MeasuredNumbers(
        seen.pose, seen.focal_px, seen.focal_mm, seen.shutter, seen.near, seen.far, aim, speeds.middle, speeds.subject,
        speeds.fastest, subject_boxes(here, seen, scene.checks.subjects), *layers,
        _line_side(here, seen), _receiving(here, seen),
        np.linalg.norm(seen.subject() - seen.position, axis=1),
    )  # fmt: skip


def _line_side(here: Evaluation, seen: CameraView) -> Array:
    """On which side of the line between the two chosen nodes the lens is, seen from above: in units from it (n,)."""
    line = here.scene.checks.line
    if line is None:
        return np.full(len(here), np.nan)
    a, b = here.position(line[0])[:, ::2], here.position(line[1])[:, ::2]
    along, away = b - a, seen.position[:, ::2] - a
    long = np.maximum(np.linalg.norm(along, axis=1), 1e-9)
    return np.asarray((along[:, 0] * away[:, 1] - along[:, 1] * away[:, 0]) / long)


def _receiving(here: Evaluation, seen: CameraView) -> Array:
    """Whether anything that receives a photograph may be in the frame, 0 or 1 (n,)."""
    ids = {each for node in here.scene.nodes if isinstance(node, Projection) for each in node.receivers}
    out = np.zeros(len(here))
    for box in subject_boxes(here, seen, tuple(Subject(each) for each in sorted(ids))).transpose(1, 0, 2):
        # One that reaches behind the lens may be all over the frame.
        with np.errstate(invalid="ignore"):
            away = (box[:, 2] < 0.0) | (box[:, 0] > seen.width) | (box[:, 3] < 0.0) | (box[:, 1] > seen.height)
        out[~away] = 1.0
    return out


class Pictured(NamedTuple):
    """What pictures of one frame tell: its coverage in every format, how much of each subject is seen (of 1; NaN where
    it is not in the picture), how far a photograph is stretched, and the share of its receivers that it misses."""

    coverage: tuple[Coverage, ...]
    seen: tuple[float, ...] = ()
    stretch: float = np.nan
    missing: float = np.nan


class Measures:
    """All of it for a scene's whole frames; what is not known yet is NaN. Judging reads it, a thread or the pictures'
    end fills it."""

    def __init__(self, scene: Scene) -> None:
        settings, checks = scene.settings, scene.checks
        self.frames = np.arange(settings.first, settings.last + 1, dtype=np.float64)
        self.formats = scene.plain_formats()
        self.subjects = checks.subjects
        self.layers = checked_layers(scene)
        self.frame_size = (float(settings.width), float(settings.height))
        count = len(self.frames)
        shapes: dict[str, tuple[int, ...]] = {
            "pose": (4, 4), "aim": (3,), "boxes": (len(checks.subjects), 4),
            **dict.fromkeys(LayerMeasures._fields, (len(self.layers),)),
        }  # fmt: skip
        self.numbers = MeasuredNumbers(
            *(np.full((count, *shapes.get(name, ())), np.nan) for name in MeasuredNumbers._fields)
        )
        self.coverage = np.full((count, len(self.formats), 6), np.nan)
        self.seen = np.full((count, len(checks.subjects)), np.nan)
        self.stretch, self.missing = np.full(count, np.nan), np.full(count, np.nan)
        self.known = np.zeros(count, dtype=bool)
        self.pictured = np.zeros(count, dtype=bool)

    def __len__(self) -> int:
        return len(self.frames)

    def is_like(self, scene: Scene) -> bool:
        """Whether its arrays have the shape that a scene needs: the same frames, formats, subjects and layers."""
        settings = scene.settings
        return (
            (self.frames[0], len(self.frames)) == (settings.first, settings.frame_count)
            and self.frame_size == (settings.width, settings.height)
            and self.formats == scene.plain_formats()
            and self.subjects == scene.checks.subjects
            and self.layers == checked_layers(scene)
        )

    def put_numbers(self, rows: Rows, numbers: MeasuredNumbers) -> None:
        """Fill in what was measured of some rows (K,); None: nothing could be."""
        for mine, fresh in zip(self.numbers, numbers, strict=True):
            mine[rows] = fresh
        self.known[rows] = True

    def put_picture(self, row: int, found: Pictured) -> None:
        for k, each in enumerate(found.coverage):
            self.coverage[row, k] = (each.bare, each.hole, *each.margin)
        if found.seen:
            self.seen[row] = found.seen
        self.stretch[row], self.missing[row] = found.stretch, found.missing
        self.pictured[row] = True

    def forget(self, numbers: Rows, pictures: Rows) -> None:
        """Some frames, by their rows (K,), are other than they were."""
        self.known[numbers] = False
        self.pictured[pictures] = False

    def measure(self, scene: Scene, rows: Rows) -> None:
        """Work out what an evaluation tells of some rows (K,)."""
        if len(rows):
            self.put_numbers(rows, measure_numbers(scene, self.frames[rows]))
