"""Shots, joins and events: what the Film menu does."""

from collections.abc import Callable

import msgspec
from PyQt6.QtCore import QObject
from PyQt6.QtWidgets import QInputDialog, QWidget

from ...edits import (
    add_event,
    change_shot,
    cut_at_markers,
    cut_to,
    duplicate_shot,
    remove_event,
    remove_shots,
    replace_camera,
    ripple,
    split_shot,
    swap_shots,
    trim_scene,
    with_shots,
)
from ...edits.matched_cuts import even_in_shot, match_speed_at_cut, moving_at_cut
from ...evaluate.evaluation import Evaluation
from ...evaluate.film import film_of
from ...scene import AtMarker, Blend, Cut, Event, HeightPasses, Join, LivePass, Marker, Scene, SceneError, Shot
from ...scene.film import shot_at
from ...scene.output import cameras, output_camera, shot_range, shots_of, shown_nodes
from ..state.document import Document

NEW_BLEND = Blend(length=1.0, unit="seconds")
"""What *Blend here* makes where no rule says otherwise."""


class ShotCommands(QObject):
    """Acts on the shots that are selected, or the one at the playhead."""

    def __init__(self, document: Document, frame: QWidget) -> None:
        super().__init__()
        self._document, self._frame = document, frame

    # What is meant

    def _film(self) -> bool:
        """Whether there is anything to make a film of."""
        if not shots_of(self._document.scene):
            self._document.messages.say("There is no camera yet. Camera ▸ Add camera makes one.", True)
            return False
        return True

    def numbers(self) -> tuple[int, ...]:
        """The shots that are meant; none, with a word about it, where there are none."""
        document = self._document
        if document.selection.shots:
            return document.selection.shots
        if not document.scene.shots:
            document.messages.say("There are no shots yet. F, C cuts at the playhead.", True)
            return ()
        return (shot_at(document.scene.shots, document.playhead.frame),)

    def join_number(self) -> int | None:
        """The join that is meant: of the selected shot, else the nearest to the playhead."""
        document = self._document
        shots = document.scene.shots
        if len(shots) < 2:
            document.messages.say("There is no join yet. F, C cuts at the playhead.", True)
            return None
        if document.selection.shots and document.selection.shots[-1] > 0:
            return document.selection.shots[-1]
        frame = document.playhead.frame
        return min(range(1, len(shots)), key=lambda k: abs(shots[k].first - frame))

    def next_camera(self) -> str | None:
        """What is cut to: the camera or framing that is selected, else the one that the Lens looks through, else the
        camera after what is shown, but for the one that the following shot shows already."""
        document = self._document
        scene, frame = document.scene, document.playhead.frame
        shown = output_camera(scene, frame)
        for node_id in reversed(document.selection.nodes):
            if scene.node(node_id).serves_as("shown"):
                return node_id
        if document.views.lens is not None and document.views.lens != shown:
            return document.views.lens
        later = next((shot.camera for shot in scene.shots if shot.first > frame), None)
        known = [each for each in cameras(scene) if each != later or each == shown] or list(cameras(scene))
        if shown in known and len(known) > 1:
            return known[(known.index(shown) + 1) % len(known)]
        return known[0] if known else None

    # Shots

    def cut_here(self, camera: str | None = None, frame: float | None = None, join: Join | None = None) -> None:
        """Show another camera from the playhead on."""
        document = self._document
        camera = camera or self.next_camera()
        if not self._film() or camera is None:
            return
        at = document.playhead.frame if frame is None else frame
        if camera == output_camera(document.scene, at) and join is None:
            self.split()
            return
        name = document.scene.node(camera).name
        word = "Blend" if isinstance(join, Blend) else "Cut"
        if document.edit(f"{word} to {name}", lambda scene: cut_to(scene, at, camera, join)):
            number = shot_at(document.scene.shots, at)
            document.selection.choose_shots([number])
            document.views.set_lens(None)
            document.messages.say(f"{word} to {name} at frame {at:g}.")

    def blend_here(self) -> None:
        self.cut_here(join=NEW_BLEND)

    def split(self) -> None:
        document, frame = self._document, self._document.playhead.frame
        if self._film() and document.edit("Split the shot", lambda scene: split_shot(scene, frame)):
            document.selection.choose_shots([shot_at(document.scene.shots, frame)])

    def at_markers(self, kind: str | None = None) -> None:
        """A cut at every marker, through the selected cameras in turn, or all of them."""
        document = self._document
        if not self._film():
            return
        scene = document.scene
        chosen = [each for each in document.selection.nodes if scene.node(each).serves_as("shown")]
        chosen = chosen if len(chosen) > 1 else list(cameras(scene))
        before = len(scene.shots)
        if document.edit("Cut at markers", lambda scene: cut_at_markers(scene, chosen, kind)):
            document.messages.say(f"{len(document.scene.shots) - max(before, 1)} cuts made. Ctrl+Z takes them back.")

    def swap(self) -> None:
        numbers = self.numbers()
        if not numbers:
            return
        number = min(numbers)
        if number + 1 >= len(self._document.scene.shots):
            self._document.messages.say("There is no shot after this one to swap it with.", True)
        elif self._document.edit("Swap shots", lambda scene: swap_shots(scene, number, number + 1)):
            self._document.selection.choose_shots([number + 1])

    def duplicate(self) -> None:
        numbers = self.numbers()
        if numbers:
            number = numbers[-1]
            name = self._document.scene.shots[number].name
            if self._document.edit(f"Duplicate {name}", lambda scene: duplicate_shot(scene, number)):
                self._document.selection.choose_shots([number + 1])

    def remove(self) -> None:
        numbers = self.numbers()
        if numbers:
            names = ", ".join(self._document.scene.shots[k].name for k in numbers[:3])
            if self._document.edit(f"Remove {names}", lambda scene: remove_shots(scene, numbers)):
                self._document.messages.say(f"{names} removed; its neighbour fills the gap.")

    def replace(self, camera: str | None = None) -> None:
        """Let the shots show the selected camera or framing."""
        document = self._document
        if camera is None:
            camera = next((i for i in document.selection.nodes if document.scene.node(i).serves_as("shown")), None)
        if camera is None:
            document.messages.say("Select a camera or a framing that the shot shall show, and try again.", True)
            return
        numbers = self.numbers()
        if numbers:
            name = document.scene.node(camera).name
            document.edit(f"Show {name}", lambda scene: replace_camera(scene, numbers, camera))

    def ripple(self) -> None:
        """Move everything from the playhead on by some frames."""
        document, frame = self._document, self._document.playhead.frame
        by, accepted = QInputDialog.getInt(
            self._frame, "Ripple", "Frames to insert at the playhead (below 0: to take out):", 12, -100_000, 100_000
        )
        if accepted and by:
            document.edit("Ripple", lambda scene: ripple(scene, frame, by))

    def trim(self) -> None:
        """Make the scene as long as the selected shots, or the range that is played."""
        document = self._document
        if document.selection.shots:
            ranges = [shot_range(document.scene, k) for k in document.selection.shots]
            first, last = min(low for low, _ in ranges), max(high for _, high in ranges) - 1.0
        else:
            first, last = document.playhead.range
        if document.edit("Trim the scene", lambda scene: trim_scene(scene, round(first), round(last))):
            document.playhead.set_play_range(None)

    # Joins

    def toggle_join(self) -> None:
        number = self.join_number()
        if number is not None:
            blends = isinstance(self._document.scene.shots[number].join, Blend)
            self.set_join(number, Cut() if blends else NEW_BLEND)

    def set_join(self, number: int, join: Join) -> None:
        self._document.edit(
            "Make it a blend" if isinstance(join, Blend) else "Make it a cut",
            lambda scene: change_shot(scene, number, join=join),
        )

    def moving(self) -> None:
        self._at_join("Moving at the cut", moving_at_cut, "Both cameras are in motion at the cut.")

    def match_speed(self) -> None:
        self._at_join(
            "Match the picture's speed", match_speed_at_cut, "The picture slides as fast after the cut as before."
        )

    def _at_join(self, name: str, change: Callable[[Scene, int], Scene], said: str) -> None:
        number = self.join_number()
        if number is not None and self._document.edit(name, lambda scene: change(scene, number)):
            self._document.messages.say(said)

    def even_speed(self) -> None:
        numbers = self.numbers()

        def change(scene: Scene) -> Scene:
            for number in numbers:
                scene = even_in_shot(scene, number)
            return scene

        if numbers and self._document.edit("Even speed in this shot", change):
            self._document.messages.say("The camera goes at one speed over the shot.")

    def go(self, forward: bool) -> None:
        """To the next join, or the one before."""
        document, frame = self._document, self._document.playhead.frame
        firsts = [shot.first for shot in document.scene.shots]
        if forward:
            target = next((each for each in firsts if each > frame + 1e-6), None)
        else:
            target = next((each for each in reversed(firsts) if each < frame - 1e-6), None)
        if target is None:
            document.messages.say("There is no join further that way.")
        else:
            document.playhead.set_frame(target)

    def show_film(self) -> None:
        self._document.views.set_lens(None)

    # Events

    def new_event(self) -> None:
        """An event that shows the next camera, at the marker at the playhead if there is one; its numbers are in the
        inspector."""
        document = self._document
        scene, camera = document.scene, self.next_camera()
        if not self._film() or camera is None:
            return
        chosen = [each for each in document.selection.nodes if not scene.node(each).serves_as("shown")]
        frame = document.playhead.frame
        marker = next((each for each in scene.markers if abs(each.frame - frame) < 0.5), None)
        node = chosen[-1] if chosen else None
        name = f"Event {len(scene.events) + 1}"

        def change(scene: Scene) -> Scene:
            if marker is None and node is not None:
                height = float(document.evaluations.here.position(node)[0, 1])
                return add_event(scene, Event(name, HeightPasses(node, round(height, 2)), camera, aim=node))
            if marker is not None:
                return add_event(scene, Event(name, AtMarker(marker.name), camera))
            made = Marker(frame, name)
            markers = tuple(sorted((*scene.markers, made), key=lambda each: each.frame))
            marked = msgspec.structs.replace(scene, markers=markers)
            return add_event(marked, Event(name, AtMarker(name), camera))

        if document.edit("New event", change):
            document.selection.choose_event(len(document.scene.events) - 1)
            document.messages.say(f"{name} is made. When it comes true, and what it shows, is in the inspector.")

    def remove_event(self, number: int) -> None:
        name = self._document.scene.events[number].name
        self._document.edit(f"Remove {name}", lambda scene: remove_event(scene, number))

    def make_plain(self) -> None:
        """Turn what events make of the film into shots of its own; the events go."""
        document = self._document
        if not document.scene.events:
            document.messages.say("There are no events. F, Shift+E makes one.", True)
            return

        def change(scene: Scene) -> Scene:
            film = film_of(Evaluation.evaluator, scene)
            if any(shot.aim or shot.tilt for shot in film.shots):
                raise SceneError(
                    "An event aims or tilts its camera, which a plain shot cannot. Take that away, or aim the camera."
                )
            return with_shots(msgspec.structs.replace(scene, events=()), plain_shots(scene))

        if document.edit("Make events plain", change):
            document.messages.say("What events showed are shots now.")

    # Passes

    def take_pass(self, kept: LivePass) -> None:
        """Go back to a film as it was switched once."""
        self._document.edit(f"Use {kept.name}", lambda scene: with_shots(scene, kept.shots))

    def clear_passes(self) -> None:
        self._document.edit("Forget the passes", lambda scene: msgspec.structs.replace(scene, passes=()))


def plain_shots(scene: Scene) -> list[Shot]:
    """The shots that a film with events comes to."""
    film = film_of(Evaluation.evaluator, scene)
    out: list[Shot] = []
    for number, each in enumerate(film.shots):
        join: Join = Cut()
        if each.ease is not None:
            length = each.ends - each.begins
            place = "before" if each.first == each.ends else "after" if each.first == each.begins else "on"
            join = Blend(length, "frames", place, each.ease, film.course(number).way)  # type: ignore[arg-type]
        known = scene.shots[each.source] if 0 <= each.source < len(scene.shots) else None
        base = known if known is not None and known.first == each.first else None
        if base is not None:
            out.append(base)
        else:
            taken = {shot.name for shot in out}
            name = each.name if each.name not in taken else f"{each.name} {len(out) + 1}"
            out.append(Shot(name, each.camera, each.first, known.colour if known else "", join=join))
    return out


def chosen_views(document: Document) -> list[str]:
    """The cameras and framings that are selected; without two of them every camera."""
    scene = document.scene
    chosen = [each for each in document.selection.nodes if scene.node(each).serves_as("shown")]
    known = shown_nodes(scene)
    return chosen if len(chosen) > 1 else [each for each in known if known[each].serves_as("camera")]
