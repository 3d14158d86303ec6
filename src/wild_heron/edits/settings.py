"""The scene's own settings."""

from typing import Literal

import msgspec

from ..scene.channel import Channel
from ..scene.film import Blend, Join, Shot
from ..scene.model import Scene, Settings
from ..scene.rates import Rate
from .keys import merge_keys


def change_settings(scene: Scene, settings: Settings) -> Scene:
    """The scene with other settings; keys stay on their frames."""
    return msgspec.structs.replace(scene, settings=settings)


def change_rate(scene: Scene, rate: Rate, keep: Literal["frames", "seconds"]) -> Scene:
    """The scene at another rate. Keeping seconds moves every key, and the range, to the frame at the same second."""
    old = scene.settings
    if keep == "frames" or rate == old.rate:
        return change_settings(scene, msgspec.structs.replace(old, rate=rate))
    ratio = rate.fraction / old.rate.fraction
    first = round(old.first * ratio)
    # The range ends with its last frame, so it is the end of that frame which keeps its second.
    last = max(first, round((old.last + 1) * ratio) - 1)
    factor = float(ratio)

    def retimed(channel: Channel) -> Channel:
        keys = merge_keys((), [msgspec.structs.replace(key, frame=key.frame * factor) for key in channel.keys])
        return msgspec.structs.replace(channel, keys=keys)

    def joined(join: Join) -> Join:
        if isinstance(join, Blend) and join.unit == "frames":
            return msgspec.structs.replace(join, length=join.length * factor)
        return join

    def retimed_shot(shot: Shot) -> Shot:
        return msgspec.structs.replace(shot, first=shot.first * factor, join=joined(shot.join))

    nodes = tuple(
        msgspec.structs.replace(node, channels=tuple(retimed(channel) for channel in node.channels))
        for node in scene.nodes
    )
    settings = msgspec.structs.replace(old, rate=rate, first=first, last=last)
    markers = tuple(msgspec.structs.replace(each, frame=each.frame * factor) for each in scene.markers)
    shots = tuple(map(retimed_shot, scene.shots))
    passes = tuple(msgspec.structs.replace(kept, shots=tuple(map(retimed_shot, kept.shots))) for kept in scene.passes)
    rules = tuple(msgspec.structs.replace(each, join=joined(each.join)) for each in scene.rules)
    sounds = tuple(msgspec.structs.replace(each, start=each.start * factor) for each in scene.sounds)
    beats = scene.beats and msgspec.structs.replace(
        scene.beats, first=scene.beats.first * factor, at=tuple(frame * factor for frame in scene.beats.at)
    )
    accepted = tuple(
        msgspec.structs.replace(each, first=each.first * factor, last=each.last * factor)
        for each in scene.checks.accepted
    )
    checks = msgspec.structs.replace(scene.checks, accepted=accepted)
    return msgspec.structs.replace(
        scene, nodes=nodes, settings=settings, markers=markers, shots=shots, passes=passes, rules=rules, sounds=sounds,
        beats=beats, checks=checks,
    )  # fmt: skip
