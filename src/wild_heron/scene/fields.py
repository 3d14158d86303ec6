"""What the fields of a scene's things may hold, from their own descriptions: nothing else says it a second time."""

from functools import lru_cache
from math import inf
from typing import NamedTuple

import msgspec
from msgspec import inspect

_ABOVE = 1e-6
"""So far above a limit that must not be reached is the least that may be entered."""


class Room(NamedTuple):
    """The least and the most that a number may be, what it is at first (0 where nothing is said), and whether it counts
    in whole numbers."""

    low: float
    high: float
    default: float
    whole: bool


@lru_cache(maxsize=1024)
def room_of(kind: type, field: str) -> Room:
    """Of a number, or each of several, that things of a kind have. LookupError where they have no such field, TypeError
    where it is none."""
    found = next((each for each in msgspec.structs.fields(kind) if each.name == field), None)
    if found is None:
        raise LookupError(f"{kind.__name__} has no field {field}")
    room = _room(inspect.type_info(found.type))
    if room is None:
        raise TypeError(f"{field} of {kind.__name__} is no number")
    default = found.default if isinstance(found.default, int | float) else 0.0
    return room._replace(default=float(default))


def _room(kind: inspect.Type) -> Room | None:
    """The narrowest that a type says, in an outer or an inner place."""
    match kind:
        case inspect.IntType() | inspect.FloatType():
            low = max(-inf if kind.ge is None else float(kind.ge), -inf if kind.gt is None else _above(float(kind.gt)))
            high = min(inf if kind.le is None else float(kind.le), inf if kind.lt is None else -_above(-float(kind.lt)))
            return Room(low, high, 0.0, isinstance(kind, inspect.IntType))
        case inspect.Metadata():
            return _room(kind.type)
        case inspect.UnionType():
            return next((found for each in kind.types if (found := _room(each)) is not None), None)
        case inspect.TupleType():
            return _room(kind.item_types[0])
        case inspect.VarTupleType() | inspect.ListType():
            return _room(kind.item_type)
    return None


def _above(limit: float) -> float:
    return limit + _ABOVE * max(abs(limit), 1.0) if limit else _ABOVE
