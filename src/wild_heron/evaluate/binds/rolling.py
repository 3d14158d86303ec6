"""Solver of drop and roll: a rigid ball, simulated once on the grid."""

from collections.abc import Callable

import numpy as np

from ...arrays import Array
from ...scene import AnyNode, Box, DropAndRoll, Ground, Model, Plane, Scene
from ...scene.channels import RELIEF
from ...scene.dependencies import subscene
from ...sized_cache import cached_by_size
from ...space.ground import Field, relief_at
from ...space.rolling import REST, Ball, Rolled, Slope, Vector, Wall, drop_and_roll
from ...space.rotation import multiply, quaternion_to_matrix, slerp
from ...space.transform import decompose, invert, length
from ..context import EvaluationContext, Evaluator
from ..rows import moved_to, with_rotation
from .grids import Grid, grid_for
from .solver import Solvers

_AT_ONCE = 0.05
MOST_FRAMES = 5_000
"""How long a ball is followed from where it falls; then it lies where it is."""


def rolled(evaluation: EvaluationContext, node: AnyNode, bind: DropAndRoll, number: int, world: Array) -> Array:
    """World matrices (N, 4, 4) of the node where it has rolled to. Until it falls it stays where it is."""
    grid = grid_for(evaluation.scene.settings, evaluation.frames)
    scene = subscene(evaluation.scene, ((node.id, number),))
    start, motion = simulated(evaluation.evaluator, scene, node.id, number, grid)
    left, share = Grid(start, len(motion.positions)).cell(evaluation.frames)
    position = motion.between(left + share, evaluation.scene.settings.rate.fps)
    turned = slerp(motion.rotations[left], motion.rotations[left + 1], share)
    held = np.broadcast_to(world, (len(evaluation.frames), 4, 4))
    _, own, _ = decompose(held)
    out = with_rotation(moved_to(held, position), quaternion_to_matrix(multiply(turned, own)))
    return np.where((evaluation.frames < start)[:, None, None], held, out)


def ball_of(evaluation: EvaluationContext, node: AnyNode, bind: DropAndRoll) -> Ball:
    """The ball's numbers at the evaluation's first frame."""

    def number(name: str) -> float:
        return float(evaluation.number(node, f"{bind.id}.{name}")[0])

    return Ball(number("radius"), number("gravity"), number("bounce"), number("friction"))


@cached_by_size
def simulated(evaluator: Evaluator, scene: Scene, node_id: str, number: int, grid: Grid) -> tuple[int, Rolled]:
    """The frame it falls from, and its motion from there to the end of a grid."""
    node = scene.node(node_id)
    bind = node.binds[number - 1]
    assert isinstance(bind, DropAndRoll)
    still = evaluator(scene, np.array([float(scene.settings.first)]), [])
    start = round(float(still.number(node, f"{bind.id}.start")[0]))
    count = min(max(grid.start + grid.size - start, 2), MOST_FRAMES)
    frames = start + np.arange(count, dtype=np.float64)
    others = [each for each in (bind.ground, *bind.walls) if each is not None]
    here = evaluator(scene, frames, [(node_id, number - 1), *((each, len(scene.node(each).binds)) for each in others)])
    push = here.vector(node, tuple(f"{bind.id}.push.{axis}" for axis in "xyz"))[0]
    at = here.at_stage((node_id, number - 1))[0, :3, 3]
    slope, walls = _slope(here, bind), _walls(here, bind)
    moving = any(len(here.content_of(each)) > 1 for each in others) or _flows(here, bind)
    fps = scene.settings.rate.fps
    return start, drop_and_roll(ball_of(here, node, bind), _plain(at), _plain(push), count, fps, slope, walls, moving)


def _plain(vector: Array) -> Vector:
    x, y, z = vector.tolist()
    return x, y, z


