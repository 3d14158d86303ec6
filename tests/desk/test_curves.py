"""The curves in the real window."""

import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest

import wild_heron as wh
from wild_heron.desk.timeline.curves.scale import ValueAxis
from wild_heron.edits import KeyRef
from wild_heron.evaluate import evaluate

from .conftest import Mouse


@pytest.fixture
def curves(window):
    """The card's x over three keys, shown as a curve."""
    scene = window.desk.document.scene
    for frame, value in ((0, 0.0), (20, 4.0), (48, 1.0)):
        scene = wh.edits.set_key(scene, "card", "position.x", float(frame), value, wh.Flow())
    scene = wh.edits.set_key(scene, "card", "opacity", 0.0, 1.0)
    scene = wh.edits.set_key(scene, "card", "opacity", 48.0, 0.5)
    window.desk.document.edit("Keys", lambda old: scene)
    window.desk.document.selection.choose(["card"])
    window.desk.actions_["view.curves"].trigger()
    assert window.desk.lanes.shown == "curves"
    view = window.desk.lanes.curves.view
    # Room above and below, so that nothing is dragged out of sight.
    view._values = view.values.zoomed(0.4, 2.0)
    return window.desk.lanes.curves


def keys(curves):
    return curves.document.scene.node("card").channel("position.x").keys


def shown(view):
    return next(each for each in view.curves() if each.channel == "position.x")


def test_a_key_is_dragged_in_time_and_value_and_one_axis_is_kept(curves):
    view = curves.view
    at = view.pin(shown(view), 1)
    step = (view.axis.pixels_per_frame * 5, -view.values.pixels_per_value * 0.5)
    Mouse.drag(view, at, (step[0] / 2, step[1] / 2), step)
    assert keys(curves)[1].frame == 25.0
    assert keys(curves)[1].value == pytest.approx(4.5, abs=0.02)
    at = view.pin(shown(view), 1)
    Mouse.drag(view, at, (10, 60), keys=Qt.KeyboardModifier.ShiftModifier)
    # Shift on the press asks for more of a selection; pressed during the drag it keeps to the axis.
    curves.document.selection.choose_keys([KeyRef("card", "position.x", 25.0)])
    Mouse.send(view, "press", at)
    Mouse.send(view, "move", at + QPointF(8, 50), keys=Qt.KeyboardModifier.ShiftModifier)
    Mouse.send(view, "release", at + QPointF(8, 50))
    assert keys(curves)[1].frame == 25.0
    assert keys(curves)[1].value < 4.3


def test_escape_takes_a_drag_back(curves):
    view, before = curves.view, curves.document.scene
    at = view.pin(shown(view), 1)
    Mouse.drag(view, at, (40, 30), release=False)
    assert curves.document.scene is not before
    assert view.ghost
    QTest.keyClick(view, Qt.Key.Key_Escape)
    assert curves.document.scene == before
    assert not view.ghost


def test_a_handle_is_dragged_and_the_other_side_follows_unless_it_is_broken(curves):
    view, document = curves.view, curves.document
    document.selection.choose_keys([KeyRef("card", "position.x", 20.0)])
    out = next(each for each in view.handles() if each.side == "out")
    Mouse.drag(view, out.at, (0, -20), (0, -40))
    into, onward = keys(curves)[0].span, keys(curves)[1].span
    assert isinstance(into, wh.Handles)
    assert onward.out_slope == pytest.approx(into.in_slope)
    assert onward.out_slope > 0.05
    at = np.linspace(0.0, 48.0, 7)
    assert np.isfinite(evaluate(document.scene, at).position("card")).all()
    out = next(each for each in view.handles() if each.side == "out")
    Mouse.send(view, "press", out.at)
    Mouse.send(view, "move", out.at + QPointF(6, 60), keys=Qt.KeyboardModifier.AltModifier)
    Mouse.send(view, "release", out.at + QPointF(6, 60))
    assert keys(curves)[0].span == into
    assert keys(curves)[1].span.out_slope < onward.out_slope


