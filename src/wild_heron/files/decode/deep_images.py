"""Pictures of more than eight bits a channel that Pillow does not read: OpenEXR, and TIFF in 16-bit colour."""

import os
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...arrays import Pixels
from ...colour import to_display
from ..contents import PictureInfo
from ..errors import FileError
from ..extras import needing
from ..stand_in import fitted
from .source import Source

_EXR_REMEDY = "Write it anew as a flat EXR with R, G, B and, where there is one, A."
_MAX_EXR_PIXELS = 40_000_000
_MAX_EXR_BYTES = 512 * 1024 * 1024
_ROWS = 256


def size(file: Source) -> PictureInfo:
    """Width and height of an EXR picture's display window. FileError where it is none, or too large."""
    with _opened(file, header_only=True) as exr:
        return PictureInfo(*_window(file, exr.header(), "displayWindow"))


def _window(file: Source, header: dict[str, Any], name: str) -> tuple[int, int]:
    low, high = header[name]
    width, height = int(high[0]) - int(low[0]) + 1, int(high[1]) - int(low[1]) + 1
    if not (0 < width <= 32_768 and 0 < height <= 32_768 and width * height <= _MAX_EXR_PIXELS):
        raise FileError(
            file.path,
            f"is {width} × {height} pixels ({name}), too large.",
            f"EXR up to {_MAX_EXR_PIXELS // 1_000_000} megapixels works.",
        )
    return width, height


def read(file: Source, width: int | None, limit: int) -> Pixels:
    """An EXR picture (H, W, 4), no side longer than ``limit``; see ``read_exr``."""
    return fitted(read_exr(file), limit)


def read_exr(file: Source) -> Pixels:
    """The display window as (H, W, 4) uint8, premultiplied, in display values; brighter than white is clipped."""
    return _by_rows(file, _shown, np.zeros((0, 4), np.uint8))


def exr_light(file: Source) -> NDArray[np.float32]:
    """The display window as (H, W, 4) of linear light, premultiplied, as bright as it is."""
    return _by_rows(file, _light, np.zeros((0, 4), np.float32))


def _by_rows(file: Source, made: Callable[[dict[str, NDArray[Any]]], NDArray[Any]], kind: NDArray[Any]) -> NDArray[Any]:
    """The display window made of its channels, a few rows at a time."""
    with _opened(file, header_only=True) as exr:
        width, height = _window(file, exr.header(), "displayWindow")
        _window(file, exr.header(), "dataWindow")
    with _opened(file, header_only=False) as exr:
        low, _ = exr.header()["dataWindow"]
        origin, _ = exr.header()["displayWindow"]
        channels = {name: np.asarray(channel.pixels) for name, channel in exr.channels().items()}
    if "Y" in channels:
        channels |= dict.fromkeys("RGB", channels["Y"])
    if not {"R", "G", "B"} <= channels.keys():
        raise FileError(file.path, f"has no R, G and B channels ({', '.join(channels) or 'none'}).", _EXR_REMEDY)
    out = np.zeros((height, width, 4), kind.dtype)
    rows, columns = channels["R"].shape[:2]
    x, y = int(low[0] - origin[0]), int(low[1] - origin[1])
    left, right = max(0, x), min(width, x + columns)
    for start in range(max(0, -y), min(rows, height - y), _ROWS):
        end = min(start + _ROWS, rows, height - y)
        if left < right:
            block = made({name: part[start:end, left - x : right - x] for name, part in channels.items()})
            out[y + start : y + end, left:right] = block
    return out


def _light(channels: dict[str, NDArray[Any]]) -> NDArray[np.float32]:
    red = channels["R"].astype(np.float32)
    alpha = np.clip(np.nan_to_num(channels["A"].astype(np.float32) if "A" in channels else np.ones_like(red)), 0.0, 1.0)
    colour = np.nan_to_num(np.stack([channels[c].astype(np.float32) for c in "RGB"], axis=-1), posinf=1e4)
    # What is there without covering anything has nothing to be mixed by.
    colour = np.clip(colour, 0.0, 1e4) * (alpha[..., None] > 0.0)
    return np.concatenate([colour, alpha[..., None]], axis=-1)


