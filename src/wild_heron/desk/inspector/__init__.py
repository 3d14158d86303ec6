"""The inspector: the numbers of what is selected, a file for each kind of node."""

from .camera import release
from .panel import Inspector

__all__ = ["Inspector", "release"]
