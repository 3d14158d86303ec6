"""Tracks which scenes a render process holds, so that only differences are sent."""

from ..scene import Scene
from .messages import ChangeScene, SetScene
from .patches import patch_between


class Publisher:
    """One for each process."""

    def __init__(self) -> None:
        self._serial = 0
        self._sent: dict[int, SetScene] = {}

    def request(self, scene: Scene, base: str, version: int, allowed: tuple[str, ...]) -> SetScene | ChangeScene:
        """What tells the process of a scene."""
        before = self._sent.get(version)
        self._serial += 1
        whole = self._sent[version] = SetScene(scene, base, version, allowed, self._serial)
        if before is None:
            return whole
        patch = patch_between(before.scene, scene)
        if patch is None:
            return whole
        return ChangeScene(patch, base, version, allowed, self._serial, before.serial)

    def whole(self, version: int) -> SetScene:
        """The scene that was sent last, for a process that has lost it."""
        return self._sent[version]
