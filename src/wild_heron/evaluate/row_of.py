"""A view of one frame of an evaluation, without copies."""

from collections.abc import ItemsView, Iterator, Mapping
from typing import TypeVar

from ..arrays import Array

_Key = TypeVar("_Key")


class RowOf(dict[_Key, Array]):
    """Row ``i`` of arrays by key, each taken when it is first wanted; what is worked out anew goes with them."""

    def __init__(self, whole: Mapping[_Key, Array], i: int) -> None:
        super().__init__()
        self._whole, self._i = whole, i

    def __missing__(self, key: _Key) -> Array:
        array = self._whole[key]
        row = self[key] = array if len(array) == 1 else array[self._i : self._i + 1]
        return row

    def __contains__(self, key: object) -> bool:
        return super().__contains__(key) or key in self._whole

    def get(self, key: _Key, default: Array | None = None) -> Array | None:  # type: ignore[override]
        """The row (1, …) of one array, or the default."""
        try:
            return self[key]
        except KeyError:
            return default

    def __iter__(self) -> Iterator[_Key]:
        return iter({**dict.fromkeys(self._whole), **dict.fromkeys(super().__iter__())})

    def items(self) -> ItemsView[_Key, Array]:  # type: ignore[override]
        """The names of all arrays with their rows (1, …)."""
        return ItemsView(self)
