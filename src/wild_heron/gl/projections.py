"""Projected photographs: matrices, textures, and maps of what each projector meets first."""

from collections.abc import Callable, Sequence
from typing import NamedTuple

import moderngl
import numpy as np

from ..arrays import Array
from ..evaluate import Evaluation
from ..scene import ImageFile, Picture, Projection
from ..scene.channels import OPACITY
from .view_transform import Offset, ViewTransform, make_view_transform

_MAP_PIXELS = 2048
_FIRST_UNIT = 2


class ProjectedPhoto(NamedTuple):
    """A projection at one sample. ``clip`` (4, 4) takes the world to the photograph, −1 to 1 from its left to its right
    and from its top to its bottom."""

    receivers: frozenset[str]
    clip: Array
    place: Array
    strength: float
    photo: moderngl.Texture
    reach: moderngl.Texture
    size: tuple[int, int]


def bind_projections(program: moderngl.Program, own: Sequence[ProjectedPhoto], origin: Array) -> None:
    """Hand projections to a program that was compiled for as many, whose places are told from ``origin`` (3,)."""
    if not own:
        return
    shift = np.eye(4)
    shift[:3, 3] = origin
    for k, each in enumerate(own):
        each.photo.use(_FIRST_UNIT + 2 * k)
        each.reach.use(_FIRST_UNIT + 2 * k + 1)
    photos, reaches = ([_FIRST_UNIT + 2 * k + second for k in range(len(own))] for second in (0, 1))
    for name, values, kind in (
        ("projected", [(each.clip @ shift).T for each in own], "f4"),
        ("photo", photos, "i4"),
        ("reach", reaches, "i4"),
        ("photo_size", [(*each.size, *each.reach.size) for each in own], "f4"),
        ("projector", [(*(each.place - origin), each.strength) for each in own], "f4"),
    ):
        if name in program:
            program[name].write(np.array(values, kind))


def photograph(node: Projection) -> Picture:
    """The projection's photograph as a picture."""
    return Picture(id=node.id, name=node.name, artwork=ImageFile(node.source), width=node.width, height=node.height)


def projector_transform(evaluation: Evaluation, i: int, node: Projection) -> ViewTransform:
    """A projection seen as a camera sees: it projects along the rays along which a camera would have taken it."""
    return make_view_transform(evaluation.camera(node.id), i, (node.width, node.height), Offset())


class ReachMaps:
    """What each projection meets first, drawn anew when something moved: one over its distance along the axis, so that
    what is told apart does not depend on how near or far anything else is."""

    def __init__(self, context: moderngl.Context) -> None:
        self._context = context
        self._maps: dict[str, tuple[moderngl.Framebuffer, moderngl.Texture, bytes]] = {}

    def update(
        self, node: Projection, eye: ViewTransform, state: bytes, draw: Callable[[Array], None]
    ) -> moderngl.Texture:
        """The map; ``draw`` draws what stands in the way with a clip matrix (4, 4)."""
        scale = _MAP_PIXELS / max(node.width, node.height)
        size = (max(16, round(node.width * scale)), max(16, round(node.height * scale)))
        known = self._maps.get(node.id)
        if known is not None and known[1].size != size:
            self._release(node.id)
            known = None
        full = state + eye.clip.tobytes()
        if known is None:
            texture = self._context.texture(size, 1, dtype="f4")
            texture.filter = (moderngl.NEAREST, moderngl.NEAREST)
            texture.repeat_x = texture.repeat_y = False
            known = (self._context.framebuffer([texture]), texture, b"")
        if known[2] != full:
            known[0].use()
            known[0].clear(0.0)
            draw(eye.clip)
            self._maps[node.id] = (known[0], known[1], full)
        return known[1]

    def drop_unused(self, ids: set[str]) -> None:
        for node_id in [node_id for node_id in self._maps if node_id not in ids]:
            self._release(node_id)

    def _release(self, node_id: str) -> None:
        frame, texture, _ = self._maps.pop(node_id)
        frame.release()
        texture.release()


def strength_of(evaluation: Evaluation, i: int, node: Projection) -> float:
    return float(evaluation.value(node.id, OPACITY)[i])
