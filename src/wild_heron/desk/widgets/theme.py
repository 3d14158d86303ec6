"""Dusk over a marsh: colours, type and the style sheet."""

from functools import lru_cache

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor, QFont, QFontDatabase, QFontMetrics, QPalette, QStaticText
from PyQt6.QtWidgets import QApplication

from ...files.formats import FONTS
from .palettes import (
    AMBER,
    AXES,
    BLANK,
    BRIGHT_LINE,
    DEEP,
    FADED,
    FAINT,
    HOVER,
    LINE,
    LIT_AMBER,
    MISSING,
    OFFER,
    PANEL,
    PENDING,
    PLUM,
    RAISED,
    REED,
    RUST,
    SKY,
    SLATE,
    SOFT,
    STRAW,
    STRIPE,
    SURROUND,
    TEXT,
    THEMES,
)  # fmt: skip

__all__ = [
    "AMBER", "AXES", "BLANK", "BRIGHT_LINE", "DEEP", "FADED", "FAINT", "HOVER", "LINE", "LIT_AMBER", "MISSING", "OFFER", "PANEL",
    "PENDING", "PLUM", "RAISED", "REED", "RUST", "SKY", "SLATE", "SOFT", "STRAW", "STRIPE", "SURROUND", "TEXT",
]  # fmt: skip

_shown: dict[str, str] = {}
"""What the theme shows in place of dusk's colours."""

# What a node's own colour may be, in the order they are offered.
NODE_COLOURS = (REED, AMBER, RUST, SKY, PLUM, STRAW, SLATE)


@lru_cache(maxsize=512)
def colour(name: str, alpha: float = 1.0) -> QColor:
    """A colour of the interface by dusk's value, as the theme has it; shared, so never changed by who gets it."""
    out = QColor(shown(name))
    out.setAlphaF(alpha)
    return out


@lru_cache(maxsize=512)
def on_picture(name: str, alpha: float = 1.0) -> QColor:
    """A colour as it is: for what is drawn over a picture, whatever the theme."""
    out = QColor(name)
    out.setAlphaF(alpha)
    return out


def shown(name: str) -> str:
    """What the theme shows in place of one of dusk's colours; another colour, such as a node's own, is made legible."""
    return _shown.get(name) or _legible(name, theme_name())


def theme_name() -> str:
    """The theme that is shown: part of what a painting that is kept depends on."""
    return _shown.get("", "dusk")


@lru_cache(maxsize=512)
def _legible(name: str, theme: str) -> str:
    if theme == "dusk":
        return name
    hue, saturation, lightness, _ = QColor(name).getHslF()
    lightness = min(lightness or 0.0, 0.36) if theme == "morning" else max(lightness or 0.0, 0.68)
    return QColor.fromHslF(max(hue or 0.0, 0.0), saturation or 0.0, lightness).name()


@lru_cache(maxsize=64)
def font(size: int = 12, weight: QFont.Weight = QFont.Weight.Normal) -> QFont:
    """Inter with figures of one width; shared, so never changed by who gets it. ``size`` is that of a screen of 96 dots
    an inch, in pixels: it is set in points, so that text heeds what the system says of the screen."""
    out = QFont("Inter")
    out.setPointSizeF(size * 0.75)
    out.setWeight(weight)
    out.setFeature(QFont.Tag("tnum"), 1)
    return out


@lru_cache(maxsize=1024)
def elided(text: str, width: int, size: int = 12, weight: QFont.Weight = QFont.Weight.Normal) -> str:
    """The text, cut with an ellipsis where it is wider than ``width`` pixels."""
    return QFontMetrics(font(size, weight)).elidedText(text, Qt.TextElideMode.ElideRight, width)


