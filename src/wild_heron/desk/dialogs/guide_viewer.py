"""The guide, from the documentation that ships with the program."""

from PyQt6.QtWidgets import QTextBrowser, QWidget

from ...files.formats import GUIDE
from ..widgets.dialog import Dialog, push_button
from ..widgets.theme import font


class GuideDialog(Dialog):
    """Stays open beside the work."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("Guide", parent)
        self.resize(680, 720)
        self.text = QTextBrowser()
        self.text.setAccessibleName("Guide")
        self.text.setFont(font(13))
        self.text.setOpenLinks(False)  # What it refers to is in the documentation, not in the program.
        self.text.setMarkdown(GUIDE.read_text(encoding="utf-8"))
        self.column.addWidget(self.text, 1)
        self.add_buttons(push_button("Close", self.close))
