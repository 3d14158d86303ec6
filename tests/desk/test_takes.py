"""Takes in the real window: recorded by hand and from a tracker, worked on, used, compared, brought in and exported."""

import threading

import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtWidgets import QInputDialog

import wild_heron as wh
from tests.desk.conftest import chord
from wild_heron import edits
from wild_heron.desk.timeline.axis import LABELS
from wild_heron.edits import set_key
from wild_heron.evaluate import evaluate
from wild_heron.motion.takes.fewest import Closeness
from wild_heron.scene import TURN, Linear, Take, TakeUse, packed
from wild_heron.scene.channels import POSITION
from wild_heron.tracker.hand import CLEAN, Flaws, made_hand, tracked
from wild_heron.tracker.listening import Listener
from wild_heron.tracker.sending import send

FRAMES = np.arange(0.0, 49.0)


@pytest.fixture
def free(window):
    """A camera that is free to be moved, keyed, selected and looked through; the Takes tab is in front."""
    document = window.desk.document

    def change(scene):
        scene = wh.edits.set_aim(scene, "cam", None)
        scene = wh.edits.change_node(scene, "cam", carrier=None)
        scene = set_key(scene, "cam", "position.x", 0, 1.0, Linear())
        return set_key(scene, "cam", "position.x", 40, 3.0, Linear())

    assert document.edit("Free", change)
    document.selection.choose(["cam"])
    window.desk.actions_["view.takes"].trigger()
    document.turns.finish()
    return window


def hand_take(gesture="push", seconds=2.0, seed=2, flaws=CLEAN):
    sent = tracked(gesture, seconds, 90.0, seed, flaws)
    columns = np.column_stack([sent.hand.position, sent.hand.quaternion])
    return Take("hand", "Hand", "cam", (*POSITION, *TURN), packed(sent.times - sent.times[0], columns), frame=4.0)


@pytest.fixture
def recorded(free):
    """The camera with a take in use, chosen."""
    document = free.desk.document

    def change(scene):
        scene, take = edits.add_take(scene, hand_take(flaws=Flaws(jumps=30.0)))
        return edits.use_take(scene, "cam", TakeUse(take, edits.find_take(scene, take).channels, 4.0))

    assert document.edit("Take", change)
    free.desk.take_commands.choose(["hand"])
    document.turns.finish()
    return free


def takes(window):
    return window.desk.document.scene.takes


def position(window, frames=FRAMES):
    return evaluate(window.desk.document.scene, frames).position("cam")


class Clock:
    """Time as the test has it."""

    def __init__(self):
        self.now = 100.0

    def __call__(self):
        return self.now


@pytest.fixture
def recorder(free, monkeypatch):
    """The recorder with a clock of its own; playing is told by the test."""
    made = free.desk.take_commands.recorder
    made._clock = clock = Clock()
    made.count_in = False
    playback = free.desk.playback
    playing = [False]
    monkeypatch.setattr(type(playback), "is_playing", property(lambda self: playing[0]))

    def play():
        playing[0] = True
        playback.changed.emit()

    def stop():
        was, playing[0] = playing[0], False
        if was:
            playback.changed.emit()

    monkeypatch.setattr(playback, "play", play)
    monkeypatch.setattr(playback, "stop", stop)
    made.clock = clock
    return made


