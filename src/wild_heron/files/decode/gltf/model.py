"""What a glTF file shows: parts with their materials, the nodes they hang on, and animations."""

import io
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ....arrays import Array
from ....colour import to_display
from ....space.mesh import Mesh, smooth_normals
from ...contents import AnimationTrack, Material, ModelContents, Part, RestPose
from ...errors import FileError
from ..bitmaps import read_stream
from ..source import Source
from .buffers import Buffers, refuse

_READABLE = {"KHR_materials_unlit", "KHR_mesh_quantization", "KHR_texture_transform", "KHR_materials_emissive_strength"}
_MAX_NODES = 20_000
_TEXTURE_SIDE = 8192
_MAX_TEXTURES = 256
_FARTHEST = 1e9


def read_model(file: Source) -> ModelContents:
    """Read a ``.glb`` or ``.gltf`` file. FileError says what cannot be read and what to do."""
    buffers = Buffers(file)
    try:
        return _contents(buffers)
    except FileError:
        raise
    except (LookupError, ValueError, TypeError, AttributeError, ArithmeticError) as problem:
        raise refuse(file.path, f"is not glTF as it should be: {problem!r}.") from problem


def _contents(buffers: Buffers) -> ModelContents:
    needed = set(buffers.gltf.get("extensionsRequired", [])) - _READABLE
    if needed:
        raise refuse(buffers.path, f"needs {', '.join(sorted(map(str, needed)))}, which cannot be read.")
    order, parents = hierarchy(buffers)
    place = {index: number for number, index in enumerate(order)}
    nodes = []
    parts: list[Part] = []
    for index in order:
        node = buffers.item("nodes", index)
        nodes.append(rest_pose(buffers, index, place, parents))
        if "mesh" in node:
            for primitive in buffers.item("meshes", node["mesh"]).get("primitives", []):
                mesh = _mesh(buffers, primitive)
                if mesh is not None:
                    parts.append(Part(mesh, _material(buffers, primitive.get("material")), place[index]))
    if not parts:
        raise refuse(buffers.path, "holds no triangles.")
    count = len(buffers.items("images"))
    if count > _MAX_TEXTURES:
        raise refuse(buffers.path, f"has {count} pictures; up to {_MAX_TEXTURES} work.")
    images = tuple(_image(buffers, k) for k in range(count))
    return ModelContents(tuple(parts), images, tuple(nodes), animations_of(buffers, place))


def rest_pose(buffers: Buffers, index: int, place: dict[int, int], parents: dict[int, int]) -> RestPose:
    """A node at rest, by the numbers that nodes have in order."""
    node = buffers.item("nodes", index)
    return RestPose(
        place.get(parents.get(index, -1), -1),
        _numbers(node.get("translation", (0, 0, 0)), 3),
        _numbers(node.get("rotation", (0, 0, 0, 1)), 4),
        _numbers(node.get("scale", (1, 1, 1)), 3),
        _numbers(node["matrix"], 16).reshape(4, 4).T.copy() if "matrix" in node else None,
    )


def _numbers(values: object, count: int) -> Array:
    found = np.array(values, dtype=np.float64)
    if found.shape != (count,) or not np.abs(found).max() < _FARTHEST:
        raise ValueError(f"{count} numbers are needed where something else stands")
    return found


def hierarchy(buffers: Buffers) -> tuple[list[int], dict[int, int]]:
    """The nodes of the shown scene, parents first, and each one's parent."""
    all_nodes = buffers.items("nodes")
    scenes = buffers.items("scenes")
    if scenes:
        roots = list(scenes[min(int(buffers.gltf.get("scene", 0)), len(scenes) - 1)].get("nodes", []))
    else:
        children = {int(c) for node in all_nodes for c in node.get("children", [])}
        roots = [k for k in range(len(all_nodes)) if k not in children]
    order: list[int] = []
    parents: dict[int, int] = {}
    seen: set[int] = set()
    waiting = [int(root) for root in reversed(roots)]
    while waiting:
        index = waiting.pop()
        if index in seen or len(order) > _MAX_NODES:
            raise refuse(buffers.path, "has nodes that hang on themselves, or too many of them.")
        seen.add(index)
        order.append(index)
        for child in reversed(buffers.item("nodes", index).get("children", [])):
            parents[int(child)] = index
            waiting.append(int(child))
    return order, parents


