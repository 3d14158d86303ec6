"""What an action is: told beside what it does, and put in the menus by the window."""

import msgspec


class ActionSpec(msgspec.Struct, frozen=True):
    """One action. ``name`` is its menu and a word, such as ``scene.open``."""

    name: str
    text: str
    tip: str
    shortcut: str = ""
    icon: str = ""
    checkable: bool = False
    gap: bool = False
    sub: str = ""
    """The submenu it is in."""
    also: str = ""
    """A second chord."""
    needs: str = ""
    """What it waits for, where it is not always to be had."""
    words: str = ""
    """Others by which it is looked for."""
