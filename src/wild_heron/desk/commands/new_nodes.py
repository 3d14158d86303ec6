"""Nodes that are made in the program: cards, solids, lights, paths and grounds, each told once with its action."""

from collections.abc import Callable, Mapping
from typing import Any, NamedTuple

import numpy as np

from ...arrays import Array
from ...edits import add_node, fresh_id, fresh_name, set_channel
from ...edits.posing import middle, values_for_pose
from ...scene import (
    AnyNode,
    BezierPath,
    Box,
    Channel,
    CirclePath,
    Cone,
    Curve,
    Cylinder,
    EllipsePath,
    Gradient,
    Ground,
    Light,
    LinePath,
    Logo,
    Model,
    Path,
    PathPoint,
    Picture,
    Plane,
    Scene,
    Shape,
    Solid,
    Sphere,
    Stop,
    Text,
    ThroughPath,
    Torus,
    Wave,
    Waves,
)
from ...scene.channels import POSITION, ROTATION
from ..state.document import Document
from .action_spec import ActionSpec

A = ActionSpec
Named = dict[str, Any]
"""The id and the name of a node that is made."""
Made = tuple[AnyNode, Mapping[str, float]]
"""A node and the values of its channels."""


class NewNode(NamedTuple):
    """What is made by an action: what it is called, and how."""

    action: ActionSpec
    word: str
    make: Callable[[Document, Named], Made]


def add(document: Document, new: NewNode) -> None:
    """Add a node, and select it."""
    name = fresh_name(document.scene, new.word)
    node, values = new.make(document, {"id": fresh_id(document.scene, name), "name": name})
    add_with_values(document, node, values)


def add_with_values(document: Document, node: AnyNode, values: Mapping[str, float]) -> bool:
    """Add a node with values of its channels, and select it."""

    def change(scene: Scene) -> Scene:
        scene = add_node(scene, node)
        for channel, value in values.items():
            scene = set_channel(scene, node.id, Channel(channel, round(value, 6)))
        return scene

    if not document.edit(f"Add {node.name}", change):
        return False
    document.selection.choose([node.id])
    return True


def add_at(document: Document, node: AnyNode, world: Array) -> bool:
    """Add a node with a world matrix (4, 4), and select it."""
    placed = add_node(document.scene, node)
    return add_with_values(document, node, values_for_pose(placed, node.id, world, document.playhead.frame))


def in_front(document: Document) -> dict[str, float]:
    """In the middle of the picture, where artwork shows 1:1; at the origin without a camera."""
    camera = document.views.camera
    if camera is None:
        return {}
    view = document.evaluations.here.camera(camera.id)
    distance = float(view.frame_distance(document.settings.pixels_per_unit)[0])
    point = view.position[0] + view.axis[0] * distance
    return dict(zip(POSITION, point.tolist(), strict=True))


def in_the_middle(document: Document) -> dict[str, float]:
    """The middle of the selection, else what the camera looks at."""
    if document.selection.nodes:
        point = middle(document.views.shown, document.selection.nodes, document.playhead.frame)
    else:
        camera = document.views.camera
        target = document.evaluations.here.aim(camera.id) if camera is not None else None
        point = np.zeros(3) if target is None else target[0]
    return {name: value for name, value in zip(POSITION, np.round(point, 3).tolist(), strict=True) if value}


# Cards and letters

_DUSK = Gradient((Stop(0.0, "#1c2450"), Stop(1.0, "#e6a87c")), "along", 180.0)
_WORDS = Text("Lantern night")


def _card(artwork: Solid | Gradient) -> Callable[[Document, Named], Made]:
    def make(document: Document, named: Named) -> Made:
        settings = document.settings
        return Picture(**named, artwork=artwork, width=settings.width, height=settings.height), in_front(document)

    return make


def _text(document: Document, named: Named) -> Made:
    size = document.file.reader.text_size(_WORDS)
    return Picture(**named, artwork=_WORDS, width=size.width, height=size.height), in_front(document)


def _letters(document: Document, named: Named) -> Made:
    size = document.file.reader.text_size(_WORDS)
    logo = Logo(**named, outlines=_WORDS, width=size.width, height=size.height, depth=30.0, bevel=3.0)
    return logo, in_front(document)


# Solids and lights


def _solid(shape: Shape) -> Callable[[Document, Named], Made]:
    return lambda document, named: (Model(**named, shape=shape), in_front(document))


def _casts(document: Document) -> bool:
    """Whether a new light casts shadows: one of a scene does."""
    return not any(isinstance(node, Light) and node.shadow for node in document.scene.nodes)


