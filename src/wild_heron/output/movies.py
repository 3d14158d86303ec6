"""Movies, encoded into a partial file that is renamed at the end."""

import contextlib
import os
from bisect import bisect_left
from fractions import Fraction
from itertools import pairwise
from typing import Any

import av
import av.error
import numpy as np
from av.video.frame import PictureType
from numpy.typing import NDArray

from ..files.errors import FileError, why
from ..files.sessions import Session
from ..motion.sound import Track
from ..process.client import DrawnFrame
from ..scene import Marker, Rate
from .gif import GifEncoder
from .job import ExportJob
from .kinds import Codec, Depth
from .soundtrack import Soundtrack

_FORMATS = {".mp4": "mp4", ".webm": "webm", ".mkv": "matroska", ".webp": "webp", ".apng": "apng"}
_EXACT = {"fflags": "+bitexact"}
"""No random numbers and no moment of writing: the same film is the same bytes."""
_OPTIONS = {
    ".mp4": {"movflags": "+faststart"},
    ".webp": {"loop": "0"},
    ".apng": {"plays": "0"},
    ".mkv": _EXACT,
    ".webm": _EXACT,
}


def factor(codec: Codec, quality: float) -> float:
    """An encoder's rate factor for a quality from 0 to 100."""
    assert codec.factors is not None
    low, high = codec.factors
    return low + (high - low) * quality / 100.0


def encoder_options(codec: Codec, quality: float, clear: bool) -> dict[str, str]:
    """What an encoder is told."""
    match codec.encoder:
        case "libx264":
            # Measured on frames of the demo: a quarter smaller than fast presets at the same error, for 1 to 2 in a
            # hundred of what a frame costs that goes out.
            return {"crf": f"{factor(codec, quality):.1f}", "preset": "medium", "forced-idr": "1"}
        case "libsvtav1":
            return {"crf": f"{factor(codec, quality):.0f}", "preset": "6"}
        case "libvpx-vp9":
            options = {"crf": f"{factor(codec, quality):.0f}", "b": "0", "deadline": "good", "cpu-used": "4",
                       "row-mt": "1"}  # fmt: skip
            return options | {"auto-alt-ref": "0"} if clear else options
        case "ffv1":
            return {"level": "3", "slices": "4", "slicecrc": "1", "g": "1"}
        case "libwebp_anim":
            lossless = quality >= 100.0
            return {
                "lossless": "1" if lossless else "0",
                "quality": f"{75.0 if lossless else factor(codec, quality):.0f}",
            }
    return {}


def pixel_format(codec: Codec, clear: bool, depth: Depth = "8") -> str:
    """FFmpeg's name of how a movie holds its pixels."""
    plain, with_alpha = {
        ("ffv1", "8"): ("bgr0", "bgra"),
        ("ffv1", "16"): ("gbrp16le", "gbrap16le"),
        ("libwebp_anim", "8"): ("bgra", "bgra"),
        ("apng", "8"): ("rgb24", "rgba"),
        ("apng", "16"): ("rgb48be", "rgba64be"),
        ("libsvtav1", "10"): ("yuv420p10le", "yuv420p10le"),
    }.get((codec.encoder, depth), ("yuv420p", "yuva420p"))
    return with_alpha if clear else plain


def as_video_frame(pixels: NDArray[Any], codec: Codec, clear: bool, depth: Depth = "8") -> av.VideoFrame:
    """A frame (H, W, 4), of bytes or of numbers from 0 to 1, as an encoder takes it."""
    layout = pixel_format(codec, clear, depth)
    deep = pixels.dtype != np.uint8
    if deep:
        pixels = (np.clip(pixels, 0.0, 1.0) * 65_535.0 + 0.5).astype(np.uint16)
    if not clear:
        pixels = pixels.copy()
        pixels[..., 3] = 65_535 if deep else 255
    picture = av.VideoFrame.from_ndarray(np.ascontiguousarray(pixels), format="rgba64le" if deep else "rgba")
    if layout.startswith("yuv"):
        return picture.reformat(format=layout, dst_colorspace="ITU709", dst_color_range="MPEG")
    return picture.reformat(format=layout)


def chapters_of(markers: tuple[Marker, ...], frames: tuple[float, ...], rate: Fraction) -> list[dict[str, Any]]:
    """The chapters of a movie, from markers in it that begin one, as FFmpeg has them."""
    if not _is_forward(frames):
        return []
    begins = [(marker.name, bisect_left(frames, marker.frame)) for marker in markers if marker.kind == "chapter"]
    found = [(name, first) for name, first in begins if first < len(frames)]
    # Two at one frame: the later one.
    found = [each for k, each in enumerate(found) if k + 1 == len(found) or found[k + 1][1] > each[1]]
    return [
        {
            "id": k + 1, "start": first, "end": found[k + 1][1] if k + 1 < len(found) else len(frames),
            "time_base": 1 / rate, "metadata": {"title": name},
        }
        for k, (name, first) in enumerate(found)
    ]  # fmt: skip


