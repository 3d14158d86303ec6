"""Puts a move on a subject and a range: ordinary nulls, keys, binds and movers."""

from typing import Literal, NamedTuple

import numpy as np
from msgspec.structs import replace

from ...evaluate.evaluation import evaluate
from ...motion.thinning import thinned
from ...scene import Camera, Channel, Format, Match, Null, Scene, SceneError
from ...scene.binds import renamed
from ...scene.channel import SAME_FRAME
from ...scene.channels import FAR, FARTHEST_CLIP, FOCUS, NEAR, NEAREST_CLIP, POSITION, ROTATION, SCALE
from ...scene.film import shot_at
from ...scene.moves import BASE, OTHER, SUBJECT, Move, MoveNode, check_move
from ...scene.output import output_camera, shots_of
from ...scene.specs import channel_or_default
from ..film import cut_to
from ..keys import set_channel
from ..nodes import add_nodes, free_id, free_name
from ..posing import values_for_pose
from ..rigs import Built, FrameRange
from .changing import begun_at, mirrored, of_length, on_beats, reversed_, stronger, times
from .subject import SubjectPlace, subject_place

_AMBER, _REED = "#f2c25b", "#8fbf9f"
_FOCUS_CLOSELY = 1e-4


class Placing(NamedTuple):
    """How a move is put on a subject: ``size`` times as far away, ``strength`` of its way, from a ``side`` (degrees
    about the vertical, counted from where the subject faces), for a ``format``; ``reach`` is the height of a subject
    that has none; ``beats`` are frames, from its first, on which it is to go on. ``shown``: the film shows it over its
    range, as a shot; or only the camera is made."""

    size: float = 1.0
    strength: float = 1.0
    side: float = 0.0
    mirrored: bool = False
    reversed: bool = False
    format: Format | None = None
    reach: float | None = None
    beats: tuple[float, ...] = ()
    shown: Literal["film", "no"] = "film"


def put(
    scene: Scene, move: Move, subject: str, span: FrameRange, how: Placing | None = None, other: str | None = None
) -> Built:
    """The scene with a move put on a subject over a range; the base that it stands on, its nulls and its camera.

    One null at the middle of the subject carries all of it: its y angle turns the move to another side, its scale
    makes it larger. SceneError where it cannot be put there; the scene is left as it was.
    """
    how = how or Placing()
    check_move(move)
    _check(scene, move, subject, span, other, how)
    place = subject_place(scene, subject, span.first, how.format, how.reach)
    move = _changed(move, span, how)
    nodes = begun_at(move, span.first)
    size = place.size * how.size
    label = free_name({node.name for node in scene.nodes}, move.name)
    taken = {node.id for node in scene.nodes}
    names = {node.name for node in scene.nodes}
    base = Null(id=free_id(taken, label), name=label, colour=_REED)
    taken.add(base.id)
    names.add(label)
    ids = {BASE: base.id, SUBJECT: subject} | ({OTHER: other} if other is not None else {})
    for node in nodes:
        wanted = f"{label} camera" if isinstance(node, Camera) else node.name
        ids[node.id] = free_id(taken, wanted)
        taken.add(ids[node.id])
    made: list[Null | Camera] = [base]
    for node in nodes:
        name = free_name(names, f"{label} camera" if isinstance(node, Camera) else node.name)
        names.add(name)
        made.append(_put_node(node, ids, name, size))
    before = output_camera(scene)
    built = add_nodes(scene, made)
    built = _on_subject(built, base.id, place, how, subject, move, span.first)
    camera = ids[move.camera]
    if move.focuses and (how.strength != 1.0 or built.node(camera).channel(FOCUS) is None):
        built = _focused(built, camera, place.middle, span)
    if how.shown == "film":
        built = _in_film(built, camera, before, span)
    return built, (base.id, *(ids[node.id] for node in nodes if node.id != move.camera), camera)


def _check(scene: Scene, move: Move, subject: str, span: FrameRange, other: str | None, how: Placing) -> None:
    if subject not in scene:
        raise SceneError(f"Choose a subject to put “{move.name}” on.")
    if move.has_other and other is None:
        raise SceneError(f"“{move.name}” goes from one subject to another: choose where it ends.")
    if other is not None and (other not in scene or other == subject):
        raise SceneError("A move goes from one subject to another one: choose two.")
    if not span.last - span.first >= 1.0:
        raise SceneError("A move lasts at least one frame: choose a range from one frame to a later one.")
    if not (np.isfinite(how.size) and how.size > 0.0):
        raise SceneError("A move can be made so many times as large, by a number above 0.")
    if not (np.isfinite(how.strength) and np.isfinite(how.side)):
        raise SceneError("Strength and side are finite numbers.")


