"""Scene settings: name, frame, rate, range, units, background, and the output formats."""

from collections.abc import Iterable

from msgspec.structs import replace
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QColorDialog,
    QFormLayout,
    QLineEdit,
    QPushButton,
    QRadioButton,
    QVBoxLayout,
    QWidget,
)

from ...edits import change_rate, change_settings
from ...scene import STANDARD_RATES, Format, Scene
from ..state.document import Document
from ..widgets.dialog import Dialog, beside, push_button
from ..widgets.panel_parts import Choice, label
from ..widgets.quantities import parse_number

FRAME_SIZES = (
    ("HD 1920 × 1080", 1920, 1080), ("UHD 3840 × 2160", 3840, 2160), ("HD 1280 × 720", 1280, 720),
    ("Vertical 1080 × 1920", 1080, 1920), ("Portrait 1080 × 1350", 1080, 1350), ("Square 1080 × 1080", 1080, 1080),
)  # fmt: skip


class SettingsDialog(Dialog):
    """Edits a copy of the settings; nothing changes until they are accepted."""

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__("Scene settings", parent, 440)
        self._document = document
        scene, settings = document.scene, document.settings
        self._background = settings.background
        form = QFormLayout()
        form.setVerticalSpacing(9)
        form.setLabelAlignment(Qt.AlignmentFlag.AlignLeft)
        self.name = QLineEdit(scene.name)
        form.addRow("Name", self.name)
        self.sizes = Choice()
        self.sizes.addItem("Frame sizes…")
        self.sizes.addItems([name for name, _, _ in FRAME_SIZES])
        self.sizes.activated.connect(self._preset)
        self.width_ = QLineEdit(str(settings.width))
        self.height_ = QLineEdit(str(settings.height))
        form.addRow("Frame", beside(self.width_, label("×", "soft"), self.height_, self.sizes))
        self.rate = Choice()
        rates = [*STANDARD_RATES, *([] if settings.rate in STANDARD_RATES else [settings.rate])]
        for rate in rates:
            self.rate.addItem(f"{rate.label} fps", rate)
        self.rate.setCurrentIndex(rates.index(settings.rate))
        self.rate.currentIndexChanged.connect(self._rate_changed)
        form.addRow("Rate", self.rate)
        self.keep_seconds = QRadioButton("keep seconds (keys move to other frames)")
        self.keep_frames = QRadioButton("keep frames (the scene gets faster or slower)")
        self.keep_seconds.setChecked(True)
        self._keep = QWidget()
        column = QVBoxLayout(self._keep)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.keep_seconds)
        column.addWidget(self.keep_frames)
        form.addRow("", self._keep)
        self.first, self.last = QLineEdit(str(settings.first)), QLineEdit(str(settings.last))
        form.addRow("Frames", beside(self.first, label("to", "soft"), self.last))
        self.unit = QLineEdit(f"{settings.pixels_per_unit:g}")
        form.addRow("One unit is", beside(self.unit, label("artwork pixels", "soft")))
        self.millimetres = QLineEdit(f"{settings.mm_per_unit:g}")
        form.addRow("and", beside(self.millimetres, label("mm, for the depth of field", "soft")))
        self.background = QPushButton()
        self.background.clicked.connect(self._choose_background)
        form.addRow("Background", self.background)
        self._add_look_of_light(form)
        self.formats = QLineEdit("; ".join(f"{f.name} {f.width}x{f.height}" for f in scene.formats))
        self.formats.setToolTip(
            "Name and size of each further output frame, such as: Portrait 4:5 1080x1350; Square 1080x1080"
        )
        form.addRow("Formats", self.formats)
        self.problem = label("", "warning")
        self.problem.setWordWrap(True)
        accept = push_button("Apply", self.accept)
        accept.setDefault(True)
        self.column.addLayout(form)
        self.column.addWidget(self.problem)
        self.add_buttons(push_button("Cancel", self.reject), accept)
        self._show_background()
        self._rate_changed()

    def _add_look_of_light(self, form: QFormLayout) -> None:
        settings = self._document.settings
        self.light = _choice(
            (("as light adds up", "linear"), ("as display values", "display")), settings.light,
            "How colours mix in haze, blur, motion blur and what is seen through. Older scenes keep display values, "
            "so that they look as they did",
        )  # fmt: skip
        form.addRow("Colours mix", self.light)
        self.exposure = _choice(
            (("evenly while it is open", "box"), ("opening and closing softly", "soft")), settings.exposure,
            "How the shutter lets light in: a soft one leaves streaks that fade at both ends",
        )  # fmt: skip
        form.addRow("Exposure", self.exposure)

    def _preset(self, index: int) -> None:
        if index > 0:
            _, width, height = FRAME_SIZES[index - 1]
            self.width_.setText(str(width))
            self.height_.setText(str(height))

    def _rate_changed(self) -> None:
        has_keys = any(channel.keys for node in self._document.scene.nodes for channel in node.channels)
        changed = self.rate.currentData() != self._document.settings.rate
        self._keep.setVisible(changed and has_keys)

    def _choose_background(self) -> None:
        chosen = QColorDialog.getColor(self.palette().color(self.backgroundRole()), self, "Background")
        if chosen.isValid():
            self._background = chosen.name()
            self._show_background()

    def _show_background(self) -> None:
        self.background.setText(self._background)
        light = int(self._background[1:3], 16) + int(self._background[3:5], 16) + int(self._background[5:7], 16) > 380
        self.background.setStyleSheet(f"background: {self._background}; color: {'#1c262b' if light else '#efe8d6'};")

    def changed_scene(self, scene: Scene) -> Scene:
        """The scene with what was entered. ValueError says what is wrong."""
        keep = "seconds" if self.keep_seconds.isChecked() else "frames"
        rate = self.rate.currentData()
        old = scene.settings
        scene = change_rate(scene, rate, keep)  # type: ignore[arg-type]
        first, last = _whole(self.first, "first frame"), _whole(self.last, "last frame")
        if (first, last) == (old.first, old.last):
            first, last = scene.settings.first, scene.settings.last
        if last < first:
            raise ValueError("The last frame must not come before the first.")
        if last - first > 1_000_000:
            raise ValueError("A scene has up to a million frames.")
        width, height = _whole(self.width_, "width", 1, 8192), _whole(self.height_, "height", 1, 4320)
        settings = replace(
            scene.settings, width=width, height=height, rate=rate, first=first, last=last,
            pixels_per_unit=_positive(self.unit, "pixels per unit"),
            mm_per_unit=_positive(self.millimetres, "millimetres per unit"), background=self._background,
            light=self.light.currentData(), exposure=self.exposure.currentData(),
        )  # fmt: skip
        scene = change_settings(scene, settings)
        name = self.name.text().strip()
        if not name:
            raise ValueError("The scene needs a name.")
        return replace(scene, name=name[:200], formats=_formats(self.formats.text(), scene.formats))

    def accept(self) -> None:
        try:
            scene = self.changed_scene(self._document.scene)
        except ValueError as problem:
            self.problem.setText(str(problem))
            return
        self._document.edit("Scene settings", lambda _: scene)
        super().accept()


