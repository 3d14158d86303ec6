"""Reshaping paths."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import wild_heron as wh
from wild_heron.space.path import fitted, track
from wild_heron.space.path_shape import grips, moved, with_point, without_point

somewhere = st.tuples(*[st.floats(-9, 9)] * 3)


@st.composite
def beziers(draw):
    points = draw(st.lists(st.tuples(somewhere, somewhere, somewhere), min_size=2, max_size=5))
    return wh.BezierPath(tuple(wh.PathPoint(*each) for each in points), draw(st.booleans()))


@given(beziers(), st.floats(0.0, 1.0))
def test_a_point_put_in_changes_no_shape(curve, u):
    try:
        denser, number = with_point(curve, u)
    except wh.SceneError:
        return
    assert len(denser.points) == len(curve.points) + 1
    assert np.array(denser.points[number].at) == pytest.approx(track(curve).point(np.array([u]))[0], abs=1e-9)
    share = np.linspace(0, 1, 31)
    old, new = track(curve), track(denser)
    assert new.length == pytest.approx(old.length, rel=1e-3, abs=1e-9)
    if old.length > 1e-3:
        # Where a piece stands still for a moment its share of length is told only to what the table resolves.
        assert new.point(new.parameter(share)) == pytest.approx(old.point(old.parameter(share)), abs=0.02 * old.length)


@given(beziers(), somewhere)
def test_a_grip_goes_where_it_is_put(curve, to):
    for grip in grips(curve):
        changed = moved(curve, grip, np.array(to), broken=True)
        same = next((g for g in grips(changed) if (g.name, g.number) == (grip.name, grip.number)), None)
        if same is not None:
            assert same.at == pytest.approx(np.array(to), abs=1e-5)


def test_a_handle_takes_the_one_across_along_unless_it_is_broken():
    curve = wh.BezierPath(
        (wh.PathPoint((0, 0, 0)), wh.PathPoint((1, 0, 0), (-1, 0, 0), (2, 0, 0)), wh.PathPoint((4, 0, 0)))
    )
    grip = next(each for each in grips(curve) if each.name == "before")
    assert moved(curve, grip, np.array([1.0, -3.0, 0.0])).points[1].after == (0.0, 2.0, 0.0)
    assert moved(curve, grip, np.array([1.0, -3.0, 0.0]), broken=True).points[1].after == (2, 0, 0)


@pytest.mark.parametrize("curve", [wh.CirclePath(3.0), wh.EllipsePath(2.0, 5.0), wh.LinePath()])
def test_round_and_straight_paths_have_grips_for_their_measures(curve):
    for grip in grips(curve):
        changed = moved(curve, grip, 2.0 * grip.at)
        assert track(changed).length > track(curve).length


def test_a_path_keeps_two_points_and_a_round_one_has_none():
    line = wh.BezierPath((wh.PathPoint((0, 0, 0)), wh.PathPoint((1, 0, 0))))
    with pytest.raises(wh.SceneError, match="needs two points"):
        without_point(line, 0)
    with pytest.raises(wh.SceneError, match="no points"):
        with_point(wh.CirclePath(), 0.5)
    through, number = with_point(wh.LinePath(), 0.25)
    assert without_point(through, number).points == (wh.LinePath().start, wh.LinePath().end)


def test_a_fit_keeps_to_its_points_with_few_of_its_own():
    t = np.linspace(0, 1, 400)
    points = np.stack([8 * np.cos(3 * t), 2 * t, 8 * np.sin(3 * t)], axis=1)
    curve, _ = fitted(points, 0.01)
    assert len(curve.points) <= 6
    along = track(curve).point(np.linspace(0, 1, 4000))
    assert max(np.linalg.norm(along - point, axis=1).min() for point in points) < 0.02


def test_a_circle_is_as_long_as_it_should_be():
    assert track(wh.CirclePath(3.0)).length == pytest.approx(6 * np.pi, rel=1e-9)
