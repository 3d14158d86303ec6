"""Tab order of fields by their place on screen."""

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QDialog, QDockWidget, QMainWindow, QScrollArea, QWidget

from .panel_parts import Panel

_ROW = 12
"""Fields whose tops differ by less than this, in pixels, stand in one row."""


def area_of(widget: QWidget) -> QWidget:
    """The page, panel or dialog that a field stands in."""
    area = widget
    parent = widget.parentWidget()
    while parent is not None:
        area = parent
        if isinstance(parent, QDialog | QDockWidget | QMainWindow | Panel | QScrollArea):
            break
        parent = parent.parentWidget()
    return area


def in_reading_order(area: QWidget, kind: type[QWidget]) -> list[QWidget]:
    """The fields of a kind that can take the focus in an area, in the order in which they are read."""
    fields = [
        each for each in area.findChildren(kind)
        if each.isVisibleTo(area) and each.isEnabled() and each.focusPolicy() & Qt.FocusPolicy.TabFocus
    ]  # fmt: skip
    places = {each: each.mapTo(area, QPoint(0, each.height())) for each in fields}
    fields.sort(key=lambda each: places[each].y())
    rows: list[list[QWidget]] = []
    for each in fields:
        if rows and places[each].y() - places[rows[-1][0]].y() < _ROW:
            rows[-1].append(each)
        else:
            rows.append([each])
    return [each for row in rows for each in sorted(row, key=lambda field: places[field].x())]


def go_on(field: QWidget, kind: type[QWidget], ahead: bool) -> bool:
    """Give the focus to the field after, or before, this one; False where it is the last, or the first."""
    area = area_of(field)
    order = in_reading_order(area, kind)
    if field not in order:
        return False
    at = order.index(field) + (1 if ahead else -1)
    if not 0 <= at < len(order):
        return False
    order[at].setFocus(Qt.FocusReason.TabFocusReason if ahead else Qt.FocusReason.BacktabFocusReason)
    if isinstance(area, QScrollArea):
        area.ensureWidgetVisible(order[at], 8, 24)
    return True
