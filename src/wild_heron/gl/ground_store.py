"""Vertex buffers of grounds, written anew when the surface moves."""

from typing import NamedTuple

import moderngl
import numpy as np

from ..evaluate import Evaluation
from ..files.contents import Material
from ..scene import Ground
from ..scene.artwork import rgb
from ..scene.channels import RELIEF
from ..space.ground import Field, ground_mesh
from .meshes import GpuPart, GpuSolid


class _Laid(NamedTuple):
    state: tuple[object, ...]
    solid: GpuSolid


class GroundStore:
    """The meshes of a scene's grounds, one for each, as they are at the moment drawn last."""

    def __init__(self, context: moderngl.Context) -> None:
        self._context = context
        self._laid: dict[str, _Laid] = {}

    def get(self, node: Ground, evaluation: Evaluation, i: int) -> GpuSolid:
        """The ground's mesh at sample ``i``."""
        moves = any(wave.speed for wave in getattr(node.surface, "waves", ()))
        seconds = float(evaluation.frames[i]) / evaluation.scene.settings.rate.fps if moves else 0.0
        factor = float(evaluation.value(node.id, RELIEF)[i])
        state = (node.surface, node.width, node.depth, node.fineness, node.tone, seconds, factor)
        known = self._laid.get(node.id)
        if known is None or known.state != state:
            known = _Laid(state, self._made(node, seconds, factor, known.solid if known else None))
            self._laid[node.id] = known
        return known.solid

    def drop_unused(self, ids: set[str]) -> None:
        for node_id in [each for each in self._laid if each not in ids]:
            self._laid.pop(node_id).solid.release()

    def _made(self, node: Ground, seconds: float, factor: float, old: GpuSolid | None) -> GpuSolid:
        """A solid with the surface's corners, in the buffers of the one before where they are of one size."""
        field = Field(node.surface, node.width, node.depth)
        positions, normals, faces = ground_mesh(field, seconds, factor, node.fineness)
        corners = np.concatenate([positions, normals, np.zeros((len(positions), 2))], axis=1).astype("f4")
        low, high = positions.min(axis=0), positions.max(axis=0)
        material = Material((*rgb(node.tone), 1.0))
        if old is not None and old.parts[0].vertices.size == corners.nbytes:
            part = old.parts[0]
            part.vertices.write(corners)
            part.indices.write(np.ascontiguousarray(faces, "u4"))
            part.material = material
        else:
            if old is not None:
                old.release()
            part = GpuPart(
                self._context.buffer(corners), self._context.buffer(np.ascontiguousarray(faces, "u4")), None, material,
                None, 0,
            )  # fmt: skip
        # Another object each time: what was worked out for the surface as it was, holds no more.
        radius = float(np.linalg.norm(high - low)) / 2
        return GpuSolid([part], [], None, 0.5 * (low + high), radius, "", creased=False)
