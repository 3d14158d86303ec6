"""Keys compiled to pieces, and the pieces evaluated for arrays of frames.

Most spans become *parametric cubic pieces*: within a piece, frame − anchor = A(δ) and value = B(δ) with cubics A and
B of the same parameter δ. Holds, lines and flows have A(δ) = δ. A CSS cubic-bezier is cut into pieces short enough
that A is nearly quadratic, so its root is known in closed form and a few Newton steps reach full precision. What is
no cubic (sine, steps, elastic …) is evaluated by its own formula.
"""

from functools import lru_cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..arrays import Array
from ..scene.channel import Key
from ..scene.spans import Beyond, Bezier, Flow, Handles, Hold, Linear, Span
from .easing import UnitEase, bezier_exact, slope_at, unit_ease
from .flow import monotone_slopes, smooth_slopes

_CUTS = 16  # pieces per bezier span
_NEWTON_STEPS = 3
_CHUNK = 8_192  # frames evaluated at once, so that the working arrays stay in the processor's cache
_DENSE = 4  # frames to a piece, from which on it pays to see whether they are in order
_TINY = 1e-300


class Pieces:
    """A curve's pieces, all of them compiled."""

    def __init__(self, keys: tuple[Key, ...], before: Beyond, after: Beyond) -> None:
        frames = np.array([key.frame for key in keys], dtype=np.float64)
        values = np.array([key.value for key in keys], dtype=np.float64)
        spans = [key.span for key in keys]
        self.first, self.last = float(frames[0]), float(frames[-1])
        kinds = _by_kind(spans[:-1])
        counts = np.ones(len(keys), dtype=np.intp)
        cut = [*kinds.cut, *(i for numbers in kinds.alike.values() for i in numbers)]
        counts[cut] = _CUTS
        places = np.cumsum(counts) - counts
        self._starts, table = np.empty(int(counts.sum())), np.empty((int(counts.sum()), 8))
        self._starts[places], table[places] = frames, _single_pieces(frames, values, spans, kinds)
        if kinds.cut:
            at = places[kinds.cut][:, None] + np.arange(_CUTS)
            self._starts[at], table[at] = _cut_pieces(frames, values, spans, kinds.cut)
        for span, numbers in kinds.alike.items():
            at = places[numbers][:, None] + np.arange(_CUTS)
            self._starts[at], table[at] = _scaled_pieces(frames, values, span, numbers)
        self._needs_solving = bool(cut)
        self._table = np.ascontiguousarray(table.T)
        self._end_spans = (spans[0], spans[-2]) if len(keys) > 1 else None
        self._shaped: list[tuple[UnitEase, NDArray[np.bool_]]] = []
        eases = [(unit_ease(span), numbers) for span, numbers in kinds.shaped.items()]
        for ease, numbers in [*eases, *((_steep(spans[i], frames, values, i), [i]) for i in kinds.steep)]:
            mask = np.zeros(len(table), dtype=bool)
            mask[places[numbers]] = True
            self._shaped.append((ease, mask))
        self.before, self.after = before, after
        self._ends = (float(values[0]), float(values[-1]))
        self._speeds: tuple[float, float] | None = None

    def __call__(self, frames: Array) -> Array:
        """Values (N,) at frames (N,)."""
        if self.before == self.after == "hold" or self.first == self.last:
            return self._inside(frames)
        inside, added = self._brought_inside(frames)
        return self._inside(inside) + added

    def _brought_inside(self, frames: Array) -> tuple[Array, Array]:
        """Where between the keys the value at each frame is found, and what is added to it there."""
        length = self.last - self.first
        inside, added = frames.copy(), np.zeros_like(frames)
        for beyond, how, end in (
            (frames < self.first, self.before, self.first), (frames > self.last, self.after, self.last)
        ):  # fmt: skip
            if how == "hold" or not beyond.any():
                continue
            away = frames[beyond]
            if how == "go":
                inside[beyond] = end
                added[beyond] = (away - end) * self.end_speeds()[0 if end == self.first else 1]
                continue
            turn = np.floor((away - self.first) / length)
            place = np.clip(away - turn * length, self.first, self.last)
            if how == "swing":
                place = np.where(turn % 2 == 0, place, self.first + self.last - place)
            elif how == "offset":
                added[beyond] = turn * (self._ends[1] - self._ends[0])
            inside[beyond] = place
        return inside, added

    def end_speeds(self) -> tuple[float, float]:
        """See ``Curve``."""
        if self._speeds is None:
            self._speeds = (0.0, 0.0)
            if self._end_spans is not None:
                first, last = self._end_spans
                self._speeds = (
                    self._piece_speed(0, first, False),
                    self._piece_speed(len(self._starts) - 2, last, True),
                )
        return self._speeds

    def _piece_speed(self, piece: int, span: Span, end: bool) -> float:
        """The slope at the first or last key of the piece that meets it."""
        anchor, a1, a2, a3, _, b1, b2, b3 = self._table[:, piece].tolist()
        if any(pieces[piece] for _, pieces in self._shaped):
            if isinstance(span, Handles):
                return span.in_slope if end else span.out_slope
            return b1 / a2 * slope_at(span, end)
        offset = (self.last if end else self.first) - anchor
        if offset == 0.0 and a1 < 1e-9 * (abs(a2) + abs(a3)):
            # Time stands still there: the curve is vertical, or, where the value does too, goes on as the next order.
            scale = abs(b1) + abs(b2) + abs(b3)
            return b2 / a2 if abs(b1) <= 1e-9 * scale and abs(a2) > 1e-9 * abs(a3) else 0.0
        return (b1 + offset * (2.0 * b2 + 3.0 * offset * b3)) / (a1 + offset * (2.0 * a2 + 3.0 * offset * a3))

    def _inside(self, frames: Array) -> Array:
        """Values at frames, held before the first key and after the last."""
        frames = np.maximum(frames, self.first)
        dense = len(frames) >= _DENSE * len(self._starts)
        if dense and bool(np.all(frames[1:] >= frames[:-1])):
            return self._evaluate_sorted(frames)
        if len(frames) <= _CHUNK:
            return self._evaluate(frames)
        out = np.empty(len(frames))
        for start in range(0, len(frames), _CHUNK):
            chunk = slice(start, start + _CHUNK)
            out[chunk] = self._evaluate(frames[chunk])
        return out

    def _evaluate(self, frames: Array) -> Array:
        """Frames in any order: each looks up its piece's numbers."""
        at = self._starts.searchsorted(frames, side="right") - 1
        return self._combine(frames, at, self._table.take(at, axis=1))

    def _evaluate_sorted(self, frames: Array) -> Array:
        """Many frames in order: each piece's numbers are repeated, which is cheaper than looking them up."""
        bounds = np.append(frames.searchsorted(self._starts, side="left"), len(frames))
        pieces = np.arange(len(self._starts))
        out = np.empty(len(frames))
        for start in range(0, len(frames), _CHUNK):
            end = min(start + _CHUNK, len(frames))
            low, high = bounds.searchsorted([start, end - 1], side="right")
            here = slice(low - 1, high)
            counts = np.diff(np.clip(bounds[low - 1 : high + 1], start, end))
            at = np.repeat(pieces[here], counts) if self._shaped else pieces[:0]
            out[start:end] = self._combine(frames[start:end], at, np.repeat(self._table[:, here], counts, axis=1))
        return out

    def _combine(self, frames: Array, at: NDArray[np.intp], row: Array) -> Array:
        """Values (N,) from the frames, the index of each one's piece, and the pieces' numbers (8, N)."""
        anchor, a1, a2, a3, b0, b1, b2, b3 = row
        offset = frames - anchor
        delta = _solve(offset, a1, a2, a3) if self._needs_solving else offset
        values: Array = b0 + delta * (b1 + delta * (b2 + delta * b3))
        for ease, pieces in self._shaped:
            mine = np.flatnonzero(pieces[at])
            if mine.size:
                # In a shaped piece a2 is the span's length in frames and b1 the change of value.
                share = np.minimum(offset[mine] / a2[mine], 1.0)
                values[mine] = b0[mine] + b1[mine] * ease(share)
        return values


