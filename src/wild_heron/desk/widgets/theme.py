"""Dusk over a marsh: colours, type and the style sheet."""

from functools import lru_cache

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor, QFont, QFontDatabase, QFontMetrics, QPalette, QStaticText
from PyQt6.QtWidgets import QApplication

from ...files.formats import FONTS

DEEP = "#1c262b"
PANEL = "#222e34"
RAISED = "#2c3a41"
HOVER = "#35464e"
LINE = "#394a52"
TEXT = "#efe8d6"
SOFT = "#a3b0ac"
AMBER = "#f2c25b"
RUST = "#e07a4f"
REED = "#8fbf9f"
SKY = "#7fb2c9"
SURROUND = "#2b2b2b"
AXES = ("#e5675f", "#86c26f", "#5f9ee0")

# What a node's own colour may be, in the order they are offered.
NODE_COLOURS = (REED, AMBER, RUST, SKY, "#c79bc2", "#e6d3a3", "#9aa8b8")


@lru_cache(maxsize=512)
def colour(name: str, alpha: float = 1.0) -> QColor:
    """A colour by name; shared, so never changed by who gets it."""
    out = QColor(name)
    out.setAlphaF(alpha)
    return out


@lru_cache(maxsize=64)
def font(size: int = 12, weight: QFont.Weight = QFont.Weight.Normal) -> QFont:
    """Inter at a size in pixels, with figures of one width; shared, so never changed by who gets it."""
    out = QFont("Inter")
    out.setPixelSize(size)
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


MENU_BAR = f"""\
QMenuBar {{ background: {DEEP}; padding: 1px 8px; }}
QMenuBar::item {{ padding: 4px 9px; border-radius: 4px; background: transparent; }}
QMenuBar::item:selected {{ background: {RAISED}; }}
"""
"""Alone, for a bar that is seen before everything is styled."""
STYLE = f"""
QMainWindow, QDialog {{ background: {PANEL}; }}
{MENU_BAR}QMenu {{ background: {PANEL}; border: 1px solid {LINE}; padding: 5px; }}
QMenu::item {{ padding: 5px 26px 5px 22px; border-radius: 4px; }}
QMenu::item:selected {{ background: {HOVER}; }}
QMenu::item:disabled {{ color: #6f7e80; }}
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
QPushButton:disabled {{ color: #6f7e80; }}
QPushButton[main="true"] {{ background: {AMBER}; color: {DEEP}; border-color: {AMBER}; font-weight: 600; }}
QPushButton[main="true"]:hover {{ background: #f7d27f; }}
QPushButton[main="true"]:disabled {{ background: {RAISED}; color: #6f7e80; border-color: {LINE}; }}
QToolButton {{ background: transparent; border: none; border-radius: 4px; padding: 3px; color: {SOFT}; }}
QToolButton:hover {{ background: {RAISED}; color: {TEXT}; }}
QToolButton:checked {{ background: {RAISED}; color: {AMBER}; }}
QToolButton:focus {{ outline: none; border: 1px solid {LINE}; }}
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
QScrollBar::handle:hover {{ background: #4b606a; }}
QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
QScrollBar::add-page, QScrollBar::sub-page {{ background: transparent; }}
QTreeWidget, QListWidget, QTableWidget, QScrollArea, QTextBrowser {{ background: {PANEL}; border: none; outline: none; }}
QHeaderView::section {{ background: {PANEL}; color: {SOFT}; border: none; padding: 4px; }}
#on-panel, #on-panel-top, #on-panel-bottom {{ background: {PANEL}; }}
#on-surround {{ background: {SURROUND}; }}
#on-deep-top {{ background: {DEEP}; }}
#on-raised {{ background: {RAISED}; }}
#on-offer-bottom {{ background: #33463f; }}
#on-pending {{ background: #4a3229; border-top: 2px solid {RUST}; }}
#on-field {{ background: {DEEP}; border: 1px solid {LINE}; border-radius: 4px; }}
#on-panel-top, #on-deep-top {{ border-top: 1px solid {LINE}; }}
#on-panel-bottom, #on-offer-bottom {{ border-bottom: 1px solid {LINE}; }}
QToolButton[look="tab"] {{ color: {SOFT}; background: transparent; padding: 2px 0px; }}
QToolButton[look="tab"]:checked {{ color: {AMBER}; background: transparent; }}
QToolButton[look="switch"] {{ background: {RAISED}; color: {SOFT}; padding: 2px 6px; border-radius: 4px; }}
QToolButton[look="switch"]:checked {{ color: {AMBER}; }}
QToolButton[look="word"] {{ background: {RAISED}; color: {TEXT}; padding: 2px 8px; }}
QToolButton[look="name"] {{ color: {TEXT}; }}
QToolButton[look="recall"] {{ color: {AMBER}; padding: 0px 6px; }}
QLineEdit[look="bare"] {{ border: none; padding: 0 5px; background: transparent; }}
QLineEdit[look="small"] {{ padding: 1px 4px; }}
QTreeWidget {{ padding-left: 8px; }}
QTreeWidget::item {{ background: transparent; }}
QLabel[role="heading"] {{ color: {SOFT}; }}
QLabel[role="soft"] {{ color: {SOFT}; }}
QLabel[role="warning"] {{ color: {RUST}; }}
QLabel[role="good"] {{ color: {REED}; }}
QLabel[role="active"] {{ color: {AMBER}; }}
"""


def apply_theme(app: QApplication) -> None:
    """Load the shipped type and dress the application."""
    for name in ("Regular", "Medium", "SemiBold"):
        QFontDatabase.addApplicationFont(str(FONTS / f"Inter-{name}.otf"))
    app.setStyle("Fusion")
    app.setFont(font(12))
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
        palette.setColor(role, QColor(name))
    app.setPalette(palette)


def apply_style() -> None:
    """Set the application's style sheet. Done once the window is built: widgets are then styled once, not at each new
    parent."""
    app = QApplication.instance()
    if isinstance(app, QApplication) and app.styleSheet() != STYLE:
        app.setStyleSheet(STYLE)
