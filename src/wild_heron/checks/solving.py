"""A format's window solved: the calmest way for its frame through the camera's picture on which subjects stay in their
area and nothing bare is shown.

The path is L1-optimal (Grundmann, Kwatra & Essa, "Auto-Directed Video Stabilization with Robust L1 Optimal Camera
Paths", 2011): of the first three differences of the place from frame to frame the weighted sum of absolute values is
least, so it is made of stretches that stand still, go evenly, or change speed evenly. One linear programme for each
axis and shot.
"""

from collections.abc import Callable
from typing import Any, NamedTuple

import numpy as np
from msgspec.structs import replace
from numpy.typing import NDArray

from ..arrays import Array
from ..edits import add_node, check_unlocked, format_named, fresh_id, fresh_name, is_locked, set_channel
from ..evaluate import evaluate, output
from ..evaluate.cameras import Segments
from ..evaluate.film import film_of
from ..evaluate.windows import windows_at
from ..motion.thinning import thinned
from ..scene import Channel, Format, FormatWindow, Hold, Scene, SceneError, Subject
from ..scene.channels import ACROSS, UP
from ..scene.checks import AREAS
from ..scene.specs import channel_or_default
from .coverage import LONGER_SIDE
from .shots import matters
from .subjects import subject_boxes

_STILL_AT_CUTS = 2
"""Frames at either end of a shot at which the window stands still, where the shot is long enough."""
_LOST = 400.0
"""What a pixel of a subject outside of its area costs, in weights: it is given up only where it cannot be kept."""
_MIDDLE = 1e-3
"""What a pixel off the middle costs, in the least of the weights."""
_TOLERANCE = 0.4
"""In pixels of the scene's frame: how far the keys may be from the path."""
_TOLD = 0.5
_MOSTLY = 0.5
_BENDS = 0.004
"""Of the frame's sides: where a subject's way bends by more than this from frame to frame, it is looked at between."""
_QUARTERS = (0.25, 0.5, 0.75)
_FINER = 4


class Weights(NamedTuple):
    """How much standing still, going evenly, and changing speed smoothly are worth against each other."""

    still: float = 1.0
    steady: float = 10.0
    smooth: float = 100.0

    def over(self, step: float) -> "Weights":
        """The same for a path of steps of so many frames, whose differences are so much smaller and so many more."""
        return Weights(self.still, self.steady / step, self.smooth / step**2)


class Solution(NamedTuple):
    """The middle of a window (N, 2) at frames (N,), in pixels of the scene's frame from its middle, right and down; by
    how much subjects are out of their area all the same (N,), in the same pixels; and which shot each frame is of."""

    frames: Array
    middle: Array
    outside: Array
    segment: NDArray[np.int64]

    @property
    def worst(self) -> tuple[float, float] | None:
        """The frame at which a subject is farthest out, and by how much; None where all are kept."""
        at = int(np.argmax(self.outside))
        out = float(self.outside[at])
        return (float(self.frames[at]), out) if out > _TOLD else None


