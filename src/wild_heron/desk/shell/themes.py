"""The theme of the interface: the one that was chosen, or what the system wishes for, as it changes."""

from collections.abc import Callable

from PyQt6.QtCore import QObject, Qt
from PyQt6.QtWidgets import QApplication

from ..state.preferences import Preferences
from ..widgets.theme import choose_theme, theme_name


def wished_for() -> str:
    """What the system wishes for: high contrast, a light scheme or, where it says nothing, dusk."""
    hints = QApplication.styleHints()
    if hints is None:
        return "dusk"
    contrast = hints.accessibility()
    if contrast is not None and contrast.contrastPreference() == Qt.ContrastPreference.HighContrast:
        return "contrast"
    return "morning" if hints.colorScheme() == Qt.ColorScheme(1) else "dusk"


class Themes(QObject):
    """Shows the theme that is due; ``repaint`` is called for what is not painted by widgets."""

    def __init__(self, preferences: Preferences, repaint: Callable[[], None], parent: QObject) -> None:
        super().__init__(parent)
        self._preferences, self._repaint = preferences, repaint
        preferences.changed.connect(lambda name: self.show() if name == "theme" else None)
        hints = QApplication.styleHints()
        if hints is not None:
            hints.colorSchemeChanged.connect(self.show)
        # A wish for contrast is not told as it changes: it is looked up when the program is turned to again.
        app = QApplication.instance()
        if isinstance(app, QApplication):
            app.applicationStateChanged.connect(self.show)

    def show(self) -> None:
        due = self._preferences.theme
        name = wished_for() if due == "system" else due
        if name != theme_name():
            choose_theme(name)
            self._repaint()
        self._preferences.remember_theme(name)