class TestByHand:
    def step(self, window, recorder, frame):
        recorder.clock.now += 1.0 / 24.0
        window.desk.document.playhead.set_frame(frame)

    def test_what_is_dragged_while_it_plays_is_a_take_and_no_keys(self, free, recorder, mouse):
        document, view = free.desk.document, free.desk.lens.view
        document.views.set_lens("cam")
        before = document.scene.node("cam").channels
        free.desk.actions_["camera.slide"].trigger()
        free.desk.actions_["life.record"].trigger()
        assert recorder.is_recording
        centre = QPointF(view.rect().center())
        mouse.send(view, "press", centre)
        for frame in range(1, 25):
            mouse.send(view, "move", centre + QPointF(4.0 * frame, 0.0))
            self.step(free, recorder, float(frame))
        mouse.send(view, "release", centre + QPointF(96.0, 0.0))
        free.desk.actions_["life.record"].trigger()
        assert not recorder.is_recording
        recorder.finish()
        (take,) = takes(free)
        assert take.moves
        assert not take.turns
        assert take.count > 20
        node = document.scene.node("cam")
        assert node.channels == before
        assert node.take is not None
        assert np.abs(np.diff(position(free)[:25, 0])).max() > 0.01
        document.undo()
        assert takes(free) == ()
        assert document.scene.node("cam").channels == before, "one step"

    def test_every_pass_is_a_take(self, free, recorder):
        document = free.desk.document
        recorder.start()
        for go in range(3):
            for frame in range(12):
                document.recorder.set_values("Move", {("cam", "position.y"): 0.1 * frame + go})
                self.step(free, recorder, float(frame))
        recorder.stop()
        recorder.finish()
        assert len(takes(free)) == 3
        assert document.scene.node("cam").take.take == takes(free)[-1].id
        assert document.history.undo_name.startswith("Record 3 takes")

    def test_dials_are_recorded_too(self, free, recorder):
        document = free.desk.document
        document.edit("Dial", lambda scene: wh.edits.add_dial(scene, "target", wh.Dial("push", "Push"))[0])
        document.selection.choose(["target"])
        recorder.start()
        for frame in range(12):
            document.recorder.set_values("Push", {("target", "dial.push"): 0.5 * frame})
            self.step(free, recorder, float(frame))
        recorder.stop()
        recorder.finish()
        (take,) = takes(free)
        assert take.columns == ("dial.push",)
        value = evaluate(document.scene, np.array([0.0, 8.0])).value("target", "dial.push")
        assert value[1] > value[0] + 2.0

    def test_nothing_moved_is_no_take(self, free, recorder):
        recorder.start()
        for frame in range(12):
            self.step(free, recorder, float(frame))
        recorder.stop()
        recorder.finish()
        assert takes(free) == ()
        assert "no take" in free.desk.status.text.text()

    def test_other_steps_wait_until_it_is_stopped(self, free, recorder):
        document = free.desk.document
        recorder.start()
        assert not document.edit("Rename", lambda scene: wh.edits.rename(scene, "cam", "Else"))
        assert "Stop it first" in free.desk.status.text.text()
        recorder.stop()
        recorder.finish()
        assert document.edit("Rename", lambda scene: wh.edits.rename(scene, "cam", "Else"))

    def test_it_counts_in_and_can_be_called_off(self, free, recorder, qtbot):
        recorder.count_in = True
        recorder.toggle()
        assert recorder.left == 3
        recorder._count()
        assert free.desk.lanes.page("takes").record.text() == "2"
        recorder.toggle()
        assert recorder.left == 0
        assert not recorder.is_recording


