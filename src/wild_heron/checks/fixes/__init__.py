"""The smallest changes that put a finding right. Each is worked out by trying: what it gives passes its check."""

from .fixing import fixes_for
from .trial import Fix

__all__ = ["Fix", "fixes_for"]
