"""Working in the views with the mouse: Lens, Overview, Depth rail, Rig, inspector."""

from itertools import pairwise

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtWidgets import QLineEdit

import wild_heron as wh
from wild_heron.desk.depth.depth_rail import spread
from wild_heron.desk.overview.free_view import Eye
from wild_heron.edits.posing import depth_of
from wild_heron.evaluate import evaluate


def free_camera(window):
    window.desk.document.edit("Free", lambda scene: wh.edits.change_node(scene, "cam", binds=(), carrier=None))


def camera_pose(window) -> np.ndarray:
    return window.desk.document.evaluations.here.camera("cam").pose[0]


@pytest.mark.parametrize(
    ("tool", "drag", "moved"),
    [
        ("turn", (60, 0), lambda p: p[:3, 3] == pytest.approx([0, 0, 10]) and p[0, 2] > 0.05),  # looks to the left
        ("turn", (0, 60), lambda p: p[1, 2] < -0.05),  # looks up
        ("slide", (60, 0), lambda p: p[0, 3] < -0.5 and p[2, 3] == pytest.approx(10)),
        ("slide", (0, 60), lambda p: p[1, 3] > 0.5),
        ("push", (0, -60), lambda p: p[2, 3] < 9.5),
        ("orbit", (-60, 0), lambda p: p[0, 3] > 1 and np.hypot(p[0, 3], p[2, 3] + 8) == pytest.approx(18, abs=1e-6)),
    ],
)
def test_dragging_in_the_lens_moves_the_camera(window, mouse, tool, drag, moved):
    free_camera(window)
    window.desk.actions_[f"camera.{tool}"].trigger()
    middle = window.desk.lens.view.picture_rect.center()
    mouse.drag(window.desk.lens.view, middle, (drag[0] / 2, drag[1] / 2), drag)
    assert moved(camera_pose(window))
    window.desk.document.undo()  # one drag is one step
    assert camera_pose(window) == pytest.approx(np.block([[np.eye(3), np.array([[0], [0], [10]])], [0, 0, 0, 1]]))


@pytest.mark.parametrize("tool", ["turn", "slide", "push", "zoom", "orbit"])
def test_where_a_drag_ends_decides_not_the_way_there(window, mouse, tool):
    window.desk.document.edit(
        "Point", lambda scene: wh.edits.change_node(scene, "cam", binds=(wh.AimAt(),), carrier=None)
    )
    window.desk.actions_[f"camera.{tool}"].trigger()
    middle = window.desk.lens.view.picture_rect.center()
    mouse.drag(window.desk.lens.view, middle, (40, -50))
    straight = window.desk.document.scene
    window.desk.document.undo()
    mouse.drag(window.desk.lens.view, middle, (-30, 40), (90, -120), (10, -20), (40, -50))
    for name in ("position.x", "position.y", "position.z", "lens.focal", "aim.x", "aim.y"):
        assert window.desk.document.evaluations.value("cam", name) == pytest.approx(
            float(evaluate(straight, 0.0).value("cam", name)[0])
        )


def test_a_drag_can_be_reset_like_a_typed_move(window, mouse):
    free_camera(window)
    for tool in ("slide", "push"):
        window.desk.actions_[f"camera.{tool}"].trigger()
        mouse.drag(window.desk.lens.view, window.desk.lens.view.picture_rect.center(), (20, 10), (60, 40))
    moves = window.desk.lens.moves
    assert abs(moves.moves.truck) > 0.5
    assert abs(moves.moves.dolly) > 0.5
    moves.reset("dolly")
    assert camera_pose(window)[2, 3] == pytest.approx(10.0)
    assert camera_pose(window)[0, 3] == pytest.approx(moves.moves.truck)
    window.desk.document.undo()
    assert moves.moves.is_none  # undo begins a new tally


