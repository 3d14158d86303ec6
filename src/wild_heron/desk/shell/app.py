"""Starting the window."""

import atexit
import contextlib
import logging
import os
import sys
from functools import cache
from pathlib import Path
from typing import NoReturn

from PyQt6 import sip
from PyQt6.QtCore import QTimer
from PyQt6.QtGui import QIcon
from PyQt6.QtWidgets import QApplication

from ... import __version__
from ...files.formats import ICON
from ...integration import ID
from ..state.preferences import Preferences, settings_file
from ..widgets.theme import apply_theme, choose_theme
from .window import MainWindow


@cache
def make_app() -> QApplication:
    """The one application, which outlives every window."""
    app = QApplication.instance()
    if not isinstance(app, QApplication):
        # Asked for here, since who asks the application is given a style as an object, which costs more than the rest.
        app = QApplication([*sys.argv[:1], "-style", "fusion"])
    # Threads that work something out let the window's go on five times as soon as they would.
    sys.setswitchinterval(0.001)
    app.setApplicationName("wild-heron")
    app.setApplicationDisplayName("")
    app.setApplicationVersion(__version__)
    app.setDesktopFileName(ID)
    apply_theme(app)
    # Where somebody else's script ends with a window open, its threads end first.
    atexit.register(_take_down)
    return app


def _prepare(preferences: Preferences) -> None:
    """What has to be known before there is an application: the size of the interface."""
    if preferences.scale != 100:
        # The system's own factor, where it gives one, goes on top of this.
        os.environ.setdefault("QT_SCALE_FACTOR", f"{preferences.scale / 100:g}")


def leave(status: int) -> NoReturn:
    """End the process, once every window is closed and what was said is written."""
    close_windows()
    logging.shutdown()
    for stream in (sys.stdout, sys.stderr):
        # Whoever reads it may be gone, or may never have been there.
        with contextlib.suppress(OSError, ValueError, AttributeError):
            stream.flush()
    os._exit(status)


def close_windows() -> None:
    """Close what is open without a question; what was changed is autosaved. For when the program ends by itself."""
    for window in QApplication.topLevelWidgets():
        if isinstance(window, MainWindow):
            window.leave_now()


def _take_down() -> None:
    """For when the interpreter ends by itself: nothing of the windows is left for what comes after.

    PyQt deletes what Python owns while it goes through the list of all wrappers; where one that it deletes takes the
    next in the list with it, as windows do with what is in them, it reads freed memory.
    """
    close_windows()
    for window in QApplication.topLevelWidgets():
        if not sip.isdeleted(window):
            sip.delete(window)


def run(path: Path | None, as_copy: bool = False) -> NoReturn:
    """Open the window, with a scene if there is one, stay until it is closed, and end the process."""
    settings = settings_file()
    preferences = Preferences(settings)
    _prepare(preferences)
    app = make_app()
    choose_theme(preferences.shown_theme if preferences.theme == "system" else preferences.theme)
    window = MainWindow(settings)
    window.show_painted()
    desk = window.fill()
    app.setWindowIcon(QIcon(str(ICON)))
    # What is heavy to load comes after there is something to see.
    from ...files.sessions import clear_stale
    from ...log import start_log
    from ..widgets.plain_text import PlainToolTips
    from ..widgets.unexpected import reports
    from .collector import Collector
    from .system_signals import Signals

    def unexpected(what: str) -> None:
        """A mistake of ours must not take the day's work with it: keep a copy and go on."""
        desk.document.cancel()
        desk.files.autosaver.write()
        desk.banner.offer(
            f"Something went wrong ({what}). Your work is autosaved; save it now.",
            {"Open the log folder": desk.open.log_folder, "Close": None},
        )

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
    tooltips = PlainToolTips()
    settle.timeout.connect(lambda: app.installEventFilter(tooltips))
    desk.document.opened.connect(settle.start)
    settle.start()
    # Whoever asked meanwhile need not wait for a loop that nobody would end.
    status = signals.status or app.exec() or signals.status
    # What is left holds each other in circles; Python would take it down in no order, beside threads that still run.
    leave(status)
