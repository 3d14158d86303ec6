"""Small layered, moving and model files, made anew for each test."""

import json
import struct
import zipfile
from pathlib import Path

import av
import numpy as np
from PIL import Image


def write_ora(
    path: Path, stack: str, size: tuple[int, int], pictures: dict[str, tuple[int, int, tuple[int, ...]]]
) -> Path:
    """An OpenRaster file of plain rectangles: name → (width, height, RGBA)."""
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("mimetype", "image/openraster")
        archive.writestr("stack.xml", f'<image w="{size[0]}" h="{size[1]}"><stack>{stack}</stack></image>')
        for name, (width, height, tone) in pictures.items():
            with archive.open(name, "w") as stream:
                Image.new("RGBA", (width, height), tone).save(stream, "PNG")
    return path


def write_movie(
    path: Path, tones: list[tuple[int, int, int]], rate: int = 12, size: tuple[int, int] = (64, 48)
) -> Path:
    """A movie whose frame k is filled with tone k, without loss of colour worth naming."""
    with av.open(str(path), "w") as container:
        stream = container.add_stream("libx264", rate=rate, options={"crf": "4", "g": "8"})
        stream.width, stream.height = size
        stream.pix_fmt = "yuv420p"
        for tone in tones:
            picture = np.broadcast_to(np.array(tone, np.uint8), (size[1], size[0], 3))
            for packet in stream.encode(av.VideoFrame.from_ndarray(np.ascontiguousarray(picture), format="rgb24")):
                container.mux(packet)
        for packet in stream.encode():
            container.mux(packet)
    return path


def glb(gltf: dict, binary: bytes) -> bytes:
    """A binary glTF file's bytes."""
    binary += b"\0" * (-len(binary) % 4)
    text = json.dumps(gltf | {"buffers": [{"byteLength": len(binary)}]}).encode()
    text += b" " * (-len(text) % 4)
    chunks = struct.pack("<I4s", len(text), b"JSON") + text + struct.pack("<I4s", len(binary), b"BIN\0") + binary
    return struct.pack("<4sII", b"glTF", 2, 12 + len(chunks)) + chunks


def triangle(
    extra: dict | None = None, more: bytes = b"", views: tuple[tuple[int, int], ...] = ()
) -> tuple[dict, bytes]:
    """A glTF of one red triangle on a node that hangs on another; ``more`` bytes and their views come after it."""
    corners = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0]], "<f4").tobytes()
    indices = np.array([0, 1, 2], "<u2").tobytes() + b"\0\0"
    binary = corners + indices
    gltf = {
        "asset": {"version": "2.0"},
        "scene": 0,
        "scenes": [{"nodes": [0]}],
        "nodes": [{"children": [1], "translation": [0, 2, 0]}, {"mesh": 0, "scale": [2, 2, 2]}],
        "meshes": [{"primitives": [{"attributes": {"POSITION": 0}, "indices": 1, "material": 0}]}],
        "materials": [{"pbrMetallicRoughness": {"baseColorFactor": [1, 0, 0, 1]}}],
        "bufferViews": [
            {"buffer": 0, "byteOffset": 0, "byteLength": 36},
            {"buffer": 0, "byteOffset": 36, "byteLength": 6},
            *({"buffer": 0, "byteOffset": 44 + start, "byteLength": size} for start, size in views),
        ],
        "accessors": [
            {"bufferView": 0, "componentType": 5126, "count": 3, "type": "VEC3"},
            {"bufferView": 1, "componentType": 5123, "count": 3, "type": "SCALAR"},
        ],
    }
    for key, value in (extra or {}).items():
        gltf[key] = [*gltf.get(key, []), *value] if isinstance(value, list) else value
    return gltf, binary + more


def animated(path: str, values: np.ndarray, interpolation: str, times: np.ndarray) -> tuple[dict, bytes]:
    """A glTF whose second node an animation “Swing” moves."""
    times, values = times.astype("<f4"), values.astype("<f4")
    kind = {3: "VEC3", 4: "VEC4"}[values.shape[-1]]
    extra = {
        "animations": [
            {
                "name": "Swing",
                "channels": [{"sampler": 0, "target": {"node": 1, "path": path}}],
                "samplers": [{"input": 2, "output": 3, "interpolation": interpolation}],
            }
        ],
        "accessors": [
            {"bufferView": 2, "componentType": 5126, "count": len(times), "type": "SCALAR"},
            {"bufferView": 3, "componentType": 5126, "count": values.size // values.shape[-1], "type": kind},
        ],
    }
    more = times.tobytes() + values.tobytes()
    return triangle(extra, more, ((0, times.nbytes), (times.nbytes, values.nbytes)))
