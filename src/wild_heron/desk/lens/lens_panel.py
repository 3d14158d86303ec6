"""The Lens area: heading with the tools, the picture, pending values, typed moves, and the line of readings."""

from collections.abc import Callable
from functools import cached_property

from PyQt6.QtCore import QPoint, QTimer
from PyQt6.QtGui import QFont
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QToolButton, QWidget

from ...scene import GUIDES, Projection, View
from ...scene.channels import FOCAL, ChannelSpec
from ...scene.film import shot_at
from ...scene.output import shown_nodes
from ...scene.specs import spec
from ...space.moves import Moves
from ..commands.actions import ActionTable
from ..pictures.render_link import RenderLink
from ..state.document import Document
from ..state.playback import Playback
from ..widgets.number_field import NumberField
from ..widgets.panel_parts import Panel, label, menu_button, popup_menu, set_surface
from ..widgets.quantities import format_number
from ..widgets.theme import font
from .camera_moves import MOVE_NAMES, CameraMoves
from .formats_view import FormatsView
from .lens_view import LensView
from .match_panel import MatchPanel
from .readings import Readings

_TOOLS = ("turn", "roll", "slide", "push", "zoom", "orbit")
_ANGLES = ("pan", "tilt", "roll", "orbit", "lift")


class PendingBar(QWidget):
    """What was changed without being keyed: it is keyed or discarded here, and stays until then."""

    def __init__(self, document: Document, actions: ActionTable) -> None:
        super().__init__()
        self._document = document
        set_surface(self, "pending")
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 5, 10, 5)
        self.text = label("", size=12)
        row.addWidget(self.text, 1)
        self.go = QPushButton("Go there")
        self.go.setToolTip("Move the playhead to the frame of the pending values")
        self.go.clicked.connect(self._go)
        self.key = QPushButton("Key it")
        self.key.setProperty("main", True)
        self.key.setToolTip(actions.tip("keys.pending"))
        self.key.clicked.connect(actions["keys.pending"].trigger)
        self.discard = QPushButton("Discard")
        self.discard.setToolTip(actions.tip("keys.discard"))
        self.discard.clicked.connect(actions["keys.discard"].trigger)
        for button in (self.go, self.discard, self.key):
            row.addWidget(button)
        document.changed.connect(self.refresh)
        document.playhead.moved.connect(self.refresh)
        self.refresh()

    def _go(self) -> None:
        self._document.playhead.set_frame(self._document.state.pending[0].frame)

    def refresh(self) -> None:
        pending = self._document.state.pending
        self.setVisible(bool(pending))
        if not pending:
            return
        first = pending[0]
        node = self._document.scene.node(first.node)
        unit = spec(node, first.channel).unit
        what = f"{self._document.label(first.node, first.channel)}  {format_number(first.value, unit)}"
        more = f" and {len(pending) - 1} more" if len(pending) > 1 else ""
        self.text.setText(f"Not keyed: {what}{more}, at frame {first.frame:g}")
        self.go.setVisible(all(item.frame != self._document.playhead.frame for item in pending))


class MovesStrip(QWidget):
    """The camera's moves as numbers, each with a reset."""

    def __init__(self, document: Document, moves: CameraMoves) -> None:
        super().__init__()
        self._document, self._moves = document, moves
        set_surface(self, "panel", "top")
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 5, 14, 6)
        row.setSpacing(6)
        self.fields: dict[str, NumberField] = {}
        for name in MOVE_NAMES:
            unit, nudge = ("degrees", 1.0) if name in _ANGLES else ("mm", 1.0) if name == "zoom" else ("units", 0.1)
            limits = (1.0, 5000.0) if name == "zoom" else (float("-inf"), float("inf"))
            field = NumberField(ChannelSpec(name, name, unit, 0.0, *limits, nudge), caption=name)  # type: ignore[arg-type]
            field.setToolTip(f"{name.capitalize()} since the camera was put here. The arrow above it resets it.")
            field.edited.connect(lambda value, repeats, name=name: moves.set_amount(name, value, repeats))
            field.drag_started.connect(lambda name=name: document.gesture.begin(name.capitalize()))
            field.dragged.connect(lambda value, name=name: moves.set_amount(name, value))
            field.drag_finished.connect(document.gesture.commit)
            field.drag_cancelled.connect(self._cancelled)
            field.menu_wanted.connect(lambda at, name=name: self._menu(at, name))
            field.reset_wanted.connect(lambda name=name: moves.reset(name))
            field.refused.connect(lambda text: document.messages.say(text, True))
            self.fields[name] = field
            row.addWidget(field, 1)
        moves.changed.connect(self.refresh)
        document.changed.connect(self.refresh)
        document.playhead.moved.connect(self.refresh)
        self.refresh()

    def _cancelled(self) -> None:
        self._document.cancel()
        self._moves.restart()

    def _menu(self, at: QPoint, name: str) -> None:
        menu = popup_menu(self)
        menu.addAction(f"Reset {name}").triggered.connect(lambda: self._moves.reset(name))
        menu.addAction("Reset all moves").triggered.connect(self._moves.reset_all)
        menu.exec(at)

    def showEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        self.refresh()

    def refresh(self) -> None:
        if not self.isVisible():
            return
        camera = self._document.views.camera
        for name, field in self.fields.items():
            amount = getattr(self._moves.moves, name)
            if name == "zoom":
                amount = self._document.evaluations.value(camera.id, FOCAL) if camera else 35.0
            field.setEnabled(camera is not None and self._moves.refused(name) is None)
            can_reset = getattr(self._moves.moves, name) != getattr(Moves(), name)
            if can_reset != field.can_reset:
                field.can_reset = can_reset
                field.update()
            field.show_value(float(amount))


