"""What goes out: final frames, the move, and several processes at once."""

import os
import time
from pathlib import Path

from msgspec.structs import replace

import wild_heron as wh
from wild_heron.evaluate import evaluate
from wild_heron.evaluate.film_output import output
from wild_heron.files.export_formats.gltf import gltf
from wild_heron.files.export_formats.move import Wanted, move_of
from wild_heron.files.reader import Reader
from wild_heron.gl.request import FrameRequest, ThroughLens
from wild_heron.output.profile import Profile
from wild_heron.process.client import RenderClient
from wild_heron.process.stream import FrameStream

from .measuring import ms, paired, report
from .pictures import HEIGHT, VIEW, WIDTH, flat

_FRAMES = 4_000


def final_frames(scene: wh.Scene, base: Path) -> None:
    """Frames that go out, with colours mixed as light and as display values."""
    scene = flat(scene)
    shown = replace(scene, settings=replace(scene.settings, light="display"))
    with RenderClient() as one, RenderClient() as other:
        one.set_scene(scene, base)
        other.set_scene(shown, base)
        wish = FrameRequest(60.0, VIEW, WIDTH, HEIGHT, fine=True)
        ours, theirs = paired(lambda: one.draw(wish), lambda: other.draw(wish), 7)
    report("A final frame in linear light", ms(ours), f"mixed as display values {ms(theirs)}", ours / theirs, 1.35)


_LOOKED_AT = [first + k for first in (30.0, 61.0, 150.0, 240.0, 330.0, 420.0) for k in range(3)]
"""A few frames in a row of several shots."""


def fine_frames(scene: wh.Scene, base: Path) -> None:
    """Frames that go out against those of the preview, a few of the film, and where their time goes."""
    profile = Profile()
    wish = FrameRequest(0.0, ThroughLens(), 640, 360)

    def drawn(stream: FrameStream, fine: bool) -> float:
        wishes = [replace(wish, frame=frame, fine=fine, profile=fine) for frame in _LOOKED_AT]
        list(stream.pictures(wishes))
        found = list(stream.pictures(wishes))
        for each in found if fine else ():
            profile.add(dict(each.stages), 1)
        return sum(each.seconds for each in found) / len(found)

    with FrameStream(scene, base, wish) as stream:
        quick, fine = drawn(stream, False), drawn(stream, True)
    print(profile.table())
    report("Fine frames of the demo at 640×360", ms(fine), f"quick ones {ms(quick)}", fine / quick, 2.0)


def move(scene: wh.Scene) -> None:
    """The move as glTF, all its nodes on every frame; without what takes its artwork."""
    nodes = tuple(
        replace(node, artwork=wh.Solid("#808080")) if isinstance(node, wh.Picture) else node for node in scene.nodes
    )
    scene = replace(scene, nodes=nodes)
    told = [node.id for node in nodes if isinstance(node, wh.Picture | wh.Null)]
    frames = [float(frame) for frame in range(_FRAMES)]
    with Reader(1) as reader:

        def export() -> None:
            gltf(move_of(scene, None, Wanted(frames, nodes=told)), reader)

        def plainly() -> None:
            evaluate(scene, frames, told)
            output(scene, frames)

        export()
        ours, theirs = paired(export, plainly, 5)
    report(
        f"{_FRAMES} frames of {len(told)} nodes and the film as glTF",
        ms(ours),
        f"evaluating {ms(theirs)}",
        ours / theirs,
        2.0,
    )


def workers(scene: wh.Scene, base: Path) -> None:
    """Two processes against one, on frames of eight samples."""
    frames = [float(frame) for frame in range(0, 96, 4)]
    wish = FrameRequest(0.0, ThroughLens(), 640, 360, 8)

    # One that draws by itself takes every processor where there is no graphics card: each is held to one.
    os.environ["LP_NUM_THREADS"] = "1"

    def drawn(processes: int) -> float:
        with FrameStream(scene, base, wish, processes) as stream:
            each = stream.frames(frames)
            for _ in range(processes):
                next(each)
            started = time.perf_counter()
            count = sum(1 for _ in each)
            return (time.perf_counter() - started) / count

    try:
        two, one = drawn(2), drawn(1)
    finally:
        del os.environ["LP_NUM_THREADS"]
    what = "A frame of 8 samples, by two processes of a processor each"
    report(what, ms(two), f"by one {ms(one)}", two / one, 1.0 / 1.6)
