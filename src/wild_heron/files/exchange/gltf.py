"""glTF 2.0 (Khronos): one ``.glb`` with the camera, nulls, cards with their artwork, and models, animated.

A focal length that changes is told by KHR_animation_pointer, cards by KHR_materials_unlit.
"""

import struct
from typing import Any

import msgspec
import numpy as np
from numpy.typing import NDArray

from ... import __version__
from ...arrays import Array
from ...colour import to_light
from ...scene import Null, SceneError
from ..contents import Material
from ..reader import Reader
from .artwork import FlatMesh, meshes_of, png
from .move import Move, MovedCamera, Poses

_FLOAT, _UNSIGNED = 5126, 5125
_ARRAY, _ELEMENTS = 34962, 34963
_FARTHEST = 1e6


class _Document:
    """What is being put together."""

    def __init__(self) -> None:
        self.json: dict[str, Any] = {
            "asset": {"version": "2.0", "generator": f"Wild Heron {__version__}"}, "scene": 0, "nodes": [],
            "meshes": [], "materials": [], "textures": [], "images": [], "samplers": [], "cameras": [],
            "accessors": [], "bufferViews": [],
        }  # fmt: skip
        self.bytes = bytearray()
        self.channels: list[dict[str, Any]] = []
        self.samplers: list[dict[str, Any]] = []
        self.used: set[str] = set()
        self._times: dict[bytes, int] = {}

    def add(self, what: str, thing: dict[str, Any]) -> int:
        self.json[what].append(thing)
        return len(self.json[what]) - 1

    def view(self, data: bytes, target: int | None = None) -> int:
        self.bytes += b"\0" * (-len(self.bytes) % 4)
        view = {"buffer": 0, "byteOffset": len(self.bytes), "byteLength": len(data)}
        self.bytes += data
        return self.add("bufferViews", view if target is None else view | {"target": target})

    def accessor(self, values: Array, kind: str, target: int | None = None, bounds: bool = False) -> int:
        """Floats (K,) or (K, C)."""
        data = np.ascontiguousarray(values, dtype="<f4")
        told: dict[str, Any] = {
            "bufferView": self.view(data.tobytes(), target), "componentType": _FLOAT, "count": len(data), "type": kind,
        }  # fmt: skip
        if bounds:
            flat = data.reshape(len(data), -1)
            told |= {"min": flat.min(axis=0).tolist(), "max": flat.max(axis=0).tolist()}
        return self.add("accessors", told)

    def indices(self, faces: Array) -> int:
        data = np.ascontiguousarray(faces, dtype="<u4").ravel()
        view = self.view(data.tobytes(), _ELEMENTS)
        return self.add(
            "accessors", {"bufferView": view, "componentType": _UNSIGNED, "count": len(data), "type": "SCALAR"}
        )

    def times(self, seconds: Array) -> int:
        """Moments, once for all that share them."""
        single = _rising(seconds)
        data = single.tobytes()
        if data not in self._times:
            self._times[data] = self.accessor(single.astype(np.float64), "SCALAR", bounds=True)
        return self._times[data]

    def animate(self, target: dict[str, Any], seconds: Array, values: Array, kind: str) -> None:
        sampler = {"input": self.times(seconds), "output": self.accessor(values, kind), "interpolation": "LINEAR"}
        self.samplers.append(sampler)
        self.channels.append({"sampler": len(self.samplers) - 1, "target": target})

    def point_at(self, pointer: str, seconds: Array, values: Array, kind: str) -> None:
        """Animate what a JSON pointer names (KHR_animation_pointer)."""
        self.used.add("KHR_animation_pointer")
        target = {"path": "pointer", "extensions": {"KHR_animation_pointer": {"pointer": pointer}}}
        self.animate(target, seconds, values, kind)

    def packed(self, name: str) -> bytes:
        """The file's bytes."""
        told = self.json
        told["scenes"] = [{"name": name, "nodes": list(range(len(told["nodes"])))}]
        if self.channels:
            told["animations"] = [{"name": name, "channels": self.channels, "samplers": self.samplers}]
        if self.used:
            told["extensionsUsed"] = sorted(self.used)
        told["buffers"] = [{"byteLength": len(self.bytes)}] if self.bytes else []
        told = {key: value for key, value in told.items() if value not in ([], {})}
        text = msgspec.json.encode(told)
        text += b" " * (-len(text) % 4)
        binary = bytes(self.bytes) + b"\0" * (-len(self.bytes) % 4)
        chunks = [struct.pack("<I4s", len(text), b"JSON") + text]
        if binary:
            chunks.append(struct.pack("<I4s", len(binary), b"BIN\0") + binary)
        whole = b"".join(chunks)
        return struct.pack("<4sII", b"glTF", 2, 12 + len(whole)) + whole


def _rising(seconds: Array) -> NDArray[np.float32]:
    """Moments in single precision that go on rising, as the format has it: what falls on the next one is put on the
    number right before that."""
    single = np.ascontiguousarray(seconds, dtype="<f4")
    for k in np.flatnonzero(np.diff(single) <= 0.0)[::-1].tolist():
        at = k
        while at >= 0 and single[at] >= single[at + 1]:
            single[at] = np.nextafter(single[at + 1], np.float32(-np.inf))
            at -= 1
    return single


