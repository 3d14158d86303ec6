"""Movers in the real window: given by keys and cards, shaped, reordered by dragging, kept, and turned into keys."""

import numpy as np
import pytest
from PyQt6.QtCore import QMimeData, QPointF, Qt
from PyQt6.QtGui import QDropEvent
from PyQt6.QtWidgets import QInputDialog

import wild_heron as wh
from tests.desk.conftest import chord
from wild_heron.desk.commands import mover_commands as mover_commands
from wild_heron.desk.commands.mover_commands import MOVER_MIME
from wild_heron.edits import add_movers, set_key
from wild_heron.evaluate import evaluate
from wild_heron.files.user_presets import load_presets
from wild_heron.scene import Linear, NamedMovers

FRAMES = np.arange(0.0, 48.0)


@pytest.fixture
def keyed(window, rig):
    """A null with two keys that it runs into at full speed, selected."""
    document = window.desk.document

    def change(scene):
        scene = set_key(scene, "turn", "position.y", 4, 0.0, Linear())
        return set_key(scene, "turn", "position.y", 20, 2.0, Linear())

    assert document.edit("Keys", change)
    document.selection.choose(["turn"])
    document.turns.finish()
    return window


def movers(window, node="turn"):
    return window.desk.document.scene.node(node).movers


def seen(window, name="position.y", node="turn"):
    return evaluate(window.desk.document.scene, FRAMES).value(node, name)


class TestGiving:
    def test_a_chord_gives_one_and_shows_its_card_unfolded(self, keyed, qtbot):
        inspector = keyed.desk.inspector
        keyed.desk.lens.view.setFocus()
        chord(keyed.desk.lens.view, "LV")
        assert [each.label for each in movers(keyed)] == ["overshoot"]
        assert inspector.cards is not None
        assert "overshoot bounce" in inspector.properties
        assert seen(keyed).max() > 2.05
        keyed.desk.document.undo()
        assert movers(keyed) == ()

    def test_every_kind_and_every_set_can_be_given_from_the_menu(self, keyed):
        actions = keyed.desk.actions_
        for name in [each for each in actions if each.startswith(("life.feels_", "life.oscillator", "life.rate"))]:
            before = len(movers(keyed))
            actions[name].trigger()
            assert len(movers(keyed)) > before, name

    def test_without_a_selection_it_says_what_to_do(self, keyed):
        document = keyed.desk.document
        document.selection.choose([])
        keyed.desk.actions_["life.shake"].trigger()
        assert "Select" in keyed.desk.status.text.text()

    def test_the_field_shows_what_is_keyed_and_says_that_it_is_moved(self, keyed):
        keyed.desk.actions_["life.oscillator"].trigger()
        document, inspector = keyed.desk.document, keyed.desk.inspector
        inspector.show_movers(False)
        document.playhead.set_frame(30)
        document.turns.finish()
        name = movers(keyed)[0].names[0]
        field = inspector.fields[name]
        assert field.value == pytest.approx(56.25)
        assert abs(seen(keyed, name)[30] - 56.25) > 1e-3
        document.recorder.set_auto_key(True)
        field.edited.emit(5.0, False)
        assert document.scene.node("turn").channel(name).key_at(30).value == 5.0


