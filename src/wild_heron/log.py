"""The program's log: one file in the state folder, a megabyte at the most, for every process."""

import logging
import warnings
from pathlib import Path

log = logging.getLogger("wild_heron")
CRASHES = "crashes.log"


class _Plain(logging.Formatter):
    """Without what would steer a terminal: names in messages come from anyone's files."""

    def format(self, record: logging.LogRecord) -> str:
        text = super().format(record)
        return "".join(each if each.isprintable() or each in "\n\t" else "�" for each in text)


def log_folder() -> Path:
    import platformdirs

    return Path(platformdirs.user_state_dir("wild-heron"))


def keep_crashes() -> None:
    """Have what a crash of the process itself leaves (faulthandler) written beside the log."""
    import faulthandler

    try:
        log_folder().mkdir(parents=True, exist_ok=True)
        path = log_folder() / CRASHES
        if path.exists() and path.stat().st_size > 500_000:
            path.replace(path.with_suffix(".1.log"))
        # Open for as long as the process lives.
        file = path.open("a", encoding="utf-8")
    except OSError:
        faulthandler.enable()
        return
    faulthandler.enable(file)


def start_log(on_screen: bool = False) -> None:
    """Begin to keep the log, without a file where its folder cannot be written. ``on_screen``: on screen as well."""
    # The window's frame is painted before any of this is needed.
    import logging.handlers

    keep_crashes()
    # What NumPy thinks of single numbers is nothing that a user can do anything about.
    warnings.filterwarnings("ignore", category=RuntimeWarning)
    log.propagate = False
    log.addHandler(logging.NullHandler())
    if on_screen:
        shown = logging.StreamHandler()
        shown.setFormatter(_Plain())
        log.addHandler(shown)
    try:
        log_folder().mkdir(parents=True, exist_ok=True)
        kept = logging.handlers.RotatingFileHandler(
            log_folder() / "wild-heron.log", maxBytes=500_000, backupCount=1, encoding="utf-8", errors="replace"
        )
    except OSError:
        return
    kept.setFormatter(logging.Formatter("%(asctime)s %(process)d %(levelname)s %(message)s"))
    log.addHandler(kept)