def _changed(move: Move, span: FrameRange, how: Placing) -> Move:
    if how.mirrored:
        move = mirrored(move)
    if how.reversed:
        move = reversed_(move)
    if how.beats:
        move = on_beats(move, how.beats)
    move = of_length(move, span.last - span.first)
    return stronger(move, how.strength)


def _put_node(node: MoveNode, ids: dict[str, str], name: str, size: float) -> Null | Camera:
    channels = tuple(
        replace(each, links=tuple(replace(link, node=ids[link.node]) for link in each.links)) for each in node.channels
    )
    carrier = ids[node.carrier] if node.carrier is not None else ids[BASE]
    made = replace(
        node, id=ids[node.id], name=name, carrier=carrier, channels=channels,
        binds=tuple(renamed(each, ids) for each in node.binds),
    )  # fmt: skip
    if isinstance(made, Camera):
        made = replace(made, channels=_lens_in_units(made, size), colour=made.colour or _AMBER)
    return made


def _lens_in_units(node: Camera, size: float) -> tuple[Channel, ...]:
    out = {each.name: each for each in node.channels}
    for name in (FOCUS, NEAR, FAR):
        own = out.get(name)
        if own is None or (not own.keys and own.value in (NEAREST_CLIP, FARTHEST_CLIP)):
            continue
        out[name] = times(own, size)
    return tuple(out[name] for name in sorted(out))


def _on_subject(
    scene: Scene, base: str, place: SubjectPlace, how: Placing, subject: str, move: Move, frame: float
) -> Scene:
    """The base where the subject is, and going along with it where the move does."""
    placed = SubjectPlace(place.middle, place.turn + how.side, place.size * how.size)
    if move.along == "carried":
        scene = scene.with_node(replace(scene.node(base), carrier=subject))
        values = values_for_pose(scene, base, placed.world, frame)
        for name, value in values.items():
            scene = set_channel(scene, base, Channel(name, value))
        return scene
    numbers = (*placed.middle.tolist(), 0.0, placed.turn, 0.0, *[placed.size] * 3)
    for name, value in zip((*POSITION, *ROTATION, *SCALE), numbers, strict=True):
        scene = set_channel(scene, base, replace(channel_or_default(scene.node(base), name), value=float(value)))
    if move.along == "place":
        bind = Match(subject)
        scene = scene.with_node(replace(scene.node(base), binds=(bind,)))
        away = place.middle - evaluate(scene, frame, [subject]).position(subject)[0]
        for axis, value in zip("xyz", away.tolist(), strict=True):
            scene = set_channel(scene, base, Channel(f"{bind.id}.move.{axis}", value))
    return scene


def _focused(scene: Scene, camera: str, point: np.ndarray, span: FrameRange) -> Scene:
    """The lens focused on a point of the world over a range."""
    frames = np.linspace(span.first, span.last, min(max(round(span.last - span.first), 1) * 2, 2000) + 1)
    seen = evaluate(scene, frames, [camera]).camera(camera)
    depth = np.maximum(seen.pixels(np.broadcast_to(point, (len(frames), 3)))[1], 1e-3)
    keys = thinned(frames, depth, _FOCUS_CLOSELY * float(depth.max()))
    channel = Channel(FOCUS, keys[0].value, () if len(keys) == 1 else keys)
    return set_channel(scene, camera, channel)


def _in_film(scene: Scene, camera: str, before: str | None, span: FrameRange) -> Scene:
    """The film showing a camera over a range, and after it what it would have shown."""
    settings = scene.settings
    first, end = max(span.first, float(settings.first)), min(span.last + 1.0, settings.last + 1.0)
    if first >= end:
        return scene
    shots = shots_of(scene)
    all_of_it = first <= settings.first + SAME_FRAME and end >= settings.last + 1.0 - SAME_FRAME
    if not scene.shots and (all_of_it or before is None or before == camera):
        return replace(scene, camera=camera)
    after = shots[shot_at(shots, end)].camera if shots else before
    assert after is not None
    known = any(abs(shot.first - end) <= SAME_FRAME for shot in scene.shots)
    if not scene.shots and before is not None:
        scene = cut_to(replace(scene, camera=before), float(settings.first), before)
    inside = [shot.first for shot in scene.shots if first + SAME_FRAME < shot.first < end - SAME_FRAME]
    if inside:
        raise SceneError(
            f"There is a cut at frame {inside[0]:g}, inside the range. Put the move before or after it, or let only "
            "its camera be made."
        )
    if end <= settings.last and not known:
        scene = cut_to(scene, end, after)
    return cut_to(scene, first, camera)
