"""Small films of moves on their subject, made in the background, in order."""

from collections.abc import Sequence

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QPixmap

from ...arrays import Pixels
from ...edits.moves.drafts import Draft
from ...process.messages import RenderError
from ...process.offering import Asked, Offer, offers
from ..state.background import Errand
from ..state.document import Document
from ..widgets.images import opaque_image_of


class MoveFilms(QObject):
    """One list of drafts at a time; a new one takes the place of the one before."""

    made = pyqtSignal(int, object)
    """An offer was put, or could not be: its number, and the offer."""
    drawn = pyqtSignal(int)
    """A picture more of the film of a number."""
    finished = pyqtSignal(list)
    """All of them, as offers in the drafts' order."""
    failed = pyqtSignal(str)

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        self._errand: Errand | None = None
        self.films: dict[int, list[QPixmap]] = {}
        self.total = 0

    @property
    def is_making(self) -> bool:
        return self._errand is not None

    def make(self, asked: Asked, wanted: Sequence[Draft], fits: bool) -> None:
        """Make films of drafts, fitted or as they are."""
        self.stop()
        self.films, self.total = {}, len(wanted)
        what = (asked, tuple(wanted), fits)
        self._errand = self._document.background.start(
            "films of moves",
            lambda errand: offers(*what, errand.tell, errand.is_cancelled),
            self._ended,
            self._told,
            self._failed,
        )

    def stop(self) -> None:
        """It is wanted no more."""
        self._document.background.let_go(self._errand)
        self._errand = None

    def _told(self, offer: Offer | None, number: int, picture: Pixels | None) -> None:
        if offer is not None:
            self.films.pop(number, None)
            self.made.emit(number, offer)
        elif picture is not None:
            self.films.setdefault(number, []).append(QPixmap.fromImage(opaque_image_of(picture)))
            self.drawn.emit(number)

    def _ended(self, found: list[Offer]) -> None:
        self._errand = None
        self.finished.emit(found)

    def _failed(self, problem: Exception) -> None:
        self._errand = None
        foreseen = isinstance(problem, RenderError | OSError)
        self.failed.emit(str(problem) if foreseen else "The films could not be made.")
        if not foreseen:
            raise problem
