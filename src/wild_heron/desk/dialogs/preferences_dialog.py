"""What the program looks like, how often it autosaves, how much memory it takes, and where it keeps things."""

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtWidgets import QCheckBox, QFileDialog, QFormLayout, QLineEdit, QSpinBox, QWidget

from ...log import log_folder
from ..state.preferences import AUTOSAVE_SECONDS, SCALES, Preferences
from ..widgets.dialog import Dialog, beside, push_button
from ..widgets.opening import open_outside
from ..widgets.panel_parts import Choice, label

_THEMES = (
    ("As the system wishes", "system"),
    ("Dusk", "dusk"),
    ("Morning: lighter", "morning"),
    ("High contrast", "contrast"),
)


class PreferencesDialog(Dialog):
    """Everything is used at once, but the size of the interface, which is from the next start on."""

    def __init__(
        self, preferences: Preferences, megabytes: int, set_megabytes: Callable[[int], None], parent: QWidget | None
    ) -> None:
        super().__init__("Preferences", parent, 480)
        self._preferences = preferences
        form = QFormLayout()
        form.setHorizontalSpacing(18)
        form.setVerticalSpacing(10)

        self.theme = Choice()
        for text, name in _THEMES:
            self.theme.addItem(text, name)
        self.theme.setCurrentIndex(self.theme.findData(preferences.theme))
        self.theme.setToolTip("The colours of the interface; the surround of the picture stays a neutral grey")
        self.theme.currentIndexChanged.connect(lambda: preferences.set_theme(self.theme.currentData()))
        self._row(form, "Theme", self.theme)

        self.scale = Choice()
        for percent in sorted({*SCALES, preferences.scale}):
            self.scale.addItem(f"{percent} %", percent)
        self.scale.setCurrentIndex(self.scale.findData(preferences.scale))
        self.scale.setToolTip("The size of text and controls, on top of the system's own scaling")
        self.scale.currentIndexChanged.connect(self._scaled)
        self._row(form, "Interface size", self.scale)
        self.later = label("From the next start on.", "soft", 11)
        self.later.hide()
        form.addRow("", self.later)

        self.autosave = self._amount(preferences.autosave_seconds, *AUTOSAVE_SECONDS, " s after a change")
        self.autosave.setToolTip("How long after a change the scene is autosaved, to be recovered after a crash")
        self.autosave.valueChanged.connect(preferences.set_autosave_seconds)
        self._row(form, "Autosave", self.autosave)

        self.memory = self._amount(megabytes, 0, 1_000_000, " MB")
        self.memory.setSingleStep(256)
        self.memory.setToolTip("How much memory frames that were played may take up; 0 keeps none")
        self.memory.valueChanged.connect(set_megabytes)
        self._row(form, "Preview memory", self.memory)

        self.fixed = QCheckBox("Always in one folder")
        self.fixed.setToolTip("Otherwise a new scene is saved where the last one was")
        self.folder = QLineEdit(str(preferences.scene_folder or ""))
        self.folder.setReadOnly(True)
        self.folder.setPlaceholderText("where the last one was")
        choose = push_button("Choose…", self._choose, "Choose the folder for new scenes", default=False)
        self.fixed.setChecked(preferences.scene_folder is not None)
        self.fixed.toggled.connect(self._fix)
        form.addRow("New scenes", self.fixed)
        form.addRow("", beside(self.folder, choose))
        self.folder.setAccessibleName("Folder for new scenes")
        place = label(str(log_folder()), "soft", 11)
        place.setToolTip("What went wrong is written there, for a report")
        kept = beside(place, push_button("Open", lambda: open_outside(log_folder()), default=False))
        kept.setStretch(0, 1)
        form.addRow("Log", kept)
        self.column.addLayout(form)
        self.add_buttons(push_button("Close", self.close))

    def _row(self, form: QFormLayout, name: str, field: QWidget) -> None:
        field.setAccessibleName(name)
        form.addRow(name, field)

    @staticmethod
    def _amount(value: int, low: int, high: int, unit: str) -> QSpinBox:
        out = QSpinBox()
        out.setRange(low, high)
        out.setValue(value)
        out.setSuffix(unit)
        out.setKeyboardTracking(False)
        out.setButtonSymbols(QSpinBox.ButtonSymbols.NoButtons)
        return out

    def _scaled(self) -> None:
        self._preferences.set_scale(self.scale.currentData())
        self.later.show()

    def _fix(self, on: bool) -> None:
        if not on:
            self._preferences.set_scene_folder(None)
            self.folder.clear()
        elif not self.folder.text():
            self._choose()

    def _choose(self) -> None:
        start = self.folder.text() or str(self._preferences.folder("scenes"))
        chosen = QFileDialog.getExistingDirectory(self, "Folder for new scenes", start)
        if chosen:
            self._preferences.set_scene_folder(Path(chosen))
            self.folder.setText(chosen)
        self.fixed.setChecked(bool(self.folder.text()))
