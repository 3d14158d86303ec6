"""Framings kept, updated and gone to, and tours that play through them."""

from collections.abc import Sequence

import msgspec
import numpy as np

from ..arrays import Array
from ..evaluate.cameras import LENS, CameraView
from ..evaluate.evaluation import evaluate
from ..scene import AimAt, AnyNode, Channel, Framing, Key, Scene, SceneError, Span, Tour, View, spec
from ..scene.channels import ROTATION
from ..scene.lookup import nodes_by_id
from ..scene.output import lens_nodes, shown_camera
from ..scene.spans import Ease, Hold
from ..space.transform import length
from . import add_node, change_node, fresh_id, fresh_name, set_channel
from .posing import Values, values_for_pose


def framings(scene: Scene) -> list[Framing]:
    """Every framing, in the order of the shelf."""
    return [node for node in scene.nodes if isinstance(node, Framing)]


def framing(scene: Scene, node_id: str) -> Framing:
    """A framing by its id. SceneError where that is none."""
    node = scene.node(node_id)
    if not isinstance(node, Framing):
        raise SceneError(f"{node.name} is not a framing.")
    return node


def _seen(scene: Scene, lens: str | None, frame: float) -> CameraView:
    return evaluate(scene, frame, lens_nodes(scene, lens)).camera(lens)


def _source(scene: Scene, lens: str | None, frame: float) -> View:
    """The camera whose sensor and aim a framing takes over."""
    source = shown_camera(scene, lens, frame)
    if source is None:
        raise SceneError("There is no camera whose framing could be kept. Add one first.")
    return source


def keep_framing(
    scene: Scene, lens: str | None, frame: float, carrier: str | None = None, before: str | None = None, name: str = ""
) -> tuple[Scene, str]:
    """What a camera (None: the output) sees at a frame kept as a framing, in the world or on a carrier that it travels
    with; at the end of the shelf or before another one. Returns the scene and its id.

    Where the camera aims at nodes and its picture is level with that, the framing aims at them too.
    """
    source = _source(scene, lens, frame)
    label = fresh_name(scene, name or f"Framing {len(framings(scene)) + 1}")
    made = Framing(
        id=fresh_id(scene, label),
        name=label,
        carrier=carrier,
        rotation_order=source.rotation_order,
        sensor_width=source.sensor_width,
        sensor_height=source.sensor_height,
        fit=source.fit,
        depth_of_field=source.depth_of_field,
    )
    at = next((k for k, node in enumerate(scene.nodes) if node.id == before), None)
    return _framed_as(add_node(scene, made, at), made.id, lens, source, frame), made.id


def update_framing(scene: Scene, node_id: str, lens: str | None, frame: float) -> Scene:
    """A framing made to show what a camera (None: the output) sees at a frame; tours through it change with it."""
    here = framing(scene, node_id)
    source = _source(scene, lens, frame)
    if source.id == node_id:
        raise SceneError(f"{here.name} is what is looked through. Look through a camera to update it from.")
    bare = msgspec.structs.replace(
        here, binds=(), channels=(), sensor_width=source.sensor_width, sensor_height=source.sensor_height,
        fit=source.fit, depth_of_field=source.depth_of_field, rotation_order=source.rotation_order,
    )  # fmt: skip
    return _framed_as(scene.with_node(bare), node_id, lens, source, frame)


def _framed_as(scene: Scene, node_id: str, lens: str | None, source: View, frame: float) -> Scene:
    view = _seen(scene, lens, frame)
    for name, field in LENS.items():
        known = spec(scene.node(node_id), name)
        value = round(float(np.clip(getattr(view, field)[0], known.low, known.high)), 6)
        if value != known.default:
            scene = set_channel(scene, node_id, Channel(name, value))
    for name, value in values_for_pose(scene, node_id, view.pose[0], frame).items():
        scene = set_channel(scene, node_id, Channel(name, value))
    return _aimed_like(scene, node_id, source, view, frame)


def _aimed_like(scene: Scene, node_id: str, source: View, view: CameraView, frame: float) -> Scene:
    """The framing aimed at what its camera aims at, where that gives the same picture."""
    aim = source.aim
    if aim is None or not aim.on or not aim.targets or node_id in aim.targets:
        return scene
    try:
        aimed = change_node(scene, node_id, binds=(AimAt(aim.targets, aim.up),))
        here = evaluate(aimed, frame, [node_id, source.id])
        aimed = set_channel(aimed, node_id, Channel(ROTATION[2], float(here.value(source.id, ROTATION[2])[0])))
        for axis in ("off.x", "off.y"):
            value = float(here.value(source.id, f"{aim.id}.{axis}")[0])
            if value:
                aimed = set_channel(aimed, node_id, Channel(f"aim.{axis}", value))
        seen = evaluate(aimed, frame, [node_id]).camera(node_id).pose[0]
    except SceneError:
        return scene
    return aimed if np.abs(seen - view.pose[0]).max() < 1e-6 else scene


