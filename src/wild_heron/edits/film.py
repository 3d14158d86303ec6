"""Shots and joins: cut, split, rolled, swapped and removed. Blends are shortened where there is no room for them."""

import random
from collections.abc import Iterable, Sequence
from math import isfinite
from typing import Any, Literal

import msgspec

from ..scene.channel import SAME_FRAME
from ..scene.errors import SceneError
from ..scene.film import Cut, Join, JoiningRule, Shot, joined_by_rule, settled, shot_at, shots_without
from ..scene.lookup import nodes_by_id
from ..scene.model import LivePass, Scene
from ..scene.nodes import View
from ..scene.output import output_camera, shots_of
from .keys import KeyRef, move_keys
from .nodes import free_name

Order = Literal["in order", "back and forth", "shuffled"]
LEAST = 1.0
"""How many frames a shot has at the least."""


def with_shots(scene: Scene, shots: Iterable[Shot]) -> Scene:
    """The scene with another film, its blends fitted."""
    return msgspec.structs.replace(scene, shots=settled(tuple(shots), scene.settings.rate))


def shot(scene: Scene, number: int) -> Shot:
    """A shot by its number. SceneError where there is none."""
    if not 0 <= number < len(scene.shots):
        raise SceneError(f"There is no shot number {number + 1}.")
    return scene.shots[number]


def name_for(shots: Sequence[Shot], name: str) -> str:
    """A name for a new shot that no other has."""
    return free_name({each.name for each in shots}, name)


def _seen(scene: Scene, camera: str) -> View:
    node = nodes_by_id(scene)[camera]
    if not isinstance(node, View):
        raise SceneError(f"{node.name} is neither a camera nor a framing, so a shot cannot show it.")
    return node


def cut_to(scene: Scene, frame: float, camera: str, join: Join | None = None) -> Scene:
    """The film with a new shot of a camera from a frame up to the next join; joined by ``join``, or else by rule.

    A shot that begins there is shown through that camera instead. SceneError where there is nothing to cut to.
    """
    node = _seen(scene, camera)
    if not isfinite(frame):
        raise SceneError("A shot needs a finite frame.")
    shots = shots_of(scene)
    if not shots:
        return with_shots(scene, [Shot(node.name, camera, float(scene.settings.first))])
    number = shot_at(shots, frame)
    here = shots[number]
    if abs(here.first - frame) <= SAME_FRAME or frame < here.first:
        before = shots[number - 1].camera if number else camera
        changed = msgspec.structs.replace(
            here, camera=camera, name=name_for([each for each in shots if each is not here], node.name),
            join=join or (joined_by_rule(scene.rules, before, camera) if number else here.join),
        )  # fmt: skip
        return with_shots(scene, [*shots[:number], changed, *shots[number + 1 :]])
    join = join or joined_by_rule(scene.rules, here.camera, camera)
    made = Shot(name_for(shots, node.name), camera, float(frame), join=join)
    return with_shots(scene, [*shots[: number + 1], made, *shots[number + 1 :]])


def split_shot(scene: Scene, frame: float) -> Scene:
    """The shot at a frame made into two of the same camera. SceneError where one begins there."""
    shots = shots_of(scene)
    if not shots:
        raise SceneError("There is nothing to split: the scene has no camera yet.")
    number = shot_at(shots, frame)
    here = shots[number]
    if frame - here.first < LEAST:
        raise SceneError(f"{here.name} begins here. Move the playhead into the shot to split it.")
    again = msgspec.structs.replace(here, name=name_for(shots, here.name), first=float(frame), join=Cut())
    return with_shots(scene, [*shots[: number + 1], again, *shots[number + 1 :]])


def change_shot(scene: Scene, number: int, **fields: Any) -> Scene:
    """The film with some fields of a shot changed. SceneError where it does not hang together."""
    changed = msgspec.structs.replace(shot(scene, number), **fields)
    _seen(scene, changed.camera)
    return with_shots(scene, [*scene.shots[:number], changed, *scene.shots[number + 1 :]])


def remove_shots(scene: Scene, numbers: Iterable[int]) -> Scene:
    """The film without some shots: the one before fills the gap, or the next one where there is none before."""
    return with_shots(scene, shots_without(scene.shots, numbers))


def swap_shots(scene: Scene, number: int, other: int) -> Scene:
    """Two neighbouring shots in each other's place, each as long as it was; each place keeps its join."""
    first, second = sorted((number, other))
    if second != first + 1:
        raise SceneError("Only neighbouring shots can be swapped.")
    a, b = shot(scene, first), shot(scene, second)
    end = scene.shots[second + 1].first if second + 1 < len(scene.shots) else scene.settings.last + 1.0
    earlier = msgspec.structs.replace(b, first=a.first, join=a.join)
    later = msgspec.structs.replace(a, first=a.first + max(end - b.first, LEAST), join=b.join)
    return with_shots(scene, [*scene.shots[:first], earlier, later, *scene.shots[second + 1 :]])