class TestTheTracker:
    @pytest.fixture
    def listening(self, recorder):
        recorder.port = 0
        recorder.set_source("tracker")
        yield recorder
        recorder.stop_listening()

    def test_without_one_it_says_what_to_start(self, free, listening):
        listening.toggle()
        assert "wild-heron tracker" in free.desk.status.text.text()
        assert not listening.is_recording

    def test_a_pass_of_the_tracker_is_a_take_that_begins_where_the_camera_stands(self, free, listening, qtbot):
        document = free.desk.document
        sent = tracked("walk", 1.5, 90.0, 3, CLEAN)
        # The recorder's clock is what the sender's is.
        clock = listening.clock
        listening.listener.close()
        listening.listener = Listener(0, clock=clock)
        begun = clock.now

        def sleep(seconds):
            clock.now += seconds
            done.wait(0.002)

        done = threading.Event()
        sender = threading.Thread(
            target=send, args=(sent, ("127.0.0.1", listening.listener.port)),
            kwargs={"clock": lambda: clock.now, "sleep": sleep},
        )  # fmt: skip
        sender.start()
        qtbot.waitUntil(lambda: listening.listener.count > 10)
        listening.start()
        assert listening.is_recording
        for frame in range(1, 30):
            qtbot.waitUntil(lambda frame=frame: clock.now >= begun + frame / 24.0 or not sender.is_alive())
            document.playhead.set_frame(float(frame))
        shown = document.evaluations.here.position("cam")[0]
        sender.join()
        listening.stop()
        listening.finish()
        (take,) = takes(free)
        assert take.moves
        assert take.turns
        assert 60 <= take.count <= len(sent.times)
        # The Lens followed while it was recorded.
        assert np.linalg.norm(shown - [1.0, 0.0, 10.0]) > 0.05
        here = position(free)
        assert np.allclose(here[int(np.ceil(take.frame))], [1.0, 0.0, 10.0], atol=0.05)
        meant = made_hand("walk", sent.times, 3).position
        gone = np.linalg.norm(here[-1] - here[0])
        assert gone == pytest.approx(np.linalg.norm(meant[-1] - meant[len(meant) - take.count]), abs=0.05)

    def test_the_tab_says_how_the_tracker_is(self, free, listening):
        panel = free.desk.lanes.page("takes")
        panel._show()
        assert "Waiting" in panel.state.text()
        listening.listener.problem = "The tracker is heard no more: gone."
        panel._show()
        assert "no more" in panel.state.text()


class TestSteps:
    def test_each_step_makes_a_take_and_keeps_the_recording(self, recorded):
        actions, first = recorded.desk.actions_, takes(recorded)[0]
        for name, step in (("life.mend", "mended"), ("life.frames", "on frames"), ("life.reverse", "backwards")):
            actions[name].trigger()
            newest = takes(recorded)[-1]
            assert newest.step == step
            assert recorded.desk.take_commands.chosen == (newest.id,)
            assert recorded.desk.document.scene.node("cam").take.take == newest.id
        assert takes(recorded)[0] is first
        assert [take.source for take in takes(recorded)] == [None, "hand", "hand-2", "hand-2-2"]

    def test_steadying_again_goes_back_to_what_it_was_made_from(self, recorded):
        actions, commands = recorded.desk.actions_, recorded.desk.take_commands
        actions["life.light"].trigger()
        light = takes(recorded)[-1]
        actions["life.strong"].trigger()
        assert len(takes(recorded)) == 2
        strong = takes(recorded)[-1]
        assert strong.step == "steadied, strong"
        assert strong.samples != light.samples
        commands.set_touch(1.0)
        assert len(takes(recorded)) == 2
        assert takes(recorded)[-1].samples != strong.samples

    def test_fewest_keys_and_then_keys(self, recorded, qtbot):
        document, commands = recorded.desk.document, recorded.desk.take_commands
        recorded.desk.actions_["life.firm"].trigger()
        smooth = position(recorded)
        commands.fewest(Closeness(0.01, 0.1, 2.0))
        qtbot.waitUntil(lambda: not commands.is_thinning)
        assert takes(recorded)[-1].count < 40
        assert np.abs(position(recorded) - smooth).max() < 0.011
        shown = position(recorded)
        commands.to_keys()
        assert np.abs(position(recorded) - shown).max() < 0.003
        assert not document.scene.node("cam").take.on
        recorded.desk.actions_["life.back"].trigger()
        assert document.scene.node("cam").take.on
        assert np.abs(position(recorded) - shown).max() < 1e-9

    def test_the_row_says_how_it_compares(self, recorded):
        view = recorded.desk.lanes.page("takes").view
        recorded.desk.actions_["life.firm"].trigger()
        recorded.desk.document.turns.finish()
        (words,) = view.words.values()
        assert "shake" in words
        assert "px" in words

    def test_two_takes_are_joined(self, recorded, monkeypatch):
        document, commands = recorded.desk.document, recorded.desk.take_commands
        commands.join(0.5)
        assert "Choose two" in recorded.desk.status.text.text()
        document.edit("Another", lambda scene: edits.add_take(scene, hand_take("look", 2.0, 5))[0])
        other = takes(recorded)[-1]
        commands.choose([other.id, "hand"])
        monkeypatch.setattr(QInputDialog, "getDouble", lambda *a, **k: (0.5, True))
        commands.join()
        assert takes(recorded)[-1].seconds == pytest.approx(3.5, abs=0.05)

    def test_deleting_the_take_in_use_goes_back_to_the_keys(self, recorded):
        recorded.desk.actions_["life.remove_take"].trigger()
        assert takes(recorded) == ()
        assert position(recorded)[20, 0] == pytest.approx(2.0)
        recorded.desk.document.undo()
        assert len(takes(recorded)) == 1


