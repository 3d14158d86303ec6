"""A run of cuts: every so many frames, through chosen cameras and framings."""

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFormLayout, QLineEdit, QListWidget, QListWidgetItem, QWidget

from ...edits import run_of_cuts
from ...edits.film import Order
from ...scene import Scene, SceneError
from ...scene.output import shown_nodes
from ..commands.shot_commands import chosen_views
from ..state.document import Document
from ..widgets.dialog import Dialog, beside, push_button
from ..widgets.panel_parts import Choice, label, set_tone
from ..widgets.quantities import parse_number
from ..widgets.theme import RUST

_ORDERS: tuple[Order, ...] = ("in order", "back and forth", "shuffled")


class RunOfCutsDialog(Dialog):
    """The views show what it makes before it is made."""

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__("Run of cuts", parent, 340, looked_past=True)
        self._document = document
        form = QFormLayout()
        form.setVerticalSpacing(9)
        last = document.playhead.range[1]
        start = round(document.playhead.frame)
        if document.scene.beats is not None:
            step = 60.0 / document.scene.beats.tempo * document.settings.rate.fps
        else:
            step = 12.0
        self.first, self.last = QLineEdit(str(start)), QLineEdit(str(min(last, start + round(8 * step))))
        form.addRow("From frame", beside(self.first, label("to", "soft"), self.last))
        self.every = QLineEdit(f"{step:.4g}")
        self.every.setToolTip("Frames from cut to cut. It begins with the length of a beat, where beats are known.")
        form.addRow("A cut every", beside(self.every, label("frames", "soft")))
        self.held = QLineEdit("0")
        form.addRow("Hold the last", beside(self.held, label("frames longer", "soft")))
        self.order = Choice()
        for order in _ORDERS:
            self.order.addItem(order, order)
        self.seed = QLineEdit("1")
        self.seed.setToolTip("Another number shuffles another way")
        form.addRow("Order", beside(self.order, label("seed", "soft"), self.seed))
        self.views = QListWidget()
        self.views.setAccessibleName("Cameras and framings")
        self.views.setMaximumHeight(150)
        chosen = set(chosen_views(document))
        for node in shown_nodes(document.scene).values():
            item = QListWidgetItem(node.name)
            item.setData(Qt.ItemDataRole.UserRole, node.id)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Checked if node.id in chosen else Qt.CheckState.Unchecked)
            self.views.addItem(item)
        form.addRow("Through", self.views)
        self.column.addLayout(form)
        self.line = label("", "soft")
        self.line.setWordWrap(True)
        self.column.addWidget(self.line)
        self.add_buttons(push_button("Cancel", self.reject), push_button("Make it", self.accept))
        for field in (self.first, self.last, self.every, self.held, self.seed):
            field.textChanged.connect(self.show_it)
        self.order.currentIndexChanged.connect(self.show_it)
        self.views.itemChanged.connect(self.show_it)
        self.show_it()

    def _chosen(self) -> list[str]:
        items = [self.views.item(k) for k in range(self.views.count())]
        return [
            item.data(Qt.ItemDataRole.UserRole)
            for item in items
            if item is not None and item.checkState() == Qt.CheckState.Checked
        ]

    def _made(self) -> Scene:
        """The scene with the run. ValueError or SceneError say what is wrong."""
        first, last, every, held = (parse_number(f.text()) for f in (self.first, self.last, self.every, self.held))
        seed = round(parse_number(self.seed.text()))
        scene = self._document.scene
        return run_of_cuts(scene, first, last, every, self._chosen(), self.order.currentData(), seed, max(held, 0.0))

    def show_it(self) -> None:
        """Let the views show what it would make."""
        try:
            made = self._made()
        except (ValueError, SceneError) as problem:
            self._document.views.propose(None)
            self.line.setText(str(problem))
            set_tone(self.line, RUST)
            return
        self._document.views.propose(made)
        more = len(made.shots) - len(self._document.scene.shots)
        self.line.setText(f"{len(made.shots)} shots, {more:+d}.")
        set_tone(self.line)

    def accept(self) -> None:
        try:
            made = self._made()
        except (ValueError, SceneError) as problem:
            self.line.setText(str(problem))
            return
        self._document.views.propose(None)
        self._document.edit("Run of cuts", lambda scene: made)
        super().accept()

    def reject(self) -> None:
        self._document.views.propose(None)
        super().reject()
