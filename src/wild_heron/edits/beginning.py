"""The first moving picture of a scene: artwork in depth, a camera before it, a slow drift."""

from collections.abc import Sequence

import numpy as np

from ..evaluate import evaluate
from ..evaluate.extent import corners
from ..scene import Camera, Null, Picture, Scene, SceneError
from ..scene.channels import POSITION, SCALE
from ..scene.dependencies import descendants
from ..scene.spans import Family
from . import keys
from .arranging import outermost, spread
from .nodes import add_node, fresh_id, fresh_name

_FAIR = 0.25
"""A picture of less than so much of the largest one's area is no background."""
_MARGIN = 0.06
"""How much more of the background there is on each side than the frame shows, as a share of it."""
_USED = 0.8
"""How much of that the drift takes."""
_NEAREST, _FARTHEST = 0.8, 1.25
_DRIFT = Family("sine", "in-out")


def begin_with(scene: Scene, node_ids: Sequence[str]) -> tuple[Scene, str]:
    """The scene with nodes that came in spread in depth, given from far to near, so that they fill the frame of a new
    camera that drifts past them over the whole range; and the camera's id.

    Pictures keep their sizes among each other as they are seen. The background, which is the farthest that is no small
    one, fills the frame; what is no picture stays where it is. SceneError where no picture is among them.
    """
    first, last = float(scene.settings.first), float(scene.settings.last)
    shown = [each for node_id in node_ids for each in (node_id, *descendants(scene, node_id))]
    pictures = [
        each for each in dict.fromkeys(shown) if isinstance(node := scene.node(each), Picture) and not node.hidden
    ]
    if not pictures:
        raise SceneError("There is no picture among these files: begin with at least one.")
    name = fresh_name(scene, "Camera")
    camera = Camera(id=fresh_id(scene, name), name=name, colour="#f2c25b")
    scene = add_node(scene, camera)
    view = evaluate(scene, first, [camera.id]).camera(camera.id)
    distance = float(view.frame_distance(scene.settings.pixels_per_unit)[0])
    scene = _filled(scene, node_ids, pictures)
    rear = _middle(scene, background(scene, pictures), first)
    for channel, value in zip(POSITION, (rear[0], rear[1], distance), strict=True):
        scene = keys.set_value(scene, camera.id, channel, round(float(value), 4))
    scene = keys.set_value(scene, camera.id, "lens.focus", round(distance, 4))
    nearest, farthest = (distance * _NEAREST, distance * _FARTHEST) if len(pictures) > 1 else (distance, distance)
    places = spread(scene, camera.id, pictures, nearest, farthest, "perspective", first)
    for (node_id, channel), value in places.items():
        scene = keys.set_value(scene, node_id, channel, value)
    return _drifting(scene, camera.id, background(scene, pictures), first, last), camera.id


def _filled(scene: Scene, node_ids: Sequence[str], pictures: Sequence[str]) -> Scene:
    """Everything scaled alike until the background is larger than the frame, where artwork shows one to one."""
    settings = scene.settings
    rear = scene.node(background(scene, pictures))
    assert isinstance(rear, Picture)
    factor = max(settings.width / rear.width, settings.height / rear.height) * (1.0 + 2.0 * _MARGIN)
    for node_id in outermost(scene, node_ids):
        if isinstance(scene.node(node_id), Picture | Null):
            for channel in SCALE:
                scene = keys.set_value(scene, node_id, channel, factor)
            # They stand in one plane until they are spread.
            scene = keys.set_value(scene, node_id, POSITION[2], 0.0)
    return scene


def background(scene: Scene, pictures: Sequence[str]) -> str:
    """The first of pictures, given from far to near, that has a fair share of the largest one's area."""

    def area(node_id: str) -> int:
        node = scene.node(node_id)
        assert isinstance(node, Picture)
        return node.width * node.height

    least = _FAIR * max(area(each) for each in pictures)
    return next(each for each in pictures if area(each) >= least)


def _middle(scene: Scene, node_id: str, frame: float) -> np.ndarray:
    box = corners(evaluate(scene, frame, [node_id]), node_id)
    return np.asarray(0.5 * (box.min(axis=0) + box.max(axis=0)))


def _drifting(scene: Scene, camera: str, rear: str, first: float, last: float) -> Scene:
    """The camera goes from left to right as far as the picture ``rear`` still fills the frame."""
    here = evaluate(scene, first, [camera, rear])
    view = here.camera(camera)
    box = corners(here, rear)
    depth = float(view.position[0, 2] - box[:, 2].mean())
    middle = float(view.position[0, 0])
    room = depth * (_MARGIN * view.width) / float(view.focal_px[0])
    for frame, side in ((first, -1.0), (last, 1.0)):
        scene = keys.set_key(scene, camera, POSITION[0], frame, round(middle + side * _USED * room, 4), _DRIFT)
    return scene