def _shown(channels: dict[str, NDArray[Any]]) -> Pixels:
    """Linear light as display values, premultiplied. EXR colour is premultiplied; display values are after encoding."""
    red = channels["R"].astype(np.float32)
    alpha = np.clip(np.nan_to_num(channels["A"].astype(np.float32) if "A" in channels else np.ones_like(red)), 0.0, 1.0)
    colour = np.nan_to_num(np.stack([channels[c].astype(np.float32) for c in "RGB"], axis=-1), posinf=1e4)
    cover = np.maximum(alpha, 1e-6)[..., None]
    shown = to_display(np.clip(colour / cover, 0.0, 1.0)) * alpha[..., None]
    return (np.concatenate([shown, alpha[..., None]], axis=-1) * 255.0 + 0.5).astype(np.uint8)


@contextmanager
def _opened(file: Source, header_only: bool) -> Iterator[Any]:
    with needing():
        import OpenEXR

    # The library takes names only, and the file's own may not be opened from here.
    data = file.read(_MAX_EXR_BYTES, _EXR_REMEDY)
    copy = os.memfd_create("exr")
    try:
        with os.fdopen(os.dup(copy), "wb") as out:
            out.write(data)
        del data
        yield OpenEXR.File(f"/proc/self/fd/{copy}", separate_channels=True, header_only=header_only)
    except FileError:
        raise
    except Exception as problem:  # Whatever the library finds wrong, it raises as it pleases.
        raise FileError(file.path, f"could not be read as EXR: {problem}.", _EXR_REMEDY) from problem
    finally:
        os.close(copy)


def read_deep(file: Source, most_pixels: int) -> Pixels | None:
    """A TIFF in 16-bit colour as straight (H, W, 4) uint8; None for every other, which Pillow reads."""
    return _decoded(file, "tiff_pipe", "rgba", most_pixels) if _is_sixteen_bit_tiff(file) else None


def sixteen_bits(file: Source, most_pixels: int = _MAX_EXR_PIXELS * 2) -> NDArray[np.uint16] | None:
    """A PNG or TIFF of 16 bits a channel as straight (H, W, 4); None for every other, and for one that lies on its
    side."""
    if file.suffix == ".png" and _is_sixteen_bit_png(file):
        return _decoded(file, "png_pipe", "rgba64le", most_pixels)
    if file.suffix in (".tif", ".tiff") and _is_sixteen_bit_tiff(file):
        return _decoded(file, "tiff_pipe", "rgba64le", most_pixels)
    return None


def _decoded(file: Source, kind: str, layout: str, most_pixels: int) -> NDArray[Any] | None:
    import av
    import av.error

    try:
        with av.open(file.open(), options={"format_whitelist": kind, "protocol_whitelist": ""}) as container:
            stream = container.streams.video[0]
            if stream.width * stream.height * 2 > most_pixels:
                raise FileError(
                    file.path, f"is {stream.width} × {stream.height} pixels, too large.", "Make it smaller."
                )
            frame = next(container.decode(stream))
            return np.asarray(frame.to_ndarray(format=layout))
    except (OSError, ValueError, LookupError, StopIteration, av.error.FFmpegError):
        return None


def _is_sixteen_bit_png(file: Source) -> bool:
    """Whether a PNG's header says so, and no other chunk that it has to be turned (ISO/IEC 15948)."""
    with file.open() as stream:
        head = stream.read(1 << 16)
    is_png = head[:8] == b"\x89PNG\r\n\x1a\n" and head[12:16] == b"IHDR"
    return is_png and head[24:25] == b"\x10" and b"eXIf" not in head


def _is_sixteen_bit_tiff(file: Source) -> bool:
    """Whether a TIFF's first directory says 16 bits for three channels or more (TIFF 6.0, tag 258)."""
    with file.open() as stream:
        head = stream.read(8)
        order: Any = {b"II": "little", b"MM": "big"}.get(head[:2])
        if order is None or len(head) < 8:
            return False
        stream.seek(int.from_bytes(head[4:8], order))
        entries = stream.read(2 + 12 * 256)
        for k in range(min(int.from_bytes(entries[:2], order), 256)):
            entry = entries[2 + 12 * k : 14 + 12 * k]
            if int.from_bytes(entry[:2], order) == 258 and int.from_bytes(entry[4:8], order) >= 3:
                stream.seek(int.from_bytes(entry[8:12], order))
                return int.from_bytes(stream.read(2), order) == 16
    return False
