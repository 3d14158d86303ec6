"""The Keys and Ease menus' side of the scene: many keys at once, each command one step."""

from collections.abc import Callable

from PyQt6.QtCore import QObject
from PyQt6.QtWidgets import QInputDialog, QWidget

from ...edits import SAME_FRAME, KeyRef, key_ranges, left_alone, move_keys, set_beyond
from ...edits.even_speed import even_speed
from ...motion.keys import continued
from ...scene import (
    Bezier,
    Family,
    Linear,
    Scene,
    SceneError,
    Span,
    Spring,
    Steps,
    channel_or_default,
    span_label,
    specs,
)
from ...scene.channels import LENS, POSITION, ROTATION, SCALE
from ...scene.inputs import ChannelRef
from ...scene.spans import Beyond
from ..state.document import Document
from ..state.key_edits import Change, Meant, edit_keys
from ..state.selected_spans import selected_spans


class KeyCommands(QObject):
    """Acts on the selected keys; where none are, on the keyed channels of the selected nodes."""

    def __init__(self, document: Document, window: QWidget) -> None:
        super().__init__()
        self._document, self._window = document, window
        self._pose: dict[str, float] = {}
        self._eases: list[Span] = []

    def selected_keys(self, what: str) -> frozenset[KeyRef]:
        refs = self._document.selection.keys
        if not refs:
            self._document.messages.say(f"Select the keys to {what} in Lanes first.", True)
        return refs

    def places(self) -> list[ChannelRef]:
        """The channels of the selected keys, else the keyed ones of the selected nodes, else every keyed one."""
        document = self._document
        if document.selection.keys:
            return sorted({(ref.node, ref.channel) for ref in document.selection.keys})
        ids = document.selection.nodes or tuple(node.id for node in document.scene.nodes)
        scene = document.scene
        return [(i, channel.name) for i in ids for channel in scene.node(i).channels if channel.keys]

    def _edit(self, name: str, meant: Meant, change: Change) -> bool:
        """One step, after which the keys that it moved are selected."""
        return edit_keys(self._document, name, meant, change)

    # Where keys are

    def reverse(self) -> None:
        refs = self.selected_keys("reverse")
        if refs:
            self._edit("Reverse keys", refs, lambda scene: key_ranges.reverse(scene, refs))

    def insert(self) -> None:
        """A key more at the playhead on every channel that is meant, the curves unchanged."""
        document = self._document
        places, frame = self.places(), document.playhead.frame
        if not self._edit("Add keys", places, lambda scene: key_ranges.insert(scene, places, frame)) and not left_alone(
            document.scene, places
        ):
            document.messages.say("Nothing is keyed on both sides of the playhead.", True)

    def to_frames(self) -> None:
        refs = self._document.selection.keys or frozenset(
            KeyRef(node, name, key.frame)
            for node, name in self.places()
            for key in channel_or_default(self._document.scene.node(node), name).keys
        )
        loose = [ref for ref in refs if abs(ref.frame - round(ref.frame)) > SAME_FRAME]
        if not loose:
            self._document.messages.say("Every key is on a frame.")
            return
        count = len(loose)
        self._edit("Put keys on frames", loose, lambda scene: key_ranges.put_on_frames(scene, loose))
        self._document.messages.say(f"{count} key{'' if count == 1 else 's'} put on frames.")

    def ripple(self, by: float) -> None:
        """Move the selected keys, and with them every later key of their channels."""
        refs = self.selected_keys("move")
        if refs:
            self._edit("Move keys and later ones", refs, lambda scene: key_ranges.ripple(scene, refs, by))

    def ask_shift(self) -> None:
        refs = self.selected_keys("shift")
        if not refs:
            return
        frames, accepted = QInputDialog.getDouble(self._window, "Shift keys", "By frames:", 0.0, -1e6, 1e6, 2)
        if accepted and frames:
            self._edit("Shift keys", refs, lambda scene: move_keys(scene, refs, frames))

    # Values

    def hold_until(self) -> None:
        """Repeat the value at the playhead and hold it until there."""
        places, frame = self.places(), self._document.playhead.frame
        self._edit("Hold until here", places, lambda scene: key_ranges.hold_until(scene, places, frame))

    def jump(self) -> None:
        """Make the change at the playhead a jump."""
        places, frame = self.places(), self._document.playhead.frame
        self._edit("Jump here", places, lambda scene: key_ranges.jump(scene, places, frame))

    # Copies

    def copy_pose(self) -> None:
        """Remember where the active node is, how it is turned and how large, and a camera's lens."""
        document, node = self._document, self._document.selection.active
        if node is None:
            document.messages.say("Select the node whose pose to copy.", True)
            return
        names = [*POSITION, *ROTATION, *SCALE, *(name for name in LENS if name in specs(node))]
        self._pose = {name: document.evaluations.value(node.id, name) for name in names}
        document.messages.say(f"The pose of {node.name} at frame {document.playhead.frame:g} is copied.")

    def paste_pose(self) -> None:
        """Give the selected nodes the copied pose, by the rules of auto-key."""
        document = self._document
        if not self._pose or not document.selection.nodes:
            document.messages.say("Copy a pose first, then select the nodes to paste it onto.", True)
            return
        changes = {
            (node_id, name): value
            for node_id in document.selection.nodes
            for name, value in self._pose.items()
            if name in specs(document.scene.node(node_id))
            and abs(document.evaluations.value(node_id, name) - value) > 1e-12
        }
        document.recorder.set_values("Paste the pose", changes)

    def copy_ease(self) -> None:
        """Remember the eases of the selected spans, in turn."""
        refs = sorted(selected_spans(self._document), key=lambda ref: ref.frame)
        spans = []
        for ref in refs:
            key = channel_or_default(self._document.scene.node(ref.node), ref.channel).key_at(ref.frame)
            if key is not None:
                spans.append(key.span)
        if not spans:
            self._document.messages.say("Select the span whose ease to copy, in Lanes.", True)
            return
        self._eases = spans
        self._document.messages.say(
            f"Copied {len(spans)} ease{'' if len(spans) == 1 else 's'}: {span_label(spans[0])} …"
        )

    def paste_ease(self) -> None:
        """Shape the selected spans with the copied eases, in turn on each channel."""
        document, eases = self._document, self._eases
        refs = sorted(selected_spans(document), key=lambda ref: (ref.node, ref.channel, ref.frame))
        if not eases or not refs:
            document.messages.say("Copy an ease first, then select the spans to paste it onto.", True)
            return

        self._edit("Paste eases", refs, lambda scene: key_ranges.paste_spans(scene, refs, eases))

    # How a move goes

    def _shape(self, name: str, change: Callable[[Scene, frozenset[KeyRef]], Scene]) -> None:
        refs = self.selected_keys(name.lower())
        if refs:
            self._edit(name, refs, lambda scene: change(scene, refs))

    def match_speed(self) -> None:
        self._shape("Match speed", key_ranges.match_speed)

    def run_through(self) -> None:
        self._shape("Run through the end", key_ranges.run_through)

    def soft_landing(self) -> None:
        self._shape("Soft landing", key_ranges.soft_landing)

    def even_speed(self, eased: bool = False) -> None:
        """One speed along the way between the first and last selected position key of each node; or, ``eased``, the
        ease of its first selected span over the whole of it."""
        document = self._document
        refs = [ref for ref in document.selection.keys if ref.channel in POSITION]
        nodes = {ref.node for ref in refs}
        if not nodes:
            document.messages.say("Select the first and the last position key to even out.", True)
            return

        def change(scene: Scene) -> Scene:
            for node in nodes:
                ease = self._run_ease(scene, [ref for ref in refs if ref.node == node]) if eased else None
                first, last = key_ranges.extent(ref for ref in refs if ref.node == node)
                if first == last:
                    first, last = float("-inf"), float("inf")
                scene = even_speed(scene, node, first, last, ease)
            return scene

        document.edit("One ease along the way" if eased else "Even speed", change)

    def _run_ease(self, scene: Scene, refs: list[KeyRef]) -> Span:
        """The ease of the first of the selected keys. SceneError where it is none that a whole run could follow."""
        first = min(refs, key=lambda ref: ref.frame)
        key = channel_or_default(scene.node(first.node), first.channel).key_at(first.frame)
        if key is None or not isinstance(key.span, Linear | Bezier | Family | Spring | Steps):
            shape = span_label(key.span) if key is not None else "none"
            raise SceneError(
                f"The first selected span sets the ease of the run; “{shape}” is not one. Choose one with E, E."
            )
        return key.span

    # Beyond the ends

    def loop(self, how: Beyond) -> None:
        """The channels that are meant repeat after their last key, or hold again."""
        channels = self.places()
        self._edit(f"Beyond its keys: {continued(how)}", channels, lambda scene: set_beyond(scene, channels, how))

    def paste_here(self, clip, offset: bool) -> None:  # type: ignore[no-untyped-def]
        """Lay copied keys onto the selected channels from the playhead on."""
        document = self._document
        places = self.places() if document.selection.keys else []
        if not places and document.selection.nodes:
            names = {name for _, name in clip}
            places = [(node, name) for node in document.selection.nodes for name in names]
        self._edit(
            "Paste keys onto others",
            places,
            lambda scene: key_ranges.paste_onto(scene, clip, places, document.playhead.frame, offset),
        )
