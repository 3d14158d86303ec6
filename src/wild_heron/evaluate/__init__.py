"""The scene over time: dependency order, carriers, aims, cameras; and edits that need a pose."""

from .evaluation import CameraView, Evaluation, aim_distance, evaluate, turn_speed

__all__ = ["CameraView", "Evaluation", "aim_distance", "evaluate", "turn_speed"]