def calmest(
    low: Array, high: Array, least: Array | float, most: Array | float, weights: Weights, at_rest: int = _STILL_AT_CUTS
) -> tuple[Array, Array]:
    """The L1-optimal path x (n,) with ``least`` ≤ x ≤ ``most`` (n,), and how far (n,) it is outside of ``low`` ≤ x ≤
    ``high`` (n,), each infinite where it asks for nothing. Where ``low`` exceeds ``high`` it goes between them. Of
    paths as calm as each other it is the one nearest to 0."""
    from scipy.optimize import linprog
    from scipy.sparse import bmat, csr_array

    count = len(low)
    asked = low, high
    least, most = np.broadcast_to(least, (count,)), np.broadcast_to(most, (count,))
    crossed = low > high
    between = 0.5 * (np.where(crossed, low, 0.0) + np.where(crossed, high, 0.0))
    low, high = np.where(crossed, between, low), np.where(crossed, between, high)
    if not (np.isfinite(low).any() or np.isfinite(high).any()) and least.max() <= 0.0 <= most.min():
        return np.zeros(count), np.zeros(count)
    if count == 1:
        x = np.clip(np.clip(np.zeros(1), low, high), least, most)
        return x, np.maximum(np.maximum(asked[0] - x, x - asked[1]), 0.0)
    # Unknowns: the places, the size of each of three differences, and what is lost of either bound.
    orders = [k for k in (0, 1, 2, 3) if count > k]
    worth = (_MIDDLE * min(weights), *weights)
    differences = [_difference(count, k) for k in orders]
    sizes = [count - k for k in orders]
    costs = np.concatenate(
        [np.zeros(count), *(np.full(n, worth[k]) for n, k in zip(sizes, orders, strict=True)),
         np.full(count, _LOST * max(weights))]
    )  # fmt: skip
    blocks, limits = _bounds(differences, low, high)
    equal = None
    rows = _at_rest(least, most, at_rest) if at_rest else []
    if rows:
        nothing = [csr_array((len(rows), n)) for n in (*sizes, count)]
        equal = bmat([[differences[1][rows], *nothing]])
    ranges = [*zip(least, most, strict=True), *[(0.0, None)] * (sum(sizes) + count)]
    found = linprog(
        costs, bmat(blocks, format="csr"), np.concatenate(limits), equal,
        None if equal is None else np.zeros(equal.shape[0]), ranges, method="highs",
    )  # fmt: skip
    if found.x is None:
        raise SceneError(f"The way of the window cannot be worked out: {found.message}")
    path: Array = np.asarray(found.x[:count], dtype=np.float64)
    with np.errstate(invalid="ignore"):
        outside = np.nan_to_num(np.maximum(asked[0] - path, path - asked[1]), nan=0.0, neginf=0.0)
    return path, np.maximum(outside, 0.0)


def _bounds(differences: list[Any], low: Array, high: Array) -> tuple[list[list[Any]], list[Array]]:
    """What holds the sizes of differences above their values, and the places between bounds (n,) but for what is lost:
    blocks of a matrix, and what each comes to at the most."""
    from scipy.sparse import csr_array, eye_array

    count, sizes = len(low), [each.shape[0] for each in differences]
    blocks, limits = [], []
    for number, difference in enumerate(differences):
        for sign in (1.0, -1.0):
            row: list[object] = [sign * difference, *([None] * len(sizes)), None]
            row[1 + number] = -eye_array(sizes[number])
            blocks.append(row)
            limits.append(np.zeros(sizes[number]))
    own = eye_array(count, format="csr")
    for sign, bound in ((1.0, high), (-1.0, low)):
        given = np.flatnonzero(np.isfinite(bound))
        if len(given):
            blocks.append([sign * own[given], *([None] * len(sizes)), -own[given]])
            limits.append(sign * bound[given])
    # Every block of unknowns has to appear, for its width to be known.
    blocks.append([own * 0.0, *(csr_array((count, n)) for n in sizes), own * 0.0])
    limits.append(np.zeros(count))
    return blocks, limits


def _at_rest(least: Array, most: Array, steps: int) -> list[int]:
    """Between which places and the next a path with bounds (n,) stands still for so many steps: at either end where it
    can."""
    count = len(least)
    if count < 4 * steps:
        return []
    starts = (0, count - 1 - steps)
    ends = [slice(start, start + steps + 1) for start in starts]
    can = [least[end].max() <= most[end].min() for end in ends]
    return [row for start, free in zip(starts, can, strict=True) if free for row in range(start, start + steps)]


def _difference(count: int, order: int):  # type: ignore[no-untyped-def]
    """The matrix (count − order, count) of a difference of values in a row."""
    from scipy.sparse import diags_array

    stencil = np.array([1.0])
    for _ in range(order):
        stencil = np.convolve(stencil, [-1.0, 1.0])
    return diags_array(stencil, offsets=np.arange(order + 1), shape=(count - order, count), format="csr")


