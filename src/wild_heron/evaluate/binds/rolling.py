"""Drop and roll: a stand-in's motion, simulated once on the grid."""

from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from ...scene import AnyNode, Box, DropAndRoll, Ground, Model, Plane, Scene
from ...scene.channels import RELIEF
from ...scene.dependencies import excerpt
from ...space.ground import Field, relief
from ...space.rolling import Ball, Rolled, Wall, drop_and_roll
from ...space.rotation import multiply, quaternion_to_matrix, slerp
from ...space.transform import decompose, invert
from .grids import Grid, grid_for
from .rows import moved_to, with_rotation

if TYPE_CHECKING:
    from ..evaluation import Evaluation

Array = NDArray[np.float64]


def rolled(evaluation: "Evaluation", node: AnyNode, bind: DropAndRoll, stage: int, world: Array) -> Array:
    """The node where it has rolled to. Until it falls it stays where it is."""
    grid = grid_for(evaluation.scene.settings, evaluation.frames)
    start, motion = simulated(excerpt(evaluation.scene, ((node.id, stage),)), node.id, stage, grid)
    left, share = Grid(start, len(motion.positions)).cell(evaluation.frames)
    position = motion.positions[left] + (motion.positions[left + 1] - motion.positions[left]) * share[:, None]
    turned = slerp(motion.rotations[left], motion.rotations[left + 1], share)
    held = np.broadcast_to(world, (len(evaluation.frames), 4, 4))
    _, own, _ = decompose(held)
    out = with_rotation(moved_to(held, position), quaternion_to_matrix(multiply(turned, own)))
    return np.where((evaluation.frames < start)[:, None, None], held, out)


def ball_of(evaluation: "Evaluation", node: AnyNode, bind: DropAndRoll) -> Ball:
    """The ball's numbers at the evaluation's first frame."""

    def number(name: str) -> float:
        return float(evaluation.number(node, f"{bind.id}.{name}")[0])

    return Ball(number("radius"), number("gravity"), number("bounce"), number("friction"))


@lru_cache(maxsize=32)
def simulated(scene: Scene, node_id: str, stage: int, grid: Grid) -> tuple[int, Rolled]:
    """The frame it falls from, and its motion from there to the end of a grid."""
    from ..evaluation import Evaluation

    node = scene.node(node_id)
    bind = node.binds[stage - 1]
    assert isinstance(bind, DropAndRoll)
    still = Evaluation(scene, np.array([float(scene.settings.first)]), [])
    start = round(float(still.number(node, f"{bind.id}.start")[0]))
    count = max(grid.start + grid.size - start, 2)
    frames = start + np.arange(count, dtype=np.float64)
    others = [each for each in (bind.ground, *bind.walls) if each is not None]
    here = Evaluation(scene, frames, [(node_id, stage - 1), *((each, len(scene.node(each).binds)) for each in others)])
    push = here.vector(node, tuple(f"{bind.id}.push.{axis}" for axis in "xyz"))[0]
    motion = drop_and_roll(
        ball_of(here, node, bind),
        here._parts[node_id, stage - 1][0, :3, 3],
        push,
        count,
        scene.settings.rate.fps,
        _slope(here, bind),
        _walls(here, bind),
    )
    return start, motion


def _slope(here: "Evaluation", bind: DropAndRoll):  # type: ignore[no-untyped-def]
    if bind.ground is None:
        return None
    node = here.node(bind.ground)
    if not isinstance(node, Ground):
        return None
    field = Field(node.surface, node.width, node.depth)
    worlds = here.pose_of(bind.ground)
    try:
        inverses = invert(worlds)
    except np.linalg.LinAlgError:
        return None
    factors = here.number(node, RELIEF)
    seconds = here.frames / here.scene.settings.rate.fps

    def slope(frame: int, at: Array) -> tuple[Array, Array]:
        k = min(frame, len(worlds) - 1)
        inside = inverses[k, :3, :3] @ at + inverses[k, :3, 3]
        found = relief(field, inside[:1], inside[2:], seconds[frame : frame + 1], factors[min(frame, len(factors) - 1)])
        surface = np.array([inside[0], float(found.height[0]), inside[2]])
        normal = inverses[k, :3, :3].T @ np.array([-float(found.along_x[0]), 1.0, -float(found.along_z[0])])
        return worlds[k, :3, :3] @ surface + worlds[k, :3, 3], normal / np.linalg.norm(normal)

    return slope


def _walls(here: "Evaluation", bind: DropAndRoll):  # type: ignore[no-untyped-def]
    boxes = []
    for each in bind.walls:
        node = here.node(each)
        if isinstance(node, Model) and isinstance(node.shape, Box | Plane):
            shape = node.shape
            half = 0.5 * np.array([shape.width, shape.height, shape.depth if isinstance(shape, Box) else 0.0])
            position, quaternion, scale = decompose(here.content_of(each))
            boxes.append((position, quaternion_to_matrix(quaternion), half * np.abs(scale)))

    def walls(frame: int) -> list[Wall]:
        return [Wall(*(part[min(frame, len(part) - 1)] for part in box)) for box in boxes]

    return walls
