"""Rows of a camera: lens, focus, shutter, aim."""

import math

from PyQt6.QtCore import QPoint
from PyQt6.QtWidgets import QInputDialog, QToolButton

from ...edits.posing import aim_at_node, aim_at_point
from ...scene import Camera, Ease, Framing, View, bind_subject, span_label
from ...scene.channels import APERTURE, FAR, FOCAL, FOCUS, NEAR, SHUTTER, ChannelSpec
from ...scene.types import UnitName
from ..commands.aim_commands import release_aim_of
from ..state.document import Document
from ..widgets.ease_menu import add_eases
from ..widgets.number_field import NumberField
from ..widgets.panel_parts import label, popup_menu
from .rows import Page, Pages, Rows, spec, word_button

SENSORS = (
    ("36 × 24", 36.0, 24.0), ("24.9 × 18.7", 24.89, 18.66), ("23.6 × 15.7", 23.6, 15.7), ("17.3 × 13", 17.3, 13.0),
    ("52.5 × 23", 52.5, 23.0),
)  # fmt: skip
LENSES = (18, 24, 35, 50, 85, 135)
_ANGLE = ChannelSpec("angle", "angle of view", "degrees", 54.43, 0.5, 170.0, 1.0)


class AngleField(NumberField):
    """The horizontal angle of view, which sets the focal length."""

    def __init__(self, document: Document, node: View) -> None:
        super().__init__(_ANGLE)
        self._document, self._node = document, node
        self.setToolTip("Horizontal angle of view; it sets the focal length")
        self.follow(document, lambda: document.label(node.id, FOCAL), self._set, f"{node.id}/angle")

    def refresh(self) -> None:
        horizontal, _ = self._document.evaluations.here.camera(self._node.id).angles()
        self.show_value(float(horizontal[0]), "none", self._node.locked)

    def _set(self, angle: float, merge: str) -> None:
        document, node = self._document, self._node
        focal_px = document.settings.width / (2.0 * math.tan(math.radians(angle) / 2.0))
        view = document.evaluations.here.camera(node.id)
        focal = focal_px / float(view.focal_px[0] / view.focal_mm[0])
        merge = merge and f"{merge}/{document.playhead.frame}"
        document.recorder.set_values(document.label(node.id, FOCAL), {(node.id, FOCAL): focal}, merge)


def camera_rows(rows: Rows, node: View) -> None:
    """Lens and angle, sensor, focus, depth of field, shutter, aim."""
    document = rows.document
    row = rows.channels("Lens", (FOCAL,), axis=False)
    angle = AngleField(document, node)
    rows.properties["angle"] = angle
    rows.followers.append(angle.refresh)
    rows.grid.addWidget(angle, row, 2)
    sensor = word_button(
        f"{node.sensor_width:g}×{node.sensor_height:g}",
        "Lens, sensor in millimetres, and how it is fitted to the frame",
        lambda button: _sensor_menu(button, document, node),
    )
    rows.grid.addWidget(sensor, row, 3)
    row = rows.channels("Focus", (FOCUS, APERTURE), axis=False)
    blur = rows.switch(
        rows.field("depth of field", "depth_of_field"),
        "blur",
        "Depth of field: what is out of focus blurs, in frames of more than one sample",
    )
    rows.grid.addWidget(blur, row, 3)
    rows.followers.append(blur.refresh)
    row = rows.channels("Shutter", (SHUTTER,), axis=False)
    rows.channels("Clip", (NEAR, FAR), axis=False, captions=("near", "far"))
    text = "nothing" if node.aim is None else bind_subject(document.scene, node.aim)
    aim = word_button(text, "What the camera looks at", lambda button: _aim_menu(button, document, node))
    note = label("", "soft", 11)

    def show_distance() -> None:
        distance = document.evaluations.here.camera(node.id).aim_distance()
        note.setText("" if distance is None else f"{float(distance[0]):.2f} away")

    rows.widgets("Aim", aim, note, spans=(2, 1))
    rows.followers.append(show_distance)
    if node.aim is not None and not node.aim.targets:
        rows.channels("Aim point", tuple(f"{node.aim.id}.{axis}" for axis in "xyz"))