def test_roll_and_zoom(window, mouse):
    free_camera(window)
    view = window.desk.lens.view
    window.desk.actions_["camera.roll"].trigger()
    middle = view.picture_rect.center()
    mouse.drag(view, middle + QPointF(100, 0), (-30, 70), (-100, 100))
    assert window.desk.document.evaluations.value("cam", "rotation.z") == pytest.approx(90.0, abs=0.5)
    window.desk.actions_["camera.zoom"].trigger()
    mouse.drag(view, middle, (0, -40), (0, -80))
    assert window.desk.document.evaluations.value("cam", "lens.focal") > 38


def test_escape_takes_a_drag_back(window, mouse, qtbot):
    free_camera(window)
    before = window.desk.document.scene
    window.desk.actions_["camera.slide"].trigger()
    mouse.drag(window.desk.lens.view, window.desk.lens.view.picture_rect.center(), (50, 20), release=False)
    assert window.desk.document.scene != before
    qtbot.keyClick(window.desk.lens.view, Qt.Key.Key_Escape)
    assert window.desk.document.scene == before
    assert not window.desk.document.gesture.running


def test_an_aimed_camera_says_why_it_will_not_pan(window, mouse):
    window.desk.actions_["camera.turn"].trigger()
    before = window.desk.document.scene
    mouse.drag(window.desk.lens.view, window.desk.lens.view.picture_rect.center(), (50, 0))
    assert window.desk.document.scene is before
    assert "aimed at Target" in window.desk.status.text.text()


def test_panning_a_camera_aimed_at_a_point_swings_the_point(window):
    window.desk.document.edit(
        "Point", lambda scene: wh.edits.change_node(scene, "cam", binds=(wh.AimAt(),), carrier=None)
    )
    window.desk.lens.moves.set_amount("pan", 90.0)
    assert window.desk.document.evaluations.value("cam", "aim.x") == pytest.approx(-10.0)
    assert window.desk.document.evaluations.value("cam", "aim.z") == pytest.approx(10.0)
    assert -camera_pose(window)[:3, 2] == pytest.approx([-1, 0, 0], abs=1e-9)


def test_moves_are_typed_summed_and_reset_one_by_one(window, qtbot):
    free_camera(window)
    window.desk.actions_["camera.moves"].trigger()
    fields = window.desk.lens.strip_moves.fields

    def type_(name: str, text: str) -> None:
        qtbot.mouseClick(fields[name], Qt.MouseButton.LeftButton, pos=QPoint(20, 25))
        editor = fields[name].editor
        editor.selectAll()
        qtbot.keyClicks(editor, text)
        qtbot.keyClick(editor, Qt.Key.Key_Return)

    type_("truck", "4/2")
    type_("pan", "90")
    type_("zoom", "70")
    assert camera_pose(window)[:3, 3] == pytest.approx([2, 0, 10])
    assert -camera_pose(window)[:3, 2] == pytest.approx([-1, 0, 0], abs=1e-9)
    assert window.desk.document.evaluations.value("cam", "lens.focal") == pytest.approx(70.0)
    field = fields["truck"]
    assert field.can_reset
    qtbot.mouseClick(field, Qt.MouseButton.LeftButton, pos=QPoint(field.width() - 6, 6))
    assert not field.can_reset
    assert camera_pose(window)[:3, 3] == pytest.approx([0, 0, 10])
    assert window.desk.lens.moves.moves.pan == 90.0
    window.desk.actions_["camera.reset"].trigger()
    assert camera_pose(window)[:3, :3] == pytest.approx(np.eye(3))


def test_the_depth_rail_moves_a_picture_and_keeps_its_size(window, mouse):
    rail = window.desk.depth_panel.rail
    tag = next(tag for tag in rail.tags()[0] if tag.node == "card")
    assert tag.depth == pytest.approx(10.0)
    mouse.drag(rail, QPointF(70, tag.y), (0, 20), (0, 60))
    document = window.desk.document
    depth = depth_of(document.scene, "cam", "card", 0.0)
    assert depth < 8.0
    assert document.evaluations.value("card", "scale.x") == pytest.approx(depth / 10.0)
    assert document.selection.nodes == ("card",)
    document.undo()
    window.desk.depth_panel.keep.click()
    tag = next(tag for tag in rail.tags()[0] if tag.node == "card")
    mouse.drag(rail, QPointF(70, tag.y), (0, 20), (0, 60))
    assert document.evaluations.value("card", "scale.x") == 1.0
    assert depth_of(document.scene, "cam", "card", 0.0) < 8.0


