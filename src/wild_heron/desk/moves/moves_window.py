"""The Moves window: every move as a small film on the user's own artwork, and offers that are fitted to it."""

from collections.abc import Callable

from PyQt6.QtCore import QTimer
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QHBoxLayout, QInputDialog, QLineEdit, QProgressBar, QVBoxLayout, QWidget

from ...checks.fit import Change, Fitted
from ...edits import applied_to
from ...edits.moves import Placing, put
from ...edits.moves.drafts import MOODS, Draft, chosen, drafts, like
from ...files.errors import FileError
from ...files.move_files import user_folder
from ...process.offering import Asked, Offer, ranked
from ...scene import Scene, SceneError
from ..state.document import Document
from ..widgets.dialog import Dialog, push_button
from ..widgets.opening import open_outside
from ..widgets.panel_parts import Choice, label, set_tone
from ..widgets.theme import REED, RUST, SOFT
from .films import MoveFilms
from .library import SOURCES, Listed, listed, remove, rename
from .options import MoveOptions, Options
from .sheet import MoveSheet

_OFFERS = 12
_SETTLED_MS = 350


class MovesWindow(Dialog):
    """Nothing is changed before *Put*; what is chosen is proposed in every view."""

    def __init__(self, document: Document, parent: QWidget | None = None, offering: bool = False) -> None:
        super().__init__("Moves", parent)
        self.resize(1160, 330)
        self._document = document
        self._drafts: list[Draft] = []
        self._offers: dict[int, Offer] = {}
        self._listed: list[Listed] = []
        self._base: Scene = document.scene
        """What is proposed is made of."""
        self._seed = 0
        self._offering = False
        self._looked_through = document.views.lens
        self.films = MoveFilms(document)
        self._settle = QTimer(self)
        self._settle.setSingleShot(True)
        self._settle.setInterval(_SETTLED_MS)
        self._settle.timeout.connect(self._film)
        row = QHBoxLayout()
        row.setSpacing(14)
        row.addLayout(self._cards_side(), 1)
        row.addLayout(self._options_side())
        self.column.addLayout(row, 1)
        self.bar = QProgressBar()
        self.bar.setAccessibleName("How far the films are")
        self.bar.setTextVisible(False)
        self.bar.setFixedSize(160, 8)
        self.bar.hide()
        self.line = label("", size=11)
        self.line.setWordWrap(True)
        self.put_button = push_button("Put", self.take, "Put the chosen move on its subject, as one step (Return)")
        foot = QHBoxLayout()
        foot.setSpacing(10)
        for each in (self.remove_button, self.rename_button, self.folder_button):
            foot.addWidget(each)
        foot.addWidget(self.bar)
        foot.addWidget(self.line, 1)
        foot.addWidget(push_button("Close", self.close, default=False))
        foot.addWidget(self.put_button)
        self.put_button.setProperty("main", True)
        self.column.addLayout(foot)
        self.films.made.connect(self._made)
        self.films.drawn.connect(lambda number: self._progress())
        self.films.finished.connect(self._finished)
        self.films.failed.connect(lambda text: self._say(text, RUST))
        document.changed.connect(self._scene_changed)
        # However it is closed, Escape too.
        self.finished.connect(self._ended)
        document.views.set_lens(None)
        if offering:
            self.offer()
        else:
            self.list_moves()

    def _cards_side(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(8)
        head = QHBoxLayout()
        head.setSpacing(8)
        self.search = QLineEdit()
        self.search.setPlaceholderText("Search")
        self.search.setAccessibleName("Search for a move")
        self.search.setClearButtonEnabled(True)
        self.search.textChanged.connect(lambda _: self.list_moves())
        self.source = Choice()
        self.source.setAccessibleName("Which moves")
        self.source.addItem("all moves", None)
        for source, text in SOURCES.items():
            self.source.addItem(text, source)
        self.source.activated.connect(lambda _: self.list_moves())
        self.mood = Choice()
        self.mood.setAccessibleName("Mood of what is offered")
        for mood in MOODS:
            self.mood.addItem(mood, mood)
        self.mood.activated.connect(lambda _: self._mood_chosen())
        self.offer_button = push_button(
            "Offer", self.offer_anew, "Offer twelve moves, fitted to the set; again, twelve others", default=False
        )
        self.more_button = push_button(
            "More like this", self.more_like_this, "Offer twelve that are near to the chosen one", default=False
        )
        head.addWidget(self.search, 1)
        head.addWidget(self.source)
        head.addSpacing(10)
        head.addWidget(self.mood)
        head.addWidget(self.offer_button)
        head.addWidget(self.more_button)
        column.addLayout(head)
        self.sheet = MoveSheet()
        self.sheet.picked.connect(lambda number: self._pick())
        self.sheet.taken.connect(lambda number: self.take())
        column.addWidget(self.sheet, 1)
        return column

    def _options_side(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(8)
        self.name = label("", size=13)
        self.about = label("", "soft", 11)
        self.about.setWordWrap(True)
        column.addWidget(self.name)
        column.addWidget(self.about)
        self.options = MoveOptions(self._document)
        self.options.setFixedWidth(440)
        self.options.changed.connect(self._option_changed)
        column.addWidget(self.options)
        column.addStretch()
        self.remove_button = push_button(
            "Remove", self.remove, "Take the chosen move out of the library", default=False
        )
        self.rename_button = push_button("Rename…", self.ask_name, "Give the move another name", default=False)
        self.folder_button = push_button(
            "Folder", self.show_folder, "Open the folder of your moves: a file each, to be handed on", default=False
        )
        return column

    # What is listed

    def list_moves(self) -> None:
        """The library: every move that answers to what is searched for."""
        was = self.chosen_draft
        self._offering = False
        found, problems = listed(self._document.scene)
        source, words = self.source.currentData(), self.search.text()
        self._listed = [each for each in found if source in (None, each.source) and each.answers(words)]
        self._drafts = [Draft(each.move, self._how(), 1.0) for each in self._listed]
        self._show(was)
        if problems:
            self._say(str(problems[0]), RUST)
        elif not self._listed:
            self._say("No move answers to that. Camera ▸ Keep the move keeps one of your own.", SOFT)

    def _mood_chosen(self) -> None:
        if self._offering:
            self.offer()

    def offer_anew(self) -> None:
        """Twelve moves, and with every press twelve others."""
        self.offer(again=self._offering)

    def offer(self, again: bool = False) -> None:
        """Moves of a mood, different from each other, fitted to the set."""
        self._seed = self._seed + 1 if again else 0
        moves = list({each.move.name: each.move for each in reversed(listed(self._document.scene)[0])}.values())
        moves.sort(key=lambda move: move.name)
        two = self.options.other.currentData() is not None
        found = drafts(moves, self.mood.currentData(), self._seed, self._how(), two)
        self._offer(chosen(found, _OFFERS))

    def more_like_this(self) -> None:
        """Twelve that are near to the chosen one."""
        draft = self.chosen_draft
        if draft is None:
            self._say("Choose the one that others are to be like first.", RUST)
            return
        self._seed += 1
        self._offer(chosen(like(draft, self._seed), _OFFERS))

    def _offer(self, wanted: list[Draft]) -> None:
        self._offering, self._listed, self._drafts = True, [], wanted
        self.options.fits.blockSignals(True)
        self.options.fits.setChecked(True)
        self.options.fits.blockSignals(False)
        self.options.refresh_rows()
        self._show(None)

    def _how(self) -> Placing:
        try:
            return self._options(None).how
        except SceneError:
            return Placing()

    def _show(self, was: Draft | None) -> None:
        """Cards for the drafts, and their films from the beginning."""
        self._offers = {}
        cards = [(k, each.move.name, each.move.line) for k, each in enumerate(self._drafts)]
        same = next((k for k, each in enumerate(self._drafts) if was is not None and each.move == was.move), None)
        self.sheet.plays_all = self._offering
        self.sheet.films = {}
        self.sheet.show_cards(cards, same if same is not None else (0 if cards else None))
        self._say("", SOFT)
        self._pick()
        self._film()

    def _film(self) -> None:
        self.films.stop()
        self._base = self._document.scene
        try:
            chosen_ = self._options(None)
        except SceneError as problem:
            self._say(str(problem), RUST)
            return
        asked = self._asked(chosen_)
        self.films.make(asked, self._drafts, self._offering)
        self.sheet.films = self.films.films
        self._progress()

    def _asked(self, chosen_: Options) -> Asked:
        file = self._document.file
        return Asked(
            self._document.scene, file.base, file.allowed, chosen_.subject, chosen_.span, chosen_.other, chosen_.may
        )

    def _options(self, draft: Draft | None) -> Options:
        return self.options.options(draft.move if draft is not None else None)

    def _progress(self) -> None:
        done = sum(len(film) for film in self.films.films.values())
        self.bar.setVisible(self.films.is_making and self._offering)
        self.bar.setRange(0, max(len(self._drafts), 1))
        self.bar.setValue(len(self._offers))
        self.setProperty("films", done)

    def _made(self, number: int, offer: Offer) -> None:
        self._offers[number] = offer
        if offer.fitted is None:
            self.sheet.tell(number, "does not go here", False)
        elif self._offering:
            left = offer.fitted.left
            self.sheet.tell(number, offer.fitted.line if not left else left[0].lower(), not left)
        self._progress()
        if number == self.sheet.chosen and self._offering:
            self._pick()

    def _finished(self, found: list[Offer]) -> None:
        self._progress()
        if not self._offering or len(found) < len(self._drafts):
            return
        was = self.sheet.chosen
        order = ranked(found)
        self.sheet.show_cards([(each.number, each.draft.move.name, "") for each in order], was)
        for each in order:
            self._made(each.number, each)

    # What is chosen

    @property
    def chosen_draft(self) -> Draft | None:
        number = self.sheet.chosen
        return self._drafts[number] if number is not None and number < len(self._drafts) else None

    def _pick(self) -> None:
        """Another card: its words, and the move in every view."""
        draft, number = self.chosen_draft, self.sheet.chosen
        self.name.setText(draft.move.name if draft is not None else "")
        self.about.setText(draft.move.line if draft is not None else "")
        self.options.show_for(draft.move if draft is not None else None)
        mine = bool(self._listed) and number is not None and self._listed[number].source != "shipped"
        self.remove_button.setEnabled(mine)
        self.rename_button.setEnabled(mine)
        self.propose()

    def propose(self) -> None:
        """The chosen move in every view, or why it cannot be."""
        fitted = self._fitted()
        self.put_button.setEnabled(fitted is not None)
        self._document.views.propose(fitted.built[0] if fitted is not None else None)
        if fitted is not None:
            said = fitted.line.capitalize() if self._offering else ""
            wrong = f"{said}. Still: {', '.join(each.lower() for each in fitted.left)}." if fitted.left else said
            self._say(wrong, RUST if fitted.left else REED)

    def _fitted(self) -> Fitted | None:
        draft, number = self.chosen_draft, self.sheet.chosen
        if draft is None or number is None:
            return None
        if self._offering:
            offer = self._offers.get(number)
            if offer is not None:
                return offer.fitted
        try:
            options = self._options(draft)
            how = draft.how if self._offering else options.how
            built = put(self._base, draft.move, options.subject, options.span, how, options.other)
        except SceneError as problem:
            self._say(str(problem), RUST)
            return None
        return Fitted(built, how, options.span, Change(), "")

    def _option_changed(self) -> None:
        if self.options.fits.isChecked() and not self._offering:
            draft = self.chosen_draft
            if draft is not None:
                self._fit(draft)
                return
        if not self.options.fits.isChecked() and self._offering:
            self.list_moves()
            return
        self.propose()
        self._settle.start()

    def _fit(self, draft: Draft) -> None:
        """The chosen one alone, kept within what is covered."""
        try:
            how = self._options(draft).how
        except SceneError as problem:
            self._say(str(problem), RUST)
            return
        self._offer([Draft(draft.move, how, 1.0)])
        self._say("Fitting…", SOFT)

    def _scene_changed(self) -> None:
        if self._document.scene is self._base or self.is_left:
            return
        self._base = self._document.scene
        self.options.refresh()
        self.propose()
        self._settle.start()

    # What is done

    def take(self) -> None:
        """Put the chosen move, as one step."""
        fitted, draft, base = self._fitted(), self.chosen_draft, self._base
        if fitted is None or draft is None:
            return
        scene, ids = fitted.built
        self._document.views.propose(None)
        if self._document.edit(f"{draft.move.name} on {self._name()}", lambda now: applied_to(now, base, scene)):
            self._document.selection.choose((ids[0],))
            said = f"{draft.move.name}, {fitted.line}." if fitted.line else f"{draft.move.name} was put."
            self._document.messages.say(f"{said} Its null turns, lifts and sizes all of it.")
            self._looked_through = ids[-1] if fitted.how.shown == "no" else None
            self.close()

    def _name(self) -> str:
        return self.options.subject.currentText()

    def remove(self) -> None:
        """Take the chosen move out of the library."""
        self._change_kept(lambda each: remove(self._document, each))

    def ask_name(self) -> None:
        """Ask for another name for the chosen move."""
        draft = self.chosen_draft
        if draft is not None and self._listed:
            name, accepted = QInputDialog.getText(self, "Rename the move", "Name:", text=draft.move.name)
            if accepted and name.strip():
                self.rename(name.strip()[:200])

    def rename(self, name: str) -> None:
        """Another name for the chosen move."""
        self._change_kept(lambda each: rename(self._document, each, name))

    def _change_kept(self, change: Callable[[Listed], None]) -> None:
        number = self.sheet.chosen
        if number is None or not self._listed:
            return
        try:
            change(self._listed[number])
        except (FileError, SceneError) as problem:
            self._say(str(problem), RUST)
            return
        self.list_moves()

    def show_folder(self) -> None:
        """The user's moves, in the system's file manager."""
        folder = user_folder()
        try:
            folder.mkdir(parents=True, exist_ok=True)
        except OSError as problem:
            self._say(f"{folder}: could not be made: {problem.strerror}.", RUST)
            return
        open_outside(folder)

    def _say(self, text: str, tone: str) -> None:
        self.line.setText(text)
        set_tone(self.line, tone)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        parent = self.parentWidget()
        if parent is not None:
            # Over what is below the pictures: those show what is chosen.
            room = parent.frameGeometry()
            self.move(room.left() + max(room.width() - self.width(), 0) // 2, room.bottom() - self.height() - 26)

    def _ended(self) -> None:
        self.films.stop()
        self._settle.stop()
        self._document.views.propose(None)
        if self._looked_through is not None:
            self._document.views.set_lens(self._looked_through)
