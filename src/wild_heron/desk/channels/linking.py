"""Links by dragging: a plug on channels and dials that is dragged onto another channel, and wires that show them."""

from functools import partial

from PyQt6.QtCore import QEvent, QMimeData, QObject, QPoint, QPointF, QRectF, Qt
from PyQt6.QtGui import QDrag, QDropEvent, QPainter, QPainterPath, QPaintEvent, QPen, QPixmap
from PyQt6.QtWidgets import QMenu, QWidget

from ... import edits
from ...edits import set_links
from ...scene import Link, channel_or_default
from ...scene.inputs import ChannelRef
from ...scene.links import dependent_channels, sources
from ..state.document import Document
from ..widgets.theme import AMBER, DEEP, SKY, colour
from ..widgets.unexpected import painted

MIME = "application/x-wild-heron-channel"
"""A node's id and a channel's name."""


def show_wires_of(widget: QWidget, place: ChannelRef) -> None:
    """Let the window that a widget is in draw the wires of the channel that it stands for."""
    above: QWidget | None = widget.window()
    while above is not None and not isinstance(getattr(above, "wires", None), Wires):
        parent = above.parentWidget()
        above = parent.window() if parent is not None else None
    if above is not None:
        wires: Wires = above.wires  # type: ignore[attr-defined]
        wires.add(place, widget)


def start_link_drag(widget: QWidget, place: ChannelRef) -> None:
    """Drag a channel's plug; what it is dropped on takes it as a link."""
    drag = QDrag(widget)
    data = QMimeData()
    data.setData(MIME, "\n".join(place).encode())
    drag.setMimeData(data)
    pixmap = QPixmap(18, 18)
    pixmap.fill(Qt.GlobalColor.transparent)
    p = QPainter(pixmap)
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    p.setBrush(colour(SKY))
    p.setPen(QPen(colour(DEEP), 2))
    p.drawEllipse(QRectF(3, 3, 12, 12))
    p.end()
    drag.setPixmap(pixmap)
    drag.setHotSpot(QPoint(9, 9))
    drag.exec(Qt.DropAction.CopyAction)


def dragged_place(data: QMimeData | None) -> ChannelRef | None:
    """The channel that is being dragged, if one is."""
    if data is None or not data.hasFormat(MIME):
        return None
    node, _, channel = data.data(MIME).data().decode().partition("\n")
    return node, channel


def take_link(document: Document, event: QDropEvent, target: ChannelRef) -> None:
    """Link the dropped channel to another, with fitting ranges."""
    source = dragged_place(event.mimeData())
    if source is None:
        return
    event.setDropAction(Qt.DropAction.CopyAction)
    event.accept()
    link_channels(document, source, target)


def link_channels(document: Document, source: ChannelRef, target: ChannelRef) -> None:
    """One channel drives another from now on, as one step."""
    if source == target:
        document.messages.say("A channel cannot drive itself: drop it on another.", True)
        return
    given, taking = document.label(*source), document.label(*target)

    def change(scene):  # type: ignore[no-untyped-def]
        channel = channel_or_default(scene.node(target[0]), target[1])
        others = tuple(each for each in channel.links if (each.node, each.channel) != source)
        return set_links(scene, *target, (*others, edits.link_between(scene, source, target)))

    if document.edit(f"Link {given} to {taking}", change):
        document.messages.say(f"{given} now drives {taking}. Right-click it to change the ranges.")


def link_text(document: Document, link: Link) -> str:
    """A link in words."""
    source = document.label(link.node, link.channel)
    return f"{source}: {link.low:g} … {link.high:g}  →  {link.out_low:g} … {link.out_high:g}"


def fill_link_menu(menu: QMenu | None, document: Document, place: ChannelRef) -> None:
    """What drives a channel: links to change or take away, and dials to link from."""
    from .link_dialog import LinkDialog

    channel = channel_or_default(document.scene.node(place[0]), place[1])
    for number, link in enumerate(channel.links):
        action = menu.addAction(link_text(document, link) + "…")
        action.triggered.connect(
            lambda checked, number=number: LinkDialog(document, place, number, menu.parentWidget()).show()
        )
    if channel.links:
        menu.addSeparator()
    for node in document.scene.nodes:
        for dial in node.dials:
            source = (node.id, dial.channel)
            if source != place:
                action = menu.addAction(f"Link from {dial.name} ({node.name})")
                action.triggered.connect(partial(_linked, document, source, place))
    if menu.isEmpty():
        menu.addAction("Drag the plug of another channel or dial here").setEnabled(False)