def duplicate_shot(scene: Scene, number: int) -> Scene:
    """A shot once more after itself, as long; later shots move along, and the scene becomes longer."""
    here = shot(scene, number)
    end = scene.shots[number + 1].first if number + 1 < len(scene.shots) else scene.settings.last + 1.0
    length = end - here.first
    again = msgspec.structs.replace(here, name=name_for(scene.shots, here.name), first=end, join=Cut())
    later = [msgspec.structs.replace(each, first=each.first + length) for each in scene.shots[number + 1 :]]
    settings = msgspec.structs.replace(scene.settings, last=scene.settings.last + round(length))
    longer = msgspec.structs.replace(scene, settings=settings)
    return with_shots(longer, [*scene.shots[: number + 1], again, *later])


def roll_limits(scene: Scene, number: int) -> tuple[float, float]:
    """Between which frames a join can be rolled."""
    shots = scene.shots
    low = shots[number - 1].first + LEAST
    high = (shots[number + 1].first if number + 1 < len(shots) else scene.settings.last + 1.0) - LEAST
    return low, max(low, high)


def roll_join(scene: Scene, number: int, to: float) -> Scene:
    """The join at the beginning of a shot moved: the one shot becomes longer, the other shorter."""
    if number == 0:
        raise SceneError("The first shot begins with the scene.")
    low, high = roll_limits(scene, number)
    return change_shot(scene, number, first=float(min(max(to, low), high)))


def ripple(scene: Scene, frame: float, by: float) -> Scene:
    """Everything from a frame on moved: later shots, keys and markers, and the end of the scene with them.

    SceneError where nothing is left of the shot before it.
    """
    by = float(round(by))
    later = [k for k, each in enumerate(scene.shots) if each.first >= frame - SAME_FRAME and k]
    if later and scene.shots[later[0]].first + by < scene.shots[later[0] - 1].first + LEAST:
        raise SceneError(f"There is nothing left of {scene.shots[later[0] - 1].name} to take away.")
    refs = [
        KeyRef(node.id, channel.name, key.frame)
        for node in scene.nodes
        for channel in node.channels
        for key in channel.keys
        if key.frame >= frame - SAME_FRAME
    ]
    moved, _ = move_keys(scene, refs, by)
    markers = tuple(
        msgspec.structs.replace(each, frame=each.frame + by) if each.frame >= frame - SAME_FRAME else each
        for each in scene.markers
        if by >= 0.0 or not frame + by - SAME_FRAME <= each.frame < frame - SAME_FRAME
    )
    settings = msgspec.structs.replace(scene.settings, last=max(scene.settings.last + round(by), scene.settings.first))
    shots = [
        msgspec.structs.replace(each, first=each.first + by) if k in later else each
        for k, each in enumerate(scene.shots)
    ]
    return with_shots(msgspec.structs.replace(moved, markers=markers, settings=settings), shots)


def replace_camera(scene: Scene, numbers: Iterable[int], camera: str) -> Scene:
    """Some shots seen through another camera."""
    _seen(scene, camera)
    chosen = set(numbers)
    return with_shots(
        scene, [msgspec.structs.replace(e, camera=camera) if k in chosen else e for k, e in enumerate(scene.shots)]
    )


def trim_scene(scene: Scene, first: int, last: int) -> Scene:
    """The scene's range made shorter; shots that lie outside go."""
    settings = msgspec.structs.replace(scene.settings, first=first, last=last)
    kept = [each for k, each in enumerate(scene.shots) if each.first <= last]
    start = shot_at(kept, first)
    kept = kept[max(start, 0) :]
    if kept:
        kept[0] = msgspec.structs.replace(kept[0], first=float(first) if kept[0].first < first else kept[0].first)
    return with_shots(msgspec.structs.replace(scene, settings=settings), kept)


def cut_at_markers(scene: Scene, cameras: Sequence[str], kind: str | None = None) -> Scene:
    """A cut at every marker in the scene (of one kind), through the cameras in turn, beginning with the one after what
    is shown at the first of them; without any, each shot is split."""
    frames = [
        each.frame
        for each in scene.markers
        if kind in (None, each.kind) and scene.settings.first < each.frame <= scene.settings.last
    ]
    if not frames:
        raise SceneError("There are no such markers in the scene. P, M adds one at the playhead.")
    turn = _after(cameras, output_camera(scene, frames[0] - SAME_FRAME))
    for k, frame in enumerate(frames):
        if cameras:
            scene = cut_to(scene, frame, cameras[(turn + k) % len(cameras)])
        elif frame - shots_of(scene)[shot_at(shots_of(scene), frame)].first >= LEAST:
            scene = split_shot(scene, frame)
    return scene


