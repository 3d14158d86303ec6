"""Lessons, each done as its steps say, with real clicks and keys; what they point at, hints, and the way out."""

from collections.abc import Callable

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeySequence
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QComboBox

import wild_heron as wh
from wild_heron.demo import DEMO_SCENE
from wild_heron.desk.shell.desk import Desk
from wild_heron.lessons import Now, Step, holds, lessons
from wild_heron.lessons.lesson import Choose, Do, GoTo, Has, Pick, Select, Type
from wild_heron.process.checking import check_scene

LEFT, NO_KEY, CTRL = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ControlModifier


def press(window, chord: str) -> None:
    """A shortcut, key by key."""
    keys = QKeySequence(chord)
    for number in range(keys.count()):
        each = keys[number]
        QTest.keyClick(QApplication.focusWidget() or window, each.key(), each.keyboardModifiers())


def click_rows(desk: Desk, ids: tuple[str, ...]) -> None:
    """Nodes in the Rig, the others with Ctrl."""
    tree = desk.rig.tree
    for number, node in enumerate(ids):
        item = tree.items()[node]
        tree.scrollToItem(item)
        at = tree.visualItemRect(item).center()
        QTest.mouseClick(tree.viewport(), LEFT, CTRL if number else NO_KEY, at)


def click_key(desk: Desk, node: str, channel: str, frame: float) -> None:
    """A pin in Lanes."""
    view = desk.lanes.view
    row = next(k for k, lane in enumerate(view.lanes()) if (lane.node, lane.channel) == (node, channel))
    frames = [key.frame for key in desk.document.scene.node(node).channel(channel).keys]
    at = view.pin(view.lanes()[row], frames.index(frame), row)
    QTest.mouseClick(view, LEFT, NO_KEY, at.toPoint())


def carry_out(window, deed) -> None:
    """What a step shows, by mouse and keyboard."""
    desk = window.desk
    match deed:
        case Do(action):
            spec = next(each for each in desk.actions_.specs if each.name == action)
            press(window, spec.shortcut)
        case Select(nodes):
            click_rows(desk, nodes)
        case Pick(node, channel, frame):
            click_key(desk, node, channel, frame)
        case GoTo(frame):
            desk.document.playhead.set_frame(frame)
        case Type(channel, text):
            field = desk.inspector.fields[channel]
            QTest.mouseClick(field, LEFT)
            field.editor.selectAll()
            QTest.keyClicks(field.editor, text)
            QTest.keyClick(field.editor, Qt.Key.Key_Return)
        case Choose(name, value):
            field = desk.inspector.properties[name]
            assert isinstance(field, QComboBox)
            # Arrow by arrow: each is taken at once, and the row may be built anew.
            for _ in range(field.count()):
                field = desk.inspector.properties[name]
                wanted = field.findText(value) - field.currentIndex()
                if wanted == 0:
                    break
                field.setFocus()
                QTest.keyClick(field, Qt.Key.Key_Down if wanted > 0 else Qt.Key.Key_Up)


def checked(step: Step) -> bool:
    """Whether a step waits for what is measured and worked out meanwhile: it is done again until that is there."""
    return any(isinstance(deed, Do) and deed.action.startswith("check.") for deed in step.show)


def until(qtbot, desk: Desk, do: Callable[[], bool], again: bool) -> None:
    """Do something once, or when all frames are looked at, and again until it tells that it has come to something."""
    if again and desk.lanes.shown == "checks":
        qtbot.waitUntil(lambda: desk.document.checked.is_done, timeout=90_000)
    if not do() and again:
        qtbot.waitUntil(do, timeout=90_000)


def show(qtbot, desk: Desk, again: bool) -> None:
    """Press *Show me* until the lesson has gone on."""
    run, number = desk.lesson_run, desk.lesson_run.number

    def press_it() -> bool:
        desk.lesson_bar.show_me.click()
        qtbot.wait(20)
        return run.number > number

    until(qtbot, desk, press_it, again)
    qtbot.waitUntil(lambda: run.number > number, timeout=30_000)


