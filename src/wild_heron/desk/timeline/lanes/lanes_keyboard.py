"""Lanes from the keyboard: a cursor that goes from key to key and from lane to lane."""

from PyQt6.QtCore import QEvent, QPointF, Qt
from PyQt6.QtGui import QFocusEvent, QKeyEvent, QPainter, QPen

from ....scene import span_label
from ....scene.specs import spec
from ...widgets.focus_ring import BY_KEYBOARD
from ...widgets.quantities import format_number
from ...widgets.theme import AMBER, colour
from ..axis import LABELS, ROW, RULER
from .lanes_layout import LanesLayout, LaneUnderPointer

_SIDEWAYS = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
_ACROSS = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}
_ENDS = {Qt.Key.Key_Home: 0, Qt.Key.Key_End: -1}
_RETURNS = (Qt.Key.Key_Return, Qt.Key.Key_Enter)
_SHIFT, _CONTROL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier


class LanesCursor:
    """Which key is looked at. It is there while Lanes has the focus from the keyboard: who clicks there goes on with
    the arrows through frames, as everywhere."""

    def __init__(self, view: LanesLayout) -> None:
        self._view = view
        self.is_on = False
        self.row = self.number = 0

    def focus(self, event: QFocusEvent) -> None:
        """The view got or lost the focus."""
        self.is_on = event.gotFocus() and event.reason() in BY_KEYBOARD
        if self.is_on and self._view.lanes():
            self._clamp()
            self._say()
        self._view.update()

    def leave(self) -> None:
        """The mouse is used."""
        if self.is_on:
            self.is_on = False
            self._view.update()

    def wants(self, event: QKeyEvent) -> bool:
        """Whether a key is for the cursor rather than for an action."""
        if not self.is_on or not self._view.lanes():
            return False
        key, held = event.key(), event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier
        if key == Qt.Key.Key_A and held == _CONTROL:
            return True
        moves = key in _SIDEWAYS or key in _ACROSS or key in _ENDS
        plain = held == Qt.KeyboardModifier.NoModifier
        return (moves and (plain or held == _SHIFT)) or (plain and key in _RETURNS)

    def press(self, event: QKeyEvent) -> str:
        """Do what a key asks for; "ease" where an ease is to be chosen."""
        key, extend = event.key(), bool(event.modifiers() & _SHIFT)
        if key == Qt.Key.Key_A:
            self._choose_all()
        elif key in _RETURNS:
            return "ease"
        elif key in _SIDEWAYS:
            self._go(self.row, self.number + _SIDEWAYS[Qt.Key(key)], extend)
        elif key in _ENDS:
            self._go(self.row, len(self._keys()) - 1 if _ENDS[Qt.Key(key)] else 0, extend)
        else:
            self._across(_ACROSS[Qt.Key(key)], extend)
        return ""

    def _keys(self) -> tuple[object, ...]:
        return tuple(self._view.lanes()[self.row].data.keys)

    def _clamp(self) -> None:
        self.row = min(max(self.row, 0), len(self._view.lanes()) - 1)
        self.number = min(max(self.number, 0), len(self._keys()) - 1)

    def _across(self, by: int, extend: bool) -> None:
        """To the key of the next lane that is nearest in time."""
        self._clamp()
        lanes = self._view.lanes()
        frame = lanes[self.row].data.keys[self.number].frame
        row = min(max(self.row + by, 0), len(lanes) - 1)
        keys = lanes[row].data.keys
        self._go(row, min(range(len(keys)), key=lambda k: abs(keys[k].frame - frame)), extend)

    def _go(self, row: int, number: int, extend: bool) -> None:
        view, selection = self._view, self._view.document.selection
        self.row, self.number = row, number
        self._clamp()
        refs = view.refs_of(LaneUnderPointer("key", self.row, self.number))
        selection.choose_keys(selection.keys | refs if extend else refs)
        # Where it is has to be seen.
        top, room = self.row * ROW, view.height() - RULER
        view.bar.setValue(min(max(view.bar.value(), top + ROW - room), top))
        self._say()
        view.update()

    def _choose_all(self) -> None:
        view = self._view
        found = set()
        for row, lane in enumerate(view.lanes()):
            if not lane.is_sum or lane.folded:
                for number in range(len(lane.data.keys)):
                    found |= view.refs_of(LaneUnderPointer("key", row, number))
        view.document.selection.choose_keys(found)
        view.document.messages.say(f"{len(found)} key{'' if len(found) == 1 else 's'} selected in Lanes.")

    @property
    def told(self) -> str:
        """What the cursor is at, in words."""
        view = self._view
        lane = view.lanes()[self.row]
        keys = lane.data.keys
        key = keys[self.number]
        place = f"{lane.label}, key {self.number + 1} of {len(keys)}, frame {key.frame:g}"
        if lane.is_sum:
            return f"{place}, {key.value:g} keys"
        unit = spec(view.document.scene.node(lane.node), lane.channel).unit
        after = f", then {span_label(key.span).lower()}" if self.number < len(keys) - 1 else ""
        return f"{place}, {format_number(key.value, unit)}{after}"

    def _say(self) -> None:
        chosen = len(self._view.document.selection.keys)
        more = f" · {chosen} keys selected" if chosen > 1 else ""
        self._view.setAccessibleDescription(self.told)
        self._view.document.messages.say(self.told + more)

    def paint(self, p: QPainter) -> None:
        """A ring round the key."""
        view = self._view
        if not self.is_on or not view.lanes():
            return
        self._clamp()
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(colour(AMBER), 2))
        at = view.pin(view.lanes()[self.row], self.number, self.row)
        if at.y() > RULER and at.x() >= LABELS:
            p.drawEllipse(QPointF(at), 8.0, 8.0)


def is_override(event: QEvent | None) -> bool:
    """Whether a shortcut asks whether it may have a key."""
    return isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride
