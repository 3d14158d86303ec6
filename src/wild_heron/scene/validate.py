"""Validates whole scenes: references, loops and limits that the types cannot express."""

from itertools import pairwise
from typing import Any

import msgspec

from .budget import check_budget
from .channel import Channel
from .channels import TRANSFORM
from .dependencies import check_event, evaluation_order
from .errors import SceneError
from .film import film_problem
from .links import check_links
from .lookup import nodes_by_id
from .model import Marker, Scene
from .movers import LIFE
from .moves import check_move
from .nodes import NODE_KINDS, AnyNode, Path
from .output import lost_output
from .paths import BezierPath, ThroughPath
from .specs import spec, specs
from .takes import Take, check_take
from .types import Role

_RESERVED = {each.name.partition(".")[0] for kind in NODE_KINDS for each in (*TRANSFORM, *kind.own_channels)} | {
    "dial",
    "take",
    LIFE,
}
"""What channels of any kind of node begin with."""
_TOLERANCE = 1e-9
MAX_SCENE_KEYS = 300_000
MAX_LOOKED_AT = 1_500_000
"""Frames of a scene times the conditions of its events."""
MAX_TAKE_BYTES = 64_000_000
"""Of all takes together: a file holds a third more, as text."""
MAX_MOVED = 3_000_000
"""Movers that look at more than one moment, times the frames of the scene."""
MAX_PATH_POINTS = 20_000
"""Of all paths together."""
MIN_GAP = 1e-9
"""Frames between two keys of a channel, at the least: nearer ones have no slope that a number can hold."""


def validate(scene: Scene) -> None:
    """Raise SceneError, with the place as a JSON path, for the first thing that is wrong."""
    ids: set[str] = set()
    for number, node in enumerate(scene.nodes):
        if node.id in ids:
            raise SceneError(f"$.scene.nodes[{number}].id: two nodes have the id “{node.id}”.")
        ids.add(node.id)
    for number, node in enumerate(scene.nodes):
        _validate_node(node, f"$.scene.nodes[{number}]")
    for number, node in enumerate(scene.nodes):
        _validate_relations(scene, node, f"$.scene.nodes[{number}]")
    _validate_markers(scene.markers)
    _validate_camera(scene)
    _validate_film(scene)
    _validate_takes(scene, scene.takes)
    _validate_checks(scene)
    _validate_sums(scene)
    _validate_moves(scene)
    try:
        evaluation_order(scene)
        check_links(scene)
        check_budget(scene)
    except SceneError as problem:
        raise SceneError(f"$.scene.nodes: {problem}") from problem


def validate_change(old: Scene, new: Scene) -> None:
    """The same for what differs between two scenes, the old one being right: also that a file can hold it.

    SceneError names the node and what is wrong with it.
    """
    before = {node.id: node for node in old.nodes}
    changed = [node for node in new.nodes if before.get(node.id) is not node]
    if len({node.id for node in new.nodes}) != len(new.nodes):
        raise SceneError("Two nodes have one id.")
    for node in changed:
        _held_node(before.get(node.id), node)
        _validate_node(node, node.name)
    # A node that is gone may be missed by those that stayed.
    gone = before.keys() - {node.id for node in new.nodes}
    for node in new.nodes if gone else changed:
        _validate_relations(new, node, node.name)
    rest = [name for name in new.__struct_fields__ if name != "nodes" and getattr(old, name) is not getattr(new, name)]
    if rest:
        # What takes hold is much, and does not change.
        fresh = tuple(take for take in new.takes if take not in old.takes)
        held(msgspec.structs.replace(new, nodes=(), takes=fresh), Scene, "The scene")
        _validate_markers(new.markers)
    if gone or "camera" in rest:
        _validate_camera(new)
    if gone or rest:
        _validate_film(new)
    if gone or "takes" in rest:
        _validate_takes(new, fresh if "takes" in rest else ())
    if gone or "checks" in rest or "formats" in rest:
        _validate_checks(new)
    _validate_sums(new)
    evaluation_order(new)
    check_links(new)
    check_budget(new)


def _held_node(old: AnyNode | None, new: AnyNode) -> None:
    """The same for a node, of whose channels only those that changed are looked at: they may have many keys."""
    known = {id(channel) for channel in old.channels} if old is not None else set()
    held(msgspec.structs.replace(new, channels=()), AnyNode, new.name)
    for channel in new.channels:
        if id(channel) not in known:
            held(channel, Channel, f"{new.name} · {channel.name}")


def held(part: Any, kind: Any, name: str) -> None:
    """SceneError where a part of a scene holds what a file cannot: numbers beyond their ranges, text that is none."""
    try:
        again = msgspec.msgpack.decode(msgspec.msgpack.encode(part), type=kind)
    except (ValueError, OverflowError, RecursionError) as problem:
        raise SceneError(f"{name}: {unencodable(problem)}") from problem
    if again != part:
        raise SceneError(f"{name}: it holds a number that cannot be saved.")


