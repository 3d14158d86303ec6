"""Whether a scene hangs together: everything the struct types cannot say."""

from itertools import pairwise
from math import isfinite

from .binds import FaceCamera, RideGround, RidePath, named_nodes
from .channels import spec
from .dependencies import evaluation_order
from .errors import SceneError
from .feeding import check_feeds
from .model import AnyNode, Camera, Channel, Ground, Model, Path, Projection, Scene

_TOLERANCE = 1e-9


def validate(scene: Scene) -> None:
    """Raise SceneError, with the place as a JSON path, for the first thing that is wrong."""
    ids: set[str] = set()
    for number, node in enumerate(scene.nodes):
        place = f"$.scene.nodes[{number}]"
        if node.id in ids:
            raise SceneError(f"{place}.id: two nodes have the id “{node.id}”.")
        ids.add(node.id)
        _validate_names(node, place)
        _validate_channels(node, place)
    for number, node in enumerate(scene.nodes):
        if node.carrier is not None and node.carrier not in ids:
            raise SceneError(f"$.scene.nodes[{number}].carrier: there is no node “{node.carrier}”.")
        for k, bind in enumerate(node.binds):
            for other, _ in named_nodes(bind):
                kinds, word = _bound_to(bind)
                if other not in ids or not isinstance(scene.node(other), kinds):
                    raise SceneError(f"$.scene.nodes[{number}].binds[{k}]: there is no {word} “{other}”.")
        if isinstance(node, Projection):
            for receiver in node.receivers:
                if receiver not in ids or not isinstance(scene.node(receiver), Model):
                    raise SceneError(f"$.scene.nodes[{number}].receivers: there is no model “{receiver}”.")
    for number, (earlier, later) in enumerate(pairwise(scene.markers), 1):
        if not earlier.frame < later.frame:
            raise SceneError(f"$.scene.markers[{number}].frame: markers must be in order, each on a frame of its own.")
    if scene.camera is not None and (scene.camera not in ids or not isinstance(scene.node(scene.camera), Camera)):
        raise SceneError(f"$.scene.camera: there is no camera “{scene.camera}”.")
    try:
        evaluation_order(scene)
        check_feeds(scene)
    except SceneError as problem:
        raise SceneError(f"$.scene.nodes: {problem}") from problem


def _bound_to(bind: object) -> tuple[tuple[type, ...], str]:
    """The kinds of node that a bind can be about, and what to call them."""
    match bind:
        case FaceCamera():
            return (Camera,), "camera"
        case RidePath():
            return (Path,), "path"
        case RideGround():
            return (Ground, Model), "ground"
    return (object,), "node"


def _validate_names(node: AnyNode, place: str) -> None:
    """The ids of binds and dials, which channels are named after, must differ and be no channel's own name."""
    taken = {"position", "rotation", "scale", "anchor", "lens", "light", "opacity", "blur", "relief", "dial"}
    for number, bind in enumerate(node.binds):
        if bind.id in taken:
            raise SceneError(f"{place}.binds[{number}].id: “{bind.id}” is taken.")
        taken.add(bind.id)
    dials: set[str] = set()
    for number, dial in enumerate(node.dials):
        if dial.id in dials:
            raise SceneError(f"{place}.dials[{number}].id: two dials have the id “{dial.id}”.")
        dials.add(dial.id)


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
        for value in (channel.value, *(key.value for key in channel.keys)):
            if not known.low - _TOLERANCE <= value <= known.high + _TOLERANCE:
                raise SceneError(f"{where}: {known.label} is {value:g}, outside {known.low:g} to {known.high:g}.")
        _validate_keys(channel, where)


def _validate_keys(channel: Channel, where: str) -> None:
    for number, (left, right) in enumerate(pairwise(channel.keys)):
        if not left.frame < right.frame:
            raise SceneError(f"{where}.keys[{number + 1}].frame: keys must be in order of frame, one to a frame.")
    for number, key in enumerate(channel.keys):
        if not (isfinite(key.frame) and isfinite(key.value)):
            raise SceneError(f"{where}.keys[{number}]: a key needs a finite frame and value.")
