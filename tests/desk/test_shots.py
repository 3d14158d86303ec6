"""The Shots tab in the real window: cutting, rolling, blending, the shelf, live switching, sound and events."""

import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtWidgets import QInputDialog

import wild_heron as wh
from tests.desk.conftest import chord
from tests.files.sounds import clicks, write_wave
from wild_heron.desk.timeline.axis import RULER
from wild_heron.scene import Blend, Cut, Shot


@pytest.fixture
def film(window, rig):
    """The window on a film: three cameras, two cuts and a blend; the Shots tab is in front."""
    document = window.desk.document

    def more(scene):
        for name, x in (("two", 4.0), ("three", -4.0)):
            scene = wh.edits.add_node(scene, wh.Camera(id=name, name=name.capitalize(), binds=(wh.AimAt(("target",)),)))
            scene = wh.edits.set_value(scene, name, "position.x", x)
            scene = wh.edits.set_value(scene, name, "position.z", 9.0)
        shots = (Shot("A", "cam"), Shot("B", "two", 16.0), Shot("C", "three", 32.0, join=Blend(8.0)))
        return wh.edits.with_shots(scene, shots)

    assert document.edit("Film", more)
    window.desk.actions_["view.shots"].trigger()
    document.turns.finish()
    return window


@pytest.fixture
def view(film):
    return film.desk.lanes.shots.view


def firsts(window) -> list[float]:
    return [shot.first for shot in window.desk.document.scene.shots]


def on_film(view, frame: float) -> QPointF:
    return QPointF(view.axis.x(frame), view.row("film").center().y() + 14)