def _ambient(document: Document, named: Named) -> Made:
    return Light(**named, light="ambient"), {"light.strength": 0.35}


def _directional(document: Document, named: Named) -> Made:
    """From the upper left."""
    values = dict(zip(ROTATION, (-42.0, -34.0, 0.0), strict=True)) | {POSITION[1]: 6.0}
    return Light(**named, light="directional", shadow=_casts(document)), values


def _point(document: Document, named: Named) -> Made:
    return Light(**named, light="point", shadow=_casts(document)), in_front(document)


# Paths and grounds

_HANDLES = BezierPath((
    PathPoint((-5.0, 0.0, 0.0), after=(0.0, 0.0, -4.0)),
    PathPoint((0.0, 1.5, 0.0), (-2.0, 0.0, 2.0), (2.0, 0.0, -2.0)),
    PathPoint((5.0, 0.0, 0.0), before=(0.0, 0.0, 4.0)),
))  # fmt: skip
_POINTS = ThroughPath(((-6.0, 0.0, 3.0), (-2.0, 1.0, -1.0), (2.0, 0.0, 1.0), (6.0, 1.5, -3.0)))
GROUND_TONE = "#6f9a98"


def _path(curve: Curve) -> Callable[[Document, Named], Made]:
    return lambda document, named: (Path(**named, colour="#7fb2c9", curve=curve), in_the_middle(document))


def _waves(document: Document, named: Named) -> Made:
    ground = Ground(**named, colour=GROUND_TONE, surface=Waves((Wave(25.0, 11.0, 0.7), Wave(100.0, 6.0, 0.3))))
    return ground, {name: value for name, value in in_the_middle(document).items() if name != POSITION[1]}


NEW_NODES = (
    NewNode(A("set.solid", "Colour", "A card in one colour, as large as the frame", "N, C", sub="New card"), "Colour", _card(Solid())),
    NewNode(A("set.gradient", "Gradient", "A card with a gradient", "N, G", sub="New card"), "Gradient", _card(_DUSK)),
    NewNode(A("set.text", "Text", "A line of text, sharp at any size", "N, T", sub="New card"), "Text", _text),
    NewNode(A("set.letters", "Solid letters", "Text with depth and bevel", "N, L", sub="New solid"), "Letters", _letters),
    NewNode(A("set.plane", "Plane", "A wall or a floor", "N, P", sub="New solid"), "Plane", _solid(Plane())),
    NewNode(A("set.box", "Box", "A box; seen from inside, a room", "N, B", sub="New solid"), "Box", _solid(Box())),
    NewNode(A("set.sphere", "Sphere", "A ball", "N, S", sub="New solid"), "Sphere", _solid(Sphere())),
    NewNode(A("set.cylinder", "Cylinder", "An upright cylinder", "N, Y", sub="New solid"), "Cylinder", _solid(Cylinder())),
    NewNode(A("set.cone", "Cone", "An upright cone", "N, O", sub="New solid"), "Cone", _solid(Cone())),
    NewNode(A("set.torus", "Torus", "A ring", "N, R", sub="New solid"), "Torus", _solid(Torus())),
    NewNode(A("set.ambient", "Ambient light", "Light from all sides, without shadows", "N, 1", sub="New light"), "Ambient light", _ambient),
    NewNode(A("set.directional", "Directional light", "Parallel light, like the sun's, with soft shadows", "N, 2", sub="New light"), "Key light", _directional),
    NewNode(A("set.point", "Point light", "A lamp that fades with distance", "N, 3", sub="New light"), "Lamp", _point),
)  # fmt: skip
"""Those of the Set menu."""

NEW_IN_RIG = (
    NewNode(A("rig.circle", "Circle", "A level circle round the selection, or the aim", "N, Shift+C", gap=True, sub="New path"), "Path", _path(CirclePath())),
    NewNode(A("rig.ellipse", "Ellipse", "A level ellipse", "N, Shift+E", sub="New path"), "Path", _path(EllipsePath())),
    NewNode(A("rig.line", "Line", "A straight path", "N, Shift+L", sub="New path"), "Path", _path(LinePath())),
    NewNode(A("rig.through", "Through points", "A smooth path through points", "N, Shift+T", sub="New path"), "Path", _path(_POINTS)),
    NewNode(A("rig.bezier", "With handles", "A path of points with handles", "N, Shift+H", sub="New path"), "Path", _path(_HANDLES)),
    NewNode(A("rig.waves", "Rolling waves", "A ground of waves that add up", "N, W", sub="New ground"), "Ground", _waves),
)  # fmt: skip
"""Those of the Rig menu."""
