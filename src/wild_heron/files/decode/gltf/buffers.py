"""The numbers and pictures inside a glTF file."""

import base64
import binascii
import struct
from pathlib import Path
from typing import Any
from urllib.parse import unquote

import msgspec
import numpy as np
from numpy.typing import NDArray

from ...errors import FileError
from ..source import Source

MAX_BYTES = 512 * 1024 * 1024
_REMEDY = "Export it anew as glTF 2.0, binary (.glb)."
_TYPES: dict[int, Any] = {5120: "<i1", 5121: "<u1", 5122: "<i2", 5123: "<u2", 5125: "<u4", 5126: "<f4"}
_WIDTHS = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4, "MAT4": 16}
_GLB_HEADER = 12
_MAX_NUMBERS = 20_000_000


def refuse(path: Path, what: str) -> FileError:
    return FileError(path, what, _REMEDY)


class Buffers:
    """Reads accessors, buffer views and images of one file. Files beside it may be used, others not."""

    def __init__(self, file: Source) -> None:
        self.path = file.path
        self.file = file
        self._files: dict[int, bytes] = {}
        self._numbers = 0
        data = file.read(MAX_BYTES, "Make it smaller.")
        self._binary = b""
        if data[:4] == b"glTF":
            data = self._unpacked(data)
        try:
            gltf = msgspec.json.decode(data)
        except (ValueError, RecursionError) as problem:
            raise refuse(self.path, f"is no glTF file: {problem}.") from problem
        asset = gltf.get("asset") if isinstance(gltf, dict) else None
        if not isinstance(asset, dict) or not str(asset.get("version", "")).startswith("2."):
            raise refuse(self.path, "is not glTF 2.0.")
        self.gltf: dict[str, Any] = gltf

    def _unpacked(self, data: bytes) -> bytes:
        """The JSON chunk of a binary file; the binary chunk is kept (glTF 2.0, section 4.4)."""
        text, place = b"", _GLB_HEADER
        while place + 8 <= len(data):
            size, kind = struct.unpack_from("<I4s", data, place)
            chunk = data[place + 8 : place + 8 + size]
            if len(chunk) < size:
                raise refuse(self.path, "ends too early: it is truncated.")
            if kind == b"JSON":
                text = chunk
            elif kind == b"BIN\0":
                self._binary = chunk
            place += 8 + size
        return text

    def items(self, name: str) -> list[dict[str, Any]]:
        found = self.gltf.get(name, [])
        return [item for item in found if isinstance(item, dict)] if isinstance(found, list) else []

    def item(self, name: str, index: object) -> dict[str, Any]:
        found = self.items(name)
        if not isinstance(index, int) or not 0 <= index < len(found):
            raise refuse(self.path, f"refers to {name} {index}, which it does not hold.")
        return found[index]

    def bytes_of(self, uri: str) -> bytes:
        if uri.startswith("data:"):
            try:
                return base64.b64decode(uri.partition(",")[2], validate=False)
            except binascii.Error as problem:
                raise refuse(self.path, f"holds data that cannot be read: {problem}.") from problem
        name = unquote(uri)
        if ":" in uri or Path(name).is_absolute() or ".." in Path(name).parts:
            raise refuse(self.path, f"refers to “{uri}”, which does not lie beside it.")
        return self.file.beside(name).read(MAX_BYTES, "Make it smaller.")

    def _buffer(self, index: int) -> bytes:
        if index not in self._files:
            uri = self.item("buffers", index).get("uri")
            self._files[index] = self.bytes_of(str(uri)) if uri is not None else self._binary
        return self._files[index]

    def view(self, index: object) -> bytes:
        """The bytes of a buffer view."""
        view = self.item("bufferViews", index)
        start, size = int(view.get("byteOffset", 0)), int(view.get("byteLength", 0))
        data = self._buffer(int(view.get("buffer", 0)))
        if start < 0 or size < 0 or start + size > len(data):
            raise refuse(self.path, "ends too early: its buffers are shorter than it says.")
        return data[start : start + size]

    def accessor(self, index: object) -> NDArray[np.float64]:
        """An accessor's values as (count, width) or (count,) floats; normalised integers become 0–1 or −1–1."""
        accessor = self.item("accessors", index)
        kind, count = accessor.get("componentType"), int(accessor.get("count", 0))
        width = _WIDTHS.get(str(accessor.get("type")))
        if kind not in _TYPES or width is None or not 0 <= count * width <= _MAX_NUMBERS:
            raise refuse(self.path, f"holds accessor {index}, of a kind that cannot be read.")
        self._numbers += count * width
        if self._numbers > _MAX_NUMBERS:
            raise refuse(self.path, f"holds more than {_MAX_NUMBERS // 1_000_000} million numbers.")
        if accessor.get("bufferView") is None:
            values = np.zeros((count, width))
        else:
            values = self._values(accessor["bufferView"], int(accessor.get("byteOffset", 0)), kind, count, width)
        if isinstance(accessor.get("sparse"), dict):
            sparse = accessor["sparse"]
            number = int(sparse["count"])
            if not 0 <= number <= count:
                raise refuse(self.path, f"holds accessor {index}, of a kind that cannot be read.")
            where = sparse["indices"]
            places = self._values(
                where["bufferView"], int(where.get("byteOffset", 0)), where["componentType"], number, 1
            )
            given = sparse["values"]
            patch = self._values(given["bufferView"], int(given.get("byteOffset", 0)), kind, number, width)
            values[places[:, 0].astype(int)] = patch
        if accessor.get("normalized") and kind != 5126:
            values = np.maximum(values / np.iinfo(np.dtype(_TYPES[kind])).max, -1.0)
        return values[:, 0] if width == 1 else values

    def _values(self, view: object, offset: int, kind: int, count: int, width: int) -> NDArray[np.float64]:
        data = self.view(view)
        kind_ = np.dtype(_TYPES[kind])
        step = int(self.item("bufferViews", view).get("byteStride", 0)) or kind_.itemsize * width
        if count and (offset < 0 or step <= 0 or offset + step * (count - 1) + kind_.itemsize * width > len(data)):
            raise refuse(self.path, "ends too early: its buffers are shorter than it says.")
        rows = np.ndarray((count, width), kind_, data, offset, (step, kind_.itemsize))
        return rows.astype(np.float64)
