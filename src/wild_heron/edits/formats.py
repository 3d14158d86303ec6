"""Output formats: their guides, and what of their windows is locked."""

from typing import Any, Literal

from msgspec.structs import replace

from ..scene.channels import ACROSS, SIZE, UP
from ..scene.errors import SceneError
from ..scene.guides import GUIDES, Guide
from ..scene.model import Format, Scene, main_format
from ..scene.nodes import FormatWindow
from ..scene.specs import channel_or_default
from .keys import set_channel

WindowLock = Literal["width", "height", "across", "up"]
WINDOW_LOCKS: tuple[WindowLock, ...] = ("width", "height", "across", "up")


def format_named(scene: Scene, name: str) -> Format:
    """A format by its name, the scene's own frame among them; SceneError where there is none."""
    found = next((each for each in scene.formats_with_main() if each.name == name), None)
    if found is None:
        raise SceneError(f"There is no format {name}. Scene ▸ Scene settings lists them.")
    return found


def change_format(scene: Scene, name: str, **fields: Any) -> Scene:
    """The scene with another version of a format; of its own frame only ``guides`` can be others here."""
    shape = format_named(scene, name)
    if shape.plain == main_format(scene.settings):
        return replace(scene, **fields)
    return replace(scene, formats=tuple(replace(each, **fields) if each is shape else each for each in scene.formats))


def set_guides(scene: Scene, name: str, **fields: Any) -> Scene:
    """The scene with other guides over a format's picture: ``shown``, ``text``, ``mask`` or ``strength``."""
    return change_format(scene, name, guides=replace(format_named(scene, name).guides, **fields))


def show_guide(scene: Scene, name: str, guide: Guide, on: bool) -> Scene:
    """The scene with one of a format's guides shown, or not."""
    shown = {*format_named(scene, name).guides.shown} - {guide} | ({guide} if on else set())
    return set_guides(scene, name, shown=tuple(each for each in GUIDES if each in shown))


def window_locks(scene: Scene, node_id: str) -> frozenset[WindowLock]:
    """What of a window is locked: it is as wide, or as high, as the camera's picture, or stays where it is along an
    axis."""
    node, shape = _window(scene, node_id)
    out: set[WindowLock] = set()
    names: tuple[tuple[WindowLock, str], ...] = (("across", ACROSS), ("up", UP))
    for lock, name in names:
        channel = node.channel(name)
        if node.locked or (channel is not None and channel.locked):
            out.add(lock)
    size = channel_or_default(node, SIZE)
    if size.locked and not size.keys and size.value == 1.0 and shape.fit in ("width", "height"):
        out.add("width" if shape.fit == "width" else "height")
    return frozenset(out)


def lock_window(scene: Scene, node_id: str, lock: WindowLock, locked: bool) -> Scene:
    """The scene with a window that keeps as wide, or as high, as the camera's picture at every frame, or that is not
    moved along an axis; or that may be again."""
    node, shape = _window(scene, node_id)
    if lock in ("across", "up"):
        channel = channel_or_default(node, ACROSS if lock == "across" else UP)
        return set_channel(scene, node_id, replace(channel, locked=locked))
    size = channel_or_default(node, SIZE)
    if not locked:
        return set_channel(scene, node_id, replace(size, locked=False))
    scene = set_channel(scene, node_id, replace(size, value=1.0, keys=(), locked=True))
    return change_format(scene, shape.name, fit=lock)


def _window(scene: Scene, node_id: str) -> tuple[FormatWindow, Format]:
    node = scene.node(node_id)
    shape = next((each for each in scene.formats if each.window == node_id), None)
    if not isinstance(node, FormatWindow) or shape is None:
        raise SceneError(f"{node.name} is not the window of a format.")
    return node, shape
