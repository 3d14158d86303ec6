"""What can be done to a lane, by a right click on it."""

from functools import partial

from PyQt6.QtCore import QPoint

from ....edits import lock_channel, set_beyond
from ....edits.keys import SIDES, Side
from ....motion.keys import continued
from ....scene import BEYOND, Scene, channel_or_default
from ....scene.inputs import ChannelRef
from ....scene.spans import Beyond
from ...state.key_edits import edit_keys
from ...widgets.panel_parts import popup_menu
from .lanes_layout import LanesLayout
from .shapes import Lane


def lane_menu(view: LanesLayout, lane: Lane, at: QPoint) -> None:
    """Select its keys, lock it, fold it, and what it does beyond its keys."""
    document = view.document
    menu = popup_menu(view)
    refs = {ref for key in lane.data.keys for ref in lane.refs(document.scene, key.frame)}
    menu.addAction("Select its keys").triggered.connect(lambda: document.selection.choose_keys(refs))
    if lane.is_sum or lane.under:
        menu.addAction("Open" if lane.folded else "Fold").triggered.connect(lambda: view.fold(lane.node))
        others = frozenset(each.node for each in view.lanes() if each.is_sum)
        menu.addAction("Fold all").triggered.connect(lambda: _fold_all(view, others))
        menu.addAction("Open all").triggered.connect(lambda: _fold_all(view, frozenset()))
    places = sorted({(ref.node, ref.channel) for ref in refs})
    for side, words in zip(SIDES, ("Before the first key", "After the last key"), strict=True):
        menu.addSeparator() if side == "before" else None
        sub = menu.addMenu(words)
        for how in BEYOND:
            action = sub.addAction(continued(how))
            action.setCheckable(True)
            action.setChecked(not lane.is_sum and getattr(lane.data, side) == how)
            action.triggered.connect(partial(_set_beyond, view, places, side, how))
    menu.addSeparator()
    lock = menu.addAction("Locked")
    lock.setCheckable(True)
    lock.setChecked(all(channel_or_default(document.scene.node(n), c).locked for n, c in places))
    lock.triggered.connect(lambda on: _lock(view, places, on))
    menu.exec(at)


def _fold_all(view: LanesLayout, nodes: frozenset[str]) -> None:
    view.folded = nodes
    view.refresh()


def _set_beyond(view: LanesLayout, channels: list[ChannelRef], side: Side, how: Beyond, checked: bool = False) -> None:
    where = "Before the first key" if side == "before" else "After the last key"
    edit_keys(
        view.document, f"{where}: {continued(how)}", channels, lambda scene: set_beyond(scene, channels, how, [side])
    )


def _lock(view: LanesLayout, places: list[ChannelRef], on: bool) -> None:
    def change(scene: Scene) -> Scene:
        for node, name in places:
            scene = lock_channel(scene, node, name, on)
        return scene

    view.document.edit("Lock channels" if on else "Unlock channels", change)
