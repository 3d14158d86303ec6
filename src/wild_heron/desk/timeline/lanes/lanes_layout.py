"""What is where in the lanes: rows, their pins and spans, and what is under the pointer."""

from collections import Counter, defaultdict
from collections.abc import Callable, Mapping
from typing import Literal, NamedTuple

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtWidgets import QScrollBar

from ....edits import KeyRef
from ....scene import Scene
from ...state.document import Document
from ..axis import LABELS, ROW, RULER
from ..time_view import TimeView
from .key_drag import KeyDrag
from .plots import Plots
from .seen import SeenLines
from .shapes import SUM, Lane, heights, lanes_of, value_range

_GRAB = 7.0


class LaneUnderPointer(NamedTuple):
    """What is under the pointer: which row, and which of its keys, or the key that a span begins at."""

    kind: Literal["ruler", "label", "dot", "key", "span", "row", "nothing"]
    row: int = -1
    number: int = -1


NOTHING = LaneUnderPointer("nothing")


class LanesLayout(TimeView):
    """Keys and spans of every keyed channel, in rows."""

    def __init__(self, document: Document) -> None:
        super().__init__(document)
        self.only_selected = False
        self.named = ""
        self.cached: Callable[[], list[float]] = list
        """Frames whose picture is held in memory."""
        self.folded: frozenset[str] = frozenset()
        self._rows: tuple[Scene, tuple[object, ...], list[Lane]] | None = None
        self._chosen: tuple[frozenset[KeyRef], Mapping[tuple[str, str], Mapping[float, int]]] | None = None
        self.plots = Plots()
        self.seen = SeenLines(document)
        self.key_drag = KeyDrag(document, self.ruler)
        self.hover = NOTHING
        self.bar = QScrollBar(Qt.Orientation.Vertical, self)
        self.bar.valueChanged.connect(self.update)

    def lanes(self) -> list[Lane]:
        """The rows. A scene never changes, so they are worked out once for each."""
        scene, only = self.document.views.keyed, self.document.selection.nodes if self.only_selected else None
        key = (only, self.folded, self.named)
        if self._rows is None or self._rows[0] is not scene or self._rows[1] != key:
            self._rows = (scene, key, lanes_of(scene, *key))
        return self._rows[2]

    def chosen_frames(self) -> Mapping[tuple[str, str], Mapping[float, int]]:
        """How many keys are selected on each frame, by row: of a channel, of a node, and of all."""
        keys = self.document.selection.keys
        if self._chosen is None or self._chosen[0] is not keys:
            by_row: dict[tuple[str, str], list[float]] = defaultdict(list)
            for node, name, frame in keys:
                by_row[node, name].append(frame)
            for (node, _), frames in list(by_row.items()):
                by_row[node, SUM] += frames
                by_row["", SUM] += frames
            found = {row: Counter(frames) for row, frames in by_row.items()}
            self._chosen = (keys, found)
        return self._chosen[1]

    def row_top(self, index: int) -> float:
        return RULER + index * ROW - self.bar.value()

    def row_at(self, y: float) -> int | None:
        index = int((y - RULER + self.bar.value()) // ROW)
        return index if y >= RULER and 0 <= index < len(self.lanes()) else None

    def pin(self, lane: Lane, index: int, row: int) -> QPointF:
        """Where a key's pin head is."""
        low, high = value_range(lane.data)
        key = lane.data.keys[index]
        share = float(heights(np.array([key.value]), low, high)[0])
        return QPointF(self.axis.x(key.frame), self._y(row, share))

    def _y(self, row: int, share: float) -> float:
        return self.row_top(row) + ROW - 4 - share * (ROW - 10)

    def refresh(self) -> None:
        rows = len(self.lanes())
        room = self.height() - RULER
        self.bar.setRange(0, max(0, rows * ROW + 8 - room))
        self.bar.setPageStep(max(room, 1))
        self.bar.setSingleStep(ROW)
        self.bar.setVisible(rows * ROW + 8 > room)
        self.update()

    def what_at(self, at: QPointF) -> LaneUnderPointer:
        """What is under the pointer."""
        if at.y() < RULER:
            return LaneUnderPointer("ruler") if at.x() >= LABELS else NOTHING
        row = self.row_at(at.y())
        if row is None:
            return NOTHING
        if at.x() < LABELS:
            return LaneUnderPointer("dot" if at.x() > LABELS - 32 else "label", row)
        lane = self.lanes()[row]
        frames = np.array([key.frame for key in lane.data.keys])
        distances = np.abs(self.axis.xs(frames) - at.x())
        nearest = int(np.argmin(distances))
        if distances[nearest] <= _GRAB:
            return LaneUnderPointer("key", row, nearest)
        index = int(np.searchsorted(frames, self.axis.frame(at.x()))) - 1
        return LaneUnderPointer("span", row, index) if 0 <= index < len(frames) - 1 else LaneUnderPointer("row", row)

    def frame_of(self, under: LaneUnderPointer) -> float:
        return self.lanes()[under.row].data.keys[under.number].frame

    def refs_of(self, under: LaneUnderPointer) -> set[KeyRef]:
        """The keys of a key, or at both ends of a span; of a sum, all that they stand for."""
        lane, found = self.lanes()[under.row], set[KeyRef]()
        for index in (under.number, under.number + 1) if under.kind == "span" else (under.number,):
            found |= lane.refs(self.document.scene, lane.data.keys[index].frame)
        return found

    def fold(self, node: str) -> None:
        """Fold a node's lanes into one, or open them; "" for all nodes."""
        if node:
            self.folded = self.folded ^ {node}
        else:
            sums = frozenset(each.node for each in self.lanes() if each.is_sum and each.node)
            self.folded = frozenset() if sums <= self.folded else sums
        self.refresh()

    def keys_in(self, box: QRectF) -> set[KeyRef]:
        found = set()
        for row, lane in enumerate(self.lanes()):
            if self.row_top(row) <= box.bottom() and self.row_top(row) + ROW >= box.top():
                for key in lane.data.keys:
                    if box.left() <= self.axis.x(key.frame) <= box.right():
                        found |= lane.refs(self.document.scene, key.frame)
        return found

    def show_whole(self) -> None:
        super().show_whole()
        self.refresh()

    def turn_wheel(self, turns: float, at: QPointF) -> None:
        self.bar.setValue(self.bar.value() - round(turns * ROW))
