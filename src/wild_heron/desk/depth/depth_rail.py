"""The Depth rail: what is seen, ordered and spaced by its distance from the lens."""

import msgspec
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QFont, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QToolButton

from ...edits.arranging import push_together
from ...edits.posing import depth_of, values_for_depth
from ...scene import SceneError
from ..state.document import Document
from ..widgets.drag import Drag, DragArea, Keys
from ..widgets.panel_parts import Panel, label
from ..widgets.theme import AMBER, LINE, RAISED, SKY, SOFT, TEXT, colour, elided, font, laid_out
from ..widgets.unexpected import painted

_RAIL_X = 26.0
_TAG_X = 44.0
_TAG = 19.0


class _Tag(msgspec.Struct):
    node: str
    name: str
    depth: float
    rail_y: float
    y: float
    hidden: bool
    tone: str


def spread(wanted: list[float], gap: float, low: float, high: float) -> list[float]:
    """Places near the wanted ones (in rising order), at least ``gap`` apart, within ``low`` to ``high``."""
    places: list[float] = []
    for y in wanted:
        places.append(max(y, low, (places[-1] + gap) if places else low))
    limit = high
    for i in reversed(range(len(places))):
        places[i] = min(places[i], limit)
        limit = places[i] - gap
    return places


class Rail(DragArea):
    """Draws the rail; dragging a tag moves its node along the ray from the lens."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.keep_size = True
        self._hovered: str | None = None
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Depth rail")
        self.setToolTip("Drag a tag to move its picture in depth, or use the up and down keys. Shift: finer.")
        for signal in (
            document.changed,
            document.playhead.moved,
            document.selection.changed,
            document.settings_changed,
        ):
            signal.connect(lambda: document.turns.ask(self, self.update))

    def sizeHint(self) -> QSize:
        return QSize(186, 240)

    @property
    def ends(self) -> tuple[float, float]:
        return 12.0, self.height() - 42.0

    def _farthest(self, tags_depths: list[float]) -> float:
        if isinstance(self.drag, TagDrag):
            return self.drag.farthest
        return max([*tags_depths, 1.0]) * 1.02

    def tags(self) -> tuple[list[_Tag], float]:
        """The tags, the farthest first, and the distance at the top of the rail."""
        seen = self.document.evaluations.seen
        if seen is None:
            return [], 1.0
        here, pose = self.document.evaluations.here, seen.pose[0]
        found = []
        for node in self.document.views.shown.nodes:
            if node.serves_as("seen"):
                depth = float((pose[:3, 3] - here.position(node.id)[0]) @ pose[:3, 2])
                if depth > 0.0:
                    found.append((depth, node))
        found.sort(key=lambda each: -each[0])
        farthest = self._farthest([depth for depth, _ in found])
        top, bottom = self.ends
        rail = [bottom - min(depth / farthest, 1.05) * (bottom - top) for depth, _ in found]
        gap = min(_TAG, max((bottom - top) / max(len(found), 1), 9.0))
        places = spread(rail, gap, top, bottom - 4)
        tags = [
            _Tag(node.id, node.name, depth, y, place, node.hidden, node.colour or SOFT)
            for (depth, node), y, place in zip(found, rail, places, strict=True)
        ]
        return tags, farthest

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        top, bottom = self.ends
        seen = self.document.evaluations.seen
        if seen is None:
            return
        tags, farthest = self.tags()

        def y_of(depth: float) -> float:
            return bottom - min(max(depth / farthest, 0.0), 1.0) * (bottom - top)

        p.setPen(QPen(colour(LINE), 2))
        p.drawLine(QPointF(_RAIL_X, top - 4), QPointF(_RAIL_X, bottom))
        sharp = seen.focus_range()
        near, far = y_of(sharp.near), y_of(min(sharp.far, farthest))
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(colour(AMBER, 0.24))
        p.drawRoundedRect(QRectF(_RAIL_X - 7, far, 14, max(near - far, 3)), 6, 6)
        one_to_one = float(seen.frame_distance(self.document.settings.pixels_per_unit)[0])
        if one_to_one <= farthest:
            y = y_of(one_to_one)
            p.setPen(QPen(colour(SKY), 1.4, Qt.PenStyle.DotLine))
            p.drawLine(QPointF(_RAIL_X - 12, y), QPointF(_RAIL_X + 12, y))
        self._paint_tags(p, tags)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(colour(AMBER))
        p.drawPolygon(
            QPolygonF(
                [QPointF(_RAIL_X, bottom - 5), QPointF(_RAIL_X - 6, bottom + 6), QPointF(_RAIL_X + 6, bottom + 6)]
            )
        )
        p.setFont(font(11))
        p.setPen(colour(SOFT))
        p.drawText(QRectF(_TAG_X, bottom + 4, self.width() - _TAG_X - 12, 14), Qt.AlignmentFlag.AlignLeft, "lens")
        p.drawText(
            QRectF(14, bottom + 21, self.width() - 26, 15),
            Qt.AlignmentFlag.AlignLeft,
            p.fontMetrics().elidedText(
                f"frame distance {one_to_one:.1f}", Qt.TextElideMode.ElideRight, self.width() - 34
            ),
        )
        p.setPen(QPen(colour(SKY), 1.4, Qt.PenStyle.DotLine))
        width = p.fontMetrics().horizontalAdvance(f"frame distance {one_to_one:.1f}")
        if self.width() > width + 52:
            p.drawLine(QPointF(22 + width, bottom + 29), QPointF(min(46 + width, self.width() - 12), bottom + 29))

    def _paint_tags(self, p: QPainter, tags: list[_Tag]) -> None:
        width = self.width()
        last_y = -100.0
        for tag in tags:
            selected = tag.node in self.document.selection.nodes
            tone = colour(AMBER if selected else SOFT, 0.45 if tag.hidden else 1.0)
            p.setPen(QPen(tone, 2 if selected else 1.5))
            p.drawLine(QPointF(_RAIL_X - 6, tag.rail_y), QPointF(_RAIL_X + 6, tag.rail_y))
            if tag.y - last_y < 12 and not selected and tag.node != self._hovered:
                continue  # No room for its name; it shows when it is pointed at.
            last_y = tag.y
            p.setPen(QPen(colour(AMBER if selected else LINE), 1))
            p.drawLine(QPointF(_RAIL_X + 7, tag.rail_y), QPointF(_TAG_X - 3, tag.y))
            row = QRectF(_TAG_X - 1, tag.y - 9, width - _TAG_X - 7, 18)
            if selected or tag.node == self._hovered:
                p.setPen(Qt.PenStyle.NoPen)
                p.setBrush(colour(RAISED))
                p.drawRoundedRect(row, 3, 3)
            weight = QFont.Weight.Medium if selected else QFont.Weight.Normal
            p.setFont(font(11, weight))
            p.setPen(colour(AMBER if selected else SOFT, 0.5 if tag.hidden else 1.0))
            number = laid_out(f"{tag.depth:.1f}", 11, weight)
            left = row.right() - 5 - number.size().width()
            top = row.center().y() - number.size().height() / 2
            p.drawStaticText(QPointF(left, top), number)
            p.setPen(colour(AMBER if selected else TEXT, 0.5 if tag.hidden else 1.0))
            name = elided(tag.name, int(left - row.left() - 11), 11, weight)
            p.drawStaticText(QPointF(row.left() + 5, top), laid_out(name, 11, weight))

    def tag_at(self, at: QPointF) -> _Tag | None:
        tags, _ = self.tags()
        if at.x() < _TAG_X - 4:
            close = [tag for tag in tags if abs(tag.rail_y - at.y()) < 6]
            return min(close, key=lambda tag: abs(tag.rail_y - at.y()), default=None)
        close = [tag for tag in tags if abs(tag.y - at.y()) <= _TAG / 2]
        return min(close, key=lambda tag: abs(tag.y - at.y()), default=None)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        tag = self.tag_at(event.position())
        if tag is None:
            self.document.selection.choose([])
            return
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.document.selection.choose([*self.document.selection.nodes, tag.node])
        elif tag.node not in self.document.selection.nodes:
            self.document.selection.choose([tag.node])
        _, farthest = self.tags()
        several = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        self.drag = TagDrag(event.position(), self, tag, farthest, several)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        if self.drag is not None:
            self.drag.move(event.position(), event.modifiers())
            return
        tag = self.tag_at(event.position())
        hovered = tag.node if tag else None
        self.setCursor(Qt.CursorShape.SizeVerCursor if tag else Qt.CursorShape.ArrowCursor)
        if hovered != self._hovered:
            self._hovered = hovered
            self.update()

    def move_to_depth(self, node: str, depth: float, merge: str = "") -> None:
        """Put a node at a depth, keeping its apparent size if that is switched on.

        With several selected, all of them move so that their distances keep their proportions.
        """
        document, camera = self.document, self.document.views.camera
        if camera is None:
            return
        try:
            start = document.gesture.base.shown(document.playhead.frame)
            if len(document.selection.nodes) > 1:
                factor = depth / depth_of(start, camera.id, node, document.playhead.frame)
                changes = push_together(
                    start, camera.id, document.selection.nodes, factor, document.playhead.frame, self.keep_size
                )
            else:
                values = values_for_depth(start, camera.id, node, depth, document.playhead.frame, self.keep_size)
                changes = {(node, channel): value for channel, value in values.items()}
        except SceneError as problem:
            document.messages.say(str(problem), True)
            return
        document.recorder.set_values(self.step_name(node), changes, merge)

    def step_name(self, node: str) -> str:
        others = len(self.document.selection.nodes) - 1
        name = self.document.scene.node(node).name
        return f"Move {name}{f' and {others} more' if others > 0 else ''} in depth"

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self._step(1.0 if event.key() == Qt.Key.Key_Up else -1.0, event)
        else:
            super().keyPressEvent(event)

    def _step(self, way: float, event: QKeyEvent) -> None:
        """Move the active picture away or nearer by a tenth of a unit (Shift: a hundredth)."""
        active = self.document.selection.active
        tag = next((tag for tag in self.tags()[0] if active is not None and tag.node == active.id), None)
        if tag is not None:
            fine = 0.01 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 0.1
            self.move_to_depth(
                tag.node, max(tag.depth + way * fine, 0.01), f"depth/{tag.node}/{self.document.playhead.frame}"
            )

    def leaveEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        self._hovered = None
        self.update()


class TagDrag(Drag):
    """A tag along the rail, and with it all that is selected. Shift: finer."""

    def __init__(self, start: QPointF, rail: Rail, tag: _Tag, farthest: float, several: bool) -> None:
        """``farthest``: the distance at the top of the rail, which stays while it is dragged."""
        super().__init__(start)
        self._rail, self._node, self._depth, self.farthest, self._several = rail, tag.node, tag.depth, farthest, several

    def move(self, at: QPointF, keys: Keys) -> None:
        rail, moved = self._rail, -self.offset(at).y()
        if not rail.document.gesture.running and abs(moved) < 3:
            return
        rail.document.gesture.begin(rail.step_name(self._node))
        top, bottom = rail.ends
        fine = 0.1 if keys & Keys.ShiftModifier else 1.0
        depth = self._depth + fine * moved * self.farthest / (bottom - top)
        rail.move_to_depth(self._node, max(depth, self.farthest * 1e-3))

    def release(self, at: QPointF) -> None:
        document = self._rail.document
        dragged = document.gesture.running
        document.gesture.commit()
        if not dragged and not self._several:
            document.selection.choose([self._node])  # A click, where a drag would have moved all that is selected.

    def cancel(self) -> None:
        self._rail.document.cancel()


class DepthPanel(Panel):
    """The lower left area."""

    def __init__(self, document: Document) -> None:
        super().__init__("Depth")
        self.document = document
        self.strip.addStretch()
        self.keep = QToolButton()
        self.keep.setText("keep size")
        self.keep.setFont(font(11))
        self.keep.setCheckable(True)
        self.keep.setChecked(True)
        self.keep.setToolTip("Keep apparent size: a picture moved in depth is scaled so that it looks the same")
        self.keep.toggled.connect(self._keep)
        self.strip.addWidget(self.keep)
        self.rail = Rail(document)
        self._hint = label("", "soft")
        self._hint.setWordWrap(True)
        self._hint.setContentsMargins(14, 4, 10, 8)
        self._hint.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.body.addWidget(self._hint)
        self.body.addWidget(self.rail, 1)
        document.changed.connect(self._refresh)
        self._refresh()

    def _keep(self, on: bool) -> None:
        self.rail.keep_size = on

    def _refresh(self) -> None:
        scene = self.document.scene
        pictures = any(node.serves_as("seen") for node in scene.nodes)
        self._hint.setVisible(self.document.views.camera is None or not pictures)
        self._hint.setText(
            "Add a camera to see how far things are from its lens."
            if self.document.views.camera is None
            else "Drop pictures here or on the Lens: they line up by their distance."
        )
