"""Comfort: how fast the picture slides, shakes, zooms and rolls, against what eyes can follow."""

import numpy as np
from numpy.typing import NDArray

from ..arrays import Array, ascending
from .case import CheckCase
from .check import Check
from .finding import Finding, Row, most_in, runs
from .limit import CheckLimit

NAME = "comfort"
CROSS = CheckLimit(
    "comfort.cross", "Seconds to cross the frame", 7.0, "s", 0.2, 60.0,
    "the cinematographer's rule for 24 frames a second and a shutter of 180°",
)  # fmt: skip
ZOOM = CheckLimit(
    "comfort.zoom", "Zoom a second", 0.25, "%", 0.01, 10.0,
    "a quarter nearer each second", 100.0,
)  # fmt: skip
SHAKE = CheckLimit(
    "comfort.shake", "Shake, share of the frame", 0.008, "%", 0.0005, 0.2,
    "about fifteen pixels in 1,920, as the root of the mean square over a second", 100.0,
)  # fmt: skip
STROBE = CheckLimit(
    "comfort.strobe", "Gap of an edge from frame to frame", 0.025, "%", 0.001, 0.5,
    "what blur leaves open of a step; beyond this an edge is seen twice", 100.0,
)  # fmt: skip
ROLL = CheckLimit(
    "comfort.roll", "Roll a second", 25.0, "°", 1.0, 720.0,
    "a horizon that turns faster makes dizzy",
)  # fmt: skip
_BUSY = 0.5
"""Of its limit: from here on something counts as motion of its own where zoom, pan and subject come together."""
_BUSY_FRAMES = 4
_WINDOW_SECONDS = 1.0
"""Over which shake is measured; slower motion is a move."""
_TURNS = 3
"""Within that window: what turns back less often is a move, however fast."""
_RULE_FPS = 24.0
_RULE_OPEN = 0.5
"""The rule is for a shutter of 180°, open half the time."""


def seconds_needed(seconds: float, fps: float, shutter: Array) -> Array:
    """The seven-second rule for another rate and other shutters (N,) in degrees: the same gap from the end of one
    frame's blur to the beginning of the next's, as a share of the frame."""
    shut = np.clip(1.0 - shutter / 360.0, 0.1, 1.0)
    return np.asarray(seconds * (_RULE_FPS / fps) * shut / (1.0 - _RULE_OPEN))


def judge(case: CheckCase) -> tuple[Row, list[Finding]]:
    """Too fast to follow (“fast”), everything at once (“busy”), shake (“shake”), edges seen twice (“strobe”), roll
    (“roll”)."""
    numbers = case.numbers
    needed = seconds_needed(case.limit(CROSS), case.fps, numbers.shutter)
    # In shares of the fastest that can be followed.
    rush = case.speed * needed
    slide = case.slide / case.side * needed
    shake, roll = shaking(case), rolling(case)
    step = numbers.fastest / case.side / case.fps
    gap = step * np.clip(1.0 - numbers.shutter / 360.0, 0.0, 1.0)
    with np.errstate(invalid="ignore"):
        fast = rush > 1.0
        shaky, rolls = shake > case.limit(SHAKE), roll > case.limit(ROLL)
        strobes = ~fast & (gap > case.limit(STROBE))
        busy = ~fast & _busy(case, slide)
    found = []
    for first, last in runs(fast, case.segment):
        worst = most_in(rush, first, last)
        crossing = 1.0 / float(case.speed[worst])
        found.append(
            case.finding(
                "fast", (first, last), worst, crossing, float(rush[worst]), "Too fast to follow",
                f"the frame slides by in {crossing:.1f} s, {float(needed[worst]):.1f} s is comfortable",
            )
        )  # fmt: skip
    for first, last in runs(busy, case.segment):
        if last - first >= _BUSY_FRAMES:
            worst = most_in(slide, first, last)
            found.append(
                case.finding(
                    "busy", (first, last), worst, float(slide[worst]), 1.0 + float(slide[worst]),
                    "Zoom, pan and subject at once", "let one of them rest",
                )
            )  # fmt: skip
    for name, own, bad, values, title, said in (
        ("shake", SHAKE, shaky, shake * 100.0, "Shakes", "{:.1f} % of the frame"),
        (
            "strobe",
            STROBE,
            strobes,
            gap * 100.0,
            "Edges are seen twice",
            "steps of {:.1f} % of the frame beyond their blur",
        ),
        ("roll", ROLL, rolls, roll, "Rolls fast", "{:.0f}° a second"),
    ):
        limit = case.limit(own) * own.shown
        for first, last in runs(bad, case.segment):
            worst = most_in(values, first, last)
            value = float(values[worst])
            found.append(
                case.finding(name, (first, last), worst, value, value / limit, title, "up to " + said.format(value))
            )
    return Row(NAME, rush, 1.0, "× comfortable", fast | shaky | strobes | rolls | busy), found


