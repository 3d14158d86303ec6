"""Rigs: carriers, binds and keys that one command builds, all of them nodes and channels like any other.

Each takes a scene and what it needs, and returns the scene with the rig, and the nodes worth selecting, first the one
that the next move will turn.
"""

from collections.abc import Mapping, Sequence
from typing import Literal, NamedTuple

import msgspec
import numpy as np

from ..arrays import Array
from ..evaluate.evaluation import evaluate
from ..scene import (
    AimAt,
    Channel,
    CirclePath,
    Dial,
    Follow,
    Linear,
    Link,
    Path,
    RideGround,
    RidePath,
    Scene,
    UnitName,
    spec,
)
from ..scene.channels import POSITION, ROTATION
from ..scene.specs import channel_or_default
from . import (
    add_bind,
    add_dial,
    add_node,
    change_node,
    duplicate,
    fresh_id,
    fresh_name,
    set_aim,
    set_channel,
    set_key,
    set_links,
    set_value,
)
from .posing import add_null_at, give_carrier, middle, values_for_pose

Built = tuple[Scene, tuple[str, ...]]
_REED, _SKY = "#8fbf9f", "#7fb2c9"
_DIGITS = 6


class FrameRange(NamedTuple):
    """The frames over which a rig moves."""

    first: float
    last: float


def whole(scene: Scene) -> FrameRange:
    return FrameRange(float(scene.settings.first), float(scene.settings.last))


def _null(scene: Scene, name: str, point: Array, carrier: str | None, frame: float) -> tuple[Scene, str]:
    scene, node_id = add_null_at(scene, name, point, carrier, frame)
    return change_node(scene, node_id, colour=_REED), node_id


def _free(scene: Scene, camera: str) -> Scene:
    """The camera without binds, keys or carrier of its own, ready to hang on a rig; its lens is kept."""
    node = scene.node(camera)
    scene = change_node(scene, camera, binds=(), carrier=None)
    for name in (*POSITION, *ROTATION, "scale.x", "scale.y", "scale.z"):
        channel = node.channel(name)
        if channel is not None:
            scene = set_channel(scene, camera, Channel(name, spec(node, name).default))
    return scene


def _put(scene: Scene, node: str, values: Mapping[str, float]) -> Scene:
    for name, value in values.items():
        scene = set_value(scene, node, name, round(float(value), _DIGITS))
    return scene


def _lens(scene: Scene, camera: str, frame: float) -> Array:
    """Where a camera is, (3,)."""
    return np.asarray(evaluate(scene, frame, [camera]).position(camera)[0])


def _centre(scene: Scene, camera: str, targets: Sequence[str], frame: float) -> Array:
    """The middle of what was chosen; without it the camera's aim, else its point in focus."""
    if targets:
        return middle(scene, targets, frame)
    return np.asarray(evaluate(scene, frame, [camera]).camera(camera).subject()[0])


def _about(centre: Array, lens: Array) -> tuple[float, float, float]:
    """Turn about y, lift over the horizon (degrees) and distance of a lens about a centre."""
    away = lens - centre
    distance = float(np.linalg.norm(away))
    if distance < 1e-6:
        return 0.0, 0.0, 10.0
    turn = float(np.degrees(np.arctan2(away[0], away[2])))
    return turn, float(np.degrees(np.arcsin(np.clip(away[1] / distance, -1.0, 1.0)))), distance


