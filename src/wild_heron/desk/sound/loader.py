"""Reads the scene's sounds in the background."""

from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QObject

from ...files.artwork_files import resolve
from ...files.errors import FileError
from ...files.reader import Cancelled
from ...files.sounds import SoundBank
from ...motion.sound import Samples, outline
from ..state.background import Errand
from ..state.document import Document


class SoundLoader(QObject):
    """Keeps ``document.heard`` true to the scene."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        self._wanted: list[tuple[str, Path]] = []
        self._asked: set[tuple[str, Path]] = set()
        self._bank = SoundBank(document.file.reader)
        self._reading: Errand | None = None
        document.changed.connect(self.refresh)
        document.opened.connect(self._forget)
        document.file.changed.connect(self.refresh)

    def _forget(self) -> None:
        heard = self._document.heard
        heard.samples, heard.outlines, heard.problems = {}, {}, {}
        self._asked = set()
        self.refresh()

    def refresh(self) -> None:
        """Read what has not been read."""
        document = self._document
        for sound in document.scene.sounds:
            key = (sound.source, resolve(document.file.base, sound.source))
            if sound.source in document.heard.samples or key in self._asked:
                continue
            self._asked.add(key)
            self._wanted.append(key)
        self._read_next()

    def reload(self) -> None:
        """Read every file again."""
        self._forget()

    def _read_next(self) -> None:
        """Begin with the next file, if none is being read."""
        if self._reading is not None or not self._wanted:
            return
        source, path = self._wanted.pop(0)
        bank = self._bank

        def work(errand: Errand) -> tuple[Samples, NDArray[np.float32]]:
            samples = bank.samples(path, errand.is_cancelled)
            return samples, outline(samples)

        def done(found: tuple[Samples, NDArray[np.float32]]) -> None:
            self._take(source, *found, "")

        def failed(problem: Exception) -> None:
            if isinstance(problem, Cancelled):
                self._reading = None
                return
            foreseen = isinstance(problem, FileError)
            self._take(source, None, None, str(problem) if foreseen else f"{path} could not be read.")
            if not foreseen:
                raise problem

        self._reading = self._document.background.start("sounds", work, done, failed=failed)

    def _take(self, source: str, samples: Samples | None, loudness: NDArray[np.float32] | None, problem: str) -> None:
        document, self._reading = self._document, None
        self._read_next()
        if source not in {sound.source for sound in document.scene.sounds}:
            return
        if samples is None or loudness is None:
            document.heard.problems[source] = problem
            document.messages.say(problem, True)
        else:
            document.heard.problems.pop(source, None)
            document.heard.samples[source] = samples
            document.heard.outlines[source] = loudness
        document.heard.changed.emit()

    def stop(self) -> None:
        self._wanted.clear()
        self._document.background.let_go(self._reading)
