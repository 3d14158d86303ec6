"""What a check is: its limits, the kinds of findings that it has, and how it judges a film."""

from collections.abc import Callable
from typing import NamedTuple

from .case import CheckCase
from .finding import Finding, Row
from .limit import CheckLimit


class Check(NamedTuple):
    """``name`` in a scene, what it is called, what its row shows, the kinds of findings that it has, its limits, and
    how it judges a film. ``everywhere``: kinds that do not depend on where the frame lies: accepted in one format,
    they are in all."""

    name: str
    label: str
    about: str
    kinds: tuple[str, ...]
    limits: tuple[CheckLimit, ...]
    judge: Callable[[CheckCase], tuple[Row, list[Finding]]]
    everywhere: tuple[str, ...] = ()