class TestTheFilm:
    def test_a_join_is_rolled_and_snaps_and_ripples(self, film, view, mouse):
        document = film.desk.document
        pixels = view.axis.pixels_per_frame
        mouse.drag(view, on_film(view, 16.0), (pixels * 2, 0), (pixels * 5.3, 0))
        assert firsts(film) == [0.0, 21.0, 32.0]
        document.undo()
        assert firsts(film) == [0.0, 16.0, 32.0], "one step"
        document.edit("Marker", lambda scene: wh.edits.set_marker(scene, 19.0, "here"))
        mouse.drag(view, on_film(view, 16.0), (pixels * 3.3, 0))
        assert firsts(film)[1] == 19.0
        document.undo()
        mouse.drag(view, on_film(view, 16.0), (pixels * 4, 0), keys=Qt.KeyboardModifier.ShiftModifier)
        assert firsts(film) == [0.0, 20.0, 36.0]
        assert document.scene.settings.last == 52
        assert document.scene.node("turn").channel("rotation.y").keys[-1].frame == 52.0

    def test_escape_takes_a_roll_back(self, film, view, mouse, qtbot):
        mouse.drag(view, on_film(view, 16.0), (60, 0), release=False)
        assert firsts(film) != [0.0, 16.0, 32.0]
        qtbot.keyClick(view, Qt.Key.Key_Escape)
        assert firsts(film) == [0.0, 16.0, 32.0]

    def test_the_end_of_a_blend_is_dragged(self, film, view, mouse):
        box = view.blend_rect(2)
        pixels = view.axis.pixels_per_frame
        mouse.drag(view, QPointF(box.right(), box.center().y()), (pixels * 3, 0))
        assert film.desk.document.scene.shots[2].join.length == pytest.approx(14.0)

    def test_shots_are_selected_moved_and_deleted(self, film, view, mouse, qtbot):
        document = film.desk.document
        mouse.drag(view, on_film(view, 8.0))
        assert document.selection.shots == (0,)
        mouse.drag(view, on_film(view, 24.0), keys=Qt.KeyboardModifier.ControlModifier)
        assert document.selection.shots == (0, 1)
        mouse.drag(view, on_film(view, 8.0), (40, 0), (view.axis.pixels_per_frame * 18, 0))
        assert [shot.camera for shot in document.scene.shots] == ["two", "cam", "three"]
        document.undo()
        document.selection.choose_shots([1])
        view.setFocus()
        qtbot.keyClick(view, Qt.Key.Key_Delete)
        assert [shot.camera for shot in document.scene.shots] == ["cam", "three"]
        document.undo()
        assert len(document.scene.shots) == 3

    def test_cutting_from_the_keyboard(self, film):
        document = film.desk.document
        document.playhead.set_frame(6)
        chord(film, "FC")
        # The next camera in turn, but for the one that follows anyway.
        assert [shot.camera for shot in document.scene.shots] == ["cam", "three", "two", "three"]
        assert document.selection.shots == (1,)
        chord(film, "FJ")
        assert isinstance(document.scene.shots[1].join, Blend)
        document.playhead.set_frame(24)
        chord(film, "FS")
        assert len(document.scene.shots) == 5
        chord(film, "FP")
        assert document.playhead.frame == 16.0
        chord(film, "FN")
        assert document.playhead.frame == 24.0

    def test_a_shot_is_changed_in_the_inspector(self, film, qtbot):
        document, inspector = film.desk.document, film.desk.inspector
        document.selection.choose_shots([1])
        name = inspector.properties["Name of the shot"]
        name.setText("Closer")
        name.editingFinished.emit()
        assert document.scene.shots[1].name == "Closer"
        join = inspector.properties["How it follows on the shot before it"]
        join.setCurrentIndex(1)
        join.activated.emit(1)
        assert isinstance(document.scene.shots[1].join, Blend)
        way = inspector.properties["How it goes from one camera to the other"]
        way.setCurrentIndex(2)
        way.activated.emit(2)
        assert document.scene.shots[1].join.way == "round"
        document.undo()
        document.undo()
        assert isinstance(document.scene.shots[1].join, Cut)

    def test_the_lens_shows_the_film_or_a_camera(self, film):
        document, lens = film.desk.document, film.desk.lens
        document.playhead.set_frame(20)
        assert lens.name.text() == "B · Two ▾"
        assert document.views.camera.id == "two"
        document.look_through("three")
        assert lens.name.text() == "Three ▾"
        assert lens.view.wish.view.camera == "three"
        chord(film, "FF")
        assert lens.view.wish.view.camera is None

    def test_a_run_of_cuts_is_shown_before_it_is_made(self, film):
        from wild_heron.desk.dialogs.run_of_cuts import RunOfCutsDialog

        document = film.desk.document
        dialog = RunOfCutsDialog(document, film)
        for field, text in ((dialog.first, "20"), (dialog.last, "32"), (dialog.every, "8/2"), (dialog.held, "0")):
            field.setText(text)
        assert len(document.views.moving.shots) == 6
        assert len(document.scene.shots) == 3
        dialog.every.setText("0")
        assert "frame at the least" in dialog.line.text()
        dialog.every.setText("4")
        dialog.accept()
        assert firsts(film) == [0.0, 16.0, 20.0, 24.0, 28.0, 32.0]
        document.undo()
        assert firsts(film) == [0.0, 16.0, 32.0]

    def test_moving_at_the_cut_makes_the_picture_move(self, film):
        from wild_heron.evaluate.picture_speed import picture_speed

        document = film.desk.document
        keys = [("two", "position.x", 16.0, 4.0), ("two", "position.x", 32.0, 7.0)]
        for node, name, frame, value in keys:
            document.edit("Key", lambda s, n=node, c=name, f=frame, v=value: wh.edits.set_key(s, n, c, f, v))
        frames = np.arange(16.0, 32.0)
        before = picture_speed(document.scene, frames).middle
        assert before[0] < 0.06 * before.max()
        document.selection.choose_shots([1])
        chord(film, "FV")
        after = picture_speed(document.scene, frames).middle
        assert after[0] > 0.08 * after.max()

    def test_joining_rules_join_new_cuts(self, film):
        from wild_heron.desk.dialogs.joining_rules import JoiningRulesDialog

        document = film.desk.document
        dialog = JoiningRulesDialog(document, film)
        dialog.add()
        assert document.scene.rules[0].before is None
        dialog.rows[0]["length"].setText("0.25")
        dialog.rows[0]["length"].editingFinished.emit()
        document.playhead.set_frame(24)
        document.selection.choose(["cam"])
        chord(film, "FC")
        made = next(shot for shot in document.scene.shots if shot.first == 24.0)
        assert (made.join.length, made.join.unit) == (0.25, "seconds")
        dialog.close()


