"""What a lesson is: steps with a sentence, what they point at, when they are done, and how they are shown."""

from functools import cache
from pathlib import Path
from typing import Annotated, Literal

import msgspec
from msgspec import Meta

_FILES = Path(__file__).with_name("files")
_Name = Annotated[str, Meta(min_length=1, max_length=80)]
_Words = Annotated[str, Meta(min_length=1, max_length=240)]


class _Told(msgspec.Struct, frozen=True, forbid_unknown_fields=True, tag_field="kind"):
    pass


# When a step is done


class Has(_Told, frozen=True, tag="has"):
    """There are at least so many nodes of a kind."""

    node: _Name
    least: int = 1


class Keyed(_Told, frozen=True, tag="keyed"):
    """A channel of a node has at least so many keys, and its values at them lie at least ``apart``."""

    node: _Name
    channel: _Name
    least: int = 2
    apart: float = 0.0


class Carried(_Told, frozen=True, tag="carried"):
    """A node is carried by one of a kind."""

    node: _Name
    by: _Name = "null"


class Bound(_Told, frozen=True, tag="bound"):
    """A node has a bind of a kind."""

    node: _Name
    bind: _Name


class Eased(_Told, frozen=True, tag="eased"):
    """None of a node's spans is linear or held, of those channels that have keys."""

    node: _Name


class Film(_Told, frozen=True, tag="film"):
    """The film has at least so many shots, and so many joins that are blends; by a ``way``, where one is told."""

    shots: int = 1
    blends: int = 0
    way: str = ""


class Moves(_Told, frozen=True, tag="moves"):
    """A node has a mover of a kind on any channel."""

    node: _Name
    mover: _Name


class Formats(_Told, frozen=True, tag="formats"):
    """There are at least so many formats beside the scene's own frame."""

    least: int = 1


class Did(_Told, frozen=True, tag="did"):
    """One of some actions was used."""

    actions: tuple[_Name, ...]


Shown = Literal["keys", "finding", "fix"]


class Seen(_Told, frozen=True, tag="seen"):
    """Several keys are selected, a finding is chosen when all frames are looked at, or a fix is shown."""

    what: Shown


class Changed(_Told, frozen=True, tag="changed"):
    """The scene is another than when the step began."""


Condition = Has | Keyed | Carried | Bound | Eased | Film | Moves | Formats | Did | Seen | Changed


# How a step is shown: what a user would do


class Do(_Told, frozen=True, tag="do"):
    """Use an action."""

    action: _Name


class Select(_Told, frozen=True, tag="select"):
    """Select nodes, by their ids, one after another."""

    nodes: Annotated[tuple[_Name, ...], Meta(min_length=1)]


class GoTo(_Told, frozen=True, tag="go"):
    """Go to a frame."""

    frame: float


class Pick(_Told, frozen=True, tag="pick"):
    """Select a key, by its node, channel and frame."""

    node: _Name
    channel: _Name
    frame: float


class Type(_Told, frozen=True, tag="type"):
    """Type a value for a channel of what is selected."""

    channel: _Name
    text: _Name


class Choose(_Told, frozen=True, tag="choose"):
    """Choose from a drop-down of the inspector, by what it is called."""

    field: _Name
    value: _Name


Deed = Do | Select | Pick | GoTo | Type | Choose


class Step(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """``at``: what is pointed at while it is to be done: ``action:…``, ``field:…``, ``choice:…`` or ``area:…``."""

    say: _Words
    done: Condition
    show: Annotated[tuple[Deed, ...], Meta(min_length=1, max_length=20)]
    at: tuple[_Name, ...] = ()
    hint: Annotated[str, Meta(max_length=240)] = ""


class Lesson(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """``scene``: the file, beside the demo's, that it is done in; "" for the user's own."""

    version: Annotated[int, Meta(ge=1, le=1)]
    name: _Name
    about: _Name
    minutes: Annotated[int, Meta(ge=1, le=10)]
    steps: Annotated[tuple[Step, ...], Meta(min_length=1, max_length=12)]
    scene: Annotated[str, Meta(max_length=80)] = ""


@cache
def lessons() -> dict[str, Lesson]:
    """The lessons that ship, by their ids, in order."""
    return {path.stem: msgspec.json.decode(path.read_bytes(), type=Lesson) for path in sorted(_FILES.glob("*.json"))}


def lesson(name: str) -> Lesson:
    """One of them; KeyError where there is none of this id."""
    return lessons()[name]