def _solve(offset: Array, a1: Array, a2: Array, a3: Array) -> Array:
    """δ with a1·δ + a2·δ² + a3·δ³ = offset: the root of the quadratic, then Newton's method."""
    delta = (offset + offset) / (a1 + np.sqrt(np.abs(a1 * a1 + 4.0 * (a2 * offset))) + _TINY)
    double, triple = a2 + a2, 3.0 * a3
    for _ in range(_NEWTON_STEPS):
        error = delta * (a1 + delta * (a2 + delta * a3)) - offset
        # The slope is nowhere negative; where it is 0 so is the error, and δ stays.
        delta = delta - error / (a1 + delta * (double + delta * triple) + _TINY)
    return delta


def _times(span: Bezier | Handles) -> tuple[float, float]:
    """Where along the span's time the two inner points of its cubic are."""
    return (span.x1, span.x2) if isinstance(span, Bezier) else (span.out_length, 1.0 - span.in_length)


def _heights(span: Bezier | Handles, length: float, low: float, high: float) -> tuple[float, float, float, float]:
    """The values of the four points of a span's cubic."""
    if isinstance(span, Bezier):
        return low, low + (high - low) * span.y1, low + (high - low) * span.y2, high
    return (
        low,
        low + span.out_slope * span.out_length * length,
        high - span.in_slope * span.in_length * length,
        high,
    )


