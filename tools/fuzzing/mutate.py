"""Changing JSON and bytes at random, the same for a seed."""

import copy
import random
from typing import Any

NUMBERS = (
    0, -1, 1, 2, 1e-9, 5e-324, 1e9, -1e9, 1e10, 1e18, 1e300, -1e300, 1e308, 2**31, 2**63, 10**400, 0.5, 99, 100_000,
    1_000_000, 65_536, 360, -360, 1e-300,
)  # fmt: skip
WORDS = (
    "", "-", "camera", "main-camera", "kite", "x" * 300, "a" * 100_000, "../../../etc/passwd", "/dev/zero", "\x1b[31m",
    "\u0000", "<img src='file:///etc/passwd'>", "noise(frame, frame)", "value ** value ** value", "1" * 400,
    'of("kite", "position.x")', 'of("nobody", "x")', "(" * 200, "sin(" * 60 + "1" + ")" * 60, "𝔘" * 50, "position.x",
)  # fmt: skip


def places(value: Any, trail: tuple[Any, ...] = ()) -> list[tuple[Any, ...]]:
    """The way to everything inside a JSON value."""
    found: list[tuple[Any, ...]] = []
    waiting = [(value, trail)]
    while waiting:
        here, way = waiting.pop()
        items = here.items() if isinstance(here, dict) else enumerate(here) if isinstance(here, list) else ()
        for key, inner in items:
            found.append((*way, key))
            waiting.append((inner, (*way, key)))
    return found


def mutated_json(value: Any, rng: random.Random, known: list[tuple[Any, ...]]) -> Any:
    """A copy with one to six changes at random."""
    out = copy.deepcopy(value)
    for _ in range(rng.choice((1, 1, 1, 2, 3, 6))):
        way = rng.choice(known)
        holder = out
        try:
            for step in way[:-1]:
                holder = holder[step]
            old = holder[way[-1]]
        except (KeyError, IndexError, TypeError):
            continue
        holder[way[-1]] = _changed(old, rng, holder, out, known)
        if isinstance(holder, dict) and rng.random() < 0.1:
            del holder[way[-1]]
    return out


def _changed(old: Any, rng: random.Random, holder: Any, whole: Any, known: list[tuple[Any, ...]]) -> Any:
    kind = rng.random()
    if kind < 0.15:
        return rng.choice((None, True, [], {}, "text", 7, -0.0, [[]], [old], {"type": "aim"}))
    if kind < 0.25:
        try:
            there = whole
            for step in rng.choice(known):
                there = there[step]
            return copy.deepcopy(there)
        except (KeyError, IndexError, TypeError):
            return old
    if isinstance(old, bool):
        return not old
    if isinstance(old, int | float):
        return rng.choice(
            (rng.choice(NUMBERS), old * rng.choice((-1, 2, 1e3, 1e-3, 1e9)), old + rng.choice(NUMBERS[:9]))
        )
    if isinstance(old, str):
        return rng.choice((rng.choice(WORDS), old[: len(old) // 2], old * 2, old[::-1]))
    if isinstance(old, list) and old:
        return rng.choice((old[::-1], old * 2, old[1:], old * 40 if len(old) < 200 else old, [*old, *old[:1]]))
    return old


def mutated_bytes(data: bytes, rng: random.Random) -> bytes:
    """A copy with bytes flipped, cut out, doubled, or made extreme; or cut short."""
    out = bytearray(data)
    for _ in range(rng.choice((1, 1, 2, 4, 16, 64))):
        if not out:
            break
        # Heads are where sizes stand.
        at = rng.randrange(min(len(out), 200)) if rng.random() < 0.5 else rng.randrange(len(out))
        kind = rng.random()
        if kind < 0.4:
            out[at] = rng.choice((0, 1, 127, 128, 255, rng.randrange(256)))
        elif kind < 0.6:
            out[at : at + 4] = rng.choice((b"\xff\xff\xff\xff", b"\x7f\xff\xff\xff", b"\0\0\0\0", b"\0\0\xff\xff"))
        elif kind < 0.75:
            del out[at : at + rng.randrange(1, 200)]
        elif kind < 0.9:
            out[at:at] = out[at : at + rng.randrange(1, 200)] * rng.choice((1, 1, 50))
        else:
            del out[at:]
    return bytes(out)
