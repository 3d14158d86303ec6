"""The render process: coming back after its end."""

import os
import signal
import statistics
import time
from collections.abc import Callable

import msgspec
import numpy as np
from PyQt6.QtTest import QTest

import wild_heron as wh
from wild_heron.demo import DEMO_SCENE
from wild_heron.edits import KeyRef, move_keys
from wild_heron.process.messages import Request
from wild_heron.process.patches import patched
from wild_heron.process.publisher import Publisher

from .measuring import ms, paired, report
from .window import shown


def revival(kills: int = 12) -> None:
    """The renderer killed and stopped while the window is up: until its next picture is whole."""
    with shown() as window:
        desk = window.desk
        desk.previews.set_megabytes(0)
        desk.files.open(DEMO_SCENE, as_copy=True, ask=False)
        pictures: list[str] = []
        desk.link.completed.connect(lambda stream: stream == "lens" and pictures.append(stream))

        def until_whole(begin: Callable[[], None]) -> float:
            pictures.clear()
            start = time.perf_counter()
            begin()
            while not pictures and time.perf_counter() - start < 60.0:
                QTest.qWait(5)
            return time.perf_counter() - start

        def start_anew() -> None:
            desk.link.start()
            desk.lens.view.ask()

        def end(number: int) -> None:
            os.kill(desk.link.pid, number)
            desk.document.playhead.set_frame((desk.document.playhead.frame + 3) % 240)

        QTest.qWait(4000)
        bare = []
        for _ in range(3):
            desk.link.close()
            QTest.qWait(200)
            bare.append(until_whole(start_anew))
        base = statistics.median(bare)
        back = [until_whole(lambda: end(signal.SIGKILL)) for _ in range(kills)]
        came = sum(each < 60.0 for each in back)
        what = f"Renderer killed, {came} of {kills} back: the slowest whole picture"
        report(what, ms(max(back)), f"a bare start {ms(base)}", max(back) / base, 2.0)
        said: list[float] = []
        start = time.perf_counter()
        desk.link.status.connect(lambda text, warning: "hung" in text and said.append(time.perf_counter() - start))
        until_whole(lambda: end(signal.SIGSTOP))
        noticed = said[0] if said else 60.0
        report("Renderer stopped: until it is said and replaced", f"{noticed:.2f} s", "2 s", noticed, 2.0, "s")


def takes() -> wh.Scene:
    """As many keys as five takes have: 3,000 each on six channels."""
    names = ("position.x", "position.y", "position.z", "rotation.x", "rotation.y", "rotation.z")
    nodes = []
    for n in range(5):
        keys = tuple(wh.Key(float(k), float(np.sin(k / 9.0 + n)), wh.Linear()) for k in range(3000))
        nodes.append(wh.Null(id=f"take{n}", name=f"Take {n}", channels=tuple(wh.Channel(c, 0.0, keys) for c in names)))
    return wh.Scene(settings=wh.Settings(last=3000), nodes=tuple(nodes))


def publishing() -> None:
    """A step of dragging a key of all six channels: telling the render process of it, and its taking that in."""
    encoder, decoder = msgspec.msgpack.Encoder(), msgspec.msgpack.Decoder(Request)
    scene = takes()
    refs = [KeyRef("take2", channel.name, 1500.0) for channel in scene.nodes[2].channels]
    steps = iter(range(1, 1000))
    publisher, held = Publisher(), [scene]
    publisher.request(scene, "", 0, ())

    def moved() -> wh.Scene:
        return move_keys(scene, refs, next(steps) / 1000.0)[0]

    scenes = [moved() for _ in range(60)]
    sent = iter(scenes)
    told: list[bytes] = []

    def tell() -> None:
        told.append(encoder.encode(publisher.request(next(sent), "", 0, ())))

    def tell_whole() -> None:
        told.append(encoder.encode(Publisher().request(scene, "", 0, ())))

    ours, theirs = paired(tell, tell_whole, 15)
    what = "A step of a drag among 90,000 keys, told to the render process"
    report(what, ms(ours), f"the whole scene {ms(theirs)}", ours / theirs, 0.15)
    changes, wholes = iter(told[0::2]), iter(told[1::2])

    def take_in() -> None:
        held[0] = patched(held[0], decoder.decode(next(changes)).patch)

    ours, theirs = paired(take_in, lambda: decoder.decode(next(wholes)), 15)
    assert held[0] == scenes[15]
    report("The same, taken in by it", ms(ours), f"the whole scene {ms(theirs)}", ours / theirs, 0.15)
