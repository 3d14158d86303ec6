"""Values over time: key curves, easing, noise, takes and sound, free of any scene."""

from .curve import Curve, compiled, evaluate_channel
from .easing import sample_ease, unit_ease

__all__ = ["Curve", "compiled", "evaluate_channel", "sample_ease", "unit_ease"]