@pytest.mark.parametrize("name", list(lessons()))
def test_a_lesson_is_done_as_its_steps_say(make_window, qtbot, name):
    window = make_window()
    desk, run = window.desk, window.desk.lesson_run
    desk.do_lesson(name)
    assert desk.lesson_bar.isVisible()
    for number, step in enumerate(lessons()[name].steps):
        assert run.number == number, f"step {number + 1} is done before it is begun"
        assert desk.lesson_bar.text.text() == step.say

        def do(number: int = number, step: Step = step) -> bool:
            for deed in step.show:
                carry_out(window, deed)
            qtbot.wait(20)
            return run.number > number

        until(qtbot, desk, do, checked(step))
        qtbot.waitUntil(lambda: run.number > number, timeout=30_000)  # noqa: B023
        for dialog in QApplication.topLevelWidgets():
            if dialog is not window and dialog.isModal():
                dialog.close()
    assert run.is_over
    assert name in run.done()


@pytest.mark.parametrize("name", list(lessons()))
def test_it_points_at_something_in_sight_for_every_step(make_window, qtbot, name):
    window = make_window()
    desk = window.desk
    desk.do_lesson(name)
    for step in lessons()[name].steps:
        if any(at.startswith(("field:", "choice:")) for at in step.at):
            # It is there once the node is selected.
            for deed in step.show:
                if isinstance(deed, Select):
                    desk.document.selection.choose(deed.nodes)
        qtbot.waitUntil(lambda: bool(desk.pointer.boxes), timeout=10_000)
        assert window.rect().intersects(desk.pointer.boxes[0])
        show(qtbot, desk, checked(step))
    assert not desk.pointer.isVisible()


def test_what_the_lesson_mends_is_mended(make_window, qtbot):
    """It is the bare edge that is found, and nothing is bare when it is over."""
    window = make_window()
    desk = window.desk
    desk.do_lesson("7-mend-what-is-bare")
    base = DEMO_SCENE.parent
    before = {each.kind for judged in check_scene(desk.document.scene, base, every=8) for each in judged.open}
    assert before == {"bare"}
    for step in lessons()["7-mend-what-is-bare"].steps:
        show(qtbot, desk, checked(step))
    assert desk.document.history.undo_name is not None
    after = [each.kind for judged in check_scene(desk.document.scene, base, every=8) for each in judged.open]
    assert after == []


def test_hints_ways_out_and_the_next_one(make_window, qtbot):
    window = make_window()
    desk, run, bar = window.desk, window.desk.lesson_run, window.desk.lesson_bar
    desk.do_lesson("1-first-move")
    assert not bar.hint.isVisible()
    qtbot.mouseClick(bar.show_hint, LEFT)
    assert bar.hint.text() == lessons()["1-first-move"].steps[0].hint
    qtbot.mouseClick(bar.leave, LEFT)
    assert run.lesson is None
    assert not bar.isVisible()
    assert not run.done()
    # With another scene a lesson is over; after its end the next one is offered.
    desk.do_lesson("1-first-move")
    desk.document.reset(wh.Scene(), None)
    assert run.lesson is None
    desk.do_lesson("6-life")
    for _ in range(len(lessons()["6-life"].steps)):
        number = run.number
        bar.show_me.click()
        qtbot.waitUntil(lambda: run.number > number, timeout=30_000)  # noqa: B023
    assert run.is_over
    qtbot.mouseClick(bar.next, LEFT)
    assert run.id == "7-mend-what-is-bare"
    assert run.number == 0


def test_a_step_that_is_done_already_is_passed_over():
    scene = wh.Scene(nodes=(wh.Camera(id="camera", name="Camera"),))
    assert holds(Has("camera"), Now(scene))
    assert not holds(Has("camera", 2), Now(scene))
    assert not holds(Has("null"), Now(scene))


def test_a_step_is_not_done_by_an_action_that_did_nothing(make_window):
    """Before anything is found, the checks' actions come to nothing, and the lesson waits."""
    window = make_window()
    desk, run = window.desk, window.desk.lesson_run
    desk.do_lesson("7-mend-what-is-bare")
    desk.lesson_bar.show_me.click()
    assert run.number == 1
    desk.document.checked.choose(None)
    for name in ("check.fix", "check.take"):
        desk.actions_[name].trigger()
        run.look()
    assert run.number == 1


def test_undoing_what_a_step_asked_for_does_not_lose_the_lesson(make_window, qtbot):
    window = make_window()
    desk, run = window.desk, window.desk.lesson_run
    desk.do_lesson("1-first-move")
    press(window, "Ctrl+Shift+C")
    qtbot.waitUntil(lambda: run.number == 1)
    press(window, "Ctrl+Z")
    assert run.lesson is not None
    assert run.number == 1
