"""The inspector: the numbers of what is selected."""

import math

from PyQt6.QtCore import QPoint, QRectF, QSize, Qt
from PyQt6.QtGui import QFont, QIcon, QPainter, QPaintEvent, QPixmap
from PyQt6.QtWidgets import (
    QAbstractButton,
    QGridLayout,
    QHBoxLayout,
    QInputDialog,
    QLabel,
    QMenu,
    QScrollArea,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from ..evaluate import aim_distance
from ..evaluate.posing import aim_at_node, aim_at_point, carry_together, release_aim
from ..scene import AimNode, AimPoint, AnyNode, Camera, Picture
from ..scene.channels import AIM, APERTURE, FOCAL, FOCUS, OPACITY, POSITION, ROTATION, SCALE, SHUTTER, ChannelSpec
from ..scene.edits import KeyRef, remove_keys
from . import icons
from .channel_field import ChannelField, channel_mark
from .document import Document
from .number_field import NumberField
from .panel import icon_button, label
from .recording import key_now, record
from .theme import AMBER, NODE_COLOURS, PANEL, RAISED, RUST, SOFT, TEXT, colour

SENSORS = (
    ("36 × 24", 36.0, 24.0), ("24.9 × 18.7", 24.89, 18.66), ("23.6 × 15.7", 23.6, 15.7), ("17.3 × 13", 17.3, 13.0),
    ("52.5 × 23", 52.5, 23.0),
)  # fmt: skip
LENSES = (18, 24, 35, 50, 85, 135)
_ANGLE = ChannelSpec("angle", "angle of view", "degrees", 54.43, 0.5, 170.0, 1.0)


class _KeyDot(QAbstractButton):
    """Keys a row of channels at the playhead, or takes those keys away."""

    def __init__(self) -> None:
        super().__init__()
        self.mark = "none"
        self.setFixedSize(18, 23)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setToolTip("Key this row at the playhead, or delete its keys here")
        self.setAccessibleName("Key this row")

    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        tone = colour({"pending": RUST, "none": "#6d8189"}.get(self.mark, AMBER))
        p.setPen(colour(TEXT) if self.hasFocus() else tone)
        p.setBrush(tone if self.mark in ("here", "pending") else Qt.BrushStyle.NoBrush)
        radius = 4.0 if self.underMouse() else 3.4
        p.drawEllipse(QRectF(9 - radius, 11.5 - radius, 2 * radius, 2 * radius))


class _Chip(QAbstractButton):
    """The node's colour; click to choose another."""

    def __init__(self) -> None:
        super().__init__()
        self.tone = SOFT
        self.setFixedSize(16, 16)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setToolTip("Colour of the node in Rig, Overview and Lanes")
        self.setAccessibleName("Colour")

    def sizeHint(self) -> QSize:
        return QSize(16, 16)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setPen(colour(TEXT) if self.hasFocus() else Qt.PenStyle.NoPen)
        p.setBrush(colour(self.tone))
        p.drawRoundedRect(QRectF(2, 2, 12, 12), 4, 4)


class Inspector(QWidget):
    """The lower right area."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        self.setObjectName("inspector")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setStyleSheet(f"#inspector {{ background: {PANEL}; }}")
        self._outer = QVBoxLayout(self)
        self._outer.setContentsMargins(0, 0, 0, 0)
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._outer.addWidget(self._scroll)
        self._built_for: tuple[object, ...] | None = None
        self.fields: dict[str, ChannelField] = {}
        self._dots: list[tuple[_KeyDot, tuple[str, ...]]] = []
        self._angle: NumberField | None = None
        self._note: QLabel | None = None
        for signal in (document.changed, document.selection_changed):
            signal.connect(self.refresh)
        document.frame_changed.connect(lambda: document.turns.ask(self, self._refresh_values))
        self.refresh()

    # Building

    def refresh(self) -> None:
        node = self._document.active
        if node is None:
            key: tuple[object, ...] = ("empty", bool(self._document.scene.nodes))
        else:
            shape = type(node.aim) if isinstance(node, Camera) else None
            carrier = node.carrier and self._document.scene.node(node.carrier).name
            sensor = (
                (node.sensor_width, node.sensor_height, node.fit, node.depth_of_field, node.aim)
                if isinstance(node, Camera)
                else None
            )
            key = (
                node.id,
                node.name,
                carrier,
                node.colour,
                node.hidden,
                node.locked,
                shape,
                sensor,
                len(self._document.selection),
            )
        if key != self._built_for:
            self._built_for = key
            self._build(node)
        self._refresh_values()

    def _build(self, node: AnyNode | None) -> None:
        self.fields, self._dots, self._angle, self._note = {}, [], None, None
        page = QWidget()
        page.setObjectName("page")
        page.setStyleSheet(f"#page {{ background: {PANEL}; }}")
        column = QVBoxLayout(page)
        column.setContentsMargins(14, 9, 8, 10)
        column.setSpacing(8)
        if node is None:
            hint = "Select something in the Rig, the Depth rail or the Overview to see its numbers."
            text = label(
                hint if self._document.scene.nodes else "Add pictures (Ctrl+I) or drop them on the window.", "soft"
            )
            text.setWordWrap(True)
            column.addWidget(text)
        else:
            column.addLayout(self._head(node))
            grid = QGridLayout()
            grid.setHorizontalSpacing(6)
            grid.setVerticalSpacing(5)
            grid.setColumnMinimumWidth(0, 58)
            for k in (1, 2, 3):
                grid.setColumnStretch(k, 1)
            column.addLayout(grid)
            self._rows(node, grid)
        column.addStretch()
        self._scroll.setWidget(page)

    def _head(self, node: AnyNode) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(5)
        chip = _Chip()
        chip.tone = node.colour or SOFT
        chip.clicked.connect(lambda: self._colour_menu(chip, node))
        row.addWidget(chip)
        others = len(self._document.selection) - 1
        name = label(node.name + (f"  + {others}" if others else ""), size=13, weight=QFont.Weight.DemiBold)
        name.setStyleSheet(f"color: {AMBER};")
        name.setMinimumWidth(20)
        row.addWidget(name, 1)
        carrier = QToolButton()
        held = self._document.scene.node(node.carrier).name if node.carrier else None
        carrier.setText(f"carried by {held} ▾" if held else "no carrier ▾")
        carrier.setToolTip("Choose what carries it; the world pose is kept")
        carrier.clicked.connect(lambda: self._carrier_menu(carrier, node))
        row.addWidget(carrier)
        for name_, on, field, words in (
            ("eye_shut" if node.hidden else "eye", node.hidden, "hidden", ("Show", "Hide")),
            ("lock", node.locked, "locked", ("Unlock", "Lock")),
        ):
            word = words[0] if on else words[1]
            button = icon_button(name_, f"{word} {node.name}", size=22)
            button.setIcon(icons.icon(name_, TEXT if on else SOFT))
            button.clicked.connect(
                lambda checked, field=field, on=on, word=word: self._document.change_nodes(
                    f"{word} {node.name}", [node.id], **{field: not on}
                )
            )
            row.addWidget(button)
        return row

    def _rows(self, node: AnyNode, grid: QGridLayout) -> None:
        aimed = isinstance(node, Camera) and node.aim is not None
        self._channel_row(grid, "Position", node, POSITION)
        if aimed:
            self._channel_row(grid, "Roll", node, (ROTATION[2],), axis=False)
        else:
            self._channel_row(grid, "Rotation", node, ROTATION)
        if isinstance(node, Camera):
            self._camera_rows(node, grid)
        else:
            self._channel_row(grid, "Scale", node, SCALE)
        if isinstance(node, Picture):
            self._channel_row(grid, "Opacity", node, (OPACITY,), axis=False)
            row = grid.rowCount()
            grid.addWidget(label("Artwork", "soft"), row, 0)
            file = label(f"{node.source.rpartition('/')[2]}   {node.width} × {node.height}", "soft", 11)
            file.setToolTip(node.source)
            file.setMinimumWidth(20)
            grid.addWidget(file, row, 1, 1, 3)

    def _channel_row(
        self, grid: QGridLayout, title: str, node: AnyNode, names: tuple[str, ...], axis: bool = True, first: int = 1
    ) -> int:
        row = grid.rowCount()
        grid.addWidget(label(title, "soft"), row, 0)
        for k, name in enumerate(names):
            field = ChannelField(self._document, node.id, name, k if axis else None)
            self.fields[name] = field
            grid.addWidget(field, row, first + k)
        dot = _KeyDot()
        dot.clicked.connect(lambda: self._toggle_keys(title, node.id, names))
        self._dots.append((dot, names))
        grid.addWidget(dot, row, 4)
        return row

    def _camera_rows(self, node: Camera, grid: QGridLayout) -> None:
        document = self._document
        row = self._channel_row(grid, "Lens", node, (FOCAL,), axis=False)
        angle = NumberField(_ANGLE)
        angle.setToolTip("Horizontal angle of view; it sets the focal length")
        angle.edited.connect(lambda value, repeats: self._set_angle(node, value, repeats))
        angle.drag_started.connect(lambda: document.begin(document.label(node.id, FOCAL)))
        angle.dragged.connect(lambda value: self._set_angle(node, value, False))
        angle.drag_finished.connect(document.commit)
        angle.drag_cancelled.connect(document.cancel)
        angle.refused.connect(lambda text: document.say(text, True))
        self._angle = angle
        grid.addWidget(angle, row, 2)
        sensor = QToolButton()
        sensor.setText(f"{node.sensor_width:g}×{node.sensor_height:g} ▾")
        sensor.setToolTip("Lens, sensor in millimetres, and how it is fitted to the frame")
        sensor.setStyleSheet(f"QToolButton {{ background: {RAISED}; color: {TEXT}; padding: 2px 5px; }}")
        sensor.setFixedHeight(23)
        sensor.clicked.connect(lambda: self._sensor_menu(sensor, node))
        grid.addWidget(sensor, row, 3)
        row = self._channel_row(grid, "Focus", node, (FOCUS, APERTURE), axis=False)
        blur = QToolButton()
        blur.setText("blur on" if node.depth_of_field else "blur off")
        blur.setCheckable(True)
        blur.setChecked(node.depth_of_field)
        blur.setFixedHeight(23)
        blur.setStyleSheet(f"QToolButton {{ background: {RAISED}; padding: 2px 5px; }}")
        blur.setToolTip("Depth of field: what is out of focus blurs, in frames of more than one sample")
        blur.clicked.connect(
            lambda on: document.change_nodes(f"Depth of field {'on' if on else 'off'}", [node.id], depth_of_field=on)
        )
        grid.addWidget(blur, row, 3)
        self._channel_row(grid, "Shutter", node, (SHUTTER,), axis=False)
        row = grid.rowCount()
        grid.addWidget(label("Aim", "soft"), row, 0)
        aim = QToolButton()
        text = "nothing"
        if isinstance(node.aim, AimNode):
            text = document.scene.node(node.aim.node).name
        elif isinstance(node.aim, AimPoint):
            text = "a point"
        aim.setText(f"{text} ▾")
        aim.setStyleSheet(f"QToolButton {{ background: {RAISED}; color: {TEXT}; padding: 2px 8px; }}")
        aim.setFixedHeight(23)
        aim.setToolTip("What the camera looks at")
        aim.clicked.connect(lambda: self._aim_menu(aim, node))
        grid.addWidget(aim, row, 1, 1, 2)
        self._note = label("", "soft", 11)
        grid.addWidget(self._note, row, 3)
        if isinstance(node.aim, AimPoint):
            self._channel_row(grid, "Aim point", node, AIM)

    # Showing

    def _refresh_values(self) -> None:
        node = self._document.active
        if node is None:
            return
        for field in self.fields.values():
            field.refresh()
        for dot, names in self._dots:
            marks = {channel_mark(self._document, node.id, name) for name in names}
            mark = next((each for each in ("pending", "here", "keyed") if each in marks), "none")
            if mark != dot.mark:
                dot.mark = mark
                dot.update()
        if self._angle is not None and isinstance(node, Camera):
            angles = self._document.here.camera(node.id).angles()
            self._angle.show_value(float(angles[0][0]), "none", node.locked)
        if self._note is not None:
            distance = aim_distance(self._document.here, node.id)
            self._note.setText("" if distance is None else f"{float(distance[0]):.2f} away")

    # Changing

    def _toggle_keys(self, title: str, node_id: str, names: tuple[str, ...]) -> None:
        document = self._document
        node = document.scene.node(node_id)
        here = [
            KeyRef(node_id, name, document.frame)
            for name in names
            if (channel := node.channel(name)) and channel.key_at(document.frame)
        ]
        if here and not any(channel_mark(document, node_id, name) == "pending" for name in names):
            document.edit(f"Delete keys: {node.name} · {title.lower()}", lambda scene: remove_keys(scene, here))
            return
        values = [(node_id, name, document.value(node_id, name)) for name in names]
        document.apply_recorded(f"Key {node.name} · {title.lower()}", key_now(document.state, values, document.frame))

    def _set_angle(self, node: Camera, angle: float, repeats: bool) -> None:
        settings = self._document.settings
        focal_px = settings.width / (2.0 * math.tan(math.radians(angle) / 2.0))
        per_mm = float(
            self._document.here.camera(node.id).focal_px[0] / self._document.here.camera(node.id).focal_mm[0]
        )
        focal = focal_px / per_mm
        merge = f"{node.id}/angle/{self._document.frame}" if repeats else ""
        self._document.set_values(self._document.label(node.id, FOCAL), {(node.id, FOCAL): focal}, merge)

    def _colour_menu(self, chip: _Chip, node: AnyNode) -> None:
        menu = QMenu(self)
        for tone in NODE_COLOURS:
            action = menu.addAction(_swatch(tone), "")
            action.triggered.connect(
                lambda checked, tone=tone: self._document.change_nodes(
                    f"Colour {node.name}", self._document.selection, colour=tone
                )
            )
        menu.addSeparator()
        menu.addAction("No colour").triggered.connect(
            lambda: self._document.change_nodes(f"Colour {node.name}", self._document.selection, colour="")
        )
        menu.exec(chip.mapToGlobal(QPoint(0, chip.height())))

    def _carrier_menu(self, button: QToolButton, node: AnyNode) -> None:
        document = self._document
        menu = QMenu(self)
        choices = [
            (None, "Nothing"),
            *((other.id, other.name) for other in document.scene.nodes if other.id != node.id),
        ]
        for carrier_id, name in choices:
            action = menu.addAction(name)
            action.setCheckable(True)
            action.setChecked(node.carrier == carrier_id)
            action.triggered.connect(
                lambda checked, carrier_id=carrier_id, name=name: document.edit(
                    f"Hang {node.name} on {name}" if carrier_id else f"Take {node.name} off its carrier",
                    lambda scene: carry_together(scene, document.selection, carrier_id, document.frame),
                )
            )
        menu.exec(button.mapToGlobal(QPoint(0, button.height())))

    def _sensor_menu(self, button: QToolButton, node: Camera) -> None:
        document = self._document
        menu = QMenu(self)
        for focal in LENSES:
            menu.addAction(f"{focal} mm").triggered.connect(
                lambda checked, focal=focal: document.set_values(f"{focal} mm lens", {(node.id, FOCAL): float(focal)})
            )
        menu.addSeparator()
        for name, width, height in SENSORS:
            action = menu.addAction(f"Sensor {name}")
            action.setCheckable(True)
            action.setChecked((node.sensor_width, node.sensor_height) == (width, height))
            action.triggered.connect(lambda checked, w=width, h=height: self._set_sensor(node, w, h))
        menu.addAction("Other sensor…").triggered.connect(lambda: self._ask_sensor(node))
        menu.addSeparator()
        for fit in ("width", "height", "cover", "contain"):
            action = menu.addAction(f"Fit: {fit}")
            action.setCheckable(True)
            action.setChecked(node.fit == fit)
            action.triggered.connect(
                lambda checked, fit=fit: document.change_nodes(f"Fit sensor by {fit}", [node.id], fit=fit)
            )
        menu.exec(button.mapToGlobal(QPoint(0, button.height())))

    def _set_sensor(self, node: Camera, width: float, height: float) -> None:
        self._document.change_nodes("Change sensor", [node.id], sensor_width=width, sensor_height=height)

    def _ask_sensor(self, node: Camera) -> None:
        text, accepted = QInputDialog.getText(
            self, "Sensor", "Width × height in millimetres:", text=f"{node.sensor_width:g} × {node.sensor_height:g}"
        )
        if not accepted:
            return
        try:
            width, height = (float(part) for part in text.replace("×", "x").lower().split("x"))
            if not (0.01 < width <= 10_000 and 0.01 < height <= 10_000):
                raise ValueError
        except ValueError:
            self._document.say(f"“{text}” is no sensor size. Type it as 36 × 24.", True)
            return
        self._set_sensor(node, width, height)

    def _aim_menu(self, button: QToolButton, node: Camera) -> None:
        menu = QMenu(self)
        menu.addAction("Nothing (keep the pose)").triggered.connect(lambda: release(self._document, node.id))
        menu.addAction("A point, here").triggered.connect(
            lambda: self._document.edit(
                f"Aim {node.name} at a point", lambda scene: aim_at_point(scene, node.id, self._document.frame)
            )
        )
        menu.addSeparator()
        for other in self._document.scene.nodes:
            if other.id != node.id:
                menu.addAction(other.name).triggered.connect(
                    lambda checked, other=other: self._document.edit(
                        f"Aim {node.name} at {other.name}", lambda scene: aim_at_node(scene, node.id, other.id)
                    )
                )
        menu.exec(button.mapToGlobal(QPoint(0, button.height())))


def release(document: Document, camera_id: str) -> None:
    """Take a camera's aim away; its pose at the playhead is kept."""
    name = document.scene.node(camera_id).name
    freed, values = release_aim(document.scene, camera_id, document.frame)
    if freed is document.scene:
        document.say(f"{name} is not aimed at anything.")
        return
    changes = {(camera_id, channel): value for channel, value in values.items()}
    recorded = record(document.state.with_scene(freed), changes, document.frame, document.auto_key)
    document.apply_recorded(f"Take the aim of {name} away", recorded)


def _swatch(tone: str) -> QIcon:
    pixmap = QPixmap(16, 16)
    pixmap.fill(colour(tone))
    return QIcon(pixmap)
