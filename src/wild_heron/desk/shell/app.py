"""Starting the window."""

import sys
from pathlib import Path

import platformdirs
from PyQt6.QtCore import QSettings, QTimer
from PyQt6.QtWidgets import QApplication

from ...files.sessions import clear_stale
from ...log import start_log
from ..widgets.plain_text import PlainToolTips
from ..widgets.theme import apply_style, apply_theme
from ..widgets.unexpected import reports
from .collector import Collector
from .signals import Signals
from .window import MainWindow


def make_settings() -> QSettings:
    """Where window sizes and recent files are kept."""
    folder = Path(platformdirs.user_config_dir("wild-heron"))
    return QSettings(str(folder / "window.ini"), QSettings.Format.IniFormat)


def make_app() -> QApplication:
    app = QApplication.instance()
    if not isinstance(app, QApplication):
        app = QApplication(sys.argv[:1])
    app.setApplicationName("wild-heron")
    app.setApplicationDisplayName("")
    apply_theme(app)
    app.tooltips = PlainToolTips()  # type: ignore[attr-defined]
    app.installEventFilter(app.tooltips)  # type: ignore[attr-defined]
    return app


def run(path: Path | None, as_copy: bool = False) -> int:
    """Open the window, with a scene if there is one, and stay until it is closed."""
    app = make_app()
    window = MainWindow(make_settings())
    apply_style(app)

    def unexpected(what: str) -> None:
        """A mistake of ours must not take the day's work with it: keep a copy and go on."""
        window.document.cancel()
        window.files.autosaver.write()
        window.document.messages.say(f"Something went wrong ({what}). Your work is autosaved; save it now.", True)

    start_log(on_screen=True)
    reports.unexpected.connect(unexpected)
    reports.watch()
    signals = Signals(window)
    signals.ended.connect(app.exit)
    clear_stale()
    if path is not None:
        window.files.open(path, as_copy=as_copy, ask=False)
    if window.banner.isHidden():
        window.files.offer_unsaved()
    window.show()
    collector = Collector()
    settle = QTimer()
    settle.setSingleShot(True)
    settle.setInterval(1500)
    settle.timeout.connect(collector.start)
    window.document.opened.connect(settle.start)
    settle.start()
    return app.exec() or signals.status
