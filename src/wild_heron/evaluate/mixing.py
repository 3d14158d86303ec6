"""Blends one camera view into another, by one of the ways of a join."""

from collections.abc import Callable
from typing import Any, NamedTuple

import msgspec
import numpy as np
from numpy.typing import NDArray

from ..arrays import Array, Rows
from ..scene import Way
from ..space.blending import LookedAt, around, over, straight
from ..space.rotation import matrix_to_quaternion
from ..space.transform import length
from ..space.turning import Kind, Turning, frames_between, turning
from .cameras import LENS_PARTS, CameraView

_LONG_TRIP = 2.5
"""How many pictures wide a trip is, at the least, that goes up and over by itself."""
_ONE_PLACE = 0.05
"""What part of a picture's width two subjects are apart, at most, that are gone round as one."""
_ASTRAY = 3.0
"""Times its distance and its lens's angle at the middle of a blend: a subject that is borrowed stays within that."""


class BlendCourse(NamedTuple):
    """How a blend goes, whichever of its moments is looked at: its way, how the camera turns on it (None: the short
    way at each moment), and whether either is about what the other is aimed at."""

    way: Way
    turning: Turning | None = None
    borrows: tuple[bool, bool] = (False, False)


def course_of(a: CameraView, b: CameraView, way: Way, same_aim: bool, middle: int = 0) -> BlendCourse:
    """How a blend goes, told from its moments (M): from the ``middle`` one, and followed from there to the others.

    A way left to it is chosen by what the cameras look at. What each is about is what it aims at; where only one aims,
    the other is about that too, if it has it in its picture or close by then and does not lose it meanwhile; else it is
    about what is in focus.
    """
    borrows = _borrows(a, b, middle), _borrows(b, a, middle)
    looks = _looks(a, b, borrows)
    if way == "auto":
        trip = float(length(looks[1].subject - looks[0].subject)[middle])
        widths = [float(look.away[middle] * a.width / look.focal_px[middle]) for look in looks]
        aimed = all(bool(_is_aimed(each)[middle]) for each in (a, b))
        if same_aim or (aimed and trip < _ONE_PLACE * min(widths)):
            way = "round"
        else:
            way = "rise" if trip > _LONG_TRIP * max(widths) else "straight"
    first, second = (matrix_to_quaternion(look.pose[:, :3, :3]) for look in looks)
    return BlendCourse(way, turning(a.frames, first, second, way != "straight", middle), borrows)


See = Callable[[Array], tuple[CameraView, CameraView]]
"""The two pictures of a blend at frames."""


def course_over(seen: See, begins: float, ends: float, way: Way, same_aim: bool) -> BlendCourse:
    """How a blend goes from one frame to another, followed over moments that are close enough to be followed."""
    middle = 0.5 * (begins + ends)
    views: dict[int, tuple[CameraView, CameraView]] = {}

    def turned(frames: Array) -> Array:
        views[len(frames)] = seen(frames)
        return np.stack([matrix_to_quaternion(each.pose[:, :3, :3]) for each in views[len(frames)]])

    frames = frames_between(turned, begins, ends, middle)
    return course_of(*views[len(frames)], way, same_aim, int(np.searchsorted(frames, middle)))


def _borrows(own: CameraView, other: CameraView, middle: int) -> bool:
    """Whether a picture without an aim is about that of the other."""
    if other.aim is None or _is_aimed(own)[middle] or not _is_aimed(other)[middle]:
        return False
    subject = other.subject()
    pixel, depth = own.pixels(subject)
    half = 0.5 * np.array([own.width, own.height])
    with np.errstate(invalid="ignore"):
        off = np.abs(pixel - half) / half
    if not (depth[middle] > 0.0 and (off[middle] <= 2.0).all()):
        return False
    away = length(subject - own.position)
    lost = (depth <= 0.0) | (off > 2.0 * _ASTRAY).any(axis=1) | (away * _ASTRAY < away[middle])
    return not bool(lost.any())


def _looks(a: CameraView, b: CameraView, borrows: tuple[bool, bool]) -> tuple[LookedAt, LookedAt]:
    """What the two are about."""
    subjects = [each.subject() for each in (a, b)]
    subjects = [subjects[1 - k] if borrowed else subjects[k] for k, borrowed in enumerate(borrows)]
    return LookedAt(a.pose, a.focal_px, subjects[0]), LookedAt(b.pose, b.focal_px, subjects[1])


