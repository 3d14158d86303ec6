"""What relations are called on screen."""

from .binds import AimAt, Bind, DropAndRoll, named_nodes
from .model import Scene


def aim_label(scene: Scene, aim: AimAt) -> str:
    """What an aim looks at."""
    if not aim.targets:
        return "a point"
    first = scene.node(aim.targets[0]).name
    return first if len(aim.targets) == 1 else f"{first} + {len(aim.targets) - 1}"


def bind_label(scene: Scene, bind: Bind) -> str:
    """A bind with what it is about: “follow · Kite”."""
    if isinstance(bind, AimAt):
        return f"aim · {aim_label(scene, bind)}"
    if isinstance(bind, DropAndRoll):
        return f"{bind.label} · {scene.node(bind.ground).name}" if bind.ground else bind.label
    names = [scene.node(each).name for each, _ in named_nodes(bind)]
    return f"{bind.label} · {names[0]}" if names else bind.label
