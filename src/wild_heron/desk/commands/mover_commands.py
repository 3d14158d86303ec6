"""Movers given to what is selected, copied, kept by name, and turned into keys."""

from collections.abc import Callable, Iterable
from functools import partial

from msgspec.structs import replace
from PyQt6.QtCore import QMimeData, QObject, pyqtSignal
from PyQt6.QtWidgets import QInputDialog, QMenu, QWidget

from ... import edits
from ...edits.mover_baking import back_to_movers, let_it_land, to_keys, with_more_life
from ...files.errors import FileError
from ...files.user_presets import load_presets, save_presets, user_file, with_one
from ...scene import Mover, NamedMovers, Overshoot, Scene
from ...scene.mover_presets import MOVER_PRESETS, mover_preset, new_mover
from ...scene.movers import MOVER_KINDS
from ..state.document import Document
from ..widgets.kind_looks import mover_look, tag_of
from .action_spec import ActionSpec

A = ActionSpec
_MORE = 1.25
MINE = "movers.json"
MOVER_MIME = "application/x-wild-heron-mover"
"""A mover whose card is dragged: the ids of its node and of itself, a line each."""

MOVER_ACTIONS = (
    *(
        A(
            f"life.{tag_of(kind)}", kind.label.capitalize(), kind.hint, mover_look(kind).keys,
            sub="Add a mover",
        )
        for kind in MOVER_KINDS
    ),
    *(
        A(
            f"life.feels_{number}", name, f"Add movers that feel like: {name.lower()}", f"L, {number}",
            sub="Feels like",
        )
        for number, name in enumerate(MOVER_PRESETS, 1)
    ),
    A("life.more", "More life", "Make all movers of the node, and of what carries it, a quarter stronger", "L, M", gap=True),
    A("life.less", "Less life", "Make all movers of the node, and of what carries it, a quarter weaker", "L, Shift+M"),
    A("life.off", "Movers off", "Turn all movers of the selected nodes off, or on again", "L, H"),
    A("life.copy", "Copy the movers", "Copy all movers of the selected node", "L, C", gap=True),
    A("life.paste", "Paste the movers", "Give the copied movers to the selected nodes as well", "L, Shift+C"),
    A("life.keep", "Keep the movers by name…", "Keep the selected node's movers, for this scene and others", "L, K"),
    A("life.keys", "Turn into keys", "Turn what movers and take do into as few keys as it needs", "L, T", gap=True),
    A("life.back", "Back to movers", "Take those keys back and let the movers go on", "L, Shift+T"),
)  # fmt: skip


