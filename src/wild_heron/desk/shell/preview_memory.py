"""Shares memory between the held frames of the scene and of the version it is compared with."""

from collections.abc import Callable

from PyQt6.QtCore import QObject, QSettings, pyqtSignal

from ..lens.comparison import VERSION, Comparison
from ..pictures.preview_cache import BUDGET, KEPT_AHEAD, PreviewCache
from ..pictures.render_link import RenderLink
from ..state.document import Document
from ..state.playback import Playback

PREVIEW_RATES = (1, 2, 3)


class Previews(QObject):
    """Shares out the memory between the two, and keeps both at the rate that is played."""

    rate_changed = pyqtSignal(int)

    def __init__(
        self, document: Document, link: RenderLink, playback: Playback, comparison: Comparison, settings: QSettings,
        gives_way: Callable[[], bool],
    ) -> None:  # fmt: skip
        """``gives_way``: whether something is drawn first that is looked at already."""
        super().__init__()
        self._settings, self._playback, self._comparison = settings, playback, comparison
        self.shown = PreviewCache(document, link, gives_way=gives_way)
        self.kept = PreviewCache(document, link, KEPT_AHEAD, VERSION, comparison.scene, gives_way)
        comparison.cache = self.kept
        comparison.toggled.connect(self._share_memory)
        playback.changed.connect(self._played)

    def restore(self) -> None:
        """Be as it was left."""
        every = int(self._settings.value("preview/every", 1))
        self.set_rate(every if every in PREVIEW_RATES else 1)
        self._share_memory()

    @property
    def megabytes(self) -> int:
        """How much played frames may take up."""
        return max(0, int(self._settings.value("preview/megabytes", BUDGET // 1_000_000)))

    def set_megabytes(self, megabytes: int) -> None:
        self._settings.setValue("preview/megabytes", megabytes)
        self._share_memory()

    @property
    def bytes(self) -> int:
        """What all frames that are held take up."""
        return self.shown.bytes + self.kept.bytes

    def _share_memory(self) -> None:
        """While versions are compared, each of the two has half."""
        size = self.megabytes * 1_000_000
        comparing = self._comparison.on
        self.shown.set_budget(size // 2 if comparing else size)
        self.kept.set_budget(size // 2 if comparing else 0)

    def set_rate(self, every: int) -> None:
        """Show and hold one of so many frames."""
        self._playback.every = self.shown.every = self.kept.every = every
        self.shown.wake()
        self._settings.setValue("preview/every", every)
        self.rate_changed.emit(every)

    def _played(self) -> None:
        for cache in (self.shown, self.kept):
            cache.playing = self._playback.is_playing

    def clear(self) -> None:
        for cache in (self.shown, self.kept):
            cache.clear()

    def stop(self) -> None:
        for cache in (self.shown, self.kept):
            cache.stop()
