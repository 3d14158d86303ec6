"""Every action of the program: menu, words, tooltip and shortcut in one table."""

from collections.abc import Callable, Iterator

import msgspec
from PyQt6.QtGui import QAction, QKeySequence
from PyQt6.QtWidgets import QMenu, QMenuBar, QToolButton, QWidget

from .icons import icon


class ActionSpec(msgspec.Struct, frozen=True):
    """One action. ``name`` is its menu and a word, such as ``scene.open``."""

    name: str
    text: str
    tip: str
    shortcut: str = ""
    icon: str = ""
    checkable: bool = False
    gap: bool = False


A = ActionSpec
MENUS = {
    "scene": "Scene", "edit": "Edit", "set": "Set", "camera": "Camera", "rig": "Rig", "keys": "Keys", "ease": "Ease",
    "play": "Play", "view": "View", "output": "Output", "help": "Help",
}  # fmt: skip

ACTIONS = (
    A("scene.new", "New", "Start an empty scene", "Ctrl+N"),
    A("scene.open", "Open…", "Open a scene file", "Ctrl+O"),
    A("scene.demo", "Open the demo scene", "Open a copy of the Lantern Fair", "Ctrl+Shift+O"),
    A("scene.save", "Save", "Save the scene", "Ctrl+S", gap=True),
    A("scene.save_as", "Save as…", "Save the scene under another name", "Ctrl+Shift+S"),
    A("scene.settings", "Scene settings…", "Frame size, rate, range, units and formats", "Ctrl+,", gap=True),
    A("scene.quit", "Quit", "Close Wild Heron", "Ctrl+Q", gap=True),
    A("edit.undo", "Undo", "Take the last step back", "Ctrl+Z"),
    A("edit.redo", "Redo", "Do the step again", "Ctrl+Shift+Z"),
    A("edit.copy", "Copy keys", "Copy the selected keys", "Ctrl+C", gap=True),
    A("edit.paste", "Paste keys at the playhead", "Lay the copied keys down from the playhead on", "Ctrl+V"),
    A("edit.duplicate", "Duplicate", "Duplicate the selected keys, or the selected nodes", "Ctrl+D"),
    A("edit.delete", "Delete", "Delete the selected keys, or the selected nodes", "Del"),
    A("edit.select_all", "Select all", "Select every key in Lanes, or every node", "Ctrl+A", gap=True),
    A("edit.select_none", "Select nothing", "Let the selection go", "Ctrl+Shift+A"),
    A("set.add_pictures", "Add pictures…", "Bring PNG, JPEG, WebP, TIFF or SVG artwork in", "Ctrl+I"),
    A("set.rename", "Rename", "Rename the selected node", "F2", gap=True),
    A("set.hide", "Hide", "Hide the selected nodes, or show them", "H", checkable=True),
    A("set.lock", "Lock", "Lock the selected nodes, or unlock them", "Ctrl+L", checkable=True),
    A("set.up", "Move up in the list", "Nodes later in the list lie over earlier ones in one plane", "Ctrl+Up", gap=True),
    A("set.down", "Move down in the list", "Nodes later in the list lie over earlier ones in one plane", "Ctrl+Down"),
    A("set.missing", "Find missing artwork…", "List pictures whose files are not there, and find them", "Ctrl+Shift+M", gap=True),
    A("set.reload", "Reload artwork", "Read every picture again from disk", "Ctrl+R"),
    A("camera.add", "Add camera", "Add a camera where the Overview looks from the front", "Ctrl+Shift+C"),
    A("camera.look", "Look through the selected camera", "Show it in the Lens and use it for output", "Ctrl+Return"),
    A("camera.turn", "Drag to pan and tilt", "Dragging in the Lens turns the camera on the spot", "1", "turn", True, True),
    A("camera.roll", "Drag to roll", "Dragging in the Lens rolls the camera", "2", "roll", True),
    A("camera.slide", "Drag to truck and pedestal", "Dragging in the Lens slides it sideways and up", "3", "slide", True),
    A("camera.push", "Drag to dolly", "Dragging in the Lens pushes the camera in and out", "4", "push", True),
    A("camera.zoom", "Drag to zoom", "Dragging in the Lens changes the focal length", "5", "zoom", True),
    A("camera.orbit", "Drag to orbit the aim", "Dragging in the Lens circles what it looks at", "6", "orbit", True),
    A("camera.moves", "Typed moves", "Show pan, tilt, roll and the others as numbers", "M", checkable=True, gap=True),
    A("camera.reset", "Undo all typed moves", "Put the camera back to where these moves began", "Ctrl+0"),
    A("rig.null", "Add null at the selection", "Add a null at the selected node", "Ctrl+Shift+N"),
    A("rig.null_middle", "Add null in the middle", "Add a null in the middle of the selected nodes", "Ctrl+Alt+N"),
    A("rig.null_aim", "Add null at the camera's aim", "Add a null where the camera looks", "Ctrl+Alt+A"),
    A("rig.carry", "Hang on the last selected", "Hang the selected nodes on the one selected last", "P", gap=True),
    A("rig.free", "Take off the carrier", "The selected nodes stay where they are and hang on nothing", "Shift+P"),
    A("rig.aim_node", "Aim at the selected node", "Aim the camera at the other selected node", "T", gap=True),
    A("rig.aim_point", "Aim at a point", "Aim the camera at a point that travels with its carrier", "Shift+T"),
    A("rig.aim_none", "Take the aim away", "The camera keeps its pose and turns freely", "Ctrl+T"),
    A("keys.auto", "Auto-key", "Every change writes a key at the playhead", "A", checkable=True),
    A("keys.now", "Key now", "Key the keyed channels of the selected nodes, or their pose", "K"),
    A("keys.pending", "Key the pending values", "Turn pending values into keys", "Ctrl+K", gap=True),
    A("keys.discard", "Discard the pending values", "Go back to the keyed values", "Ctrl+Shift+K"),
    A("keys.earlier", "Move keys a frame earlier", "Move the selected keys", "Alt+Left", gap=True),
    A("keys.later", "Move keys a frame later", "Move the selected keys", "Alt+Right"),
    A("ease.panel", "Choose an ease…", "Pick the shape of the selected spans", "E"),
    A("ease.hold", "Hold", "The value stays until the next key", "Shift+H", gap=True),
    A("ease.linear", "Linear", "Constant speed", "Shift+L"),
    A("ease.flow", "Flow", "Through the keys, never overshooting", "Shift+F"),
    A("ease.both", "Ease in and out", "Start soft and land soft", "Shift+E"),
    A("play.toggle", "Play", "Play or pause", "Space", "play"),
    A("play.loop", "Loop", "Play the range over and over", "L", "loop", True),
    A("play.back", "Step back", "One frame back", "Left", "back", gap=True),
    A("play.forward", "Step forward", "One frame forward", "Right", "forward"),
    A("play.key_back", "Key before", "To the key before", ",", "pin_back"),
    A("play.key_forward", "Key after", "To the next key", ".", "pin_forward"),
    A("play.start", "To the start", "To the first frame of the range", "Home", "start"),
    A("play.end", "To the end", "To the last frame of the range", "End", "end"),
    A("play.from", "Range starts here", "The played range starts at the playhead", "[", gap=True),
    A("play.to", "Range ends here", "The played range ends at the playhead", "]"),
    A("play.whole", "Whole range", "Play the whole scene", "\\"),
    A("view.rig", "Rig", "Show or hide the Rig", "F5", checkable=True),
    A("view.depth", "Depth rail", "Show or hide the Depth rail", "F6", checkable=True),
    A("view.overview", "Overview", "Show or hide the Overview", "F7", checkable=True),
    A("view.inspector", "Inspector", "Show or hide the inspector", "F8", checkable=True),
    A("view.lanes", "Lanes", "Show or hide the Lanes", "F9", checkable=True),
    A("view.swap", "Swap Lens and Overview", "Give the middle of the window to the other view", "Ctrl+Tab", "swap"),
    A("view.free", "Overview: free", "See the set from anywhere", "Shift+1", gap=True),
    A("view.plan", "Overview: plan", "See the set from above", "Shift+2"),
    A("view.side", "Overview: side", "See the set from the right", "Shift+3"),
    A("view.front", "Overview: front", "See the set from the front", "Shift+4"),
    A("view.frame", "Overview: show the selection", "Frame the selection, or everything", "F"),
    A("view.thirds", "Thirds", "Guide lines at thirds", "G", checkable=True, gap=True),
    A("view.safe", "Safe areas", "Action 93 % and title 90 % (SMPTE ST 2046-1)", "Shift+G", checkable=True),
    A("view.formats", "Format outlines", "Outline the scene's other formats", "Ctrl+G", checkable=True),
    A("view.renderer", "Restart the renderer", "Start the render process anew", "Ctrl+Shift+R", gap=True),
    A("output.export", "Export…", "Write a movie or numbered frames", "Ctrl+E"),
    A("help.shortcuts", "Shortcuts", "Every action and its shortcut", "F1"),
    A("help.about", "About Wild Heron", "Version and licence", "Shift+F1"),
)  # fmt: skip


