"""The dials of a node: their values, and what they are."""

import msgspec
from PyQt6.QtCore import QPoint
from PyQt6.QtWidgets import QInputDialog

from ... import edits
from ...scene import AnyNode, Dial, SceneError
from ..state.document import Document
from ..widgets.panel_parts import label, popup_menu
from .rows import Rows

UNITS = (
    ("units", "units"), ("degrees", "degrees"), ("factor", "factor"), ("share", "percent"), ("mm", "mm"),
    ("count", "whole numbers"), ("seconds", "seconds"), ("pixels", "pixels"),
)  # fmt: skip


def dial_rows(rows: Rows, node: AnyNode) -> None:
    """A row for each dial."""
    if not node.dials:
        return
    rows.heading("Dials")
    for dial in node.dials:
        row = rows.channels(dial.name[:14], (dial.channel,), axis=False)
        note = label(f"{dial.low:g} to {dial.high:g} · {dial.board}", "soft", 11)
        note.setMinimumWidth(20)
        rows.grid.addWidget(note, row, 2, 1, 2)


def dial_menu(document: Document, node_id: str, dial: Dial, parent, at: QPoint) -> None:  # type: ignore[no-untyped-def]
    """What can be changed about a dial."""
    menu = popup_menu(parent)

    def change(**fields: object) -> None:
        try:
            msgspec.structs.replace(dial, **fields)
        except (ValueError, msgspec.ValidationError) as problem:
            document.messages.say(str(problem).capitalize() + ".", True)
            return
        document.edit(f"Change dial {dial.name}", lambda scene: edits.change_dial(scene, node_id, dial.id, **fields))

    def ask(title: str, words: str, text: str, use) -> None:  # type: ignore[no-untyped-def]
        answer, accepted = QInputDialog.getText(parent, title, words, text=text)
        if accepted and answer.strip():
            try:
                use(answer.strip())
            except (ValueError, SceneError) as problem:
                document.messages.say(f"“{answer}”: {problem}", True)

    menu.addAction("Rename…").triggered.connect(
        lambda: ask("Dial", "Name:", dial.name, lambda text: change(name=text[:200]))
    )
    menu.addAction("Range…").triggered.connect(
        lambda: ask(
            "Dial", "From … to:", f"{dial.low:g} to {dial.high:g}", lambda text: change(**range_of(text, dial.default))
        )
    )
    beyond = menu.addAction("Beyond its range too")
    beyond.setToolTip("Values outside the slider's range can be typed and keyed, such as several turns of an angle.")
    beyond.setCheckable(True)
    beyond.setChecked(dial.open)
    beyond.triggered.connect(lambda checked: change(open=checked))
    units = menu.addMenu("Unit")
    for unit, word in UNITS:
        action = units.addAction(word)
        action.setCheckable(True)
        action.setChecked(dial.unit == unit)
        action.triggered.connect(lambda checked, unit=unit: change(unit=unit))
    menu.addAction("Default is what it is now").triggered.connect(
        lambda: change(default=document.evaluations.value(node_id, dial.channel))
    )
    menu.addAction("Board…").triggered.connect(
        lambda: ask("Dial", "On the board:", dial.board, lambda text: change(board=text[:80]))
    )
    menu.addSeparator()
    menu.addAction("Remove the dial").triggered.connect(
        lambda: document.edit(f"Remove dial {dial.name}", lambda scene: edits.remove_dial(scene, node_id, dial.id))
    )
    menu.exec(at)


def range_of(text: str, default: float) -> dict[str, float]:
    """A range typed as “0 to 10”; the default is kept inside it. ValueError where it is none."""
    low, _, high = text.replace("…", " to ").partition(" to ")
    ends = {"low": float(low), "high": float(high)}
    return ends | {"default": min(max(default, ends["low"]), ends["high"])}
