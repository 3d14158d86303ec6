"""The take that a node uses, as a card before its movers: how much it counts, and where and when it lies."""

from typing import Any

from msgspec.structs import replace
from PyQt6.QtGui import QFont
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from ... import edits
from ...scene import TAKE_STRENGTH, AnyNode, Scene, SceneError, TakeUse
from ...scene.types import UnitName
from ..channels.field import ChannelField
from ..widgets.panel_parts import icon_button, label, set_surface
from ..widgets.property_fields import Property
from .rows import Rows, spec


def take_shape(scene: Scene, node: AnyNode) -> tuple[object, ...]:
    """All that decides what is on the card."""
    if node.take is None:
        return ()
    return (node.take.take, node.take.on, node.take.channels, edits.find_take(scene, node.take.take).name)


def take_card(rows: Rows, node: AnyNode) -> QWidget:
    """The card of the take that a node uses."""
    use, document = node.take, rows.document
    assert use is not None
    card = QWidget()
    set_surface(card, "card")
    column = QVBoxLayout(card)
    column.setContentsMargins(10, 6, 8, 8)
    column.setSpacing(4)
    head = QHBoxLayout()
    head.setSpacing(4)
    take = edits.find_take(document.scene, use.take)
    title = take.step.capitalize() if take.source and take.step else take.name
    name = label(f"Take: {title}", "active" if use.on else "soft", 12, QFont.Weight.DemiBold)
    name.setToolTip(f"{take.name}: {take.count} samples over {take.seconds:.2f} s")
    name.setMinimumWidth(20)
    head.addWidget(name, 1)
    strength = ChannelField(document, node.id, TAKE_STRENGTH.name)
    strength.setFixedWidth(66)
    rows.fields[TAKE_STRENGTH.name] = strength
    head.addWidget(strength)
    word = "Turn off" if use.on else "Turn on"
    switch = icon_button("eye" if use.on else "eye_shut", f"{word} the take", size=20)
    switch.clicked.connect(
        lambda: document.edit(
            f"{word} the take of {node.name}",
            lambda scene: edits.use_take(scene, node.id, replace(use, on=not use.on)),
        )
    )
    rows.properties["take on"] = switch
    head.addWidget(switch)
    away = icon_button("close", "Let the node move by its keys again; the take stays", size=20)
    away.clicked.connect(
        lambda: document.edit(f"{node.name}: no take", lambda scene: edits.use_take(scene, node.id, None))
    )
    rows.properties["take away"] = away
    head.addWidget(away)
    column.addLayout(head)
    inner = Rows(document, node)
    _build(inner, node)
    column.addLayout(inner.grid)
    rows.properties.update(inner.properties)
    rows.followers.append(inner.refresh)
    return card


def _build(rows: Rows, node: AnyNode) -> None:
    def number(name: str, field: str, unit: UnitName, nudge: float, k: int = -1) -> QWidget:
        made = rows.number(_of(rows, node, name, field, k), spec(name, unit, nudge), k if k >= 0 else None)
        rows.properties[f"take {field}" + (f" {'xyz'[k]}" if k >= 0 else "")] = made
        return made

    rows.widgets("Begins", number("first frame", "start", "count", 1.0), label("frame", "soft", 11))
    rows.widgets(
        "Speed", number("speed", "speed", "factor", 0.01), label("size", "soft", 11),
        number("size", "size", "factor", 0.01),
    )  # fmt: skip
    rows.widgets("Moved", *(number("moved", "move", "units", 0.05, k) for k in range(3)))
    rows.widgets("Turned", *(number("turned", "turn", "degrees", 1.0, k) for k in range(3)))


def _of(rows: Rows, node: AnyNode, name: str, field: str, k: int) -> Property:
    """A field of how a node uses its take, or one of its three numbers."""

    def get(scene: Scene) -> Any:
        use = scene.node(node.id).take
        value = getattr(use, field)
        return value[k] if k >= 0 else value

    def put(scene: Scene, value: float) -> Scene:
        use = scene.node(node.id).take
        if use is None:
            raise SceneError(f"{node.name} uses no take.")
        if k >= 0:
            three = list(getattr(use, field))
            three[k] = value
            return edits.use_take(scene, node.id, replace(use, **{field: tuple(three)}))
        return edits.use_take(scene, node.id, replace(use, **{field: value}))

    return Property(rows.document, f"{node.name}: take, {name}", get, put, (TakeUse, field))