def orbit(
    scene: Scene, camera: str, targets: Sequence[str], frame: float, turns: float = 0.0, span: FrameRange | None = None
) -> Built:
    """A null at the middle with the camera out on an arm: its y angle turns, the lift's x angle lifts, the arm's z is
    the distance, and the camera's own x angle tilts.

    With ``turns`` it goes round that often over the span, evenly; a whole number of turns loops.
    """
    centre = _centre(scene, camera, targets, frame)
    turn, rise, distance = _about(centre, _lens(scene, camera, frame))
    name = scene.node(targets[0]).name if len(targets) == 1 else scene.node(camera).name
    scene, pivot = _null(scene, f"{name} orbit", centre, None, frame)
    scene = _put(scene, pivot, {"rotation.y": turn})
    scene, lift = _null(scene, "Lift", centre, pivot, frame)
    scene = _put(scene, lift, {"rotation.x": -rise, "rotation.y": 0.0, "rotation.z": 0.0})
    scene = give_carrier(_free(scene, camera), camera, lift, frame)
    scene = _put(scene, camera, {"position.x": 0.0, "position.y": 0.0, "position.z": distance})
    scene = _put(scene, camera, {"rotation.x": 0.0, "rotation.y": 0.0, "rotation.z": 0.0})
    if turns:
        scene = _turned(scene, pivot, turn, turns, span or whole(scene))
    return scene, (pivot, lift, camera)


def _turned(scene: Scene, node: str, start: float, turns: float, span: FrameRange) -> Scene:
    """Even turns over a span. A loop's last frame is one step short of its first."""
    end = span.last + (1.0 if turns == int(turns) else 0.0)
    scene = set_key(scene, node, ROTATION[1], span.first, start, Linear())
    return set_key(scene, node, ROTATION[1], end, start + 360.0 * turns, Linear())


def base_turn_arm(scene: Scene, camera: str, targets: Sequence[str], frame: float) -> Built:
    """A base that moves everything, a turn that rotates without moving, an arm that pushes in and out (along its z),
    and an aim that travels with the base."""
    centre = _centre(scene, camera, targets, frame)
    turn, rise, distance = _about(centre, _lens(scene, camera, frame))
    scene, base = _null(scene, "Base", centre * np.array([1.0, 0.0, 1.0]), None, frame)
    scene, pivot = _null(scene, "Turn", centre, base, frame)
    scene = _put(scene, pivot, {"rotation.y": turn, "rotation.x": -rise})
    scene, arm = _null(scene, "Arm", centre, pivot, frame)
    scene = _put(scene, arm, {"position.x": 0.0, "position.y": 0.0, "position.z": distance})
    scene = _put(scene, arm, {"rotation.x": 0.0, "rotation.y": 0.0, "rotation.z": 0.0})
    scene, aim = _null(scene, "Aim", centre, base, frame)
    scene = give_carrier(_free(scene, camera), camera, arm, frame)
    scene = _put(scene, camera, {"position.x": 0.0, "position.y": 0.0, "position.z": 0.0})
    scene = _put(scene, camera, {"rotation.x": 0.0, "rotation.y": 0.0, "rotation.z": 0.0})
    return set_aim(scene, camera, AimAt((aim,))), (pivot, base, arm, aim, camera)


def ring(scene: Scene, camera: str, targets: Sequence[str], frame: float) -> Built:
    """The camera on a level circle whose height, radius and turn are three dials, aimed at the middle."""
    centre = _centre(scene, camera, targets, frame)
    away = _lens(scene, camera, frame) - centre
    radius = max(float(np.hypot(away[0], away[2])), 0.1)
    turn = float(np.degrees(np.arctan2(away[0], away[2])))
    scene, hub = _null(scene, "Ring", centre, None, frame)
    scene, swing = _null(scene, "Ring turn", centre, hub, frame)
    scene = give_carrier(_free(scene, camera), camera, swing, frame)
    scene = _put(scene, camera, {"position.x": 0.0, "position.y": 0.0, "position.z": 0.0})
    dials: tuple[tuple[str, UnitName, float, float, float, str, str], ...] = (
        ("Height", "units", *_around(float(away[1]), 5.0), away[1], camera, POSITION[1]),
        ("Radius", "units", 0.0, max(20.0, 2.0 * radius), radius, camera, POSITION[2]),
        ("Turn", "degrees", -360.0, 360.0, turn, swing, ROTATION[1]),
    )
    for word, unit, low, high, value, node, channel in dials:
        value = round(float(value), _DIGITS)
        dial = Dial(word.lower(), word, unit, low, high, min(max(0.0, low), high), "Ring", open=True)
        scene, name = add_dial(scene, hub, dial)
        scene = set_value(scene, hub, name, value)
        scene = set_links(scene, node, channel, (Link(hub, name, low, high, low, high, clamp=False),))
    return set_aim(scene, camera, AimAt((hub,))), (hub, swing, camera)