class TestUse:
    def test_it_is_mixed_with_the_keys_by_its_strength(self, recorded):
        document = recorded.desk.document
        taken = position(recorded)
        document.edit("Half", lambda scene: wh.edits.set_value(scene, "cam", "take.strength", 0.5))
        half = position(recorded)
        document.edit("None", lambda scene: wh.edits.set_value(scene, "cam", "take.strength", 0.0))
        keyed = position(recorded)
        assert np.allclose(half, 0.5 * (taken + keyed))
        assert keyed[20, 0] == pytest.approx(2.0)

    def test_it_is_moved_turned_sized_and_sped_up_as_a_whole(self, recorded):
        document, commands = recorded.desk.document, recorded.desk.take_commands
        plain = position(recorded)
        commands.change_use("move", move=(1.0, 2.0, 3.0))
        assert np.allclose(position(recorded) - plain, [1.0, 2.0, 3.0])
        commands.change_use("move", move=(0.0, 0.0, 0.0), size=2.0)
        assert np.allclose(position(recorded), 2.0 * plain)
        commands.change_use("turn", size=1.0, turn=(0.0, 90.0, 0.0))
        assert np.allclose(position(recorded), plain @ np.array([[0.0, 0, -1.0], [0, 1.0, 0], [1.0, 0, 0]]))
        commands.change_use("speed", turn=(0.0, 0.0, 0.0), speed=2.0, start=4.0)
        assert np.allclose(position(recorded, np.array([14.0])), plain[24:25])
        fields = recorded.desk.inspector
        fields.show_movers(True)
        fields.properties["take speed"].edited.emit(1.0, False)
        assert document.scene.node("cam").take.speed == 1.0

    def test_its_row_is_dragged_in_time_as_one_step(self, recorded, mouse):
        view = recorded.desk.lanes.page("takes").view
        document = recorded.desk.document
        at = QPointF(view.axis.x(20.0), view.row_top(0) + 20)
        pixels = view.axis.pixels_per_frame
        mouse.drag(view, at, (pixels * 3, 0), (pixels * 7.9, 0))
        assert document.scene.node("cam").take.start == 12.0
        document.undo()
        assert document.scene.node("cam").take.start == 4.0

    def test_a_double_click_uses_it_or_goes_back_to_the_keys(self, recorded, mouse):
        view, document = recorded.desk.lanes.page("takes").view, recorded.desk.document
        at = QPointF(LABELS - 100, view.row_top(0) + 20)
        mouse.send(view, "double", at)
        assert document.scene.node("cam").take is None
        mouse.send(view, "double", at)
        assert document.scene.node("cam").take.take == "hand"

    def test_two_are_seen_side_by_side(self, recorded):
        document = recorded.desk.document
        recorded.desk.actions_["life.firm"].trigger()
        recorded.desk.take_commands.choose(["hand"])
        recorded.desk.actions_["life.compare"].trigger()
        assert document.versions.kept is not None
        assert document.versions.kept.node("cam").take.take == "hand"
        assert recorded.desk.lens.view.comparison.on

    def test_an_aimed_camera_is_told_that_its_aim_decides(self, recorded):
        document = recorded.desk.document
        document.edit("Aim", lambda scene: wh.edits.set_aim(scene, "cam", wh.AimAt(("target",))))
        recorded.desk.actions_["life.use"].trigger()
        recorded.desk.actions_["life.use"].trigger()
        assert "aim still decides" in recorded.desk.status.text.text()


