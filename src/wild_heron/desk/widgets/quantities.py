"""Numbers as people read and type them: units, whole turns, arithmetic."""

import ast
import math
import re

import numpy as np

from ...motion.formula import evaluate_formula
from ...scene.channels import ChannelSpec
from ...scene.formulas import FormulaError, parsed
from ...scene.types import UnitName

_CONSTANT = ("turn", "pi")
_ENDLESS = 1e6
"""Units, from which on a distance is as good as none."""


def parse_number(text: str, unit: UnitName | None = None) -> float:
    """A typed number or sum, such as ``1920/2`` or ``2 turns + 14°``. ValueError says what is wrong with it."""
    sum_ = text.strip().replace(",", ".").replace("−", "-").replace("×", "*").replace("÷", "/")
    sum_ = re.sub(r"(\d+(?:\.\d*)?|\.\d+)\s*turns?\b", r"(\1*360)", sum_)
    sum_ = re.sub(r"\s*(°|mm|units?|px)\s*", " ", sum_)
    percent = sum_.endswith("%")
    sum_ = sum_.rstrip("% ").strip()
    if re.match(r"^f\s*/?\s*\d", sum_):
        sum_ = sum_[1:].lstrip(" /")
    if not sum_ or len(sum_) > 200:
        raise ValueError("Type a number or a sum such as 1920/2.")
    try:
        value = _result(sum_)
    except FormulaError:
        raise ValueError(f"“{text}” is not a number or a sum.") from None
    if not math.isfinite(value):
        raise ValueError(f"“{text}” is not a finite number.")
    return value / 100.0 if percent or unit == "share" else value


def _result(formula: str) -> float:
    """What a formula comes to that asks for nothing but numbers. FormulaError where it is none."""
    tree = parsed(formula)
    called = {id(part.func) for part in ast.walk(tree) if isinstance(part, ast.Call)}
    for part in ast.walk(tree):
        if isinstance(part, ast.Name) and (part.id == "of" or not (id(part) in called or part.id in _CONSTANT)):
            raise FormulaError(f"There is no “{part.id}” here.", part.col_offset)
    nothing = np.array([math.nan])
    return float(evaluate_formula(formula, nothing, nothing, 1.0, lambda node, channel: nothing)[0])


def format_number(value: float, unit: UnitName) -> str:
    """A channel's value as it is shown."""
    if unit == "degrees":
        return format_degrees(value)
    if unit == "share":
        return f"{value * 100:.4g} %"
    if unit == "count":
        return f"{value:.0f}"
    if unit == "pixels":
        return _trimmed(value, 1)
    if unit == "mm":
        return f"{_trimmed(value, 1)} mm"
    if unit == "f":
        return f"f {_trimmed(value, 1)}"
    if unit == "units" and abs(value) >= _ENDLESS:
        return "∞"
    if unit == "units" and 0.0 < abs(value) < 0.005:
        return f"{value:.1g}"
    digits = 3 if unit == "factor" else 2
    return f"{round(value, digits) + 0.0:.{digits}f}"


def format_degrees(value: float) -> str:
    """Degrees, with whole turns apart: 734 → ``2 turns + 14.0°``."""
    turns = int(value / 360.0)
    if turns == 0:
        return f"{round(value, 1) + 0.0:.1f}°"
    rest = value - 360.0 * turns
    return f"{turns} turn{'' if abs(turns) == 1 else 's'} {'-' if rest < 0 else '+'} {_trimmed(abs(rest), 1)}°"


def _trimmed(value: float, digits: int) -> str:
    return f"{value:.{digits}f}".rstrip("0").rstrip(".") if digits else f"{value:.0f}"


def edit_text(value: float, unit: UnitName) -> str:
    """The value as it stands in the field while it is edited: every digit, no unit."""
    return f"{value * 100:.10g}%" if unit == "share" else f"{value:.10g}"


def step_for(spec: ChannelSpec, fine: bool = False, coarse: bool = False) -> float:
    """What one step of the wheel or an arrow key changes."""
    return spec.nudge * (0.1 if fine else 10.0 if coarse else 1.0)