def _is_forward(frames: tuple[float, ...]) -> bool:
    return all(earlier <= later for earlier, later in pairwise(frames))


class MovieWriter:
    """Encodes into a partial file beside the movie."""

    def __init__(
        self, job: ExportJob, scene_rate: Rate, tracks: list[Track], markers: tuple[Marker, ...], session: Session,
        cuts: tuple[float, ...] = (),
    ) -> None:  # fmt: skip
        """``cuts``: the frames at which what is seen changes from one to the next."""
        self._job, self._session = job, session
        self._codec = job.encoding
        self._rate = rate = job.rate or scene_rate.fraction
        self._scene_rate, self._markers = scene_rate, markers
        self._tracks = tracks if self._codec.sound is not None else []
        self._sound: Soundtrack | None = None
        suffix = job.path.suffix.lower()
        self._partial = job.path.with_name(f".{job.path.stem[:200]}.{session.token}.partial{suffix}")
        self._open = False
        self._count = 0
        self._time_base = 1 / rate
        self._gif = GifEncoder(job.size, rate) if self._codec.encoder == "gif" else None
        # Players go to a key frame, and encoders waste much where there is none at a cut.
        begins = [*cuts, *(marker.frame for marker in markers if marker.kind == "chapter")]
        self._keys = {bisect_left(job.frames, each) for each in begins} if _is_forward(job.frames) else set()

    def begin(self) -> None:
        job, codec = self._job, self._codec
        suffix = job.path.suffix.lower()
        # One of the encoders says much on standard error unless it is told otherwise.
        os.environ.setdefault("SVT_LOG", "1")
        self._session.begin(self._partial)
        try:
            # Made here, so that what is written to is nobody else's file or link.
            os.close(os.open(self._partial, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o666))
            if self._gif is not None:
                self._partial.write_bytes(self._gif.begin())
                return
            options = _OPTIONS.get(suffix, {})
            self._container = av.open(str(self._partial), "w", format=_FORMATS[suffix], options=options)
            clear = job.clear
            self._stream = self._container.add_stream(
                codec.encoder, rate=self._rate, options=encoder_options(codec, job.quality, clear)
            )
        except (OSError, av.error.FFmpegError) as error:
            what = why(error) if isinstance(error, OSError) else f"{error}."
            raise FileError(job.path, f"could not be begun: {what}", "Choose another place.") from error
        self._stream.width, self._stream.height = job.size
        self._stream.pix_fmt = pixel_format(codec, clear, job.numbers)
        context = self._stream.codec_context
        if self._stream.pix_fmt.startswith("yuv"):
            # Tagged as BT.709, limited range, so that players show the colours that were drawn.
            context.color_primaries = context.color_trc = context.colorspace = 1
            context.color_range = 1
        elif codec.encoder == "ffv1":
            # RGB with BT.709 primaries and the transfer of sRGB (ISO/IEC 23091-2: 1, 13, 0), full range.
            context.color_primaries, context.color_trc, context.colorspace, context.color_range = 1, 13, 0, 2
        chapters = chapters_of(self._markers, job.frames, self._rate)
        if chapters and suffix in (".mp4", ".mkv", ".webm"):
            self._container.set_chapters(chapters)
        if self._tracks and codec.sound is not None:
            self._sound = Soundtrack(
                self._container, codec.sound, self._tracks, job.frames, self._scene_rate, self._rate
            )
        self._open = True

    def add(self, frame: float, drawn: DrawnFrame) -> None:
        if self._gif is not None:
            self._append(self._gif.add(drawn.pixels))
            return
        picture = as_video_frame(drawn.pixels, self._codec, self._job.clear, self._job.numbers)
        if self._count in self._keys:
            picture.pict_type = PictureType.I
        picture.pts, picture.time_base = self._count, self._time_base
        self._count += 1
        for packet in self._stream.encode(picture):
            self._container.mux(packet)
        if self._sound is not None:
            self._sound.up_to(self._count)

    def _append(self, data: bytes) -> None:
        with self._partial.open("ab") as file:
            file.write(data)

    def finish(self) -> None:
        if self._gif is not None:
            self._append(self._gif.finish())
        else:
            for packet in self._stream.encode():
                self._container.mux(packet)
            if self._sound is not None:
                self._sound.finish()
            self._close()
        with self._partial.open("rb") as written:
            os.fsync(written.fileno())
        os.replace(self._partial, self._job.path)

    def _close(self) -> None:
        if self._open:
            self._open = False
            self._container.close()

    def abandon(self) -> None:
        # It is thrown away; why it was given up is reported already.
        with contextlib.suppress(OSError, av.error.FFmpegError):
            self._close()
        self._partial.unlink(missing_ok=True)
        self._session.end(self._partial)