@lru_cache(maxsize=4096)
def _is_steep(x1: float, x2: float) -> bool:
    """Whether time nearly stands still inside the span, where Newton's method would be slow."""
    # x'(s)/3 = (1−s)²·x1 + 2s(1−s)(x2−x1) + s²(1−x2): a parabola, looked at where it is lowest inside the span, and
    # one piece away from either end (a standstill at the very end is no trouble, a flat cubic there is).
    bend = 1.0 + 3.0 * x1 - 3.0 * x2
    places = [1.0 / _CUTS, 1.0 - 1.0 / _CUTS]
    if bend > 0.0 and 0.0 < (vertex := (2.0 * x1 - x2) / bend) < 1.0:
        places.append(vertex)
    rates = [(1 - s) * (1 - s) * x1 + 2 * s * (1 - s) * (x2 - x1) + s * s * (1 - x2) for s in places]
    return min(rates) < 0.1


def _steep(span: Span, frames: Array, values: Array, i: int) -> UnitEase:
    """The change of value over a span by hand whose time nearly stands still, by bisection."""
    assert isinstance(span, Handles)
    ys = _heights(span, float(frames[i + 1] - frames[i]), float(values[i]), float(values[i + 1]))
    times = _times(span)
    return bezier_exact(Bezier(times[0], 0.0, times[1], 1.0), (0.0, *(y - ys[0] for y in ys[1:])))


class _Kinds(NamedTuple):
    """The numbers of spans, by what becomes of them."""

    line: list[int]
    cubic: list[int]
    """One cubic of the frame: flows, and handles of a third, whose time runs evenly."""
    cut: list[int]
    """Cubics of a parameter set by hand, cut into pieces."""
    alike: dict[Bezier, list[int]]
    """The same of named shapes, whose pieces are worked out once and scaled."""
    shaped: dict[Span, list[int]]
    """Evaluated by their own formula."""
    steep: list[int]


def _by_kind(spans: list[Span]) -> _Kinds:
    found = _Kinds([], [], [], {}, {}, [])
    for i, span in enumerate(spans):
        kind = type(span)  # Nothing is derived from these; while keys are dragged this is gone through all the time.
        if kind is Hold:
            continue
        if kind is Linear:
            found.line.append(i)
        elif kind is Flow or (isinstance(span, Handles) and span.in_length == span.out_length == 1.0 / 3.0):
            found.cubic.append(i)
        elif isinstance(span, Bezier) and not _is_steep(span.x1, span.x2):
            found.alike.setdefault(span, []).append(i)
        elif isinstance(span, Handles) and not _is_steep(*_times(span)):
            found.cut.append(i)
        elif isinstance(span, Handles):
            found.steep.append(i)
        else:
            found.shaped.setdefault(span, []).append(i)
    return found


def _single_pieces(frames: Array, values: Array, spans: list[Span], kinds: _Kinds) -> Array:
    """Table rows (K, 8) of every key as one piece: it holds, but for the kinds that are one line, cubic or formula."""
    rows = np.zeros((len(frames), 8))
    rows[:, 0], rows[:, 1], rows[:, 4] = frames, 1.0, values
    lengths, changes = np.diff(frames), np.diff(values)
    rows[kinds.line, 5] = changes[kinds.line] / lengths[kinds.line]
    if kinds.cubic:
        flows = flow_slopes(frames, values, spans)
        ends = [
            (span.out_slope, span.in_slope) if isinstance(span := spans[i], Handles) else flows[i] for i in kinds.cubic
        ]
        m0, m1 = np.array(ends).T
        length = lengths[kinds.cubic]
        secant = changes[kinds.cubic] / length
        cubic = (m0, (3.0 * secant - 2.0 * m0 - m1) / length, (m0 + m1 - 2.0 * secant) / (length * length))
        rows[kinds.cubic, 5:] = np.stack(cubic, axis=1)
    shaped = [i for numbers in kinds.shaped.values() for i in numbers]
    rows[shaped, 2], rows[shaped, 5] = lengths[shaped], changes[shaped]
    rows[kinds.steep, 2], rows[kinds.steep, 5] = lengths[kinds.steep], 1.0
    return rows


@lru_cache(maxsize=1024)
def _unit_pieces(span: Bezier) -> tuple[Array, Array]:
    """Starts (P,) and table rows (P, 8) of a named shape over a span from 0 to 1 both ways."""
    starts, table = _cut_pieces(np.array([0.0, 1.0]), np.array([0.0, 1.0]), [span], [0])
    return starts[0], table[0]


