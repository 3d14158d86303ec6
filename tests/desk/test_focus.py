"""Whoever goes through the window by Tab sees where they are; who clicks sees no more than before."""

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QRect, Qt
from PyQt6.QtGui import QImage
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QWidget

from wild_heron.desk.widgets.focus_ring import FocusRing

LEAST_CONTRAST = 3.0
LEAST_PIXELS = 20
MOST_STOPS = 200


def picture(window: QWidget, box: QRect) -> np.ndarray:
    image = window.grab(box).toImage().convertToFormat(QImage.Format.Format_RGB32)
    data = image.constBits().asarray(image.sizeInBytes())
    pixels = np.frombuffer(bytes(data), np.uint8).reshape(image.height(), image.bytesPerLine() // 4, 4)
    return pixels[:, : image.width(), 2::-1].astype(float)


def luminance(pixels: np.ndarray) -> np.ndarray:
    """Relative luminance as WCAG 2.2 has it."""
    share = pixels / 255.0
    light = np.where(share <= 0.04045, share / 12.92, ((share + 0.055) / 1.055) ** 2.4)
    return light @ np.array([0.2126, 0.7152, 0.0722])


def told_by(window: QWidget, widget: QWidget) -> int:
    """How many pixels tell by enough contrast that a widget has the focus."""
    box = QRect(widget.mapTo(window, QPoint()), widget.size()).adjusted(-4, -4, 4, 4) & window.rect()
    with_focus = luminance(picture(window, box))
    widget.clearFocus()
    without = luminance(picture(window, box))
    widget.setFocus(Qt.FocusReason.TabFocusReason)
    high, low = np.maximum(with_focus, without), np.minimum(with_focus, without)
    return int(((high + 0.05) / (low + 0.05) >= LEAST_CONTRAST).sum())


@pytest.mark.parametrize("tab", ["lanes", "curves", "shots", "takes", "checks"])
def test_every_stop_shows_the_focus(window, tab):
    window.desk.lanes.choose(tab)
    window.desk.document.selection.choose(["card"])
    QTest.qWaitForWindowActive(window, 3000)
    window.setFocus(Qt.FocusReason.TabFocusReason)
    seen: list[QWidget] = []
    weak = []
    for _ in range(MOST_STOPS):
        QTest.keyClick(QApplication.focusWidget() or window, Qt.Key.Key_Tab)
        stop = QApplication.focusWidget()
        if stop is None or stop in seen:
            break
        seen.append(stop)
        if told_by(window, stop) < LEAST_PIXELS:
            weak.append(f"{type(stop).__name__} {stop.accessibleName()} {stop.visibleRegion().boundingRect()}")
    assert len(seen) > 20
    assert not weak, chr(10).join(weak)


def test_a_click_draws_no_ring(window):
    lens = window.desk.lens.view
    QTest.mouseClick(lens, Qt.MouseButton.LeftButton, pos=QPoint(5, 5))
    assert not any(ring.isVisible() for ring in lens.findChildren(FocusRing))
    lens.clearFocus()
    lens.setFocus(Qt.FocusReason.TabFocusReason)
    (ring,) = lens.findChildren(FocusRing)
    assert ring.isVisible()
    lens.resize(lens.width() - 20, lens.height())
    assert ring.size() == lens.size()
    QTest.mouseClick(lens, Qt.MouseButton.LeftButton, pos=QPoint(5, 5))
    assert not ring.isVisible()