def gltf(move: Move, reader: Reader) -> bytes:
    """A move as a ``.glb``. SceneError where it cannot hold it."""
    document = _Document()
    if move.camera is not None:
        _camera(document, move, move.camera)
    for node, poses, (opacity_frames, opacity) in move.nodes:
        index = document.add("nodes", {"name": node.name})
        _place(document, move, index, poses)
        if isinstance(node, Null):
            continue
        meshes = meshes_of(node, move.scene, move.base, reader)
        if not meshes:
            continue
        fades = bool((opacity < 1.0).any())
        document.json["nodes"][index]["mesh"] = document.add(
            "meshes",
            {
                "name": node.name,
                "primitives": [_primitive(document, each, float(opacity[0]), fades) for each in meshes],
            },
        )
        if len(opacity) > 1:
            last = len(document.json["materials"])
            for number, each in zip(range(last - len(meshes), last), meshes, strict=True):
                factors = np.repeat(np.array([_factor(each.material)]), len(opacity), axis=0)
                factors[:, 3] *= opacity
                pointer = f"/materials/{number}/pbrMetallicRoughness/baseColorFactor"
                document.point_at(pointer, move.seconds(opacity_frames), factors, "VEC4")
    return document.packed(move.scene.name)


def _camera(document: _Document, move: Move, camera: MovedCamera) -> None:
    view = camera.view
    if view.shift is not None and np.abs(view.shift).max() > 1e-3:
        raise SceneError("glTF has no shifted lens, which this format's window is. Export the whole frame, or USD.")
    angles = 2.0 * np.arctan(0.5 * view.height / view.focal_px[camera.lens])
    near = float(max(view.near.min(), 1e-3))
    lens = {"aspectRatio": view.width / view.height, "yfov": float(angles[0]), "znear": near}
    if view.far.max() < _FARTHEST:
        lens["zfar"] = float(view.far.max())
    number = document.add("cameras", {"name": camera.name, "type": "perspective", "perspective": lens})
    index = document.add("nodes", {"name": camera.name, "camera": number})
    _place(document, move, index, camera.poses)
    if len(camera.lens) > 1:
        seconds = move.seconds(view.frames[camera.lens])
        document.point_at(f"/cameras/{number}/perspective/yfov", seconds, angles, "SCALAR")


def _place(document: _Document, move: Move, index: int, poses: Poses) -> None:
    """Where a node is: what changes is animated."""
    seconds = move.seconds(poses.frames)
    for path, values, kind, rest in (
        ("translation", poses.position, "VEC3", (0.0, 0.0, 0.0)),
        ("rotation", poses.quaternion, "VEC4", (0.0, 0.0, 0.0, 1.0)),
        ("scale", poses.scale, "VEC3", (1.0, 1.0, 1.0)),
    ):
        first = values[0].tolist()
        if tuple(first) != rest:
            document.json["nodes"][index][path] = first
        if len(values) > 1 and not (np.abs(values - values[0]) < 1e-9).all():
            document.animate({"node": index, "path": path}, seconds, values, kind)


def _factor(material: Material) -> list[float]:
    return [*to_light(np.array(material.colour[:3])).tolist(), material.colour[3]]


def _primitive(document: _Document, mesh: FlatMesh, opacity: float, fades: bool) -> dict[str, Any]:
    material = mesh.material
    factor = _factor(material)
    factor[3] *= opacity
    surface: dict[str, Any] = {"baseColorFactor": factor, "metallicFactor": 0.0, "roughnessFactor": 0.9}
    if mesh.texture is not None:
        surface["baseColorTexture"] = {"index": _texture(document, mesh)}
    told: dict[str, Any] = {"pbrMetallicRoughness": surface, "doubleSided": material.double_sided}
    if material.cutoff > 0.0:
        told |= {"alphaMode": "MASK", "alphaCutoff": material.cutoff}
    elif material.blend or fades:
        told["alphaMode"] = "BLEND"
    if material.unlit:
        document.used.add("KHR_materials_unlit")
        told["extensions"] = {"KHR_materials_unlit": {}}
    attributes = {
        "POSITION": document.accessor(mesh.positions, "VEC3", _ARRAY, bounds=True),
        "NORMAL": document.accessor(mesh.normals, "VEC3", _ARRAY),
    }
    if mesh.texture is not None:
        attributes["TEXCOORD_0"] = document.accessor(mesh.uv, "VEC2", _ARRAY)
    number = document.add("materials", told)
    return {"attributes": attributes, "indices": document.indices(mesh.faces), "material": number}


def _texture(document: _Document, mesh: FlatMesh) -> int:
    assert mesh.texture is not None
    if not document.json["samplers"]:
        # Linear with mipmaps, up to the edges.
        document.add("samplers", {"magFilter": 9729, "minFilter": 9987, "wrapS": 33071, "wrapT": 33071})
    image = document.add("images", {"mimeType": "image/png", "bufferView": document.view(png(mesh.texture))})
    return document.add("textures", {"sampler": 0, "source": image})
