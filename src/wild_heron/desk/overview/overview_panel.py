"""The Overview area: its heading with the four ways of seeing, and the view."""

from PyQt6.QtWidgets import QToolButton

from ..commands.actions import ActionTable
from ..pictures.render_link import RenderLink
from ..state.document import Document
from ..widgets.panel_parts import Panel
from ..widgets.theme import PANEL, font
from .overview_view import OverviewView
from .viewpoint import MODES


class OverviewPanel(Panel):
    """The upper right area."""

    def __init__(self, document: Document, link: RenderLink, actions: ActionTable) -> None:
        super().__init__("Overview", PANEL)
        self.view = OverviewView(document, link)
        self.strip.addStretch()
        self.buttons: dict[str, QToolButton] = {}
        for mode in MODES:
            button = QToolButton()
            button.setText(mode.capitalize())
            button.setFont(font(11))
            button.setCheckable(True)
            button.setToolTip(actions.tip(f"view.{mode}"))
            button.clicked.connect(lambda checked, mode=mode: self.choose(mode))
            actions.connect(f"view.{mode}", lambda mode=mode: self.choose(mode))
            self.buttons[mode] = button
            self.strip.addWidget(button)
        self.strip.addWidget(actions.button("view.swap"))
        self.body.addWidget(self.view, 1)
        actions.connect("view.frame", lambda: self.view.frame_all(document.selection.nodes))
        self.choose("free")

    def choose(self, mode: str) -> None:
        for name, button in self.buttons.items():
            button.setChecked(name == mode)
        self.view.set_mode(mode)