def values_for_framing(scene: Scene, camera: str, node_id: str, frame: float) -> Values:
    """The channels, with values, that give a camera a framing's picture at a frame; only those that change.

    A camera that aims at nodes goes on doing so; one that aims at a point is given the framing's.
    """
    view = _seen(scene, node_id, frame)
    node = scene.node(camera)
    here = evaluate(scene, frame, [camera])
    wanted = values_for_pose(scene, camera, view.pose[0], frame)
    if node.aim is not None and node.aim.on:
        wanted = {name: value for name, value in wanted.items() if name not in ROTATION[:2]}
        if not node.aim.targets:
            wanted |= _aim_point(scene, node, view.subject()[0], frame)
    for name, field in LENS.items():
        value = round(float(getattr(view, field)[0]), 6)
        if abs(value - float(here.value(camera, name)[0])) > 1e-9:
            wanted[name] = value
    return wanted


def _aim_point(scene: Scene, node: AnyNode, point: Array, frame: float) -> Values:
    assert node.aim is not None
    local = point
    if node.carrier is not None:
        world = evaluate(scene, frame, [node.carrier]).world(node.carrier)[0]
        local = (np.linalg.inv(world) @ np.append(point, 1.0))[:3]
    return {f"{node.aim.id}.{axis}": round(float(local[k]), 10) for k, axis in enumerate("xyz")}


def leg_frames(scene: Scene, start: str, end: str, frame: float) -> float:
    """How many whole frames a tour takes from one framing to another, by the time or the speed of the latter."""
    to = framing(scene, end)
    fps = scene.settings.rate.fps
    if to.timed_by == "seconds":
        return float(max(1, round(to.time * fps)))
    here = evaluate(scene, frame, [start, end])
    distance = float(length(here.position(end) - here.position(start))[0])
    return float(max(1, round(distance / to.time * fps)))


def play_through(
    scene: Scene, camera: str, stops: Sequence[str], frame: float, ease: Ease | None = None, loops: bool = False,
    back: bool = False,
) -> tuple[Scene, float]:  # fmt: skip
    """A tour of a camera through framings from a frame on, keyed leg by leg with the ease and time of each, or with one
    ease for all; also the frame at which it ends.

    ``loops``: from the last directly to the first again. ``back``: back through them in turn. The tour comes after the
    camera's other binds, in place of a tour that it is on.
    """
    if len(stops) < 2:
        raise SceneError("A tour needs two framings. Keep another one first.")
    order = list(range(len(stops)))
    if back:
        order += order[-2::-1]
    elif loops:
        order.append(len(stops))
    keys: list[Key] = []
    now, before = float(frame), order[0]
    for number, place in enumerate(order):
        to = framing(scene, stops[place % len(stops)])
        if number:
            now += leg_frames(scene, stops[before % len(stops)], to.id, frame)
        stay = float(round(to.stay * scene.settings.rate.fps)) if number + 1 < len(order) else 0.0
        following = framing(scene, stops[order[number + 1] % len(stops)]) if number + 1 < len(order) else to
        leg: Span = ease or following.ease
        if stay >= 1.0:
            keys.append(Key(now, float(place), Hold()))
            now += stay
        keys.append(Key(now, float(place), leg))
        before = place
    node = scene.node(camera)
    others = tuple(bind for bind in node.binds if not isinstance(bind, Tour))
    taken = {bind.id for bind in others}
    name = next(each for each in ("tour", *(f"tour-{k}" for k in range(2, 99))) if each not in taken)
    touring = change_node(scene, camera, binds=(*others, Tour(tuple(stops), id=name)))
    return set_channel(touring, camera, Channel(f"{name}.place", float(order[0]), tuple(keys))), now


def reorder_framing(scene: Scene, node_id: str, to: int) -> Scene:
    """A framing moved to another place on the shelf; other nodes stay where they are."""
    shelf = framings(scene)
    moved = framing(scene, node_id)
    rest = [each for each in shelf if each is not moved]
    rest.insert(max(0, min(to, len(rest))), moved)
    turn = iter(rest)
    return msgspec.structs.replace(
        scene, nodes=tuple(next(turn) if isinstance(node, Framing) else node for node in scene.nodes)
    )


def touring(scene: Scene, node_id: str) -> list[str]:
    """The ids of the cameras that go to a framing on a tour."""
    return [
        node.id
        for node in nodes_by_id(scene).values()
        if any(isinstance(bind, Tour) and node_id in bind.framings for bind in node.binds)
    ]
