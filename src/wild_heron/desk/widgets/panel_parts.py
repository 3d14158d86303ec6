"""Parts that panels share: the heading strip, and labels."""

from collections.abc import Callable

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QFont, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QLabel, QMenu, QScrollArea, QToolButton, QVBoxLayout, QWidget

from .icons import icon
from .strip import Strip
from .theme import AMBER, MISSING, REED, RUST, SOFT, colour, font, heading_font
from .unexpected import painted


def label(text: str, role: str = "", size: int = 12, weight: QFont.Weight = QFont.Weight.Normal) -> QLabel:
    out = QLabel(text)
    out.setTextFormat(Qt.TextFormat.PlainText)
    out.setFont(font(size, weight))
    if role:
        out.setProperty("role", role)
    return out


def set_role(text: QLabel, role: str) -> None:
    """Give a label that is shown another colour: soft, warning, good, active."""
    if text.property("role") != role:
        text.setProperty("role", role)
        style = text.style()
        style.unpolish(text)
        style.polish(text)


_ROLES = {RUST: "warning", SOFT: "soft", REED: "good", AMBER: "active", MISSING: "missing"}


def set_tone(text: QLabel, tone: str = "") -> None:
    """Give a label one of the theme's colours; none: that of plain text."""
    set_role(text, _ROLES.get(tone, ""))


def set_surface(widget: QWidget, surface: str, edge: str = "") -> None:
    """What a widget is painted on (see the style sheet), and the ``edge`` at which it has a line.

    By its object name: what asks for a property would be put to every widget there is.
    """
    widget.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
    widget.setObjectName(f"on-{surface}-{edge}" if edge else f"on-{surface}")


def icon_button(name: str, tip: str, checkable: bool = False, size: int = 26) -> QToolButton:
    out = QToolButton()
    out.setIcon(icon(name))
    out.setToolTip(tip)
    out.setAccessibleName(tip)
    out.setCheckable(checkable)
    out.setFixedSize(size, size)
    return out


def menu_button(text: str, tip: str, slot: Callable[[], object]) -> QToolButton:
    """A button with words that opens a menu."""
    out = QToolButton()
    out.setText(text)
    out.setFont(font(11))
    out.setToolTip(tip)
    out.setAccessibleName(tip)
    out.setProperty("look", "word")
    out.clicked.connect(lambda: slot())
    return out


def popup_menu(parent: QWidget) -> QMenu:
    """A menu that is gone when it has been used."""
    menu = QMenu(parent)
    menu.aboutToHide.connect(menu.deleteLater)
    return menu


class Choice(QComboBox):
    """A drop-down with its arrow drawn in the theme's colours."""

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setPen(QPen(colour(SOFT), 1.5))
        x, y = self.width() - 14.0, self.height() / 2 - 1.5
        p.drawPolyline(QPolygonF([QPointF(x - 3.5, y), QPointF(x, y + 3.5), QPointF(x + 3.5, y)]))


class Panel(QWidget):
    """An area of the window: a heading strip over its content."""

    def __init__(self, title: str, surface: str = "panel") -> None:
        super().__init__()
        set_surface(self, surface)
        self.strip = QHBoxLayout()
        self.strip.setContentsMargins(14, 0, 8, 0)
        self.strip.setSpacing(4)
        self.title = QLabel(title.upper())
        self.title.setFont(heading_font())
        self.title.setProperty("role", "heading")
        self.strip.addWidget(self.title)
        strip = QWidget()
        strip.setFixedHeight(32)
        strip.setLayout(self.strip)
        self.body = QVBoxLayout(self)
        self.body.setContentsMargins(0, 0, 0, 0)
        self.body.setSpacing(0)
        self.body.addWidget(Strip(strip))


def show_page(area: QScrollArea, page: QWidget) -> None:
    """Show a page in place of the one before, which may be in the midst of a click or a drag: it goes once that is
    over."""
    before = area.takeWidget()
    area.setWidget(page)
    if before is not None:
        before.hide()
        before.deleteLater()
