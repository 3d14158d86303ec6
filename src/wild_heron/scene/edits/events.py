"""Events, sounds and beats put in, changed and taken out."""

from typing import Any, TypeVar

import msgspec

from ..dependencies import check_event
from ..errors import SceneError
from ..events import Event
from ..model import Scene
from ..sound import Beats, Sound

_Part = TypeVar("_Part")


def add_event(scene: Scene, event: Event) -> Scene:
    """The scene with an event more. SceneError where it depends on the output, or looks at what is not there."""
    check_event(scene, event)
    return msgspec.structs.replace(scene, events=(*scene.events, event))


def change_event(scene: Scene, number: int, **fields: Any) -> Scene:
    """The scene with some fields of an event changed; SceneError as with a new one."""
    changed = msgspec.structs.replace(_at(scene.events, number, "event"), **fields)
    check_event(scene, changed)
    return msgspec.structs.replace(scene, events=_replaced(scene.events, number, changed))


def remove_event(scene: Scene, number: int) -> Scene:
    """The scene without an event."""
    _at(scene.events, number, "event")
    return msgspec.structs.replace(scene, events=_without(scene.events, number))


def add_sound(scene: Scene, sound: Sound) -> Scene:
    """The scene with a sound more."""
    return msgspec.structs.replace(scene, sounds=(*scene.sounds, sound))


def change_sound(scene: Scene, number: int, **fields: Any) -> Scene:
    """The scene with some fields of a sound changed."""
    changed = msgspec.structs.replace(_at(scene.sounds, number, "sound"), **fields)
    return msgspec.structs.replace(scene, sounds=_replaced(scene.sounds, number, changed))


def remove_sound(scene: Scene, number: int) -> Scene:
    """The scene without a sound."""
    _at(scene.sounds, number, "sound")
    return msgspec.structs.replace(scene, sounds=_without(scene.sounds, number))


def set_beats(scene: Scene, beats: Beats | None) -> Scene:
    """The scene with other beats, or none."""
    return msgspec.structs.replace(scene, beats=beats)


def _at(parts: tuple[_Part, ...], number: int, word: str) -> _Part:
    if not 0 <= number < len(parts):
        raise SceneError(f"There is no {word} number {number + 1}.")
    return parts[number]


def _replaced(parts: tuple[_Part, ...], number: int, part: _Part) -> tuple[_Part, ...]:
    return (*parts[:number], part, *parts[number + 1 :])


def _without(parts: tuple[_Part, ...], number: int) -> tuple[_Part, ...]:
    return (*parts[:number], *parts[number + 1 :])