def _around(value: float, least: float) -> tuple[float, float]:
    reach = float(np.ceil(max(least, 2.0 * abs(value))))
    return -reach, reach


Axis = Literal["x", "y", "z"]


def drift(
    scene: Scene,
    camera: str,
    frame: float,
    axis: Axis = "x",
    speed: float = 0.5,
    over_span: bool = False,
    turn: float = 0.0,
    span: FrameRange | None = None,
) -> Built:
    """A carrier that travels steadily along an axis of the camera's view, and turns slowly as it does.

    ``speed`` in units per second, or over the whole span with ``over_span``; ``turn`` in degrees over the span.
    """
    span = span or whole(scene)
    seconds = (span.last - span.first) / scene.settings.rate.fps
    way = speed if over_span else speed * seconds
    here = evaluate(scene, frame, [camera])
    pose = here.camera(camera).pose[0]
    scene, carrier = _null(scene, f"{scene.node(camera).name} drift", pose[:3, 3], scene.node(camera).carrier, frame)
    level = np.eye(4)
    ahead = np.array([pose[0, 2], 0.0, pose[2, 2]])
    if np.linalg.norm(ahead) > 1e-6:
        back = ahead / np.linalg.norm(ahead)
        level[:3, 0], level[:3, 2] = np.cross([0.0, 1.0, 0.0], back), back
    level[:3, 3] = pose[:3, 3]
    for name, value in values_for_pose(scene, carrier, level, frame).items():
        scene = set_value(scene, carrier, name, value)
    # One null says which way, the one in it goes: travelling along its own straight axis.
    scene, mover = _null(scene, "Drift", pose[:3, 3], carrier, frame)
    scene = _put(scene, mover, {"rotation.x": 0.0, "rotation.y": 0.0, "rotation.z": 0.0})
    scene = give_carrier(scene, camera, mover, frame)
    share = min(max((frame - span.first) / max(span.last - span.first, 1e-9), 0.0), 1.0)
    channel = POSITION["xyz".index(axis)]
    # What the camera shows now is what it shows at this frame of the drift.
    for at, part in ((span.first, -share), (span.last, 1.0 - share)):
        scene = set_key(scene, mover, channel, at, round(way * part, _DIGITS), Linear())
        if turn:
            scene = set_key(scene, mover, ROTATION[1], at, round(turn * part, _DIGITS), Linear())
    return scene, (mover, carrier, camera)


class Variant(NamedTuple):
    """How another version of a move differs: up by units, tilted by degrees, with a lens in mm (0: the same)."""

    lift: float = 0.0
    tilt: float = 0.0
    focal: float = 0.0


def variants(scene: Scene, camera: str, others: Sequence[Variant]) -> Built:
    """More cameras on the same carrier, which make the same move from other heights, tilts and lenses."""
    node = scene.node(camera)
    made = []
    for number, other in enumerate(others, 2):
        scene, (copy,) = duplicate(scene, [camera])
        scene = change_node(scene, copy, name=fresh_name(scene, f"{node.name}, version {number}"))
        for name, shift in ((POSITION[1], other.lift), (ROTATION[0], other.tilt)):
            scene = _shifted(scene, copy, name, shift)
        if other.focal:
            focal = channel_or_default(scene.node(copy), "lens.focal")
            scene = set_channel(scene, copy, msgspec.structs.replace(focal, value=other.focal, keys=(), links=()))
        made.append(copy)
    return scene, tuple(made)


def _shifted(scene: Scene, node: str, name: str, shift: float) -> Scene:
    channel = channel_or_default(scene.node(node), name)
    keys = tuple(msgspec.structs.replace(key, value=key.value + shift) for key in channel.keys)
    return set_channel(scene, node, msgspec.structs.replace(channel, value=channel.value + shift, keys=keys))


