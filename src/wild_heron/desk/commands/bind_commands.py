"""Binding selected nodes, each kind of bind told once with its actions."""

from collections.abc import Callable
from functools import partial
from typing import Literal, NamedTuple

import numpy as np

from ... import edits
from ...edits.mixes import mix_of, with_pad
from ...edits.posing import aim_at_node
from ...scene import (
    AnyNode,
    Bind,
    Box,
    DropAndRoll,
    Follow,
    Limit,
    Match,
    Model,
    Opposite,
    Plane,
    RideGround,
    RidePath,
    Scene,
    Sphere,
    bind_label,
)
from ..state.document import Document
from .action_spec import ActionSpec

A = ActionSpec


class BindCommands:
    """Binds the selection to what was selected last."""

    def __init__(self, document: Document) -> None:
        self._document = document

    def _pair(
        self, what: str, fits: Callable[[AnyNode], bool] = lambda node: True
    ) -> tuple[tuple[str, ...], str] | None:
        """What is selected, and the one selected last that it is bound to."""
        document = self._document
        if len(document.selection.nodes) < 2 or not fits(document.scene.node(document.selection.nodes[-1])):
            document.messages.say(f"Select what to bind, then {what} last (Ctrl+click), and try again.", True)
            return None
        *bound, other = document.selection.nodes
        return tuple(bound), other

    def _bind(
        self, node_ids: tuple[str, ...], make: Callable[[AnyNode], Bind], then: Callable[[Scene, str, str], Scene]
    ) -> None:
        document = self._document
        said = ""

        def change(scene: Scene) -> Scene:
            nonlocal said
            for node_id in node_ids:
                bind = make(scene.node(node_id))
                scene, bind_id = edits.add_bind(scene, node_id, bind)
                scene = then(scene, node_id, bind_id)
                said = f"{scene.node(node_id).name}: {bind_label(scene, bind)}."
            return scene

        name = document.scene.node(node_ids[0]).name
        if document.edit(f"Bind {name}", change):
            document.selection.choose(node_ids)
            document.messages.say(f"{said} Its strength is a channel: 0 turns it off.")

    def match(self, parts: str) -> None:
        """Keep the selected where the last one is, or turned as it is, with the offset there is now."""
        pair = self._pair("what to match")
        if pair is None:
            return
        bound, other = pair
        here = self._document.evaluations.here

        def then(scene: Scene, node_id: str, bind_id: str) -> Scene:
            if parts == "rotation":
                return scene
            step = here.position(node_id)[0] - here.position(other)[0]
            for axis, value in zip("xyz", np.round(step, 6).tolist(), strict=True):
                scene = edits.set_value(scene, node_id, f"{bind_id}.move.{axis}", value)
            return scene

        bind = Match(other, "xyz") if parts == "position" else Match(other, "", "xyz")
        self._bind(bound, lambda node: bind, then)

    def aim(self) -> None:
        """Let nodes of any kind look at the one selected last."""
        pair = self._pair("what to look at")
        if pair is None:
            return
        bound, other = pair
        name = self._document.scene.node(other).name

        def change(scene: Scene) -> Scene:
            for node_id in bound:
                scene = aim_at_node(scene, node_id, other)
            return scene

        self._document.edit(f"Aim at {name}", change)

    def follow(self) -> None:
        pair = self._pair("the node to follow")
        if pair is None:
            return
        bound, other = pair
        here = self._document.evaluations.here

        def then(scene: Scene, node_id: str, bind_id: str) -> Scene:
            away = float(np.linalg.norm(here.position(node_id)[0] - here.position(other)[0]))
            away = round(max(away, 0.5), 3)
            scene = edits.set_value(scene, node_id, f"{bind_id}.nearest", round(0.8 * away, 3))
            return edits.set_value(scene, node_id, f"{bind_id}.farthest", round(1.25 * away, 3))

        self._bind(bound, lambda node: Follow(other), then)

    def ride_path(self) -> None:
        pair = self._pair("a path", lambda node: node.serves_as("path"))
        if pair is None:
            return
        settings = self._document.settings

        def then(scene: Scene, node_id: str, bind_id: str) -> Scene:
            for frame, value in ((settings.first, 0.0), (settings.last, 1.0)):
                scene = edits.set_key(scene, node_id, f"{bind_id}.progress", float(frame), value)
            return scene

        self._bind(pair[0], lambda node: RidePath(pair[1]), then)

    def ride_ground(self) -> None:
        pair = self._pair("a ground, or a simple solid,", lambda node: node.serves_as("ground"))
        if pair is not None:
            self._bind(pair[0], lambda node: RideGround(pair[1]), lambda scene, node_id, bind_id: scene)

    def opposite(self) -> None:
        document = self._document
        if len(document.selection.nodes) < 3:
            document.messages.say("Select what to place, then the node to be opposite of, then the centre last.", True)
            return
        *bound, other, centre = document.selection.nodes
        here = document.evaluations.here

        def then(scene: Scene, node_id: str, bind_id: str) -> Scene:
            step = here.position(node_id)[0] - here.position(centre)[0]
            distance = max(float(np.hypot(step[0], step[2])), 0.5)
            scene = edits.set_value(scene, node_id, f"{bind_id}.distance", round(distance, 3))
            return edits.set_value(scene, node_id, f"{bind_id}.height", round(float(step[1]), 3))

        self._bind(tuple(bound), lambda node: Opposite(other, centre), then)

    def limit(self, what: Literal["distance", "height", "tilt"]) -> None:
        document = self._document
        if what == "distance":
            pair = self._pair("the node to keep a distance from")
            if pair is None:
                return
            bound, other = pair
        else:
            bound, other = document.selection.nodes, None
            if not bound:
                document.messages.say("Select what to limit first.", True)
                return
        self._bind(bound, lambda node: Limit(what, other), lambda scene, node_id, bind_id: scene)

    def drop(self) -> None:
        """Let the selected fall and roll: on the selected ground, against the selected boxes and planes."""
        document = self._document
        chosen = [document.scene.node(node_id) for node_id in document.selection.nodes]
        ground = next((node for node in chosen if node.serves_as("ground") and not node.serves_as("receiver")), None)
        walls = [node for node in chosen[1:] if isinstance(node, Model) and isinstance(node.shape, Box | Plane)]
        balls = [node for node in chosen if node is not ground and node not in walls]
        if not balls:
            document.messages.say("Select what falls first, then the ground it falls on and walls, if any.", True)
            return
        if ground is None:
            ground = next(
                (node for node in document.scene.nodes if node.serves_as("ground") and not node.serves_as("receiver")),
                None,
            )
        if ground is None and not walls:
            document.messages.say("There is nothing to fall on. Rig ▸ New ground makes a ground.", True)
            return
        bind = DropAndRoll(ground.id if ground else None, tuple(wall.id for wall in walls))

        def then(scene: Scene, node_id: str, bind_id: str) -> Scene:
            node = scene.node(node_id)
            radius = node.shape.radius if isinstance(node, Model) and isinstance(node.shape, Sphere) else 0.5
            scene = edits.set_value(scene, node_id, f"{bind_id}.start", document.playhead.frame)
            return edits.set_value(scene, node_id, f"{bind_id}.radius", radius)

        self._bind(tuple(node.id for node in balls), lambda node: bind, then)

    def mix(self) -> None:
        """A camera more that is the mean of the selected cameras and framings, the first of them to begin with."""
        document = self._document
        members = [each for each in document.selection.nodes if document.scene.node(each).serves_as("shown")]
        if len(members) < 2:
            document.messages.say("Select two or more cameras or framings to mix (Ctrl+click), and try again.", True)
            return
        made = ""

        def change(scene: Scene) -> Scene:
            nonlocal made
            scene, made = mix_of(scene, members)
            return scene

        if document.edit("Mix cameras", change):
            document.selection.choose((made,))
            document.views.set_lens(made)
            document.messages.say("Its weights are channels: key them, link them to dials, or give them movers.")

    def pad(self) -> None:
        """Two dials that weigh the members of the selected mix, as a pad on the board."""
        document = self._document
        node = document.selection.active
        if node is None:
            document.messages.say("Select a mix of cameras first.", True)
        elif document.edit(f"Pad for {node.name}", lambda scene: with_pad(scene, node.id)):
            document.messages.say("The pad is on the board: View ▸ Board. Dragging in it can be keyed and recorded.")


