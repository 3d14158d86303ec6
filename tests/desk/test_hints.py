"""What hints, messages, tooltips, guide and lessons say of menus and shortcuts is so."""

import ast
import re
from functools import cache
from pathlib import Path

import pytest

import wild_heron
from wild_heron.desk.shell.action_list import ACTIONS
from wild_heron.desk.shell.proportions import MENUS
from wild_heron.lessons import lessons

SOURCE = Path(wild_heron.__file__).parent
GUIDE = SOURCE / "guide.md"
MENU = {name: title.replace("&", "") for name, title in MENUS.items()}
BY_MENU = {
    (MENU[each.name.partition(".")[0]], sub, each.text.rstrip("…")) for each in ACTIONS for sub in {each.sub, ""}
}
CHORDS = {chord.replace("Del", "Delete") for each in ACTIONS for chord in (each.shortcut, each.also) if chord}
SUBS = {(MENU[each.name.partition(".")[0]], each.sub) for each in ACTIONS if each.sub} | {("Scene", "Recent")}
PATH = re.compile(r"\b(" + "|".join(MENU.values()) + r") ▸ ([^▸.;:,()*_]+)(?: ▸ ([^▸.;:,()*_]+))?")
CHORD = re.compile(r"(?<![\w,] )\b([A-Z], (?:Shift\+)?[A-Z0-9])\b(?![\w/])")


@cache
def strings() -> list[tuple[str, str]]:
    """Every string of the desk and of what speaks through it, with where it is."""
    out = []
    for path in sorted(SOURCE.rglob("*.py")):
        text = path.read_text("utf-8")
        if "▸" not in text and not CHORD.search(text):
            continue
        tree = ast.parse(text)
        # Not those that only say something to who reads the code.
        silent = {id(each.value) for each in ast.walk(tree) if isinstance(each, ast.Expr)}
        texts = [
            each.value for each in ast.walk(tree)
            if isinstance(each, ast.Constant) and isinstance(each.value, str) and id(each) not in silent
        ]  # fmt: skip
        out += [(path.relative_to(SOURCE).as_posix(), text) for text in texts]
    return out


def is_known(menu: str, first: str, second: str | None) -> bool:
    """Whether a menu has an entry, or a submenu with one, by the beginning of the words after it."""
    if second is None:
        return any(m == menu and first.startswith(item) for m, _, item in BY_MENU) or any(
            m == menu and first.startswith(sub) for m, sub in SUBS
        )
    return any(m == menu and sub == first.strip() and second.startswith(item) for m, sub, item in BY_MENU)


def all_texts() -> list[tuple[str, str]]:
    spoken = [
        (f"lesson {name}", text)
        for name, each in lessons().items()
        for step in each.steps
        for text in (step.say, step.hint)
    ]
    return [*strings(), ("guide", GUIDE.read_text("utf-8").replace("*", "")), *spoken]


def test_menus_that_are_named_are_there():
    wrong = [
        f"{where}: {found[0]}"
        for where, text in all_texts()
        for found in PATH.finditer(text)
        if not is_known(found[1], found[2].strip(), found[3])
    ]
    assert not wrong


def test_chords_that_are_named_are_there():
    wrong = [
        f"{where}: {found[1]} in {text[:70]!r}"
        for where, text in strings()
        if where.startswith("desk/") and len(text) > 8
        for found in CHORD.finditer(text)
        if found[1] not in CHORDS
    ]
    assert not wrong


@pytest.mark.parametrize("name", list(lessons()))
def test_what_a_lesson_points_at_and_does_is_an_action(name):
    names = {each.name for each in ACTIONS}
    for step in lessons()[name].steps:
        done = getattr(step.done, "actions", ())
        shown = [deed.action for deed in step.show if hasattr(deed, "action")]
        pointed = [at.removeprefix("action:") for at in step.at if at.startswith("action:")]
        assert set(done) | set(shown) | set(pointed) <= names