def unencodable(problem: Exception) -> str:
    """Why something cannot be put in a file, as a sentence."""
    if isinstance(problem, UnicodeEncodeError):
        return "a name or a path in it is not proper text. Rename the file or the node."
    return f"{str(problem).rstrip('.')}."


def _validate_node(node: AnyNode, place: str) -> None:
    _validate_names(node, place)
    _validate_channels(node, place)


def _validate_relations(scene: Scene, node: AnyNode, place: str) -> None:
    nodes = nodes_by_id(scene)
    for k, mover in enumerate(node.movers):
        for other in mover.named():
            _check_role(nodes, other, None, f"{place}.movers[{k}]")
    if node.take is not None:
        take = next((each for each in scene.takes if each.id == node.take.take), None)
        if take is None:
            raise SceneError(f"{place}.take: there is no take “{node.take.take}”.")
        lacking = [name for name in node.take.channels if name not in take.channels]
        if lacking:
            raise SceneError(f"{place}.take: take {take.name} has no “{lacking[0]}”.")
    if node.carrier is not None and node.carrier not in nodes:
        raise SceneError(f"{place}.carrier: there is no node “{node.carrier}”.")
    if node.carrier is not None and not (node.placed and nodes[node.carrier].placed):
        raise SceneError(f"{place}.carrier: the window of a format is nowhere in space: it carries nothing, nor is it.")
    for k, bind in enumerate(node.binds):
        for other, role in bind.named():
            _check_role(nodes, other, role, f"{place}.binds[{k}]")
    for field, role in node.named_nodes.items():
        for other in getattr(node, field):
            _check_role(nodes, other, role, f"{place}.{field}")


_WORDS: dict[Role | None, str] = {"receiver": "model", "shown": "camera or framing"}


def _check_role(nodes: dict[str, AnyNode], node_id: str, role: Role | None, place: str) -> None:
    node = nodes.get(node_id)
    if node is None or (role is not None and not node.serves_as(role)):
        raise SceneError(f"{place}: there is no {_WORDS.get(role, role or 'node')} “{node_id}”.")


def _validate_markers(markers: tuple[Marker, ...]) -> None:
    for number, (earlier, later) in enumerate(pairwise(markers), 1):
        if not earlier.frame < later.frame:
            raise SceneError(f"$.scene.markers[{number}].frame: markers must be in order, each on a frame of its own.")


def _validate_camera(scene: Scene) -> None:
    lost = lost_output(scene)
    if lost is not None:
        raise SceneError(f"$.scene.camera: there is no camera “{lost}”.")


def _validate_film(scene: Scene) -> None:
    """Shots, rules, passes and events name nodes that are there, and the shots follow on each other."""
    nodes = nodes_by_id(scene)
    for number, shot in enumerate(scene.shots):
        _check_role(nodes, shot.camera, "shown", f"$.scene.shots[{number}].camera")
    problem = film_problem(scene.shots, scene.settings.rate)
    if problem is not None:
        raise SceneError(f"$.scene.shots[{problem[0]}]: {problem[1]}")
    for number, rule in enumerate(scene.rules):
        for each in (rule.before, rule.after):
            if each is not None:
                _check_role(nodes, each, "shown", f"$.scene.rules[{number}]")
    for number, kept in enumerate(scene.passes):
        for shot in kept.shots:
            _check_role(nodes, shot.camera, "shown", f"$.scene.passes[{number}]")
    conditions = sum(1 + (event.until is not None) for event in scene.events)
    if conditions * scene.settings.frame_count > MAX_LOOKED_AT:
        raise SceneError(
            f"$.scene.events: {conditions} conditions over {scene.settings.frame_count} frames are more than can be "
            "looked at. Take some away, or make the scene shorter."
        )
    for number, event in enumerate(scene.events):
        _check_role(nodes, event.camera, "shown", f"$.scene.events[{number}].camera")
        for each in event.named():
            _check_role(nodes, each, None, f"$.scene.events[{number}]")
        check_event(scene, event, f"$.scene.events[{number}]: ")


def _validate_takes(scene: Scene, fresh: tuple[Take, ...]) -> None:
    """Takes have ids of their own, and belong to nodes that are there; the fresh ones hold what a take can."""
    nodes, ids = nodes_by_id(scene), {take.id for take in scene.takes}
    if len(ids) < len(scene.takes):
        raise SceneError("$.scene.takes: two takes have one id.")
    total = sum(len(take.samples) for take in scene.takes)
    if total > MAX_TAKE_BYTES:
        raise SceneError(
            f"$.scene.takes: all takes together have {total / 1e6:.0f} MB; up to {MAX_TAKE_BYTES / 1e6:.0f} MB work. "
            "Delete some."
        )
    for number, take in enumerate(scene.takes):
        _check_role(nodes, take.node, None, f"$.scene.takes[{number}].node")
    for take in fresh:
        check_take(take)


