"""Doing a lesson in the window: what it says, what it points at, whether it is done."""

from .lesson_bar import LessonBar
from .lesson_run import LessonRun
from .performing import Performer
from .pointer import Pointer

__all__ = ["LessonBar", "LessonRun", "Performer", "Pointer"]
