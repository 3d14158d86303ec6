"""Moves of the demo's film that are kept in it, to be put on something else."""

from msgspec.structs import replace

from wild_heron.edits import moves
from wild_heron.edits.rigs import FrameRange
from wild_heron.scene import Scene

_KEPT = (
    ("Over the rooftops", "main-camera", "emblem", (0.0, 96.0), "Comes in over what stands before it, and slows down.",
     ("calm", "push")),
    ("Round the emblem", "orbit-camera", "emblem", (78.0, 108.0), "A piece of the way round.", ("lively", "turn")),
    ("After the kite", "kite-camera", "kite", (146.0, 178.0), "Looks after something that flies.", ("lively", "follow")),
)  # fmt: skip


def with_kept_moves(scene: Scene) -> Scene:
    """The scene with three of its moves kept."""
    for name, camera, subject, (first, last), line, tags in _KEPT:
        move = moves.keep(scene, camera, subject, FrameRange(first, last), name, line=line)
        scene = moves.keep_in_scene(scene, replace(move, tags=tags))
    return scene
