"""Pictures of more than eight bits a channel that Pillow does not read: OpenEXR, and TIFF in 16-bit colour."""

from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from .errors import FileError

Pixels = NDArray[np.uint8]

_EXR_REMEDY = "Write it anew as a flat EXR with R, G, B and, where there is one, A."
_MAX_PIXELS = 300_000_000


def encode_srgb(linear: NDArray[np.float32]) -> NDArray[np.float32]:
    """Linear light 0–1 as display values (IEC 61966-2-1)."""
    return np.where(linear <= 0.0031308, linear * 12.92, 1.055 * np.maximum(linear, 1e-9) ** (1 / 2.4) - 0.055)


def exr_size(path: Path) -> tuple[int, int]:
    """Width and height of an EXR picture's display window. FileError where it is none."""
    header = _opened(path, header_only=True).header()
    low, high = header["displayWindow"]
    width, height = int(high[0] - low[0]) + 1, int(high[1] - low[1]) + 1
    if not (0 < width <= 65_536 and 0 < height <= 65_536 and width * height <= _MAX_PIXELS):
        raise FileError(path, f"is {width} × {height} pixels, too large.", "Sides up to 32768 work.")
    return width, height


def read_exr(path: Path) -> Pixels:
    """The display window as (H, W, 4) uint8, premultiplied, in display values; brighter than white is clipped."""
    width, height = exr_size(path)
    file = _opened(path, header_only=False)
    low, _ = file.header()["dataWindow"]
    origin, _ = file.header()["displayWindow"]
    channels = {name: np.asarray(channel.pixels, dtype=np.float32) for name, channel in file.channels().items()}
    if "Y" in channels:
        channels |= dict.fromkeys("RGB", channels["Y"])
    if not {"R", "G", "B"} <= channels.keys():
        raise FileError(path, f"has no R, G and B channels ({', '.join(channels) or 'none'}).", _EXR_REMEDY)
    alpha = np.clip(np.nan_to_num(channels.get("A", np.ones_like(channels["R"]))), 0.0, 1.0)
    colour = np.nan_to_num(np.stack([channels[c] for c in "RGB"], axis=-1), posinf=1e4)
    # EXR colour is linear light and premultiplied; display values are premultiplied after encoding.
    cover = np.maximum(alpha, 1e-6)[..., None]
    shown = encode_srgb(np.clip(colour / cover, 0.0, 1.0)) * alpha[..., None]
    data = (np.concatenate([shown, alpha[..., None]], axis=-1) * 255.0 + 0.5).astype(np.uint8)
    out = np.zeros((height, width, 4), np.uint8)
    x, y = int(low[0] - origin[0]), int(low[1] - origin[1])
    left, top = max(0, x), max(0, y)
    right, bottom = min(width, x + data.shape[1]), min(height, y + data.shape[0])
    if left < right and top < bottom:
        out[top:bottom, left:right] = data[top - y : bottom - y, left - x : right - x]
    return out


def _opened(path: Path, header_only: bool) -> "OpenEXR.File":  # type: ignore[name-defined]  # noqa: F821
    import OpenEXR

    try:
        return OpenEXR.File(str(path), separate_channels=True, header_only=header_only)
    except Exception as problem:  # Whatever the library finds wrong, it raises as it pleases.
        raise FileError(path, f"could not be read as EXR: {problem}.", _EXR_REMEDY) from problem


def read_deep(path: Path) -> Pixels | None:
    """A TIFF in 16-bit colour as straight (H, W, 4) uint8; None for every other, which Pillow reads."""
    import av
    from PIL import Image

    try:
        with Image.open(path) as image:
            # Pillow knows the bits; its mode would say eight, or it refuses them.
            bits: tuple[int, ...] = image.tag_v2.get(258, (8,))  # type: ignore[attr-defined]
            if max(bits) != 16 or len(bits) < 3:
                return None
    except (OSError, SyntaxError, ValueError, AttributeError):
        if not _is_sixteen_bit_tiff(path):
            return None
    try:
        with av.open(str(path)) as container:
            frame = next(container.decode(video=0))
            return np.asarray(frame.to_ndarray(format="rgba"))
    except (OSError, ValueError, StopIteration, av.error.FFmpegError):
        return None


def _is_sixteen_bit_tiff(path: Path) -> bool:
    """Whether a TIFF's first directory says 16 bits for three channels or more (TIFF 6.0, tag 258)."""
    with path.open("rb") as file:
        head = file.read(8)
        order = {b"II": "little", b"MM": "big"}.get(head[:2])
        if order is None or len(head) < 8:
            return False
        file.seek(int.from_bytes(head[4:8], order))  # type: ignore[arg-type]
        entries = file.read(2 + 12 * 256)
        for k in range(min(int.from_bytes(entries[:2], order), 256)):  # type: ignore[arg-type]
            entry = entries[2 + 12 * k : 14 + 12 * k]
            if int.from_bytes(entry[:2], order) == 258 and int.from_bytes(entry[4:8], order) >= 3:  # type: ignore[arg-type]
                file.seek(int.from_bytes(entry[8:12], order))  # type: ignore[arg-type]
                return int.from_bytes(file.read(2), order) == 16  # type: ignore[arg-type]
    return False
