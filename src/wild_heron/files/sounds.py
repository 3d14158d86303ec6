"""The samples of a scene's sounds, read once and kept."""

import threading
from collections import OrderedDict
from collections.abc import Callable
from pathlib import Path

from ..motion.sound import Samples, Track
from ..scene import Scene
from .artwork_files import resolve
from .errors import FileError
from .reader import Reader

_KEPT_BYTES = 600_000_000


class SoundBank:
    """Sounds by their file and its time. May be used by several threads at once."""

    def __init__(self, reader: Reader) -> None:
        self._reader = reader
        self._lock = threading.Lock()
        self._kept: OrderedDict[tuple[Path, int, int], Samples] = OrderedDict()

    def samples(self, path: Path, cancelled: Callable[[], bool] | None = None) -> Samples:
        """A file's samples (N, 2). FileError where it cannot be read."""
        try:
            status = path.stat()
        except OSError as problem:
            raise FileError(path, "is missing.", "Put it back, or remove the sound from the scene.") from problem
        key = (path, status.st_mtime_ns, status.st_size)
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
                return self._kept[key]
        found: Samples = self._reader.samples(path, cancelled).samples
        with self._lock:
            self._kept[key] = found
            while len(self._kept) > 1 and sum(each.nbytes for each in self._kept.values()) > _KEPT_BYTES:
                self._kept.popitem(last=False)
        return found


def tracks_of(scene: Scene, base: Path | None, bank: SoundBank) -> list[Track]:
    """The scene's sounds that are on, with their samples. FileError for the first that cannot be read."""
    return [Track(sound, bank.samples(resolve(base, sound.source))) for sound in scene.sounds if sound.on]