def figures(case: CheckCase) -> dict[str, float]:
    """For the whole film: the middle and the greatest speed in seconds to cross the frame, the share of the time in
    which it moves, and the most shake in percent of the frame."""
    speed = case.speed[np.isfinite(case.speed)]
    moving = speed[speed > 0.005]
    shake = shaking(case)
    return {
        "typical crossing in s": 1.0 / float(np.median(moving)) if len(moving) else float("inf"),
        "fastest crossing in s": 1.0 / float(moving.max()) if len(moving) else float("inf"),
        "in motion in %": 100.0 * len(moving) / max(len(speed), 1),
        "most shake in %": 100.0 * float(np.nanmax(shake, initial=0.0)),
    }


def _busy(case: CheckCase, slide: Array) -> NDArray[np.bool_]:
    """Frames (N,) at which the picture slides, is zoomed, and what is looked at moves in the world, all of them."""
    numbers = case.numbers
    distance = np.linalg.norm(numbers.aim - numbers.pose[:, :3, 3], axis=1)
    larger = np.abs(case.rate(np.log(numbers.focal_px)))
    moved = np.linalg.norm(case.rate(numbers.aim), axis=1) / distance
    half = _BUSY * case.limit(ZOOM)
    return np.asarray((larger > half) & (moved > half) & (slide > _BUSY))


def rolling(case: CheckCase) -> Array:
    """How fast the horizon turns in the picture, degrees a second (N,)."""
    pose = case.numbers.pose
    # The world's up in the picture: its angle is the roll, which has none where the lens looks straight up or down.
    angle = np.arctan2(pose[:, 1, 0], pose[:, 1, 1])
    turned = case.rate(np.unwrap(angle))
    level = np.hypot(pose[:, 1, 0], pose[:, 1, 1]) > 0.2
    return np.where(level, np.abs(np.degrees(turned)), 0.0)


def shaking(case: CheckCase) -> Array:
    """How far the picture jitters about its own slow motion: the root of the mean square over a second, in shares of
    the frame's longer side (N,). What is slower than that second is a move."""
    from scipy import ndimage

    numbers = case.numbers
    window = max(3, round(_WINDOW_SECONDS * case.fps))
    sigma = 0.125 * window
    out = np.full(len(case), np.nan)
    for number in ascending(case.segment):
        rows = np.flatnonzero((case.segment == number) & case.known)
        if len(rows) < 5:
            continue
        pose, focal = numbers.pose[rows], numbers.focal_px[rows] / case.side[rows]
        # Where a far point straight ahead at the first moment would be: turns small enough, angles are shares.
        forward = -pose[:, :3, 2]
        yaw = np.unwrap(np.arctan2(forward[:, 0], -forward[:, 2]))
        pitch = np.arcsin(np.clip(forward[:, 1], -1.0, 1.0))
        distance = np.linalg.norm(numbers.aim[rows] - pose[:, :3, 3], axis=1)
        side = (pose[:, :3, 0] * (pose[:, :3, 3] - pose[0, :3, 3])).sum(axis=1)
        lift = pose[:, 1, 3]
        near = np.where(np.isfinite(distance) & (distance > 1e-6), distance, np.inf)
        squares = np.zeros(len(rows))
        for signal in (yaw * np.cos(pitch), pitch, side / near, lift / near):
            rough = _without_trend(signal, sigma)
            squares += np.where(_to_and_fro(signal, window), rough**2, 0.0)
        smooth = ndimage.uniform_filter1d(squares, window, mode="nearest")
        out[rows] = np.sqrt(np.maximum(smooth, 0.0)) * focal
    return out


def _to_and_fro(values: Array, window: int) -> NDArray[np.bool_]:
    """Where values (n,) turn back often enough within so many frames to be a shake: a fast move does not."""
    from scipy import ndimage

    way = np.sign(np.diff(values, prepend=values[0]))
    way[np.abs(np.diff(values, prepend=values[0])) < 1e-9] = 0.0
    gone = np.flatnonzero(way)
    turns = np.zeros(len(values))
    if len(gone) > 1:
        turns[gone[1:]] = way[gone[1:]] != way[gone[:-1]]
    return np.asarray(ndimage.uniform_filter1d(turns, window, mode="constant") * window >= _TURNS - 0.5)


def _without_trend(values: Array, sigma: float) -> Array:
    """What is left of values (n,) without their slow motion. Twice smoothed, so that a bend of constant curvature,
    which a move has where it starts and lands, leaves nothing."""
    from scipy import ndimage

    once = ndimage.gaussian_filter1d(values, sigma, mode="nearest")
    rest = values - once
    left = rest - ndimage.gaussian_filter1d(rest, sigma, mode="nearest")
    # Near the ends there is too little to tell a move from a shake.
    reach = min(len(values) // 2, round(2.0 * sigma))
    left[:reach] *= np.linspace(0.0, 1.0, reach, endpoint=False) if reach else 1.0
    left[len(left) - reach :] *= np.linspace(1.0, 0.0, reach) if reach else 1.0
    return np.asarray(left)


CHECK = Check(
    NAME, "Comfort", "picture speed against what eyes follow", ("fast", "busy", "shake", "strobe", "roll"),
    (CROSS, ZOOM, SHAKE, STROBE, ROLL), judge, everywhere=("roll",),
)  # fmt: skip
