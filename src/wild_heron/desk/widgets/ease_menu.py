"""A menu of eases, each with its curve: those of CSS, the families, a spring, and those that the scene has kept."""

from collections.abc import Callable, Iterable
from functools import lru_cache

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QIcon, QPainter, QPen, QPixmap, QPolygonF
from PyQt6.QtWidgets import QMenu

from ...motion import sample_ease
from ...scene import Family, Linear, NamedEase, Span, Spring, span_label
from ...scene.ease_families import FAMILIES
from ...scene.spans import CSS_EASE, CSS_EASE_IN, CSS_EASE_IN_OUT, CSS_EASE_OUT, Ease
from .theme import AMBER, colour

_PLAIN: tuple[Ease, ...] = (CSS_EASE_IN_OUT, CSS_EASE, CSS_EASE_IN, CSS_EASE_OUT, Linear())


def curve(span: Span, area: QRectF) -> QPolygonF:
    """An ease drawn into an area, from its lower left to its upper right corner."""
    left, low, wide, high = area.left(), area.bottom(), area.width(), area.height()
    return QPolygonF([QPointF(left + x * wide, low - y * high) for x, y in _points(span)])


@lru_cache(maxsize=256)
def _points(span: Span) -> tuple[tuple[float, float], ...]:
    shares, values = sample_ease(span, 40)
    return tuple(zip(shares.tolist(), values.tolist(), strict=True))


def icon_of(span: Span) -> QIcon:
    """An ease as a small picture."""
    pixmap = QPixmap(36, 28)
    pixmap.setDevicePixelRatio(2.0)
    pixmap.fill(Qt.GlobalColor.transparent)
    p = QPainter(pixmap)
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    p.setPen(QPen(colour(AMBER), 1.4))
    p.drawPolyline(curve(span, QRectF(2, 3.5, 14, 7.5)))
    p.end()
    return QIcon(pixmap)


def add_eases(menu: QMenu, kept: Iterable[NamedEase], now: Ease | None, choose: Callable[[Ease], object]) -> None:
    """Fill a menu; the ease that is in force is ticked."""

    def add(to: QMenu, name: str, ease: Ease) -> None:
        action = to.addAction(icon_of(ease), name)
        if action is not None:
            action.setCheckable(ease == now)
            action.setChecked(ease == now)
            action.triggered.connect(lambda: choose(ease))

    for ease in _PLAIN:
        add(menu, span_label(ease), ease)
    for direction in ("in-out", "in", "out"):
        more = menu.addMenu(f"Families, {direction}")
        if more is not None:
            for name in FAMILIES:
                add(more, name, Family(name, direction))
    add(menu, "spring", Spring())
    own = list(kept)
    if own:
        menu.addSeparator()
    for each in own:
        add(menu, each.name, each.ease)
