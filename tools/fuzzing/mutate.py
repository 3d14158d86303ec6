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


def grown_json(scenes: list[Any], rng: random.Random) -> Any:
    """A scene with more of some of what it has, and with nodes, binds, movers and shots of another: still sound in
    most of its parts, and larger than anyone thought of."""
    out, other = copy.deepcopy(rng.choice(scenes)), rng.choice(scenes)
    scene = out["scene"]
    for _ in range(rng.choice((1, 2, 4, 8))):
        kind = rng.choice(("nodes", "lists", "foreign", "channels", "range", "shots", "lists"))
        if kind == "nodes":
            _more_nodes(scene, scene["nodes"], rng)
        elif kind == "foreign":
            _more_nodes(scene, other["scene"]["nodes"], rng)
        elif kind == "lists":
            _longer(*rng.choice(_lists(scene)), rng)
        elif kind == "channels":
            _shared(scene["nodes"], rng)
        elif kind == "range":
            scene.setdefault("settings", {})["last"] = rng.choice((50, 1_000, 20_000, 99_990))
        elif kind == "shots" and other["scene"].get("shots"):
            for name in ("shots", "events", "takes", "sounds", "markers", "formats", "subjects"):
                if rng.random() < 0.5 and name in other["scene"]:
                    scene[name] = copy.deepcopy(other["scene"][name])
    return out


_SHORT = {"binds": 24, "movers": 24, "targets": 24, "channels": 0, "dials": 8, "formats": 8}
"""How long lists grow that may not be long, or whose members have names that mean something."""


def _lists(value: Any) -> list[tuple[str, list[Any]]]:
    """Every list of objects inside a JSON value, with its name."""
    found: list[tuple[str, list[Any]]] = []
    waiting = [("", value)]
    while waiting:
        name, here = waiting.pop()
        if isinstance(here, list) and here and isinstance(here[0], dict):
            found.append((name, here))
        waiting += (
            here.items()
            if isinstance(here, dict)
            else [(name, each) for each in here]
            if isinstance(here, list)
            else ()
        )
    return found


def _longer(name: str, items: list[Any], rng: random.Random) -> None:
    """More of the same, each a little later and with a name of its own."""
    longest = _SHORT.get(name, 20_000)
    times = rng.choice((2, 5, 20, 100))
    length = min(len(items), 400)
    step = max((each.get("frame", each.get("first", 0.0)) for each in items if isinstance(each, dict)), default=0.0)
    for k in range(1, times):
        for each in items[:length]:
            one = copy.deepcopy(each)
            if isinstance(one.get("id"), str):
                one["id"] = f"{one['id'][:60]}-{k}"
            elif "camera" in one and "name" in one:
                one["name"] = f"{one['name']}-{k}"
            for place in ("frame", "first", "start"):
                if isinstance(one.get(place), int | float) and isinstance(step, int | float):
                    one[place] += k * (step + 1.0)
            if len(items) >= longest:
                return
            items.append(one)


def _more_nodes(scene: Any, others: list[Any], rng: random.Random) -> None:
    """Copies of nodes, which point at each other, at the first ones, or at nobody."""
    chosen = rng.sample(others, rng.randrange(1, min(len(others), 12) + 1))
    there = [each["id"] for each in scene["nodes"] if isinstance(each, dict) and "id" in each]
    for _ in range(rng.choice((1, 3, 12, 60))):
        names = {each["id"]: f"{each['id'][:60]}-{rng.randrange(10**6)}" for each in chosen}
        known = set(there) | set(names.values())

        def pointed(value: Any, names: dict[str, str] = names, known: set[str] = known) -> Any:
            if isinstance(value, dict):
                return {key: pointed(each) for key, each in value.items()}
            if isinstance(value, list):
                return [pointed(each) for each in value]
            if isinstance(value, str) and value in names and rng.random() < 0.8:
                return names[value]
            return value

        for each in chosen:
            one = pointed(copy.deepcopy(each))
            one["id"] = names[each["id"]]
            if one.get("carrier") not in known:
                one.pop("carrier", None)
            scene["nodes"].append(one)
        if len(scene["nodes"]) > 2_500:
            return


def _shared(nodes: list[Any], rng: random.Random) -> None:
    """Binds, movers and channels of one node given to others of its kind, or to any."""
    giver = rng.choice(nodes)
    like = [each for each in nodes if each.get("type") == giver.get("type")] if rng.random() < 0.8 else nodes
    for name in ("binds", "movers", "channels"):
        for taker in rng.sample(like, min(len(like), rng.choice((1, 4, 30)))):
            if not giver.get(name) or rng.random() < 0.3:
                continue
            own = taker.setdefault(name, [])
            if name == "channels":
                merged = {each["name"]: each for each in own + copy.deepcopy(giver[name])}
                taker[name] = sorted(merged.values(), key=lambda each: each["name"])
            else:
                for each in copy.deepcopy(giver[name][:20]):
                    if isinstance(each.get("id"), str):
                        each["id"] = f"{each['id'][:60]}-{rng.randrange(10**6)}"
                    own.append(each)


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
