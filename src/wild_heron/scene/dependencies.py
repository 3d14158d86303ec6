"""Which nodes a node's place depends on, the order that respects it, and loops."""

from collections.abc import Callable, Iterable, Iterator
from functools import lru_cache

import msgspec

from ..sized_cache import cached_by_size
from .binds import Bind, named_nodes
from .errors import LoopError, SceneError
from .events import ChannelPasses, Event, Hits, InFrame
from .film import OUTPUT
from .links import channel_inputs
from .lookup import nodes_by_id
from .model import Scene
from .movers import Impact
from .moving import looks_at_aim, looks_at_carrier, looks_at_output, moved_channels
from .nodes import AnyNode
from .output import lens_nodes, output_nodes
from .specs import specs

MAX_NESTED = 24
"""How many binds that look at other moments (aims, follows, drops) may depend on each other in a row: each works out
the motion of the one before over the whole scene."""

PoseStage = tuple[str, int]
"""A node's world matrix after so many of its binds: 0 is its place, before any; all of them give its pose."""


def final_stage(node: AnyNode) -> PoseStage:
    """The node after all of its binds."""
    return node.id, len(node.binds)


def position_stage(node: AnyNode) -> PoseStage:
    """The node after the last bind that moves it: from then on it is only turned."""
    return node.id, next((k + 1 for k in reversed(range(len(node.binds))) if _moves(node, k)), 0)


def _moves(node: AnyNode, k: int) -> bool:
    return node.binds[k].on and node.binds[k].moves


FILM_FIELDS = ("camera", "shots", "rules", "events", "markers")
"""What of a scene, besides its nodes, decides what the film shows."""
OUTPUT_STAGE: PoseStage = (OUTPUT, 0)
"""Where what the film shows is seen from."""


def needs(scene: Scene, stage: PoseStage) -> tuple[PoseStage, ...]:
    """The stages that a stage is worked out from directly. SceneError where one is not there."""
    nodes = nodes_by_id(scene)
    if stage == OUTPUT_STAGE:
        if not output_nodes(scene):
            raise SceneError("Something is bound to the output, and there is no camera.")
        # What an event aims at is only looked at: its place is known before it is turned to the output itself.
        shown = set(output_nodes(scene))
        return tuple(
            (final_stage if each in shown else position_stage)(nodes[each]) for each in lens_nodes(scene, None)
        )
    node, number = nodes[stage[0]], stage[1]

    def found(other: str) -> AnyNode:
        if other not in nodes:
            raise SceneError(f"{node.name} depends on “{other}”, which is not in the scene.")
        return nodes[other]

    if number == 0:
        carried = (final_stage(found(node.carrier)),) if node.carrier is not None else ()
        return (*carried, *stages_of_channels(scene).get(node.id, ()))
    before = (node.id, number - 1)
    bind = node.binds[number - 1]
    if not bind.on:
        return (before,)
    # It is enough for most binds to know where the other is: so a picture may face the camera that aims at it.
    return (
        before,
        *(
            OUTPUT_STAGE if other == OUTPUT else (final_stage if whole else position_stage)(found(other))
            for other, whole in named_nodes(bind)
        ),
    )


@lru_cache(maxsize=64)
def stages_of_channels(scene: Scene) -> dict[str, tuple[PoseStage, ...]]:
    """The stages that nodes' channels are worked out from: what their movers look at, and those of the nodes that drive
    them. Nodes whose channels look at no place are left out. The dictionary is shared: do not change it."""
    own = {node.id: stages for node in scene.nodes if node.movers and (stages := _looked_at(scene, node))}
    if not own:
        return own
    found: dict[str, dict[PoseStage, None]] = {node_id: dict.fromkeys(stages) for node_id, stages in own.items()}
    edges = {(node_id, other) for (node_id, _), given in channel_inputs(scene).items() for other, _ in given}
    grown = True
    while grown:
        grown = False
        for node_id, other in edges:
            if other in found and node_id != other:
                mine = found.setdefault(node_id, {})
                before = len(mine)
                mine |= found[other]
                grown = grown or len(mine) > before
    return {node_id: tuple(stages) for node_id, stages in found.items()}


def _looked_at(scene: Scene, node: AnyNode) -> tuple[PoseStage, ...]:
    """The stages that a node's own movers look at."""
    nodes = nodes_by_id(scene)
    found: dict[PoseStage, None] = {}

    def add(node_id: str, make: Callable[[AnyNode], PoseStage]) -> None:
        if node_id not in nodes:
            raise SceneError(f"{node.name} depends on “{node_id}”, which is not in the scene.")
        found[make(nodes[node_id])] = None

    for mover in node.movers:
        if not mover.on:
            continue
        if node.carrier is not None and looks_at_carrier(node, mover):
            add(node.carrier, final_stage)
        if looks_at_output(node, mover):
            found[OUTPUT_STAGE] = None
        if node.aim is not None and looks_at_aim(node, mover):
            for each in node.aim.targets:
                add(each, position_stage)
        if isinstance(mover, Impact):
            for each in listened_to(scene, mover):
                add(each, final_stage)
    return tuple(found)


