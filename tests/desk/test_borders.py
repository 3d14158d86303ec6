"""An error never ends the program: refused edits, faulty nodes, paintings and threads that fail."""

import ast
import os
import signal
import threading
from pathlib import Path

import pytest
from PyQt6.QtCore import QTimer

import wild_heron as wh
import wild_heron.desk as desk
from wild_heron.demo import DEMO_SCENE
from wild_heron.desk.widgets.plain_text import as_plain, message_box
from wild_heron.desk.widgets.unexpected import reports
from wild_heron.evaluate.binds import SOLVERS
from wild_heron.gl.request import FrameRequest, ThroughLens
from wild_heron.process.client import RenderClient
from wild_heron.process.messages import RequestRefused

SECONDS = 60_000


@pytest.fixture
def noted():
    """What is reported in a test that provokes it."""
    told: list[str] = []
    before = dict(reports.seen)
    reports.seen.clear()
    reports.unexpected.connect(told.append)
    yield told
    reports.unexpected.disconnect(told.append)
    reports.seen.clear()
    reports.seen.update(before)


def test_a_camera_follows_what_its_aim_was_bound_to_before(make_window, qtbot):
    window = make_window()
    assert window.desk.files.open(DEMO_SCENE, as_copy=True, ask=False)
    ids = {node.name: node.id for node in window.desk.document.scene.nodes}
    window.desk.document.selection.choose([ids["Main camera"], ids["Lantern cart"]])
    window.desk.actions_["rig.bind_follow"].trigger()
    binds = window.desk.document.scene.node(ids["Main camera"]).binds
    assert [type(bind).__name__ for bind in binds] == ["Follow", "AimAt"]
    assert window.desk.document.evaluations.problems == {}
    with qtbot.waitSignal(window.desk.link.completed, timeout=SECONDS):
        window.desk.document.playhead.set_frame(30.0)
    window.desk.document.mark_loaded()


def faulty(scene: wh.Scene) -> wh.Scene:
    """With a node that lies beyond all numbers."""
    large = tuple(wh.Channel(f"scale.{axis}", 1e9) for axis in "xyz")
    for k in range(40):
        carrier = f"n{k - 1}" if k else None
        scene = wh.edits.add_node(scene, wh.Null(id=f"n{k}", name=f"N{k}", carrier=carrier, channels=large))
    return scene


def test_an_edit_that_cannot_be_worked_out_is_refused(window, monkeypatch):
    document = window.desk.document
    before = document.scene

    def broken(*_: object) -> None:
        raise ArithmeticError("no such number")

    monkeypatch.setitem(SOLVERS, wh.Match, broken)
    assert not document.edit("Match", lambda scene: wh.edits.add_bind(scene, "card", wh.Match("turn"))[0])
    assert document.scene is before
    assert "Not done. Card stands still: match cannot be worked out" in window.desk.status.text.text()
    assert document.history.undo_name is None


@pytest.mark.parametrize(
    ("change", "says"),
    [
        (lambda s: wh.edits.change_node(s, "card", width=100_000), "65536"),
        (lambda s: wh.edits.change_node(s, "card", artwork=wh.ImageFile("bad\udcff.png")), "proper text"),
        (lambda s: wh.edits.set_channel(s, "card", wh.Channel("position.x", 1e300)), "1000000000"),
    ],
)
def test_an_edit_that_cannot_be_saved_is_refused(window, change, says):
    before = window.desk.document.scene
    assert not window.desk.document.edit("Odd", change)
    assert window.desk.document.scene is before
    assert says in window.desk.status.text.text()


def test_a_drag_that_ends_where_it_may_not_goes_back(window):
    document = window.desk.document
    document.gesture.begin("Drag")
    document.gesture.preview(
        document.state.with_scene(wh.edits.set_channel(document.scene, "card", wh.Channel("opacity", 0.5)))
    )
    odd = wh.edits.set_channel(document.scene, "card", wh.Channel("position.x", 1e300))
    document.gesture.preview(document.state.with_scene(odd))
    document.gesture.commit()
    assert document.scene.node("card").channel("position.x") is None
    assert document.history.undo_name is None


def test_a_scene_with_a_fault_opens_and_everything_else_works(make_window, rig, art, qtbot):
    wh.save(faulty(rig), art / "faulty.heron")
    window = make_window()
    assert window.desk.files.open(art / "faulty.heron", ask=False)
    document = window.desk.document
    assert "n39" in document.evaluations.problems
    assert "card" not in document.evaluations.problems
    with qtbot.waitSignal(window.desk.link.completed, timeout=SECONDS, check_params_cb=lambda name: name == "lens"):
        document.playhead.set_frame(9.0)
    middle = window.desk.lens.view.image.pixelColor(window.desk.lens.view.image.rect().center())
    assert middle.red() > 150
    document.recorder.set_values("Move", {("card", "position.x"): 0.5})
    assert document.scene.node("card").channel("position.x").value == 0.5
    assert not reports.seen


