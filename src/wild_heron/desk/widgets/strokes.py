"""Many lines painted in one go."""

from collections.abc import Sequence

from PyQt6.QtCore import QLineF
from PyQt6.QtGui import QPainter


def draw_lines(p: QPainter, lines: Sequence[QLineF]) -> None:
    """Lines in the pen there is; none are none."""
    if lines:
        p.drawLines(lines[0], *lines[1:])