def test_the_depth_rail_takes_keys(window, qtbot):
    window.desk.document.selection.choose(["card"])
    for _ in range(5):
        qtbot.keyClick(window.desk.depth_panel.rail, Qt.Key.Key_Up)
    assert depth_of(window.desk.document.scene, "cam", "card", 0.0) == pytest.approx(10.5)
    window.desk.document.undo()
    assert depth_of(window.desk.document.scene, "cam", "card", 0.0) == pytest.approx(10.0)


def test_tags_are_spread_without_overlap():
    places = spread([0.0, 1.0, 1.5, 90.0, 99.0], 10.0, 0.0, 100.0)
    assert all(b - a >= 10.0 - 1e-9 for a, b in pairwise(places))
    assert places[-1] <= 100.0


def overview_at(window, node: str) -> QPointF:
    view = window.desk.overview.view
    pixel = view.eye.project(
        evaluate(window.desk.document.scene, window.desk.document.playhead.frame).position(node),
        view.width(),
        view.height(),
    )
    return QPointF(*pixel[0][0])


def test_the_overview_selects_and_moves_nodes(window, mouse):
    window.desk.overview.choose("front")
    view = window.desk.overview.view
    window.desk.document.edit("Aside", lambda scene: wh.edits.set_value(scene, "target", "position.x", 3.0))
    at = overview_at(window, "target")
    mouse.drag(view, at)
    assert window.desk.document.selection.nodes == ("target",)
    unit = view.eye.units_per_pixel(np.array([3.0, 0, 0]), view.width())
    mouse.drag(view, at + QPointF(2, -2), (10, 0), (20, -10))
    assert window.desk.document.evaluations.value("target", "position.x") == pytest.approx(3.0 + 20 * unit, abs=1e-6)
    assert window.desk.document.evaluations.value("target", "position.y") == pytest.approx(10 * unit, abs=1e-6)
    assert window.desk.actions_["edit.undo"].text() == "&Undo: Move Target"


def test_handles_change_one_channel_each(window, mouse):
    window.desk.overview.choose("front")
    window.desk.document.selection.choose(["target"])
    view = window.desk.overview.view
    for handle in view._handles():
        before = window.desk.document.scene
        bead = QPointF(*handle.bead)
        mouse.drag(view, bead, (4, -4), (12, -16))
        changed = {c.name for c in window.desk.document.scene.node("target").channels} - {
            c.name for c in before.node("target").channels
        }
        assert changed == {handle.channel}
        window.desk.document.undo()
        assert window.desk.document.scene == before


def test_looking_round_changes_only_the_view(window, mouse):
    window.desk.overview.choose("free")
    view, scene = window.desk.overview.view, window.desk.document.scene
    before = view.eye
    mouse.drag(view, QPointF(100, 60), (40, 10), button=Qt.MouseButton.RightButton)
    assert view.eye.yaw != before.yaw
    mouse.drag(view, QPointF(100, 60), (40, 10), button=Qt.MouseButton.MiddleButton)
    assert view.eye.centre != before.centre
    assert window.desk.document.scene is scene


@pytest.mark.parametrize("mode", ["free", "plan", "side", "front"])
def test_zooming_keeps_the_point_under_the_pointer(mode):
    eye = Eye(mode)
    point = (eye.pose() @ np.array([4.0, 3.0, -eye.span * (1.15 if mode == "free" else 1.0), 1.0]))[:3]
    before = eye.project(point[None], 400, 200)[0][0]
    after = eye.zoomed(1.7, (before[0], before[1]), 400, 200).project(point[None], 400, 200)[0][0]
    assert after == pytest.approx(before, abs=1e-6)