class ActionTable:
    """The actions as Qt objects, and the menus made from them."""

    def __init__(self, parent: QWidget) -> None:
        self._actions: dict[str, QAction] = {}
        for each in ACTIONS:
            action = QAction(each.text, parent)
            action.setCheckable(each.checkable)
            action.setToolTip(self._tip(each))
            action.setStatusTip(each.tip)
            if each.shortcut:
                action.setShortcut(QKeySequence(each.shortcut))
            if each.icon:
                action.setIcon(icon(each.icon))
                action.setIconVisibleInMenu(False)
            action.setObjectName(each.name)
            parent.addAction(action)
            self._actions[each.name] = action

    @staticmethod
    def _tip(each: ActionSpec) -> str:
        return each.tip + (f"  ({QKeySequence(each.shortcut).toString()})" if each.shortcut else "")

    def __getitem__(self, name: str) -> QAction:
        return self._actions[name]

    def __iter__(self) -> Iterator[str]:
        return iter(self._actions)

    def tip(self, name: str) -> str:
        return self._actions[name].toolTip()

    def connect(self, name: str, slot: Callable[..., object]) -> None:
        action = self._actions[name]
        if action.isCheckable():
            action.triggered.connect(slot)
        else:
            action.triggered.connect(lambda checked: slot())

    def button(self, name: str) -> QToolButton:
        """A tool button for an action."""
        out = QToolButton()
        out.setDefaultAction(self._actions[name])
        out.setFixedSize(28, 28)
        out.setAccessibleName(self._actions[name].text())
        return out

    def fill(self, bar: QMenuBar) -> dict[str, QMenu]:
        """Build the menus; returns them by name."""
        menus = {}
        for key, title in MENUS.items():
            menu = bar.addMenu(title)
            assert menu is not None
            menu.setToolTipsVisible(True)
            menus[key] = menu
        for each in ACTIONS:
            menu = menus[each.name.partition(".")[0]]
            if each.gap:
                menu.addSeparator()
            menu.addAction(self._actions[each.name])
        return menus
