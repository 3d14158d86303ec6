"""What the actions say and whether they are to be had, as the scene goes on; and the window's title."""

from PyQt6.QtCore import QObject
from PyQt6.QtWidgets import QWidget

from ..commands.actions import ActionTable
from ..state.document import Document
from ..state.recording import SCOPES
from .scene_files import SceneFiles


class ActionStates(QObject):
    """Keeps the menus true to the document."""

    def __init__(self, document: Document, actions: ActionTable, files: SceneFiles, frame: QWidget) -> None:
        super().__init__(frame)
        self._document, self._actions, self._files, self._frame = document, actions, files, frame
        for signal in (document.changed, document.selection.changed, document.settings_changed, document.file.changed):
            signal.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        document, actions = self._document, self._actions
        undo, redo = document.history.undo_name, document.history.redo_name
        for name, step, word in (("edit.undo", undo, "Undo"), ("edit.redo", redo, "Redo")):
            actions[name].setEnabled(step is not None)
            actions[name].setText(f"&{word}: {step.replace('&', '&&')}" if step else f"&{word}")
        active = document.selection.active
        actions["set.hide"].setChecked(active is not None and active.hidden)
        actions["set.solo"].setChecked(bool(document.views.solo))
        actions["set.lock"].setChecked(active is not None and active.locked)
        actions["keys.auto"].setChecked(document.recorder.auto_key)
        for scope in SCOPES:
            actions[f"keys.scope_{scope}"].setChecked(document.recorder.scope == scope)
        actions["keys.undo_last"].setEnabled(document.recorder.keys_written > 0)
        pending = bool(document.state.pending)
        actions["keys.pending"].setEnabled(pending)
        actions["keys.discard"].setEnabled(pending)
        actions["play.loop"].setChecked(document.playhead.loop)
        name = document.file.path.name if document.file.path else document.scene.name
        looking = " (look only)" if self._files.look_only else ""
        self._frame.setWindowTitle(f"{'• ' if document.is_modified else ''}{name}{looking} · Wild Heron")
