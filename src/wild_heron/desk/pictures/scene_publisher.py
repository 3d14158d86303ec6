"""Sends the shown scene to the render process whenever it changes."""

from PyQt6.QtCore import QObject

from ..state.document import Document
from .render_link import RenderLink


class ScenePublisher(QObject):
    """Made before the views, so that the scene is there when they ask for pictures of it."""

    def __init__(self, document: Document, link: RenderLink) -> None:
        super().__init__()
        self._document, self._link = document, link
        for signal in (document.changed, document.playhead.moved, document.file.changed):
            signal.connect(self.publish)
        document.file.changed.connect(self._allow)
        self.publish()
        self._allow()

    def publish(self) -> None:
        self._link.set_scene(self._document.views.shown, self._document.file.base)

    def _allow(self) -> None:
        self._link.allow(self._document.file.allowed)