def _scaled_pieces(frames: Array, values: Array, span: Bezier, numbers: list[int]) -> tuple[Array, Array]:
    """Starts (M, P) and table rows (M, P, 8) of M spans of one named shape."""
    unit_starts, unit = _unit_pieces(span)
    first = np.array(numbers)
    start, end = frames[first][:, None], frames[first + 1][:, None]
    low, high = values[first][:, None], values[first + 1][:, None]
    length, change = end - start, high - low
    table = np.empty((len(numbers), _CUTS, 8))
    table[..., 0], table[..., 4] = start + length * unit[:, 0], low + change * unit[:, 4]
    table[:, -1:, 0], table[:, -1:, 4] = end, high
    table[..., 1:4], table[..., 5:] = length[..., None] * unit[:, 1:4], change[..., None] * unit[:, 5:]
    starts = np.clip(start + length * unit_starts, start, np.nextafter(end, start))
    return np.maximum.accumulate(starts, axis=1), table


def _cut_pieces(frames: Array, values: Array, spans: list[Span], numbers: list[int]) -> tuple[Array, Array]:
    """Starts (M, P) and table rows (M, P, 8) of M spans that are cubics of a parameter.

    Pieces of the first half are developed about their left end, those of the second about their right end, so that
    a standstill of time at either end of the span sits at δ = 0, where the quadratic is exact.
    """
    cut: list[Bezier | Handles] = [spans[i] for i in numbers]  # type: ignore[misc]
    first, after = np.array(numbers), np.array(numbers) + 1
    start, end = frames[first][:, None], frames[after][:, None]
    length = end - start
    x1, x2 = np.array([_times(span) for span in cut]).T[..., None]
    ends = zip(length[:, 0].tolist(), values[first].tolist(), values[after].tolist(), strict=True)
    heights = [_heights(span, *each) for span, each in zip(cut, ends, strict=True)]
    low, y1, y2, high = np.array(heights).T[..., None]
    x = (3.0 * x1, 3.0 * (x2 - 2.0 * x1), 1.0 + 3.0 * (x1 - x2))
    y = (3.0 * (y1 - low), 3.0 * (y2 - 2.0 * y1 + low), high - low + 3.0 * (y1 - y2))
    knots = np.linspace(0.0, 1.0, _CUTS + 1)
    s = np.concatenate([knots[: _CUTS // 2], knots[_CUTS // 2 + 1 :]])

    def developed(c: tuple[Array, Array, Array], scale: Array | float, origin: Array) -> list[Array]:
        value = origin + scale * (s * (c[0] + s * (c[1] + s * c[2])))
        third = np.broadcast_to(scale * c[2], value.shape)
        return [value, scale * (c[0] + s * (2.0 * c[1] + 3.0 * s * c[2])), scale * (c[1] + 3.0 * s * c[2]), third]

    anchor, a1, a2, a3 = developed(x, length, start)
    b0, b1, b2, b3 = developed(y, 1.0, low)
    for column, at, value in ((0, start, low), (-1, end, high)):
        anchor[:, column], b0[:, column] = at[:, 0], value[:, 0]
    left = knots[:-1]
    starts = start + length * (left * (x[0] + left * (x[1] + left * x[2])))
    # Rounding must not put a later start before an earlier one where time stands still.
    starts = np.maximum.accumulate(np.clip(starts, start, np.nextafter(end, start)), axis=1)
    a1 = np.maximum(a1, 0.0)
    return starts, np.stack([anchor, a1, a2, a3, b0, b1, b2, b3], axis=2)


def flow_slopes(frames: Array, values: Array, spans: list[Span]) -> dict[int, tuple[float, float]]:
    """Slopes, for keys at frames (K,) with values (K,), at both ends of every flow span; each run of neighbouring flows
    of one style is one curve.

    A run also heeds the key beyond it, where the span there is a flow or set by hand: so a flow does not change when
    the span beside it is taken in hand.
    """
    slopes: dict[int, tuple[float, float]] = {}
    i, count = 0, len(spans) - 1
    times, heights = frames.tolist(), values.tolist()
    while i < count:
        span = spans[i]
        if type(span) is not Flow:
            i += 1
            continue
        end = i
        while end < count and spans[end] == span:
            end += 1
        make = monotone_slopes if span.style == "monotone" else smooth_slopes
        first = i - 1 if i and isinstance(spans[i - 1], Flow | Handles) else i
        last = end + 1 if end < count and isinstance(spans[end], Flow | Handles) else end
        if last - first == 1:
            run = [(heights[last] - heights[first]) / (times[last] - times[first])] * 2
        else:
            run = make(frames[first : last + 1], values[first : last + 1])[i - first :].tolist()
        for k in range(i, end):
            slopes[k] = (run[k - i], run[k - i + 1])
        i = end
    return slopes
