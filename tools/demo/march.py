"""The march of the Lantern Fair, made from sines and noise: ``python -m demo.march``.

144 beats a minute, so that a beat takes ten frames at 24 a second and a bar of four takes forty; twelve bars.
"""

from pathlib import Path

import av
import numpy as np
from numpy.typing import NDArray

from wild_heron.demo import DEMO_SCENE

RATE = 48_000
TEMPO = 144.0
BEAT = 60.0 / TEMPO
BARS = 12
ROLL = 7
"""The bar, from 0, whose second half is a drum roll."""
MARCH = DEMO_SCENE.with_name("art") / "march.ogg"

_Sound = NDArray[np.float64]
# Half tones from the A below the middle C, a beat each; None is a rest.
_TUNE = (
    (3, 7, 10, 7), (12, None, 10, 7), (5, 8, 12, 8), (10, None, 7, None),
    (3, 7, 10, 7), (15, None, 12, 10), (8, 7, 5, 2), (3, None, 3, None),
)  # fmt: skip
_BASS = (3, 3, -4, -2, 3, 0, -2, 3)


def _seconds(length: float) -> _Sound:
    return np.arange(round(length * RATE)) / RATE


def _drum(low: float, drop: float, length: float) -> _Sound:
    t = _seconds(length)
    return np.sin(2.0 * np.pi * (low * t + drop / 30.0 * (1.0 - np.exp(-30.0 * t)))) * np.exp(-14.0 * t)


def _snare(chance: np.random.Generator, length: float = 0.16) -> _Sound:
    t = _seconds(length)
    return (0.8 * chance.normal(size=len(t)) + 0.5 * np.sin(2 * np.pi * 196.0 * t)) * np.exp(-26.0 * t) * 0.6


def _horn(note: float, length: float) -> _Sound:
    """A few harmonics that open and close."""
    t = _seconds(length)
    pitch = 220.0 * 2.0 ** (note / 12.0) * (1.0 + 0.003 * np.sin(2.0 * np.pi * 5.2 * t))
    phase = 2.0 * np.pi * np.cumsum(pitch) / RATE
    shape = np.minimum(t / 0.025, 1.0) * np.clip((length - t) / 0.06, 0.0, 1.0) * np.exp(-1.2 * t)
    return shape * sum(np.sin(k * phase) / k ** (1.1 + 0.5 * t) for k in range(1, 7))


def _bell(note: float) -> _Sound:
    t = _seconds(0.8)
    pitch = 880.0 * 2.0 ** (note / 12.0)
    return (np.sin(2 * np.pi * pitch * t) + 0.4 * np.sin(2 * np.pi * 2.76 * pitch * t)) * np.exp(-6.0 * t)


def march() -> _Sound:
    """Samples (N,) between −1 and 1."""
    chance = np.random.default_rng(144)
    out = np.zeros(round(BARS * 4 * BEAT * RATE))

    def put(at: float, sound: _Sound, loud: float) -> None:
        start = round(at * BEAT * RATE)
        end = min(start + len(sound), len(out))
        out[start:end] += loud * sound[: end - start]

    for bar in range(BARS):
        rolls = bar == ROLL
        for beat in range(4):
            at = 4.0 * bar + beat
            if beat % 2 == 0:
                put(at, _drum(52.0, 150.0, 0.32), 0.95 if beat == 0 else 0.7)
                put(at, _horn(_BASS[bar % 8] - 12, 0.8 * BEAT), 0.16)
            elif not rolls:
                put(at, _snare(chance), 0.42)
                put(at + 0.5, _snare(chance, 0.07), 0.14)
            note = _TUNE[bar % 8][beat]
            if note is not None and not rolls:
                put(at, _horn(note, 0.92 * BEAT), 0.13)
                if bar >= 4:
                    put(at, _bell(note), 0.05)
        if rolls:
            for k in range(32):
                put(4.0 * bar + k / 8.0, _snare(chance, 0.06), 0.12 + 0.3 * k / 32.0)
    fade = np.minimum(1.0, (len(out) - np.arange(len(out))) / (0.9 * RATE))
    out *= fade
    return 0.86 * np.tanh(1.2 * out / np.abs(out).max())


def write(path: Path, sound: _Sound | None = None) -> None:
    """The march, or another sound (N,), as an Ogg Opus file."""
    with av.open(str(path), "w") as container:
        stream = container.add_stream("libopus", rate=RATE)
        stream.bit_rate = 72_000
        stream.layout = "mono"
        samples = (march() if sound is None else sound).astype(np.float32)[None]
        for start in range(0, samples.shape[1], 960):
            frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(samples[:, start : start + 960]), "flt", "mono")
            frame.sample_rate, frame.pts = RATE, start
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))


if __name__ == "__main__":
    write(MARCH)