def _linked(document: Document, source: ChannelRef, place: ChannelRef, checked: bool = False) -> None:
    link_channels(document, source, place)


class Wires(QWidget):
    """Lies over the window and draws what drives the channel under the pointer, and what that drives."""

    def __init__(self, window: QWidget, document: Document) -> None:
        super().__init__(window)
        self._document = document
        self._ends: dict[ChannelRef, list[QWidget]] = {}
        self._nodes: QObject | None = None
        self._hovered: ChannelRef | None = None
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.setAttribute(Qt.WidgetAttribute.WA_NoSystemBackground)
        self.hide()
        window.installEventFilter(self)

    def add(self, place: ChannelRef, widget: QWidget) -> None:
        """A widget that stands for a channel while it exists."""
        self._ends.setdefault(place, []).append(widget)
        widget.installEventFilter(self)
        widget.destroyed.connect(lambda: self._gone(place))

    def _gone(self, place: ChannelRef) -> None:
        if self._hovered == place:
            self.show_for(None)

    def _alive(self, place: ChannelRef) -> QWidget | None:
        kept = []
        for widget in self._ends.get(place, ()):
            try:
                widget.objectName()
                kept.append(widget)
            except RuntimeError:
                continue  # Qt has deleted it.
        self._ends[place] = kept
        return next((widget for widget in reversed(kept) if widget.isVisible()), None)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None:
            if watched is self.parent():
                if event.type() == QEvent.Type.Resize:
                    self.resize(self.parentWidget().size())
            elif event.type() == QEvent.Type.Enter:
                place = getattr(watched, "place", None)
                if place is not None:
                    self.show_for(place)
            elif event.type() in (QEvent.Type.Leave, QEvent.Type.Hide):
                self.show_for(None)
        return False

    def show_for(self, place: ChannelRef | None) -> None:
        """Draw the wires of a channel; None: of none."""
        self._hovered = place if place is not None and self.pairs(place) else None
        self.setVisible(self._hovered is not None)
        if self._hovered is not None:
            self.resize(self.parentWidget().size())
            self.raise_()
            self.update()

    def pairs(self, place: ChannelRef) -> list[tuple[ChannelRef, ChannelRef]]:
        """From and to of every link and formula that has to do with a channel."""
        scene = self._document.scene
        if place[0] not in scene:
            return []
        node = scene.node(place[0])
        channel = node.channel(place[1])
        into = sources(scene, node, channel) if channel is not None else ()
        return [*((each, place) for each in into), *((place, each) for each in dependent_channels(scene, *place))]

    def _spot(self, place: ChannelRef, leaving: bool) -> QPointF | None:
        widget = self._alive(place)
        if widget is None or self._hovered is None:
            return None
        side = QPoint(widget.width() - 3 if leaving else 3, widget.height() // 2)
        return QPointF(self.mapFromGlobal(widget.mapToGlobal(side)))

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self._hovered is None:
            return
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        for start, end in self.pairs(self._hovered):
            a, b = self._spot(start, True), self._spot(end, False)
            known = a or b
            if known is None:
                continue
            # A channel whose field is not on screen is told by its name, at the end of a short wire.
            other = QPointF(known.x() + (46 if a else -46), known.y() - 26)
            a, b, loose = a or other, b or other, start if a is None else end if b is None else None
            path = QPainterPath(a)
            reach = max(abs(b.x() - a.x()) * 0.5, 30.0)
            path.cubicTo(QPointF(a.x() + reach, a.y()), QPointF(b.x() - reach, b.y()), b)
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(QPen(colour(DEEP, 0.8), 5))
            p.drawPath(path)
            p.setPen(QPen(colour(SKY), 2))
            p.drawPath(path)
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(colour(AMBER))
            p.drawEllipse(b, 3.5, 3.5)
            p.setBrush(colour(SKY))
            p.drawEllipse(a, 3.5, 3.5)
            if loose is not None and loose[0] in self._document.scene:
                self._name(p, other, self._document.label(*loose))

    def _name(self, p: QPainter, at: QPointF, text: str) -> None:
        width = p.fontMetrics().horizontalAdvance(text) + 14
        left = min(max(at.x() - width / 2, 4.0), self.width() - width - 4.0)
        box = QRectF(left, at.y() - 22, width, 19)
        p.setBrush(colour(DEEP))
        p.setPen(QPen(colour(SKY), 1))
        p.drawRoundedRect(box, 4, 4)
        p.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