def _after(cameras: Sequence[str], shown: str | None) -> int:
    return cameras.index(shown) + 1 if shown in cameras else 0


def sequence_of(cameras: Sequence[str], count: int, order: Order = "in order", seed: int = 0) -> list[str]:
    """Which of the cameras come one after the other: round and round, back and forth, or shuffled anew each time round,
    never the same one twice in a row."""
    if len(cameras) < 2:
        return list(cameras) * count
    if order == "back and forth":
        once = [*cameras, *cameras[-2:0:-1]]
        return [once[k % len(once)] for k in range(count)]
    if order == "in order":
        return [cameras[k % len(cameras)] for k in range(count)]
    chance = random.Random(seed)
    out: list[str] = []
    while len(out) < count:
        turn = list(cameras)
        chance.shuffle(turn)
        if out and turn[0] == out[-1]:
            turn.append(turn.pop(0))
        out += turn
    return out[:count]


def run_of_cuts(
    scene: Scene, first: float, last: float, every: float, cameras: Sequence[str], order: Order = "in order",
    seed: int = 0, held: float = 0.0,
) -> Scene:  # fmt: skip
    """A cut every so many frames from ``first`` until ``last``, the last shot held for ``held`` frames longer; after
    that comes what was shown there before. SceneError where that is no run."""
    if every < LEAST:
        raise SceneError("A shot of a run needs a frame at the least.")
    if not cameras:
        raise SceneError("A run of cuts needs a camera or a framing to show.")
    if last <= first:
        raise SceneError("A run of cuts must end after it begins.")
    count = max(1, int((last - first) / every + 1e-9))
    end = first + count * every + held
    shots = shots_of(scene)
    if not shots:
        raise SceneError("There is no film yet: add a camera first.")
    resumed = shots[shot_at(shots, end)]
    kept = [each for each in shots if each.first < first - SAME_FRAME or each.first >= end - SAME_FRAME]
    run: list[Shot] = []
    before = shots[shot_at(shots, first - SAME_FRAME)].camera
    for k, camera in enumerate(sequence_of(cameras, count, order, seed)):
        join = joined_by_rule(scene.rules, before, camera)
        run.append(Shot(name_for([*kept, *run], _seen(scene, camera).name), camera, first + k * every, join=join))
        before = camera
    if end <= scene.settings.last and not any(abs(each.first - end) <= SAME_FRAME for each in kept):
        run.append(msgspec.structs.replace(resumed, name=name_for([*kept, *run], resumed.name), first=end, join=Cut()))
    return with_shots(scene, [*kept, *run])


def switched(scene: Scene, presses: Sequence[tuple[float, str]], end: float) -> Scene:
    """The film with what was switched live over what was: from each press (its frame and the camera) to the next, the
    last up to the first join after ``end``."""
    if not presses:
        return scene
    shots = list(shots_of(scene))
    start = min(frame for frame, _ in presses)
    kept = [each for each in shots if each.first < start - SAME_FRAME or each.first > end + SAME_FRAME]
    made = msgspec.structs.replace(scene, shots=settled(kept or shots[:1], scene.settings.rate))
    for frame, camera in presses:
        if output_camera(made, frame) != camera:
            made = cut_to(made, frame, camera)
    return made


_MOST_PASSES = 20


def keep_pass(scene: Scene, before: Sequence[Shot]) -> Scene:
    """The film kept as a pass, to choose from later; with the first one, the film before it as well."""
    earlier = list(scene.passes)
    if not earlier and before:
        earlier.append(LivePass("Before", tuple(before)))
    label = free_name({each.name for each in earlier}, f"Pass {sum(1 for e in earlier if e.name != 'Before') + 1}")
    return msgspec.structs.replace(scene, passes=(*earlier[1 - _MOST_PASSES :], LivePass(label, scene.shots)))


def set_rule(scene: Scene, rule: JoiningRule) -> Scene:
    """The scene with a joining rule, in place of the one for the same pair."""
    pair = (rule.before, rule.after)
    others = [each for each in scene.rules if (each.before, each.after) != pair]
    at = next((k for k, each in enumerate(scene.rules) if (each.before, each.after) == pair), len(others))
    return msgspec.structs.replace(scene, rules=(*others[:at], rule, *others[at:]))


def remove_rule(scene: Scene, number: int) -> Scene:
    """The scene without a joining rule."""
    return msgspec.structs.replace(scene, rules=tuple(each for k, each in enumerate(scene.rules) if k != number))