class TestTheShelf:
    def test_framings_are_kept_gone_to_updated_and_reordered(self, film, mouse):
        document, shelf = film.desk.document, film.desk.lanes.shots.shelf
        document.selection.clear()
        for frame in (0, 20, 40):
            document.playhead.set_frame(frame)
            document.selection.choose([])
            chord(film, "FK")
        assert [card.node.name for card in shelf.cards] == ["Framing 1", "Framing 2", "Framing 3"]
        film.desk.framing_commands.move("framing-3", 0)
        assert [card.node.name for card in shelf.cards] == ["Framing 3", "Framing 1", "Framing 2"]
        document.undo()
        document.playhead.set_frame(0)
        document.selection.choose(["framing-2"])
        chord(film, "FZ")
        here = document.evaluations.here
        assert here.camera("framing-2").pose == pytest.approx(here.camera("framing-1").pose, abs=1e-6)
        document.undo()
        document.edit("Free it", lambda s: wh.edits.change_node(s, "cam", binds=(), carrier=None))
        document.selection.choose(["cam"])
        document.selection.choose(["framing-2"])
        chord(film, "FG")
        here = document.evaluations.here
        assert here.camera("cam").pose == pytest.approx(here.camera("framing-2").pose, abs=1e-6)
        document.selection.choose(["framing-2"])
        film.desk.delete()
        assert len(shelf.cards) == 2

    def test_a_glide_changes_nothing(self, film, qtbot):
        document = film.desk.document
        document.playhead.set_frame(20)
        document.selection.choose([])
        chord(film, "FK")
        scene = document.scene
        document.playhead.set_frame(0)
        film.desk.framing_commands.glide("framing-1")
        qtbot.waitUntil(lambda: document.views.is_proposing, timeout=5000)
        qtbot.waitUntil(lambda: document.views.lens == "framing-1", timeout=5000)
        assert document.scene is scene
        assert not document.views.is_proposing

    def test_a_tour_is_played_through(self, film):
        document = film.desk.document
        for frame in (0, 20):
            document.playhead.set_frame(frame)
            document.selection.choose([])
            chord(film, "FK")
        document.playhead.set_frame(0)
        document.selection.choose(["three"])
        chord(film, "FH")
        place = document.scene.node("three").channel("tour.place")
        assert [key.value for key in place.keys] == [0.0, 0.0, 1.0]
        end = place.keys[-1].frame
        here = wh.evaluate(document.scene, end)
        assert here.camera("three").pose.tobytes() == here.camera("framing-2").pose.tobytes()


class TestLive:
    def test_standing_still_the_keys_only_choose_what_is_shown(self, film, view, qtbot):
        document = film.desk.document
        chord(film, "FL")
        assert film.desk.live.on
        view.setFocus()
        scene = document.scene
        qtbot.keyClick(view, Qt.Key.Key_2)
        assert document.views.lens == "two"
        qtbot.keyClick(view, Qt.Key.Key_Return)
        assert document.views.lens == "three"
        qtbot.keyClick(view, Qt.Key.Key_Backspace)
        assert document.views.lens == "two"
        assert document.scene is scene
        chord(film, "FL")
        qtbot.keyClick(view, Qt.Key.Key_3)
        assert document.views.lens == "two", "while it is off the keys are the tools' again"

    def test_a_pass_is_one_step_over_what_was(self, film, view, qtbot, monkeypatch):
        desk, document = film.desk, film.desk.document
        desk.live.set_on(True)
        view.setFocus()
        clock = [0.0]
        monkeypatch.setattr("wild_heron.desk.state.playback.time.perf_counter", lambda: clock[0])
        document.playhead.set_loop(False)
        desk.playback.play()
        for frame, key in ((4.0, Qt.Key.Key_3), (10.0, Qt.Key.Key_2), (22.0, Qt.Key.Key_1)):
            clock[0] = (frame + 0.5) / 24.0
            qtbot.waitUntil(lambda frame=frame: document.playhead.frame == frame, timeout=5000)
            monkeypatch.setattr(desk.lens.view, "shown_frame", frame)
            qtbot.keyClick(view, key)
        desk.playback.stop()
        shots = document.scene.shots
        assert [(shot.camera, shot.first) for shot in shots] == [
            ("cam", 0.0), ("three", 4.0), ("two", 10.0), ("cam", 22.0), ("three", 32.0),
        ]  # fmt: skip
        assert [kept.name for kept in document.scene.passes] == ["Before", "Pass 1"]
        document.undo()
        assert [shot.first for shot in document.scene.shots] == [0.0, 16.0, 32.0]
        document.redo()
        desk.shot_commands.take_pass(document.scene.passes[0])
        assert [shot.first for shot in document.scene.shots] == [0.0, 16.0, 32.0]


