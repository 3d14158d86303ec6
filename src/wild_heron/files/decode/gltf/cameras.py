"""The cameras of a glTF file, with their animation."""

from typing import Any

import numpy as np

from ....arrays import Array
from ....space.transform import decompose
from ...contents import CameraTrack, ModelContents, RestPose, Track
from ...errors import FileError
from ..source import Source
from .buffers import Buffers, refuse
from .model import animations_of, hierarchy, rest_pose

_SENSOR = 24.0
_POINTER = "KHR_animation_pointer"
_MOST = 200_000


def read_cameras(file: Source) -> list[CameraTrack]:
    """Every camera of a ``.glb`` or ``.gltf``. FileError where there is none."""
    buffers = Buffers(file)
    try:
        return _cameras(buffers)
    except FileError:
        raise
    except (LookupError, ValueError, TypeError, AttributeError, ArithmeticError) as problem:
        raise refuse(file.path, f"is not glTF as it should be: {problem!r}.") from problem


def _cameras(buffers: Buffers) -> list[CameraTrack]:
    order, parents = hierarchy(buffers)
    place = {index: number for number, index in enumerate(order)}
    nodes = tuple(rest_pose(buffers, index, place, parents) for index in order)
    tracks = tuple(track for named in animations_of(buffers, place).values() for track in named)
    angles = _angles(buffers)
    out = []
    for index in order:
        node = buffers.item("nodes", index)
        if "camera" not in node:
            continue
        camera = buffers.item("cameras", node["camera"])
        lens = camera.get("perspective")
        if not isinstance(lens, dict):
            continue  # A parallel view has no lens.
        name = str(node.get("name") or camera.get("name") or "Camera")[:80]
        out.append(_camera(name, lens, place[index], nodes, tracks, angles.get(int(node["camera"]))))
    if not out:
        raise FileError(buffers.path, "holds no camera.", "Export it with its camera, as glTF 2.0.")
    return out


def _camera(
    name: str, lens: dict[str, Any], number: int, nodes: tuple[RestPose, ...], tracks: tuple[Track, ...],
    angles: tuple[Array, Array] | None,
) -> CameraTrack:  # fmt: skip
    above = {number}
    while nodes[min(above)].parent >= 0 and nodes[min(above)].parent not in above:
        above.add(nodes[min(above)].parent)
    own = [track for track in tracks if track.node in above]
    moments = [track.times for track in own] + ([angles[0]] if angles is not None else [])
    seconds = np.unique(np.concatenate(moments)) if moments else np.zeros(1)
    contents = ModelContents((), (), nodes, {"": tuple(own)})
    poses = np.stack([contents.poses("", float(each))[number] for each in seconds[:_MOST]])
    position, quaternion, _ = decompose(poses)
    yfov = np.full(len(seconds), float(lens["yfov"]))
    if angles is not None:
        yfov = np.interp(seconds, *angles)
    if not (yfov > 1e-4).all() or not (yfov < 3.1).all():
        raise ValueError(f"an angle of view of {float(yfov[0]):g}")
    aspect = float(lens.get("aspectRatio", 1.5))
    focal = 0.5 * _SENSOR / np.tan(0.5 * yfov)
    return CameraTrack(name, seconds, position, quaternion, focal, (_SENSOR * aspect, _SENSOR), True)


def _angles(buffers: Buffers) -> dict[int, tuple[Array, Array]]:
    """By camera, when its angle of view is told and what it is."""
    found = {}
    for animation in buffers.items("animations"):
        for channel in animation.get("channels", []):
            pointer = channel.get("target", {}).get("extensions", {}).get(_POINTER, {}).get("pointer", "")
            parts = str(pointer).split("/")
            if len(parts) == 5 and parts[1] == "cameras" and parts[3:] == ["perspective", "yfov"]:
                sampler = animation["samplers"][channel["sampler"]]
                found[int(parts[2])] = (buffers.accessor(sampler["input"]), buffers.accessor(sampler["output"]))
    return found
