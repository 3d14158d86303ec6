"""One camera's picture mixed with another's, by one of the ways of a blend."""

from typing import NamedTuple

import msgspec
import numpy as np
from numpy.typing import NDArray

from ..arrays import Array, Rows
from ..scene import Way
from ..space.blending import Look, around, heading_turn, log_mix, over, straight
from ..space.transform import length
from .cameras import CameraView

_LONG_TRIP = 2.5
"""How many pictures wide a trip is, at the least, that goes up and over by itself."""


class Course(NamedTuple):
    """How a blend goes, whichever of its moments is looked at: its way, and about how far it turns about the world's Y
    in radians; None: the short way at each moment."""

    way: Way
    turn: float | None = None


def course_of(a: CameraView, b: CameraView, way: Way, same_aim: bool) -> Course:
    """How a blend goes, told from one moment (N = 1); a way left to it is chosen by what the cameras look at."""
    looks = _looks(a, b)
    if way == "auto":
        trip = float(length(looks[1].subject - looks[0].subject)[0])
        widths = [float(length(look.position - look.subject)[0] * a.width / look.focal_px[0]) for look in looks]
        if same_aim or (a.aim is not None and b.aim is not None and trip < 0.05 * min(widths)):
            way = "round"
        else:
            way = "rise" if trip > _LONG_TRIP * max(widths) else "straight"
    return Course(way, float(heading_turn(*looks)[0]))


def _looks(a: CameraView, b: CameraView) -> tuple[Look, Look]:
    """What the two are about: what each aims at; where only one aims, the other is about that too if it has it in its
    picture or close by, else about what is in focus."""
    subjects = [a.subject(), b.subject()]
    for k, (own, other) in enumerate(((a, b), (b, a))):
        lacking = ~_is_aimed(own) & _is_aimed(other)
        if lacking.any() and other.aim is not None:
            pixel, _ = own.pixels(other.aim)
            with np.errstate(invalid="ignore"):
                off = np.abs(pixel - 0.5 * np.array([own.width, own.height]))
                seen = lacking & (off[:, 0] <= own.width) & (off[:, 1] <= own.height)
            subjects[k] = np.where(seen[:, None], other.aim, subjects[k])
    return Look(a.pose, a.focal_px, subjects[0]), Look(b.pose, b.focal_px, subjects[1])


def _is_aimed(view: CameraView) -> NDArray[np.bool_]:
    """At which frames (N,) something is looked at. Beside other frames it may be told by NaN that nothing is."""
    if view.aim is None:
        return np.zeros(len(view), dtype=bool)
    return np.asarray(np.isfinite(view.aim).all(axis=1))


def mixed(a: CameraView, b: CameraView, share: Array, course: Course, turn: Array | None = None) -> CameraView:
    """What is seen (N) a share (N,) of the way from one picture to another at the same frames: at 0 and 1 the one and
    the other, bit for bit.

    ``turn`` (N,) is about how far it turns at each frame, where that is not the same for all of the course.
    Distances and focal lengths go in log space; apertures by how wide they are, so that focus can come in slowly.
    """
    looks = _looks(a, b)
    if turn is None and course.turn is not None:
        turn = np.full(len(share), course.turn)
    if course.way == "round":
        pose, focal_px = around(*looks, share, turn)
    elif course.way == "rise":
        pose, focal_px = over(*looks, share, float(a.width), turn)
    else:
        pose, focal_px = straight(*looks, share)
    openings = [np.where(each.depth_of_field, 1.0 / each.f_stop, 0.0) for each in (a, b)]
    opening = np.maximum(openings[0] + (openings[1] - openings[0]) * share, 0.0)
    blurs = opening > 0.0
    plain = log_mix(a.f_stop, b.f_stop, share)
    shutter = np.maximum(a.shutter + (b.shutter - a.shutter) * share, 0.0)
    # Without an aim a picture is about its subject; where neither has one, nor has the mix.
    aims = [each.subject() for each in (a, b)]
    aimed = _is_aimed(a) | _is_aimed(b)
    made = msgspec.structs.replace(
        a,
        pose=pose,
        focal_px=focal_px,
        focal_mm=log_mix(a.focal_mm, b.focal_mm, share),
        focus=log_mix(a.focus, b.focus, share),
        f_stop=np.where(blurs, 1.0 / np.where(blurs, opening, 1.0), plain),
        depth_of_field=blurs,
        shutter=shutter,
        sensor=log_mix(a.sensor, b.sensor, share[:, None]),
        near=log_mix(a.near, b.near, share),
        far=log_mix(a.far, b.far, share),
        aim=np.where(aimed[:, None], aims[0] + (aims[1] - aims[0]) * share[:, None], np.nan) if aimed.any() else None,
    )
    return chosen(chosen(made, a, share == 0.0), b, share == 1.0)


_PARTS = ("pose", "focal_px", "focal_mm", "focus", "f_stop", "shutter", "depth_of_field", "sensor", "near", "far")


def chosen(view: CameraView, other: CameraView, where: NDArray[np.bool_]) -> CameraView:
    """A picture with another in its place at some of its frames, (N,) bool."""
    if not where.any():
        return view
    fields = {}
    for name in (*_PARTS, "aim"):
        mine, theirs = getattr(view, name), getattr(other, name)
        if name == "aim" and (mine is None or theirs is None):
            if mine is theirs:
                continue
            nothing = np.full((len(view), 3), np.nan)
            mine, theirs = (nothing if each is None else each for each in (mine, theirs))
        fields[name] = np.where(where.reshape(-1, *([1] * (mine.ndim - 1))), theirs, mine)
    return msgspec.structs.replace(view, **fields)


def rows_of(view: CameraView, rows: Rows) -> CameraView:
    """A picture at some of its frames, by their numbers."""
    if len(rows) == len(view) and rows[0] == 0 and rows[-1] == len(rows) - 1:
        return view
    at = _together(rows)
    fields = {name: getattr(view, name)[at] for name in ("frames", *_PARTS)}
    return msgspec.structs.replace(view, aim=None if view.aim is None else view.aim[at], **fields)


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
    fields = {}
    for name in _PARTS:
        whole = np.empty((len(frames), *getattr(first, name).shape[1:]), getattr(first, name).dtype)
        for rows, view in parts:
            whole[_together(rows)] = getattr(view, name)
        fields[name] = whole
    aim = None
    if any(view.aim is not None for _, view in parts):
        aim = np.full((len(frames), 3), np.nan)
        for rows, view in parts:
            if view.aim is not None:
                aim[_together(rows)] = view.aim
    return msgspec.structs.replace(first, frames=frames, aim=aim, **fields)
