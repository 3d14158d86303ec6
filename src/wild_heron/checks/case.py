"""The input of a check: a film in one format, with its measurements."""

from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..arrays import Array
from ..evaluate import Evaluation
from ..evaluate.film import film_of
from ..evaluate.windows import Windows
from ..scene import Scene
from ..space.lens import world_to_pixel
from .finding import Finding, frames_in_words
from .format_windows import windows_of
from .limit import CheckLimit
from .measures import Measures
from .shots import shown_name


class CheckCase:
    """A scene in the format of number ``which``."""

    def __init__(self, scene: Scene, measures: Measures, which: int = 0) -> None:
        self.scene, self.measures, self.which = scene, measures, which
        self.shape = measures.formats[which]
        self.frames = measures.frames
        self.numbers = measures.numbers
        self.known = measures.known

    def __len__(self) -> int:
        return len(self.frames)

    def finding(
        self, kind: str, rows: tuple[int, int], at: int, worst: float, badness: float, title: str,
        detail: str, about: str = "",
    ) -> Finding:  # fmt: skip
        """Something wrong from one row to another, worst at a third; the title says of itself in which frames."""
        first, last, frame = (float(self.frames[row]) for row in (*rows, at))
        when = frames_in_words(first, last)
        return Finding(kind, self.shape.name, first, last, frame, worst, badness, f"{title}, {when}", detail, about)

    def limit(self, limit: CheckLimit) -> float:
        return limit.of(self.scene.checks)

    @property
    def fps(self) -> float:
        return self.scene.settings.rate.fps

    @cached_property
    def segment(self) -> NDArray[np.int64]:
        """Which stretch between cuts each frame (N,) belongs to."""
        if not self.scene.shots:
            return np.zeros(len(self.frames), dtype=np.int64)
        return film_of(Evaluation.evaluator, self.scene).segments.number(self.frames)

    @cached_property
    def cuts(self) -> tuple[int, ...]:
        """The numbers of the frames that come first after a cut."""
        return tuple((np.flatnonzero(np.diff(self.segment)) + 1).tolist())

    def shot_name(self, row: int) -> str:
        """What is shown at a frame, a shot or an event, by name; "" in a scene without."""
        return shown_name(self.scene, float(self.frames[row]))

    @cached_property
    def windows(self) -> Windows:
        """Where the format lies in the camera's picture at each frame."""
        return windows_of(self.scene, self.frames, self.shape)

    @property
    def side(self) -> Array:
        """The longer side of the format's frame, in pixels of the scene's (N,): as large as that it is seen on its
        screen, whether it is wide or tall."""
        return np.asarray(self.windows.size.max(axis=1))

    @cached_property
    def slide(self) -> Array:
        """How fast the middle of the picture slides, in pixels of the scene's frame a second (N,), and no slower than
        the window moves over it."""
        if self.shape.window is None:
            return self.numbers.middle
        moved = np.linalg.norm(self.rate(self.windows.middle), axis=1)
        return np.fmax(self.numbers.middle, moved)

    @cached_property
    def subject_slide(self) -> Array:
        """The same for what the camera looks at, NaN where there is nothing (N,): as it is seen through the window."""
        numbers = self.numbers
        if self.shape.window is None:
            return numbers.subject
        settings = self.scene.settings
        place, _ = world_to_pixel(
            numbers.aim, numbers.pose, numbers.focal_px, settings.width, settings.height
        )  # fmt: skip
        inside = self.windows.inside(place, settings) * self.windows.size
        moved = np.linalg.norm(self.rate(inside), axis=1)
        return np.where(np.isfinite(numbers.subject), moved, np.nan)

    def rate(self, values: Array) -> Array:
        """Change a second of values (N, …) from the frame before to the frame after, within a stretch; 0 at a lone
        one."""
        count = len(self)
        here = np.arange(count)
        before, after = np.maximum(here - 1, 0), np.minimum(here + 1, count - 1)
        before = np.where(self.segment[before] == self.segment, before, here)
        after = np.where(self.segment[after] == self.segment, after, here)
        span = np.maximum(after - before, 1).reshape(-1, *([1] * (values.ndim - 1)))
        return np.asarray((values[after] - values[before]) / span * self.fps)

    @cached_property
    def speed(self) -> Array:
        """How fast what is looked at slides, in frames a second by their longer side (N,): the subject where there is
        one that the camera looks at, else the middle of the picture."""
        pixels = np.where(np.isfinite(self.subject_slide), self.subject_slide, self.slide)
        return np.asarray(pixels / self.side)

    def places(self) -> Array:
        """The boxes of subjects (N, S, 4) in shares of this format's frame: left, top, right, bottom."""
        left, top, right, bottom = np.moveaxis(self.numbers.boxes, -1, 0)
        corners = np.stack(
            [np.stack(each, axis=-1) for each in ((left, top), (right, top), (right, bottom), (left, bottom))], axis=2
        )
        inside = self.windows.inside(corners, self.scene.settings)
        return np.concatenate([inside.min(axis=2), inside.max(axis=2)], axis=-1)

    def name_of(self, node_id: str) -> str:
        return self.scene.node(node_id).name
