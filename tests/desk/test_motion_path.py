"""Keys and handles on a node's way, dragged in the Overview."""

import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt

import wild_heron as wh
from wild_heron.edits import KeyRef
from wild_heron.edits.motion_path import path_handles
from wild_heron.evaluate import evaluate


@pytest.fixture
def view(window):
    """The target on a way of three keys, seen from the front, its middle key selected."""
    scene = window.desk.document.scene
    for frame, place in ((0.0, (0.0, 0.0)), (20.0, (4.0, 2.0)), (48.0, (8.0, -1.0))):
        for name, value in zip(("position.x", "position.y"), place, strict=True):
            scene = wh.edits.set_key(scene, "target", name, frame, value, wh.Flow())
    window.desk.document.edit("Keys", lambda old: scene)
    window.desk.document.selection.choose(["target"])
    view = window.desk.overview.view
    view.set_mode("front")
    view.frame_all(("target",))
    view.at_rest.stop()
    window.desk.document.selection.choose_keys([KeyRef("target", name, 20.0) for name in ("position.x", "position.y")])
    return view


def seen(view, side: str):
    return next(handle for handle in view.path_key_editor.handles() if handle.key.side == side)


def test_a_handle_is_dragged_where_it_is_seen_and_the_key_stays(window, view, mouse):
    document = window.desk.document
    before = evaluate(document.scene, [0.0, 20.0, 48.0]).position("target")
    bead = view.project(seen(view, "out").bead[None])[0]
    foot = view.project(seen(view, "out").foot[None])[0]
    drag = (6.0, 40.0)
    mouse.drag(view, QPointF(*bead), (3, 10), drag)
    after = view.project(seen(view, "out").bead[None])[0]
    assert after == pytest.approx(bead + np.array(drag), abs=0.5)
    assert evaluate(document.scene, [0.0, 20.0, 48.0]).position("target") == pytest.approx(before, abs=1e-6)
    assert document.history.undo_name == "Shape the path of Target at frame 20"
    # The one across follows: it stays on the line through the key.
    across = view.project(seen(view, "into").bead[None])[0] - foot
    along = after - foot
    assert abs(across[0] * along[1] - across[1] * along[0]) < 0.02 * np.linalg.norm(across) * np.linalg.norm(along)
    document.undo()
    into = path_handles(document.scene, "target", 20.0)["into"]
    mouse.drag(view, QPointF(*bead), (3, 10), drag, keys=Qt.KeyboardModifier.AltModifier)
    assert path_handles(document.scene, "target", 20.0)["into"] == pytest.approx(into, abs=1e-9)


def test_a_click_on_a_key_selects_it_in_lanes_and_shows_its_handles(window, view, mouse):
    document = window.desk.document
    document.selection.choose_keys(())
    assert view.path_key_editor.handles() == []
    spot = view.project(evaluate(document.scene, 48.0).position("target"))[0]
    mouse.drag(view, QPointF(*spot))
    assert document.selection.keys == {KeyRef("target", name, 48.0) for name in ("position.x", "position.y")}
    assert [handle.key.side for handle in view.path_key_editor.handles()] == ["into"]
    assert document.history.undo_name == "Keys"


def test_escape_takes_a_dragged_handle_back(window, view, mouse, qtbot):
    state = window.desk.document.state
    bead = view.project(seen(view, "into").bead[None])[0]
    mouse.drag(view, QPointF(*bead), (30, 30), release=False)
    assert window.desk.document.state != state
    qtbot.keyClick(view, Qt.Key.Key_Escape)
    assert window.desk.document.state == state
    assert not view.grab().isNull()


def test_one_ease_goes_over_the_whole_way(window, view):
    document = window.desk.document
    keys = [KeyRef("target", name, frame) for name in ("position.x", "position.y") for frame in (0.0, 20.0, 48.0)]
    document.selection.choose_keys(keys)
    said = []
    document.messages.said.connect(lambda text, warning: said.append(text))
    window.desk.actions_["ease.even_eased"].trigger()
    assert "“flow” is not one" in said[-1]
    document.edit("Ease", lambda s: wh.edits.set_spans(s, keys[::3], wh.Family("sine")))
    window.desk.actions_["ease.even_eased"].trigger()
    places = evaluate(document.scene, np.linspace(0.0, 48.0, 9)).position("target")
    run = np.concatenate(
        [
            [0.0],
            np.cumsum(
                np.linalg.norm(
                    np.diff(evaluate(document.scene, np.linspace(0.0, 48.0, 4801)).position("target"), axis=0), axis=1
                )
            ),
        ]
    )
    wanted = 0.5 - 0.5 * np.cos(np.pi * np.linspace(0.0, 1.0, 9))
    assert run[::600] / run[-1] == pytest.approx(wanted, abs=0.01)
    assert places[-1] == pytest.approx([8.0, -1.0, 0.0])
