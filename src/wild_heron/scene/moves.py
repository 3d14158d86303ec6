"""Moves: what a camera does over a range, told relative to its subject, so that it can be put on others.

A move's nodes stand about the middle of its subject and face its front; a unit is the height of the subject, and what
is wider than the frame counts by its width (see ``edits/moves/subject.py``). Frame 0 is where it begins.
"""

from collections.abc import Iterator
from typing import Annotated, Literal

import msgspec
from msgspec import Meta

from .binds import Bind, named_nodes
from .errors import SceneError
from .movers import POSE, Mover
from .nodes import Camera, Null
from .rates import Rate
from .types import Identity, Name

__all__ = ["BASE", "OTHER", "SUBJECT", "Move", "MoveMoment", "MoveNode"]

BASE, SUBJECT, OTHER = "base", "subject", "other"
"""What the binds of a move's nodes may name besides each other: the null that all of it stands on, the subject, and
where it goes to in the end."""
ROLES = frozenset((BASE, SUBJECT, OTHER))

MoveNode = Null | Camera
Along = Literal["stays", "place", "carried"]
_Frames = Annotated[float, Meta(gt=0.0, le=100_000.0)]


class MoveMoment(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """A frame of a move that lay on a beat, or on a marker of that name."""

    frame: Annotated[float, Meta(ge=0.0, le=100_000.0)]
    marker: Annotated[str, Meta(max_length=200)] = ""


class Move(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True, kw_only=True, cache_hash=True):
    """A move of ``frames`` frames at a rate, or so many ``beats`` long. ``line`` says what it is for.

    ``along``: all of it stays where the subject is at its beginning, goes along with the subject's place, or is carried
    by it. ``rest``: the moment at which it is as it is meant to be, from which its strength counts. ``focuses``: on the
    middle of the subject. ``smooth``: its speed has no jumps.
    """

    name: Name
    line: Annotated[str, Meta(max_length=400)] = ""
    tags: Annotated[tuple[Annotated[str, Meta(min_length=1, max_length=40)], ...], Meta(max_length=20)] = ()
    frames: _Frames
    rate: Rate = Rate()
    beats: Annotated[float, Meta(gt=0.0, le=10_000.0)] | None = None
    moments: Annotated[tuple[MoveMoment, ...], Meta(max_length=1000)] = ()
    nodes: Annotated[tuple[MoveNode, ...], Meta(min_length=1, max_length=64)]
    camera: Identity
    along: Along = "stays"
    rest: Literal["start", "middle", "end"] = "end"
    focuses: bool = False
    smooth: bool = True

    @property
    def seconds(self) -> float:
        return self.frames / self.rate.fps

    @property
    def has_other(self) -> bool:
        """Whether it goes from one subject to another."""
        return any(each == OTHER for node in self.nodes for each in _named(node))

    def node(self, node_id: str) -> MoveNode:
        """The node with this id. KeyError where there is none."""
        found = next((node for node in self.nodes if node.id == node_id), None)
        if found is None:
            raise KeyError(node_id)
        return found


def _named(node: MoveNode) -> Iterator[str]:
    for bind in node.binds:
        yield from (each for each, _ in named_nodes(bind))


def fits_in_move(node: MoveNode) -> str:
    """Why a node cannot be part of a move; "" where it can."""
    if node.take is not None:
        return "uses a take"
    if any(channel.formula for channel in node.channels):
        return "has a formula"
    if not all(bind.kept for bind in node.binds):
        return "has binds other than aims and matches"
    if any(_is_off(node, bind) for bind in node.binds):
        return "has a match with an offset, which is told in the world"
    if any(_is_in_world_units(mover, node) for mover in node.movers):
        return "has a mover along the world's axes"
    if any(mover.named() or getattr(mover, "when", "") in ("event", "contact") for mover in node.movers):
        return "has an impact that waits for something else in the scene"
    return ""


def _is_in_world_units(mover: Mover, node: MoveNode) -> bool:
    """Whether what a mover adds is told in the world, whatever the size of what carries the node."""
    outside = mover.space == "world" or (mover.space == "picture" and not isinstance(node, Camera))
    return mover.adds and outside and not set(mover.names).isdisjoint(POSE)


def _is_off(node: MoveNode, bind: Bind) -> bool:
    return any(channel.name.startswith((f"{bind.id}.move.", f"{bind.id}.size.")) for channel in node.channels)


def check_move(move: Move) -> None:
    """SceneError that says what is wrong with a move."""
    ids = [node.id for node in move.nodes]
    if len(set(ids)) < len(ids):
        raise SceneError(f"The move “{move.name}” has two nodes of one id.")
    if taken := ROLES.intersection(ids):
        raise SceneError(f"A node of the move “{move.name}” must not be called “{min(taken)}”.")
    if not isinstance(next((node for node in move.nodes if node.id == move.camera), None), Camera):
        raise SceneError(f"The move “{move.name}” names no camera of its own.")
    known = {*ids, *ROLES}
    for node in move.nodes:
        if problem := fits_in_move(node):
            raise SceneError(f"{node.name} in the move “{move.name}” {problem}, which no move can.")
        linked = (link.node for channel in node.channels for link in channel.links)
        for other in (*_named(node), *linked, *((node.carrier,) if node.carrier is not None else ())):
            if other not in known:
                raise SceneError(f"{node.name} in the move “{move.name}” names “{other}”, which is not part of it.")
        if node.carrier in (SUBJECT, OTHER):
            raise SceneError(f"{node.name} in the move “{move.name}” cannot be carried by its subject: say along.")
        for channel in node.channels:
            frames = [key.frame for key in channel.keys]
            if frames != sorted(set(frames)):
                raise SceneError(f"The keys of {node.name} · {channel.name} in “{move.name}” are not in order.")
    _check_carriers(move)


def _check_carriers(move: Move) -> None:
    carriers = {node.id: node.carrier for node in move.nodes}
    for start in carriers:
        seen, at = set[str](), carriers[start]
        while at is not None and at != BASE:
            if at in seen:
                raise SceneError(f"The carriers in the move “{move.name}” go round in a circle.")
            seen.add(at)
            at = carriers[at]
