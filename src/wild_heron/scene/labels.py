"""Labels of binds on screen."""

from .binds import Bind
from .film import OUTPUT
from .model import Scene


def bind_subject(scene: Scene, bind: Bind) -> str:
    """What a bind is about; "" for nothing in particular."""
    return bind.about(lambda node_id: "the output" if node_id == OUTPUT else scene.node(node_id).name)


def bind_label(scene: Scene, bind: Bind) -> str:
    """A bind with what it is about: “follow · Kite”."""
    subject = bind_subject(scene, bind)
    return f"{bind.label} · {subject}" if subject else bind.label
