"""Mixes of cameras, and pads that drive their weights."""

import re
from collections.abc import Sequence

import numpy as np

from ..arrays import Array
from ..scene import AnyNode, Camera, Dial, Mix, Scene, SceneError, View
from . import add_dial, add_node, fresh_id, fresh_name, set_formula

_LEAST = 1e-6
"""The square of a distance on a pad that counts as none."""
ACROSS, UP = "across", "up"
_FORMULA = f'1 / max((of("", "dial.{ACROSS}") - {{x}}) ** 2 + (of("", "dial.{UP}") - {{y}}) ** 2, {_LEAST:g})'
_NUMBER = r"-?\d+(?:\.\d+)?"
_PLACED = re.compile(re.escape(_FORMULA).replace(r"\{x\}", f"(?P<x>{_NUMBER})").replace(r"\{y\}", f"(?P<y>{_NUMBER})"))


def mix_of(scene: Scene, members: Sequence[str]) -> tuple[Scene, str]:
    """The scene with a camera more that is the mix of cameras and framings, and its id; its sensor is the first one's.
    SceneError where one of them is neither."""
    first = scene.node(members[0])
    for each in members:
        if not isinstance(scene.node(each), View):
            raise SceneError(f"{scene.node(each).name} is neither a camera nor a framing, so it cannot be mixed.")
    assert isinstance(first, View)
    name = fresh_name(scene, "Mix")
    camera = Camera(
        id=fresh_id(scene, name), name=name, colour="#f2c25b", sensor_width=first.sensor_width,
        sensor_height=first.sensor_height, fit=first.fit, depth_of_field=first.depth_of_field,
        binds=(Mix(tuple(members)),),
    )  # fmt: skip
    return add_node(scene, camera), camera.id


def pad_places(count: int) -> Array:
    """Where so many members stand on a pad (count, 2), across and up from −1 to 1: its ends, its corners from the upper
    left on, or evenly on a circle from the top on."""
    if count == 1:
        return np.zeros((1, 2))
    if count == 2:
        return np.array([[-1.0, 0.0], [1.0, 0.0]])
    if count == 4:
        return np.array([[-1.0, 1.0], [1.0, 1.0], [1.0, -1.0], [-1.0, -1.0]])
    angle = 2.0 * np.pi * np.arange(count) / count
    return np.round(np.stack([np.sin(angle), np.cos(angle)], axis=1), 4)


def with_pad(scene: Scene, node_id: str) -> Scene:
    """The scene with two dials on a mix, across and up, whose place weighs its members by inverse squared distance.

    SceneError where the node is no mix, or has a pad already.
    """
    node = scene.node(node_id)
    mix = next((bind for bind in node.binds if isinstance(bind, Mix)), None)
    if mix is None:
        raise SceneError(f"{node.name} is no mix of cameras. Rig ▸ Bind ▸ Mix the selected cameras makes one.")
    if any(dial.pad for dial in node.dials):
        raise SceneError(f"{node.name} has a pad already.")
    for dial in (
        Dial(ACROSS, "Across", "share", -1.0, 1.0, 0.0, node.name, pad=UP),
        Dial(UP, "Up", "share", -1.0, 1.0, 0.0, node.name),
    ):
        scene, _ = add_dial(scene, node_id, dial)
    for number, (x, y) in enumerate(pad_places(len(mix.members)).tolist(), 1):
        scene = set_formula(scene, node_id, f"{mix.id}.weight.{number}", _FORMULA.format(x=f"{x:g}", y=f"{y:g}"))
    return scene


def members_on_pad(node: AnyNode) -> list[tuple[str, float, float]]:
    """The members of a mix that a pad weighs, by their ids, and where they stand on it: where their formulas say, so
    that one may be moved, or another one be gone."""
    mix = next((bind for bind in node.binds if isinstance(bind, Mix)), None)
    out = []
    for number, member in enumerate(mix.members if mix is not None else (), 1):
        channel = node.channel(f"{mix.id}.weight.{number}") if mix is not None else None
        found = _PLACED.fullmatch(channel.formula) if channel is not None else None
        if found is not None:
            out.append((member, float(found["x"]), float(found["y"])))
    return out
