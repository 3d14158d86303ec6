"""Opens dialogs and file choosers; dialogs are imported when first opened."""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QFileDialog, QInputDialog, QWidget

from ...edits import KeyRef
from ...files.export_formats.coming_in import CAMERA_SUFFIXES, CUTS_SUFFIXES
from ...files.formats import EVERY_SUFFIX, LAYERED_SUFFIXES, PICTURE_SUFFIXES, SOUND_SUFFIXES, VECTOR_SUFFIXES, suffixes
from ...gl.request import FrameRequest
from ...log import log_folder
from ...output.job import ExportJob
from ...scene import Camera, Projection
from ...scene.dependencies import descendants
from ...scene.output import cameras
from ..commands.actions import ActionTable
from ..commands.check_commands import CheckCommands
from ..commands.queue_commands import QueueCommands
from ..commands.set_commands import SetCommands
from ..commands.sound_commands import SoundCommands
from ..pictures.preview_cache import PreviewCache
from ..state.document import Document
from ..state.preferences import Preferences
from ..widgets.opening import open_outside
from .preview_memory import Previews

if TYPE_CHECKING:
    from ..start import Told

_CHOICES: dict[str, tuple[str, tuple[str, ...]]] = {
    "best": ("Artwork", EVERY_SUFFIX),
    "sequence": ("Numbered pictures", PICTURE_SUFFIXES),
    "layers": ("Layered artwork", LAYERED_SUFFIXES),
    "logo": ("Vector art", VECTOR_SUFFIXES),
    "projection": ("Photographs", PICTURE_SUFFIXES),
}


