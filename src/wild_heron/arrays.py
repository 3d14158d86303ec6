"""Arrays as they are passed about everywhere."""

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
"""Numbers; docstrings give their shapes and units."""

Pixels = NDArray[np.uint8]
"""A picture (H, W, 4): red, green, blue and alpha, rows from the top."""
Rows = NDArray[np.intp]
"""Numbers of rows, (N,)."""
