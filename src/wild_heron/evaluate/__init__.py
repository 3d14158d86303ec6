"""Evaluates a scene at arrays of frames: channels, world matrices, camera views and the film."""

from .cameras import CameraView, turn_speed
from .evaluation import Evaluation, evaluate
from .film_output import output

__all__ = ["CameraView", "Evaluation", "evaluate", "output", "turn_speed"]
