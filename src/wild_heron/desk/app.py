"""Starting the window."""

import signal
import sys
from pathlib import Path
from types import TracebackType

import platformdirs
from PyQt6.QtCore import QSettings, QTimer
from PyQt6.QtWidgets import QApplication

from .collector import Collector
from .theme import apply_style, apply_theme
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
    return app


def run(path: Path | None, as_copy: bool = False) -> int:
    """Open the window, with a scene if there is one, and stay until it is closed."""
    app = make_app()
    window = MainWindow(make_settings())
    apply_style(app)

    def unexpected(kind: type[BaseException], problem: BaseException, trace: TracebackType | None) -> None:
        """A mistake of ours must not take the day's work with it: keep a copy and go on."""
        sys.__excepthook__(kind, problem, trace)
        window.document.cancel()
        window.files.autosaver.write()
        window.document.say(
            f"Something went wrong ({kind.__name__}: {problem}). Your work is autosaved; save it now.", True
        )

    sys.excepthook = unexpected
    # Ctrl-C in the terminal closes the window in order: not at once, for Python may see the signal in the midst of
    # painting. The timer lets it see the signal at all.
    signal.signal(signal.SIGINT, lambda *_: QTimer.singleShot(0, window.close))
    wake = QTimer()
    wake.timeout.connect(lambda: None)
    wake.start(300)
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
    return app.exec()
