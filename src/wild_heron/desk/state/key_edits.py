"""Edits of keys, as one step or while dragging: what they moved is selected, what is locked is named and left alone."""

from collections.abc import Callable, Iterable

from ...edits import KeyRef, left_alone
from ...scene import Scene, SceneError
from ...scene.inputs import ChannelRef
from .document import Document

Meant = Iterable[KeyRef | ChannelRef]
Change = Callable[[Scene], Scene | tuple[Scene, Iterable[KeyRef]]]


def edit_keys(document: Document, name: str, meant: Meant, change: Change, merge: str = "") -> bool:
    """One step that changes these keys, or channels; whether anything changed. Steps of one ``merge`` that follow at
    once become one."""
    alone = left_alone(document.scene, _channels(meant))
    try:
        scene, moved = _both(change(document.scene))
    except (SceneError, ValueError) as problem:
        document.messages.say(str(problem), True)
        return False
    done = document.push(name, document.state.with_scene(scene), merge)
    if done and moved is not None:
        document.selection.choose_keys(moved)
    if alone:
        document.messages.say(alone, True)
    return done


def drag_keys(document: Document, name: str, meant: Meant, change: Change) -> None:
    """A state of the running gesture, or the first of one, made of the scene that it began with."""
    if not document.gesture.running:
        alone = left_alone(document.scene, _channels(meant))
        document.gesture.begin(name)
        if alone:
            document.messages.say(alone, True)
    base = document.gesture.base
    try:
        scene, moved = _both(change(base.scene))
    except (SceneError, ValueError) as problem:
        document.messages.say(str(problem), True)
        return
    document.gesture.preview(base.with_scene(scene), moved)


def _both(made: Scene | tuple[Scene, Iterable[KeyRef]]) -> tuple[Scene, Iterable[KeyRef] | None]:
    return (made, None) if isinstance(made, Scene) else made


def _channels(meant: Meant) -> Iterable[ChannelRef]:
    return dict.fromkeys((each[0], each[1]) for each in meant)