def _mesh(buffers: Buffers, primitive: dict[str, Any]) -> Mesh | None:
    mode = int(primitive.get("mode", 4))
    attributes = primitive.get("attributes", {})
    if mode not in (4, 5, 6) or "POSITION" not in attributes:
        return None  # Points and lines.
    positions = np.asarray(buffers.accessor(attributes["POSITION"]), np.float32)
    count = len(positions)
    indices = buffers.accessor(primitive["indices"]) if "indices" in primitive else np.arange(count)
    run = indices.astype(np.int64)
    if len(run) and (run.min() < 0 or run.max() >= count):
        raise refuse(buffers.path, "has faces of corners that it does not hold.")
    if len(positions) and not np.abs(positions).max() < _FARTHEST:
        raise refuse(buffers.path, "has corners that are no numbers, or too far away.")
    if mode == 4:
        corners = run[: len(run) // 3 * 3].reshape(-1, 3)
    elif mode == 5:
        corners = np.stack([run[:-2], run[1:-1], run[2:]], axis=1)
        corners[1::2] = corners[1::2][:, [1, 0, 2]]
    else:
        corners = np.stack([np.full(len(run) - 2, run[0]), run[1:-1], run[2:]], axis=1)
    faces = corners.astype(np.uint32)
    normals = (
        np.asarray(buffers.accessor(attributes["NORMAL"]), np.float32)
        if "NORMAL" in attributes
        else smooth_normals(positions, faces)
    )
    uv = np.zeros((count, 2), np.float32)
    if "TEXCOORD_0" in attributes:
        uv = np.asarray(buffers.accessor(attributes["TEXCOORD_0"]), np.float32)
    if len(normals) != count or len(uv) != count:
        raise refuse(buffers.path, "has normals or texture coordinates for another number of corners.")
    return Mesh(positions, normals, uv, faces)


def _material(buffers: Buffers, index: object) -> Material:
    if index is None:
        return Material()
    material = buffers.item("materials", index)
    surface = material.get("pbrMetallicRoughness", {})
    factor = [float(value) for value in surface.get("baseColorFactor", (1, 1, 1, 1))]
    # Factors are linear light; colours here are display values.
    shown = to_display(np.clip(factor[:3], 0.0, 1.0))
    texture = None
    if "baseColorTexture" in surface:
        texture = buffers.item("textures", surface["baseColorTexture"].get("index")).get("source")
    mode = material.get("alphaMode", "OPAQUE")
    return Material(
        (float(shown[0]), float(shown[1]), float(shown[2]), factor[3] if mode != "OPAQUE" else 1.0),
        int(texture) if texture is not None else None,
        mode == "BLEND",
        float(material.get("alphaCutoff", 0.5)) if mode == "MASK" else 0.0,
        bool(material.get("doubleSided", False)),
        "KHR_materials_unlit" in material.get("extensions", {}),
    )


def _image(buffers: Buffers, index: int) -> NDArray[np.uint8]:
    image = buffers.item("images", index)
    data = buffers.bytes_of(str(image["uri"])) if "uri" in image else buffers.view(image.get("bufferView"))
    return read_stream(buffers.file, io.BytesIO(data), _TEXTURE_SIDE)


def animations_of(buffers: Buffers, place: dict[int, int]) -> dict[str, tuple[AnimationTrack, ...]]:
    found: dict[str, tuple[AnimationTrack, ...]] = {}
    for number, animation in enumerate(buffers.items("animations")):
        name = str(animation.get("name") or f"Animation {number + 1}")
        tracks = []
        for channel in animation.get("channels", []):
            target = channel.get("target", {})
            path, node = target.get("path"), target.get("node")
            if path not in ("translation", "rotation", "scale") or node not in place:
                continue
            sampler = animation["samplers"][channel["sampler"]]
            times = buffers.accessor(sampler["input"])
            values = buffers.accessor(sampler["output"])
            kind = str(sampler.get("interpolation", "LINEAR"))
            if kind == "CUBICSPLINE":
                values = values.reshape(len(times), 3, -1)
            wide = values.shape[-1] if values.ndim > 1 else 0
            if (
                not len(times)
                or len(values) != len(times)
                or wide != (4 if path == "rotation" else 3)
                or not (np.diff(times) >= 0).all()
                or not (np.abs(values).max() < _FARTHEST and np.abs(times).max() < _FARTHEST)
            ):
                raise refuse(buffers.path, f"has an animation “{name}” whose keys are out of order.")
            tracks.append(AnimationTrack(place[int(node)], path, times, values, kind))
        while name in found:
            name += " again"
        found[name] = tuple(tracks)
    return found