def solved(
    scene: Scene,
    shape: Format,
    weights: Weights | None = None,
    margins: Array | None = None,
    step: Callable[[int, int], None] = lambda done, total: None,
) -> Solution:
    """The calmest way of a format's window, as large as it is, through each shot; along a locked axis it stays.

    ``margins`` (N, 4): how far artwork reaches beyond the camera's picture at the left, top, right and bottom, in
    shares of its sides, and less than nothing where it is bare within, on each of the scene's frames; so far the window
    may go. Without, or where one is NaN, it keeps to the picture. ``step`` is told before each of the shots how many
    are done, and of how many; what it raises ends the work. SceneError without a subject.
    """
    checks, settings = scene.checks, scene.settings
    if not checks.subjects:
        raise SceneError("Nothing is to stay in the frame yet: select a subject, and Check ▸ Keep in frame.")
    frames, segment = _moments(scene)
    seen, here = output(scene, frames), evaluate(scene, frames)
    boxes = subject_boxes(here, seen, checks.subjects)
    windows = windows_at(here, settings, shape)
    middle, outside = np.zeros((len(frames), 2)), np.zeros(len(frames))
    full = np.array([settings.width, settings.height], dtype=np.float64)
    reach = np.zeros((len(frames), 4)) if margins is None else _between_frames(margins, frames - settings.first)
    node = scene.node(shape.window) if shape.window is not None else None
    own = Weights(node.still, node.steady, node.smooth) if isinstance(node, FormatWindow) else Weights()
    segments = np.unique(segment)
    for done, number in enumerate(segments.tolist()):
        step(done, len(segments))
        rows = np.flatnonzero(segment == number)
        wanted = [matters(scene, each, frames[rows]) for each in checks.subjects]
        for axis, name in enumerate((ACROSS, UP)):
            size = windows.size[rows, axis]
            low, high = _asked(boxes[rows], checks.subjects, wanted, size, full, axis, reach[rows])
            if node is not None and is_locked(node, name):
                path = windows.middle[rows, axis]
                out = np.maximum(np.maximum(low - path, path - high), 0.0)
            else:
                least, most = _room(reach[rows], size, full, axis)
                length = float(np.diff(frames[rows]).max(initial=0.0)) or 1.0
                still = round(_STILL_AT_CUTS / length)
                path, out = calmest(low, high, least, most, (weights or own).over(length), still)
            middle[rows, axis] = path
            outside[rows] = np.maximum(outside[rows], out)
    return Solution(frames, middle, outside, segment)


def _moments(scene: Scene) -> tuple[Array, NDArray[np.int64]]:
    """Every frame, and quarters of them throughout the stretches between cuts in which a subject crosses the picture
    quickly, so that the window is where it should be between frames too; and the stretch that each is in."""
    settings = scene.settings
    whole = np.arange(settings.first, settings.last + 1, dtype=np.float64)
    seen, here = output(scene, whole), evaluate(scene, whole)
    boxes = subject_boxes(here, seen, scene.checks.subjects)
    segments = film_of(here.evaluator, scene).segments if scene.shots else Segments()
    number = segments.number(whole)
    kept = [whole]
    bends = np.abs(np.diff(boxes, 2, axis=0)) / np.array([settings.width, settings.height] * 2)
    for each in np.unique(number).tolist():
        rows = np.flatnonzero(number == each)
        inside = bends[rows[0] : max(rows[-1] - 1, rows[0])]
        if len(inside) and np.nan_to_num(inside).max(initial=0.0) > _BENDS:
            kept += [whole[rows] + part for part in _QUARTERS]
    frames = np.sort(np.concatenate(kept))
    frames = frames[frames <= settings.last]
    return frames, segments.number(frames)


def _straight_between(frames: Array, values: Array) -> tuple[Array, Array]:
    """Quarters of frames with what lies between them on a line: a curve through fast ones would swing over its bounds.
    Whole frames as they are."""
    if len(frames) < 2 or float(np.diff(frames).max()) >= 1.0:
        return frames, values
    more = np.linspace(frames[0], frames[-1], _FINER * (len(frames) - 1) + 1)
    return more, np.interp(more, frames, values)


def _between_frames(margins: Array, places: Array) -> Array:
    """Margins (N, 4) of frames at places between them (M,), the less of the two; nothing where they are not known."""
    known = np.nan_to_num(margins, nan=0.0)
    low = np.clip(np.floor(places).astype(int), 0, len(known) - 1)
    high = np.clip(np.ceil(places).astype(int), 0, len(known) - 1)
    return np.minimum(known[low], known[high])


