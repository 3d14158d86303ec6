"""Writes frames as files: numbered, or a single one."""

import contextlib
import os
import shutil
from collections.abc import Callable
from fractions import Fraction
from functools import lru_cache
from pathlib import Path
from typing import Any, NamedTuple

import av
import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageCms, PngImagePlugin

from ..files.sessions import Session
from ..process.client import DrawnFrame
from .job import ExportJob
from .passes import write_exr


class Tags(NamedTuple):
    """What is told in files besides their pixels: the names of the scene's nodes, in order, and frames a second."""

    names: tuple[str, ...]
    rate: Fraction


@lru_cache(maxsize=1)
def srgb_profile() -> bytes:
    """A colour profile for sRGB."""
    return ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()


def channels(pixels: NDArray[Any], job: ExportJob) -> NDArray[Any]:
    """What a file holds of pixels (H, W, 4): (H, W, 3), or 4 with straight alpha, as bytes or 16-bit numbers."""
    pixels = pixels if job.clear else pixels[..., :3]
    if job.numbers == "16":
        pixels = (np.clip(pixels, 0.0, 1.0) * 65_535.0 + 0.5).astype(np.uint16)
    return np.ascontiguousarray(pixels)


def _png(path: Path, drawn: DrawnFrame, job: ExportJob, tags: Tags) -> None:
    pixels = channels(drawn.pixels, job)
    if pixels.dtype == np.uint8:
        chunks = PngImagePlugin.PngInfo()
        chunks.add(b"sRGB", b"\0")
        Image.fromarray(pixels).save(path, compress_level=3, pnginfo=chunks)
        return
    encoder = av.CodecContext.create("png", "w")
    encoder.width, encoder.height = job.size
    encoder.pix_fmt = "rgba64be" if job.clear else "rgb48be"
    encoder.time_base = 1
    frame = av.VideoFrame.from_ndarray(pixels, format=encoder.pix_fmt)
    # BT.709 primaries and the transfer of sRGB (ISO/IEC 23091-2), full range.
    # Its pixels are square: without that its header says 0 to 1.
    encoder.sample_aspect_ratio = Fraction(1)
    frame.color_primaries, frame.color_trc, frame.colorspace, frame.color_range = 1, 13, 0, 2
    encoder.color_primaries, encoder.color_trc, encoder.colorspace, encoder.color_range = 1, 13, 0, 2
    path.write_bytes(b"".join(bytes(packet) for each in (frame, None) for packet in encoder.encode(each)))


def _tiff(path: Path, drawn: DrawnFrame, job: ExportJob, tags: Tags) -> None:
    import tifffile

    extra = ["unassalpha"] if job.clear else None
    tifffile.imwrite(
        path, channels(drawn.pixels, job), photometric="rgb", extrasamples=extra, iccprofile=srgb_profile(),
        compression="zlib", metadata=None,
    )  # fmt: skip


def _jpeg(path: Path, drawn: DrawnFrame, job: ExportJob, tags: Tags) -> None:
    quality = round(20.0 + 0.78 * job.quality)
    Image.fromarray(channels(drawn.pixels, job)).save(
        path,
        "JPEG",
        quality=quality,
        subsampling=0 if job.quality >= 50.0 else 2,
        icc_profile=srgb_profile(),
        optimize=True,
    )


def _webp(path: Path, drawn: DrawnFrame, job: ExportJob, tags: Tags) -> None:
    lossless = job.quality >= 100.0
    Image.fromarray(channels(drawn.pixels, job)).save(
        path, "WEBP", lossless=lossless, quality=round(20.0 + 0.8 * job.quality), exact=True, icc_profile=srgb_profile()
    )


def _exr(path: Path, drawn: DrawnFrame, job: ExportJob, tags: Tags) -> None:
    write_exr(path, drawn, job.numbers == "half", tags.names, tags.rate)


_WRITERS: dict[str, Callable[[Path, DrawnFrame, ExportJob, Tags], None]] = {
    "png": _png, "tiff": _tiff, "exr": _exr, "jpeg": _jpeg, "webp": _webp,
}  # fmt: skip


def write_frame(path: Path, drawn: DrawnFrame, job: ExportJob, tags: Tags) -> None:
    """Write one frame as its job has it."""
    _WRITERS[job.kind.name](path, drawn, job, tags)


class Frames:
    """Writes frames into a hidden folder beside their place, and moves them there when all are written."""

    def __init__(self, job: ExportJob, tags: Tags, session: Session) -> None:
        self.job, self._tags, self._session = job, tags, session
        self.folder = job.path.parent / f".frames.{session.token}.partial"

    def begin(self) -> None:
        self._session.begin(self.folder)
        self.folder.mkdir(mode=0o700)

    def add(self, frame: float, drawn: DrawnFrame) -> None:
        write_frame(self.folder / self.job.frame_path(frame).name, drawn, self.job, self._tags)

    def finish(self) -> None:
        for frame in self.job.frames:
            target = self.job.frame_path(frame)
            os.replace(self.folder / target.name, target)

    def abandon(self) -> None:
        shutil.rmtree(self.folder, ignore_errors=True)
        self._session.end(self.folder)


class FramesOneByOne:
    """Puts each frame in its place as soon as it is whole, and tells ``placed``; what was there stays until then."""

    def __init__(self, job: ExportJob, tags: Tags, session: Session, placed: Callable[[float], None]) -> None:
        self._job, self._tags, self._session, self._placed = job, tags, session, placed
        self._folder = job.path.parent / f".frames.{session.token}.partial"

    def begin(self) -> None:
        self._session.begin(self._folder)
        self._folder.mkdir(mode=0o700)

    def add(self, frame: float, drawn: DrawnFrame) -> None:
        target = self._job.frame_path(frame)
        partial = self._folder / target.name
        write_frame(partial, drawn, self._job, self._tags)
        os.replace(partial, target)
        self._placed(frame)

    def finish(self) -> None: ...

    def abandon(self) -> None:
        with contextlib.suppress(OSError):
            shutil.rmtree(self._folder)
        self._session.end(self._folder)
