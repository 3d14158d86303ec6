"""Builds everything that there is one of in the window, in order."""

from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, QSettings, Qt, QTimer
from PyQt6.QtWidgets import QMainWindow, QMenu, QWidget

from ...demo import DEMO_SCENE, Example
from ...files.folders import expanded
from ...files.formats import SOUND_SUFFIXES
from ...files.project import SUFFIX
from ...scene import Framing
from ...scene.film import shot_at
from ..board.board import Board
from ..channels.linking import Wires
from ..checking.checker import STREAM as CHECKS
from ..checking.checker import Checker
from ..commands.actions import ActionTable
from ..commands.bind_commands import BindCommands
from ..commands.check_commands import CheckCommands
from ..commands.format_commands import FormatCommands
from ..commands.framing_commands import FramingCommands
from ..commands.key_commands import KeyCommands
from ..commands.live_switching import LiveSwitching
from ..commands.marker_commands import MarkerCommands
from ..commands.mover_commands import MoverCommands
from ..commands.node_commands import Commands
from ..commands.queue_commands import QueueCommands
from ..commands.rig_commands import RigCommands
from ..commands.set_commands import SetCommands
from ..commands.shot_commands import ShotCommands
from ..commands.sound_commands import SoundCommands
from ..commands.take_commands import TakeCommands
from ..depth.depth_rail import DepthPanel
from ..inspector import Inspector
from ..lens.comparison import STREAM as KEPT
from ..lens.formats_view import STREAMS as FORMATS
from ..lens.ghosts import STREAMS as GHOSTS
from ..lens.lens_panel import LensPanel
from ..lessons import LessonBar, LessonRun, Performer, Pointer
from ..overview.overview_panel import OverviewPanel
from ..pictures.preview_cache import KEPT_AHEAD, STREAM
from ..pictures.render_link import RenderLink
from ..pictures.scene_publisher import ScenePublisher
from ..pictures.small_pictures import STREAM as SMALL
from ..pictures.small_pictures import SmallPictures
from ..recording.take_recorder import TakeRecorder
from ..rigs.builder import RigBuilder
from ..rigs.rig_panel import RigPanel
from ..sound.loader import SoundLoader
from ..sound.player import SoundPlayer
from ..state.document import Document
from ..state.playback import Playback
from ..state.preferences import Preferences
from ..timeline.film_parts import FilmParts
from ..timeline.timeline_panel import TimelinePanel
from .action_list import ACTIONS
from .areas import Areas
from .importer import Bringer
from .live_keys import LiveKeys
from .notifications import Offers
from .opening import Opener
from .preview_memory import Previews
from .recent import picture_of, shortened
from .scene_files import SceneFiles
from .status import Banner, StatusLine
from .themes import Themes
from .top_bar import TopBar
from .watching import FileWatcher

if TYPE_CHECKING:
    from ..start import RecentScene, StartPage, Told

_RENDERER_MS = 40
"""How long after the window is filled the render process starts: what is there is painted first."""


