"""Wild Heron: animate cameras through layered 2.5D and 3D graphics.

A scene can be built and evaluated without the window::

    import wild_heron as wh

    scene = wh.load("fair.heron")
    scene = wh.edits.set_key(scene, "turn", "rotation.y", 48, 30.0)
    world = wh.evaluate(scene, range(240)).world("main-camera")   # (240, 4, 4)
    wh.save(scene, "fair.heron")
"""

import sys
from importlib import import_module
from types import ModuleType
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from .api import *  # noqa: F403

__version__ = "0.1.0"


class _Package(ModuleType):
    """The functions ``evaluate`` and ``output`` have names of folders, and go before them."""

    @property
    def evaluate(self) -> Any:
        return import_module("wild_heron.api").evaluate

    @evaluate.setter
    def evaluate(self, module: Any) -> None:
        """Importing the folder sets it here."""

    @property
    def output(self) -> Any:
        return import_module("wild_heron.api").output

    @output.setter
    def output(self, module: Any) -> None:
        """Importing the folder sets it here."""


sys.modules[__name__].__class__ = _Package


def __getattr__(name: str) -> Any:
    # Loaded when it is first wanted: the window shows itself, and a command can be interrupted, before that.
    api = import_module("wild_heron.api")
    if name not in _offered(api):
        raise AttributeError(f"wild_heron has no “{name}”")
    return getattr(api, name)


def _offered(api: ModuleType) -> list[str]:
    return [
        name
        for name, each in vars(api).items()
        if name[0] != "_" and (each is api.edits or not isinstance(each, ModuleType))
    ]


def __dir__() -> list[str]:
    return ["__version__", *_offered(import_module("wild_heron.api"))]
