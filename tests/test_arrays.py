"""What is done with arrays everywhere."""

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from wild_heron.arrays import ascending

_NUMBERS = st.lists(st.floats(allow_nan=False) | st.integers(-3, 3).map(float))


@given(_NUMBERS)
def test_the_different_ones_rise(values):
    assert ascending(np.array(values, dtype=np.float64)).tolist() == sorted(set(values))