@lru_cache(maxsize=4096)
def laid_out(text: str, size: int = 12, weight: QFont.Weight = QFont.Weight.Normal) -> QStaticText:
    """A text whose glyphs are placed once, for what is painted over and over. Draw it in the same font."""
    out = QStaticText(text)
    out.setTextFormat(Qt.TextFormat.PlainText)
    out.prepare(font=font(size, weight))
    return out


def heading_font() -> QFont:
    out = QFont(font(11, QFont.Weight.DemiBold))
    out.setLetterSpacing(QFont.SpacingType.AbsoluteSpacing, 1.2)
    return out


_MENU_BAR = f"""\
QMenuBar {{ background: {DEEP}; padding: 1px 8px; }}
QMenuBar::item {{ padding: 4px 9px; border-radius: 4px; background: transparent; }}
QMenuBar::item:selected {{ background: {RAISED}; }}
"""
_STYLE = f"""
QMainWindow, QDialog {{ background: {PANEL}; }}
{_MENU_BAR}QMenu {{ background: {PANEL}; border: 1px solid {LINE}; padding: 5px; }}
QMenu::item {{ padding: 5px 26px 5px 22px; border-radius: 4px; }}
QMenu::item:selected {{ background: {HOVER}; }}
QMenu::item:disabled {{ color: {FADED}; }}
#recent {{ icon-size: 64px; }}
QMenu::separator {{ height: 1px; background: {LINE}; margin: 5px 8px; }}
QMenu::indicator {{ width: 10px; height: 10px; margin-left: 6px; border-radius: 5px; border: 1px solid {SOFT}; }}
QMenu::indicator:checked {{ background: {AMBER}; border-color: {AMBER}; }}
QToolTip {{ background: {RAISED}; color: {TEXT}; border: 1px solid {LINE}; padding: 4px 6px; }}
QSplitter::handle {{ background: {LINE}; }}
QSplitter::handle:horizontal {{ width: 1px; }}
QSplitter::handle:vertical {{ height: 1px; }}
QSplitter::handle:hover {{ background: {AMBER}; }}
QPushButton {{ background: {RAISED}; border: 1px solid {LINE}; border-radius: 4px; padding: 5px 14px; }}
QPushButton:hover {{ background: {HOVER}; }}
QPushButton:focus {{ border-color: {AMBER}; }}
QPushButton:disabled {{ color: {FADED}; }}
QPushButton[main="true"] {{ background: {AMBER}; color: {DEEP}; border-color: {AMBER}; font-weight: 600; }}
QPushButton[main="true"]:hover {{ background: {LIT_AMBER}; }}
QPushButton[main="true"]:disabled {{ background: {RAISED}; color: {FADED}; border-color: {LINE}; }}
QToolButton {{ background: transparent; border: none; border-radius: 4px; padding: 3px; color: {SOFT}; }}
QToolButton:hover {{ background: {RAISED}; color: {TEXT}; }}
QToolButton:checked {{ background: {RAISED}; color: {AMBER}; }}
QToolButton:focus {{ outline: none; border: 1px solid {AMBER}; }}
QToolButton::menu-indicator {{ image: none; width: 0; }}
QLineEdit, QSpinBox, QDoubleSpinBox, QComboBox {{
    background: {DEEP}; border: 1px solid {LINE}; border-radius: 4px; padding: 3px 7px; selection-background-color: {HOVER};
}}
QLineEdit:focus, QSpinBox:focus, QComboBox:focus {{ border-color: {AMBER}; }}
QComboBox {{ background: {RAISED}; border-color: {RAISED}; padding: 3px 8px; }}
QComboBox:hover {{ background: {HOVER}; }}
QComboBox::drop-down {{ border: none; width: 18px; }}
QComboBox QAbstractItemView {{
    background: {PANEL}; border: 1px solid {LINE}; selection-background-color: {HOVER}; outline: none; padding: 3px;
}}
QCheckBox::indicator, QRadioButton::indicator {{ width: 13px; height: 13px; border: 1px solid {SOFT}; border-radius: 3px; }}
QRadioButton::indicator {{ border-radius: 7px; }}
QCheckBox::indicator:checked, QRadioButton::indicator:checked {{ background: {AMBER}; border-color: {AMBER}; }}
QProgressBar {{ background: {RAISED}; border: none; border-radius: 5px; height: 10px; text-align: center; color: transparent; }}
QProgressBar::chunk {{ background: {REED}; border-radius: 5px; }}
QScrollBar:vertical {{ background: transparent; width: 9px; margin: 0; }}
QScrollBar:horizontal {{ background: transparent; height: 9px; margin: 0; }}
QScrollBar::handle {{ background: {LINE}; border-radius: 4px; min-height: 24px; min-width: 24px; }}
QScrollBar::handle:hover {{ background: {BRIGHT_LINE}; }}
QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
QScrollBar::add-page, QScrollBar::sub-page {{ background: transparent; }}
QTreeWidget, QListWidget, QTableWidget, QScrollArea, QTextBrowser {{ background: {PANEL}; border: none; outline: none; }}
QHeaderView::section {{ background: {PANEL}; color: {SOFT}; border: none; padding: 4px; }}
#strip, #strip > QWidget, #strip > QWidget > QWidget {{ background: transparent; }}
#strip > QToolButton#more {{ background: {RAISED}; color: {TEXT}; border: 1px solid {LINE}; padding: 0px; }}
#on-panel, #on-panel-top, #on-panel-bottom, #on-panel-left {{ background: {PANEL}; }}
#on-surround {{ background: {SURROUND}; }}
#on-deep-top {{ background: {DEEP}; }}
#on-raised {{ background: {RAISED}; }}
#on-card {{ background: {RAISED}; border-radius: 5px; }}
#on-card QToolButton[look="word"], #on-card QToolButton[look="switch"], #on-card QComboBox {{ background: {PANEL}; }}
#on-card QToolButton[look="word"]:hover, #on-card QComboBox:hover {{ background: {HOVER}; }}
#on-offer-bottom {{ background: {OFFER}; }}
#on-pending {{ background: {PENDING}; border-top: 2px solid {RUST}; }}
#on-field {{ background: {DEEP}; border: 1px solid {LINE}; border-radius: 4px; }}
#on-panel-top, #on-deep-top {{ border-top: 1px solid {LINE}; }}
#on-panel-left {{ border-left: 1px solid {LINE}; }}
#on-panel-bottom, #on-offer-bottom {{ border-bottom: 1px solid {LINE}; }}
QListView::indicator {{ width: 11px; height: 11px; border-radius: 3px; border: 1px solid {SOFT}; margin-right: 5px; }}
QListView::indicator:checked {{ background: {AMBER}; border-color: {AMBER}; }}
QToolButton[look="tab"] {{ color: {SOFT}; background: transparent; padding: 2px 0px; }}
QToolButton[look="tab"]:checked {{ color: {AMBER}; background: transparent; }}
QToolButton[look="switch"] {{ background: {RAISED}; color: {SOFT}; padding: 2px 6px; border-radius: 4px; }}
QToolButton[look="switch"]:checked {{ color: {AMBER}; }}
QToolButton[look="word"] {{ background: {RAISED}; color: {TEXT}; padding: 2px 8px; }}
QToolButton[look="pill"] {{ background: {DEEP}; color: {REED}; border: 1px solid {REED}; border-radius: 11px; padding: 0px 9px; }}
QToolButton[look="pill"]:hover, QToolButton[look="pill"]:focus {{ background: {HOVER}; }}
QToolButton[look="pill"]:focus {{ border-color: {AMBER}; }}
QToolButton[look="main"] {{ background: {AMBER}; color: {DEEP}; padding: 2px 10px; font-weight: 600; }}
QToolButton[look="main"]:hover {{ background: {LIT_AMBER}; }}
QToolButton[look="main"]:focus, QPushButton[main="true"]:focus {{ border: 2px solid {DEEP}; }}
QToolButton[look="caption"] {{ padding: 2px 0px; text-align: left; border: none; background: transparent; }}
QToolButton[look="caption"]:focus {{ border: 1px solid {AMBER}; }}
QToolButton[look="name"] {{ color: {TEXT}; }}
QToolButton[look="recall"] {{ color: {AMBER}; padding: 0px 6px; }}
QLineEdit[look="bare"] {{ border: none; padding: 0 5px; background: transparent; }}
QLineEdit[look="bare"]:focus {{ border: 1px solid {AMBER}; padding: 0 4px; }}
QCheckBox:focus, QRadioButton:focus {{ color: {AMBER}; }}
QLineEdit[look="small"] {{ padding: 1px 4px; }}
QTreeWidget {{ padding-left: 8px; }}
QTreeWidget::item {{ background: transparent; }}
QLabel[role="heading"] {{ color: {SOFT}; }}
QLabel[role="soft"] {{ color: {SOFT}; }}
QLabel[role="warning"] {{ color: {RUST}; }}
QLabel[role="good"] {{ color: {REED}; }}
QLabel[role="active"] {{ color: {AMBER}; }}
QLabel[role="missing"] {{ color: {MISSING}; }}
QLabel[role="group"] {{ color: {SOFT}; border-bottom: 1px solid {LINE}; padding-bottom: 2px; }}
QToolButton[look="dial"] {{ color: {TEXT}; text-align: left; padding: 2px 4px; }}
#ease-panel {{ background: {PANEL}; border: 1px solid {BRIGHT_LINE}; border-radius: 8px; }}
"""


