"""Sounds that tests make: clicks and drums with noise and a drift of their tempo, as WAV files."""

import wave
from itertools import pairwise
from pathlib import Path

import numpy as np

RATE = 48_000


def beat_times(tempo: float, seconds: float, drift: float = 0.0, start: float = 0.3) -> np.ndarray:
    """The moments of beats whose tempo drifts by a share to and fro."""
    times, at = [], start
    while at < seconds - 0.4:
        times.append(at)
        at += 60.0 / (tempo * (1.0 + drift * np.sin(2.0 * np.pi * at / seconds)))
    return np.array(times)


def _put(out: np.ndarray, at: float, sound: np.ndarray) -> None:
    start = round(at * RATE)
    end = min(start + len(sound), len(out))
    out[start:end] += sound[: end - start]


def clicks(tempo: float, seconds: float, drift: float = 0.0, noise: float = 0.0) -> np.ndarray:
    """A click on every beat."""
    out = np.zeros(round(seconds * RATE))
    t = np.arange(round(0.05 * RATE)) / RATE
    for at in beat_times(tempo, seconds, drift):
        _put(out, at, 0.8 * np.sin(2 * np.pi * 1000.0 * t) * np.exp(-t * 120.0))
    return out + np.random.default_rng(1).normal(size=len(out)) * noise


def _kit(chance: np.random.Generator) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """A bass drum, a snare and a cymbal."""
    t = np.arange(round(0.18 * RATE)) / RATE
    kick = np.sin(2 * np.pi * (50.0 * t + 3.0 * (1.0 - np.exp(-30.0 * t)))) * np.exp(-t * 18.0)
    snare = 0.7 * (0.7 * chance.normal(size=len(t)) + np.sin(2 * np.pi * 190.0 * t)) * np.exp(-t * 22.0)
    short = t[: round(0.05 * RATE)]
    hat = 0.35 * np.diff(chance.normal(size=len(short) + 1)) * np.exp(-short * 90.0)
    return kick, snare, hat


def drums(tempo: float, seconds: float, drift: float = 0.0, noise: float = 0.0) -> np.ndarray:
    """Bass drum and snare in turn, with a cymbal on every half beat."""
    chance = np.random.default_rng(round(tempo))
    out = np.zeros(round(seconds * RATE))
    kick, snare, hat = _kit(chance)
    times = beat_times(tempo, seconds, drift)
    for k, at in enumerate(times):
        _put(out, at, kick if k % 2 == 0 else snare)
        _put(out, at, hat)
        if k + 1 < len(times):
            _put(out, 0.5 * (at + times[k + 1]), hat)
    return 0.5 * out + chance.normal(size=len(out)) * noise


def rock(tempo: float, seconds: float, drift: float = 0.0, noise: float = 0.0) -> np.ndarray:
    """Syncopated: bass drum on 1, the half after 2 and the half after 4, snare on 3 and 4, a cymbal on every half."""
    chance = np.random.default_rng(round(tempo))
    out = np.zeros(round(seconds * RATE))
    kick, snare, hat = _kit(chance)
    times = beat_times(tempo, seconds, drift)
    halves = [each for a, b in pairwise(times) for each in (a, 0.5 * (a + b))]
    for k, at in enumerate(halves):
        _put(out, at, hat)
        if k % 8 in (0, 3, 7):
            _put(out, at, kick)
        elif k % 8 in (4, 6):
            _put(out, at, snare)
    return 0.5 * out + chance.normal(size=len(out)) * noise


def chance_hits(seconds: float, count: int, seed: int) -> np.ndarray:
    """Short tones at moments that are left to chance."""
    out = np.zeros(round(seconds * RATE))
    t = np.arange(round(0.05 * RATE)) / RATE
    for at in np.random.default_rng(seed).uniform(0.0, seconds - 0.5, count):
        _put(out, at, np.sin(2 * np.pi * 800.0 * t) * np.exp(-t * 100.0))
    return out


def write_wave(path: Path, samples: np.ndarray) -> None:
    """Samples (N,) between −1 and 1 as a 16-bit file."""
    with wave.open(str(path), "wb") as file:
        file.setnchannels(1)
        file.setsampwidth(2)
        file.setframerate(RATE)
        file.writeframes((np.clip(samples, -1.0, 1.0) * 32767.0).astype("<i2").tobytes())
