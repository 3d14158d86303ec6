"""Selected keys dragged along their lanes, or copies of them: where they go, and what catches them."""

from typing import NamedTuple

from ....edits import KeyRef, copy_keys, move_keys, paste_keys
from ....scene import Scene
from ...state.document import Document
from ...state.key_edits import drag_keys
from ..axis import TimeAxis
from ..ruler import Ruler
from .shapes import lanes_of

_CATCH = 7.0


class Grabbed(NamedTuple):
    """The keys that are dragged, and the frame of the one that is under the pointer."""

    frame: float
    refs: frozenset[KeyRef]
    copies: bool = False


class KeyDrag:
    """One drag at a time, as a gesture of the document."""

    def __init__(self, document: Document, ruler: Ruler) -> None:
        self._document, self._ruler = document, ruler
        self._catches: tuple[Scene, frozenset[KeyRef], list[float]] | None = None

    def move(self, grabbed: Grabbed, pixels: float, axis: TimeAxis, free: bool) -> None:
        """Put the keys so many pixels from where they were; unless ``free``, on a frame, or what is near it."""
        document, refs = self._document, grabbed.refs
        wanted = grabbed.frame + pixels / axis.pixels_per_frame
        by = (wanted if free else self._snapped(wanted, refs, axis)) - grabbed.frame
        if grabbed.copies:
            start = min(ref.frame for ref in refs)
            drag_keys(
                document, "Duplicate keys", refs, lambda scene: paste_keys(scene, copy_keys(scene, refs), start + by)
            )
        else:
            drag_keys(document, "Move keys", refs, lambda scene: move_keys(scene, refs, by))

    def _snapped(self, wanted: float, refs: frozenset[KeyRef], axis: TimeAxis) -> float:
        """The nearest frame; or a marker, the playhead, or another key between frames nearby."""
        best = min(self._between_frames(refs), default=None, key=lambda each: abs(each - wanted))
        if best is not None and abs(best - wanted) * axis.pixels_per_frame < _CATCH:
            return best
        return self._ruler.snapped(wanted, axis)

    def _between_frames(self, refs: frozenset[KeyRef]) -> list[float]:
        """Where the keys that a drag leaves alone sit between frames, looked up once for a drag."""
        scene = self._document.gesture.base.scene
        if self._catches is None or self._catches[0] is not scene or self._catches[1] != refs:
            found = {
                key.frame
                for lane in lanes_of(scene)
                if not lane.is_sum
                for key in lane.data.keys
                if key.frame != round(key.frame) and KeyRef(lane.node, lane.channel, key.frame) not in refs
            }
            self._catches = (scene, refs, sorted(found))
        return self._catches[2]
