"""What the checks hold a film to. Each limit is told here once, with where it comes from."""

from typing import NamedTuple

from ..scene import ChecksOfScene


class Limit(NamedTuple):
    """``name`` in a scene, what it is called, its unit on screen (after ``shown`` times its value), and its range."""

    name: str
    label: str
    value: float
    unit: str
    low: float
    high: float
    source: str
    shown: float = 1.0


def _limit(
    name: str, label: str, value: float, unit: str, low: float, high: float, source: str, shown: float = 1.0
) -> Limit:
    return Limit(name, label, value, unit, low, high, source, shown)


_ALL = (
    _limit("edges.bare", "Bare part of the frame", 0.0005, "%", 0.0, 1.0,
           "a strip of one pixel in 1,920 is 0.05 %", 100.0),
    _limit("edges.margin", "Margin beyond the frame", 0.0, "%", 0.0, 0.1,
           "0: covered is enough; more, for movers and reframing later", 100.0),
    _limit("framing.hidden", "Hidden part of a subject", 0.6, "%", 0.05, 1.0,
           "seen for less than two fifths it is not recognised", 100.0),
    _limit("comfort.cross", "Seconds to cross the frame", 7.0, "s", 0.2, 60.0,
           "the cinematographer's rule for 24 frames a second and a shutter of 180°"),
    _limit("comfort.zoom", "Zoom a second", 0.25, "%", 0.01, 10.0,
           "a quarter nearer each second", 100.0),
    _limit("comfort.shake", "Shake, share of the frame", 0.008, "%", 0.0005, 0.2,
           "about fifteen pixels in 1,920, as the root of the mean square over a second", 100.0),
    _limit("comfort.strobe", "Gap of an edge from frame to frame", 0.025, "%", 0.001, 0.5,
           "what blur leaves open of a step; beyond this an edge is seen twice", 100.0),
    _limit("comfort.roll", "Roll a second", 25.0, "°", 1.0, 720.0,
           "a horizon that turns faster makes dizzy"),
    _limit("cuts.dead", "Frames that stand still at a cut", 3.0, "frames", 1.0, 100.0,
           "shorter is not noticed"),
    _limit("cuts.jump", "Speed on one side of a cut to the other", 4.0, "×", 1.1, 100.0,
           "both sides being in motion"),
    _limit("cuts.angle", "Change of angle on one subject", 30.0, "°", 0.0, 90.0,
           "the thirty-degree rule of continuity editing"),
    _limit("cuts.short", "Shortest shot", 0.3, "s", 0.02, 60.0,
           "what takes less is not read"),
    _limit("cuts.long", "Longest shot", 30.0, "s", 1.0, 3600.0,
           "longer runs want a change"),
    _limit("nearness.touch", "Distance from the lens", 0.15, "units", 0.0, 100.0,
           "nearer, a layer bursts through the frame"),
    _limit("nearness.soft", "Pixels of the film to a pixel of artwork", 1.5, "×", 1.0, 64.0,
           "from here on it looks soft at its full size"),
    _limit("nearness.stretch", "Pixels of the film to a pixel of a photograph", 3.0, "×", 1.0, 64.0,
           "along the most stretched direction"),
    _limit("nearness.words", "Words a second on a text card", 3.0, "words", 0.5, 20.0,
           "read aloud in the head, without haste; half a second more to find the card"),
)  # fmt: skip
LIMITS: dict[str, Limit] = {limit.name: limit for limit in _ALL}


def limit_of(checks: ChecksOfScene, name: str) -> float:
    """A limit as it is in a scene."""
    own = next((each.value for each in checks.limits if each.name == name), None)
    limit = LIMITS[name]
    return limit.value if own is None else min(max(own, limit.low), limit.high)