def test_a_double_click_puts_a_key_on_the_curve_and_nothing_moves(curves):
    view, document = curves.view, curves.document
    frames = np.linspace(0, 48, 97)
    before = evaluate(document.scene, frames).position("card")
    value = float(evaluate(document.scene, 33.0).position("card")[0, 0])
    Mouse.send(view, "double", QPointF(view.axis.x(33.0), view.values.y(value)))
    assert [key.frame for key in keys(curves)] == [0.0, 20.0, 33.0, 48.0]
    assert evaluate(document.scene, frames).position("card") == pytest.approx(before, abs=1e-9)
    assert document.selection.keys == {KeyRef("card", "position.x", 33.0)}


def test_speeds_are_dragged_and_the_keys_stay(curves):
    view, document = curves.view, curves.document
    curves.speeds.click()
    values = [key.value for key in keys(curves)]
    document.selection.choose_keys([KeyRef("card", "position.x", 20.0)])
    at = view.pin(shown(view), 1)
    Mouse.drag(view, at, (0, -view.values.pixels_per_value * 1.5), (0, -view.values.pixels_per_value * 3.0))
    assert [key.value for key in keys(curves)] == values
    near = evaluate(document.scene, [20.0, 20.01]).position("card")[:, 0]
    assert (near[1] - near[0]) / 0.01 * 24 == pytest.approx(3.0, abs=0.1)


def test_numbers_of_the_selected_key_are_typed(curves):
    document = curves.document
    document.selection.choose_keys([KeyRef("card", "position.x", 20.0)])
    for name, value, read in (
        ("value", 2.5, lambda: keys(curves)[1].value),
        ("into", 12.0, lambda: keys(curves)[0].span.in_slope * 24),
        ("out", -6.0, lambda: keys(curves)[1].span.out_slope * 24),
        ("length_in", 0.6, lambda: keys(curves)[0].span.in_length),
        ("length_out", 0.2, lambda: keys(curves)[1].span.out_length),
        ("frame", 22.5, lambda: keys(curves)[1].frame),
    ):
        curves.fields[name].edited.emit(value, False)
        assert read() == pytest.approx(value)
        assert curves.fields[name].value == pytest.approx(value, abs=0.01)
    assert document.selection.keys == {KeyRef("card", "position.x", 22.5)}


@pytest.mark.parametrize("style", ["flat", "one slope", "two slopes", "auto", "smooth"])
def test_handles_get_a_style(curves, style):
    document = curves.document
    document.selection.choose_keys([KeyRef("card", "position.x", 20.0)])
    button = next(each for each in curves.styles.values() if each.text() == style)
    document.edit("By hand", lambda s: wh.edits.set_spans(s, document.selection.keys, wh.Linear()))
    button.click()
    near = evaluate(document.scene, [19.999, 20.0, 20.001]).position("card")[:, 0]
    before, after = np.diff(near) / 0.001
    if style == "flat":
        assert (before, after) == pytest.approx((0, 0), abs=1e-3)
    elif style == "two slopes":
        assert abs(before - after) > 0.05
    else:
        assert before == pytest.approx(after, abs=2e-3)


def test_a_box_selects_alt_zooms_and_one_scale_fits_all(curves):
    view, document = curves.view, curves.document
    curves.normal.click()
    view.fit()
    places = [view.pin(each, k) for each in view.curves() for k in range(len(each.data.keys))]
    assert all(view.values.low < view.values.value(at.y()) < view.values.high for at in places)
    size = view.values.high - view.values.low
    assert size == pytest.approx(1.24, abs=0.02)
    first = QPointF(view.axis.x(10.0), view.values.y(1.1))
    Mouse.drag(view, first, (view.axis.pixels_per_frame * 20, view.values.pixels_per_value * 1.1))
    assert KeyRef("card", "position.x", 20.0) in document.selection.keys
    Mouse.send(view, "press", first, keys=Qt.KeyboardModifier.AltModifier)
    Mouse.send(view, "move", first + QPointF(100, 60))
    Mouse.send(view, "release", first + QPointF(100, 60))
    assert view.axis.start == pytest.approx(10.0, abs=0.1)
    assert view.values.high - view.values.low < size
    view.show_whole()
    assert view.axis.start == 0.0


def test_the_value_axis_has_round_ticks_and_goes_both_ways():
    axis = ValueAxis(10.0, 200.0, -3.0, 17.0)
    assert axis.ticks(26.0) == [0.0, 5.0, 10.0, 15.0]
    assert axis.value(axis.y(4.2)) == pytest.approx(4.2)
    assert axis.zoomed(2.0, 5.0).value(axis.y(5.0)) == pytest.approx(5.0)
