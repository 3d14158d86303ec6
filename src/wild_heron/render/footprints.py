"""What a sample stands for: its share of a pixel, of the time that the shutter is open, and of the lens.

A frame that goes out is the mean of samples; artwork is averaged over all that each of them stands for, so that a few
samples do: a motion leaves a streak rather than a row of copies.
"""

from collections.abc import Callable
from typing import NamedTuple

import moderngl
import numpy as np

from ..arrays import Array
from ..scene import Picture

MOST_ALONG = 24
_ACROSS = 6.0
_FEWEST = 2.0
_JUMP = 4.0
_PLANE = (0, 1, 3)


class Footprint(NamedTuple):
    """``sides`` and ``shift``: the sides of its part of a pixel, and where the middle of that lies from where the
    sample is; ``middle``: where the pixel's is. What moves, or is out of focus, is averaged over all of the pixel.
    ``lens``: how large its part of the lens is, as pixels that it blurs over at a distance of one unit, where ``focus``
    is sharp. ``drift``: how a picture's matrix from u, v to the frame changes over its part of the time, (3, 3) to x, y
    and w, or None."""

    sides: tuple[float, float]
    shift: tuple[float, float]
    middle: tuple[float, float]
    lens: float
    focus: float
    drift: Callable[[Picture], Array | None]

    fewest: float = 0.0
    """How many places are looked up across it at least, where its sides do not say so."""

    @property
    def across(self) -> tuple[float, float]:
        """How many places are looked up across what it stands for, at least."""
        first, second = (self.fewest or max(_FEWEST, float(np.ceil(_ACROSS * side))) for side in self.sides)
        return first, second

    def spread(self, node: Picture, clip: Array, uv: Array, size: tuple[int, int]) -> tuple[float, float]:
        """How far in u and v something of a picture may be seen beyond the corners ``uv`` (4, 2) of it."""
        corners = np.concatenate([uv, np.zeros((4, 1)), np.ones((4, 1))], axis=1) @ clip.T
        depth = np.maximum(np.abs(corners[:, 3]), 1e-6)
        far = 0.5 * self.lens * np.abs(1.0 / depth - 1.0 / self.focus) * 3.0**0.5 + 1.0
        drift = self.drift(node)
        if drift is not None:
            change = np.concatenate([uv, np.ones((4, 1))], axis=1) @ drift.T
            way = (change[:, :2] - corners[:, :2] / depth[:, None] * change[:, 2:]) / depth[:, None] * 0.5 * size
            far = far + 0.6 * np.hypot(way[:, 0], way[:, 1])
        out = []
        for k in (0, 1):
            # How many pixels u, or v, takes up where it takes up the fewest.
            across = (clip[:2, k] * depth[:, None] - corners[:, :2] * clip[3, k]) / depth[:, None] ** 2 * 0.5 * size
            least = float(np.hypot(across[:, 0], across[:, 1]).min())
            out.append(min(float(far.max()) / max(least, 1e-6), 1.0))
        return out[0], out[1]

    def bind(self, program: moderngl.Program, node: Picture, clip: Array, size: tuple[int, int]) -> None:
        """Hand it to a program that draws a picture, whose u and v ``clip`` (4, 4) takes to a frame of some size."""
        plane = clip[np.ix_(_PLANE, _PLANE)]
        flat = abs(np.linalg.det(plane)) < 1e-12 * max(float(np.abs(plane).max()), 1e-30) ** 3
        # Seen along its edge, nothing of it is seen.
        back = np.zeros((3, 3)) if flat else np.linalg.inv(plane)
        program["back"].write(np.ascontiguousarray(back.T, "f4"))
        drift = self.drift(node)
        still = np.zeros((3, 3)) if drift is None else drift
        program["drift"].write(np.ascontiguousarray(still.T, "f4"))
        program["frame_size"] = size
        program["part_of_pixel"] = (*self.sides, *self.shift)
        program["middle_of_pixel"] = self.middle
        program["part_of_lens"] = (self.lens, 1.0 / self.focus)
        program["fewest"] = self.across


def change_between(before: Array | None, now: Array, after: Array | None) -> Array | None:
    """How something (…) changes over a sample's time, from its values at the samples beside it. None where it does not.

    Where it jumps on one side, the change on the other is taken: what jumps leaves no streak.
    """
    steps = [step for step in (None if before is None else now - before, None if after is None else after - now)
             if step is not None]  # fmt: skip
    if not steps:
        return None
    sizes = [float(np.abs(step).max()) for step in steps]
    if max(sizes) == 0.0:
        return None
    if len(steps) == 2 and max(sizes) > _JUMP * min(sizes):
        return steps[int(np.argmin(sizes))]
    return np.asarray(sum(steps) / len(steps))


