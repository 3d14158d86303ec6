"""Formulas: what may stand in one, checked without evaluating anything.

A formula is an expression in Python's grammar for arithmetic, and nothing else of Python: numbers, the names below,
calls of the functions below, comparisons, ``a if test else b``, and ``of("Node", "channel")`` for another channel.
"""

import ast
import warnings
from collections.abc import Iterator
from functools import lru_cache
from typing import NamedTuple

from .errors import SceneError

MAX_LENGTH = 500
_MAX_PARTS = 250
_MAX_DEPTH = 60
_MAX_NUMBER = 1e100

NAMES = {
    "value": "the channel's own value: its keys, and what is linked to it",
    "frame": "the frame, between frames too",
    "seconds": "seconds from frame 0",
    "turn": "one turn, 360 degrees",
    "pi": "3.14159…",
}

FUNCTIONS: dict[str, tuple[int, int, str]] = {
    "sin": (1, 1, "sin(degrees)"),
    "cos": (1, 1, "cos(degrees)"),
    "tan": (1, 1, "tan(degrees)"),
    "asin": (1, 1, "asin(x), in degrees"),
    "acos": (1, 1, "acos(x), in degrees"),
    "atan2": (2, 2, "atan2(y, x), in degrees"),
    "sqrt": (1, 1, "sqrt(x)"),
    "exp": (1, 1, "exp(x)"),
    "log": (1, 1, "log(x)"),
    "abs": (1, 1, "abs(x)"),
    "sign": (1, 1, "sign(x)"),
    "floor": (1, 1, "floor(x)"),
    "ceil": (1, 1, "ceil(x)"),
    "round": (1, 1, "round(x)"),
    "fract": (1, 1, "fract(x): what is left above the whole number"),
    "min": (2, 16, "min(a, b, …)"),
    "max": (2, 16, "max(a, b, …)"),
    "clamp": (3, 3, "clamp(x, low, high)"),
    "mix": (3, 3, "mix(a, b, share)"),
    "remap": (5, 5, "remap(x, low, high, out_low, out_high)"),
    "ease": (1, 3, "ease(x, start, end): from 0 to 1, soft at both ends"),
    "noise": (1, 2, "noise(x, seed): smooth chance from -1 to 1, a wave or so per 1 of x"),
    "of": (2, 2, 'of("Node", "channel"): another channel; of("", "channel") one of this node'),
}


class FormulaError(SceneError):
    """A formula that cannot be used. ``place`` is where in it, counted in characters from 0."""

    def __init__(self, text: str, place: int = 0) -> None:
        self.place = place
        super().__init__(text)


class Reference(NamedTuple):
    """A channel named in a formula: ids ("" for the formula's own node), and where the node's name stands."""

    node: str
    channel: str
    start: int
    end: int


_OPERATORS = (ast.Add, ast.Sub, ast.Mult, ast.Div, ast.Mod, ast.Pow, ast.FloorDiv)
_COMPARISONS = (ast.Lt, ast.LtE, ast.Gt, ast.GtE, ast.Eq, ast.NotEq)


@lru_cache(maxsize=2048)
def parsed(text: str) -> ast.expr:
    """The formula's tree, in which only what is allowed occurs. FormulaError says what is wrong, and where."""
    if len(text) > MAX_LENGTH:
        raise FormulaError(f"A formula may have {MAX_LENGTH} characters; this one has {len(text)}.", MAX_LENGTH)
    if not text.strip():
        raise FormulaError("Write a formula, such as value + 2 * sin(turn * seconds).")
    if not text.isascii() or "\n" in text or "\x00" in text:
        odd = next(i for i, each in enumerate(text) if not each.isascii() or each in "\n\x00")
        if '"' not in text[:odd]:
            raise FormulaError(f"“{text[odd]!s}” cannot stand in a formula.", odd)
    # Columns of the tree count bytes of UTF-8: a name of the same length in plain letters keeps them as they are.
    plain = "".join(each if each.isascii() else "?" for each in text)
    start = len(plain) - len(plain.lstrip())
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # Odd escapes in a quoted name are no business of the user's.
            tree = ast.parse(plain.strip(), mode="eval").body
    except SyntaxError as problem:
        if _goes_on(plain):
            raise FormulaError("It ends too early.", len(text.rstrip())) from None
        place = min(max((problem.offset or 1) - 1 + start, 0), len(text))
        raise FormulaError("It stops making sense here.", place) from None
    except (ValueError, OverflowError, RecursionError, MemoryError):
        raise FormulaError("It is nested too deeply.") from None
    parts = 0
    for part in ast.walk(tree):
        parts += 1
        if isinstance(part, ast.expr):
            _check(part, start)
            part.col_offset += start
            part.end_col_offset = (part.end_col_offset or 0) + start
    if parts > _MAX_PARTS:
        raise FormulaError("It is too long: split it between two channels.")
    if _depth(tree) > _MAX_DEPTH:
        raise FormulaError("It is nested too deeply: split it between two channels.")
    _check_strings(tree)
    return tree