def _is_aimed(view: CameraView) -> NDArray[np.bool_]:
    """At which frames (N,) something is looked at. Beside other frames it may be told by NaN that nothing is."""
    if view.aim is None:
        return np.zeros(len(view), dtype=bool)
    return np.asarray(np.isfinite(view.aim).all(axis=1))


def mixed(a: CameraView, b: CameraView, share: Array, course: BlendCourse) -> CameraView:
    """What is seen (N) a share (N,) of the way from one picture to another at the same frames: at 0 and 1 the one and
    the other, bit for bit.

    How a lens goes is told in ``lens``, number by number.
    """
    looks = _looks(a, b, course.borrows)
    turned = _turned(looks, a.frames, share, course)
    if course.way == "round":
        pose, focal_px = around(*looks, share, turned)
    elif course.way == "rise":
        pose, focal_px = over(*looks, share, turned, float(a.width))
    else:
        pose, focal_px = straight(*looks, share, turned)
    # Where neither has an aim, nor has the mix.
    subjects = [each.subject() for each in (a, b)]
    about = subjects[0] + (subjects[1] - subjects[0]) * share[:, None]
    aimed = _is_aimed(a) | _is_aimed(b)
    made = msgspec.structs.replace(
        a,
        pose=pose,
        focal_px=focal_px,
        **{part.field: part.mix(a, b, share) for part in LENS_PARTS},
        aim=np.where(aimed[:, None], about, np.nan) if aimed.any() else None,
        about=about,
    )
    return chosen(chosen(made, a, share == 0.0), b, share == 1.0)


def _turned(looks: tuple[LookedAt, LookedAt], frames: Array, share: Array, course: BlendCourse) -> Array:
    """How the camera is turned (N, 4)."""
    first, second = (matrix_to_quaternion(look.pose[:, :3, :3]) for look in looks)
    way = course.turning
    if way is None:
        kind: Kind = "arc" if course.way in ("straight", "auto") else "level"
        way = Turning.short(kind)
    return way.at(frames, first, second, share)


_PARTS = ("pose", "focal_px", *(part.field for part in LENS_PARTS))
_PERHAPS = ("aim", "about")
"""Not at every frame: NaN there, and None where never."""


def chosen(view: CameraView, other: CameraView, where: NDArray[np.bool_]) -> CameraView:
    """A picture with another in its place at some of its frames, (N,) bool."""
    if not where.any():
        return view
    fields = {}
    for name in (*_PARTS, *_PERHAPS):
        mine, theirs = getattr(view, name), getattr(other, name)
        if name in _PERHAPS and (mine is None or theirs is None):
            if mine is theirs:
                continue
            nothing = np.full((len(view), 3), np.nan)
            mine, theirs = (nothing if each is None else each for each in (mine, theirs))
        fields[name] = np.where(where.reshape(-1, *([1] * (mine.ndim - 1))), theirs, mine)
    return msgspec.structs.replace(view, **fields)


def rows_of(view: CameraView, rows: Rows) -> CameraView:
    """A picture at some of its frames, by their numbers (K,)."""
    if len(rows) == len(view) and rows[0] == 0 and rows[-1] == len(rows) - 1:
        return view
    at = _together(rows)
    fields: dict[str, Any] = {name: getattr(view, name)[at] for name in ("frames", *_PARTS)}
    fields |= {name: None if (known := getattr(view, name)) is None else known[at] for name in _PERHAPS}
    return msgspec.structs.replace(view, **fields)


def _together(rows: Rows) -> Rows | slice:
    """Rising numbers of rows as a slice where they follow on each other, which takes no copy."""
    if len(rows) and rows[-1] - rows[0] == len(rows) - 1:
        return slice(int(rows[0]), int(rows[-1]) + 1)
    return rows


def put_together(frames: Array, parts: list[tuple[Rows, CameraView]]) -> CameraView:
    """One picture at frames (N,) of several, each with the numbers of the frames that it has."""
    first = parts[0][1]
    if len(parts) == 1 and len(parts[0][0]) == len(frames):
        return first
    fields: dict[str, Any] = {}
    for name in _PARTS:
        whole = np.empty((len(frames), *getattr(first, name).shape[1:]), getattr(first, name).dtype)
        for rows, view in parts:
            whole[_together(rows)] = getattr(view, name)
        fields[name] = whole
    for name in _PERHAPS:
        known = [(rows, getattr(view, name)) for rows, view in parts]
        fields[name] = None
        if any(each is not None for _, each in known):
            fields[name] = np.full((len(frames), 3), np.nan)
            for rows, each in known:
                if each is not None:
                    fields[name][_together(rows)] = each
    return msgspec.structs.replace(first, frames=frames, **fields)
