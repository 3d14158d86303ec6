"""What the actions do to the scene."""

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from ...edits import (
    Clip,
    KeyRef,
    add_node,
    copy_keys,
    duplicate,
    fresh_id,
    fresh_name,
    left_alone,
    move_in_list,
    move_keys,
    neighbouring_key_frames,
    paste_keys,
    remove_keys,
    set_channel,
)
from ...edits.posing import add_null_at, aim_at_node, aim_at_point, carry_together, delete_nodes, middle
from ...scene import Camera, Channel, Picture, Scene, SceneError, specs
from ...scene.channels import FOCAL, OPACITY, POSITION, ROTATION
from ...scene.dependencies import descendants
from ..state.document import Document
from ..state.key_edits import edit_keys
from ..state.recording import discard_pending, in_scope, key_now, key_pending
from . import clipboard
from .aim_commands import release_aim_of


class Commands(QObject):
    """The scene's side of the menus; the window connects each to its action."""

    files_pasted = pyqtSignal(list)
    """Files, or a picture that was saved, came from the clipboard: to be brought in."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        self._clip: Clip = {}
        self._last_selected = "nodes"
        document.selection.changed.connect(lambda: self._note("nodes"))
        document.selection.keys_changed.connect(lambda: self._note("keys"))

    def _note(self, kind: str) -> None:
        self._last_selected = kind

    @property
    def clip(self) -> Clip:
        """The keys that were copied last."""
        return self._clip

    @property
    def _keys_meant(self) -> bool:
        """Whether an action on "the selection" means keys: they were selected after the nodes."""
        return bool(self._document.selection.keys) and self._last_selected == "keys"

    def _selected(self, what: str) -> tuple[str, ...]:
        chosen = self._document.selection.nodes
        if not chosen:
            self._document.messages.say(f"Select what to {what} first.", True)
        return chosen

    # Adding

    def add_camera(self) -> None:
        """Add a camera in front of the set, where artwork shows one to one."""
        document = self._document
        scene = document.scene
        name = fresh_name(scene, "Camera")
        node = Camera(id=fresh_id(scene, name), name=name, colour="#f2c25b")
        pictures = [each.id for each in scene.nodes if isinstance(each, Picture)]
        target = middle(document.views.shown, pictures, document.playhead.frame)
        settings = document.settings
        distance = 35.0 * settings.width / node.sensor_width / settings.pixels_per_unit

        def change(scene: Scene) -> Scene:
            scene = add_node(scene, node)
            for channel, value in zip(POSITION, (target[0], target[1], target[2] + distance), strict=True):
                scene = set_channel(scene, node.id, Channel(channel, round(float(value), 4)))
            return set_channel(scene, node.id, Channel("lens.focus", round(distance, 4)))

        document.edit(f"Add {name}", change)
        document.selection.choose([node.id])

    def _add_null(self, where: str, point: np.ndarray) -> None:
        document = self._document
        added = ""

        def change(scene: Scene) -> Scene:
            nonlocal added
            scene, added = add_null_at(scene, "Null", point, None, document.playhead.frame)
            return scene

        if document.edit(f"Add null {where}", change):
            document.selection.choose([added])

    def null_at_selection(self) -> None:
        active = self._document.selection.active
        point = self._document.evaluations.here.position(active.id)[0] if active else np.zeros(3)
        self._add_null(f"at {active.name}" if active else "at the origin", point)

    def null_in_middle(self) -> None:
        chosen = self._selected("put a null in the middle of")
        if chosen:
            self._add_null("in the middle", middle(self._document.views.shown, chosen, self._document.playhead.frame))

    def null_at_aim(self) -> None:
        camera = self._document.views.camera
        if camera is None:
            self._document.messages.say("There is no camera. Camera ▸ Add camera makes one.", True)
            return
        target = self._document.evaluations.here.aim(camera.id)
        if target is None:
            view = self._document.evaluations.here.camera(camera.id)
            target = view.pose[:, :3, 3] - view.pose[:, :3, 2] * view.focus[:, None]
        self._add_null("at the aim", target[0])

    # The selection

    def delete(self) -> None:
        document = self._document
        if self._keys_meant:
            refs = document.selection.keys
            count = len(refs)
            edit_keys(
                document, f"Delete {count} key{'' if count == 1 else 's'}", refs, lambda scene: remove_keys(scene, refs)
            )
            return
        chosen = self._selected("delete")
        if chosen:
            names = ", ".join(document.scene.node(i).name for i in chosen[:3]) + (" …" if len(chosen) > 3 else "")
            document.edit(f"Delete {names}", lambda scene: delete_nodes(scene, chosen, document.playhead.frame))

    def duplicate(self) -> None:
        document = self._document
        if self._keys_meant:
            refs = document.selection.keys
            start = max(ref.frame for ref in refs) + 1.0
            self._paste(copy_keys(document.scene, refs), start, "Duplicate keys")
            return
        chosen = self._selected("duplicate")
        copies: tuple[str, ...] = ()

        def change(scene: Scene) -> Scene:
            nonlocal copies
            scene, copies = duplicate(scene, chosen)
            return scene

        if chosen and document.edit("Duplicate", change):
            document.selection.choose(copies)

    def copy(self) -> None:
        refs = self._document.selection.keys
        if not self._keys_meant and self._document.selection.nodes:
            self._copy_nodes()
            return
        if not refs:
            self._document.messages.say("Select keys in Lanes, or nodes, to copy them.", True)
            return
        clipboard.note_keys()
        self._clip = copy_keys(self._document.scene, refs)
        self._document.messages.say(f"Copied {len(refs)} key{'' if len(refs) == 1 else 's'}")

    def cut(self) -> None:
        """Copy, and take away what was copied: of nodes, all that they carry too."""
        document = self._document
        if self._keys_meant:
            self.copy()
            self.delete()
            return
        chosen = self._selected("cut")
        if chosen and self._copy_nodes():
            gone = dict.fromkeys(each for top in chosen for each in (top, *descendants(document.scene, top)))
            document.edit(
                f"Cut {document.scene.node(chosen[0]).name}" + (" …" if len(gone) > 1 else ""),
                lambda scene: delete_nodes(scene, gone, document.playhead.frame),
            )

    def _copy_nodes(self) -> bool:
        try:
            count = clipboard.copy_nodes(self._document, self._document.selection.nodes)
        except SceneError as problem:
            self._document.messages.say(str(problem), True)
            return False
        self._document.messages.say(f"Copied {count} node{'' if count == 1 else 's'}, with what they carry")
        return True

    def paste(self) -> None:
        """What was copied last, wherever that was: nodes, files or a picture, else keys."""
        if clipboard.holds(clipboard.NODES):
            clipboard.paste_nodes(self._document)
            return
        if not clipboard.holds(clipboard.KEYS):
            try:
                files = clipboard.pasted_files(self._document)
            except SceneError as problem:
                self._document.messages.say(str(problem), True)
                return
            if files:
                self.files_pasted.emit(files)
                return
        if not self._clip:
            self._document.messages.say("Nothing is copied yet: copy keys or nodes here, or a picture anywhere.", True)
            return
        self._paste(self._clip, self._document.playhead.frame, "Paste keys")

    def _paste(self, clip: Clip, frame: float, name: str) -> None:
        if edit_keys(self._document, name, clip, lambda scene: paste_keys(scene, clip, frame)) and not left_alone(
            self._document.scene, clip
        ):
            count = len(self._document.selection.keys)
            self._document.messages.say(f"{name}: {count} key{'' if count == 1 else 's'} written")

    def select_all(self) -> None:
        document = self._document
        if self._last_selected == "keys":
            document.selection.choose_keys(
                KeyRef(node.id, channel.name, key.frame)
                for node in document.scene.nodes
                for channel in node.channels
                for key in channel.keys
            )
        else:
            document.selection.choose(node.id for node in document.scene.nodes)

    def select_none(self) -> None:
        self._document.selection.choose_keys(())
        self._document.selection.choose(())

    def toggle(self, field: str, on_word: str, off_word: str) -> None:
        """Hide or lock the selection; it goes by the node selected last."""
        chosen = self._selected(on_word.lower())
        if chosen:
            now = not getattr(self._document.scene.node(chosen[-1]), field)
            self._document.change_nodes(on_word if now else off_word, chosen, **{field: now})

    def move_in_list(self, by: int) -> None:
        active = self._document.selection.active
        if active is None:
            self._selected("move")
            return
        at = next(i for i, node in enumerate(self._document.scene.nodes) if node.id == active.id)
        self._document.edit(f"Move {active.name} in the list", lambda scene: move_in_list(scene, active.id, at + by))

    # Cameras and carriers

    def look_through_selected(self) -> None:
        cameras = [i for i in self._document.selection.nodes if self._document.scene.node(i).serves_as("camera")]
        if cameras:
            self._document.look_through(cameras[-1])
        else:
            self._document.messages.say("Select a camera first.", True)

    def hang_on_last(self) -> None:
        document = self._document
        if len(document.selection.nodes) < 2:
            document.messages.say("Select what to attach, then its carrier last (Ctrl+click), and try again.", True)
            return
        *carried, carrier = document.selection.nodes
        name = document.scene.node(carrier).name
        if document.edit(
            f"Attach to {name}", lambda scene: carry_together(scene, carried, carrier, document.playhead.frame)
        ):
            document.messages.say(f"Attached to {name}; nothing moved.")

    def take_off(self) -> None:
        document = self._document
        chosen = self._selected("take off its carrier")
        if chosen:
            document.edit("Detach", lambda scene: carry_together(scene, chosen, None, document.playhead.frame))

    def _aiming_camera(self) -> str | None:
        cameras = [i for i in self._document.selection.nodes if self._document.scene.node(i).serves_as("camera")]
        camera = cameras[0] if cameras else self._document.views.camera_id
        if camera is None:
            self._document.messages.say("There is no camera. Camera ▸ Add camera makes one.", True)
        return camera

    def aim_at_selected(self) -> None:
        document = self._document
        camera = self._aiming_camera()
        targets = [i for i in document.selection.nodes if i != camera]
        if camera is None:
            return
        if not targets:
            document.messages.say("Select the node to aim at first.", True)
            return
        names = document.scene.node(camera).name, document.scene.node(targets[-1]).name
        more = f" and {len(targets) - 1} more" if len(targets) > 1 else ""
        document.edit(f"Aim {names[0]} at {names[1]}{more}", lambda scene: aim_at_node(scene, camera, *targets))

    def aim_at_point(self) -> None:
        camera = self._aiming_camera()
        if camera is not None:
            name = self._document.scene.node(camera).name
            self._document.edit(
                f"Aim {name} at a point", lambda scene: aim_at_point(scene, camera, self._document.playhead.frame)
            )

    def take_aim_away(self) -> None:
        camera = self._aiming_camera()
        if camera is not None:
            release_aim_of(self._document, camera)

    # Keys

    def key_selected(self) -> None:
        """Key what is keyed already on the selected nodes; a node without keys gets its pose keyed."""
        document = self._document
        channels: list[tuple[str, str]] = []
        for node_id in self._selected("key"):
            node = document.scene.node(node_id)
            names = [channel.name for channel in node.channels if channel.keys]
            names = list(dict.fromkeys([*names, *in_scope(node, document.recorder.scope)]))
            if not names:
                extra = (FOCAL,) if isinstance(node, Camera) else (OPACITY,) if OPACITY in specs(node) else ()
                names = [*POSITION, *ROTATION, *extra]
            channels.extend((node_id, name) for name in names)
        if channels:
            document.recorder.apply("Key now", key_now(document.state, channels, document.playhead.frame))

    def key_pending(self) -> None:
        document = self._document
        if not document.state.pending:
            document.messages.say("Nothing is pending.")
            return
        document.recorder.apply("Key the pending values", key_pending(document.state))

    def discard_pending(self) -> None:
        document = self._document
        if document.push("Discard the pending values", discard_pending(document.state)):
            document.messages.say("Back to the keyed values.")

    def nudge_keys(self, by: float) -> None:
        document = self._document
        refs = document.selection.keys
        if not refs:
            document.messages.say("Select keys in Lanes first.", True)
            return
        edit_keys(document, "Move keys", refs, lambda scene: move_keys(scene, refs, by), "nudge keys")

    # The playhead

    def step(self, by: float) -> None:
        self._document.playhead.set_frame(round(self._document.playhead.frame) + by)

    def to_key(self, forward: bool) -> None:
        document = self._document
        ids = document.selection.nodes or tuple(node.id for node in document.scene.nodes)
        before, after = neighbouring_key_frames(document.scene, ids, document.playhead.frame)
        target = after if forward else before
        if target is None:
            document.messages.say("There is no key further that way.")
        else:
            document.playhead.set_frame(target)

    def range_from(self) -> None:
        frame = round(self._document.playhead.frame)
        self._document.playhead.set_play_range((frame, max(self._document.playhead.range[1], frame)))

    def range_to(self) -> None:
        frame = round(self._document.playhead.frame)
        self._document.playhead.set_play_range((min(self._document.playhead.range[0], frame), frame))
