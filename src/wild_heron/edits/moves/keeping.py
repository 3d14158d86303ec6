"""Keeps what a camera does over a range as a move, told relative to its subject."""

from collections.abc import Sequence

import numpy as np
from msgspec.structs import replace

from ...evaluate.evaluation import evaluate
from ...motion import evaluate_channel
from ...motion.keys import affine, fixed, with_key
from ...motion.tempo import beat_frames, beat_numbers
from ...scene import AnyNode, Camera, Channel, Flow, Null, Scene, SceneError
from ...scene.binds import named_nodes, renamed
from ...scene.channel import SAME_FRAME
from ...scene.channels import FAR, FARTHEST_CLIP, FOCUS, NEAR, NEAREST_CLIP, POSITION, ROTATION, SCALE
from ...scene.dependencies import closure, final_stage
from ...scene.film import OUTPUT
from ...scene.lookup import nodes_by_id
from ...scene.movers import POSE
from ...scene.moves import OTHER, ROLES, SUBJECT, Along, Move, MoveMoment, MoveNode, check_move, fits_in_move
from ...scene.specs import channel_or_default
from ...space.rotation import euler_near, quaternion_to_matrix
from ...space.transform import decompose
from ..baking import Tolerance, dissolve
from ..nodes import free_id
from ..rigs import FrameRange
from .changing import shifted_mover, times
from .subject import SubjectPlace, subject_place

_ON_SUBJECT = 0.02
_CLOSELY = Tolerance(1e-5, 1e-4, 1e-6)


def keep(
    scene: Scene,
    camera: str,
    subject: str,
    span: FrameRange,
    name: str,
    other: str | None = None,
    reach: float | None = None,
    line: str = "",
) -> Move:
    """What a camera does from one frame to another, about a subject as it is at the first of them.

    Nulls that carry it and aims at them or at the subjects are kept as they are. A camera that depends on anything
    else is kept with keys of its own, within a hundred-thousandth of the subject's size. SceneError where there is
    nothing to keep.
    """
    nodes = nodes_by_id(scene)
    _check(scene, camera, subject, span, other)
    rig = _rig(scene, camera, {subject, other} - {None})
    place = subject_place(scene, subject, span.first, reach=reach)
    along: Along = "stays"
    # Keys that only come about below lie on no beat but by chance.
    moments = _moments(scene, rig or [camera], span)
    if rig is None:
        scene = _keyed(scene, camera, span, place.size)
        rig, nodes = [camera], nodes_by_id(scene)
    elif any(nodes[each].carrier == subject for each in rig):
        along = "carried"
    roles = {subject: SUBJECT} | ({other: OTHER} if other is not None else {})
    ids: dict[str, str] = {}
    taken = set(ROLES)
    for each in rig:
        ids[each] = "camera" if each == camera and "camera" not in taken else free_id(taken, nodes[each].name)
        taken.add(ids[each])
    # What lags or swings on has to know where it comes from.
    follows = any(mover.on and mover.looks_elsewhere for each in rig for mover in nodes[each].movers)
    since = -np.inf if follows else span.first
    made: list[MoveNode] = []
    for each in rig:
        node = _cut(nodes[each], span, since)
        made += _relative(scene, node, place, subject, ids | roles, taken, along, span.first)
    frames = span.last - span.first
    move = Move(
        name=name.strip() or nodes[camera].name, line=line, frames=frames, rate=scene.settings.rate,
        beats=_beats(scene, span), moments=moments, nodes=tuple(made), camera=ids[camera],
        along=along, focuses=_focuses(scene, camera, place, span),
    )  # fmt: skip
    check_move(move)
    return move


def _check(scene: Scene, camera: str, subject: str, span: FrameRange, other: str | None) -> None:
    nodes = nodes_by_id(scene)
    if not isinstance(nodes[camera], Camera):
        raise SceneError(f"{nodes[camera].name} is no camera: choose one to keep the move of.")
    if camera in (subject, other):
        raise SceneError("A move is about something else than its camera: choose a subject.")
    if not span.last - span.first >= 1.0:
        raise SceneError("A move lasts at least one frame: choose a range from one frame to a later one.")
    for each in (subject, other):
        if each is not None and camera in {node for node, _ in closure(scene, [final_stage(nodes[each])])}:
            raise SceneError(
                f"{nodes[each].name} goes where {nodes[camera].name} goes, so no move can be told relative to it."
            )
    for shot in scene.shots[1:]:
        if span.first + SAME_FRAME < shot.first < span.last - SAME_FRAME and any(
            each.camera == camera for each in scene.shots
        ):
            raise SceneError(
                f"There is a cut at frame {shot.first:g}, inside the range. Keep what lies before or after it."
            )


