"""Dialogs and file choosers. Dialogs are imported when they are first opened, so that the window starts sooner."""

from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFileDialog, QInputDialog, QWidget

from ...files.formats import EVERY_SUFFIX, LAYERED_SUFFIXES, PICTURE_SUFFIXES, VECTOR_SUFFIXES, suffixes
from ...scene import Projection
from ...scene.dependencies import descendants
from ..state.document import Document

if TYPE_CHECKING:
    from .window import MainWindow

_CHOICES: dict[str, tuple[str, tuple[str, ...]]] = {
    "best": ("Artwork", EVERY_SUFFIX),
    "sequence": ("Numbered pictures", PICTURE_SUFFIXES),
    "layers": ("Layered artwork", LAYERED_SUFFIXES),
    "logo": ("Vector art", VECTOR_SUFFIXES),
    "projection": ("Photographs", PICTURE_SUFFIXES),
}


class Opener:
    """Opens what the window's actions ask for."""

    def __init__(self, document: Document, window: "MainWindow") -> None:
        self._document, self._window = document, window
        self.export_dialog: QWidget | None = None

    def files(self, as_: str) -> None:
        """Choose files and bring them in."""
        title, endings = _CHOICES[as_]
        kinds = " ".join(f"*{suffix}" for suffix in endings)
        start = str(self._document.file.base or Path.home())
        names, _ = QFileDialog.getOpenFileNames(self._window, title, start, f"{title} ({kinds});;All files (*)")
        if names:
            self._window.bring_in([Path(name) for name in names], as_)

    def replacement(self) -> None:
        if self._window.set_commands.can_replace():
            start = str(self._document.file.base or Path.home())
            name, _ = QFileDialog.getOpenFileName(self._window, "Replace the file", start, "All files (*)")
            if name:
                self._window.set_commands.replace_file(Path(name))

    def heights(self) -> None:
        """Choose a grey picture for a ground."""
        path = self._one("Heights from a picture", "Pictures", PICTURE_SUFFIXES)
        if path is not None:
            self._window.rig_commands.ground_from_picture(path)

    def table(self) -> None:
        """Choose a table of frames for the selected node's motion."""
        path = self._one("Motion from a table", "Tables", (".csv", ".tsv", ".txt"))
        if path is not None:
            self._window.rig_commands.motion_from_table(path)

    def animation(self) -> None:
        """Choose a glTF file, and one of its animations, for the selected node's motion."""
        from ...files.errors import FileError

        path = self._one("Motion from glTF", "Models", suffixes("model"))
        if path is None:
            return
        try:
            self._document.file.allow([path])
            names = list(self._document.file.reader.model(path).animations)
        except FileError as problem:
            self._document.messages.say(str(problem), True)
            return
        if not names:
            self._document.messages.say(f"{path.name} has no animation.", True)
            return
        name, chosen = names[0], True
        if len(names) > 1:
            name, chosen = QInputDialog.getItem(self._window, "Motion from glTF", "Animation:", names, 0, False)
        if chosen:
            self._window.rig_commands.motion_from_model(path, name)

    def _one(self, title: str, word: str, suffixes: tuple[str, ...]) -> Path | None:
        kinds = " ".join(f"*{suffix}" for suffix in suffixes)
        start = str(self._document.file.base or Path.home())
        name, _ = QFileDialog.getOpenFileName(self._window, title, start, f"{word} ({kinds});;All files (*)")
        return Path(name) if name else None

    def settings(self) -> None:
        from ..dialogs.settings import SettingsDialog

        _show(SettingsDialog(self._document, self._window))

    def missing(self) -> None:
        from ..dialogs.missing import MissingDialog

        _show(MissingDialog(self._document, self._window))

    def spread(self) -> None:
        from ..dialogs.spread import SpreadDialog

        chosen = tuple(i for i in self._document.selection.nodes if self._document.scene.node(i).serves_as("seen"))
        if not chosen and self._document.selection.nodes:
            # A carrier that holds artwork stands for what it carries.
            under = set().union(*(descendants(self._document.scene, i) for i in self._document.selection.nodes))
            chosen = tuple(n.id for n in self._document.scene.nodes if n.id in under and n.serves_as("seen"))
        if self._document.views.camera is None or len(chosen) < 2:
            self._document.messages.say(
                "Select two or more pictures, or the null that carries them, and have a camera.", True
            )
            return
        _show(SpreadDialog(self._document, chosen, self._window))

    def stretch(self) -> None:
        from ..dialogs.stretch import StretchDialog

        if self._document.views.camera is None or not any(
            isinstance(n, Projection) for n in self._document.scene.nodes
        ):
            self._document.messages.say("This needs a camera and a photo projection.", True)
            return
        _show(StretchDialog(self._document, self._window))

    def stretch_keys(self) -> None:
        """Stretch the selected keys by a typed factor or length, about the playhead, their middle, or an end."""
        from ..dialogs.stretch_keys import StretchKeysDialog

        if self._window.key_commands.selected_keys("stretch"):
            _show(StretchKeysDialog(self._document, self._window))

    def export(self) -> None:
        from ..dialogs.export import ExportDialog
        from ..dialogs.exporting import ExportingDialog

        if isinstance(self.export_dialog, ExportingDialog) and self.export_dialog.is_running:
            self.export_dialog.raise_()
            return
        self._let_export_go()
        self.export_dialog = ExportDialog(self._document, self._window)
        self.export_dialog.show()

    def _let_export_go(self) -> None:
        if self.export_dialog is not None:
            self.export_dialog.close()
            self.export_dialog.deleteLater()

    def preview_movie(self) -> None:
        """Write what is played to a movie, as it is."""
        from ..dialogs.exporting import ExportingDialog
        from ..dialogs.preview_movie import PreviewMovieDialog

        if isinstance(self.export_dialog, ExportingDialog) and self.export_dialog.is_running:
            self.export_dialog.raise_()
            return
        wish = self._window.lens.view.wish
        if wish is None or self._document.views.camera is None:
            self._document.messages.say("There is no picture to write: add a camera (Ctrl+Shift+C).", True)
            return
        self._let_export_go()
        self.export_dialog = PreviewMovieDialog(self._document, self._window.preview, wish, self._window)
        self.export_dialog.show()

    def preview_memory(self) -> None:
        """Ask how much memory played frames may take up."""
        window = self._window
        held = window.preview.bytes + window.preview_kept.bytes
        text = f"Played frames may take up so many megabytes (now {held / 1e6:.0f}); 0 keeps none:"
        size, chosen = QInputDialog.getInt(window, "Preview memory", text, window.preview_memory, 0, 1_000_000, 256)
        if chosen:
            window.set_preview_memory(size)

    def shortcuts(self) -> None:
        from ..dialogs.help import ShortcutsDialog

        _show(ShortcutsDialog(self._window.actions_, self._window))

    def about(self) -> None:
        from ..dialogs.help import AboutDialog

        _show(AboutDialog(self._window))

    def shut_down(self) -> None:
        """Cancel what still runs; for when the program ends."""
        if self.export_dialog is not None and hasattr(self.export_dialog, "shut_down"):
            self.export_dialog.shut_down()


def _show(dialog: QWidget) -> None:
    """Show a dialog that is gone when it is closed."""
    dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    dialog.show()
