"""glTF 2.0 (Khronos): one ``.glb`` with the camera, nulls, cards with their artwork, models and lights, animated.

A focal length that changes is told by KHR_animation_pointer, cards by KHR_materials_unlit, lights by
KHR_lights_punctual. Lengths are metres, as the format has them.
"""

import struct
from typing import Any

import msgspec
import numpy as np
from numpy.typing import NDArray

from ... import __version__
from ...arrays import Array
from ...colour import to_light
from ...scene import SceneError
from ..contents import Material
from ..reader import Reader
from .flat_artwork import FlatMesh, Shown, meshes_of, png
from .lights import LightTold, light_of
from .move import Move, MovedCamera, MovedNode, Poses

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
        self.lights: list[dict[str, Any]] = []
        self.roots: list[int] = []
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

    def hang(self, index: int, parent: int) -> None:
        """Put a node on another one, or at the top (−1)."""
        (self.roots if parent < 0 else self.json["nodes"][parent].setdefault("children", [])).append(index)

    def animate(
        self, target: dict[str, Any], seconds: Array, values: Array, kind: str, interpolation: str = "LINEAR"
    ) -> None:
        sampler = {"input": self.times(seconds), "output": self.accessor(values, kind), "interpolation": interpolation}
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
        told["scenes"] = [{"name": name, "nodes": self.roots} if self.roots else {"name": name}]
        if self.lights:
            told["extensions"] = {"KHR_lights_punctual": {"lights": self.lights}}
            self.used.add("KHR_lights_punctual")
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
    number right before that. None is later than it was: who asks for the moment of a cut has to be past its key."""
    single = np.ascontiguousarray(seconds, dtype="<f4")
    single = np.where(single > seconds, np.nextafter(single, np.float32(-np.inf)), single).astype("<f4")
    for k in np.flatnonzero(np.diff(single) <= 0.0)[::-1].tolist():
        at = k
        while at >= 0 and single[at] >= single[at + 1]:
            single[at] = np.nextafter(single[at + 1], np.float32(-np.inf))
            at -= 1
    return single


def gltf(move: Move, reader: Reader) -> bytes:
    """A move as a ``.glb``. SceneError where it cannot hold it."""
    document = _Document()
    places: list[int] = []
    for moved in move.nodes:
        light = light_of(move, moved)
        if light is not None and light.kind == "ambient":
            places.append(-1)
            continue
        index = document.add("nodes", {"name": moved.node.name})
        places.append(index)
        document.hang(index, -1 if moved.parent < 0 else places[moved.parent])
        _place(document, move, index, moved.poses)
        if light is not None:
            _light(document, move, index, light)
        elif isinstance(moved.node, Shown):
            _shown(document, move, index, moved, reader)
    if move.camera is not None:
        parent = move.camera.parent
        _camera(document, move, move.camera, -1 if parent < 0 else places[parent])
    return document.packed(move.scene.name)


def _shown(document: _Document, move: Move, index: int, moved: MovedNode, reader: Reader) -> None:
    """What is seen of a node, on a node below it where it is at times clear: there its size is 0."""
    node, (frames, opacity) = moved.node, moved.level
    assert isinstance(node, Shown)
    meshes = meshes_of(node, move.scene, move.base, reader, float(move.frames[0]))
    if not meshes:
        return
    # What does not follow the pointer shows it at its most opaque.
    rest = float(opacity.max())
    fades = bool((opacity < 1.0).any())
    mesh = document.add(
        "meshes",
        {
            "name": node.name,
            "primitives": [_primitive(document, each, rest, fades, move.metres) for each in meshes],
        },
    )
    if len(opacity) == 1:
        document.json["nodes"][index]["mesh"] = mesh
        return
    holder = index
    if (opacity <= 0.0).any():
        holder = document.add("nodes", {"name": f"{node.name} shown"})
        document.hang(holder, index)
        there = np.repeat((opacity > 0.0).astype(np.float64)[:, None], 3, axis=1)
        # From the key before it is seen on: what fades in is clear there by its opacity.
        there[:-1] = np.maximum(there[:-1], there[1:])
        document.json["nodes"][holder]["scale"] = there[0].tolist()
        document.animate({"node": holder, "path": "scale"}, move.seconds(frames), there, "VEC3", "STEP")
    document.json["nodes"][holder]["mesh"] = mesh
    last = len(document.json["materials"])
    for number, each in zip(range(last - len(meshes), last), meshes, strict=True):
        factors = np.repeat(np.array([_factor(each.material)]), len(opacity), axis=0)
        factors[:, 3] *= opacity
        pointer = f"/materials/{number}/pbrMetallicRoughness/baseColorFactor"
        document.point_at(pointer, move.seconds(frames), factors, "VEC4")


def _light(document: _Document, move: Move, index: int, light: LightTold) -> None:
    name = document.json["nodes"][index]["name"]
    told: dict[str, Any] = {"name": name, "type": light.kind, "color": light.colour}
    strength = light.strength
    if light.kind == "point":
        told["range"] = light.reach * move.metres
        strength = strength * move.metres**2
    told["intensity"] = float(strength[0])
    number = len(document.lights)
    document.lights.append(told)
    document.json["nodes"][index]["extensions"] = {"KHR_lights_punctual": {"light": number}}
    if len(strength) > 1:
        pointer = f"/extensions/KHR_lights_punctual/lights/{number}/intensity"
        document.point_at(pointer, move.seconds(light.frames), strength, "SCALAR")


def _camera(document: _Document, move: Move, camera: MovedCamera, parent: int) -> None:
    view = camera.view
    if view.shift is not None and np.abs(view.shift).max() > 1e-3:
        raise SceneError("glTF has no shifted lens, which this format's window is. Export the whole frame, or USD.")
    angles = 2.0 * np.arctan(0.5 * view.height / view.focal_px[camera.lens])
    near = float(max(view.near.min(), 1e-3)) * move.metres
    lens = {"aspectRatio": view.width / view.height, "yfov": float(angles[0]), "znear": near}
    if view.far.max() < _FARTHEST:
        lens["zfar"] = float(view.far.max()) * move.metres
    number = document.add("cameras", {"name": camera.name, "type": "perspective", "perspective": lens})
    index = document.add("nodes", {"name": camera.name, "camera": number})
    document.hang(index, parent)
    _place(document, move, index, camera.poses)
    if len(camera.lens) > 1:
        seconds = move.seconds(view.frames[camera.lens])
        document.point_at(f"/cameras/{number}/perspective/yfov", seconds, angles, "SCALAR")


def _place(document: _Document, move: Move, index: int, poses: Poses) -> None:
    """Where a node is: what changes is animated."""
    seconds = move.seconds(poses.frames)
    for path, values, kind, rest in (
        ("translation", poses.position * move.metres, "VEC3", (0.0, 0.0, 0.0)),
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


def _primitive(document: _Document, mesh: FlatMesh, opacity: float, fades: bool, metres: float) -> dict[str, Any]:
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
        "POSITION": document.accessor(mesh.positions * metres, "VEC3", _ARRAY, bounds=True),
        "NORMAL": document.accessor(mesh.normals, "VEC3", _ARRAY),
    }
    if mesh.texture is not None:
        attributes["TEXCOORD_0"] = document.accessor(mesh.uv, "VEC2", _ARRAY)
    number = document.add("materials", told)
    return {"attributes": attributes, "indices": document.indices(mesh.faces), "material": number}


def _texture(document: _Document, mesh: FlatMesh) -> int:
    assert mesh.texture is not None
    if not document.json["samplers"]:
        # Linear with mipmaps: up to the edges, and again and again.
        for wrap in (33071, 10497):
            document.add("samplers", {"magFilter": 9729, "minFilter": 9987, "wrapS": wrap, "wrapT": wrap})
    image = document.add("images", {"mimeType": "image/png", "bufferView": document.view(png(mesh.texture))})
    return document.add("textures", {"sampler": int(mesh.repeats), "source": image})