def crane(scene: Scene, camera: str, targets: Sequence[str], frame: float) -> Built:
    """A post under the camera with a boom: the post's y angle swings, the boom's x angle raises, the head's z reaches.

    The camera hangs level at the end of the boom, aimed at the target if there is one.
    """
    lens = _lens(scene, camera, frame)
    centre = _centre(scene, camera, targets, frame)
    turn, _, _ = _about(centre, lens)
    back = np.array([np.sin(np.radians(turn)), 0.0, np.cos(np.radians(turn))])
    reach = max(4.0, 0.5 * float(np.linalg.norm((lens - centre)[[0, 2]])))
    foot = lens + back * reach
    foot[1] = max(0.5 * float(lens[1]), 0.0)
    scene, post = _null(scene, "Crane", foot, None, frame)
    scene = _put(scene, post, {"rotation.y": turn})
    scene, boom = _null(scene, "Boom", foot, post, frame)
    rise = float(np.degrees(np.arctan2(lens[1] - foot[1], reach)))
    scene = _put(scene, boom, {"rotation.x": rise, "rotation.y": 0.0, "rotation.z": 0.0})
    length = float(np.hypot(reach, lens[1] - foot[1]))
    scene = give_carrier(_free(scene, camera), camera, boom, frame)
    scene = _put(scene, camera, {"position.x": 0.0, "position.y": 0.0, "position.z": -length})
    scene = _put(scene, camera, {"rotation.x": 0.0, "rotation.y": 0.0, "rotation.z": 0.0})
    scene, aim = _null(scene, "Crane aim", centre, None, frame) if len(targets) != 1 else (scene, targets[0])
    return set_aim(scene, camera, AimAt((aim,))), (boom, post, camera)


def path_ride(
    scene: Scene, camera: str, path: str | None, frame: float, aim: str | None = None, span: FrameRange | None = None
) -> Built:
    """The camera on a path from end to end over the span, looking along it or at a node. Without a path it gets a
    circle round what it looks at."""
    span = span or whole(scene)
    if path is None:
        centre = _centre(scene, camera, (), frame)
        lens = _lens(scene, camera, frame)
        radius = max(float(np.linalg.norm((lens - centre)[[0, 2]])), 1.0)
        name = fresh_name(scene, "Ride")
        node = Path(id=fresh_id(scene, name), name=name, colour=_SKY, curve=CirclePath(round(radius, 3)))
        scene, path = add_node(scene, node), node.id
        scene = _put(scene, path, {"position.x": centre[0], "position.y": lens[1], "position.z": centre[2]})
    scene = _free(scene, camera)
    scene, bind = add_bind(scene, camera, RidePath(path))
    for at, value in ((span.first, 0.0), (span.last, 1.0)):
        scene = set_key(scene, camera, f"{bind}.progress", at, value, Linear())
    if aim is not None:
        scene = set_aim(scene, camera, AimAt((aim,)))
    return scene, (camera, path)


def ground_ride(scene: Scene, camera: str, ground: str, frame: float, height: float = 1.6, tilt: float = 0.35) -> Built:
    """A carrier that sits on the ground and tilts with it, the camera on it at eye height, and a roll reference above,
    which the horizon follows. Key where the carrier goes; the ground does the rest."""
    lens = _lens(scene, camera, frame)
    scene, cart = _null(scene, "Ground carrier", lens, None, frame)
    here = evaluate(scene, frame, [camera]).camera(camera).pose[0]
    turn = float(np.degrees(np.arctan2(here[0, 2], here[2, 2])))
    scene = _put(scene, cart, {"rotation.y": turn})
    scene, bind = add_bind(scene, cart, RideGround(ground))
    scene = _put(scene, cart, {f"{bind}.tilt": tilt, f"{bind}.footprint": 0.6})
    at = evaluate(scene, frame, [cart]).world(cart)[0]
    scene, roll = _null(scene, "Roll reference", at[:3, 3] + at[:3, 1] * 10.0, cart, frame)
    scene = _put(
        scene, roll, {"position.x": 0.0, "position.y": 10.0, "position.z": 0.0, "rotation.x": 0.0, "rotation.y": 0.0}
    )
    scene = _put(scene, roll, {"rotation.z": 0.0})
    scene, aim = _null(scene, "Ahead", at[:3, 3] + at[:3, 1] * height - at[:3, 2] * 10.0, cart, frame)
    scene = _put(scene, aim, {"position.x": 0.0, "position.y": height, "position.z": -10.0})
    scene = give_carrier(_free(scene, camera), camera, cart, frame)
    scene = _put(scene, camera, {"position.x": 0.0, "position.y": height, "position.z": 0.0})
    scene = _put(scene, camera, {"rotation.x": 0.0, "rotation.y": 0.0, "rotation.z": 0.0})
    return set_aim(scene, camera, AimAt((aim,), roll)), (cart, aim, camera)


