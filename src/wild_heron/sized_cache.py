"""A cache of results by the memory that they take, for what a scene may have any number of."""

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from functools import wraps
from typing import Any, ParamSpec, TypeVar, cast

import numpy as np

P = ParamSpec("P")
R = TypeVar("R")

MOST_BYTES = 320 * 1024 * 1024
"""Of all results together, in each process."""
_ENTRY_BYTES = 400


class SizedCache:
    """Results by their keys; once they take more than so many bytes, the one that was not asked for longest goes.

    It may be used by several threads: what two of them want at the same moment is worked out by both.
    """

    def __init__(self, most: int) -> None:
        self._most, self.bytes = most, 0
        self._kept: OrderedDict[Hashable, tuple[object, int]] = OrderedDict()
        self._lock = threading.Lock()

    def __len__(self) -> int:
        return len(self._kept)

    def look_up(self, key: Hashable, make: Callable[[], R]) -> R:
        with self._lock:
            found = self._kept.get(key)
            if found is not None:
                self._kept.move_to_end(key)
                return cast(R, found[0])
        made = make()
        size = _ENTRY_BYTES + size_of(key) + size_of(made)
        with self._lock:
            known = self._kept.pop(key, None)
            self.bytes += size - (known[1] if known is not None else 0)
            self._kept[key] = made, size
            while self.bytes > self._most and len(self._kept) > 1:
                self.bytes -= self._kept.popitem(last=False)[1][1]
        return made

    def clear(self) -> None:
        with self._lock:
            self._kept.clear()
            self.bytes = 0


_shared = SizedCache(MOST_BYTES)


def cached_by_size(function: Callable[P, R]) -> Callable[P, R]:
    """As ``functools.lru_cache``, with what all functions keep limited by its bytes, not each by its number: a scene
    with more springs than a number of entries would work every one of them out again at every frame. Positional
    arguments only."""

    @wraps(function)
    def cached(*arguments: P.args, **named: P.kwargs) -> R:
        assert not named
        return _shared.look_up((function, *arguments), lambda: function(*arguments, **named))

    return cached


def forget_all() -> None:
    """Nothing is kept any more: for measurements of what has to be worked out first."""
    _shared.clear()


def size_of(value: object) -> int:
    """About how many bytes a result takes: its arrays and texts, and a little for all else."""
    if isinstance(value, np.ndarray):
        return 100 + value.nbytes
    if isinstance(value, bytes | str):
        return 50 + len(value)
    if isinstance(value, tuple | list | frozenset | set):
        return 60 + sum(map(size_of, value))
    if isinstance(value, dict):
        return 60 + sum(size_of(key) + size_of(each) for key, each in value.items())
    if isinstance(value, int | float) or value is None or callable(value):
        return 30
    fields: Any = getattr(type(value), "__struct_fields__", None)
    if fields is not None:
        # A scene or a part of one, most of which others share.
        held = (getattr(value, name) for name in fields)
        return 200 + 16 * sum(len(each) for each in held if isinstance(each, tuple))
    return 100 + sum(map(size_of, getattr(value, "__dict__", {}).values()))