class Opener:
    """Opens what actions ask for, over ``parent``."""

    def __init__(self, document: Document, preferences: Preferences, queue: QueueCommands, parent: QWidget) -> None:
        self._document, self._preferences, self._parent = document, preferences, parent
        self.queue_commands = queue
        self.queue_dialog: QWidget | None = None
        self.export_dialog: QWidget | None = None

    def files(self, as_: str, bring_in: Callable[[list[Path], str], None]) -> None:
        """Choose files and bring them in."""
        title, endings = _CHOICES[as_]
        kinds = " ".join(f"*{suffix}" for suffix in endings)
        names, _ = QFileDialog.getOpenFileNames(self._parent, title, self._start(), f"{title} ({kinds});;All files (*)")
        if names:
            self._preferences.remember_folder("artwork", Path(names[0]))
            bring_in([Path(name) for name in names], as_)

    def _start(self) -> str:
        """Where a dialog for artwork opens."""
        return str(self._preferences.folder("artwork", self._document.file.base))

    def replacement(self, commands: SetCommands) -> None:
        """Choose another file for the selected node."""
        if commands.can_replace():
            name, _ = QFileDialog.getOpenFileName(self._parent, "Replace the file", self._start(), "All files (*)")
            if name:
                self._preferences.remember_folder("artwork", Path(name))
                commands.replace_file(Path(name))

    def heights(self, take: Callable[[Path], None]) -> None:
        """Choose a grey picture for a ground."""
        path = self._one("Heights from a picture", "Pictures", PICTURE_SUFFIXES)
        if path is not None:
            take(path)

    def table(self, take: Callable[[Path], None]) -> None:
        """Choose a table of frames for the selected node's motion."""
        path = self._one("Motion from a table", "Tables", (".csv", ".tsv", ".txt"))
        if path is not None:
            take(path)

    def animation(self, take: Callable[[Path, str], None]) -> None:
        """Choose a glTF file, and one of its animations, for the selected node's motion."""
        path = self._one("Motion from glTF", "Models", suffixes("model"))
        if path is not None:
            self._animation_of(path, take)

    def _animation_of(self, path: Path, take: Callable[[Path, str], None]) -> None:
        """Choose one of a glTF file's animations."""
        from ...files.errors import FileError

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
            name, chosen = QInputDialog.getItem(self._parent, "Motion from glTF", "Animation:", names, 0, False)
        if chosen:
            take(path, name)

    def _one(self, title: str, word: str, suffixes: tuple[str, ...]) -> Path | None:
        kinds = " ".join(f"*{suffix}" for suffix in suffixes)
        name, _ = QFileDialog.getOpenFileName(self._parent, title, self._start(), f"{word} ({kinds});;All files (*)")
        if not name:
            return None
        self._preferences.remember_folder("artwork", Path(name))
        return Path(name)

    def take(self, bring: Callable[..., None]) -> None:
        """Choose a table, or a glTF file and one of its animations, as a take."""
        path = self._one("Bring in a take", "Tables and models", (".csv", ".tsv", ".txt", *suffixes("model")))
        if path is None:
            return
        if path.suffix.lower() in suffixes("model"):
            self._animation_of(path, bring)
        else:
            bring(path)

    def take_table(self, write: Callable[[Path], None]) -> None:
        """Choose where a take is written to."""
        name, _ = QFileDialog.getSaveFileName(self._parent, "Export the take", self._start(), "Tables (*.csv)")
        if name:
            path = Path(name)
            write(path if path.suffix else path.with_suffix(".csv"))

    def sound(self, take: Callable[[Path], None]) -> None:
        """Choose a sound file."""
        path = self._one("Bring in sound", "Sound", SOUND_SUFFIXES)
        if path is not None:
            take(path)

    def sound_settings(self, sounds: SoundCommands) -> None:
        from ..dialogs.sound_dialog import SoundDialog

        SoundDialog(self._document, sounds, self._parent).show()

    def run_of_cuts(self) -> None:
        from ..dialogs.run_of_cuts import RunOfCutsDialog

        if self._document.views.camera is None:
            self._document.messages.say("There is no camera yet. Camera ▸ Add camera makes one.", True)
            return
        RunOfCutsDialog(self._document, self._parent).show()

    def joining_rules(self) -> None:
        from ..dialogs.joining_rules import JoiningRulesDialog

        JoiningRulesDialog(self._document, self._parent).show()

    def limits(self, checks: CheckCommands) -> None:
        from ..dialogs.limits_dialog import LimitsDialog

        LimitsDialog(self._document, checks, self._parent).show()

    def subject(self) -> None:
        """How the selected node is kept in frame."""
        from ..dialogs.subject_dialog import SubjectDialog

        node = self._document.selection.active
        if node is None or all(each.node != node.id for each in self._document.scene.checks.subjects):
            self._document.messages.say("Select something that is kept in frame; X, S keeps what is selected.", True)
            return
        SubjectDialog(self._document, node.id, self._parent).show()

    def settings(self) -> None:
        from ..dialogs.settings_dialog import SettingsDialog

        SettingsDialog(self._document, self._parent).show()

    def missing(self) -> None:
        from ..dialogs.missing_dialog import MissingDialog

        MissingDialog(self._document, self._parent).show()

    def spread(self) -> None:
        from ..dialogs.spread_dialog import SpreadDialog

        chosen = tuple(i for i in self._document.selection.nodes if self._document.scene.node(i).serves_as("seen"))
        if not chosen and self._document.selection.nodes:
            # A carrier that holds artwork stands for what it carries.
            under = set().union(*(descendants(self._document.scene, i) for i in self._document.selection.nodes))
            chosen = tuple(n.id for n in self._document.scene.nodes if n.id in under and n.serves_as("seen"))
        if self._document.views.camera is None or len(chosen) < 2:
            self._document.messages.say(
                "This needs a camera, and two or more selected pictures or the null that carries them.", True
            )
            return
        SpreadDialog(self._document, chosen, self._parent).show()

    def stretch(self) -> None:
        from ..dialogs.stretch_dialog import StretchDialog

        if self._document.views.camera is None or not any(
            isinstance(n, Projection) for n in self._document.scene.nodes
        ):
            self._document.messages.say("This needs a camera and a photo projection.", True)
            return
        StretchDialog(self._document, self._parent).show()

    def stretch_keys(self, keys: frozenset[KeyRef]) -> None:
        """Stretch the selected keys by a typed factor or length, about the playhead, their middle, or an end."""
        from ..dialogs.stretch_keys_dialog import StretchKeysDialog

        if keys:
            StretchKeysDialog(self._document, self._parent).show()

    def export(self) -> None:
        from ..dialogs.export_dialog import ExportDialog
        from ..dialogs.export_progress import ExportingDialog

        if isinstance(self.export_dialog, ExportingDialog) and self.export_dialog.is_running:
            self.export_dialog.raise_()
            return
        self._let_export_go()
        dialog = ExportDialog(self._document, self._preferences, self.queue_commands, self._parent)
        dialog.bundle_wanted.connect(self._bundle_of)
        self.export_dialog = dialog
        dialog.show()

    def keep_move(self) -> None:
        from ..dialogs.keep_move_dialog import KeepMoveDialog

        if not cameras(self._document.scene):
            self._document.messages.say("There is no camera yet. Camera ▸ Add camera makes one.", True)
            return
        KeepMoveDialog(self._document, self._parent).show()

    def moves(self, offering: bool = False) -> None:
        """The library, or what is offered."""
        from ..moves.moves_window import MovesWindow

        if not any(node.placed and not isinstance(node, Camera) for node in self._document.scene.nodes):
            self._document.messages.say("A move needs a subject. Set ▸ Bring in brings artwork.", True)
            return
        MovesWindow(self._document, self._parent, offering).show()

    def queue(self) -> None:
        from ..dialogs.queue_dialog import QueueDialog

        if self.queue_dialog is None:
            self.queue_dialog = QueueDialog(self.queue_commands, self._parent)
        self.queue_dialog.show()
        self.queue_dialog.raise_()

    def move(self) -> None:
        from ..dialogs.move_dialog import MoveDialog

        MoveDialog(self._document, self._preferences, self._parent).show()

    def camera(self, bring: Callable[[Path], None]) -> None:
        """Choose a file of another program whose cameras come in."""
        path = self._one("Bring in a camera", "Cameras", CAMERA_SUFFIXES)
        if path is not None:
            bring(path)

    def cuts(self, bring: Callable[[Path], None]) -> None:
        """Choose a timeline whose cuts come in."""
        path = self._one("Bring in cuts", "Timelines", CUTS_SUFFIXES)
        if path is not None:
            bring(path)

    def gather(self) -> None:
        """Choose a zip or a new folder, and put the scene with all its artwork there."""
        document = self._document
        folder = self._preferences.folder("output", document.file.base)
        stem = document.file.path.stem if document.file.path else "scene"
        kinds = "Zip (*.zip);;Folder (*)"
        name, kind = QFileDialog.getSaveFileName(self._parent, "Gather into", str(folder / f"{stem}.zip"), kinds)
        if name:
            self._preferences.remember_folder("output", Path(name))
            self.gather_into(Path(name).with_suffix("") if kind.startswith("Folder") else Path(name))

    def gather_into(self, path: Path) -> QWidget:
        from ...files.gathering import gathered, write_gathered
        from ..dialogs.packaging_dialogs import HandingOverDialog, Step, reader_for

        scene, base, permission = self._document.scene, self._document.file.base, self._document.file.permission

        def work(step: Step) -> tuple[Path, tuple[Path, ...]]:
            with reader_for(permission) as reader:
                found = gathered(scene, base, reader)
            return write_gathered(found, path, step), found.missing

        dialog = HandingOverDialog("Gather", work, self._document, self._parent)
        dialog.show()
        return dialog

    def bundle(self) -> None:
        """Say in the export dialog what is to be made by many machines."""
        from ..dialogs.export_dialog import ExportDialog

        self.export()
        if isinstance(self.export_dialog, ExportDialog):
            self.export_dialog.tell("Set what is to be made, then press For many machines.")

    def _bundle_of(self, job: ExportJob) -> None:
        """Choose a new folder, and write a job as a bundle there."""
        folder = self._preferences.folder("output", self._document.file.base)
        suggestion = str(folder / f"{job.path.stem}-job")
        name, _ = QFileDialog.getSaveFileName(self._parent, "Bundle in a new folder", suggestion)
        if name:
            self.bundle_into(Path(name), job)

    def bundle_into(self, path: Path, job: ExportJob) -> QWidget:
        from ...output.bundle import write_bundle
        from ..dialogs.packaging_dialogs import HandingOverDialog, Step

        scene, base = self._document.scene, self._document.file.base

        def work(step: Step) -> tuple[Path, tuple[Path, ...]]:
            return path, write_bundle(scene, base, job, path, step=step)

        dialog = HandingOverDialog("Bundle for many machines", work, self._document, self._parent)
        dialog.show()
        return dialog

    def _let_export_go(self) -> None:
        if self.export_dialog is not None:
            self.export_dialog.close()
            self.export_dialog.deleteLater()

    def preview_movie(self, cache: PreviewCache, wish: FrameRequest | None) -> None:
        """Write what is played to a movie, as it is."""
        from ..dialogs.export_progress import ExportingDialog
        from ..dialogs.preview_movie import PreviewMovieDialog

        if isinstance(self.export_dialog, ExportingDialog) and self.export_dialog.is_running:
            self.export_dialog.raise_()
            return
        if wish is None or self._document.views.camera is None:
            self._document.messages.say("There is no picture to write: add a camera (Ctrl+Shift+C).", True)
            return
        self._let_export_go()
        self.export_dialog = PreviewMovieDialog(self._document, cache, wish, self._preferences, self._parent)
        self.export_dialog.show()

    def guides(self) -> None:
        from ..dialogs.guides_dialog import GuidesDialog

        GuidesDialog(self._document, self._parent).show()

    def preferences(self, previews: Previews) -> None:
        from ..dialogs.preferences_dialog import PreferencesDialog

        PreferencesDialog(self._preferences, previews.megabytes, previews.set_megabytes, self._parent).show()

    def log_folder(self) -> None:
        """Show where what went wrong is written."""
        if not open_outside(log_folder()):
            self._document.messages.say(f"The log is in {log_folder()}.")

    def actions(self, actions: ActionTable, title: str) -> None:
        """Every action in a list, to be found and run."""
        from ..dialogs.shortcuts_dialog import ActionsDialog

        dialog = ActionsDialog(actions, title, self._parent)
        dialog.show()
        dialog.filter.setFocus()

    def guide(self) -> None:
        from ..dialogs.guide_viewer import GuideDialog

        GuideDialog(self._parent).show()

    def steps(self) -> None:
        from ..dialogs.steps_dialog import StepsDialog

        StepsDialog(self._document, self._parent).show()

    def lessons(self, told: "list[Told]", begin: Callable[[str], None]) -> None:
        """Choose a lesson."""
        from ..dialogs.lessons_dialog import LessonsDialog

        LessonsDialog(told, begin, self._parent).open()

    def about(self, renderer: str) -> None:
        from ..dialogs.about_dialog import AboutDialog

        AboutDialog(renderer, self._parent).show()

    def shut_down(self) -> None:
        """Cancel what still runs; for when the program ends."""
        if self.export_dialog is not None and hasattr(self.export_dialog, "shut_down"):
            self.export_dialog.shut_down()
