"""Sound files, decoded to 48 kHz stereo."""

from typing import Any

import av
import av.error
import numpy as np

from ...motion.sound import RATE
from ..contents import SoundInfo, SoundRead
from ..errors import FileError
from .source import Source

_FORMATS = "wav,w64,aiff,flac,ogg,mp3,mov,mp4,m4a,3gp,3g2,mj2,matroska,webm"
"""A playlist in a sound's clothes is none of them: it would fetch other files."""
MAX_SECONDS = 1800.0
_REMEDY = "Write it anew as WAV or FLAC, or choose another sound."
_ERRORS = (av.error.FFmpegError, OSError, ValueError, LookupError, ArithmeticError, TypeError, AttributeError)


def probe_sound(file: Source) -> SoundInfo:
    """How long it is."""
    try:
        with _opened(file) as container:
            stream = container.streams.audio[0]
            seconds = float(stream.duration * stream.time_base) if stream.duration else (container.duration or 0) / 1e6
        if seconds <= 0.0:
            seconds = len(_decoded(file)) / RATE
    except IndexError as problem:
        raise FileError(file.path, "has no sound in it.", "Choose another file.") from problem
    except _ERRORS as problem:
        raise FileError(file.path, f"could not be read as a sound: {problem}.", _REMEDY) from problem
    if not 0.0 < seconds <= MAX_SECONDS:
        what = "is empty." if seconds <= 0.0 else f"is longer than {MAX_SECONDS / 60:.0f} minutes."
        raise FileError(file.path, what, "Choose another sound, or cut it shorter.")
    return SoundInfo(seconds)


def read_sound(file: Source) -> SoundRead:
    """All of its samples."""
    try:
        samples = _decoded(file)
    except IndexError as problem:
        raise FileError(file.path, "has no sound in it.", "Choose another file.") from problem
    except _ERRORS as problem:
        raise FileError(file.path, f"could not be read as a sound: {problem}.", _REMEDY) from problem
    if not len(samples):
        raise FileError(file.path, "is empty.", "Choose another sound.")
    return SoundRead(samples)


def _opened(file: Source) -> Any:
    return av.open(file.open(), options={"format_whitelist": _FORMATS, "protocol_whitelist": ""})


def _decoded(file: Source) -> Any:
    """Samples (N, 2) int16."""
    with _opened(file) as container:
        stream = container.streams.audio[0]
        stream.thread_type = "AUTO"
        resampler = av.AudioResampler(format="s16", layout="stereo", rate=RATE)
        pieces: list[Any] = []
        count = 0

        def take(frames: Any) -> None:
            nonlocal count
            for made in frames:
                piece = made.to_ndarray().reshape(-1, 2)
                pieces.append(piece)
                count += len(piece)
            if count > MAX_SECONDS * RATE:
                raise ValueError(f"it is longer than {MAX_SECONDS / 60:.0f} minutes")

        for frame in container.decode(stream):
            take(resampler.resample(frame))
        take(resampler.resample(None))
    return np.concatenate(pieces) if pieces else np.zeros((0, 2), np.int16)