def _depth(tree: ast.expr) -> int:
    """How deep the tree is: as deep as evaluating it recurses."""
    level: list[ast.AST] = [tree]
    depth = 0
    while level:
        depth += 1
        level = [child for part in level for child in ast.iter_child_nodes(part) if isinstance(child, ast.expr)]
    return depth


def _goes_on(text: str) -> bool:
    """Whether a text that cannot be parsed could, if it went on."""
    for ending in ("0", "0)", ")", "0))", "))", " else 0"):
        try:
            with warnings.catch_warnings():
                warnings.simplefilter("ignore")
                ast.parse(text.strip() + ending, mode="eval")
            return True
        except (SyntaxError, ValueError, RecursionError, MemoryError):
            pass
    return False


def _check(part: ast.expr, start: int) -> None:
    place = part.col_offset + start
    match part:
        case ast.Constant(value=bool() | None):
            raise FormulaError("Only numbers can stand here.", place)
        case ast.Constant(value=int() | float() as number):
            if not abs(number) <= _MAX_NUMBER:
                raise FormulaError("That number is too large.", place)
        case ast.Constant(value=str()):
            pass
        case ast.Name(id=name):
            if name not in NAMES and name not in FUNCTIONS:
                raise FormulaError(f"There is nothing called “{name}”. {_nearest(name)}", place)
        case ast.Call(func=ast.Name(id=name), args=args, keywords=[]) if name in FUNCTIONS:
            low, high, usage = FUNCTIONS[name]
            if not low <= len(args) <= high or any(isinstance(each, ast.Starred) for each in args):
                raise FormulaError(f"Write {usage}.", place)
        case ast.Call():
            raise FormulaError("Only the listed functions can be called, with plain arguments.", place)
        case ast.BinOp(op=op):
            if isinstance(op, ast.BitXor):
                raise FormulaError("A power is written a ** b.", place)
            if not isinstance(op, _OPERATORS):
                raise FormulaError("That sign is not known here: + - * / // % ** are.", place)
        case ast.UnaryOp(op=ast.USub() | ast.UAdd()):
            pass
        case ast.Compare(ops=ops):
            if len(ops) != 1 or not isinstance(ops[0], _COMPARISONS):
                raise FormulaError("Compare two things with < <= > >= == or !=.", place)
        case ast.IfExp():
            pass
        case _:
            raise FormulaError("That cannot stand in a formula.", place)


def _nearest(name: str) -> str:
    import difflib

    close = difflib.get_close_matches(name, [*NAMES, *FUNCTIONS], 1, 0.6)
    return f"Did you mean {close[0]}?" if close else f'Another channel is written of("Node", "{name}").'


def _check_strings(tree: ast.expr) -> None:
    """Strings may stand only in ``of``, and a function's name only before its bracket."""
    names: set[int] = set()
    for part in ast.walk(tree):
        if isinstance(part, ast.Call):
            assert isinstance(part.func, ast.Name)
            names.add(id(part.func))
            if part.func.id == "of":
                for each in part.args:
                    if not (isinstance(each, ast.Constant) and isinstance(each.value, str)):
                        raise FormulaError(f"Write {FUNCTIONS['of'][2]}.", each.col_offset)
                    names.add(id(each))
    for part in ast.walk(tree):
        if isinstance(part, ast.Constant) and isinstance(part.value, str) and id(part) not in names:
            raise FormulaError('Words stand only in of("Node", "channel").', part.col_offset)
        if isinstance(part, ast.Name) and part.id in FUNCTIONS and part.id not in NAMES and id(part) not in names:
            raise FormulaError(f"Write {FUNCTIONS[part.id][2]}.", part.col_offset)


def _calls(text: str) -> Iterator[ast.Call]:
    for part in ast.walk(parsed(text)):
        if isinstance(part, ast.Call) and isinstance(part.func, ast.Name) and part.func.id == "of":
            yield part


def quoted(text: str, part: ast.expr) -> str:
    """What stands in the quotes of a string of the formula."""
    return text[part.col_offset + 1 : (part.end_col_offset or 0) - 1]


@lru_cache(maxsize=2048)
def references(text: str) -> tuple[Reference, ...]:
    """The channels a formula names, in order. FormulaError where it cannot be used."""
    found = []
    for call in _calls(text):
        node, channel = call.args
        found.append(
            Reference(quoted(text, node), quoted(text, channel), node.col_offset + 1, (node.end_col_offset or 0) - 1)
        )
    return tuple(sorted(found, key=lambda each: each.start))


def with_nodes(text: str, names: dict[str, str]) -> str:
    """The formula with other words for nodes: ids for names, or names for ids. One that cannot be used stays."""
    try:
        found = references(text)
    except FormulaError:
        return text
    for each in reversed(found):
        text = text[: each.start] + names.get(each.node, each.node) + text[each.end :]
    return text
