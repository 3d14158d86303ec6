"""The whole of a first job in the window: from artwork to a moving picture."""

import av
import numpy as np
import pytest
from PyQt6.QtCore import QMimeData, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent

import wild_heron as wh
from tests.desk.conftest import chord
from wild_heron.evaluate import evaluate


def test_from_artwork_to_a_movie(make_window, art, qtbot, mouse):
    window = make_window()
    document = window.desk.document
    window.desk.actions_["scene.new"].trigger()

    # Set: drop two pictures, and push the second back in depth once there is a camera.
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(art / name)) for name in ("card.png", "glass.png")])
    button, keys = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    window.dropEvent(QDropEvent(QPointF(50, 50), Qt.DropAction.CopyAction, data, button, keys))
    qtbot.waitUntil(lambda: not window.desk.bringer.is_busy)
    assert [node.name for node in document.scene.nodes] == ["Card", "Glass"]
    window.desk.actions_["camera.add"].trigger()
    camera = document.selection.active.id
    assert document.views.camera is not None
    rail = window.desk.depth_panel.rail
    tag = next(tag for tag in rail.tags()[0] if tag.node == "card")
    mouse.drag(rail, QPointF(80, tag.y), (0, -10), (0, -40))
    assert document.evaluations.value("card", "scale.x") > 1.0

    # Rig: a null in the middle of the pictures carries the camera, which looks at it.
    document.selection.choose(["card", "glass"])
    window.desk.actions_["rig.null_middle"].trigger()
    null = document.selection.active.id
    pose = document.evaluations.here.camera(camera).pose[0].copy()
    document.selection.choose([camera, null])
    chord(window, "RT")
    chord(window, "RA")
    assert document.scene.node(camera).carrier == null
    assert document.evaluations.here.camera(camera).pose[0][:3, 3] == pytest.approx(pose[:3, 3], abs=1e-6)

    # Keys: one number, one move.
    document.selection.choose([null])
    chord(window, "KA")
    assert document.recorder.auto_key

    def type_turn(text: str) -> None:
        field = window.desk.inspector.fields["rotation.y"]
        qtbot.mouseClick(field, button)
        field.editor.selectAll()
        qtbot.keyClicks(field.editor, text)
        qtbot.keyClick(field.editor, Qt.Key.Key_Return)

    type_turn("0 - 15")
    qtbot.keyClick(window, Qt.Key.Key_End)
    type_turn("1 turn / 24")
    chord(window, "KA")
    channel = document.scene.node(null).channel("rotation.y")
    assert [(key.frame, key.value) for key in channel.keys] == [(0.0, -15.0), (239.0, 15.0)]

    # Ease, and look at it moving.
    lanes = window.desk.lanes.view
    mouse.drag(lanes, QPointF(lanes.axis.x(100), lanes.row_top(0) + 29))
    chord(window, "EE")
    qtbot.waitUntil(lambda: any(tile.isVisible() for tile in window.desk.lanes.ease.tiles))
    qtbot.mouseClick(next(tile for tile in window.desk.lanes.ease.tiles if tile.name == "cubic"), button)
    window.desk.lanes.ease.leave()
    assert document.scene.node(null).channel("rotation.y").keys[0].span == wh.Family("cubic", "in-out")
    there = evaluate(document.scene, np.arange(240.0))
    radius = np.linalg.norm(there.position(camera) - there.position(null), axis=1)
    assert radius == pytest.approx(np.full(240, radius[0]), abs=1e-9)
    with qtbot.waitSignal(window.desk.link.drawn, timeout=60_000):
        qtbot.keyClick(window, Qt.Key.Key_Space)
    qtbot.keyClick(window, Qt.Key.Key_Space)

    # Save, close, open again: nothing is lost.
    path = art / "first.heron"
    assert window.desk.files.save_to(path)
    assert wh.load(path) == document.scene
    assert {node.artwork.source for node in wh.load(path).nodes if isinstance(node, wh.Picture)} == {
        "card.png",
        "glass.png",
    }

    # Output.
    window.desk.open.export()
    dialog = window.desk.open.export_dialog
    dialog.path.setText(str(art / "first.mp4"))
    dialog.scale.setCurrentIndex(2)
    dialog.first.setText("110")
    dialog.last.setText("129")
    qtbot.mouseClick(dialog.go, button)
    qtbot.waitUntil(lambda: not dialog.is_running, timeout=60_000)
    with av.open(str(art / "first.mp4")) as movie:
        frames = [frame.to_ndarray(format="rgb24").astype(int) for frame in movie.decode(video=0)]
    assert len(frames) == 20
    assert np.abs(frames[0] - frames[-1]).max() > 60  # it moves
