"""The life of the demo: a tour that breathes, a push-in that overshoots, and a shot recorded by a made hand."""

import msgspec
import numpy as np

from wild_heron import edits
from wild_heron.motion.takes.mending import mark, mend
from wild_heron.motion.takes.steadying import steady
from wild_heron.scene import TURN, Linear, Overshoot, Scene, Take, TakeUse, Target, packed
from wild_heron.scene.channels import POSITION
from wild_heron.scene.mover_presets import breath, calm_hand
from wild_heron.tracker.hand import Flaws, tracked

_RATE, _SECONDS = 60.0, 5.0
_FLAWS = Flaws(jumps=24.0, lost=0.03)


def alive(scene: Scene, bar: float) -> Scene:
    """The scene with its movers and takes; ``bar`` is how many frames a bar of the march has."""
    tour = scene.node("touring-camera")
    scene, _ = edits.add_movers(scene, tour.id, [*breath(tour), *calm_hand(tour)])
    return _recorded(_pushed_in(scene, bar), bar)


def _pushed_in(scene: Scene, bar: float) -> Scene:
    """The orbit comes nearer to the emblem, stops at speed, and swings on."""
    for frame, value in ((3.0 * bar, 8.0), (3.75 * bar, 6.7)):
        scene = edits.set_key(scene, "fair-board", "dial.distance", frame, value, Linear())
    swing = Overshoot(targets=(Target("dial.distance"),), bounce=0.35, speed=0.9)
    return edits.add_movers(scene, "fair-board", [swing])[0]


def _recorded(scene: Scene, bar: float) -> Scene:
    """Up the market lane as a hand with a tracker goes: the recording, mended, and steadied with a human touch."""
    sent = tracked("push", _SECONDS, _RATE, 8, _FLAWS)
    columns = np.column_stack([sent.hand.position, sent.hand.quaternion])
    begins = 4.5 * bar - 12.0
    recording = Take(
        "lane-take", "Lane camera take 1", "lane-camera", (*POSITION, *TURN), packed(sent.times - sent.times[0], columns),
        frame=begins,
    )  # fmt: skip
    recording = mark(recording)
    scene, first = edits.add_take(scene, recording)
    mended = msgspec.structs.replace(mend(recording), id="lane-mended", source=first)
    scene, second = edits.add_take(scene, mended)
    steadied = msgspec.structs.replace(steady(mended, "firm", sway=0.35), id="lane-steadied", source=second)
    scene, third = edits.add_take(scene, steadied)
    use = TakeUse(third, steadied.channels, begins, move=(-0.3, 0.15, -1.2))
    return edits.use_take(scene, "lane-camera", use)
