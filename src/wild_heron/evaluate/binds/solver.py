"""The signature of a bind's solver; each module lists its own in ``SOLVERS``."""

from collections.abc import Callable
from typing import Any

from ...arrays import Array
from ...scene import AnyNode
from ..context import EvaluationContext

Solver = Callable[[EvaluationContext, AnyNode, Any, int, Array], Array]
"""Makes of world matrices (M, 4, 4) of a node those (M′, 4, 4) after its bind number so-and-so, from 1."""

Solvers = dict[type, Solver]
