"""What the fields of a scene's things may hold and how they are shown, from their own descriptions: nothing else says
it a second time."""

from functools import lru_cache
from math import inf
from typing import Any, NamedTuple, get_type_hints

import msgspec
from msgspec import inspect

from .types import UnitName

_ABOVE = 1e-6
"""So far above a limit that must not be reached is the least that may be entered."""


Row = tuple[str, ...]
"""A row of the inspector: its title ("" for none), then the names of the fields and channels in it."""


class Shown(NamedTuple):
    """How a field is shown, as an annotation of its type.

    ``label``: what it is called in undo steps, or on the switch that it is. ``unit`` and ``nudge``: of a number.
    ``caption``: over its field. ``tip``: its tooltip. ``words``: the values that can be chosen, with what they are
    called. ``wide``: how many of a row's three columns it takes.
    """

    label: str
    unit: UnitName = "count"
    nudge: float = 1.0
    caption: str = ""
    tip: str = ""
    words: tuple[tuple[Any, str], ...] = ()
    wide: int = 1


@lru_cache(maxsize=1024)
def shown(kind: type, field: str) -> Shown:
    """How a field of a kind is shown. LookupError where it does not say."""
    hint = get_type_hints(kind, include_extras=True).get(field)
    found = next((each for each in getattr(hint, "__metadata__", ()) if isinstance(each, Shown)), None)
    if found is None:
        raise LookupError(f"{kind.__name__}.{field} does not say how it is shown: annotate it with Shown")
    return found


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


@lru_cache(maxsize=1024)
def is_number(kind: type, field: str) -> bool:
    """Whether a field holds a number, or several."""
    try:
        room_of(kind, field)
    except TypeError:
        return False
    return True


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