def menu_bar_style() -> str:
    """Alone, for a bar that is seen before everything is styled."""
    return _as_shown(_MENU_BAR)


def _as_shown(style: str) -> str:
    for name, other in _shown.items():
        style = style.replace(name, other) if name else style
    return style


def choose_theme(name: str) -> None:
    """Show the interface in a theme; what is on screen already is painted anew."""
    _shown.clear()
    _shown.update(THEMES[name])
    _shown[""] = name
    colour.cache_clear()
    app = QApplication.instance()
    if not isinstance(app, QApplication):
        return
    app.setPalette(_palette())
    if app.styleSheet():
        apply_style()
    for widget in app.allWidgets():
        widget.update()


def apply_theme(app: QApplication) -> None:
    """Load the shipped type and dress the application."""
    for name in ("Regular", "Medium", "SemiBold"):
        QFontDatabase.addApplicationFont(str(FONTS / f"Inter-{name}.otf"))
    app.setFont(font(12))
    app.setPalette(_palette())


def _palette() -> QPalette:
    palette = QPalette()
    roles = {
        QPalette.ColorRole.Window: PANEL,
        QPalette.ColorRole.Base: DEEP,
        QPalette.ColorRole.AlternateBase: PANEL,
        QPalette.ColorRole.Button: RAISED,
        QPalette.ColorRole.Text: TEXT,
        QPalette.ColorRole.WindowText: TEXT,
        QPalette.ColorRole.ButtonText: TEXT,
        QPalette.ColorRole.Highlight: HOVER,
        QPalette.ColorRole.HighlightedText: TEXT,
        QPalette.ColorRole.PlaceholderText: SOFT,
        QPalette.ColorRole.ToolTipBase: RAISED,
        QPalette.ColorRole.ToolTipText: TEXT,
        QPalette.ColorRole.Link: SKY,
    }
    for role, name in roles.items():
        palette.setColor(role, QColor(shown(name)))
    return palette


def apply_style() -> None:
    """Set the application's style sheet. Done once the window is built: widgets are then styled once, not at each new
    parent."""
    app = QApplication.instance()
    style = _as_shown(_STYLE)
    if isinstance(app, QApplication) and app.styleSheet() != style:
        app.setStyleSheet(style)
