"""Events, sounds and beats put in, changed and taken out."""

from itertools import pairwise
from typing import Any, TypeVar

import msgspec

from ..scene.dependencies import check_event
from ..scene.errors import SceneError
from ..scene.events import Event
from ..scene.model import Scene
from ..scene.sound import FASTEST_TEMPO, SLOWEST_TEMPO, Beats, Sound

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


def with_twice_the_beats(scene: Scene) -> Scene:
    """The scene with a beat more between every two. SceneError where there are none, or they are too many by then."""
    beats = _beats(scene)
    if 2.0 * beats.tempo > FASTEST_TEMPO:
        raise SceneError(f"There are {beats.tempo:.4g} beats a minute already; {FASTEST_TEMPO:.0f} is the most.")
    at = tuple(each for pair in pairwise(beats.at) for each in (pair[0], 0.5 * (pair[0] + pair[1]))) + beats.at[-1:]
    # Counted on, so that half as many again are what they were.
    downbeat = 2 * beats.downbeat if beats.downbeat < 16 else 2 * beats.downbeat % beats.bar
    return set_beats(scene, msgspec.structs.replace(beats, tempo=2.0 * beats.tempo, at=at, downbeat=downbeat))


def with_half_the_beats(scene: Scene) -> Scene:
    """The scene with every other beat, those that begin a bar among them. SceneError where there are none, or they are
    too few by then."""
    beats = _beats(scene)
    if 0.5 * beats.tempo < SLOWEST_TEMPO or (beats.at and len(beats.at) < 4):
        raise SceneError(f"There are only {beats.tempo:.4g} beats a minute, or too few of them.")
    odd = beats.downbeat % 2
    at = beats.at[odd::2]
    first = at[0] if at else beats.first + odd * 60.0 / beats.tempo * scene.settings.rate.fps
    changed = msgspec.structs.replace(beats, tempo=0.5 * beats.tempo, first=first, at=at, downbeat=beats.downbeat // 2)
    return set_beats(scene, changed)


def _beats(scene: Scene) -> Beats:
    if scene.beats is None:
        raise SceneError("There are no beats yet. Find them, or tap them along.")
    return scene.beats


def _at(parts: tuple[_Part, ...], number: int, word: str) -> _Part:
    if not 0 <= number < len(parts):
        raise SceneError(f"There is no {word} number {number + 1}.")
    return parts[number]


def _replaced(parts: tuple[_Part, ...], number: int, part: _Part) -> tuple[_Part, ...]:
    return (*parts[:number], part, *parts[number + 1 :])


def _without(parts: tuple[_Part, ...], number: int) -> tuple[_Part, ...]:
    return (*parts[:number], *parts[number + 1 :])
