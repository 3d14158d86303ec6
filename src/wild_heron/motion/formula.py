"""Evaluates formulas for arrays of frames; their grammar is in ``wild_heron.scene.formulas``."""

import ast
from collections.abc import Callable, Mapping

import numpy as np

from ..arrays import Array
from ..scene.formulas import parsed, quoted
from .noise import gradient_noise

Lookup = Callable[[str, str], Array]


def _degrees(function: Callable[[Array], Array]) -> Callable[[Array], Array]:
    return lambda x: function(np.radians(x))


def _clamp(x: Array, low: Array, high: Array) -> Array:
    return np.minimum(np.maximum(x, low), high)


def _remap(x: Array, low: Array, high: Array, out_low: Array, out_high: Array) -> Array:
    return out_low + (x - low) / (high - low) * (out_high - out_low)


def _ease(x: Array, start: Array | float = 0.0, end: Array | float = 1.0) -> Array:
    share = np.clip((x - start) / (np.asarray(end) - start), 0.0, 1.0)
    return share * share * share * (share * (share * 6.0 - 15.0) + 10.0)


def _noise(x: Array, seed: Array | float = 0.0) -> Array:
    x, seeds = np.broadcast_arrays(x, np.floor(np.clip(seed, -1e9, 1e9)))
    known = np.isfinite(seeds)
    made = gradient_noise(x, np.where(known, seeds, 0.0).astype(np.int64))
    return np.where(known, made, np.nan)


def _side_by_side(function: Callable[[Array, Array], Array]) -> Callable[[Array, Array], Array]:
    """Of two arrays of one size that each lie in one piece: beside a lone number NumPy works some functions out by
    another way, whose last bit may be another one."""
    return lambda a, b: function(*(np.ascontiguousarray(each) for each in np.broadcast_arrays(a, b)))


_FUNCTIONS: Mapping[str, Callable[..., Array]] = {
    "sin": _degrees(np.sin), "cos": _degrees(np.cos), "tan": _degrees(np.tan),
    "asin": lambda x: np.degrees(np.arcsin(x)), "acos": lambda x: np.degrees(np.arccos(x)),
    "atan2": lambda y, x: np.degrees(_side_by_side(np.arctan2)(y, x)),
    "sqrt": np.sqrt, "exp": np.exp, "log": np.log, "abs": np.abs, "sign": np.sign,
    "floor": np.floor, "ceil": np.ceil, "round": np.round, "fract": lambda x: x - np.floor(x),
    "min": lambda *each: np.minimum.reduce(np.broadcast_arrays(*each)),
    "max": lambda *each: np.maximum.reduce(np.broadcast_arrays(*each)),
    "clamp": _clamp, "mix": lambda a, b, share: a + (b - a) * share, "remap": _remap, "ease": _ease, "noise": _noise,
}  # fmt: skip

_OPERATORS: Mapping[type[ast.AST], Callable[..., Array]] = {
    ast.Add: np.add, ast.Sub: np.subtract, ast.Mult: np.multiply, ast.Div: np.divide, ast.Mod: np.mod,
    ast.Pow: _side_by_side(np.power), ast.FloorDiv: np.floor_divide, ast.USub: np.negative, ast.UAdd: np.positive,
    ast.Lt: np.less, ast.LtE: np.less_equal, ast.Gt: np.greater, ast.GtE: np.greater_equal,
    ast.Eq: np.equal, ast.NotEq: np.not_equal,
}  # fmt: skip


def evaluate_formula(formula: str, value: Array, frames: Array, fps: float, of: Lookup) -> Array:
    """The formula's values (N,), or (1,) where nothing in it changes; not finite where it gives no number.

    ``value`` is the channel's own (N,) or (1,), ``of`` gives those of another channel by node and channel name.
    FormulaError where the formula cannot be used.
    """

    def at(part: ast.expr) -> Array:
        match part:
            case ast.Constant(value=int() | float() as number):
                return np.array([float(number)])
            case ast.Name(id="value"):
                return value
            case ast.Name(id="frame"):
                return frames
            case ast.Name(id="seconds"):
                return frames / fps
            case ast.Name(id="turn"):
                return np.array([360.0])
            case ast.Name(id="pi"):
                return np.array([np.pi])
            case ast.Call(func=ast.Name(id="of"), args=[node, channel]):
                return of(quoted(formula, node), quoted(formula, channel))
            case ast.Call(func=ast.Name(id=name), args=args):
                return _FUNCTIONS[name](*(at(each) for each in args))
            case ast.BinOp(left, op, right):
                return _OPERATORS[type(op)](at(left), at(right))
            case ast.UnaryOp(op, operand):
                return _OPERATORS[type(op)](at(operand))
            case ast.Compare(left, [op], [right]):
                return _OPERATORS[type(op)](at(left), at(right)).astype(np.float64)
            case ast.IfExp(test, body, orelse):
                return np.where(at(test) != 0.0, at(body), at(orelse))
        raise AssertionError(ast.dump(part))  # parsed() lets nothing else through.

    with np.errstate(all="ignore"):
        return np.asarray(at(parsed(formula)), dtype=np.float64)