def _rig(scene: Scene, camera: str, subjects: set[str | None]) -> list[str] | None:
    """The camera and what of nulls makes its motion, carriers first; None where it depends on anything else."""
    nodes = nodes_by_id(scene)
    found: dict[str, None] = {}
    waiting = [camera]
    while waiting:
        node = nodes[waiting.pop()]
        if node.id in found:
            continue
        if not isinstance(node, Camera | Null) or (isinstance(node, Camera) and node.id != camera):
            return None
        if fits_in_move(node) or not _is_told(node):
            return None
        found[node.id] = None
        named = [link.node for channel in node.channels for link in channel.links]
        named += [each for bind in node.binds for each, _ in named_nodes(bind)]
        carriers = [node.carrier] if node.carrier is not None else []
        waiting += [each for each in (*named, *carriers) if each not in subjects]
        if OUTPUT in named:
            return None
    if len({nodes[each].carrier for each in found} & subjects) and any(nodes[each].carrier is None for each in found):
        return None
    order = {node.id: k for k, node in enumerate(scene.nodes)}
    depth = {each: _depth(scene, each) for each in found}
    return sorted(found, key=lambda each: (depth[each], order[each]))


def _keyed(scene: Scene, camera: str, span: FrameRange, size: float) -> Scene:
    """The scene with a camera by keys of its own, locked or not: it is only read."""
    node = nodes_by_id(scene)[camera]
    free = tuple(replace(each, locked=False) for each in node.channels)
    scene = scene.with_node(replace(node, locked=False, channels=free))
    return dissolve(scene, [camera], span, _CLOSELY._replace(units=_CLOSELY.units * size))[0]


def _is_told(node: AnyNode) -> bool:
    """Whether its channels are told by keys within a range, whatever comes before and after."""
    return all(not each.keys or (each.before, each.after) == ("hold", "hold") for each in node.channels)


def _depth(scene: Scene, node_id: str) -> int:
    count, at = 0, nodes_by_id(scene)[node_id].carrier
    while at is not None:
        count, at = count + 1, nodes_by_id(scene)[at].carrier
    return count


def _cut(node: AnyNode, span: FrameRange, since: float) -> AnyNode:
    """The node with what its channels and movers do in a range alone, and from an earlier frame on where that matters;
    the range begins at frame 0."""
    channels = tuple(_cut_channel(each, span, since) for each in node.channels)
    movers = tuple(shifted_mover(each, 1.0, -span.first) for each in node.movers)
    return replace(node, channels=channels, movers=movers, unmoved=None, locked=False, hidden=False)


def _cut_channel(channel: Channel, span: FrameRange, since: float) -> Channel:
    keys = channel.keys
    if not keys:
        return replace(channel, locked=False)
    inside = [key for key in keys if since - SAME_FRAME <= key.frame <= span.last + SAME_FRAME]
    if len(inside) < len(keys):
        # Flows heed keys that are about to go.
        keys = fixed(keys) if any(isinstance(key.span, Flow) for key in keys) else keys
        keys = with_key(keys, span.last)
        keys = with_key(keys, span.first) if since == span.first else keys
        inside = [key for key in keys if since - SAME_FRAME <= key.frame <= span.last + SAME_FRAME]
    value = float(evaluate_channel(channel, np.array([span.first]))[0])
    kept = tuple(replace(key, frame=key.frame - span.first) for key in inside)
    if len(kept) == 1:
        value, kept = kept[0].value, ()
    return replace(channel, value=value, keys=kept, locked=False)


def _relative(
    scene: Scene, node: AnyNode, place: SubjectPlace, subject: str, ids: dict[str, str], taken: set[str],
    along: Along, frame: float,
) -> list[MoveNode]:  # fmt: skip
    """A node of a rig as it is in a move; what hung on nothing hangs on the base, by a null of its own where its
    numbers cannot say where that is."""
    assert isinstance(node, Null | Camera)
    out: list[MoveNode] = []
    carrier = ids.get(node.carrier) if node.carrier is not None and node.carrier != subject else None
    channels = tuple(
        replace(each, links=tuple(replace(link, node=ids[link.node]) for link in each.links)) for each in node.channels
    )
    if isinstance(node, Camera):
        channels = _lens_in_sizes(node, channels, place.size)
    made = replace(
        node, id=ids[node.id], channels=channels, carrier=carrier, colour=node.colour,
        binds=tuple(renamed(each, ids) for each in node.binds),
    )  # fmt: skip
    if carrier is None:
        root = place.world
        start = np.eye(4)
        if along == "carried":
            # What it hung on is the subject itself, which may be turned and scaled otherwise than its box says.
            start = evaluate(scene, frame, [subject]).world(subject)[0]
        if along == "stays" and _is_plain(made) and place.turn == 0.0:
            made = replace(made, channels=_moved(made, place))
        else:
            stand_id = free_id(taken, "stand")
            taken.add(stand_id)
            out.append(_stand(stand_id, np.linalg.inv(root) @ start))
            made = replace(made, carrier=stand_id)
    out.append(made)
    return out


