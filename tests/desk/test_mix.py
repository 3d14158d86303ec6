"""Mixes in the window: made of what is selected, weighed in the inspector, driven by a pad."""

import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest

import wild_heron as wh
from wild_heron.scene.channels import FOCAL


@pytest.fixture
def mixing(window, qtbot):
    """Four cameras, all of them selected."""
    window.show()
    qtbot.waitExposed(window)
    cameras = tuple(
        wh.Camera(
            id=f"c{k}",
            name=f"Camera {k}",
            channels=(wh.Channel(FOCAL, 20.0 + 10.0 * k), wh.Channel("position.x", 4.0 * k)),
        )
        for k in range(4)
    )
    document = window.desk.document
    document.reset(wh.Scene(nodes=cameras, settings=wh.Settings(last=47), camera="c0"), None)
    document.selection.choose(tuple(each.id for each in cameras))
    return window.desk


def test_the_selected_cameras_are_mixed(mixing):
    document = mixing.document
    mixing.actions_["rig.mix"].trigger()
    assert document.history.undo_name == "Mix cameras"
    mix = document.selection.active
    assert mix.binds[0].members == ("c0", "c1", "c2", "c3")
    assert document.views.camera_id == mix.id
    document.edit("Weigh", lambda scene: wh.edits.set_value(scene, mix.id, "mix.weight.2", 1.0))
    assert document.evaluations.here.camera(mix.id).position[0, 0] == pytest.approx(2.0, abs=0.2)
    assert "mix" in (mixing.camera_moves.problem("dolly") or "") if hasattr(mixing, "camera_moves") else True


def test_one_camera_is_not_enough(mixing):
    mixing.document.selection.choose(("c1",))
    scene = mixing.document.scene
    mixing.actions_["rig.mix"].trigger()
    assert mixing.document.scene is scene
    assert "two or more" in mixing.status.text.text()


def test_the_pad_on_the_board_is_dragged_as_one_step(mixing, qtbot):
    document = mixing.document
    mixing.actions_["rig.mix"].trigger()
    mixing.actions_["rig.pad"].trigger()
    mix = document.selection.active
    mixing.actions_["view.board"].trigger()
    qtbot.waitUntil(lambda: len(mixing.board.pads) == 1)
    pad = next(iter(mixing.board.pads.values()))
    qtbot.waitExposed(pad)
    corner = pad.place_of(1.0, 1.0)
    steps = len(document.history.names)
    QTest.mousePress(pad, Qt.MouseButton.LeftButton, pos=pad.place_of(0.2, 0.1).toPoint())
    QTest.mouseMove(pad, corner.toPoint())
    QTest.mouseRelease(pad, Qt.MouseButton.LeftButton, pos=corner.toPoint())
    assert len(document.history.names) == steps + 1
    here = document.evaluations.here
    assert (here.value(mix.id, "dial.across")[0], here.value(mix.id, "dial.up")[0]) == (1.0, 1.0)
    assert here.camera(mix.id).focal_mm[0] == pytest.approx(30.0, rel=1e-4)
    pad.setFocus()
    qtbot.keyClick(pad, Qt.Key.Key_Left)
    assert document.evaluations.here.value(mix.id, "dial.across")[0] == pytest.approx(0.95)
    qtbot.mouseDClick(pad, Qt.MouseButton.LeftButton, pos=QPointF(20, 20).toPoint())
    assert document.evaluations.here.value(mix.id, "dial.up")[0] == 0.0
    document.undo()
    document.undo()
    assert document.history.undo_name.endswith("pad")