class TestSound:
    @pytest.fixture
    def sounding(self, film, art, qtbot):
        """The film with a click track of 120 beats a minute."""
        write_wave(art / "clicks.wav", clicks(120.0, 12.0))
        film.desk.sound_commands.bring(art / "clicks.wav")
        heard = film.desk.document.heard
        qtbot.waitUntil(lambda: "clicks.wav" in heard.outlines, timeout=20_000)
        return film

    def test_it_is_seen_and_its_beats_are_found(self, sounding, qtbot):
        document = sounding.desk.document
        loud = document.heard.loudness(document.scene, np.arange(0.0, 49.0))
        assert loud.max() > 0.5
        chord(sounding, "PB")
        qtbot.waitUntil(lambda: document.scene.beats is not None, timeout=20_000)
        assert document.scene.beats.tempo == pytest.approx(120.0, abs=0.5)
        document.undo()
        assert document.scene.beats is None

    def test_markers_fall_on_every_nth_beat_and_cuts_on_them(self, sounding, monkeypatch):
        document = sounding.desk.document
        sounding.desk.sound_commands.change_beats("Beats", tempo=120.0, first=0.0)
        monkeypatch.setattr(QInputDialog, "getInt", lambda *args: (2, True))
        chord(sounding, "PK")
        assert [marker.frame for marker in document.scene.markers] == [0.0, 24.0, 48.0]
        assert {marker.kind for marker in document.scene.markers} == {"beat"}
        document.selection.choose([])
        sounding.desk.shot_commands.at_markers("beat")
        assert {24.0, 48.0} <= set(firsts(sounding))

    def test_a_broken_sound_is_named_and_nothing_is_lost(self, film, art):
        (art / "broken.wav").write_bytes(b"RIFF0000WAVEnothing")
        scene = film.desk.document.scene
        film.desk.sound_commands.bring(art / "broken.wav")
        assert "broken.wav" in film.desk.status.line.text() if hasattr(film.desk.status, "line") else True
        assert film.desk.document.scene is scene

    def test_tapping_sets_the_tempo(self):
        from wild_heron.desk.commands.sound_commands import tapped

        beats = tapped([(0.5 * k, 12.0 * k + 3.0) for k in range(6)], 24.0, None, True)
        assert (beats.tempo, beats.first) == (120.0, 3.0)


class TestEvents:
    def test_an_event_is_made_told_and_made_plain(self, film, view, mouse):
        document, inspector = film.desk.document, film.desk.inspector
        document.playhead.set_frame(20)
        document.selection.choose([])
        film.desk.actions_["film.event"].trigger()
        assert document.selection.film_event == 0
        camera = inspector.properties["What it shows"]
        camera.setCurrentIndex(camera.findData("three"))
        camera.activated.emit(camera.currentIndex())
        hold = inspector.properties["held for"]
        hold.edited.emit(0.25, False)
        document.playhead.set_frame(22)
        assert document.evaluations.seen.position == pytest.approx(document.evaluations.here.camera("three").position)
        mouse.drag(view, view.event_rect(20.0, 26.0).center())
        assert document.selection.film_event == 0
        film.desk.actions_["film.plain"].trigger()
        assert [(shot.camera, shot.first) for shot in document.scene.shots] == [
            ("cam", 0.0), ("two", 16.0), ("three", 20.0), ("two", 26.0), ("three", 32.0),
        ]  # fmt: skip
        assert document.scene.events == ()

    def test_one_that_depends_on_the_output_is_refused(self, film):
        document = film.desk.document
        document.edit("Bind", lambda s: wh.edits.add_bind(s, "card", wh.FaceCamera("@output"))[0])
        document.selection.choose(["card"])
        before = document.scene
        film.desk.actions_["film.event"].trigger()
        assert document.scene is before


def test_chapters_and_kinds_of_markers(film, view):
    document = film.desk.document
    document.playhead.set_frame(10)
    film.desk.marker_commands.add()
    film.desk.marker_commands.toggle_kind("chapter")
    assert document.scene.markers[0].kind == "chapter"
    held = view.ruler.what_at(QPointF(view.axis.x(10.0) + 3, RULER - 12), view.axis)
    assert held.what == "marker"
    film.desk.marker_commands.toggle_kind("chapter")
    assert document.scene.markers[0].kind == "moment"


def test_the_film_survives_saving(film, art):
    path = art / "film.heron"
    wh.save(film.desk.document.scene, path)
    assert wh.load(path) == film.desk.document.scene


def test_small_pictures_go_before_frames_that_are_drawn_ahead(film, qtbot):
    desk = film.desk
    desk.lanes.shots.view.repaint()
    qtbot.waitUntil(lambda: desk.small.is_drawing)
    desk.previews.set_megabytes(500)
    held = len(desk.previews.shown.held)
    qtbot.waitUntil(lambda: not desk.small.is_drawing, timeout=30_000)
    # The frame that is seen, and one that was under way.
    assert len(desk.previews.shown.held) <= held + 2
    qtbot.waitUntil(lambda: len(desk.previews.shown.held) > held + 4, timeout=30_000)


def test_a_film_whose_camera_is_deleted_goes_on(film):
    document = film.desk.document
    document.selection.choose(["two"])
    film.desk.delete()
    assert [shot.camera for shot in document.scene.shots] == ["cam", "three"]
    document.undo()
    assert len(document.scene.shots) == 3
