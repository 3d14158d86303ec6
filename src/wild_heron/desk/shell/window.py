"""The main window: its areas, and the actions connected to what they do."""

import os
import socket
from collections.abc import Callable
from datetime import datetime
from pathlib import Path

from PyQt6.QtCore import QPoint, QSettings, Qt, QTimer
from PyQt6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QShowEvent
from PyQt6.QtWidgets import QMainWindow, QSplitter, QStackedWidget, QVBoxLayout, QWidget

from ...files.autosave import Recovery
from ...files.project import SUFFIX
from ...files.scene_lock import Holder
from ..channels.linking import Wires
from ..commands.actions import ActionTable
from ..commands.editing import Commands
from ..commands.keys import KeyCommands
from ..commands.markers import MarkerCommands
from ..commands.rig import RigCommands
from ..commands.set import SetCommands
from ..inspector import Inspector
from ..lens.comparison import STREAM as KEPT
from ..lens.comparison import VERSION
from ..lens.ghosts import STREAMS as GHOSTS
from ..lens.panel import LensPanel
from ..overview.panel import OverviewPanel
from ..panels.board import Board
from ..panels.depth_rail import DepthPanel
from ..panels.rig import RigPanel
from ..pictures.preview_cache import BUDGET, KEPT_AHEAD, STREAM, PreviewCache
from ..pictures.publisher import ScenePublisher
from ..pictures.render_link import RenderLink
from ..rigs.builder import RigBuilder
from ..state.document import Document
from ..state.playback import Playback
from ..state.recording import SCOPES
from ..timeline.panel import TimelinePanel
from .action_list import ACTIONS, MENUS
from .bringing import Bringer
from .connections import AREAS, PREVIEW_RATES, connect_actions
from .opening import Opener
from .scene_files import SceneFiles
from .status import Banner, StatusLine
from .top_bar import TopBar
from .watching import FileWatcher


