"""A cache of the scene's decoded sound: samples and waveform outlines."""

from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QObject, pyqtSignal

from ...arrays import Array
from ...motion.sound import OUTLINE, RATE, Samples, Track
from ...scene import Scene


class AudioCache(QObject):
    """By the file that a sound comes from. Whoever reads sounds fills it in."""

    changed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.samples: dict[str, Samples] = {}
        self.outlines: dict[str, NDArray[np.float32]] = {}
        self.problems: dict[str, str] = {}
        self.base: Path | None = None

    def tracks(self, scene: Scene) -> list[Track]:
        """The sounds that are on, as far as they have been read."""
        there = self.samples
        return [Track(each, there[each.source]) for each in scene.sounds if each.on and each.source in there]

    def loudness(self, scene: Scene, frames: Array) -> NDArray[np.float32]:
        """How loud it is at its loudest from each frame to the next one, (N − 1,) between 0 and 1."""
        out = np.zeros(max(len(frames) - 1, 0), np.float32)
        fps = scene.settings.rate.fps
        for sound in scene.sounds:
            outline = self.outlines.get(sound.source)
            if outline is None or not len(outline) or not sound.on:
                continue
            begins = sound.start / fps - sound.skip
            edges = np.floor((frames / fps - begins) * RATE / OUTLINE).astype(np.int64)
            first = int(sound.skip * RATE / OUTLINE)
            inside = (edges[1:] > first) & (edges[:-1] < len(outline))
            low = np.clip(edges[:-1], first, len(outline) - 1)
            high = np.clip(np.maximum(edges[1:], low + 1), 1, len(outline))
            if inside.any():
                # The loudest of each stretch; reduceat wants rising pairs, of which every second is what is asked.
                pairs = np.stack([low[inside], np.minimum(high[inside], len(outline) - 1)], axis=1).ravel()
                loud = np.maximum.reduceat(outline, pairs)[::2]
                out[inside] = np.maximum(out[inside], loud * 10.0 ** (sound.gain / 20.0))
        return np.clip(out, 0.0, 1.0)