def listened_to(scene: Scene, mover: Impact) -> tuple[str, ...]:
    """The ids of the nodes that decide when an impact comes."""
    if mover.when == "contact":
        return mover.named()
    if mover.when == "event":
        return tuple(each for event in scene.events if event.name == mover.name for each in event.when.named())
    return ()


@lru_cache(maxsize=64)
def evaluation_order(scene: Scene) -> tuple[PoseStage, ...]:
    """Every node after each of its binds, each after everything it depends on.

    Raises LoopError naming the nodes of a loop, SceneError where a node depends on one that is not there, or on too
    many binds in a row.
    """
    nodes = nodes_by_id(scene)
    done: dict[PoseStage, int] = {}
    for root in scene.nodes:
        # Depth first without recursion: a chain of carriers may be longer than Python's stack.
        trail: dict[PoseStage, Iterator[PoseStage]] = {}
        stack: list[PoseStage] = [final_stage(root)]
        while stack:
            stage = stack[-1]
            if stage in done:
                stack.pop()
                continue
            if stage not in trail:
                trail[stage] = iter(needs(scene, stage))
            for needed in trail[stage]:
                if needed in trail and needed not in done:
                    loop = [node_id for node_id, _ in (*stack[_last_index(stack, needed) :], needed)]
                    names = ["the output" if each == OUTPUT else nodes[each].name for each in _without_repeats(loop)]
                    raise LoopError(names)
                if needed not in done:
                    stack.append(needed)
                    break
            else:
                done[stage] = _nesting(scene, stage, done)
                stack.pop()
    return tuple(done)


def _nesting(scene: Scene, stage: PoseStage, known: dict[PoseStage, int]) -> int:
    """How many binds that look at other moments a stage is worked out from in a row."""
    deepest = max((known[each] for each in needs(scene, stage)), default=0)
    if stage == OUTPUT_STAGE:
        return deepest
    node, number = nodes_by_id(scene)[stage[0]], stage[1]
    looking = [node.binds[number - 1]] if number else node.movers
    own = sum(each.on and each.looks_elsewhere for each in looking)
    deepest += own
    if own and deepest > MAX_NESTED:
        raise SceneError(
            f"{node.name} is at the end of more than {MAX_NESTED} aims, follows, drops, springs and lags that depend "
            "on each other. Take one away."
        )
    return deepest


def looks_elsewhere(bind: Bind) -> bool:
    """Whether what a bind does at one moment depends on others."""
    return bind.on and bind.looks_elsewhere


def _without_repeats(ids: list[str]) -> list[str]:
    out = [node_id for k, node_id in enumerate(ids) if k == 0 or ids[k - 1] != node_id]
    return out if len(out) > 1 else [*out, *out]


def _last_index(items: list[PoseStage], wanted: PoseStage) -> int:
    return len(items) - 1 - items[::-1].index(wanted)


def closure(scene: Scene, stages: Iterable[PoseStage]) -> set[PoseStage]:
    """The given stages and everything they depend on."""
    found: set[PoseStage] = set()
    waiting = list(stages)
    while waiting:
        stage = waiting.pop()
        if stage not in found:
            found.add(stage)
            waiting.extend(needs(scene, stage))
    return found


@cached_by_size
def subscene(scene: Scene, stages: tuple[PoseStage, ...]) -> Scene:
    """The scene with only the nodes that the given stages depend on, and those whose channels drive theirs.

    Binds that none of the stages depends on are off, since what they are bound to may be missing. Two scenes that
    differ elsewhere have the same subscene, so what was worked out for it still holds.
    """
    return _needed_for(scene, stages)


@cached_by_size
def unmoved_scene(scene: Scene, node_id: str, group: tuple[str, ...], number: int) -> Scene:
    """The scene with only what some channels of a node depend on, before the mover of that number and all after it."""
    node = nodes_by_id(scene)[node_id]
    inputs = channel_inputs(scene)
    wanted = dict.fromkeys((node_id, name) for name in group)
    waiting = list(wanted)
    while waiting:
        fresh = [each for each in inputs.get(waiting.pop(), ()) if each not in wanted]
        wanted |= dict.fromkeys(fresh)
        waiting += fresh
    movers = node.movers[:number]
    cut = msgspec.structs.replace(node, movers=movers, unmoved=None)
    kept, known = {name for other, name in wanted if other == node_id}, specs(cut)
    channels = tuple(each for each in node.channels if each.name in kept and each.name in known)
    cut = msgspec.structs.replace(cut, channels=channels)
    stages = dict.fromkeys(_looked_at(scene, cut)) if movers else {}
    if number < len(node.movers) and looks_at_carrier(node, node.movers[number]):
        stages[node_id, 0] = None
    others = {other for other, _ in wanted if other != node_id}
    for other in others:
        stages |= dict.fromkeys(stages_of_channels(scene).get(other, ()))
    return _needed_for(scene, tuple(stages), (node_id, *sorted(others)), cut)