class MoverCommands(QObject):
    """On the selection; a new mover is shown in the inspector."""

    added = pyqtSignal(str, str)
    """A node and a mover's id: what was just made."""

    def __init__(self, document: Document, window: QWidget) -> None:
        super().__init__()
        self._document, self._window = document, window
        self._clip: tuple[Mover, ...] = ()

    def _selected(self, what: str) -> tuple[str, ...]:
        nodes = self._document.selection.nodes
        if not nodes:
            self._document.messages.say(f"Select what is to {what} first.", True)
        return nodes

    def _give(self, name: str, node_ids: Iterable[str], make: Callable[[Scene, str], Iterable[Mover]]) -> None:
        """Add movers to nodes as one step."""
        last: list[tuple[str, str]] = []

        def change(scene: Scene) -> Scene:
            last.clear()
            for node_id in node_ids:
                scene, ids = edits.add_movers(scene, node_id, make(scene, node_id))
                last.extend((node_id, each) for each in ids)
            return scene

        if self._document.edit(name, change) and last:
            self.added.emit(*last[-1])
            self._document.messages.say(f"{name}. Its strength is a channel, and can be keyed.")

    def add(self, kind: type[Mover]) -> None:
        """A mover of a kind for each selected node."""
        nodes = self._selected("move")
        if nodes:
            name = self._document.scene.node(nodes[-1]).name
            article = "an" if kind.label[0] in "aeiou" else "a"
            self._give(
                f"Give {name} {article} {kind.label}", nodes, lambda scene, each: (new_mover(kind, scene.node(each)),)
            )

    def add_preset(self, name: str) -> None:
        """Movers that feel like something."""
        nodes = self._selected("move")
        if nodes:
            label = f"{self._document.scene.node(nodes[-1]).name}: {name.lower()}"
            self._give(label, nodes, lambda scene, each: mover_preset(name, scene.node(each)).movers)

    def add_kept(self, kept: NamedMovers) -> None:
        """Movers that were kept by name, on the channels that the node has."""
        nodes = self._selected("move")
        if nodes:
            label = f"{self._document.scene.node(nodes[-1]).name}: {kept.name}"
            self._give(label, nodes, lambda scene, each: kept.movers)

    def scale_life(self, more: bool) -> None:
        """More or less life for the selected, or for the camera that is looked through."""
        document = self._document
        nodes = document.selection.nodes or ((document.views.camera.id,) if document.views.camera else ())
        word = "More" if more else "Less"
        factor = _MORE if more else 1.0 / _MORE
        document.edit(f"{word} life", lambda scene: with_more_life(scene, nodes, factor))

    def toggle(self) -> None:
        """All movers of the selected off, or on where all of them are off."""
        nodes = [each for each in self._selected("rest") if self._document.scene.node(each).movers]
        if not nodes:
            return
        on = not any(mover.on for each in nodes for mover in self._document.scene.node(each).movers)

        def change(scene: Scene) -> Scene:
            for each in nodes:
                movers = tuple(replace(mover, on=on) for mover in scene.node(each).movers)
                scene = edits.change_node(scene, each, movers=movers)
            return scene

        self._document.edit(f"Movers {'on' if on else 'off'}", change)

    def copy(self) -> None:
        active = self._document.selection.active
        if active is None or not active.movers:
            self._document.messages.say("Select a node that has movers.", True)
            return
        self._clip = active.movers
        self._document.messages.say(f"{len(self._clip)} mover{'s' * (len(self._clip) != 1)} copied.")

    def paste(self) -> None:
        if not self._clip:
            self._document.messages.say("Copy the movers of a node first.", True)
            return
        nodes = self._selected("get the movers")
        if nodes:
            self._give(f"Paste movers onto {self._document.scene.node(nodes[-1]).name}", nodes, lambda *_: self._clip)

    def copy_to(self, mover: Mover, node_id: str) -> None:
        """One mover for another node."""
        name = self._document.scene.node(node_id).name
        self._give(f"Copy the {mover.label} to {name}", (node_id,), lambda *_: (mover,))

    # By name

    def keep(self) -> None:
        """Ask for a name, and keep the movers of the selected node."""
        active = self._document.selection.active
        if active is None or not active.movers:
            self._document.messages.say("Select a node that has movers.", True)
            return
        name, accepted = QInputDialog.getText(self._window, "Keep the movers", "Name:", text=active.name)
        if accepted and name.strip():
            self.keep_as(name.strip()[:200], active.movers)

    def keep_as(self, name: str, movers: tuple[Mover, ...]) -> None:
        """In the scene, and for the user's other scenes."""
        kept = NamedMovers(name, movers)
        self._document.edit(f"Keep movers: {name}", lambda scene: edits.keep_movers(scene, kept))
        try:
            mine = load_presets(user_file(MINE), NamedMovers)
            save_presets(user_file(MINE), with_one(mine, kept))
        except FileError as problem:
            self._document.messages.say(str(problem), True)

    def kept(self) -> tuple[NamedMovers, ...]:
        """Those of the scene, then the user's own of other names."""
        own = self._document.scene.movers
        try:
            mine = load_presets(user_file(MINE), NamedMovers)
        except FileError as problem:
            self._document.messages.say(str(problem), True)
            mine = ()
        names = {each.name for each in own}
        return (*own, *(each for each in mine if each.name not in names))

    def fill_menu(self, menu: QMenu) -> None:
        """Everything that can be added."""
        for kind in MOVER_KINDS:
            _entry(menu, kind.label.capitalize(), kind.hint, partial(self.add, kind))
        menu.addSeparator()
        for name in MOVER_PRESETS:
            _entry(menu, name, "", partial(self.add_preset, name))
        kept = self.kept()
        if kept:
            menu.addSeparator()
        for each in kept:
            _entry(menu, each.name, "Kept by name", partial(self.add_kept, each))

    # Keys

    def to_keys(self) -> None:
        """What the movers and takes of the selected do, as keys."""
        document = self._document
        nodes = self._selected("become keys")
        before = document.scene

        def change(scene: Scene) -> Scene:
            for each in nodes:
                scene = to_keys(scene, each)
            return scene

        if nodes and document.edit(f"Turn {before.node(nodes[-1]).name}'s movers into keys", change):
            count = sum(
                len(channel.keys) - len(old.keys if (old := before.node(each).channel(channel.name)) else ())
                for each in nodes
                for channel in document.scene.node(each).channels
            )
            document.messages.say(f"{count} keys more. L, Shift+T goes back to the movers.")

    def back(self) -> None:
        document = self._document
        nodes = [each for each in self._selected("go back") if document.scene.node(each).unmoved is not None]
        if not nodes:
            document.messages.say("Nothing selected has movers that were turned into keys.", True)
            return

        def change(scene: Scene) -> Scene:
            for each in nodes:
                scene = back_to_movers(scene, each)
            return scene

        document.edit(f"Back to {document.scene.node(nodes[-1]).name}'s movers", change)

    def land(self, node_id: str, mover: Overshoot) -> None:
        """Let what an overshoot follows arrive at full speed."""
        document = self._document
        name = document.scene.node(node_id).name
        document.edit(f"Let {name} land at speed", lambda scene: let_it_land(scene, node_id, mover))


def dragged_mover(data: QMimeData | None) -> tuple[str, str] | None:
    """The ids of the node and the mover whose card is dragged, if one is."""
    if data is None or not data.hasFormat(MOVER_MIME):
        return None
    node_id, _, mover_id = bytes(data.data(MOVER_MIME).data()).decode("utf-8", "replace").partition("\n")
    return node_id, mover_id


def _entry(menu: QMenu, text: str, tip: str, chosen: Callable[[], object]) -> None:
    action = menu.addAction(text)
    assert action is not None
    action.setToolTip(tip)
    action.triggered.connect(lambda checked: chosen())
