"""Reading files from strangers: in a process of its own, with limits. ``Reader`` is the only door to it."""

from .client import Cancelled, Reader

__all__ = ["Cancelled", "Reader"]