class LensPanel(Panel):
    """The area in the middle of the window."""

    def __init__(self, document: Document, link: RenderLink, playback: Playback, actions: ActionTable) -> None:
        super().__init__("Lens", "surround")
        self._document = document
        self.moves = CameraMoves(document)
        self.view = LensView(document, link, self.moves)
        self.name = QToolButton()
        self.name.setFont(font(12, QFont.Weight.Medium))
        self.name.setProperty("look", "name")
        self.name.setToolTip("Choose the camera that the Lens shows")
        self.name.clicked.connect(self._camera_menu)
        self.strip.addWidget(self.name)
        self.strip.addStretch()
        self.tools: dict[str, QToolButton] = {}
        for tool in _TOOLS:
            button = actions.button(f"camera.{tool}")
            button.setFixedSize(26, 24)
            self.tools[tool] = button
            self.strip.addWidget(button)
            actions.connect(f"camera.{tool}", lambda checked, tool=tool: self.choose_tool(tool))
        self.strip.addSpacing(8)
        self.guides = menu_button("guides ▾", "What is drawn over this format's picture", self._guide_menu)
        self.guides.setProperty("look", "")
        self._actions = actions
        self._word("camera.moves", "moves")
        self.strip.addWidget(self.guides)
        self._word("view.formats", "outlines")
        self._word("view.every", "all formats")
        self._link = link
        self._is_matching = self._shows_every = self._is_empty = False
        self._empty: QWidget | None = None
        self._make_empty: Callable[[], QWidget] | None = None
        self.body.addWidget(self.view, 1)
        self.formats = FormatsView(document, link)
        self.formats.hide()
        self.formats.opened.connect(lambda: self.show_every(False))
        self.body.addWidget(self.formats, 1)
        self.pending = PendingBar(document, actions)
        self.body.addWidget(self.pending)
        self.strip_moves = MovesStrip(document, self.moves)
        self.body.addWidget(self.strip_moves)
        self.readings = Readings(document, playback, self.view)
        self.body.addWidget(self.readings)
        self.view.shown.connect(playback.count_shown)
        self.strip_moves.hide()
        actions.connect("camera.moves", self.strip_moves.setVisible)
        actions.connect("camera.reset", self.moves.reset_all)
        actions["view.formats"].setChecked(self.view.outlines.on)
        actions.connect("view.formats", self._show_outlines)
        actions.connect("view.every", self.show_every)
        actions.connect("set.match", self.show_match)
        actions.connect("view.stretch", self.show_stretch)
        for signal in (document.changed, document.playhead.moved, document.settings_changed):
            signal.connect(self.refresh)
        self.choose_tool("orbit")
        self.refresh()

    def show_when_empty(self, make: Callable[[], QWidget]) -> None:
        """Give the panel a page, made when it is first wanted, that it shows while there is nothing in the scene."""
        self._make_empty = make
        # Not before what is to be opened is open.
        QTimer.singleShot(0, self.refresh)

    def _word(self, name: str, text: str) -> None:
        """A button in the heading for an action, with a short word of its own."""
        button, action = QToolButton(), self._actions[name]
        button.setDefaultAction(action)
        button.setText(text)
        button.setFont(font(11))
        self.strip.addWidget(button)
        action.changed.connect(lambda: button.setText(text))

    def choose_tool(self, tool: str) -> None:
        self.view.tool = tool
        for each in _TOOLS:
            self._actions[f"camera.{each}"].setChecked(each == tool)

    def _show_outlines(self, on: bool) -> None:
        self.view.outlines.on = on
        self.view.update()

    def _guide_menu(self) -> None:
        menu = popup_menu(self)
        for guide in GUIDES:
            menu.addAction(self._actions[f"view.{guide}"])
        menu.addSeparator()
        menu.addAction(self._actions["view.beyond"])
        menu.addAction(self._actions["view.guides"])
        menu.exec(self.guides.mapToGlobal(QPoint(0, self.guides.height())))

    def show_every(self, on: bool) -> None:
        """Show all formats side by side in place of the picture, or go back to the one that is looked at."""
        if on and self._is_matching:
            self.show_match(False)
        self._actions["view.every"].setChecked(on)
        self._shows_every = on
        self.formats.setVisible(on)
        self._show_picture()
        self.refresh()
        if on:
            self.formats.setFocus()

    def _show_picture(self) -> None:
        alone = not self._is_matching and not self._shows_every
        empty = alone and self._is_empty
        self.view.setVisible(alone and not empty)
        self.readings.setVisible(alone and not empty)
        if self._empty is not None:
            self._empty.setVisible(empty)

    @cached_property
    def match(self) -> MatchPanel:
        """Where photographs are matched, in place of the picture; made when it is first wanted."""
        made = MatchPanel(self._document, self._link)
        made.hide()
        made.done.connect(lambda: self.show_match(False))
        self.body.insertWidget(self.body.indexOf(self.view) + 1, made, 1)
        return made

    def show_match(self, on: bool) -> None:
        """Match the selected projection's photograph, or go back to the Lens."""
        node = self._document.selection.active
        if on and not isinstance(node, Projection):
            projections = [each for each in self._document.scene.nodes if isinstance(each, Projection)]
            node = projections[0] if len(projections) == 1 else None
            if node is None:
                self._document.messages.say("Select a photo projection first.", True)
        on = on and isinstance(node, Projection)
        self._actions["set.match"].setChecked(on)
        if on or self._is_matching:
            self.match.setVisible(on)
        if on and self._shows_every:
            self.show_every(False)
        self._is_matching = on
        self._show_picture()
        if on:
            assert isinstance(node, Projection)
            self._document.selection.choose([node.id])
            self.match.begin(node)
        self.refresh()

    def show_stretch(self, on: bool) -> None:
        """Show how far projected photographs are stretched, in place of the picture."""
        if on and not any(isinstance(node, Projection) for node in self._document.scene.nodes):
            self._document.messages.say("There is no photo projection. Set ▸ Bring in as ▸ Photo projection.", True)
            on = False
        self._actions["view.stretch"].setChecked(on)
        self.view.stretch = on
        self.view.ask()

    def refresh(self) -> None:
        guides = self._document.views.format.guides
        for guide in GUIDES:
            self._actions[f"view.{guide}"].setChecked(guide in guides.shown)
        self._actions["view.beyond"].setChecked(guides.mask is not None)
        camera = self._document.views.camera
        matched = self.match.view.node if self._is_matching else None
        if matched is not None:
            self.name.setText(f"matching {matched.name}")
        else:
            self.name.setText(self._shown_name(camera))
        self.name.setEnabled(matched is None)
        is_empty = self._make_empty is not None and not self._document.scene.nodes
        if is_empty != self._is_empty:
            if self._empty is None and self._make_empty is not None:
                self._empty = self._make_empty()
                self.body.insertWidget(self.body.indexOf(self.view), self._empty, 1)
            self._is_empty = is_empty
            self._show_picture()

    def _shown_name(self, camera: View | None) -> str:
        """What the Lens shows: of a film the shot as well."""
        scene = self._document.scene
        if camera is None:
            return "no camera"
        if not scene.shots or self._document.views.lens is not None:
            return f"{camera.name} ▾"
        shot = scene.shots[shot_at(scene.shots, self._document.playhead.frame)]
        # Where an event shows another camera, it is that one's name that tells.
        name = shot.name if shot.camera == camera.id else "Event"
        return f"{name} · {camera.name} ▾"

    def _camera_menu(self) -> None:
        menu = popup_menu(self)
        document = self._document
        scene, views = document.scene, document.views
        if scene.shots or any(node.serves_as("framing") for node in scene.nodes):
            action = menu.addAction("The film" if scene.shots else "The output")
            action.setCheckable(True)
            action.setChecked(views.lens is None)
            action.triggered.connect(lambda: views.set_lens(None))
            menu.addSeparator()
        shown = views.lens or (None if scene.shots or views.camera is None else views.camera.id)
        for node in shown_nodes(scene).values():
            action = menu.addAction(node.name)
            action.setCheckable(True)
            action.setChecked(node.id == shown)
            action.triggered.connect(lambda checked, node=node: document.look_through(node.id))
        if menu.isEmpty():
            menu.addAction(self._actions["camera.add"])
        menu.exec(self.name.mapToGlobal(QPoint(0, self.name.height())))
