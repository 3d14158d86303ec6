"""The scene over time: dependency order, carriers, aims, cameras; and edits that need a pose."""

from .cameras import CameraView, turn_speed
from .evaluation import Evaluation, evaluate
from .film_output import output

__all__ = ["CameraView", "Evaluation", "evaluate", "output", "turn_speed"]