def follow(
    scene: Scene, camera: str, target: str, way: Literal["behind", "fixed"], nearest: float, farthest: float,
    lag: float = 0.3,
) -> Built:  # fmt: skip
    """The camera follows a node and looks at it."""
    frame = float(scene.settings.first)
    turn, rise, _ = _about(middle(scene, [target], frame), _lens(scene, camera, frame))
    scene = _free(scene, camera)
    scene, bind = add_bind(scene, camera, Follow(target, way))
    values = {"nearest": nearest, "farthest": max(farthest, nearest), "half_life": lag}
    if way == "fixed":
        values |= {"turn": turn, "rise": min(max(rise, -85.0), 85.0)}
    for name, value in values.items():
        scene = set_value(scene, camera, f"{bind}.{name}", round(float(value), _DIGITS))
    return set_aim(scene, camera, AimAt((target,))), (camera, target)


def hop_over(
    scene: Scene, camera: str, subject: str, other: str | None, frame: float, span: FrameRange | None = None
) -> Built:
    """From one side of a subject to the other over its top, at a kept distance, the aim going from end to end.

    One null turns half a turn about the subject; the aim travels between two nodes, or stays on the subject. What is up
    goes over the top with the null; the roll, half a turn spread over the whole hop, brings the camera down upright.
    """
    span = span or whole(scene)
    centre = middle(scene, [subject], frame)
    turn, rise, distance = _about(centre, _lens(scene, camera, frame))
    scene, pivot = _null(scene, f"Hop over {scene.node(subject).name}", centre, None, frame)
    scene = _put(scene, pivot, {"rotation.y": turn})
    scene, swing = _null(scene, "Hop", centre, pivot, frame)
    scene = _put(scene, swing, {"rotation.y": 0.0, "rotation.z": 0.0})
    for at, angle in ((span.first, -rise), (span.last, -180.0 + rise)):
        scene = set_key(scene, swing, ROTATION[0], at, round(angle, _DIGITS))
    scene = give_carrier(_free(scene, camera), camera, swing, frame)
    scene = _put(scene, camera, {"position.x": 0.0, "position.y": 0.0, "position.z": distance})
    scene = _put(scene, camera, {"rotation.x": 0.0, "rotation.y": 0.0, "rotation.z": 0.0})
    # What is up turns by exactly half a turn, so that the horizon is level at both ends wherever the aim goes.
    scene, level = _null(scene, "Hop level", centre, pivot, frame)
    scene = _put(scene, level, {"rotation.y": 0.0, "rotation.z": 0.0})
    for at, angle in ((span.first, 0.0), (span.last, -180.0)):
        scene = set_key(scene, level, ROTATION[0], at, angle)
    scene, aim = _null(scene, "Hop aim", centre, None, frame)
    ends = (centre, middle(scene, [other], frame)) if other is not None else (centre, centre)
    if other is not None:
        for k, channel in enumerate(POSITION):
            for at, point in ((span.first, ends[0]), (span.last, ends[1])):
                scene = set_key(scene, aim, channel, at, round(float(point[k]), _DIGITS))
    for at, angle in ((span.first, 0.0), (span.last, 180.0)):
        scene = set_key(scene, camera, ROTATION[2], at, angle)
    return set_aim(scene, camera, AimAt((aim,), level)), (swing, pivot, aim, camera)
