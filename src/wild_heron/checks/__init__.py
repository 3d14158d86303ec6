"""Checks: measurements of the film that warn, in every format, and the smallest changes that put it right."""

from .case import CheckCase
from .finding import Finding, Judged
from .judging import CHECKS, LIMITS, judged
from .measures import Measures

__all__ = ["CHECKS", "LIMITS", "CheckCase", "Finding", "Judged", "Measures", "judged"]
