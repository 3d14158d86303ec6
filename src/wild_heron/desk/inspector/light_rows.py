"""Rows of lights and of photo projections."""

from PyQt6.QtCore import QPoint
from PyQt6.QtWidgets import QToolButton

from ...edits import change_node
from ...scene import Light, Projection
from ...scene.channels import FOCAL, OPACITY, REACH, STRENGTH
from ..widgets.panel_parts import label, popup_menu
from .rows import Page, Pages, Rows, spec, word_button

_KINDS = [("ambient", "all over"), ("directional", "afar"), ("point", "point")]
_FALLOFFS = [("none", "no falloff"), ("even", "even falloff"), ("square", "square falloff")]


def light_rows(rows: Rows, node: Light) -> None:
    """Kind, colour, strength, reach, shadow."""
    row = rows.channels("Strength", (STRENGTH,), axis=False)
    rows.grid.addWidget(rows.tone(rows.field("colour", "tint"), "Colour of the light"), row, 2)
    rows.followers.append(rows.properties["Colour of the light"].refresh)  # type: ignore[attr-defined]
    kind = rows.choice(rows.field("kind", "light"), _KINDS, "How it shines")
    rows.grid.addWidget(kind, row, 3)
    rows.followers.append(kind.refresh)
    if node.light == "point":
        row = rows.channels("Reach", (REACH,), axis=False)
        falloff = rows.choice(rows.field("falloff", "falloff"), _FALLOFFS, "How it fades up to its reach")
        rows.grid.addWidget(falloff, row, 2, 1, 2)
        rows.followers.append(falloff.refresh)
    if node.light != "ambient":
        rows.widgets(
            "Shadow",
            rows.switch(rows.field("shadow", "shadow"), "casts", "It casts shadows; one light of a scene does"),
            rows.number(rows.field("softness", "softness"), spec("softness", "units", 0.05)),
            label("soft edge", "soft", 11),
        )


def projection_rows(rows: Rows, node: Projection) -> None:
    """Lens, strength, receivers, photograph."""
    row = rows.channels("Lens", (FOCAL,), axis=False)
    sensor = rows.number(rows.field("sensor width", "sensor_width"), spec("sensor width", "mm", 0.5))
    rows.grid.addWidget(sensor, row, 2)
    rows.followers.append(sensor.refresh)
    rows.grid.addWidget(label("sensor", "soft", 11), row, 3)
    rows.channels("Strength", (OPACITY,), axis=False)
    document = rows.document
    names = [document.scene.node(each).name for each in node.receivers]
    text = ", ".join(names) if names else "nothing yet"

    def menu(button: QToolButton) -> None:
        choices = popup_menu(button)
        models = [each for each in document.scene.nodes if each.serves_as("receiver")]
        for model in models:
            action = choices.addAction(model.name)
            action.setCheckable(True)
            action.setChecked(model.id in node.receivers)
            action.triggered.connect(lambda on, model=model: _receive(rows, node, model.id, on))
        if not models:
            choices.addAction("Add a plane, box or model first").setEnabled(False)
        choices.exec(button.mapToGlobal(QPoint(0, button.height())))

    button = word_button(
        text if len(text) < 30 else f"{len(names)} models", "What the photograph is projected on", menu
    )
    button.setToolTip(text)
    rows.widgets("Projected on", button, spans=(3,))
    file = label(f"{node.source.rpartition('/')[2]}   {node.width} × {node.height}", "soft", 11)
    file.setToolTip(node.source)
    file.setMinimumWidth(20)
    rows.widgets("Photo", file, spans=(3,))


def _receive(rows: Rows, node: Projection, model: str, on: bool) -> None:
    name = rows.document.scene.node(model).name
    kept = tuple(each for each in node.receivers if each != model)
    receivers = (*kept, model) if on else kept
    rows.document.edit(
        f"{node.name}: {'project it on' if on else 'take it off'} {name}",
        lambda scene: change_node(scene, node.id, receivers=receivers),
    )


PAGES: Pages = {
    Light: Page(light_rows, lambda node: (node.light,)),
    Projection: Page(projection_rows, lambda node: (node.receivers, node.source)),
}