class BindAction(NamedTuple):
    """An action, and what it does with the selection."""

    action: ActionSpec
    run: Callable[[BindCommands], None]


BIND_ACTIONS = (
    BindAction(A("rig.bind_aim", "Aim at the last selected", "Keep the selected nodes pointed at it", "B, A", sub="Bind"), BindCommands.aim),
    BindAction(A("rig.bind_place", "Match the position of the last selected", "Keep the same offset from it as it moves", "B, M", sub="Bind"), partial(BindCommands.match, parts="position")),
    BindAction(A("rig.bind_turn", "Match the rotation of the last selected", "Turn along with it", "B, T", sub="Bind"), partial(BindCommands.match, parts="rotation")),
    BindAction(A("rig.bind_follow", "Follow the last selected", "Stay within two distances of it, from behind, with a lag", "B, F", sub="Bind"), BindCommands.follow),
    BindAction(A("rig.bind_path", "Ride the last selected path", "Move along the path from start to end over the scene", "B, P", sub="Bind"), BindCommands.ride_path),
    BindAction(A("rig.bind_ground", "Ride the last selected ground", "Stand on the ground at a height, tilting with the slope", "B, G", sub="Bind"), BindCommands.ride_ground),
    BindAction(A("rig.bind_opposite", "Stay opposite", "Stay across the last selected node from the one selected before it", "B, O", sub="Bind"), BindCommands.opposite),
    BindAction(A("rig.limit_distance", "Limit the distance to the last selected", "Keep within a least and a greatest distance", "B, D", sub="Bind"), partial(BindCommands.limit, what="distance")),
    BindAction(A("rig.limit_height", "Limit the height", "Keep within a least and a greatest height", "B, H", sub="Bind"), partial(BindCommands.limit, what="height")),
    BindAction(A("rig.limit_tilt", "Limit the tilt", "Keep the tilt within two angles to the horizon", "B, L", sub="Bind"), partial(BindCommands.limit, what="tilt")),
    BindAction(A("rig.drop", "Drop and roll", "Fall from here now, bounce and roll over the ground and off selected walls", "B, R", sub="Bind"), BindCommands.drop),
    BindAction(A("rig.mix", "Mix the selected cameras", "Add a camera that is the mean of the selected cameras and framings by weights that can be keyed", "B, X", sub="Bind"), BindCommands.mix),
    BindAction(A("rig.pad", "Drive the mix by a pad", "Weigh the cameras of a mix by a place on a pad, as two dials on the board", "B, Shift+X", sub="Bind"), BindCommands.pad),
)  # fmt: skip
