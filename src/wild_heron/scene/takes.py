"""Takes: recorded or derived motions of a node, with samples at times of their own, and how a node uses one."""

from typing import Annotated

import msgspec
import numpy as np
from msgspec import Meta

from ..arrays import Array
from .channels import POSITION, ROTATION, ChannelSpec
from .errors import SceneError
from .inputs import ChannelName
from .types import Identity, Name, Number, ShortId, Vector

__all__ = ["TAKE_STRENGTH", "TURN", "Mark", "Take", "TakeUse", "packed"]

TURN = ("turn.x", "turn.y", "turn.z", "turn.w")
"""The columns of a take that hold its rotation, as a unit quaternion."""
TAKE_STRENGTH = ChannelSpec("take.strength", "strength of the take", "share", 1.0, 0.0, 1.0, 0.01)
MAX_SAMPLES = 500_000
_MOST_BYTES = 8 * 1_000_000 * 12


class Mark(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A stretch of a take, in its own seconds, where samples are missing (gap) or the tracking jumped (jump)."""

    start: float
    end: float
    kind: str = "gap"


class Take(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True, cache_hash=True):
    """One recorded or derived motion of a node, never changed.

    ``samples`` are rows of float64, little-endian: seconds, then a number for each of the ``columns``, which are names
    of channels, or TURN for the rotation. ``source``: the take that it was made from by ``step``.
    """

    id: ShortId
    name: Name
    node: Identity
    columns: Annotated[tuple[ChannelName, ...], Meta(min_length=1, max_length=32)]
    samples: Annotated[bytes, Meta(max_length=_MOST_BYTES)]
    slopes: Annotated[bytes, Meta(max_length=_MOST_BYTES)] = b""
    """Rows of float64: how much each column changes a second at each sample; between samples it is then a cubic Hermite
    curve, else straight (a rotation the short way)."""
    frame: Number = 0.0
    """Where its first sample was recorded."""
    source: ShortId | None = None
    step: Annotated[str, Meta(max_length=200)] = ""
    marks: Annotated[tuple[Mark, ...], Meta(max_length=10_000)] = ()

    def table(self) -> Array:
        """Seconds and columns, (N, 1 + C), not to be written to."""
        return np.frombuffer(self.samples, dtype="<f8").reshape(-1, 1 + len(self.columns))

    def slope_table(self) -> Array | None:
        """Columns per second at each sample (N, C), not to be written to; None where it runs straight."""
        return np.frombuffer(self.slopes, dtype="<f8").reshape(-1, len(self.columns)) if self.slopes else None

    @property
    def times(self) -> Array:
        """When its samples are, in seconds (N,)."""
        return self.table()[:, 0]

    def column(self, *names: str) -> Array:
        """Columns by name, (N, K)."""
        return self.table()[:, [1 + self.columns.index(name) for name in names]]

    @property
    def turns(self) -> bool:
        """Whether it holds a rotation."""
        return set(TURN) <= set(self.columns)

    @property
    def moves(self) -> bool:
        """Whether it holds a position."""
        return set(POSITION) <= set(self.columns)

    @property
    def count(self) -> int:
        return len(self.samples) // (8 * (1 + len(self.columns)))

    @property
    def seconds(self) -> float:
        """From its first to its last sample."""
        times = self.times
        return float(times[-1] - times[0])

    @property
    def channels(self) -> tuple[str, ...]:
        """The channels that it gives."""
        plain = tuple(name for name in self.columns if name not in TURN)
        return (*plain, *ROTATION) if self.turns else plain


def packed(times: Array, columns: Array) -> bytes:
    """The samples of a take, from seconds (N,) and columns (N, C)."""
    return np.ascontiguousarray(np.column_stack([times, columns]), dtype="<f8").tobytes()


def check_take(take: Take) -> None:
    """SceneError where a take's samples are no table of finite numbers in order of time."""
    row = 8 * (1 + len(take.columns))
    if not take.samples or len(take.samples) % row:
        raise SceneError(f"take {take.name}: its samples are no table of {1 + len(take.columns)} numbers a row.")
    if take.count > MAX_SAMPLES:
        raise SceneError(f"take {take.name} has {take.count} samples; up to {MAX_SAMPLES} work.")
    if len(set(take.columns)) < len(take.columns):
        raise SceneError(f"take {take.name}: a column is listed twice.")
    if set(TURN) & set(take.columns) and not take.turns:
        raise SceneError(f"take {take.name}: a rotation needs all of {', '.join(TURN)}.")
    table = take.table()
    if not np.isfinite(table).all() or float(np.abs(table).max()) > 1e9:
        raise SceneError(f"take {take.name}: its samples are not all finite numbers.")
    if take.slopes:
        if len(take.slopes) != 8 * take.count * len(take.columns):
            raise SceneError(f"take {take.name}: its slopes are not as many as its samples.")
        slopes = take.slope_table()
        if slopes is not None and (not np.isfinite(slopes).all() or float(np.abs(slopes).max()) > 1e12):
            raise SceneError(f"take {take.name}: its slopes are not all finite numbers.")
    if not (np.diff(table[:, 0]) > 0.0).all():
        raise SceneError(f"take {take.name}: its times are not in order.")
    if take.turns:
        size = np.linalg.norm(take.column(*TURN), axis=1)
        if float(np.abs(size - 1.0).max()) > 1e-6:
            raise SceneError(f"take {take.name}: its rotations are not unit quaternions.")


class TakeUse(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True, cache_hash=True):
    """The take that a node uses: its first sample lies at frame ``start``, and it runs ``speed`` times as fast.

    It moves in the node's carrier's space; ``move`` (units), ``turn`` (degrees, in the node's order) and ``size`` place
    it there as a whole. ``channels``: which of its channels are used. How much it counts beside the keys is the
    channel ``take.strength``.
    """

    take: ShortId
    channels: Annotated[tuple[ChannelName, ...], Meta(max_length=32)]
    start: Number = 0.0
    speed: Annotated[float, Meta(ge=0.01, le=100.0)] = 1.0
    move: Vector = (0.0, 0.0, 0.0)
    turn: Vector = (0.0, 0.0, 0.0)
    size: Annotated[float, Meta(gt=1e-6, le=1e6)] = 1.0
    on: bool = True
