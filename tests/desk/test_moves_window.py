"""Moves in the real window: kept, listed as small films, put, fitted and offered."""

import pytest
from msgspec.structs import replace
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QApplication

import wild_heron as wh
from wild_heron import edits
from wild_heron.desk.dialogs.keep_move_dialog import KeepMoveDialog
from wild_heron.desk.moves.library import listed
from wild_heron.desk.moves.moves_window import MovesWindow
from wild_heron.edits import moves
from wild_heron.edits.rigs import FrameRange
from wild_heron.files.move_files import file_for, save_move, shipped_moves, user_folder

PUSH = shipped_moves()[0].move


def small_set(back: int = 3000) -> wh.Scene:
    """A sign before a wall, and a camera with a move of its own."""
    wall = wh.Picture(id="wall", name="Wall", artwork=wh.Solid("#46525a"), width=back, height=back * 9 // 16,
                      channels=(wh.Channel("position.z", -1.0),))  # fmt: skip
    sign = wh.Picture(id="sign", name="Sign", artwork=wh.Solid("#f2c25b"), width=300, height=200)
    way = wh.Channel("position.z", 12.0, (wh.Key(0.0, 12.0), wh.Key(40.0, 8.0)))
    camera = wh.Camera(id="cam", name="Cam", channels=(way,), binds=(wh.AimAt(("sign",)),))
    return wh.Scene(settings=wh.Settings(width=640, height=360, last=47), nodes=(wall, sign, camera), camera="cam")


@pytest.fixture
def moves_of(window, qtbot):
    """The window with a small set; opens the Moves window by its action."""
    document = window.desk.document
    for path in user_folder().glob("*.move"):
        path.unlink()
    document.reset(small_set(), None)

    def opened(name: str = "library") -> MovesWindow:
        window.desk.actions_[f"camera.{name}"].trigger()
        found = next(
            each for each in QApplication.topLevelWidgets() if isinstance(each, MovesWindow) and not each.is_left
        )
        return found

    opened.document = document
    yield opened
    for each in QApplication.topLevelWidgets():
        if isinstance(each, MovesWindow | KeepMoveDialog) and not each.is_left:
            each.close()


def rows(sheet) -> list[str]:
    return [sheet.item(k).text() for k in range(sheet.count())]


def test_every_move_is_listed_and_looked_for_by_word(moves_of, qtbot):
    found = moves_of()
    assert len(rows(found.sheet)) == len(shipped_moves())
    assert found.options.subject.currentText() == "Sign"
    qtbot.keyClicks(found.search, "round evenly")
    assert rows(found.sheet) == ["Full turn"]
    qtbot.keyClicks(found.search, " zzz")
    assert rows(found.sheet) == []
    assert "No move answers" in found.line.text()
    assert not found.put_button.isEnabled()


def test_a_film_of_each_is_made_with_the_users_own_artwork(moves_of, qtbot):
    found = moves_of()
    qtbot.keyClicks(found.search, "drift left")
    qtbot.waitUntil(lambda: len(found.films.films.get(0, [])) == 10, timeout=60_000)
    first, last = (found.films.films[0][k].toImage() for k in (0, -1))
    assert first != last
    assert found.sheet.film_of(0) is not None


def test_a_click_proposes_and_return_puts_it_as_one_step(moves_of, qtbot):
    document, found = moves_of.document, moves_of()
    before = document.scene
    item = found.sheet.item(1)
    place = found.sheet.visualItemRect(item).center()
    qtbot.mouseClick(found.sheet.viewport(), Qt.MouseButton.LeftButton, pos=QPoint(place))
    assert found.name.text() == item.text() == "Pull out"
    assert document.scene is before
    assert document.views.is_proposing
    assert any(node.name.startswith("Pull out") for node in document.views.moving.nodes)
    qtbot.keyClick(found.sheet, Qt.Key.Key_Return)
    assert document.history.undo_name == "Pull out on Sign"
    made = [node.name for node in document.scene.nodes if node not in before.nodes]
    assert made == ["Pull out", "Pull out camera"]
    assert document.scene.camera == "pull-out-camera"
    assert not document.views.is_proposing
    document.undo()
    assert document.scene == before


