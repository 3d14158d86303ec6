"""EXR frames: linear light, and what lies in each pixel, as layers of one file.

Which nodes are in a pixel is told in the layout of Cryptomatte 1.2 (Friedman and Jones): names hashed by MurmurHash3 to
the bits of a float, ranks in pairs of number and share, and all names in the header.
"""

from fractions import Fraction
from pathlib import Path
from typing import Any

import msgspec
import numpy as np

from ..files.encode.exr import frame_rate, write
from ..gl.aov import Aov, Numbers
from ..process.client import DrawnFrame

_LAYER = "Node"


def write_exr(path: Path, drawn: DrawnFrame, half: bool, names: tuple[str, ...], rate: Fraction) -> None:
    """Write a frame's light, premultiplied, and its passes if it has any, as ``half`` or full floats; one of so many
    frames a second."""
    kind = np.float16 if half else np.float32
    channels: dict[str, Any] = {"RGBA": np.ascontiguousarray(drawn.pixels.astype(kind))}
    header = frame_rate(rate)
    if drawn.aov is not None:
        channels |= passes_of(drawn.aov, names)
        header |= manifest(names)
    write(path, channels, header)


def passes_of(aov: Aov, names: tuple[str, ...]) -> dict[str, Numbers]:
    """The passes' channels by name."""
    out = {
        "depth.Z": aov.depth, "motion.X": aov.motion[..., 0], "motion.Y": aov.motion[..., 1],
    }  # fmt: skip
    ids = np.concatenate([[0.0], [node_number(name) for name in unlike(names)]]).astype(np.float32)
    found = ids[aov.nodes.astype(np.int64)]
    for rank in range(0, aov.nodes.shape[-1], 2):
        for k, (number, share) in enumerate((("R", "G"), ("B", "A"))):
            layer = f"{_LAYER}{rank // 2:02d}"
            out[f"{layer}.{number}"] = found[..., rank + k]
            out[f"{layer}.{share}"] = aov.shares[..., rank + k]
    return {name: np.ascontiguousarray(values, np.float32) for name, values in out.items()}


def manifest(names: tuple[str, ...]) -> dict[str, object]:
    """What the header says of the nodes."""
    key = f"cryptomatte/{murmur3(_LAYER.encode()):08x}"[: len("cryptomatte/") + 7]
    listed = {name: f"{int(np.float32(node_number(name)).view(np.uint32)):08x}" for name in unlike(names)}
    return {
        f"{key}/name": _LAYER,
        f"{key}/hash": "MurmurHash3_32",
        f"{key}/conversion": "uint32_to_float32",
        f"{key}/manifest": msgspec.json.encode(listed).decode(),
    }


def unlike(names: tuple[str, ...]) -> list[str]:
    """Names, those that were there before told apart by a number."""
    seen: dict[str, int] = {}
    out = []
    for name in names:
        seen[name] = seen.get(name, 0) + 1
        out.append(name if seen[name] == 1 else f"{name} ({seen[name]})")
    return out


def node_number(name: str) -> float:
    """A name's number: its hash as the bits of a float that is neither subnormal nor infinite, as the layout has it."""
    bits = murmur3(name.encode())
    exponent = bits >> 23 & 255
    if exponent in (0, 255):
        bits ^= 1 << 23
    return float(np.uint32(bits).view(np.float32))


def murmur3(data: bytes, seed: int = 0) -> int:
    """MurmurHash3, 32 bits (Appleby, public domain)."""

    def scrambled(word: int) -> int:
        word = word * 0xCC9E2D51 & 0xFFFFFFFF
        return (word << 15 | word >> 17) * 0x1B873593 & 0xFFFFFFFF

    value = seed
    whole = len(data) // 4 * 4
    for k in range(0, whole, 4):
        value ^= scrambled(int.from_bytes(data[k : k + 4], "little"))
        value = ((value << 13 | value >> 19) * 5 + 0xE6546B64) & 0xFFFFFFFF
    if rest := data[whole:]:
        value ^= scrambled(int.from_bytes(rest, "little"))
    value ^= len(data)
    for shift, factor in ((16, 0x85EBCA6B), (13, 0xC2B2AE35)):
        value = (value ^ value >> shift) * factor & 0xFFFFFFFF
    return value ^ value >> 16
