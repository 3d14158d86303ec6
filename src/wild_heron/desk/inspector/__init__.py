"""The inspector: the numbers of what is selected, a file for each kind of node."""

from .inspector_panel import Inspector

__all__ = ["Inspector"]
