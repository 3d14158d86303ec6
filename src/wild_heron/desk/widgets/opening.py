"""Handing files and folders to the system's own programs."""

from pathlib import Path

from PyQt6.QtCore import QUrl
from PyQt6.QtGui import QDesktopServices


def open_outside(place: Path) -> bool:
    """Show a folder or a file in the program that the system has for it; whether there is one."""
    return bool(QDesktopServices.openUrl(QUrl.fromLocalFile(str(place))))
