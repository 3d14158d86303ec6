"""Lessons: guided jobs that check themselves. Each is an open JSON file in ``files``."""

from .conditions import Now, holds
from .lesson import Condition, Deed, Lesson, Step, lesson, lessons

__all__ = ["Condition", "Deed", "Lesson", "Now", "Step", "holds", "lesson", "lessons"]
