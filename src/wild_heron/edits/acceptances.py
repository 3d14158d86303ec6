"""Findings of the checks that a scene accepts."""

from msgspec.structs import replace

from ..scene import Accepted, Scene


def accept(scene: Scene, found: Accepted) -> Scene:
    """The scene with a finding accepted, in place of what it accepts of the same kind at the same time."""
    others = tuple(each for each in scene.checks.accepted if not each.overlaps(found))
    return replace(scene, checks=replace(scene.checks, accepted=(*others, found)))


def take_back(scene: Scene, found: Accepted) -> Scene:
    """The scene without the acceptances that cover a finding."""
    kept = tuple(each for each in scene.checks.accepted if not each.covers(found))
    return replace(scene, checks=replace(scene.checks, accepted=kept))
