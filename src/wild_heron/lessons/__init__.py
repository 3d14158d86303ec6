"""Lessons: guided jobs that check themselves. Each is an open JSON file in ``files``."""

from .conditions import holds
from .lesson import Condition, Deed, Lesson, Step, lesson, lessons

__all__ = ["Condition", "Deed", "Lesson", "Step", "holds", "lesson", "lessons"]