# A picture's mean over a parallelogram of the frame. Where a few places agree, more are not looked at.
GLSL = (
    """
in vec3 told;               // where it falls in the frame: x, y and w of the clip space
uniform mat3 back;          // from there to u, v and 1
uniform mat3 drift;
uniform vec2 frame_size;
uniform vec4 part_of_pixel; // its sides, and where its middle is
uniform vec2 middle_of_pixel;
uniform vec2 part_of_lens;  // pixels at a distance of one unit, and one over the distance that is sharp
uniform vec2 fewest;
// The u and v that are seen some pixels away from the sample.
vec2 beside(vec2 pixels) {
    vec3 found = vec3(uv, 1.0) / told.z + back * vec3(pixels * 2.0 / frame_size, 0.0);
    return found.xy / found.z;
}
vec4 at_spot(vec2 place, float level) {
    return textureLod(artwork, inside.xy + place * inside.zw, level);
}
vec4 averaged(bool edged) {
    vec3 change = drift * vec3(uv, 1.0);
    vec2 way = (change.xy - told.xy / told.z * change.z) / told.z * 0.5 * frame_size;
    float far = length(way);
    float blur = part_of_lens.x * abs(1.0 / told.z - part_of_lens.y);
    vec2 a = vec2(part_of_pixel.x, 0.0), b = vec2(0.0, part_of_pixel.y), middle = part_of_pixel.zw;
    vec2 least = fewest;
    vec2 slip = vec2(0.0);
    if (far > 0.01 && far < 3.0 && blur < 0.1) {
        // Each place in the pixel at another moment.
        a = vec2(1.0, 0.0), b = vec2(0.0, 1.0), middle = middle_of_pixel, slip = way, least = vec2(6.0);
    } else if (far > 0.01 || blur > 0.01) {
        vec2 along = far > 0.01 ? way / far : vec2(1.0, 0.0);
        float side = sqrt(1.0 + 3.0 * blur * blur);
        // A pixel and a way that lies across it are as wide as both.
        a = along * (far > 0.01 ? max(side, far) + 0.5 * min(side, far) * min(side, far) / max(side, far) : side);
        b = vec2(-along.y, along.x) * side;
        middle = middle_of_pixel;
        least = vec2(4.0);
    }
    vec2 centre = beside(middle);
    vec2 ua = beside(middle + 0.5 * a) - beside(middle - 0.5 * a);
    vec2 ub = beside(middle + 0.5 * b) - beside(middle - 0.5 * b);
    vec2 texels = vec2(textureSize(artwork, 0)) * inside.zw;
    vec2 ta = ua * texels, tb = ub * texels;
    float la = length(ta), lb = length(tb), longest = max(la, lb);
    vec2 box = abs(ua) + abs(ub) + (slip == vec2(0.0) ? vec2(0.0) : abs(beside(middle + slip) - centre));
    bool at_edge = edged && any(lessThan(min(centre, 1.0 - centre), box));
    if (!at_edge) {
        float level = log2(max(0.5 * longest, 1e-6));
        vec4 p = at_spot(beside(middle + 0.25 * (a + b)), level), q = at_spot(beside(middle - 0.25 * (a + b)), level);
        vec4 r = at_spot(beside(middle + 0.25 * (a - b)), level), s = at_spot(beside(middle - 0.25 * (a - b)), level);
        vec4 mean = 0.25 * (p + q + r + s);
        vec4 spread = max(max(p, q), max(r, s)) - min(min(p, q), min(r, s));
        if (all(lessThanEqual(spread, 0.001 + 0.01 * mean))) return mean;
    }
    float area = abs(ta.x * tb.y - ta.y * tb.x), thin = max(area / max(longest, 1e-9), 0.5);
    float na = clamp(ceil(PER * la / thin), least.x, MOST.0);
    float nb = clamp(ceil(PER * lb / thin), least.y, MOST.0);
    float level = log2(max(max(la / na, lb / nb), 1e-6)) + BIAS;
    // A place counts by how far what it stands for lies within the picture.
    vec2 own = max(abs(ua) / na + abs(ub) / nb, vec2(1e-9));
    vec4 sum = vec4(0.0);
    for (float i = 0.5; i < na; i += 1.0) {
        vec2 first = middle + a * (i / na - 0.5);
        for (float j = 0.5; j < nb; j += 1.0) {
            float moment = fract((i * nb + j) * 0.61803399) - 0.5;
            vec2 place = beside(first + b * (j / nb - 0.5) + slip * moment);
            vec4 found = at_spot(place, level);
            if (at_edge) {
                vec2 share = clamp(0.5 + min(place, 1.0 - place) / own, 0.0, 1.0);
                found *= share.x * share.y;
            }
            sum += found;
        }
    }
    return sum / (na * nb);
}
""".replace("PER", "3.0")
    .replace("MOST", str(MOST_ALONG))
    .replace("BIAS", "0.0")
)