def test_arrows_go_through_the_cards_and_escape_leaves_all_as_it_was(moves_of, qtbot):
    document, found = moves_of.document, moves_of()
    found.sheet.setFocus()
    qtbot.waitUntil(lambda: found.sheet.visualItemRect(found.sheet.item(2)).left() > 200)
    qtbot.keyClick(found.sheet, Qt.Key.Key_Right)
    qtbot.keyClick(found.sheet, Qt.Key.Key_Right)
    assert found.name.text() == "Drift left"
    scene = document.scene
    qtbot.keyClick(found, Qt.Key.Key_Escape)
    assert document.scene is scene
    assert not document.views.is_proposing


def test_its_options_are_typed_and_told_where_they_do_not_go(moves_of, qtbot):
    document, found = moves_of.document, moves_of()
    found.options.distance.edited.emit(2.0, False)
    found.options.side.edited.emit(30.0, False)
    base = document.views.moving.node("push-in")
    assert base.channel("rotation.y").value == 30.0
    assert base.channel("scale.x").value == pytest.approx(2.0 * 2.0)
    found.options.length.setCurrentIndex(found.options.length.findData("marker"))
    found.options.length.activated.emit(2)
    assert "no marker" in found.line.text()
    assert not found.put_button.isEnabled()
    document.edit("Marker", lambda scene: replace(scene, markers=(wh.Marker(20.0, "Here"),)))
    assert found.put_button.isEnabled()
    found.take()
    assert [shot.first for shot in document.scene.shots] == [0.0, 21.0]


def test_what_is_edited_meanwhile_is_kept(moves_of, qtbot):
    document, found = moves_of.document, moves_of()
    document.edit("Move the sign", lambda scene: edits.set_value(scene, "sign", "position.x", 1.0))
    found.take()
    assert document.scene.node("push-in").channel("position.x").value == pytest.approx(1.0)
    assert document.scene.node("sign").channel("position.x").value == 1.0


def test_a_subject_without_size_is_asked_for_its_height(moves_of, qtbot):
    document = moves_of.document
    document.edit("Null", lambda scene: edits.add_node(scene, wh.Null(id="spot", name="Spot")))
    found = moves_of()
    assert not found.options.reach.isVisible()
    found.options.choose_subject("spot")
    assert found.options.reach.isVisible()
    found.options.reach.edited.emit(5.0, False)
    assert document.views.moving.node("push-in").channel("scale.x").value == 5.0


def test_offers_are_fitted_ranked_and_the_same_again(moves_of, qtbot):
    document = moves_of.document
    document.reset(small_set(1500), None)
    found = moves_of("offer")
    qtbot.waitUntil(lambda: not found.films.is_making, timeout=240_000)
    names = rows(found.sheet)
    assert len(names) == 12
    assert len(set(names)) > 5
    clean = [found._offers[number].is_clean for number in found.sheet._order]
    assert clean == sorted(clean, reverse=True)
    assert any(found._offers[number].fitted.change.amount > 0.0 for number in found.sheet._order)
    fitted = found._offers[found.sheet._order[0]].fitted
    found.sheet.setCurrentRow(1)
    found.sheet.setCurrentRow(0)
    found.take()
    assert document.scene == fitted.built[0]