def test_hanging_in_the_rig_keeps_the_pose_and_a_loop_is_told(window):
    before = evaluate(window.desk.document.scene, 0.0).world("card")[0]
    window.desk.document.playhead.set_frame(24)
    window.desk.rig.tree.hang(("card",), "turn")
    assert window.desk.document.scene.node("card").carrier == "turn"
    assert evaluate(window.desk.document.scene, 24.0).world("card")[0] == pytest.approx(before, abs=1e-6)
    window.desk.rig.tree.hang(("turn",), "card")
    assert window.desk.document.scene.node("turn").carrier is None
    assert "loop" in window.desk.status.text.text()


def test_renaming_in_the_rig(window, qtbot):
    window.desk.document.selection.choose(["card"])
    window.desk.rig.tree.setFocus()
    window.desk.actions_["set.rename"].trigger()
    editor = window.desk.rig.tree.findChild(QLineEdit)
    editor.selectAll()
    qtbot.keyClicks(editor, "Plate")
    qtbot.keyClick(editor, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: window.desk.document.scene.node("card").name == "Plate")


def test_cameras_nulls_and_carriers_from_the_menus(window):
    document, trigger = window.desk.document, lambda name: window.desk.actions_[name].trigger()
    trigger("camera.add")
    camera = document.selection.active.id
    assert document.scene.node(camera).kind == "camera"
    trigger("camera.look")
    assert document.scene.camera == camera
    document.selection.choose(["card", "target"])
    trigger("rig.null_middle")
    null = document.selection.active.id
    document.selection.choose(["card", null])
    trigger("rig.carry")
    assert document.scene.node("card").carrier == null
    document.selection.choose(["card"])
    trigger("rig.free")
    assert document.scene.node("card").carrier is None
    document.selection.choose([camera, "card"])
    trigger("rig.aim_node")
    assert document.scene.node(camera).aim == wh.AimAt(("card",))
    trigger("rig.null_aim")
    document.selection.choose([camera])
    trigger("rig.aim_point")
    assert document.scene.node(camera).aim == wh.AimAt()
    trigger("rig.aim_none")
    assert document.scene.node(camera).aim is None
    trigger("edit.duplicate")
    assert document.selection.active.name == "Camera 2"


def test_the_inspector_types_drags_steps_resets_locks_and_keys(window, qtbot, mouse):
    document = window.desk.document
    document.selection.choose(["card"])
    field = window.desk.inspector.fields["position.x"]
    qtbot.mouseClick(field, Qt.MouseButton.LeftButton)
    editor = field.editor
    editor.selectAll()
    qtbot.keyClicks(editor, "1920/100")
    qtbot.keyClick(editor, Qt.Key.Key_Return)
    assert document.evaluations.value("card", "position.x") == pytest.approx(19.2)
    mouse.drag(field, QPointF(30, 10), (10, 0), (40, 0))
    assert document.evaluations.value("card", "position.x") == pytest.approx(20.2)
    qtbot.keyClick(field, Qt.Key.Key_Up)
    qtbot.keyClick(field, Qt.Key.Key_Up)
    assert document.evaluations.value("card", "position.x") == pytest.approx(20.4)
    document.undo()  # steps that follow at once are one
    assert document.evaluations.value("card", "position.x") == pytest.approx(20.2)
    dot, names = next((dot, names) for dot, names in window.desk.inspector._rows._dots if "position.x" in names)
    qtbot.mouseClick(dot, Qt.MouseButton.LeftButton)
    assert {channel.name for channel in document.scene.node("card").channels if channel.keys} == set(names)
    document.edit("Lock", lambda scene: wh.edits.lock_channel(scene, "card", "position.x", True))
    field.refresh()
    mouse.drag(field, QPointF(30, 10), (10, 0), (40, 0))
    assert document.evaluations.value("card", "position.x") == pytest.approx(20.2)


def test_the_angle_of_view_sets_the_lens(window):
    window.desk.document.selection.choose(["cam"])
    window.desk.inspector.properties["angle"].edited.emit(90.0, False)
    assert window.desk.document.evaluations.value("cam", "lens.focal") == pytest.approx(18.0)