class TestCards:
    @pytest.fixture
    def alive(self, keyed):
        keyed.desk.actions_["life.oscillator"].trigger()
        keyed.desk.actions_["life.overshoot"].trigger()
        keyed.desk.document.turns.finish()
        return keyed

    def test_numbers_are_typed_and_one_step_each(self, alive, qtbot):
        inspector, document = alive.desk.inspector, alive.desk.document
        field = inspector.properties["overshoot bounce"]
        field.setFocus()
        qtbot.keyClick(field, "6")
        qtbot.keyClick(alive.focusWidget(), "0")
        qtbot.keyClick(alive.focusWidget(), Qt.Key.Key_Return)
        assert movers(alive)[1].bounce == pytest.approx(0.6)
        document.undo()
        assert movers(alive)[1].bounce == pytest.approx(0.3)

    def test_tab_goes_from_number_to_number(self, alive, qtbot):
        inspector = alive.desk.inspector
        inspector.properties["overshoot bounce"].setFocus()
        qtbot.keyClick(alive.focusWidget(), Qt.Key.Key_Tab)
        assert alive.focusWidget() is inspector.properties["overshoot speed"]

    def test_the_strength_can_be_keyed(self, alive):
        document = alive.desk.document
        document.recorder.set_auto_key(True)
        alive.desk.inspector.fields["overshoot.strength"].edited.emit(0.5, False)
        assert document.scene.node("turn").channel("overshoot.strength").keys

    def test_a_click_on_the_title_folds_it(self, alive, qtbot):
        inspector = alive.desk.inspector
        qtbot.mouseClick(inspector.properties["overshoot title"], Qt.MouseButton.LeftButton)
        assert "overshoot bounce" not in inspector.properties
        qtbot.mouseClick(inspector.properties["oscillator title"], Qt.MouseButton.LeftButton)
        assert "oscillator period" in inspector.properties

    def test_a_card_is_dropped_at_another_place(self, alive):
        cards = alive.desk.inspector.cards
        data = QMimeData()
        data.setData(MOVER_MIME, b"turn\noscillator")
        below = QPointF(20.0, cards.height() - 2.0)
        drop = QDropEvent(
            below, Qt.DropAction.MoveAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
        )
        cards.dropEvent(drop)
        assert [each.id for each in movers(alive)] == ["overshoot", "oscillator"]

    def test_a_card_is_dropped_on_another_node_in_the_rig(self, alive):
        tree = alive.desk.rig.tree
        data = QMimeData()
        data.setData(MOVER_MIME, b"turn\noscillator")
        at = QPointF(tree.visualItemRect(tree.items()["target"]).center())
        tree.dropEvent(
            QDropEvent(at, Qt.DropAction.MoveAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier)
        )
        assert [each.id for each in movers(alive, "target")] == ["oscillator"]
        assert len(movers(alive)) == 2
        assert alive.desk.document.scene.node("target").carrier is None

    def test_the_graph_shows_what_it_adds(self, alive):
        alive.desk.document.turns.finish()
        graph = alive.desk.inspector.cards.cards[0].graph
        flat, added = graph._lines
        assert (flat == 0.0).all()
        assert np.ptp(added) > 0.1

    def test_lanes_draw_what_is_seen_over_the_shape_of_the_keys(self, alive):
        view = alive.desk.lanes.view
        alive.desk.lanes.choose("lanes")
        view.repaint()
        alive.desk.document.turns.finish()
        lane = next(lane for lane in view.lanes() if lane.channel == "position.y")
        line = view.seen.of(lane)
        assert line is not None
        assert np.allclose(line.values, evaluate(alive.desk.document.scene, line.frames).value("turn", "position.y"))

    def test_where_nothing_is_left_to_swing_one_click_mends_it(self, keyed, qtbot):
        document = keyed.desk.document
        document.edit("Soft", lambda scene: wh.edits.set_spans(
            scene, [wh.edits.KeyRef("turn", "position.y", 4.0)], wh.Family("cubic", "in-out")))  # fmt: skip
        keyed.desk.actions_["life.overshoot"].trigger()
        button = keyed.desk.inspector.properties["overshoot land"]
        assert seen(keyed).max() == pytest.approx(2.0, abs=1e-3)
        qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
        assert seen(keyed).max() > 2.05
        assert "overshoot land" not in keyed.desk.inspector.properties

    def test_an_impact_waits_for_the_first_there_is(self, keyed):
        document, inspector = keyed.desk.document, keyed.desk.inspector
        document.edit("Film", lambda scene: wh.edits.add_event(
            wh.edits.with_shots(scene, (wh.Shot("A", "cam"),)), wh.Event("Bang", wh.AtMarker("x"), "cam")))  # fmt: skip
        keyed.desk.actions_["life.impact"].trigger()
        choice = inspector.properties["What it waits for"]
        choice.setCurrentIndex(choice.findText("an event"))
        choice.activated.emit(choice.currentIndex())
        assert (movers(keyed)[0].when, movers(keyed)[0].name) == ("event", "Bang")


class TestAllOfThem:
    def test_more_life_and_less_life(self, keyed):
        actions, document = keyed.desk.actions_, keyed.desk.document
        actions["life.shake"].trigger()
        actions["life.more"].trigger()
        assert document.evaluations.value("turn", "life") == pytest.approx(1.25)
        actions["life.less"].trigger()
        assert document.evaluations.value("turn", "life") == pytest.approx(1.0)

    def test_off_and_on_again(self, keyed):
        actions = keyed.desk.actions_
        actions["life.shake"].trigger()
        actions["life.off"].trigger()
        assert not movers(keyed)[0].on
        actions["life.off"].trigger()
        assert movers(keyed)[0].on

    def test_they_are_copied_to_another_node(self, keyed):
        actions, document = keyed.desk.actions_, keyed.desk.document
        actions["life.shake"].trigger()
        actions["life.copy"].trigger()
        document.selection.choose(["target"])
        actions["life.paste"].trigger()
        assert movers(keyed, "target")[0].names == movers(keyed)[0].names

    def test_they_are_kept_by_name_for_this_scene_and_others(self, keyed, monkeypatch, tmp_path):
        mine = tmp_path / "mine" / "movers.json"
        monkeypatch.setattr(mover_commands, "user_file", lambda name: mine)
        monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: ("Lantern sway", True))
        keyed.desk.actions_["life.oscillator"].trigger()
        keyed.desk.actions_["life.keep"].trigger()
        document = keyed.desk.document
        assert [each.name for each in document.scene.movers] == ["Lantern sway"]
        assert load_presets(mine, NamedMovers)[0].movers == movers(keyed)
        document.selection.choose(["target"])
        keyed.desk.mover_commands.add_kept(keyed.desk.mover_commands.kept()[0])
        assert movers(keyed, "target")[0].label == "oscillator"
        mine.write_text("[{")
        keyed.desk.mover_commands.kept()
        assert "movers.json" in keyed.desk.status.text.text()

    def test_they_become_keys_and_come_back(self, keyed):
        document = keyed.desk.document
        document.edit(
            "Shake", lambda scene: add_movers(scene, "turn", [wh.Shake(targets=(wh.Target("position.y", 0.4),))])[0]
        )
        before, alive = seen(keyed), document.scene
        keyed.desk.actions_["life.keys"].trigger()
        assert np.abs(seen(keyed) - before).max() < 0.003
        assert not movers(keyed)[0].on
        keyed.desk.actions_["life.back"].trigger()
        assert document.scene == alive

    def test_dragging_moves_what_is_keyed_by_as_much(self, keyed):
        document = keyed.desk.document
        keyed.desk.actions_["life.oscillator"].trigger()
        document.playhead.set_frame(30)
        name = movers(keyed)[0].names[0]
        here, keyed_here = document.evaluations.value("turn", name), document.evaluations.keyed_value("turn", name)
        document.recorder.set_values("Move", {("turn", name): here + 1.5})
        assert document.evaluations.value("turn", name) == pytest.approx(here + 1.5)
        assert document.evaluations.keyed_value("turn", name) == pytest.approx(keyed_here + 1.5)
