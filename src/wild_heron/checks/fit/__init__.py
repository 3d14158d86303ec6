"""Fits a move to the set that it is put on: the smallest change after which the checks find nothing of it."""

from .fitting import EVERYTHING as EVERYTHING
from .fitting import fit as fit
from .looked import Look as Look
from .trial import Change as Change
from .trial import Fitted as Fitted
