"""Starting the window."""

import os
import sys
from functools import cache
from pathlib import Path

from PyQt6.QtCore import QSettings, QStandardPaths, QTimer
from PyQt6.QtWidgets import QApplication

from ..widgets.theme import apply_theme
from .window import MainWindow


def make_settings() -> QSettings:
    """Where window sizes and recent files are kept."""
    folder = QStandardPaths.writableLocation(QStandardPaths.StandardLocation.GenericConfigLocation)
    return QSettings(f"{folder}/wild-heron/window.ini", QSettings.Format.IniFormat)


@cache
def make_app() -> QApplication:
    """The one application, which outlives every window."""
    app = QApplication.instance()
    if not isinstance(app, QApplication):
        app = QApplication(sys.argv[:1])
    app.setApplicationName("wild-heron")
    app.setApplicationDisplayName("")
    apply_theme(app)
    return app


def run(path: Path | None, as_copy: bool = False) -> int:
    """Open the window, with a scene if there is one, and stay until it is closed."""
    # Matrices here are small: threads that wait for large ones only take processors from the renderer and the screen.
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    app = make_app()
    window = MainWindow(make_settings())
    window.show_painted()
    desk = window.fill()
    # What is heavy to load comes after there is something to see.
    from ...files.sessions import clear_stale
    from ...log import start_log
    from ..widgets.plain_text import PlainToolTips
    from ..widgets.unexpected import reports
    from .collector import Collector
    from .signals import Signals

    def unexpected(what: str) -> None:
        """A mistake of ours must not take the day's work with it: keep a copy and go on."""
        desk.document.cancel()
        desk.files.autosaver.write()
        desk.document.messages.say(f"Something went wrong ({what}). Your work is autosaved; save it now.", True)

    start_log(on_screen=True)
    reports.unexpected.connect(unexpected)
    reports.watch()
    signals = Signals(window)
    signals.ended.connect(app.exit)
    clear_stale()
    if path is not None:
        desk.files.open(path, as_copy=as_copy, ask=False)
    if desk.banner.isHidden():
        desk.files.offer_unsaved()
    collector = Collector()
    settle = QTimer()
    settle.setSingleShot(True)
    settle.setInterval(1500)
    settle.timeout.connect(collector.start)
    desk.document.opened.connect(settle.start)
    settle.start()
    tooltips = PlainToolTips()
    app.installEventFilter(tooltips)
    return app.exec() or signals.status
