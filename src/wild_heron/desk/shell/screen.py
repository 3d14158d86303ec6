"""Whether there is a screen to open a window on. Qt would end the program where there is none."""

import importlib.util
import os
import re
import socket
from pathlib import Path

from ...integration.libraries import libraries, missing

_REMEDY = "Start it in a desktop session, or use the commands that need no window: see wild-heron --help."


def missing_screen() -> str | None:
    """Why no window can be opened, as a line for people; None where one can."""
    if importlib.util.find_spec("PyQt6") is None:
        return "the window needs PyQt6, which is not installed. Install wild_heron[desk]; the commands work without."
    platform = os.environ.get("QT_QPA_PLATFORM", "").partition(";")[0].partition(":")[0]
    wayland, display = os.environ.get("WAYLAND_DISPLAY", ""), os.environ.get("DISPLAY", "")
    if platform not in ("", "xcb", "wayland"):
        return None
    if wayland and platform != "xcb" and _answers(Path(os.environ.get("XDG_RUNTIME_DIR", "/run")) / wayland):
        return _missing_library("wayland")
    if platform == "wayland":
        return f"there is no screen: Wayland ({wayland or 'WAYLAND_DISPLAY is not set'}) does not answer. {_REMEDY}"
    if not display:
        return f"there is no screen (DISPLAY is not set). {_REMEDY}"
    if not _x_answers(display):
        return f"there is no screen: the X server “{display}” does not answer. {_REMEDY}"
    return _missing_library("x11")


def _missing_library(platform: str) -> str | None:
    """What Qt would end the program for want of: its platform's. Others are missed where something is imported."""
    return missing(each for each in libraries(platform) if each.platform)


def _x_answers(display: str) -> bool:
    found = re.fullmatch(r"(?:(?P<host>[^:]*):)(?P<number>[0-9]+)(?:\.[0-9]+)?", display)
    if found is None:
        return False
    host, number = found["host"], int(found["number"])
    if host in ("", "unix"):
        return _answers(Path(f"/tmp/.X11-unix/X{number}")) or _answers(f"\0/tmp/.X11-unix/X{number}")
    try:
        with socket.create_connection((host, 6000 + number), timeout=3.0):
            return True
    except OSError:
        return False


def _answers(place: Path | str) -> bool:
    with socket.socket(socket.AF_UNIX) as trial:
        try:
            trial.connect(str(place))
            return True
        except (OSError, ValueError):
            return False
