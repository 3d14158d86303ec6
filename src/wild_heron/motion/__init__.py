"""Numbers over time: key curves and easing."""

from .curve import Curve, compiled, evaluate_channel
from .easing import sample_ease, unit_ease

__all__ = ["Curve", "compiled", "evaluate_channel", "sample_ease", "unit_ease"]
