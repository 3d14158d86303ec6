"""Arrays as they are passed about everywhere."""

from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
"""Numbers; docstrings give their shapes and units."""

Pixels = NDArray[np.uint8]
"""A picture (H, W, 4): red, green, blue and alpha, rows from the top."""
Rows = NDArray[np.intp]
"""Numbers of rows, (N,)."""
_T = TypeVar("_T", bound=np.generic)


def ascending(values: NDArray[_T]) -> NDArray[_T]:
    """The different ones of some numbers (N,), rising. As ``np.unique``, which loads masked arrays at its first use."""
    ordered = np.sort(values, axis=None)
    if not len(ordered):
        return ordered
    return ordered[np.concatenate([[True], ordered[1:] != ordered[:-1]])]
