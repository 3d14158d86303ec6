"""The protocol through which binds and movers read the evaluation that they are part of."""

from collections.abc import Callable, Iterable
from typing import Protocol

import numpy as np

from ..arrays import Array
from ..scene import AnyNode, Scene
from ..scene.dependencies import PoseStage


class EvaluationContext(Protocol):
    """A scene at frames (N,). Arrays have N rows, or one where nothing changes."""

    @property
    def scene(self) -> Scene: ...

    @property
    def frames(self) -> Array:
        """The frames (N,)."""
        ...

    @property
    def evaluator(self) -> "Evaluator":
        """Evaluates a scene at other frames."""
        ...

    def node(self, node_id: str) -> AnyNode: ...

    def number(self, node: AnyNode, name: str) -> Array:
        """A channel's values (N,)."""
        ...

    def unmoved(self, node: AnyNode, name: str) -> Array:
        """A channel's values (N,) before movers and takes."""
        ...

    def vector(self, node: AnyNode, names: tuple[str, ...]) -> Array:
        """Several channels (N, K)."""
        ...

    def rotation(self, node: AnyNode) -> Array:
        """The node's own rotation as quaternions (N, 4)."""
        ...

    def at_stage(self, stage: PoseStage) -> Array:
        """World matrices (N, 4, 4) of a node after so many of its binds."""
        ...

    def pose_of(self, node_id: str) -> Array:
        """World matrices (N, 4, 4) of a node after all of them."""
        ...

    def position_of(self, node_id: str) -> Array:
        """World positions (N, 3) of a node, known before everything that only turns it."""
        ...

    def aim(self, node_id: str) -> Array | None:
        """The world point (N, 3) that a node looks at, or None."""
        ...

    def is_still(self, node_id: str) -> bool:
        """Whether a node's world matrix is known never to change."""
        ...

    def content_of(self, node_id: str) -> Array:
        """World matrices (N, 4, 4) of what a node shows, its anchor at the node's origin."""
        ...


Evaluator = Callable[[Scene, Array, Iterable[PoseStage]], EvaluationContext]
"""A scene at frames (N,), as far as some stages need it. One function, so that it can be part of a cache's key."""

_ROWS_AT_ONCE = 400_000


def in_blocks(
    evaluator: Evaluator,
    scene: Scene,
    frames: Array,
    stages: Iterable[PoseStage],
    read: Callable[[EvaluationContext], tuple[Array, ...]],
) -> tuple[Array, ...]:
    """What ``read`` finds at frames (N,), as arrays of N rows, evaluated in blocks that take a bounded memory."""
    size = max(256, _ROWS_AT_ONCE // max(1, len(scene.nodes)))
    wanted = tuple(stages)
    pieces = []
    for start in range(0, len(frames), size):
        block = frames[start : start + size]
        found = read(evaluator(scene, block, wanted))
        pieces.append([np.broadcast_to(each, (len(block), *each.shape[1:])) for each in found])
    return tuple(np.concatenate(column) for column in zip(*pieces, strict=True))
