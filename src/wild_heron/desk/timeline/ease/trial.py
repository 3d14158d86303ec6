"""Shaping the selected spans: at once, or first only in the views, to be looked at before it is kept."""

from PyQt6.QtCore import QObject, pyqtSignal

from ....edits import set_spans
from ....scene import Span, span_label
from ...state.document import Document
from ...state.key_edits import drag_keys, edit_keys
from ...state.selected_spans import selected_spans


def apply_ease(document: Document, span: Span) -> None:
    """Shape the selected spans, as one step or as part of the running gesture."""
    refs = selected_spans(document)
    if not refs:
        document.messages.say("Select keys or spans in Lanes first.", True)
        return
    if document.gesture.running:
        drag_keys(document, "", refs, lambda scene: set_spans(scene, refs, span))
    else:
        edit_keys(document, f"Ease: {span_label(span)}", refs, lambda scene: set_spans(scene, refs, span))


class EaseTrial(QObject):
    """What the ease panel's choices go through. With ``look_first`` they are tried out, not made."""

    changed = pyqtSignal()

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        self.look_first = False
        self.span: Span | None = None
        """What is tried out, and not kept yet."""
        self._before: Span | None = None
        document.changed.connect(self._check)
        document.selection.keys_changed.connect(self.put_back)

    def _check(self) -> None:
        if self.span is not None and not self._document.views.is_trying:
            # Something else was changed meanwhile; what was tried out is gone.
            self.span = None
            self.changed.emit()

    def set_look_first(self, on: bool) -> None:
        self.look_first = on
        if not on:
            self.keep()

    def put(self, span: Span) -> None:
        """Take a choice."""
        refs = selected_spans(self._document)
        if not self.look_first or not refs:
            apply_ease(self._document, span)
            return
        self.span = span
        self._document.views.try_out(set_spans(self._document.scene, refs, span))
        self.changed.emit()

    def keep(self) -> None:
        """Make what is tried out one step."""
        span = self.span
        if span is not None:
            self.put_back()
            apply_ease(self._document, span)

    def put_back(self) -> None:
        """Show the scene as it is again."""
        if self.span is not None:
            self.span = None
            self._document.views.try_out(None)
            self.changed.emit()

    # A drag is one step, or one trial.

    def begin(self) -> None:
        self._before = self.span
        if not self.look_first:
            self._document.gesture.begin("Shape the ease")

    def finish(self) -> None:
        self._document.gesture.commit()

    def cancel(self) -> None:
        if not self.look_first:
            self._document.cancel()
        elif self._before is None:
            self.put_back()
        else:
            self.put(self._before)