def _validate_checks(scene: Scene) -> None:
    """Formats have windows, and checks subjects, that are there."""
    nodes = nodes_by_id(scene)
    for number, shape in enumerate(scene.formats):
        if shape.window is not None:
            _check_role(nodes, shape.window, "window", f"$.scene.formats[{number}].window")
    for number, subject in enumerate(scene.checks.subjects):
        _check_role(nodes, subject.node, None, f"$.scene.checks.subjects[{number}].node")
    for each in scene.checks.line or ():
        _check_role(nodes, each, None, "$.scene.checks.line")


def _validate_moves(scene: Scene) -> None:
    names = [move.name for move in scene.moves]
    if len(set(names)) < len(names):
        raise SceneError("$.scene.moves: two moves have one name.")
    for number, move in enumerate(scene.moves):
        try:
            check_move(move)
        except SceneError as problem:
            raise SceneError(f"$.scene.moves[{number}]: {problem}") from problem


def _validate_sums(scene: Scene) -> None:
    """What is bounded for the whole scene."""
    keys = sum(len(channel.keys) for node in scene.nodes for channel in node.channels)
    if keys > MAX_SCENE_KEYS:
        raise SceneError(f"$.scene.nodes: there are {keys} keys; up to {MAX_SCENE_KEYS} work. Thin some of them.")
    looking = sum(mover.on and mover.looks_around for node in scene.nodes for mover in node.movers)
    if looking * scene.settings.frame_count > MAX_MOVED:
        raise SceneError(
            f"$.scene.nodes: {looking} springs, lags and shakes over {scene.settings.frame_count} frames are more than "
            "can be worked out. Take some away, or make the scene shorter."
        )
    curves = [node.curve for node in scene.nodes if isinstance(node, Path)]
    points = sum(len(curve.points) for curve in curves if isinstance(curve, BezierPath | ThroughPath))
    if points > MAX_PATH_POINTS:
        raise SceneError(f"$.scene.nodes: paths have {points} points; up to {MAX_PATH_POINTS} work.")


def _validate_names(node: AnyNode, place: str) -> None:
    """The ids of binds and dials, which channels are named after, must differ and be no channel's own name."""
    taken = set(_RESERVED)
    for number, bind in enumerate(node.binds):
        if bind.id in taken:
            raise SceneError(f"{place}.binds[{number}].id: “{bind.id}” is taken.")
        taken.add(bind.id)
    dials: set[str] = set()
    for number, dial in enumerate(node.dials):
        if dial.id in dials:
            raise SceneError(f"{place}.dials[{number}].id: two dials have the id “{dial.id}”.")
        dials.add(dial.id)
    own = specs(msgspec.structs.replace(node, movers=(), take=None))
    for number, mover in enumerate(node.movers):
        if mover.id in taken:
            raise SceneError(f"{place}.movers[{number}].id: “{mover.id}” is taken.")
        taken.add(mover.id)
        for name in mover.names:
            if name not in own:
                raise SceneError(
                    f"{place}.movers[{number}]: {node.name} has no channel “{name}” that movers can act on."
                )
    for name in node.take.channels if node.take is not None else ():
        if name not in own:
            raise SceneError(f"{place}.take: {node.name} has no channel “{name}” that a take can give.")


def _validate_channels(node: AnyNode, place: str) -> None:
    names: set[str] = set()
    for number, channel in enumerate(node.channels):
        where = f"{place}.channels[{number}]"
        if channel.name in names:
            raise SceneError(f"{where}.name: “{channel.name}” is listed twice.")
        names.add(channel.name)
        try:
            known = spec(node, channel.name)
        except SceneError as problem:
            raise SceneError(f"{where}.name: {problem}") from None
        values = [key.value for key in channel.keys]
        values.append(channel.value)
        for value in (min(values), max(values)):
            if not known.low - _TOLERANCE <= value <= known.high + _TOLERANCE:
                raise SceneError(f"{where}: {known.label} is {value:g}, outside {known.low:g} to {known.high:g}.")
        if any(value != value for value in values):
            raise SceneError(f"{where}: {known.label} needs finite numbers.")
        _validate_keys(channel, where)


def _validate_keys(channel: Channel, where: str) -> None:
    frames = [key.frame for key in channel.keys]
    for number, (left, right) in enumerate(pairwise(frames)):
        if not left < right:
            raise SceneError(f"{where}.keys[{number + 1}].frame: keys must be in order of frame, one to a frame.")
        if right - left < MIN_GAP:
            raise SceneError(f"{where}.keys[{number + 1}].frame: two keys lie closer than can be told apart.")
    for number, frame in enumerate(frames[:1] + frames[-1:]):
        if not abs(frame) <= 1e9:
            raise SceneError(f"{where}.keys[{number}]: a key needs a finite frame.")
