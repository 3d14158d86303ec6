"""The main window: its areas, and the actions connected to what they do."""

from datetime import datetime
from pathlib import Path

from PyQt6.QtCore import QPoint, QSettings, Qt, QTimer
from PyQt6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QShowEvent
from PyQt6.QtWidgets import QMainWindow, QSplitter, QStackedWidget, QVBoxLayout, QWidget

from ..demo import DEMO_SCENE
from ..files.autosave import Recovery
from ..files.project import SUFFIX
from ..scene import Family, Flow, Hold, Linear
from .actions import ActionTable
from .board import Board
from .bringing import Bringer
from .commands import Commands
from .depth_rail import DepthPanel
from .document import Document
from .inspector import Inspector
from .key_commands import BEYOND, KeyCommands
from .lanes.ease_panel import apply_ease
from .lanes.panel import LanesPanel
from .lens.panel import LensPanel
from .linking import Wires
from .opening import Opener
from .overview.painting import has_body
from .overview.panel import OverviewPanel
from .playback import Playback
from .preview_cache import STREAM, PreviewCache
from .recording import Scope
from .render_link import RenderLink
from .rig_commands import RigCommands
from .rig_panel import RigPanel
from .rigs.builder import RigBuilder
from .rigs.recipes import RECIPES
from .scene_files import SceneFiles
from .set_commands import SetCommands
from .status import Banner, StatusLine
from .top_bar import TopBar
from .watching import FileWatcher

SCOPES: tuple[Scope, ...] = ("changed", "pose", "lens", "everything")
_AREAS = ("rig", "depth", "overview", "inspector", "lanes")


