"""The Qt application; the only place that imports Qt."""

import gc
import sys
from pathlib import Path
from typing import NoReturn

from ..integration.libraries import about
from .shell.screen import missing_screen


def open_window(path: Path | None, as_copy: bool = False) -> NoReturn:
    """Run the window until it is closed; nothing of Qt is loaded before this is called."""
    problem = missing_screen()
    if problem is not None:
        print(f"error: {problem}", file=sys.stderr)
        sys.exit(2)
    # While modules load and the window is built nothing is garbage; looking for it takes a tenth of that time.
    gc.disable()
    try:
        from .shell.app import run
    except ImportError as lacking:
        line = about(lacking)
        if line is None:
            raise
        print(f"error: {line}", file=sys.stderr)
        sys.exit(2)
    run(path, as_copy=as_copy)
