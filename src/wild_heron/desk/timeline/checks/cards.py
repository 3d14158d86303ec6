"""The findings beside the rows: a card for each, with its fixes once it is chosen."""

from collections.abc import Iterator
from functools import partial

from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QFont, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QScrollArea, QSizePolicy, QToolButton, QVBoxLayout, QWidget

from ....checks import Finding
from ....checks.fixes import Fix
from ...commands.check_commands import CheckCommands
from ...state.document import Document
from ...widgets.panel_parts import label, show_page
from ...widgets.theme import AMBER, RAISED, REED, RUST, colour, font
from ...widgets.unexpected import painted

WIDTH = 372
_MOST = 60
_PILL_PADDING = 26


class FindingCard(QFrame):
    """One finding. A click goes to it; once it is chosen it offers what can be done about it."""

    clicked = pyqtSignal()

    def __init__(self, finding: Finding, is_chosen: bool) -> None:
        super().__init__()
        self.finding, self._chosen = finding, is_chosen
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(finding.title)
        self.setToolTip("Go to where it is worst")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(27, 7, 10, 8)
        self.column.setSpacing(2)
        self.title = label(finding.title, "", 12)
        self.title.setFont(font(12, QFont.Weight.Medium))
        self.title.setWordWrap(True)
        note = f"accepted: {finding.note}" if finding.note else "accepted"
        self.detail = label(note if finding.accepted else finding.detail, "soft", 11)
        self.detail.setWordWrap(True)
        self.column.addWidget(self.title)
        self.column.addWidget(self.detail)

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5)
        edge = AMBER if self.hasFocus() else RUST if self._chosen else None
        p.setPen(QPen(colour(edge), 1.2) if edge else Qt.PenStyle.NoPen)
        p.setBrush(colour(RAISED))
        p.drawRoundedRect(box, 5, 5)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(colour(REED if self.finding.accepted else RUST))
        p.drawEllipse(QRectF(11, 12, 7, 7))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self.clicked.emit()

    def keyPressEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.clicked.emit()
        else:
            super().keyPressEvent(event)


class FindingList(QScrollArea):
    """All findings in the format that is looked at, worst first."""

    def __init__(self, document: Document, checks: CheckCommands) -> None:
        super().__init__()
        self._document, self._checks = document, checks
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFixedWidth(WIDTH)
        self.setAccessibleName("Findings")
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.cards: list[FindingCard] = []
        self.pills: list[QToolButton] = []
        self._shown: tuple[object, ...] | None = None
        for signal in (
            document.checked.changed, document.checked.chosen_changed, document.settings_changed, checks.fixes_changed,
        ):  # fmt: skip
            signal.connect(self.refresh)

    def showEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        super().showEvent(event)
        self.refresh()

    def refresh(self) -> None:
        """Show the findings as they are."""
        if not self.isVisible():
            return
        checks = self._checks
        chosen = checks.chosen
        fixes = checks.fixes.get(chosen.key) if chosen is not None else None
        now = (
            checks.findings[:_MOST], chosen, tuple(each.label for each in fixes or ()),
            checks.tried and checks.tried.label, checks.is_looking, self._document.checked.is_done,
            self._document.checked.problem,
        )  # fmt: skip
        if now == self._shown:
            return
        self._shown = now
        bar = self.verticalScrollBar()
        at = bar.value() if bar is not None else 0
        focused = next((each.finding.key for each in self.cards if each.hasFocus()), None)
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(10, 8, 10, 8)
        column.setSpacing(6)
        self.cards, self.pills = [], []
        for finding in checks.findings[:_MOST]:
            card = FindingCard(finding, finding == chosen)
            card.clicked.connect(lambda finding=finding: checks.choose(finding))
            self.cards.append(card)
            column.addWidget(card)
            if finding == chosen:
                self._offer(card, finding, fixes)
        more = len(checks.findings) - _MOST
        if more > 0:
            column.addWidget(label(f"and {more} more", "soft", 11))
        if not checks.findings:
            words = label(self._nothing(), "soft", 12)
            words.setWordWrap(True)
            words.setAlignment(Qt.AlignmentFlag.AlignCenter)
            column.addStretch()
            column.addWidget(words)
        column.addStretch()
        show_page(self, page)
        if bar is not None:
            bar.setValue(at)
        for card in self.cards:
            if card.finding.key == focused:
                card.setFocus()
            if card.finding == chosen:
                page.adjustSize()
                self.ensureWidgetVisible(card, 0, 8)

    def _nothing(self) -> str:
        checked = self._document.checked
        if checked.problem:
            return checked.problem
        if checked.total == 0:
            return "There is no camera yet, so there is no picture to check. Camera ▸ Add camera makes one."
        return "Nothing was found." if checked.is_done else "Nothing was found so far."

    def _offer(self, card: FindingCard, finding: Finding, fixes: list[Fix] | None) -> None:
        """What can be done about the chosen finding."""
        checks = self._checks
        if finding.accepted:
            self._row(card, [self._pill("Find it again", "It is no longer accepted", checks.accept)])
            return
        if checks.tried is not None:
            take = self._pill("Take it", "Make it a step (X, T)", checks.take, main=True)
            leave = self._pill("Leave it", "Put it away again (X, L)", checks.leave)
            card.column.addWidget(label(f"Shown in the views: {checks.tried.label}", "good", 11))
            self._row(card, [take, leave])
            return
        if fixes is None:
            card.column.addWidget(label("Working out what would put it right…", "soft", 11))
        elif not fixes:
            card.column.addWidget(label("Nothing that was tried puts it right by itself.", "soft", 11))
        tip = "Show it in all views before anything is changed"
        pills = [self._pill(fix.label, tip, partial(checks.try_fix, fix)) for fix in fixes or ()]
        pills.append(self._pill("accept…", "It is as it should be (X, A)", checks.accept))
        for row in _in_rows(pills, WIDTH - 70):
            self._row(card, row)

    def _pill(self, text: str, tip: str, chosen, main: bool = False) -> QToolButton:  # type: ignore[no-untyped-def]
        out = QToolButton()
        out.setText(text)
        out.setToolTip(tip)
        out.setFont(font(11))
        out.setFixedHeight(22)
        out.setProperty("look", "main" if main else "pill")
        out.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        out.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        out.clicked.connect(lambda checked: chosen())
        self.pills.append(out)
        return out

    @staticmethod
    def _row(card: FindingCard, pills: list[QToolButton]) -> None:
        row = QHBoxLayout()
        row.setContentsMargins(0, 4, 0, 0)
        row.setSpacing(6)
        for each in pills:
            row.addWidget(each)
        row.addStretch()
        card.column.addLayout(row)


def _in_rows(pills: list[QToolButton], width: int) -> Iterator[list[QToolButton]]:
    """As many beside each other as fit."""
    row: list[QToolButton] = []
    used = 0
    for each in pills:
        wide = each.fontMetrics().horizontalAdvance(each.text()) + _PILL_PADDING
        if row and used + wide > width:
            yield row
            row, used = [], 0
        row.append(each)
        used += wide
    if row:
        yield row
