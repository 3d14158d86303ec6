"""Bakes movers and takes to keys and back."""

from collections.abc import Iterable

from msgspec.structs import replace

from ..evaluate.movers.stopping import nothing_to_swing
from ..scene import AnyNode, Overshoot, Scene, SceneError, Unmoved, moved_channels, specs
from ..scene.movers import LIFE, POSE
from ..scene.specs import channel_or_default
from . import KeyRef, change_node, check_unlocked, set_channel
from .baking import Tolerance, keyed_through, read_closely
from .key_ranges import run_through
from .rigs import FrameRange, whole


def to_keys(scene: Scene, node_id: str, span: FrameRange | None = None, allowed: Tolerance | None = None) -> Scene:
    """What a node's movers and take make as keys of its own, as few as keep to it; they are off from then on, and the
    keys there were are kept, to go back to. SceneError where nothing moves, or a channel is locked."""
    node = scene.node(node_id)
    names = tuple(name for name in moved_channels(node) if name in specs(node))
    if not names:
        raise SceneError(f"{node.name} has no movers or take at work.")
    placing = next((bind for bind in node.binds if bind.on and bind.places), None)
    if placing is not None and not set(names).isdisjoint(POSE):
        raise SceneError(
            f"{placing.label.capitalize()} decides where {node.name} is, not its keys: dissolve the rig instead."
        )
    check_unlocked(node, names)
    here = read_closely(scene, span or whole(scene), [node_id], allowed=allowed)
    curves = {name: here.value(node_id, name) for name in names}
    before = Unmoved(
        tuple(channel for name in names if (channel := node.channel(name)) is not None),
        tuple(mover.id for mover in node.movers if mover.on),
        node.take is not None and node.take.on,
    )
    off = tuple(replace(mover, on=False) for mover in node.movers)
    take = replace(node.take, on=False) if node.take is not None else None
    scene = change_node(scene, node_id, movers=off, take=take, unmoved=before)
    return keyed_through(scene, node_id, here.frames, curves, allowed or Tolerance())


def back_to_movers(scene: Scene, node_id: str) -> Scene:
    """The way back: the keys as they were before, and what was on is on again."""
    node = scene.node(node_id)
    kept = node.unmoved
    if kept is None:
        raise SceneError(f"{node.name}'s movers were not turned into keys.")
    movers = tuple(replace(mover, on=mover.on or mover.id in kept.movers) for mover in node.movers)
    take = replace(node.take, on=node.take.on or kept.take) if node.take is not None else None
    again = replace(node, movers=movers, take=take, unmoved=None)
    written = set(moved_channels(again))
    had = {channel.name: channel for channel in kept.channels}
    names = specs(again)
    left = (had.pop(each.name, None) if each.name in written else each for each in node.channels)
    channels = [each for each in (*left, *had.values()) if each is not None and each.name in names]
    return change_node(
        scene, node_id, movers=movers, take=take, unmoved=None, channels=tuple(sorted(channels, key=lambda c: c.name))
    )


def let_it_land(scene: Scene, node_id: str, mover: Overshoot) -> Scene:
    """The last spans of what an overshoot has nothing to swing on arrive at full speed."""
    node = scene.node(node_id)
    refs = []
    for name in nothing_to_swing(node, mover):
        channel = node.channel(name)
        assert channel is not None
        refs.append(KeyRef(node_id, name, channel.keys[-1].frame))
    return run_through(scene, refs)


def alive_with(scene: Scene, node_id: str) -> tuple[str, ...]:
    """The nodes with movers whose life goes with a node's: itself, and what carries it."""
    found: list[str] = []
    node: AnyNode | None = scene.node(node_id)
    while node is not None:
        if node.movers and node.id not in found:
            found.append(node.id)
        node = scene.node(node.carrier) if node.carrier is not None else None
    return tuple(found)


def with_more_life(scene: Scene, node_ids: Iterable[str], factor: float) -> Scene:
    """The movers of nodes, and of the nulls that carry them, so many times as strong; keys of their life too."""
    rig = dict.fromkeys(each for node_id in node_ids for each in alive_with(scene, node_id))
    if not rig:
        raise SceneError("None of what is selected has movers yet. Add one in the Life menu.")
    for node_id in rig:
        node = scene.node(node_id)
        channel = channel_or_default(node, LIFE)
        check_unlocked(node, [LIFE])
        high = specs(node)[LIFE].high

        def more(value: float, high: float = high) -> float:
            return round(min(value * factor if value else 0.1 * (factor > 1.0), high), 4)

        keys = tuple(replace(key, value=more(key.value)) for key in channel.keys)
        scene = set_channel(scene, node_id, replace(channel, value=more(channel.value), keys=keys))
    return scene
