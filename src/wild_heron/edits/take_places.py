"""Places a take so that it begins where its node stands."""

import msgspec
import numpy as np

from .. import edits
from ..arrays import Array
from ..evaluate.evaluation import evaluate
from ..motion.takes.arranging import start_here
from ..scene import TURN, AnyNode, Channel, Scene, Take, TakeUse, specs
from ..scene.channels import POSITION, ROTATION
from ..space.rotation import euler_near, euler_to_quaternion, quaternion_to_matrix

BY_HAND = "by hand"
"""The step of takes that hold the node's own channels, as they were dragged."""


def with_takes(scene: Scene, node_id: str, made: list[Take]) -> tuple[Scene, list[str]]:
    """The scene with takes more, the last of which a node uses, and their ids."""
    ids = []
    for take in made:
        scene, each = edits.add_take(scene, take)
        ids.append(each)
    use = placed_use(scene, node_id, edits.find_take(scene, ids[-1]))
    return edits.use_take(scene, node_id, use), ids


def placed_use(scene: Scene, node_id: str, take: Take, frame: float | None = None, here: bool = True) -> TakeUse:
    """How a node uses a take: with a pose, so that it begins where the node's keys have it at that frame (None: where
    it was recorded), and faces the way it does; what is recorded of the node's own channels is used as it is."""
    node = scene.node(node_id)
    own = set(specs(node))
    channels = tuple(name for name in take.channels if name in own)
    plain = TakeUse(take.id, channels, take.frame if frame is None else frame)
    if not here or not (take.turns and take.moves) or take.step == BY_HAND:
        return plain
    put = start_here(take, *standing(scene, node_id, plain.start))
    before, after = take.table()[0, 1:], put.table()[0, 1:]
    at = [take.columns.index(name) for name in POSITION]
    turn = [take.columns.index(name) for name in TURN]
    heading = _heading_between(before[turn], after[turn])
    c, s = np.cos(heading), np.sin(heading)
    x, y, z = before[at].tolist()
    moved = after[at] - np.array([c * x + s * z, y, c * z - s * x])
    return msgspec.structs.replace(
        plain,
        move=tuple(round(each, 9) + 0.0 for each in moved.tolist()),
        turn=(0.0, round(float(np.degrees(heading)), 9) + 0.0, 0.0),
    )


def _heading_between(before: Array, after: Array) -> float:
    """The turn about the upright from one quaternion (4,) to another that differs by just that."""
    a, b = (quaternion_to_matrix(each[None])[0] for each in (before, after))
    turn = b @ a.T
    return float(np.arctan2(turn[0, 2], turn[0, 0]))


def standing(scene: Scene, node_id: str, frame: float) -> tuple[Array, Array]:
    """Where a node's keys have it in its carrier at a frame, (3,), and which way it faces, (3,)."""
    node, there = scene.node(node_id), evaluate(scene, frame, [])
    position = np.array([float(there.unmoved(node, name)[0]) for name in POSITION])
    angles = np.radians([[float(there.unmoved(node, name)[0]) for name in ROTATION]])
    forward = -quaternion_to_matrix(euler_to_quaternion(angles, node.rotation_order))[0, :, 2]
    return position, forward


# A node that is recorded


def recorded_channels(node: AnyNode) -> tuple[str, ...]:
    """The channels that a hand can move while a node is recorded: pose, lens, dials and what else is its own."""
    rest = [name for name in specs(node) if name not in (*POSITION, *ROTATION)]
    own = {mover.id for mover in node.movers} | {"life", "take"}
    return (*POSITION, *ROTATION, *(name for name in rest if name.partition(".")[0] not in own))


def constant(node: AnyNode, name: str) -> float:
    """The value that a channel has where nothing drives it."""
    channel = node.channel(name)
    return channel.value if channel is not None else specs(node)[name].default


def loosened(scene: Scene, node_id: str, names: tuple[str, ...], frame: float) -> Scene:
    """The scene with a node free of its keys, take and movers, at the values that its keys have at a frame: so that a
    hand, or the tracker, has it all to itself. What is locked, or driven by others, stays so."""
    node, there = scene.node(node_id), evaluate(scene, frame, [])
    here = {name: float(there.unmoved(node, name)[0]) for name in names}
    scene = edits.change_node(scene, node_id, movers=(), take=None, unmoved=None)
    known = specs(scene.node(node_id))
    for name, value in here.items():
        channel = node.channel(name)
        free = channel is not None and not edits.is_locked(node, name) and not channel.has_inputs
        if free and name in known:
            scene = edits.set_channel(scene, node_id, Channel(name, value))
    return scene


def angles_near(node: AnyNode, quaternion: Array) -> tuple[float, ...]:
    """The angles in degrees of a quaternion (4,) that lie nearest to those that a node has."""
    near = np.radians([constant(node, name) for name in ROTATION])
    angles = euler_near(quaternion_to_matrix(quaternion[None])[0], node.rotation_order, near)
    return tuple(np.degrees(angles).tolist())
