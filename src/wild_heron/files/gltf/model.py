"""What a glTF file shows: parts with their materials, the nodes they hang on, and animations."""

import io
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...space.mesh import Mesh, smooth_normals
from ...space.rotation import quaternion_to_matrix
from ..errors import FileError
from ..images import read_stream
from .animation import Track
from .buffers import Buffers, refuse

Array = NDArray[np.float64]

_READABLE = {"KHR_materials_unlit", "KHR_mesh_quantization", "KHR_texture_transform", "KHR_materials_emissive_strength"}
_MAX_NODES = 20_000
_TEXTURE_SIDE = 8192


class Material(NamedTuple):
    """Base colour (r, g, b, a), the texture's number or None, and how it is drawn. ``cutoff``: alpha below it is
    not drawn."""

    colour: tuple[float, float, float, float] = (0.72, 0.7, 0.64, 1.0)
    texture: int | None = None
    blend: bool = False
    cutoff: float = 0.0
    double_sided: bool = False
    unlit: bool = False


class Part(NamedTuple):
    """A mesh in one material, hanging on a node."""

    mesh: Mesh
    material: Material
    node: int


class ModelContents(NamedTuple):
    """A read model. ``nodes`` are (parent or −1, translation, quaternion, scale, matrix or None), parents first."""

    parts: tuple[Part, ...]
    textures: tuple[NDArray[np.uint8], ...]
    nodes: tuple[tuple[int, Array, Array, Array, Array | None], ...]
    animations: dict[str, tuple[Track, ...]]

    def length(self, animation: str) -> float:
        """How long an animation is, in seconds."""
        return max((float(track.times[-1]) for track in self.animations.get(animation, ())), default=0.0)

    def poses(self, animation: str = "", seconds: float = 0.0) -> Array:
        """Matrices (K, 4, 4) of all nodes in the model's space, at a time of an animation."""
        moved: dict[tuple[int, str], Array] = {
            (track.node, track.path): track.at(seconds) for track in self.animations.get(animation, ())
        }
        out = np.zeros((len(self.nodes), 4, 4))
        for number, (parent, translation, rotation, scale, matrix) in enumerate(self.nodes):
            local = np.eye(4)
            if matrix is not None and not any((number, path) in moved for path in ("translation", "rotation", "scale")):
                local = matrix
            else:
                turn = quaternion_to_matrix(moved.get((number, "rotation"), rotation)[None])[0]
                local[:3, :3] = turn * moved.get((number, "scale"), scale)
                local[:3, 3] = moved.get((number, "translation"), translation)
            out[number] = local if parent < 0 else out[parent] @ local
        return out

    def bounds(self) -> tuple[Array, Array]:
        """Lowest and highest corner (3,) at rest."""
        poses = self.poses()
        corners = [
            part.mesh.positions @ poses[part.node, :3, :3].T + poses[part.node, :3, 3]
            for part in self.parts
            if len(part.mesh.positions)
        ]
        points = np.concatenate(corners) if corners else np.zeros((1, 3))
        return points.min(axis=0), points.max(axis=0)


def read_model(path: Path) -> ModelContents:
    """Read a ``.glb`` or ``.gltf`` file. FileError says what cannot be read and what to do."""
    buffers = Buffers(path)
    try:
        return _contents(buffers)
    except FileError:
        raise
    except (KeyError, ValueError, TypeError, AttributeError, IndexError, OverflowError, MemoryError) as problem:
        raise refuse(path, f"is not glTF as it should be: {problem!r}.") from problem


def model_files(path: Path) -> list[Path]:
    """The files beside a model that it is made of as well."""
    buffers = Buffers(path)
    for name in ("buffers", "images"):
        for item in buffers.items(name):
            uri = item.get("uri")
            if isinstance(uri, str) and not uri.startswith("data:"):
                buffers.beside(uri)
    return buffers.side_files


def _contents(buffers: Buffers) -> ModelContents:
    needed = set(buffers.gltf.get("extensionsRequired", [])) - _READABLE
    if needed:
        raise refuse(buffers.path, f"needs {', '.join(sorted(map(str, needed)))}, which cannot be read.")
    order, parents = _hierarchy(buffers)
    place = {index: number for number, index in enumerate(order)}
    nodes = []
    parts: list[Part] = []
    for index in order:
        node = buffers.item("nodes", index)
        matrix = np.array(node["matrix"], dtype=np.float64).reshape(4, 4).T if "matrix" in node else None
        nodes.append(
            (
                place.get(parents.get(index, -1), -1),
                np.array(node.get("translation", (0, 0, 0)), dtype=np.float64),
                np.array(node.get("rotation", (0, 0, 0, 1)), dtype=np.float64),
                np.array(node.get("scale", (1, 1, 1)), dtype=np.float64),
                matrix,
            )
        )
        if "mesh" in node:
            for primitive in buffers.item("meshes", node["mesh"]).get("primitives", []):
                mesh = _mesh(buffers, primitive)
                if mesh is not None:
                    parts.append(Part(mesh, _material(buffers, primitive.get("material")), place[index]))
    if not parts:
        raise refuse(buffers.path, "holds no triangles.")
    images = tuple(_image(buffers, k) for k in range(len(buffers.items("images"))))
    return ModelContents(tuple(parts), images, tuple(nodes), _animations(buffers, place))


def _hierarchy(buffers: Buffers) -> tuple[list[int], dict[int, int]]:
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
    if not np.isfinite(positions).all():
        raise refuse(buffers.path, "has corners that are not finite numbers.")
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
    shown = [12.92 * c if c <= 0.0031308 else 1.055 * c ** (1 / 2.4) - 0.055 for c in np.clip(factor[:3], 0, 1)]
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
    return read_stream(buffers.path, io.BytesIO(data), _TEXTURE_SIDE)


def _animations(buffers: Buffers, place: dict[int, int]) -> dict[str, tuple[Track, ...]]:
    found: dict[str, tuple[Track, ...]] = {}
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
            if not len(times) or len(values) != len(times) or not (np.diff(times) >= 0).all():
                raise refuse(buffers.path, f"has an animation “{name}” whose keys are out of order.")
            tracks.append(Track(place[int(node)], path, times, values, kind))
        while name in found:
            name += " again"
        found[name] = tuple(tracks)
    return found