def _needed_for(
    scene: Scene, stages: tuple[PoseStage, ...], for_channels: tuple[str, ...] = (), cut: AnyNode | None = None
) -> Scene:
    """What stages, and all the channels of some nodes, depend on; with ``cut`` in the place of the node of its id."""
    nodes, inputs = nodes_by_id(scene), channel_inputs(scene)
    last: dict[str, int] = {}
    films = {}
    for node_id, number in closure(scene, stages):
        if node_id == OUTPUT:
            # Events look at nodes of their own.
            films = {name: getattr(scene, name) for name in FILM_FIELDS}
            continue
        last[node_id] = max(number, last.get(node_id, 0))
    wanted = {*last, *for_channels}
    waiting = list(wanted)
    while waiting:
        node = nodes[waiting.pop()]
        if cut is not None and node.id == cut.id:
            continue  # What drives it is told already.
        names = {channel.name for channel in node.channels} | set(moved_channels(node))
        for name in names:
            for other, _ in inputs.get((node.id, name), ()):
                if other not in wanted:
                    wanted.add(other)
                    waiting.append(other)
    # A node whose channels drive others is there for its channels alone.
    kept = tuple(
        _up_to(cut if cut is not None and node.id == cut.id else node, last.get(node.id))
        for node in (scene.nodes if len(wanted) > 1 else [nodes[each] for each in wanted])
        if node.id in wanted
    )
    films |= {name: getattr(scene, name) for name in listening_fields(kept)}
    used = {node.take.take for node in kept if node.take is not None}
    takes = tuple(take for take in scene.takes if take.id in used) if used else ()
    return Scene(settings=scene.settings, nodes=kept, takes=takes, **films)


def listening_fields(nodes: Iterable[AnyNode]) -> set[str]:
    """The fields of a scene, besides its nodes, that nodes' movers keep time with."""
    found: set[str] = set()
    for node in nodes:
        for mover in node.movers:
            if mover.by_beats:
                found.add("beats")
            if isinstance(mover, Impact):
                found |= {"markers", "events"}
    return found


def _up_to(node: AnyNode, number: int | None) -> AnyNode:
    """The node with the binds after a number off; None: with all of them off, and without its carrier, unless its
    movers look at that."""
    if number == len(node.binds):
        return node
    binds = tuple(
        bind if number is not None and k < number else msgspec.structs.replace(bind, on=False)
        for k, bind in enumerate(node.binds)
    )
    looking = [mover for mover in node.movers if mover.on]
    if number is None and any(looks_at_aim(node, mover) for mover in looking):
        # Where the aim is matters to them, though not that the node turns to it.
        binds = tuple(
            bind if own is node.aim else off for bind, off, own in zip(node.binds, binds, node.binds, strict=True)
        )
    stays = number is not None or any(looks_at_carrier(node, mover) for mover in looking)
    return msgspec.structs.replace(node, binds=binds, carrier=node.carrier if stays else None)


def descendants(scene: Scene, node_id: str) -> set[str]:
    """Everything that ``node_id`` carries, directly or not."""
    carried: dict[str | None, list[str]] = {}
    for node in scene.nodes:
        carried.setdefault(node.carrier, []).append(node.id)
    found: set[str] = set()
    waiting = list(carried.get(node_id, ()))
    while waiting:
        child = waiting.pop()
        if child not in found:
            found.add(child)
            waiting.extend(carried.get(child, ()))
    return found


def check_event(scene: Scene, event: Event, place: str = "") -> None:
    """Raise SceneError where an event's conditions look at what itself depends on the output, which the event decides,
    or at what the node does not have."""
    nodes = nodes_by_id(scene)
    for node_id in event.looked_at():
        if OUTPUT_STAGE in closure(scene, [final_stage(nodes[node_id])]):
            raise SceneError(
                f"{place}{event.name} depends on {nodes[node_id].name}, which is bound to the output that the event "
                "decides. Bind it to a camera, or choose another condition."
            )
    for condition in (event.when, event.until):
        if isinstance(condition, ChannelPasses) and condition.channel not in specs(nodes[condition.node]):
            raise SceneError(f"{place}{nodes[condition.node].name} has no channel “{condition.channel}”.")
        if isinstance(condition, InFrame) and not nodes[condition.camera].serves_as("lens"):
            raise SceneError(f"{place}{nodes[condition.camera].name} is no camera.")
        if isinstance(condition, Hits) and not any(b.collides for b in nodes[condition.node].binds):
            raise SceneError(f"{place}{nodes[condition.node].name} does not drop and roll, so it hits nothing.")


def hidden_nodes(scene: Scene) -> set[str]:
    """Ids of nodes that are hidden themselves or hang, however far up, on one that is."""
    hidden = {node.id for node in scene.nodes if node.hidden}
    if not hidden:
        return hidden
    carriers = {node.id: node.carrier for node in scene.nodes}
    for node in scene.nodes:
        carrier = node.carrier
        while carrier is not None:
            if carrier in hidden:
                hidden.add(node.id)
                break
            carrier = carriers[carrier]
    return hidden