def test_a_camera_s_own_move_is_kept_and_comes_back(moves_of, window, qtbot):
    document = moves_of.document
    window.desk.actions_["camera.keep_move"].trigger()
    dialog = next(
        each for each in QApplication.topLevelWidgets() if isinstance(each, KeepMoveDialog) and not each.is_left
    )
    assert (dialog.camera.currentText(), dialog.subject.currentText()) == ("Cam", "Sign")
    dialog.name.selectAll()
    qtbot.keyClicks(dialog.name, "Our push")
    qtbot.keyClicks(dialog.tags, "bold, ours")
    dialog.in_scene.click()
    qtbot.mouseClick(dialog.keep_button, Qt.MouseButton.LeftButton)
    assert document.history.undo_name == "Keep the move Our push"
    mine = [each for each in listed(document.scene)[0] if each.source != "shipped"]
    assert [(each.move.name, each.source, each.move.tags) for each in mine] == [
        ("Our push", "scene", ("bold", "ours")), ("Our push", "mine", ("bold", "ours")),
    ]  # fmt: skip
    found = moves_of()
    found.source.setCurrentIndex(found.source.findData("mine"))
    found.source.activated.emit(2)
    assert rows(found.sheet) == ["Our push"]
    found.rename("Push in")
    assert "already" in found.line.text()
    found.rename("Their push")
    assert rows(found.sheet) == ["Their push"]
    assert [path.name for path in user_folder().glob("*.move")] == ["Our-push.move"]
    qtbot.mouseClick(found.remove_button, Qt.MouseButton.LeftButton)
    assert rows(found.sheet) == []
    assert not list(user_folder().glob("*.move"))


def test_what_cannot_be_kept_says_why(moves_of, window, qtbot):
    moves_of.document.edit("Free", lambda scene: edits.set_aim(scene, "cam", None))
    moves_of.document.edit("Carry", lambda scene: scene.with_node(replace(scene.node("sign"), carrier="cam")))
    window.desk.actions_["camera.keep_move"].trigger()
    dialog = next(
        each for each in QApplication.topLevelWidgets() if isinstance(each, KeepMoveDialog) and not each.is_left
    )
    dialog.subject.setCurrentIndex(dialog.subject.findData("sign"))
    dialog.subject.activated.emit(0)
    assert "goes where Cam goes" in dialog.line.text()
    assert not dialog.keep_button.isEnabled()


def test_in_a_film_it_begins_with_the_shot_at_the_playhead(moves_of, window, qtbot):
    """Aimed at a null, which has no size: the subject is what is to stay in the frame."""
    document, scene = moves_of.document, small_set()
    null = wh.Null(id="mark", name="Mark")
    cameras = [replace(scene.node("cam"), id=each, name=each, binds=(wh.AimAt(("mark",)),)) for each in ("a", "b")]
    shots = (wh.Shot("A", "a"), wh.Shot("B", "b", 30.0))
    film = replace(scene, nodes=(*scene.nodes[:2], null, *cameras), camera="a", shots=shots)
    document.reset(replace(film, checks=replace(film.checks, subjects=(wh.Subject("sign"),))), None)
    window.desk.actions_["camera.keep_move"].trigger()
    dialog = next(
        each for each in QApplication.topLevelWidgets() if isinstance(each, KeepMoveDialog) and not each.is_left
    )
    assert (dialog.subject.currentText(), dialog.first.text(), dialog.last.text()) == ("Sign", "0", "29")
    assert dialog.keep_button.isEnabled()
    dialog.close()
    found = moves_of()
    options = found.options
    assert (options.subject.currentText(), options.first.value, options.last.value) == ("Sign", 0.0, 29.0)
    assert found.put_button.isEnabled()
    options.last.edited.emit(40.0, False)
    assert "inside the range" in found.line.text()
    options.filmed.click()
    assert found.put_button.isEnabled()
    found.take()
    assert document.scene.shots == shots
    assert document.views.camera_id == "push-in-camera"


def test_a_damaged_file_among_ones_own_is_told_and_the_others_are_there(moves_of):
    save_move(replace(PUSH, name="Mine"), file_for("Mine", user_folder()))
    (user_folder() / "bad.move").write_text("{")
    found = moves_of()
    assert "bad.move" in found.line.text()
    assert "Mine" in rows(found.sheet)


def test_it_is_closed_while_films_are_made(moves_of, qtbot):
    document, found = moves_of.document, moves_of("offer")
    qtbot.wait(1)
    found.close()
    qtbot.waitUntil(lambda: "films of moves" not in document.background.running, timeout=30_000)
    assert not document.views.is_proposing


def test_a_move_put_in_the_window_is_what_the_edit_makes(moves_of):
    document, found = moves_of.document, moves_of()
    wanted = moves.put(document.scene, PUSH, "sign", FrameRange(0.0, 47.0), moves.Placing())[0]
    found.take()
    assert document.scene == wanted