def _sensor_menu(button: QToolButton, document: Document, node: View) -> None:
    menu = popup_menu(button)
    for focal in LENSES:
        menu.addAction(f"{focal} mm").triggered.connect(
            lambda checked, focal=focal: document.recorder.set_values(
                f"{focal} mm lens", {(node.id, FOCAL): float(focal)}
            )
        )
    menu.addSeparator()
    for name, width, height in SENSORS:
        action = menu.addAction(f"Sensor {name}")
        action.setCheckable(True)
        action.setChecked((node.sensor_width, node.sensor_height) == (width, height))
        action.triggered.connect(lambda checked, w=width, h=height: _set_sensor(document, node, w, h))
    menu.addAction("Other sensor…").triggered.connect(lambda: _ask_sensor(button, document, node))
    menu.addSeparator()
    for fit in ("width", "height", "cover", "contain"):
        action = menu.addAction(f"Fit: {fit}")
        action.setCheckable(True)
        action.setChecked(node.fit == fit)
        action.triggered.connect(
            lambda checked, fit=fit: document.change_nodes(f"Fit sensor by {fit}", [node.id], fit=fit)
        )
    menu.exec(button.mapToGlobal(QPoint(0, button.height())))


def _set_sensor(document: Document, node: View, width: float, height: float) -> None:
    document.change_nodes("Change sensor", [node.id], sensor_width=width, sensor_height=height)


def _ask_sensor(button: QToolButton, document: Document, node: View) -> None:
    now = f"{node.sensor_width:g} × {node.sensor_height:g}"
    text, accepted = QInputDialog.getText(button, "Sensor", "Width × height in millimetres:", text=now)
    if not accepted:
        return
    try:
        width, height = (float(part) for part in text.replace("×", "x").lower().split("x"))
        if not (0.01 < width <= 10_000 and 0.01 < height <= 10_000):
            raise ValueError
    except ValueError:
        document.messages.say(f"“{text}” is not a sensor size. Type it as 36 × 24.", True)
        return
    _set_sensor(document, node, width, height)


def _aim_menu(button: QToolButton, document: Document, node: View) -> None:
    menu = popup_menu(button)
    menu.addAction("Nothing (keep the pose)").triggered.connect(lambda: release_aim_of(document, node.id))
    menu.addAction("A point, here").triggered.connect(
        lambda: document.edit(
            f"Aim {node.name} at a point", lambda scene: aim_at_point(scene, node.id, document.playhead.frame)
        )
    )
    menu.addSeparator()
    for other in document.scene.nodes:
        if other.id != node.id:
            menu.addAction(other.name).triggered.connect(
                lambda checked, other=other: document.edit(
                    f"Aim {node.name} at {other.name}", lambda scene: aim_at_node(scene, node.id, other.id)
                )
            )
    menu.exec(button.mapToGlobal(QPoint(0, button.height())))


def framing_rows(rows: Rows, node: Framing) -> None:
    """How a tour comes to it; then the same as of a camera."""
    document = rows.document
    words = span_label(node.ease)
    ease = word_button(words, "How a tour comes to it", lambda button: _ease_menu(button, document, node))
    rows.widgets("Arrives", ease, spans=(3,))
    timed: UnitName = "seconds" if node.timed_by == "seconds" else "units"
    rows.widgets(
        "In",
        rows.number(rows.field("time", "time"), spec("time to get there", timed, 0.1)),
        rows.choice(
            rows.field("what its time is", "timed_by"), [("seconds", "seconds"), ("speed", "units a second")],
            "Whether a tour takes so long to get there, or goes so fast",
        ),
        spans=(1, 2),
    )  # fmt: skip
    stay = rows.number(rows.field("stay", "stay"), spec("how long it stays", "seconds", 0.1))
    rows.widgets("Stays", stay)
    camera_rows(rows, node)


def _ease_menu(button: QToolButton, document: Document, node: Framing) -> None:
    menu = popup_menu(button)

    def choose(ease: Ease) -> None:
        document.change_nodes(f"Ease of {node.name}", [node.id], ease=ease)

    add_eases(menu, document.scene.eases, node.ease, choose)
    menu.exec(button.mapToGlobal(QPoint(0, button.height())))


def _changes_page(node: View) -> tuple[object, ...]:
    return node.sensor_width, node.sensor_height, node.fit, node.aim


PAGES: Pages = {
    Camera: Page(camera_rows, _changes_page),
    Framing: Page(framing_rows, lambda node: (*_changes_page(node), node.ease, node.timed_by)),
}
