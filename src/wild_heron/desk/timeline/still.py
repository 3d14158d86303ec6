"""Caches the static part of a view as a picture during playback."""

from collections.abc import Callable

from PyQt6.QtGui import QPainter, QPixmap
from PyQt6.QtWidgets import QWidget

from ..widgets.theme import PANEL, colour, theme_name


class StillPicture:
    """Of a widget: as long as what it depends on stays the same."""

    def __init__(self, widget: QWidget) -> None:
        self._widget = widget
        self._kept: tuple[tuple[object, ...], QPixmap] | None = None

    def get(self, key: tuple[object, ...], paint: Callable[[QPainter], None]) -> QPixmap:
        """The picture, painted anew where the key is another one; the widget's size and theme are part of it."""
        widget = self._widget
        whole = (widget.size(), widget.devicePixelRatioF(), theme_name(), *key)
        if self._kept is None or self._kept[0] != whole:
            pixmap = QPixmap(widget.size() * widget.devicePixelRatioF())
            pixmap.setDevicePixelRatio(widget.devicePixelRatioF())
            pixmap.fill(colour(PANEL))
            painter = QPainter(pixmap)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            paint(painter)
            painter.end()
            self._kept = (whole, pixmap)
        return self._kept[1]