def _room(reach: Array, size: Array, full: Array, axis: int) -> tuple[Array, Array]:
    """Between which places (n,) the middle of a window of a size (n,) shows nothing bare, where there are any: in the
    middle of what is covered where it is larger than that."""
    # A pixel of the map that coverage is read off may be bare in part.
    beyond = np.where(reach > 0.0, np.maximum(reach - 1.0 / LONGER_SIDE, 0.0), reach)
    first = -(0.5 + beyond[:, axis]) * full[axis]
    last = (0.5 + beyond[:, axis + 2]) * full[axis]
    least, most = first + 0.5 * size, last - 0.5 * size
    between = 0.5 * (first + last)
    return np.minimum(least, between), np.maximum(most, between)


def _asked(
    boxes: Array,
    subjects: tuple[Subject, ...],
    wanted: list[NDArray[np.bool_] | None],
    size: Array,
    full: Array,
    axis: int,
    reach: Array,
) -> tuple[Array, Array]:
    """Between which places (n,) the middle of a window of a size (n,) has every subject in its area that is wanted in
    these frames, as far as it lies where the window may be: in the camera's picture, or a margin of artwork (n, 4)."""
    wide = np.maximum(reach, 0.0) * np.tile(full, 2)
    edges = np.concatenate([-wide[:, :2], full + wide[:, 2:]], axis=1)
    low, high = np.full(len(boxes), -np.inf), np.full(len(boxes), np.inf)
    for k, subject in enumerate(subjects):
        box = boxes[:, k]
        with np.errstate(invalid="ignore"):
            there = (box[:, 2:] > edges[:, :2]).all(axis=1) & (box[:, :2] < edges[:, 2:]).all(axis=1)
        named = wanted[k]
        if named is not None:
            there &= named
        elif there.mean() <= _MOSTLY:
            continue
        first, last = (np.clip(box[:, k], edges[:, axis], edges[:, axis + 2]) for k in (axis, axis + 2))
        first, last = first - 0.5 * full[axis], last - 0.5 * full[axis]
        # The keys may be a little off the path.
        half = 0.5 * AREAS[subject.area] * size - 2.0 * _TOLERANCE
        low = np.where(there, np.fmax(low, last - half), low)
        high = np.where(there, np.fmin(high, first + half), high)
    return low, high


def with_window(scene: Scene, format_name: str) -> tuple[Scene, str]:
    """The scene with a window for a format, and its id; the one that it has. SceneError for the scene's own frame."""
    shape = next((each for each in scene.formats if each.name == format_name), None)
    if shape is None:
        raise SceneError("The scene's own frame is the camera's picture. Choose another format in the top bar.")
    if shape.window is not None:
        return scene, shape.window
    node_id, name = fresh_id(scene, f"{format_name} window"), fresh_name(scene, format_name)
    made = FormatWindow(id=node_id, name=name, colour="#7fb2c9")
    scene = add_node(scene, made)
    formats = tuple(replace(each, window=made.id) if each is shape else each for each in scene.formats)
    return replace(scene, formats=formats), made.id


def follow_subjects(
    scene: Scene,
    format_name: str,
    weights: Weights | None = None,
    margins: Array | None = None,
    step: Callable[[int, int], None] = lambda done, total: None,
) -> tuple[Scene, Solution]:
    """The scene with a format's window keyed so that it follows the subjects, with few keys; ``solved`` says how,
    ``margins`` (N, 4) too."""
    scene, node_id = with_window(scene, format_name)
    node = scene.node(node_id)
    if is_locked(node, ACROSS) and is_locked(node, UP):
        check_unlocked(node, (ACROSS, UP))
    solution = solved(scene, format_named(scene, format_name), weights, margins, step)
    settings = scene.settings
    for name, axis, whole in ((ACROSS, 0, settings.width), (UP, 1, -settings.height)):
        if is_locked(node, name):
            continue
        values = solution.middle[:, axis] / whole
        keys = []
        for number in np.unique(solution.segment):
            rows = np.flatnonzero(solution.segment == number)
            part = thinned(*_straight_between(solution.frames[rows], values[rows]), _TOLERANCE / abs(whole))
            keys += [*part[:-1], replace(part[-1], span=Hold())]
        channel: Channel = channel_or_default(scene.node(node_id), name)
        if len({round(key.value, 9) for key in keys}) == 1:
            channel = replace(channel, value=keys[0].value, keys=())
        else:
            channel = replace(channel, keys=tuple(keys))
        scene = set_channel(scene, node_id, channel)
    return scene, solution
