"""The smallest changes that put a finding right. Each is worked out by trying: what it gives passes its check."""

from .fixing import NEEDS_LOOK, fixes_for
from .problem import PhotographLook
from .trial import Fix

__all__ = ["NEEDS_LOOK", "Fix", "PhotographLook", "fixes_for"]