class MainWindow(QMainWindow):
    """One window with every area alive at once."""

    def __init__(self, settings: QSettings) -> None:
        super().__init__()
        self._settings = settings
        self.setWindowTitle("Wild Heron")
        self.setAcceptDrops(True)
        self.document = Document()
        self.link = RenderLink(("lens", "overview", KEPT, *GHOSTS.values(), STREAM, KEPT_AHEAD))
        self.publisher = ScenePublisher(self.document, self.link)
        self.playback = Playback(self.document)
        self.actions_ = ActionTable(self, ACTIONS, MENUS)
        self.commands = Commands(self.document)
        self.set_commands = SetCommands(self.document)
        self.rig_commands = RigCommands(self.document)
        self.key_commands = KeyCommands(self.document, self)
        self.marker_commands = MarkerCommands(self.document, self)
        self.bringer = Bringer(self.document)
        self.watcher = FileWatcher(self.document)
        self.files = SceneFiles(self.document, settings, self)
        self.menus = self.actions_.fill(self.menuBar())
        self._recent = self.menus["scene"].addMenu("Recent")
        self.menus["scene"].insertMenu(self.actions_["scene.demo"], self._recent)
        self.open = Opener(self.document, self)
        self._leaving = False
        self._first_body = False
        self._board_placed = False
        self._start = QTimer(self)
        self._start.setSingleShot(True)
        self._start.setInterval(40)
        self._start.timeout.connect(self.link.start)
        self._build()
        self._connect()
        self._restore()
        self._refresh()

    # Building

    def _build(self) -> None:
        document = self.document
        self.top_bar = TopBar(document, self.playback, self.actions_)
        self.rig = RigPanel(document)
        self.depth_panel = DepthPanel(document)
        self.lens = LensPanel(document, self.link, self.playback, self.actions_)
        self.preview = PreviewCache(document, self.link)
        self.preview_kept = PreviewCache(document, self.link, KEPT_AHEAD, VERSION, self.lens.view.comparison.scene)
        self.lens.view.cache = self.preview
        self.lens.view.comparison.cache = self.preview_kept
        self.overview = OverviewPanel(document, self.link, self.actions_)
        self.inspector = Inspector(document)
        self.builder = RigBuilder(document)
        self.numbers = QStackedWidget()
        for page_ in (self.inspector, self.builder):
            self.numbers.addWidget(page_)
        self.board = Board(document, self)
        self.addDockWidget(Qt.DockWidgetArea.RightDockWidgetArea, self.board)
        self.board.setFloating(True)
        self.board.resize(320, 250)
        self.board.hide()
        self.wires = Wires(self, document)
        self.lanes = TimelinePanel(document, self.actions_)
        self.lanes.view.cached = lambda: self.preview.held
        self.preview.changed.connect(self.lanes.view.update)
        self.status = StatusLine(document)
        self.banner = Banner()
        self.areas: dict[str, QWidget] = {
            "rig": self.rig, "depth": self.depth_panel, "overview": self.overview, "inspector": self.numbers,
            "lanes": self.lanes,
        }  # fmt: skip
        self.left = _splitter(Qt.Orientation.Vertical, self.rig, self.depth_panel)
        self._middle, self._corner = _holder(self.lens), _holder(self.overview)
        self.right = _splitter(Qt.Orientation.Vertical, self._corner, self.numbers)
        self.upper = _splitter(Qt.Orientation.Horizontal, self.left, self._middle, self.right)
        self.whole = _splitter(Qt.Orientation.Vertical, self.upper, self.lanes)
        self.upper.setStretchFactor(1, 1)
        self.whole.setStretchFactor(0, 1)
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        for widget in (self.top_bar, self.banner):
            column.addWidget(widget)
        column.addWidget(self.whole, 1)
        column.addWidget(self.status)
        self.setCentralWidget(page)
        self.resize(1280, 800)
        self.left.setSizes([230, 290])
        self.right.setSizes([245, 270])
        self.upper.setSizes([204, 716, 360])
        self.whole.setSizes([500, 232])

    def _connect(self) -> None:
        document, files = self.document, self.files
        connect_actions(self)
        self.builder.closed.connect(lambda: self.numbers.setCurrentWidget(self.inspector))
        self.board.visibilityChanged.connect(
            lambda on: self.actions_["view.board"].setChecked(not self.board.isHidden())
        )
        self.actions_["play.loop"].setChecked(True)
        self.top_bar.quality.currentIndexChanged.connect(self._quality)
        self.link.status.connect(self._render_status)
        self.link.problems_changed.connect(self._problems)
        document.opened.connect(self.banner.clear)
        for signal in (document.changed, document.selection.changed, document.settings_changed, document.file.changed):
            signal.connect(self._refresh)
        self.playback.changed.connect(self._refresh)
        self.playback.changed.connect(self._played)
        files.recent_changed.connect(self._fill_recent)
        files.recoveries_found.connect(self._offer_recoveries)
        files.artwork_missing.connect(self._offer_missing)
        files.artwork_outside.connect(self._offer_outside)
        files.held_elsewhere.connect(self._tell_held)
        files.changed_on_disk.connect(self._offer_reload)
        self.bringer.progressed.connect(self.status.show_progress)
        self.bringer.finished.connect(self._came_in)
        self.status.cancelled.connect(self.bringer.cancel)
        self.watcher.changed.connect(self._files_changed)
        self._fill_recent()

    def _refresh(self) -> None:
        document, actions = self.document, self.actions_
        undo, redo = document.history.undo_name, document.history.redo_name
        for name, step, word in (("edit.undo", undo, "Undo"), ("edit.redo", redo, "Redo")):
            actions[name].setEnabled(step is not None)
            actions[name].setText(f"{word}: {step}" if step else word)
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
        name = document.file.path.name if document.file.path else document.scene.name
        looking = " (look only)" if self.files.look_only else ""
        self.setWindowTitle(f"{'• ' if document.is_modified else ''}{name}{looking} · Wild Heron")

    def _fill_recent(self) -> None:
        self._recent.clear()
        for path in self.files.recent():
            action = self._recent.addAction(path.name)
            action.setToolTip(str(path))
            action.triggered.connect(lambda checked, path=path: self.files.open(path))
        self._recent.setEnabled(not self._recent.isEmpty())

    # Areas

    def show_area(self, area: str, on: bool) -> None:
        self.areas[area].setVisible(on)
        self.actions_[f"view.{area}"].setChecked(on)
        if area == "overview" and self.is_swapped:
            self._middle.setVisible(on)
        self.left.setVisible(any(not self.areas[name].isHidden() for name in ("rig", "depth")))
        self._corner.setVisible(self.is_swapped or not self.overview.isHidden())
        self.right.setVisible(not self._corner.isHidden() or not self.numbers.isHidden())

    @property
    def is_swapped(self) -> bool:
        return self.overview.parentWidget() is self._middle

    def swap(self) -> None:
        """Lens and Overview change places."""
        if self.overview.isHidden():
            self.show_area("overview", True)
        first, second = (self.lens, self.overview) if self.is_swapped else (self.overview, self.lens)
        for holder, panel in ((self._middle, first), (self._corner, second)):
            layout = holder.layout()
            assert layout is not None
            layout.addWidget(panel)
            panel.show()

    def _restore(self) -> None:
        for name in ("left", "right", "upper", "whole"):
            state = self._settings.value(f"window/{name}")
            if state is not None:
                getattr(self, name).restoreState(state)
        docks = self._settings.value("window/docks")
        if docks is not None:
            self.restoreState(docks)
            self._board_placed = True
        geometry = self._settings.value("window/geometry")
        if geometry is not None:
            self.restoreGeometry(geometry)
        hidden = self._settings.value("window/hidden", [])
        for area in [hidden] if isinstance(hidden, str) else hidden or []:
            if area in AREAS:
                self.show_area(area, False)
        every = int(self._settings.value("preview/every", 1))
        self.set_preview_rate(every if every in PREVIEW_RATES else 1)
        self._share_memory()
        quality = int(self._settings.value("preview/quality", 0))
        self.top_bar.quality.setCurrentIndex(quality if 0 <= quality < self.top_bar.quality.count() else 0)
        self._quality()

    def _remember(self) -> None:
        for name in ("left", "right", "upper", "whole"):
            self._settings.setValue(f"window/{name}", getattr(self, name).saveState())
        self._settings.setValue("window/geometry", self.saveGeometry())
        self._settings.setValue("window/docks", self.saveState())
        self._settings.setValue("window/hidden", [area for area in AREAS if self.areas[area].isHidden()])
        self._settings.setValue("preview/quality", self.top_bar.quality.currentIndex())
        self._settings.sync()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        # The window is painted first; the render process starts right after.
        self._start.start()

    # Slots

    def _quality(self) -> None:
        self.lens.view.set_scale(self.top_bar.scale)
        self.overview.view.set_scale(min(self.top_bar.scale, 1.0))

    @property
    def preview_memory(self) -> int:
        """How many megabytes played frames may take up."""
        return max(0, int(self._settings.value("preview/megabytes", BUDGET // 1_000_000)))

    def set_preview_memory(self, megabytes: int) -> None:
        self._settings.setValue("preview/megabytes", megabytes)
        self._share_memory()

    def _share_memory(self) -> None:
        """While versions are compared, each of the two has half."""
        size = self.preview_memory * 1_000_000
        comparing = self.lens.view.comparison.on
        self.preview.set_budget(size // 2 if comparing else size)
        self.preview_kept.set_budget(size // 2 if comparing else 0)

    def set_preview_rate(self, every: int) -> None:
        """Show and hold one of so many frames."""
        self.playback.every = self.preview.every = self.preview_kept.every = every
        for each in PREVIEW_RATES:
            self.actions_[f"play.every_{each}"].setChecked(each == every)
        self.preview.wake()
        self._settings.setValue("preview/every", every)

    def _played(self) -> None:
        for cache in (self.preview, self.preview_kept):
            cache.playing = self.playback.is_playing

    def _problems(self, problems: dict[str, str]) -> None:
        self.document.evaluations.drawing_problems = problems
        self.lens.view.update()
        self.rig.tree.viewport().update()

    def _render_status(self, text: str, warning: bool) -> None:
        if warning:
            self.document.messages.say(text, True)
        else:
            self.status.work.setText(text)

    def compared(self, on: bool) -> None:
        self.actions_["view.compare"].setChecked(on)
        self._share_memory()

    def keep_version(self) -> None:
        self.document.versions.keep(self.document.scene)
        self.document.messages.say("This version is kept. Shift+C compares with it, Shift+X flips.")

    def restart_renderer(self) -> None:
        self.link.close()
        self.link.start()
        self.lens.view.ask()
        self.overview.view.ask()

    def reload_artwork(self) -> None:
        for cache in (self.preview, self.preview_kept):
            cache.clear()
        self.link.reload_artwork()
        self.lens.view.ask()
        self.overview.view.ask()
        self.document.messages.say("Every file is read again.")

    def _files_changed(self, paths: list[Path]) -> None:
        self.reload_artwork()
        self.lens.view.update()
        names = ", ".join(path.name for path in paths[:3]) + (" …" if len(paths) > 3 else "")
        gone = [path for path in paths if not path.exists()]
        self.document.messages.say(
            f"{gone[0].name} is not there any more." if gone else f"Read again: {names}", bool(gone)
        )

    def bring_in(self, paths: list[Path], as_: str = "best") -> None:
        """Files that were dropped or chosen: a scene is opened, other files become nodes."""
        scenes = [path for path in paths if path.suffix == SUFFIX]
        if scenes:
            self.files.open(scenes[0])
            return
        self._first_body = not any(node.serves_as("seen") for node in self.document.scene.nodes)
        self.bringer.bring(paths, as_)

    def _came_in(self, added: tuple[str, ...]) -> None:
        if added and self._first_body:
            self.overview.view.frame_all()

    def build_rig(self, name: str) -> None:
        """Ask for a rig in the inspector's place."""
        if self.numbers.isHidden():
            self.show_area("inspector", True)
        self.numbers.setCurrentWidget(self.builder)
        self.builder.begin(name)

    def show_board(self, on: bool) -> None:
        if on and self.board.isFloating() and not self._board_placed:
            # Over the Lens's lower edge, where it hides the least, until it is put elsewhere.
            corner = self.lens.mapToGlobal(QPoint(self.lens.width() - 336, self.lens.height() - 320))
            self.board.move(corner)
            self._board_placed = True
        self.board.setVisible(on)

    def add_dial(self) -> None:
        self.rig_commands.add_dial()
        if self.document.selection.active is not None:
            self.show_board(True)

    def add_camera(self) -> None:
        first = self.document.views.camera is None
        self.commands.add_camera()
        if first:
            self.overview.view.frame_all()

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        data = event.mimeData() if event else None
        if event is not None and data is not None and data.hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        data = event.mimeData() if event else None
        if event is not None and data is not None:
            self.bring_in([Path(url.toLocalFile()) for url in data.urls() if url.isLocalFile()])
            event.acceptProposedAction()

    def _offer_recoveries(self, found: list[Recovery]) -> None:
        """Offer the newest, and when that is decided the next. What is not decided stays where it is."""
        recovery, rest = found[0], found[1:]
        when = datetime.fromtimestamp(recovery.modified)
        what = recovery.scene_path.name if recovery.scene_path else "a scene that was never saved"
        than = (
            ""
            if recovery.scene_path is None
            else ", newer than the file"
            if recovery.newer
            else ", older than the file"
        )

        def decided(choose: Callable[[Recovery], None]) -> None:
            choose(recovery)
            if rest and choose == self.files.discard:
                self._offer_recoveries(rest)

        self.banner.offer(
            f"After a crash there is an autosave of {what} from {when:%d %B, %H:%M}{than}.",
            {
                "Recover": lambda: decided(self.files.recover),
                "Discard": lambda: decided(self.files.discard),
                "Not now": None,
            },
        )

    def _offer_outside(self, paths: list[Path]) -> None:
        folders = list(dict.fromkeys(os.path.dirname(os.path.realpath(path)) for path in paths))
        names = ", ".join(folders[:2]) + (f" and {len(folders) - 2} more" if len(folders) > 2 else "")
        self.banner.offer(
            f"This scene wants to read files outside its folder, in {names}.",
            {"Allow": lambda: self._allow(paths), "Not now": None},
        )

    def _allow(self, paths: list[Path]) -> None:
        self.document.file.allow(paths)
        self.reload_artwork()

    def _tell_held(self, holder: Holder | None) -> None:
        name = self.document.file.path.name if self.document.file.path else "This scene"
        where = f" on {holder.host}" if holder is not None and holder.host not in ("", socket.gethostname()) else ""
        self.banner.offer(
            f"{name} is open in another window{where}. Here you can look at it, and save it under another name.",
            {"Open a copy": self.files.open_copy, "Look only": None},
        )

    def _offer_reload(self) -> None:
        name = self.document.file.path.name if self.document.file.path else "The scene"
        self.banner.offer(
            f"{name} was changed on disk by another program.", {"Reload": self.files.reload, "Keep what is here": None}
        )

    def _offer_missing(self, count: int) -> None:
        self.banner.offer(
            "A picture is missing; a labelled stand-in is shown."
            if count == 1
            else f"{count} pictures are missing; labelled stand-ins are shown.",
            {"Find…": self.open.missing, "Not now": None},
        )

    def leave_now(self) -> None:
        """Close without asking, for the system or the terminal wants it so: what was changed is autosaved."""
        self._leaving = True
        self.document.cancel()
        self.close()

    def closeEvent(self, event: QCloseEvent | None) -> None:
        if event is None:
            return
        if not self._leaving and not self.files.may_leave():
            event.ignore()
            return
        self.playback.stop()
        self.open.shut_down()
        self.files.shut_down(keep_autosave=self._leaving)
        self._remember()
        self._start.stop()
        for cache in (self.preview, self.preview_kept):
            cache.stop()
        self.link.close()
        self.bringer.shut_down()
        self.document.stop()
        event.accept()


def _splitter(orientation: Qt.Orientation, *widgets: QWidget) -> QSplitter:
    out = QSplitter(orientation)
    out.setHandleWidth(1)
    out.setChildrenCollapsible(False)
    for widget in widgets:
        out.addWidget(widget)
    return out


def _holder(widget: QWidget) -> QWidget:
    out = QWidget()
    column = QVBoxLayout(out)
    column.setContentsMargins(0, 0, 0, 0)
    column.addWidget(widget)
    return out
