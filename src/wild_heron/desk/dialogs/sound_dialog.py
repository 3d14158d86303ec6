"""The scene's sounds and beats: place, loudness, fades, tempo and bars."""

from functools import partial
from typing import Any

from PyQt6.QtWidgets import QFormLayout, QGridLayout, QLineEdit, QWidget

from ...scene.sound import FASTEST_TEMPO, SLOWEST_TEMPO
from ..commands.sound_commands import SoundCommands
from ..state.document import Document
from ..widgets.dialog import Dialog, beside, push_button
from ..widgets.panel_parts import icon_button, label
from ..widgets.quantities import parse_number

_FIELDS = (
    ("start", "begins at frame", -1e6, 1e6), ("skip", "skips seconds", 0.0, 3600.0), ("gain", "gain, dB", -60.0, 24.0),
    ("fade_in", "fade in, s", 0.0, 3600.0), ("fade_out", "fade out, s", 0.0, 3600.0),
)  # fmt: skip


class SoundDialog(Dialog):
    """Every change is a step."""

    def __init__(self, document: Document, sounds: SoundCommands, parent: QWidget | None = None) -> None:
        super().__init__("Sound", parent, 640, looked_past=False)
        self._document, self._sounds = document, sounds
        self._page = QWidget()
        self.column.addWidget(self._page)
        form = QFormLayout()
        form.setVerticalSpacing(9)
        self.tempo, self.first, self.bar, self.downbeat = (QLineEdit() for _ in range(4))
        self.twice = push_button("Twice", sounds.twice, "Twice as many beats (P, W)", False)
        self.half = push_button("Half", sounds.half, "Half as many beats (P, H)", False)
        tempo = (self.tempo, self.twice, self.half, label("first at frame", "soft"), self.first)
        form.addRow("Beats a minute", beside(*tempo))
        form.addRow("Beats to a bar", beside(self.bar, label("the first of a bar is beat", "soft"), self.downbeat))
        self.column.addLayout(form)
        for field, name in (
            (self.tempo, "tempo"),
            (self.first, "first"),
            (self.bar, "bar"),
            (self.downbeat, "downbeat"),
        ):
            field.editingFinished.connect(lambda field=field, name=name: self._set_beats(field, name))
        self.listen = push_button("Find the beats", sounds.find, "Find tempo and beats in the first sound", False)
        self.add_buttons(push_button("Close", self.close), apart=self.listen)
        self.fields: list[dict[str, QLineEdit]] = []
        document.changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show the sounds and beats as they are."""
        page = QWidget()
        grid = QGridLayout(page)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(8)
        for k, (_, title, _, _) in enumerate(_FIELDS, 1):
            grid.addWidget(label(title, "soft", 11), 0, k)
        self.fields = []
        scene = self._document.scene
        for number, sound in enumerate(scene.sounds):
            name = label(f"{sound.name}, {sound.seconds:.1f} s")
            problem = self._document.heard.problems.get(sound.source)
            name.setToolTip(problem or sound.source)
            grid.addWidget(name, number + 1, 0)
            row: dict[str, QLineEdit] = {}
            for k, (what, title, low, high) in enumerate(_FIELDS, 1):
                edit = QLineEdit(f"{getattr(sound, what):g}")
                edit.setFixedWidth(72)
                edit.setAccessibleName(f"{sound.name} {title}")
                edit.editingFinished.connect(partial(self._set, number, what, edit, low, high))
                grid.addWidget(edit, number + 1, k)
                row[what] = edit
            self.fields.append(row)
            switch = icon_button("eye" if sound.on else "eye_shut", "Heard or not", size=22)
            switch.clicked.connect(partial(self._switch, number, not sound.on))
            grid.addWidget(switch, number + 1, len(_FIELDS) + 1)
            away = icon_button("close", "Remove the sound", size=22)
            away.clicked.connect(lambda checked, n=number: self._sounds.remove(n))
            grid.addWidget(away, number + 1, len(_FIELDS) + 2)
        if not scene.sounds:
            grid.addWidget(label("No sound yet: Play ▸ Sound ▸ Bring in sound… (P, S)", "soft"), 1, 0, 1, 6)
        self.column.replaceWidget(self._page, page)
        self._page.deleteLater()
        self._page = page
        beats = scene.beats
        shown = ("", "", "", "") if beats is None else (
            f"{beats.tempo:g}", f"{beats.first:g}", str(beats.bar), str(beats.downbeat + 1)
        )  # fmt: skip
        for edit, text in zip((self.tempo, self.first, self.bar, self.downbeat), shown, strict=True):
            if not edit.hasFocus():
                edit.setText(text)

    def _switch(self, number: int, on: bool, checked: bool = False) -> None:
        self._sounds.change(number, "Sound on or off", on=on)

    def _number(self, edit: QLineEdit, low: float, high: float) -> float | None:
        try:
            return min(max(parse_number(edit.text()), low), high)
        except ValueError as problem:
            self._document.messages.say(str(problem), True)
            return None

    def _set(self, number: int, field: str, edit: QLineEdit, low: float, high: float) -> None:
        value = self._number(edit, low, high)
        if value is not None and value != getattr(self._document.scene.sounds[number], field):
            self._sounds.change(number, f"Sound: {field.replace('_', ' ')}", **{field: value})

    def _set_beats(self, edit: QLineEdit, name: str) -> None:
        if not edit.text().strip():
            return
        limits: dict[str, tuple[float, float]] = {
            "tempo": (SLOWEST_TEMPO, FASTEST_TEMPO), "first": (-1e6, 1e6), "bar": (1.0, 32.0), "downbeat": (1.0, 32.0),
        }  # fmt: skip
        value: Any = self._number(edit, *limits[name])
        if value is None:
            return
        value = round(value) if name == "bar" else round(value) - 1 if name == "downbeat" else value
        beats = self._document.scene.beats
        if beats is None or getattr(beats, name) != value:
            self._sounds.change_beats(f"Beats: {name}", **{name: value})