class TestFiles:
    def test_a_table_goes_out_and_comes_back(self, recorded, tmp_path):
        path = tmp_path / "hand.csv"
        commands = recorded.desk.take_commands
        commands.export(path)
        assert path.read_text().startswith("seconds,x,y,z,qx,qy,qz,qw\n")
        commands.bring(path)
        back = takes(recorded)[-1]
        assert np.allclose(back.table(), takes(recorded)[0].table(), atol=1e-12)
        assert recorded.desk.document.scene.node("cam").take.take == back.id

    @pytest.mark.parametrize(
        ("text", "why"),
        [
            ("", "empty"),
            ("x,y,z\n1,2,3\n", "no column of seconds"),
            ("seconds,x,y\n0,1,2\n1,1,2\n", "fewer than three"),
            ("seconds,x,y,z\n0,1,2,3\n1,1,nan,3\n", "line 3"),
            ("seconds,x,y,z\n0,1,2,3\n1,1,1e300,3\n", "beyond all measure in line 3"),
            ("seconds,x,y,z,qx\n0,1,2,3,0\n1,1,2,3,0\n", "not the rest of a rotation"),
            ("seconds,qx,qy,qz,qw\n0,0,0,0,0\n1,0,0,0,1\n", "all four numbers are 0"),
            ("seconds,x,y,z\n0,1,2,3\n", "fewer than two lines"),
            ("seconds,Not A Channel!\n0,1\n1,2\n", "which no channel is called"),
            ("frame,rx,ry,rz\n0,0,0,0\n1,0,hello,0\n", "line 3"),
        ],
    )
    def test_a_table_that_is_none_is_refused_with_its_line(self, free, tmp_path, text, why):
        path = tmp_path / "odd.csv"
        path.write_text(text)
        free.desk.take_commands.bring(path)
        assert takes(free) == ()
        said = free.desk.status.text.text()
        assert "odd.csv" in said
        assert why in said

    def test_frames_and_angles_do_as_well(self, free, tmp_path):
        path = tmp_path / "table.csv"
        path.write_text("frame;x;y;z;rx;ry;rz\n" + "".join(f"{k};{k};0;0;0;{3 * k};0\n" for k in range(30)))
        free.desk.take_commands.bring(path)
        here = evaluate(free.desk.document.scene, np.array([12.0]))
        assert here.value("cam", "position.x")[0] == pytest.approx(12.0)
        assert here.value("cam", "rotation.y")[0] == pytest.approx(36.0)

    def test_it_is_saved_and_opened_with_the_scene(self, recorded, tmp_path):
        path = tmp_path / "with takes.heron"
        wh.save(recorded.desk.document.scene, path)
        assert wh.load(path) == recorded.desk.document.scene


def test_a_chord_opens_the_tab_and_nothing_is_recorded_of_nothing(window, qtbot):
    document = window.desk.document
    window.desk.lens.view.setFocus()
    chord(window.desk.lens.view, "VA")
    assert window.desk.lanes.shown == "takes"
    document.edit("Lock", lambda scene: wh.edits.change_node(scene, "cam", locked=True))
    document.selection.choose(["cam"])
    window.desk.actions_["life.record"].trigger()
    assert "locked" in window.desk.status.text.text()
    assert not window.desk.take_commands.recorder.is_busy
    qtbot.keyClick(window.desk.lens.view, Qt.Key.Key_Escape)