class MainWindow(QMainWindow):
    """One window with every area alive at once."""

    def __init__(self, settings: QSettings) -> None:
        super().__init__()
        self._settings = settings
        self.setWindowTitle("Wild Heron")
        self.setAcceptDrops(True)
        self.document = Document()
        self.link = RenderLink(("lens", "overview", STREAM))
        self.playback = Playback(self.document)
        self.actions_ = ActionTable(self)
        self.commands = Commands(self.document)
        self.set_commands = SetCommands(self.document)
        self.rig_commands = RigCommands(self.document)
        self.key_commands = KeyCommands(self.document, self)
        self.bringer = Bringer(self.document)
        self.watcher = FileWatcher(self.document)
        self.files = SceneFiles(self.document, settings, self)
        self.menus = self.actions_.fill(self.menuBar())
        self._recent = self.menus["scene"].addMenu("Recent")
        self.menus["scene"].insertMenu(self.actions_["scene.demo"], self._recent)
        self.open = Opener(self.document, self)
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
        self.depth = DepthPanel(document)
        self.lens = LensPanel(document, self.link, self.playback, self.actions_)
        self.preview = PreviewCache(document, self.link)
        self.lens.view.cache = self.preview
        self.overview = OverviewPanel(document, self.link, self.actions_)
        self.inspector = Inspector(document)
        self.builder = RigBuilder(document)
        self.numbers = QStackedWidget()
        for widget in (self.inspector, self.builder):
            self.numbers.addWidget(widget)
        self.board = Board(document, self)
        self.addDockWidget(Qt.DockWidgetArea.RightDockWidgetArea, self.board)
        self.board.setFloating(True)
        self.board.resize(320, 250)
        self.board.hide()
        self.wires = Wires(self, document)
        self.lanes = LanesPanel(document, self.actions_)
        self.lanes.view.cached = lambda: self.preview.held
        self.preview.changed.connect(self.lanes.view.update)
        self.status = StatusLine(document)
        self.banner = Banner()
        self.areas = {
            "rig": self.rig, "depth": self.depth, "overview": self.overview, "inspector": self.numbers,
            "lanes": self.lanes,
        }  # fmt: skip
        self.left = _splitter(Qt.Orientation.Vertical, self.rig, self.depth)
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
        act, commands, files = self.actions_.connect, self.commands, self.files
        place = self.set_commands
        document = self.document
        act("scene.new", files.new)
        act("scene.open", files.ask_open)
        act("scene.demo", lambda: files.open(DEMO_SCENE, as_copy=True))
        act("scene.save", files.save)
        act("scene.save_as", files.ask_save_as)
        act("scene.settings", self.open.settings)
        act("scene.quit", self.close)
        act("edit.undo", document.undo)
        act("edit.redo", document.redo)
        act("edit.copy", commands.copy)
        act("edit.paste", commands.paste)
        act("edit.duplicate", commands.duplicate)
        act("edit.delete", commands.delete)
        act("edit.select_all", commands.select_all)
        act("edit.select_none", commands.select_none)
        act("set.bring", lambda: self.open.files("best"))
        for as_ in ("sequence", "layers", "logo", "projection"):
            act(f"set.{as_}", lambda as_=as_: self.open.files(as_))
        for kind in ("solid", "gradient", "text"):
            act(f"set.{kind}", lambda kind=kind: place.add_card(kind))
        for kind in ("plane", "box", "sphere", "cylinder", "cone", "torus"):
            act(f"set.{kind}", lambda kind=kind: place.add_solid(kind))
        act("set.letters", place.add_letters)
        for kind in ("ambient", "directional", "point"):
            act(f"set.{kind}", lambda kind=kind: place.add_light(kind))
        act("set.solo", place.solo)
        act("set.spread", self.open.spread)
        act("set.fill", place.fill_frame)
        act("set.ground", place.stand_on_ground)
        act("set.one_to_one", place.to_frame_distance)
        act("set.snap", place.snap)
        act("set.face", lambda: place.face_camera(False))
        act("set.face_upright", lambda: place.face_camera(True))
        act("set.anchor_middle", lambda: place.anchor("in the middle", (0.5, 0.5, 0.5)))
        act("set.anchor_bottom", lambda: place.anchor("at the bottom", (0.5, 0.0, 0.5)))
        for line in ("x", "y", "depth"):
            act(f"set.align_{line}", lambda line=line: place.align(line))
            act(f"set.even_{line}", lambda line=line: place.distribute(line))
        act("set.replace", self.open.replacement)
        act("set.stretch", self.open.stretch)
        act("set.rename", self.rig.tree.rename_active)
        act("set.hide", lambda checked: commands.toggle("hidden", "Hide", "Show"))
        act("set.lock", lambda checked: commands.toggle("locked", "Lock", "Unlock"))
        act("set.up", lambda: commands.move_in_list(-1))
        act("set.down", lambda: commands.move_in_list(1))
        act("set.missing", self.open.missing)
        act("set.reload", self.reload_artwork)
        act("camera.add", self.add_camera)
        act("camera.look", commands.look_through_selected)
        act("rig.null", commands.null_at_selection)
        act("rig.null_middle", commands.null_in_middle)
        act("rig.null_aim", commands.null_at_aim)
        act("rig.carry", commands.hang_on_last)
        act("rig.free", commands.take_off)
        act("rig.aim_node", commands.aim_at_selected)
        act("rig.aim_point", commands.aim_at_point)
        act("rig.aim_none", commands.take_aim_away)
        rig = self.rig_commands
        for name in RECIPES:
            act(f"rig.{name}", lambda name=name: self.build_rig(name))
        self.builder.closed.connect(lambda: self.numbers.setCurrentWidget(self.inspector))
        act("rig.bind_aim", rig.aim)
        act("rig.bind_place", lambda: rig.match("position"))
        act("rig.bind_turn", lambda: rig.match("rotation"))
        act("rig.bind_follow", rig.follow)
        act("rig.bind_path", rig.ride_path)
        act("rig.bind_ground", rig.ride_ground)
        act("rig.bind_opposite", rig.opposite)
        for what in ("distance", "height", "tilt"):
            act(f"rig.limit_{what}", lambda what=what: rig.limit(what))
        act("rig.drop", rig.drop)
        for kind in ("circle", "ellipse", "line", "through", "bezier"):
            act(f"rig.{kind}", lambda kind=kind: rig.add_path(kind))
        act("rig.waves", rig.add_ground)
        act("rig.heights", self.open.heights)
        act("rig.surface", rig.ground_from_model)
        act("rig.lift", rig.lift_to_path)
        act("rig.lower", rig.lower_to_keys)
        act("rig.table", self.open.table)
        act("rig.animation", self.open.animation)
        act("rig.dial", self.add_dial)
        act("view.board", self.show_board)
        act("view.curves", lambda on: self.lanes.choose("curves" if on else "lanes"))
        self.board.visibilityChanged.connect(
            lambda on: self.actions_["view.board"].setChecked(not self.board.isHidden())
        )
        act("keys.auto", document.set_auto_key)
        act("keys.now", commands.key_selected)
        act("keys.pending", commands.key_pending)
        act("keys.discard", commands.discard_pending)
        act("keys.earlier", lambda: commands.nudge_keys(-1.0))
        act("keys.later", lambda: commands.nudge_keys(1.0))
        keys = self.key_commands
        for name in ("insert", "hold_until", "jump", "reverse", "to_frames", "copy_pose", "paste_pose"):
            act(f"keys.{name}", getattr(keys, name))
        act("keys.stretch", keys.ask_stretch)
        for scope in SCOPES:
            act(f"keys.scope_{scope}", lambda on, scope=scope: document.set_scope(scope))
        act("keys.undo_last", document.undo_last_keys)
        act("view.onion", self.overview.view.show_onion)
        act("keys.shift", keys.ask_shift)
        act("keys.ripple_earlier", lambda: keys.ripple(-1.0))
        act("keys.ripple_later", lambda: keys.ripple(1.0))
        act("keys.paste_onto", lambda: keys.paste_here(commands.clip, False))
        act("keys.paste_offset", lambda: keys.paste_here(commands.clip, True))
        for how in BEYOND:
            act(f"keys.beyond_{how}", lambda how=how: keys.loop(how))
        act("ease.copy", keys.copy_ease)
        act("ease.paste", keys.paste_ease)
        act("ease.even", keys.even_speed)
        act("ease.match", keys.match_speed)
        act("ease.through", keys.run_through)
        act("ease.landing", keys.soft_landing)
        for name, span in (
            ("smooth", Flow("smooth")),
            ("hold", Hold()),
            ("linear", Linear()),
            ("flow", Flow()),
            ("both", Family("cubic", "in-out")),
        ):
            act(f"ease.{name}", lambda span=span: apply_ease(document, span))
        act("play.toggle", self.playback.toggle)
        act("play.loop", self._set_loop)
        act("play.back", lambda: commands.step(-1))
        act("play.forward", lambda: commands.step(1))
        act("play.key_back", lambda: commands.to_key(False))
        act("play.key_forward", lambda: commands.to_key(True))
        act("play.start", lambda: document.set_frame(document.range[0]))
        act("play.end", lambda: document.set_frame(document.range[1]))
        act("play.from", commands.range_from)
        act("play.to", commands.range_to)
        act("play.whole", lambda: document.set_play_range(None))
        for area in _AREAS:
            self.actions_[f"view.{area}"].setChecked(True)
            act(f"view.{area}", lambda on, area=area: self.show_area(area, on))
        act("view.swap", self.swap)
        act("view.renderer", self.restart_renderer)
        act("output.export", self.open.export)
        act("help.shortcuts", self.open.shortcuts)
        act("help.about", self.open.about)
        self.actions_["play.loop"].setChecked(True)
        self.top_bar.quality.currentIndexChanged.connect(self._quality)
        self.link.status.connect(self._render_status)
        self.link.problems_changed.connect(lambda problems: self.lens.view.update())
        for signal in (document.changed, document.selection_changed, document.settings_changed, document.file_changed):
            signal.connect(self._refresh)
        self.playback.changed.connect(self._refresh)
        self.playback.changed.connect(lambda: setattr(self.preview, "playing", self.playback.is_playing))
        files.recent_changed.connect(self._fill_recent)
        files.recovery_found.connect(self._offer_recovery)
        files.artwork_missing.connect(self._offer_missing)
        self.bringer.progressed.connect(self.status.show_progress)
        self.bringer.finished.connect(self._came_in)
        self.status.cancelled.connect(self.bringer.cancel)
        self.watcher.changed.connect(self._files_changed)
        self._fill_recent()

    def _refresh(self) -> None:
        document, actions = self.document, self.actions_
        undo, redo = document.undo_name, document.redo_name
        for name, step, word in (("edit.undo", undo, "Undo"), ("edit.redo", redo, "Redo")):
            actions[name].setEnabled(step is not None)
            actions[name].setText(f"{word}: {step}" if step else word)
        active = document.active
        actions["set.hide"].setChecked(active is not None and active.hidden)
        actions["set.solo"].setChecked(bool(document.solo))
        actions["set.lock"].setChecked(active is not None and active.locked)
        actions["keys.auto"].setChecked(document.auto_key)
        for scope in SCOPES:
            actions[f"keys.scope_{scope}"].setChecked(document.scope == scope)
        actions["keys.undo_last"].setEnabled(document.last_keys is not None)
        pending = bool(document.state.pending)
        actions["keys.pending"].setEnabled(pending)
        actions["keys.discard"].setEnabled(pending)
        name = document.path.name if document.path else document.scene.name
        self.setWindowTitle(f"{'• ' if document.is_modified else ''}{name} · Wild Heron")

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
            if area in _AREAS:
                self.show_area(area, False)
        quality = int(self._settings.value("preview/quality", 0))
        self.top_bar.quality.setCurrentIndex(quality if 0 <= quality < self.top_bar.quality.count() else 0)
        self._quality()

    def _remember(self) -> None:
        for name in ("left", "right", "upper", "whole"):
            self._settings.setValue(f"window/{name}", getattr(self, name).saveState())
        self._settings.setValue("window/geometry", self.saveGeometry())
        self._settings.setValue("window/docks", self.saveState())
        self._settings.setValue("window/hidden", [area for area in _AREAS if self.areas[area].isHidden()])
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

    def _set_loop(self, on: bool) -> None:
        self.document.loop = on

    def _render_status(self, text: str, warning: bool) -> None:
        if warning:
            self.document.say(text, True)
        else:
            self.status.work.setText(text)

    def restart_renderer(self) -> None:
        self.link.close()
        self.link.start()
        self.lens.view.ask()
        self.overview.view.ask()

    def reload_artwork(self) -> None:
        self.preview.clear()
        self.link.reload_artwork()
        self.lens.view.ask()
        self.overview.view.ask()
        self.document.say("Every file is read again.")

    def _files_changed(self, paths: list[Path]) -> None:
        self.reload_artwork()
        self.lens.view.update()
        names = ", ".join(path.name for path in paths[:3]) + (" …" if len(paths) > 3 else "")
        gone = [path for path in paths if not path.exists()]
        self.document.say(f"{gone[0].name} is not there any more." if gone else f"Read again: {names}", bool(gone))

    def bring_in(self, paths: list[Path], as_: str = "best") -> None:
        """Files that were dropped or chosen: a scene is opened, other files become nodes."""
        scenes = [path for path in paths if path.suffix == SUFFIX]
        if scenes:
            self.files.open(scenes[0])
            return
        self._first_body = not any(has_body(node) for node in self.document.scene.nodes)
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
        if self.document.active is not None:
            self.show_board(True)

    def add_camera(self) -> None:
        first = self.document.camera is None
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

    def _offer_recovery(self, recovery: Recovery) -> None:
        when = datetime.fromtimestamp(recovery.modified)
        what = recovery.scene_path.name if recovery.scene_path else "a scene that was never saved"
        self.banner.offer(
            f"An autosave of {what} from {when:%d %B, %H:%M} is newer than what was saved.",
            {
                "Recover": lambda: self.files.recover(recovery),
                "Discard": lambda: self.files.discard(recovery),
                "Not now": None,
            },
        )

    def _offer_missing(self, count: int) -> None:
        self.banner.offer(
            "A picture is missing; a labelled stand-in is shown."
            if count == 1
            else f"{count} pictures are missing; labelled stand-ins are shown.",
            {"Find…": self.open.missing, "Not now": None},
        )

    def closeEvent(self, event: QCloseEvent | None) -> None:
        if event is None:
            return
        if not self.files.may_leave():
            event.ignore()
            return
        self.playback.stop()
        self.open.shut_down()
        self.files.autosaver.clear()
        self._remember()
        self._start.stop()
        self.preview.stop()
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
