"""Reads the scene's sounds in the background."""

import threading
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QObject, pyqtSignal

from ...files.artwork import resolve
from ...files.errors import FileError
from ...files.reader import Cancelled
from ...files.sounds import SoundBank
from ...motion.sound import Samples, outline
from ..state.document import Document
from ..widgets.unexpected import reports


class SoundLoader(QObject):
    """Keeps ``document.heard`` true to the scene."""

    _read = pyqtSignal(str, object, object, str)
    """What was read: its source, samples and outline, or None and None and why not."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        self._wanted: list[tuple[str, Path]] = []
        self._asked: set[tuple[str, Path]] = set()
        self._wake = threading.Condition()
        self._thread: threading.Thread | None = None
        self._stopped = False
        self._read.connect(self._take)
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
            with self._wake:
                self._wanted.append(key)
                if self._thread is None:
                    self._thread = threading.Thread(target=self._run, name="sounds", daemon=True)
                    self._thread.start()
                self._wake.notify()

    def reload(self) -> None:
        """Read every file again."""
        self._forget()

    def _run(self) -> None:
        bank = SoundBank(self._document.file.reader)
        while True:
            with self._wake:
                while not self._wanted and not self._stopped:
                    self._wake.wait()
                if self._stopped:
                    return
                source, path = self._wanted.pop(0)
            try:
                samples = bank.samples(path, lambda: self._stopped)
                self._read.emit(source, samples, outline(samples), "")
            except Cancelled:
                return
            except FileError as problem:
                self._read.emit(source, None, None, str(problem))
            except RuntimeError:
                return  # The window is gone.
            except Exception as problem:  # A thread must not end with it.
                reports.report(problem)
                self._read.emit(source, None, None, f"{path} could not be read.")

    def _take(self, source: str, samples: Samples | None, loudness: NDArray[np.float32] | None, problem: str) -> None:
        document = self._document
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
        with self._wake:
            self._stopped = True
            self._wake.notify()
        if self._thread is not None:
            self._thread.join(5.0)
