"""The cost of evaluating a scene over all of its frames, limited before it is spent.

Each limit of a scene is of one thing; what costs is their product. What remembers (springs, lags, shakes, follows, aims
that keep their side, falls) is worked out over the whole scene once, with all that it depends on.
"""

from collections.abc import Iterator
from typing import NamedTuple

from .binds import DropAndRoll, RideGround
from .dependencies import closure, evaluation_order, final_stage
from .errors import SceneError
from .model import Scene
from .movers import Lag, Mover, StepHold
from .nodes import AnyNode

MOST_SECONDS = 6.0
"""Of an ordinary machine, that a scene may take until all of its frames can be worked out."""
_MOVED_SECONDS = 0.5e-6
"""Of a mover that looks around, for each frame and each stage that it depends on. Measured, as are the others."""
_BOUND_SECONDS = 0.6e-6
"""Of a bind that looks elsewhere, likewise."""
_READ_SECONDS = 2.4e-3
"""Of one that asks for what comes into it at another frame, over a second of frames one by one."""
_FALL_SECONDS, _LANDING_SECONDS = 250e-6, 800e-6
"""Of a fall, for each frame: in the air, and where there is ground to fall on."""
_RIDE_SECONDS = 40e-6
"""Of a ride over ground, for each frame; what the film waits for looks over all frames once more."""
_FEW = 3
_FALL_FRAMES = 5_000
"""After so many frames it is over."""


class Cost(NamedTuple):
    """What one thing of a node takes."""

    node: str
    what: str
    seconds: float


def costs(scene: Scene) -> Iterator[Cost]:
    """What takes long in a scene, node by node, in the time of an ordinary machine."""
    frames = scene.settings.frame_count
    for node in scene.nodes:
        moving = [mover for mover in node.movers if mover.on and mover.looks_around]
        looking = [bind for bind in node.binds if bind.on and bind.looks_elsewhere]
        falling = [bind for bind in node.binds if bind.on and isinstance(bind, DropAndRoll)]
        depends = len(closure(scene, [final_stage(node)])) if moving or looking else 0
        again = 1.0
        for mover in moving:
            seconds = frames * depends * _MOVED_SECONDS
            if _reads_again(mover):
                # All before it is worked out at its moments too, and what it asks for there at others again.
                again *= 2.0
                seconds += again * (seconds + _READ_SECONDS)
            yield Cost(node.name, mover.label, seconds)
        for bind in looking:
            yield Cost(node.name, bind.label, frames * depends * _BOUND_SECONDS)
        for bind in falling:
            seconds = _FALL_SECONDS if bind.ground is None else _LANDING_SECONDS
            yield Cost(node.name, bind.label, _fall_frames(scene, node, bind) * seconds)
        for bind in node.binds:
            if bind.on and isinstance(bind, RideGround):
                yield Cost(node.name, bind.label, frames * _RIDE_SECONDS * (1 + len(scene.events)))


def _fall_frames(scene: Scene, node: AnyNode, bind: DropAndRoll) -> int:
    """How long something falls: it may have begun long before the scene does."""
    channel = node.channel(f"{bind.id}.start")
    if channel is not None and channel.has_inputs:
        return _FALL_FRAMES  # It begins whenever something else says so.
    starts = [0.0] if channel is None else [channel.value, *(key.value for key in channel.keys)]
    return min(max(round(scene.settings.last - min(starts)), 2), _FALL_FRAMES)


def _reads_again(mover: Mover) -> bool:
    """Whether a mover asks at every frame for what comes into it at another one."""
    return isinstance(mover, StepHold) or (isinstance(mover, Lag) and mover.by == "frames" and mover.delay > 0.0)


def check_budget(scene: Scene) -> None:
    """SceneError that names what costs most, where all of it together takes too long."""
    count = sum(len(node.movers) + len(node.binds) for node in scene.nodes)
    stages = len(evaluation_order(scene))
    deepest = max((sum(map(_reads_again, node.movers)) for node in scene.nodes), default=0)
    frames = scene.settings.frame_count
    ride = frames * _RIDE_SECONDS * (1 + len(scene.events))
    most = max(stages * frames * _BOUND_SECONDS, ride, _FALL_FRAMES * _LANDING_SECONDS)
    if deepest <= _FEW and count * most < MOST_SECONDS:
        return  # Even if everything depended on everything.
    found = list(costs(scene))
    total = sum(each.seconds for each in found)
    if total > MOST_SECONDS:
        worst = max(found, key=lambda each: each.seconds)
        raise SceneError(
            f"{len(found)} movers and binds that remember, over {scene.settings.frame_count} frames, take about "
            f"{total:.0f} s to be worked out; up to {MOST_SECONDS:.0f} s work. What costs most is the {worst.what} of "
            f"{worst.node}. Take some away, or make the scene shorter."
        )
