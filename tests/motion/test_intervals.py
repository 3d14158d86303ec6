"""Parts of stretches that others leave."""

from itertools import pairwise

from hypothesis import given
from hypothesis import strategies as st

from wild_heron.intervals import outside

stretches = st.tuples(st.integers(0, 30), st.integers(1, 12)).map(lambda each: (float(each[0]), float(sum(each))))


@given(stretches, st.lists(stretches, max_size=6))
def test_what_no_others_cover_is_what_counting_it_moment_by_moment_finds(stretch, others):
    found = outside(stretch, others)
    moments = [k + 0.5 for k in range(50)]
    expected = [m for m in moments if stretch[0] < m < stretch[1] and not any(a < m < b for a, b in others)]
    assert [m for m in moments if any(a < m < b for a, b in found)] == expected
    assert all(a < b for a, b in found)
    assert all(x[1] <= y[0] for x, y in pairwise(found))


def test_slivers_are_left_out():
    assert outside((0.0, 2.0), [(1e-10, 1.0)], 1e-9) == [(1.0, 2.0)]
