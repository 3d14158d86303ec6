"""The cameras of a glTF file, with their animation."""

from typing import Any

import numpy as np

from ....arrays import Array
from ...contents import AnimationTrack, CameraTrack, FoundCameras, ModelContents, RestPose
from ...errors import FileError
from ..camera_motion import camera_motion, found_cameras
from ..source import Source
from .buffers import Buffers, refuse
from .model import animations_of, hierarchy, rest_pose

_SENSOR = 24.0
_POINTER = "KHR_animation_pointer"


def read_cameras(file: Source, fps: float) -> FoundCameras:
    """Every camera of a ``.glb`` or ``.gltf``, read on frames and between. FileError where there is none."""
    buffers = Buffers(file)
    try:
        return _cameras(buffers, fps)
    except FileError:
        raise
    except (LookupError, ValueError, TypeError, AttributeError, ArithmeticError) as problem:
        raise refuse(file.path, f"is not glTF as it should be: {problem!r}.") from problem


def _cameras(buffers: Buffers, fps: float) -> FoundCameras:
    order, parents = hierarchy(buffers)
    place = {index: number for number, index in enumerate(order)}
    nodes = tuple(rest_pose(buffers, index, place, parents) for index in order)
    tracks = tuple(track for named in animations_of(buffers, place).values() for track in named)
    angles = _angles(buffers)
    out, flat = [], []
    for index in order:
        node = buffers.item("nodes", index)
        if "camera" not in node:
            continue
        camera = buffers.item("cameras", node["camera"])
        lens = camera.get("perspective")
        name = str(node.get("name") or camera.get("name") or "Camera")[:80]
        if not isinstance(lens, dict):
            flat.append(name)
            continue
        held, own = _alone(place[index], nodes, tracks)
        out.append(_camera(buffers.file, name, lens, held, own, angles.get(int(node["camera"])), fps))
    return found_cameras(buffers.file, out, flat)


def _alone(number: int, nodes: tuple[RestPose, ...], tracks: tuple[AnimationTrack, ...]) -> tuple[ModelContents, int]:
    """A node with what carries it and nothing else, and its number there."""
    chain = [number]
    while nodes[chain[-1]].parent >= 0:
        chain.append(nodes[chain[-1]].parent)
    chain.reverse()
    new = {old: k for k, old in enumerate(chain)}
    held = tuple(nodes[old]._replace(parent=k - 1) for k, old in enumerate(chain))
    own = tuple(track._replace(node=new[track.node]) for track in tracks if track.node in new)
    return ModelContents((), (), held, {"": own}), len(chain) - 1


def _camera(
    file: Source, name: str, lens: dict[str, Any], held: ModelContents, number: int,
    angles: tuple[Array, Array, str] | None, fps: float,
) -> CameraTrack:  # fmt: skip
    own = held.animations[""]
    keys = np.concatenate([np.zeros(0), *(track.times for track in own), *([] if angles is None else [angles[0]])])
    yfov = float(lens["yfov"])

    def read(frames: Array) -> tuple[Array, Array]:
        seconds = frames / fps
        poses = np.stack([held.poses("", each)[number] for each in seconds.tolist()])
        angle = np.full(len(frames), yfov) if angles is None else _angle(*angles, seconds)
        return poses, angle[:, None]

    motion = camera_motion(file, keys * fps if len(keys) else np.zeros(1), read)
    angle = motion.numbers[:, 0]
    if not (angle > 1e-4).all() or not (angle < 3.1).all():
        raise ValueError(f"an angle of view of {float(angle[0]):g}")
    aspect = float(lens.get("aspectRatio", 1.5))
    focal = 0.5 * _SENSOR / np.tan(0.5 * angle)
    return CameraTrack(
        name, motion.frames / fps, motion.positions, motion.quaternions, focal, (_SENSOR * aspect, _SENSOR), True,
        metres=1.0,
    )  # fmt: skip


def _angle(times: Array, values: Array, kind: str, seconds: Array) -> Array:
    """An animated angle of view at seconds (N,)."""
    if kind == "LINEAR":
        return np.interp(seconds, times, values)
    track = AnimationTrack(
        0, "scale", times, values.reshape(len(times), 3, 1) if kind == "CUBICSPLINE" else values[:, None], kind
    )
    return np.array([float(track.at(each)[0]) for each in seconds.tolist()])


def _angles(buffers: Buffers) -> dict[int, tuple[Array, Array, str]]:
    """By camera, when its angle of view is told, what it is, and how it goes on from there."""
    found = {}
    for animation in buffers.items("animations"):
        for channel in animation.get("channels", []):
            pointer = channel.get("target", {}).get("extensions", {}).get(_POINTER, {}).get("pointer", "")
            parts = str(pointer).split("/")
            if len(parts) == 5 and parts[1] == "cameras" and parts[3:] == ["perspective", "yfov"]:
                sampler = animation["samplers"][channel["sampler"]]
                kind = str(sampler.get("interpolation", "LINEAR"))
                found[int(parts[2])] = (buffers.accessor(sampler["input"]), buffers.accessor(sampler["output"]), kind)
    return found
