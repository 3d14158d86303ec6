"""Rows of a format's window."""

from functools import partial

from ...edits import WINDOW_LOCKS, WindowLock, lock_window, window_locks
from ...scene import FormatWindow, Scene, SceneError
from ...scene.channels import ACROSS, ROLL, SIZE, UP
from ..widgets.panel_parts import label
from ..widgets.property_fields import Property
from .rows import Page, Pages, Rows, spec

_LOCKS: dict[WindowLock, str] = {
    "width": "Keep it as wide as the camera's picture",
    "height": "Keep it as high as the camera's picture",
    "across": "Keep it where it is across, also while it follows subjects",
    "up": "Keep it where it is up and down, also while it follows subjects",
}
_WEIGHTS = (
    ("still", "How much standing still is worth while it follows subjects"),
    ("steady", "How much going on at one speed is worth while it follows subjects"),
    ("smooth", "How much changing speed softly is worth while it follows subjects"),
)


def window_rows(rows: Rows, node: FormatWindow) -> None:
    """Where the format's frame lies in the camera's picture, how much it shows, its roll, and how it follows."""
    rows.channels("Place", (ACROSS, UP), axis=False, captions=("across", "up"))
    rows.channels("Shows", (SIZE, ROLL), axis=False, captions=("size", "roll"))
    shape = next((each for each in rows.document.scene.formats if each.window == node.id), None)
    if shape is None:
        rows.widgets("", label("No format has this window any more.", "soft", 11), spans=(3,))
        return
    switches = [_lock(rows, node.id, lock) for lock in WINDOW_LOCKS]
    rows.widgets("Lock size", *switches[:2])
    rows.widgets("place", *switches[2:])
    rows.heading("Follows by")
    fields = []
    for name, tip in _WEIGHTS:
        field = rows.number(rows.field(name, name), spec(name, "count", 1), caption=name)
        field.setToolTip(tip)
        fields.append(field)
    rows.widgets("Weights", *fields)
    words = f"{shape.width} × {shape.height}. X, V lets it follow the subjects."
    rows.widgets("", label(words, "soft", 11), spans=(3,))


def _lock(rows: Rows, node_id: str, lock: WindowLock):  # type: ignore[no-untyped-def]
    def get(scene: Scene) -> bool:
        try:
            return lock in window_locks(scene, node_id)
        except SceneError:
            return False

    prop = Property(rows.document, f"Lock {lock}", get, partial(_put, node_id, lock))
    return rows.switch(prop, lock, _LOCKS[lock])


def _put(node_id: str, lock: WindowLock, scene: Scene, on: bool) -> Scene:
    return lock_window(scene, node_id, lock, bool(on))


PAGES: Pages = {FormatWindow: Page(window_rows)}