class Desk(QObject):
    """What fills a window. ``connections`` says what does what."""

    def __init__(self, frame: QMainWindow, menus: dict[str, QMenu], settings: QSettings) -> None:
        super().__init__(frame)
        self.frame, self._settings, self.menus = frame, settings, menus
        self.document = Document()
        self.preferences = Preferences(settings)
        link = self.link = RenderLink(
            ("lens", *FORMATS, "overview", KEPT, *GHOSTS.values()), later=(STREAM, KEPT_AHEAD, SMALL, CHECKS)
        )
        self._make_commands()
        self._make_services()
        self._make_panels()
        self._fill()
        self._first_body = False
        self._start = QTimer(self)
        self._start.setSingleShot(True)
        self._start.setInterval(_RENDERER_MS)
        self._start.timeout.connect(link.start)

    def _make_commands(self) -> None:
        """What the actions do."""
        document, frame, link = self.document, self.frame, self.link
        self.publisher = ScenePublisher(document, link)
        self.playback = Playback(document)
        self.actions_ = ActionTable(frame, ACTIONS, self.menus)
        self.commands = Commands(document)
        self.set_commands = SetCommands(document)
        self.rig_commands = RigCommands(document)
        self.bind_commands = BindCommands(document)
        self.key_commands = KeyCommands(document, frame)
        self.marker_commands = MarkerCommands(document, frame)
        self.shot_commands = ShotCommands(document, frame)
        self.framing_commands = FramingCommands(document)
        self.mover_commands = MoverCommands(document, frame)
        self.live = LiveSwitching(document, self.playback, lambda: self.lens.view.shown_frame)
        self.sound_commands = SoundCommands(document, self.playback, frame)
        self.take_commands = TakeCommands(document, TakeRecorder(document, self.playback), frame)
        self.check_commands = CheckCommands(document, frame)
        self.format_commands = FormatCommands(document, lambda: self.checker.margins())

    def _make_services(self) -> None:
        """What draws, measures, plays, reads and saves."""
        document, frame, link = self.document, self.frame, self.link
        settings = self._settings
        self.small = SmallPictures(document, link, lambda: self.playback.is_playing or not self._shows("shots"))
        self.checker = Checker(
            document, link,
            is_wanted=lambda: self.actions_["check.background"].isChecked() or self.lanes.shown == "checks",
            is_busy=lambda: self.playback.is_playing or self.take_commands.recorder.is_busy,
        )  # fmt: skip
        self.sound_loader = SoundLoader(document)
        self.player = SoundPlayer(document, self.playback)
        self.bringer = Bringer(document)
        self.watcher = FileWatcher(document)
        self.files = SceneFiles(document, settings, self.preferences, frame)
        self.queue = QueueCommands(document)
        self.open = Opener(document, self.preferences, self.queue, frame)

    def _make_panels(self) -> None:
        """What is seen of the document."""
        document, frame, link = self.document, self.frame, self.link
        self.top_bar = TopBar(document, self.playback, self.actions_)
        self.rig = RigPanel(document, self.mover_commands)
        self.depth_panel = DepthPanel(document)
        self.lens = LensPanel(document, link, self.playback, self.actions_)
        self.overview = OverviewPanel(document, link, self.actions_)
        self.inspector = Inspector(document, self.mover_commands)
        self.builder = RigBuilder(document)
        self.board = Board(document, frame)
        self.wires = Wires(frame, document)
        film = FilmParts(
            self.actions_, self.shot_commands, self.framing_commands, self.live, self.sound_commands, self.small,
            self.playback, self.take_commands, self.check_commands,
        )  # fmt: skip
        self.lanes = TimelinePanel(document, self.actions_, film)
        self.live_keys = LiveKeys(self.live, frame)
        self.lesson_run = LessonRun(document, self.actions_, self._settings)
        self.lesson_bar = LessonBar(self.lesson_run, Performer(document, self.actions_, self._field))
        self.pointer = Pointer(frame, self.lesson_run, self.actions_, self._pointed_at, self.menus)
        self.lens.show_when_empty(lambda: self.start_page)

    def _fill(self) -> None:
        """What is round the panels, and where they stand."""
        document, frame, link = self.document, self.frame, self.link
        settings = self._settings
        self.status = StatusLine(document)
        self.banner = Banner()
        self.offers = Offers(document, self.files, self.banner)
        self.previews = Previews(
            document, link, self.playback, self.lens.view.comparison, settings, self._is_looked_at_first
        )
        self.lens.view.cache = self.previews.shown
        self.lanes.view.cached = lambda: self.previews.shown.held
        self.themes = Themes(self.preferences, self._repaint, self)
        self.areas = Areas(
            frame,
            self.lens,
            {"rig": self.rig, "depth": self.depth_panel, "overview": self.overview, "lanes": self.lanes},
            (self.inspector, self.builder),
            self.board,
            (self.top_bar, self.banner, self.lesson_bar),
            self.status,
        )

    # What the start page and lessons ask for

    @cached_property
    def start_page(self) -> "StartPage":
        """What an empty scene offers; made when there is one."""
        from ..start import StartPage

        page = StartPage(self.actions_, self._recent_scenes, self.told_lessons)
        page.dropped.connect(self.begin_with)
        page.scene_wanted.connect(self.files.open)
        page.example_wanted.connect(self.open_example)
        page.lesson_wanted.connect(self.do_lesson)
        return page

    def _recent_scenes(self) -> "list[RecentScene]":
        from ..start import RecentScene

        return [RecentScene(path, shortened(path.parent), picture_of(path)) for path in self.files.recent()]

    def told_lessons(self) -> "list[Told]":
        """The lessons, and which of them were done."""
        from ...lessons import lessons

        done = self.lesson_run.done()
        return [(name, each.name, each.about, each.minutes, name in done) for name, each in lessons().items()]

    def _field(self, name: str) -> QWidget | None:
        """A field of the inspector, by its channel or by what it is called."""
        return self.inspector.fields.get(name) or self.inspector.properties.get(name)

    def _pointed_at(self, kind: str, name: str) -> QWidget | None:
        if kind == "tab":
            return self.lanes.button(name)
        if kind == "area":
            return {**self.areas.areas, "lens": self.lens}.get(name)
        return self._field(name)

    def do_lesson(self, name: str) -> None:
        """Begin a lesson in a copy of its scene."""
        from ...lessons import lesson

        scene = lesson(name).scene
        # What was made of another lesson's scene, and not saved, was made to learn.
        ask = self.lesson_run.lesson is None or self.document.file.path is not None
        if scene and not self.files.open(DEMO_SCENE.with_name(scene), as_copy=True, ask=ask):
            return
        self.playback.stop()
        if scene:
            self.document.messages.say("This is the lesson's own scene: whatever you do, nothing of yours changes.")
        self.lesson_run.begin(name)

    def open_example(self, example: Example) -> None:
        """Open a shipped scene, as a copy."""
        self.files.open(example.scene, as_copy=True)

    def begin_with_artwork(self) -> None:
        """Choose pictures for a new scene."""
        if self.document.scene.nodes:
            self.files.new()
        if not self.document.scene.nodes:
            self.open.files("best", self.begin_with)

    def begin_with(self, paths: list[Path], as_: str = "best") -> None:
        """Let pictures be a first moving picture; a scene among them is opened."""
        self.bring_in(paths, as_, begin=True)

    def _shows(self, tab: str) -> bool:
        """Whether a tab at the bottom is in sight."""
        return self.lanes.shown == tab and self.lanes.isVisible()

    def restore(self) -> None:
        """Be as it was left, and start what draws."""
        self.themes.show()
        self.areas.restore(self._settings)
        self.previews.restore()
        self.queue.begin()
        self.actions_["check.background"].setChecked(int(self._settings.value("checks/background", 1)) > 0)
        quality = int(self._settings.value("preview/quality", 0))
        self.top_bar.quality.setCurrentIndex(quality if 0 <= quality < self.top_bar.quality.count() else 0)
        self.set_quality()
        # Once the event loop has come round, and with it everything has been painted.
        QTimer.singleShot(0, self._start.start)

    def remember(self) -> None:
        self.areas.remember(self._settings)
        self._settings.setValue("checks/background", int(self.actions_["check.background"].isChecked()))
        self._settings.setValue("preview/quality", self.top_bar.quality.currentIndex())
        self._settings.sync()

    def set_quality(self) -> None:
        self.lens.view.set_scale(self.top_bar.scale)
        self.lens.formats.set_scale(self.top_bar.scale)
        self.overview.view.set_scale(min(self.top_bar.scale, 1.0))

    def _is_looked_at_first(self) -> bool:
        """Whether pictures that are in sight are still to be drawn, before those that may be some day."""
        return self.small.is_waited_for or (self.lanes.shown == "checks" and self.checker.wants_pictures)

    def shut_down(self, keep_autosave: bool) -> None:
        """End everything, and remember how it was."""
        self.playback.stop()
        self.player.stop()
        self.take_commands.recorder.shut_down()
        self.framing_commands.stop()
        self.small.stop()
        self.checker.stop()
        self.check_commands.stop()
        self.format_commands.stop()
        self.lanes.stop()
        self.sound_loader.stop()
        self.open.shut_down()
        self.queue.stop()
        self.files.shut_down(keep_autosave=keep_autosave)
        self.remember()
        self._start.stop()
        self.previews.stop()
        self.link.close()
        self.bringer.cancel()
        self.watcher.stop()
        self.lesson_run.stop()
        self.document.stop()

    def _repaint(self) -> None:
        """The theme is another one."""
        self.overview.view.ask()

    # What takes several of them

    def delete(self) -> None:
        """What is selected: shots or an event, else keys or nodes."""
        selection = self.document.selection
        if selection.shots and not selection.nodes:
            self.shot_commands.remove()
        elif selection.film_event is not None and not selection.nodes:
            self.shot_commands.remove_event(selection.film_event)
        else:
            self.commands.delete()

    def select_shot(self) -> None:
        """The shot at the playhead, whose numbers the inspector shows."""
        shots = self.document.scene.shots
        if shots:
            self.document.selection.choose_shots([shot_at(shots, self.document.playhead.frame)])
        else:
            self.document.messages.say("There are no shots yet. F, C cuts at the playhead.", True)

    def rename(self) -> None:
        """The node that is selected, in the Rig or on the shelf."""
        active = self.document.selection.active
        if isinstance(active, Framing):
            self.lanes.shots.shelf.rename(active)
        else:
            self.rig.tree.rename_active()

    def restart_renderer(self) -> None:
        self.link.close()
        self.link.start()
        self.lens.view.ask()
        self.overview.view.ask()

    def reload_artwork(self) -> None:
        self.previews.clear()
        self.sound_loader.reload()
        self.link.reload_artwork()
        self.checker.look_again()
        self.lens.view.ask()
        self.overview.view.ask()
        self.document.messages.say("Every file was read again.")

    def files_changed(self, paths: list[Path]) -> None:
        self.reload_artwork()
        self.lens.view.update()
        names = ", ".join(path.name for path in paths[:3]) + (" …" if len(paths) > 3 else "")
        gone = [path for path in paths if not path.exists()]
        self.document.messages.say(
            f"{gone[0].name} is not there any more." if gone else f"Read again: {names}", bool(gone)
        )

    def show_problems(self, problems: dict[str, str]) -> None:
        """What the renderer found wrong, by node id."""
        self.document.evaluations.drawing_problems = problems
        self.lens.view.update()
        self.rig.tree.viewport().update()

    def bring_in(self, paths: list[Path], as_: str = "best", begin: bool = False) -> None:
        """Files that were dropped or chosen: a scene is opened, other files become nodes. ``begin``: a camera drifts
        past them."""
        try:
            found = expanded(paths)
        except OSError as problem:
            self.document.messages.say(f"{problem.filename} cannot be looked into: {problem.strerror}.", True)
            return
        if paths and not found:
            self.document.messages.say(f"There is no artwork in {paths[0].name}.", True)
            return
        sounds = [path for path in paths if path.suffix.lower() in SOUND_SUFFIXES]
        for path in sounds:
            self.sound_commands.bring(path)
        paths = [path for path in found if path not in sounds]
        if not paths:
            return
        scenes = [path for path in paths if path.suffix == SUFFIX]
        if scenes:
            self.files.open(scenes[0])
            return
        self._first_body = not any(node.serves_as("seen") for node in self.document.scene.nodes)
        self.bringer.bring(paths, as_, begin)

    def came_in(self, added: tuple[str, ...]) -> None:
        if added and self._first_body:
            self.overview.view.frame_all()

    def show_full(self, on: bool) -> None:
        """Give the window the whole screen, or give it back."""
        state = self.frame.windowState()
        full = Qt.WindowState.WindowFullScreen
        self.frame.setWindowState(state | full if on else state & ~full)

    def go_to_menus(self) -> None:
        """The menu bar takes the keyboard."""
        bar = self.frame.menuBar()
        bar.setFocus(Qt.FocusReason.MenuBarFocusReason)
        bar.setActiveAction(bar.actions()[0])

    def build_rig(self, name: str) -> None:
        """Ask for a rig in the inspector's place."""
        self.areas.show_numbers(self.builder)
        self.builder.begin(name)

    def add_dial(self) -> None:
        self.rig_commands.add_dial()
        if self.document.selection.active is not None:
            self.areas.show_board(True)

    def add_camera(self) -> None:
        first = self.document.views.camera is None
        self.commands.add_camera()
        if first:
            self.overview.view.frame_all()

    def keep_version(self) -> None:
        self.document.versions.keep(self.document.scene)
        self.document.messages.say("This version is kept. V, V compares with it; V, X flips.")