def test_a_painting_that_fails_is_told_once_and_the_window_lives(window, qtbot, noted, monkeypatch):
    view = window.desk.lens.view

    def broken(*_: object) -> None:
        raise RuntimeError("no paint")

    monkeypatch.setattr(type(view.outlines), "paint", broken)
    for _ in range(5):
        view.repaint()
    assert noted == ["RuntimeError: no paint"]
    assert list(reports.seen.values()) == [5]
    monkeypatch.undo()
    view.repaint()
    assert view.grab().toImage().pixelColor(view.picture_rect.center().toPoint()).isValid()


def test_a_slot_and_a_thread_that_fail_are_told_once(window, qtbot, noted, monkeypatch):
    import sys

    for name, where in (("excepthook", sys), ("excepthook", threading)):
        monkeypatch.setattr(where, name, getattr(where, name))
    reports.watch()

    def fail() -> None:
        raise LookupError("lost")

    for _ in range(3):
        QTimer.singleShot(0, fail)
        worker = threading.Thread(target=fail)
        worker.start()
        worker.join()
    qtbot.waitUntil(lambda: sum(reports.seen.values()) == 6)
    qtbot.waitUntil(lambda: noted == ["LookupError: lost"])
    assert noted == ["LookupError: lost"]


def test_every_painting_is_guarded():
    """No paintEvent, and no delegate's paint, without its border."""
    bare = []
    for path in Path(desk.__file__).parent.rglob("*.py"):
        for part in ast.walk(ast.parse(path.read_text())):
            if isinstance(part, ast.FunctionDef) and part.name == "paintEvent":
                names = [each.id for each in part.decorator_list if isinstance(each, ast.Name)]
                if "painted" not in names:
                    bare.append(f"{path.name}:{part.lineno}")
    assert bare == []


def test_one_bad_node_leaves_the_others_their_pictures(rig, art, monkeypatch):
    far = (wh.Channel("position.x", 9e8), wh.Channel("position.z", -9e8), wh.Channel("scale.x", 9e8))
    odd = wh.Picture(id="odd", name="Odd", artwork=wh.Solid(), width=60_000, height=1, channels=far, carrier="n20")
    scene = wh.edits.add_node(faulty(rig), odd)
    with RenderClient() as client:
        client.set_scene(rig, art)
        good = client.draw(FrameRequest(0.0, ThroughLens("cam"), 160, 90))
        client.set_scene(scene, art)
        assert (client.draw(FrameRequest(0.0, ThroughLens("cam"), 160, 90)) == good).all()
        # A scene that cannot even be read leaves the process as it was.
        client.set_scene(wh.edits.change_node(rig, "card", width=10**9), art)
        number = client.request("x", 0, FrameRequest(0.0, ThroughLens("cam"), 160, 90), keep=True)
        replies = []
        while not any(getattr(each, "id", 0) == number for each in replies):
            replies += client.wait()
        assert any(isinstance(each, RequestRefused) and "cannot be drawn" in each.message for each in replies)
        assert (client.frame(0, 160, 90) == good).all()


@pytest.mark.parametrize("number", [signal.SIGKILL, signal.SIGSTOP])
def test_a_renderer_that_is_gone_or_hangs_comes_back(window, qtbot, number):
    with qtbot.waitSignal(window.desk.link.completed, timeout=SECONDS):
        window.desk.lens.view.ask()
    for k in range(6 if number == signal.SIGKILL else 1):
        pid = window.desk.link.pid
        os.kill(pid, number)
        # A picture that was on its way may still come from the old one.
        with qtbot.waitSignal(window.desk.link.restarted, timeout=SECONDS):
            window.desk.document.playhead.set_frame(float(k + 1))
        with qtbot.waitSignal(window.desk.link.completed, timeout=SECONDS):
            pass
        assert window.desk.link.pid != pid
    assert ("hung" if number == signal.SIGSTOP else "started again") in window.desk.status.text.text()


def test_a_renderer_that_does_not_read_never_holds_its_caller_up(rig, art):
    keys = tuple(wh.Key(float(k), float(k % 7)) for k in range(60_000))
    large = wh.edits.set_channel(rig, "card", wh.Channel("position.x", 0.0, keys))
    with RenderClient() as client:
        client.wait()
        os.kill(client.pid, signal.SIGSTOP)
        for k in range(8):
            client.set_scene(large, art, k)
        before = client.progress()
        assert before[1] > 0
        os.kill(client.pid, signal.SIGKILL)


def test_names_are_never_read_as_markup(window, qtbot):
    name = '<img src="file:///etc/hostname">&amp;'
    window.desk.document.edit("Rename", lambda scene: wh.edits.rename(scene, "card", name))
    window.desk.document.messages.say(name)
    assert window.desk.status.text.textFormat().name == "PlainText"
    assert window.desk.banner.text.textFormat().name == "PlainText"
    assert message_box(window, "x", name).textFormat().name == "PlainText"
    assert "<img" not in as_plain(name)
    assert as_plain("Card & more") == "Card & more"