def _flows(here: EvaluationContext, bind: DropAndRoll) -> bool:
    """Whether the ground's own surface moves."""
    ground = here.node(bind.ground) if bind.ground is not None else None
    if not isinstance(ground, Ground):
        return False
    waves = getattr(ground.surface, "waves", ())
    return any(wave.speed != 0.0 for wave in waves) or len(here.number(ground, RELIEF)) > 1


def _slope(here: EvaluationContext, bind: DropAndRoll) -> Slope | None:
    """The ground below points, in plain numbers."""
    if bind.ground is None:
        return None
    node = here.node(bind.ground)
    if not isinstance(node, Ground):
        return None
    field = Field(node.surface, node.width, node.depth)
    worlds = here.pose_of(bind.ground)
    try:
        inverses = invert(worlds).tolist()
    except np.linalg.LinAlgError:
        return None
    forward, factors = worlds.tolist(), here.number(node, RELIEF).tolist()
    seconds = (here.frames / here.scene.settings.rate.fps).tolist()

    def slope(frame: int, x: float, y: float, z: float) -> tuple[Vector, Vector]:
        m, w = inverses[min(frame, len(inverses) - 1)], forward[min(frame, len(forward) - 1)]
        a = m[0][0] * x + m[0][1] * y + m[0][2] * z + m[0][3]
        c = m[2][0] * x + m[2][1] * y + m[2][2] * z + m[2][3]
        h, da, dc = relief_at(field, a, c, seconds[frame], factors[min(frame, len(factors) - 1)])
        nx, ny, nz = (m[1][k] - da * m[0][k] - dc * m[2][k] for k in range(3))
        size = (nx * nx + ny * ny + nz * nz) ** 0.5
        sx, sy, sz = (w[k][0] * a + w[k][1] * h + w[k][2] * c + w[k][3] for k in range(3))
        return (sx, sy, sz), (nx / size, ny / size, nz / size)

    return slope


def _walls(here: EvaluationContext, bind: DropAndRoll) -> Callable[[int], list[Wall]]:
    boxes: list[list[Wall]] = []
    for each in bind.walls:
        node = here.node(each)
        if isinstance(node, Model) and isinstance(node.shape, Box | Plane):
            shape = node.shape
            half = 0.5 * np.array([shape.width, shape.height, shape.depth if isinstance(shape, Box) else 0.0])
            position, quaternion, scale = decompose(here.content_of(each))
            axes = quaternion_to_matrix(quaternion)
            halves = half * np.abs(scale)
            boxes.append(
                [
                    Wall(_plain(p), (_plain(a[:, 0]), _plain(a[:, 1]), _plain(a[:, 2])), _plain(h))
                    for p, a, h in zip(position, axes, halves, strict=True)
                ]
            )

    def walls(frame: int) -> list[Wall]:
        return [box[min(frame, len(box) - 1)] for box in boxes]

    return walls


@cached_by_size
def hits(evaluator: Evaluator, scene: Scene, node_id: str, least: float) -> tuple[float, ...]:
    """The moments at which what drops and rolls hits something: its velocity changes by ``least`` units a second, and
    by more than that of a ball that comes to rest."""
    node = scene.node(node_id)
    number = next((k for k, bind in enumerate(node.binds, 1) if isinstance(bind, DropAndRoll) and bind.on), None)
    if number is None:
        return ()
    bind = node.binds[number - 1]
    assert isinstance(bind, DropAndRoll)
    edge = np.array([float(scene.settings.first)])
    ball = ball_of(evaluator(scene, edge, []), node, bind)
    needed = subscene(scene, ((node.id, number),))
    start, motion = simulated(evaluator, needed, node.id, number, grid_for(scene.settings, edge))
    jump = length(motion.hits.after - motion.hits.before)
    hard = jump > max(least, 2.0 * REST * ball.gravity)
    moments = (start + motion.hits.moments[hard]).tolist()
    # What is hit at once, a floor and a wall, is one.
    alone = [here for k, here in enumerate(moments) if not k or here - moments[k - 1] > _AT_ONCE]
    return tuple(each for each in alone if each >= scene.settings.first)


SOLVERS: Solvers = {DropAndRoll: rolled}
