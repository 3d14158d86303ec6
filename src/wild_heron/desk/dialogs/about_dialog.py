"""What this program is, and of what versions, to be copied into a report."""

import platform
import sys
from importlib.metadata import PackageNotFoundError, version

from PyQt6.QtCore import PYQT_VERSION_STR, QT_VERSION_STR, QSize
from PyQt6.QtGui import QFont, QGuiApplication, QIcon
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from ... import __version__
from ...files.formats import ICON
from ..widgets.dialog import Dialog, push_button
from ..widgets.panel_parts import label

_PACKAGES = ("numpy", "scipy", "moderngl", "msgspec", "av")


def details(renderer: str) -> list[tuple[str, str]]:
    """What the program runs on, by name."""
    rows = [
        ("Wild Heron", __version__),
        ("Renderer", renderer or "not started"),
        ("Screen", f"{QGuiApplication.platformName()}, scale {_scale():g}"),
        ("Qt", f"{QT_VERSION_STR}, PyQt {PYQT_VERSION_STR}"),
        ("Python", f"{platform.python_version()} ({sys.implementation.name})"),
        ("System", f"{platform.system()} {platform.release()}, {platform.machine()}"),
    ]
    for name in _PACKAGES:
        try:
            rows.append((name, version(name)))
        except PackageNotFoundError:
            continue
    return rows


def _scale() -> float:
    screen = QGuiApplication.primaryScreen()
    return screen.devicePixelRatio() if screen is not None else 1.0


class AboutDialog(Dialog):
    """Name, licence and versions."""

    def __init__(self, renderer: str, parent: QWidget | None = None) -> None:
        super().__init__("About Wild Heron", parent, 440)
        self.column.setContentsMargins(26, 22, 26, 16)
        self._details = details(renderer)
        head = QHBoxLayout()
        head.setSpacing(18)
        sign = QLabel()
        sign.setPixmap(QIcon(str(ICON)).pixmap(QSize(72, 72), self.devicePixelRatioF()))
        head.addWidget(sign)
        words = QVBoxLayout()
        words.setSpacing(3)
        words.addWidget(label(f"Wild Heron {__version__}", size=18, weight=QFont.Weight.DemiBold))
        words.addWidget(label("Animate cameras through layered graphics.", "soft"))
        words.addStretch()
        head.addLayout(words, 1)
        self.column.addLayout(head)
        grid = QGridLayout()
        grid.setHorizontalSpacing(18)
        grid.setVerticalSpacing(4)
        for row, (name, value) in enumerate(self._details[1:]):
            grid.addWidget(label(name, "soft", 11), row, 0)
            text = label(value, size=11)
            text.setWordWrap(True)
            grid.addWidget(text, row, 1)
        grid.setColumnStretch(1, 1)
        self.column.addLayout(grid)
        licence = label(
            "Free software under the GNU General Public License, version 3 or later. "
            "The typeface Inter is under the SIL Open Font License 1.1.",
            "soft", 11,
        )  # fmt: skip
        licence.setWordWrap(True)
        self.column.addWidget(licence)
        self.copy_button = push_button("Copy details", self._copy, "For a report: versions, renderer and system")
        self.add_buttons(push_button("Close", self.close), apart=self.copy_button)

    def _copy(self) -> None:
        clipboard = QGuiApplication.clipboard()
        if clipboard is not None:
            clipboard.setText("\n".join(f"{name}: {value}" for name, value in self._details))
        self.copy_button.setText("Copied")