def _whole(field: QLineEdit, name: str, low: int = -1_000_000, high: int = 1_000_000) -> int:
    try:
        value = parse_number(field.text())
    except ValueError as problem:
        raise ValueError(f"{name.capitalize()}: {problem}") from None
    if value != round(value) or not low <= value <= high:
        raise ValueError(f"{name.capitalize()}: type a whole number from {low} to {high}.")
    return round(value)


def _positive(field: QLineEdit, name: str) -> float:
    value = parse_number(field.text())
    if not 1e-3 < value <= 1e6:
        raise ValueError(f"{name.capitalize()}: type a number above 0.001, up to 1000000.")
    return value


def _formats(text: str, known: tuple[Format, ...]) -> tuple[Format, ...]:
    """Formats as they are typed; one that was there keeps its fit and its window."""
    before = {each.name: each for each in known}
    out: list[Format] = []
    for part in filter(None, (part.strip() for part in text.split(";"))):
        name, _, size = part.rpartition(" ")
        width, _, height = size.lower().replace("×", "x").partition("x")
        if not (
            name.strip() and width.isdigit() and height.isdigit() and 0 < int(width) <= 8192 and 0 < int(height) <= 4320
        ):
            raise ValueError(f"Formats: “{part}” is not a name and a size, such as Portrait 4:5 1080x1350.")
        if any(each.name == name.strip() for each in out):
            raise ValueError(f"Formats: “{name.strip()}” is there twice.")
        known_before = before.get(name.strip())
        fresh = Format.fresh(name.strip(), int(width), int(height))
        out.append(replace(known_before, width=int(width), height=int(height)) if known_before else fresh)
    return tuple(out)


def _choice(entries: Iterable[tuple[str, str]], now: str, tip: str) -> Choice:
    """One of some values by their words."""
    out = Choice()
    for words, value in entries:
        out.addItem(words, value)
    out.setCurrentIndex(out.findData(now))
    out.setToolTip(tip)
    return out
