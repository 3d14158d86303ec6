"""The heading of each tab: the tab buttons, and the tab's own tools."""

from PyQt6.QtWidgets import QHBoxLayout, QWidget

from ..widgets.panel_parts import set_surface
from .axis import LABELS

_HEIGHT = 32


def head(tabs: QWidget) -> tuple[QWidget, QHBoxLayout]:
    """A strip with the tabs over the labels, and the row that a page adds its tools to."""
    strip = QWidget()
    set_surface(strip, "panel", "bottom")
    strip.setFixedHeight(_HEIGHT)
    row = QHBoxLayout(strip)
    row.setContentsMargins(14, 0, 10, 0)
    row.setSpacing(6)
    holder = QWidget()
    holder.setMinimumWidth(LABELS - 16)
    held = QHBoxLayout(holder)
    held.setContentsMargins(0, 0, 0, 0)
    held.addWidget(tabs)
    held.addStretch()
    row.addWidget(holder)
    return strip, row