def _is_plain(node: MoveNode) -> bool:
    """Whether where it is is said by its place channels alone."""
    placed = {*POSE, *SCALE}
    return not any(mover.on and placed.intersection(mover.names) for mover in node.movers) and not any(
        channel.links for channel in node.channels if channel.name in placed
    ) and not any(bind.moves for bind in node.binds) and not (
        # An aim at a point is told in what carries the node.
        node.aim is not None and not node.aim.targets
    )  # fmt: skip


def _moved(node: MoveNode, place: SubjectPlace) -> tuple[Channel, ...]:
    """The channels of a node without carrier in the space of a subject that faces +Z."""
    channels = {each.name: each for each in node.channels}
    for k, name in enumerate(POSITION):
        own = channels.get(name) or Channel(name)
        middle = float(place.middle[k])
        keys = affine(own.keys, 1.0 / place.size, -middle / place.size)
        channels[name] = replace(own, value=(own.value - middle) / place.size, keys=keys)
    if isinstance(node, Null):
        for name in SCALE:
            own = channels.get(name) or Channel(name, 1.0)
            keys = affine(own.keys, 1.0 / place.size)
            channels[name] = replace(own, value=own.value / place.size, keys=keys)
    return tuple(channels[name] for name in sorted(channels))


def _lens_in_sizes(node: Camera, channels: Sequence[Channel], size: float) -> tuple[Channel, ...]:
    """Distances along the lens's axis told in sizes of the subject; the usual clip planes hide nothing, and stay."""
    out = {each.name: each for each in channels}
    for name in (FOCUS, NEAR, FAR):
        own = channel_or_default(node, name)
        if not own.keys and own.value in (NEAREST_CLIP, FARTHEST_CLIP):
            continue
        out[name] = times(own, 1.0 / size)
    return tuple(out[name] for name in sorted(out))


def _stand(node_id: str, world: np.ndarray) -> Null:
    position, quaternion, scale = (part[0] for part in decompose(world[None]))
    angles = np.degrees(euler_near(quaternion_to_matrix(quaternion), "yxz", np.zeros(3)))
    values = dict(zip((*POSITION, *ROTATION, *SCALE), np.concatenate([position, angles, scale]).tolist(), strict=True))
    return Null(
        id=node_id,
        name="Stand",
        channels=tuple(Channel(name, values[name]) for name in sorted(values)),
        colour="#8fbf9f",
    )


def _beats(scene: Scene, span: FrameRange) -> float | None:
    """How many beats long a range is, where there are beats."""
    if scene.beats is None:
        return None
    first, last = beat_numbers(scene.beats, scene.settings.rate, np.array([span.first, span.last]))
    return float(last - first) if last > first else None


def _moments(scene: Scene, rig: Sequence[str], span: FrameRange) -> tuple[MoveMoment, ...]:
    """The keyed frames of a rig that lie on a beat or a marker, and the range's ends where they do."""
    nodes = nodes_by_id(scene)
    keyed = {key.frame for each in rig for channel in nodes[each].channels for key in channel.keys}
    beats = beat_frames(scene.beats, scene.settings.rate, span.first, span.last)[0]
    names = {marker.frame: marker.name for marker in reversed(scene.markers)}
    out = []
    for frame in sorted({*keyed, span.first, span.last}):
        if not span.first <= frame <= span.last:
            continue
        marked = next((name for at, name in names.items() if abs(at - frame) < 0.5), None)
        if marked is not None or (len(beats) and np.abs(beats - frame).min() < 0.5):
            out.append(MoveMoment(frame - span.first, marked or ""))
    return tuple(out[:1000])


def _focuses(scene: Scene, camera: str, place: SubjectPlace, span: FrameRange) -> bool:
    """Whether the lens is focused on the middle of the subject all the way."""
    frames = np.linspace(span.first, span.last, 9)
    seen = evaluate(scene, frames, [camera]).camera(camera)
    depth = seen.pixels(np.broadcast_to(place.middle, (9, 3)))[1]
    return bool((np.abs(seen.focus - depth) <= _ON_SUBJECT * np.abs(depth)).all())
