"""Whether the window stays live while it works."""

import os
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np
from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtTest import QTest

import wild_heron as wh
from wild_heron.demo import DEMO_SCENE
from wild_heron.desk.shell.collector import Collector
from wild_heron.desk.timeline.lanes.key_drag import Grabbed
from wild_heron.edits import KeyRef

from .evaluation import rig_scene
from .measuring import report, timed
from .window import shown


def gaps_of(milliseconds: int) -> tuple[float, float]:
    """The longest gap of the event loop in a while, and the 99th percentile, in milliseconds."""

    gaps: list[float] = []
    last = [time.perf_counter()]

    def tick() -> None:
        now = time.perf_counter()
        gaps.append(now - last[0])
        last[0] = now

    timer = QTimer()
    timer.setTimerType(Qt.TimerType.PreciseTimer)
    timer.timeout.connect(tick)
    timer.start(1)
    QTest.qWait(milliseconds)
    timer.stop()
    ordered = sorted(gaps)
    return ordered[-1] * 1e3, ordered[int(len(ordered) * 0.99)] * 1e3


def bare_loop() -> tuple[float, float]:
    """The gaps of a loop that does nothing, beside processes as busy and as patient as the renderer: where these are
    long, it is the machine."""
    burn = "import os; os.nice(15)\nwhile True: pass"
    busy = [subprocess.Popen([sys.executable, "-c", burn]) for _ in range(os.cpu_count() or 1)]
    try:
        return gaps_of(3000)
    finally:
        for each in busy:
            each.kill()
            each.wait()


def event_loop(path: Path = DEMO_SCENE, what: str = "", chosen: str = "turn", others: int = 0) -> None:
    """The window's event loop while it scrubs and plays; with ``others``, while so many processes want the processors
    as well."""
    with shown() as window:
        desk = window.desk
        desk.files.open(path, as_copy=True, ask=False)
        desk.document.selection.choose([chosen])
        QTest.qWait(4000)
        collector = Collector()
        collector.start()  # as the program does once its window is up
        busy = [subprocess.Popen([sys.executable, "-c", "while True: pass"]) for _ in range(others)]
        for name, play in (("scrubbing", False), ("playing", True)):
            idle, idle_high = bare_loop()
            mover = QTimer()
            mover.timeout.connect(lambda: desk.document.playhead.set_frame((desk.document.playhead.frame + 7) % 240))
            QTest.qWait(100)
            if play:
                desk.playback.play()
            else:
                mover.start(16)
            longest, high = gaps_of(8000)
            mover.stop(), desk.playback.stop()
            if others:
                line = f"Event loop beside {others} busy processes, {what}{name}: 99th percentile"
                report(line, f"{high:.1f} ms", f"a bare loop {idle_high:.1f} ms", high / idle_high, 2.0)
                continue
            line = f"Event loop while the render process is busy, {what}{name}: longest gap"
            report(line, f"{longest:.1f} ms", f"a bare loop {idle:.1f} ms", longest, 50.0, "ms")
            steady = f"Event loop, {what}{name}: 99th percentile"
            report(steady, f"{high:.1f} ms", f"a bare loop {idle_high:.1f} ms", high, 20.0, "ms")
        for each in busy:
            each.kill()
            each.wait()


def busy_loop() -> None:
    event_loop(others=2)


def rig_loop() -> None:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "rigs.heron"
        wh.save(rig_scene(5), path)
        event_loop(path, "60 bound nodes, ", "heron-0")


def large_scene() -> wh.Scene:
    """400 nodes: 200 pictures, half of which hang on nulls that move."""
    camera = wh.Camera(id="cam", name="Camera", channels=(wh.Channel("position.z", 60.0),))
    nodes: list[wh.AnyNode] = [camera]
    for n in range(200):
        place = (wh.Channel("position.x", n % 20 * 3.0 - 30.0), wh.Channel("position.y", n // 20 * 3.0 - 15.0))
        keys = tuple(wh.Key(12.0 * k, float(np.sin(k + n)), wh.Family("sine")) for k in range(21))
        moving = (wh.Channel("position.z", 0.0, keys), wh.Channel("rotation.y", 0.0, keys)) if n < 100 else ()
        null = wh.Null(id=f"n{n}", name=f"Null {n}", channels=tuple(sorted((*place, *moving), key=lambda c: c.name)))
        card = wh.Picture(
            id=f"p{n}", name=f"Card {n}", carrier=f"n{n}", artwork=wh.Solid("#c08040"), width=200, height=200
        )
        nodes += [null, card]
    return wh.Scene(nodes=tuple(nodes), camera="cam")


def large_loop() -> None:
    """Scrubbing and playing a large scene, half of which moves."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "large.heron"
        wh.save(large_scene(), path)
        event_loop(path, "400 nodes, half of them moving, ", "n0")


def many_keys() -> wh.Scene:
    """300 lanes of 133 keys each."""
    eases = (wh.Flow(), wh.Bezier(0.42, 0.0, 0.58, 1.0), wh.Family("sine"))
    nodes = []
    for n in range(50):
        channels = []
        for c, name in enumerate(("position.x", "position.y", "position.z", "rotation.x", "rotation.y", "rotation.z")):
            keys = tuple(wh.Key(18.0 * k + c, float(np.sin(k * (n + 1) / 7.0)), eases[k % 3]) for k in range(134))
            channels.append(wh.Channel(name, 0.0, keys))
        nodes.append(wh.Null(id=f"n{n}", name=f"Null {n}", channels=tuple(channels)))
    return wh.Scene(settings=wh.Settings(last=2400), nodes=tuple(nodes))


def lanes() -> None:
    with shown() as window:
        document, view = window.desk.document, window.desk.lanes.view
        document.reset(many_keys(), None)
        QTest.qWait(3000)
        collector = Collector()
        collector.start()
        turn = [0]

        def move() -> None:
            turn[0] += 1
            if turn[0] % 3:
                view.bar.setValue((turn[0] * 37) % max(view.bar.maximum(), 1))
            else:
                view.look_at(view.axis.zoomed(1.15 if (turn[0] // 60) % 2 else 1 / 1.15, 1200.0))

        idle, idle_high = bare_loop()
        mover = QTimer()
        mover.timeout.connect(move)
        QTest.qWait(100)
        mover.start(16)
        longest, high = gaps_of(6000)
        mover.stop()
        what = "300 lanes with 40,000 keys, scrolled and zoomed"
        report(f"{what}: longest gap", f"{longest:.1f} ms", f"a bare loop {idle:.1f} ms", longest, 50.0, "ms")
        report(f"{what}: 99th percentile", f"{high:.1f} ms", f"a bare loop {idle_high:.1f} ms", high, 20.0, "ms")
        view.show_whole()
        channels = [(n, c) for n in range(10) for c in ("position.x", "position.y")]
        document.selection.choose_keys(
            KeyRef(f"n{n}", c, key.frame)
            for n, c in channels
            for key in document.scene.node(f"n{n}").channel(c).keys[:50]
        )
        grabbed = Grabbed(0.0, document.selection.keys)

        def step(k: int) -> None:
            view.key_drag.move(grabbed, 3.0 + k * view.axis.pixels_per_frame, view.axis, False)
            view.repaint()

        took = statistics.median(timed(lambda k=k: step(k)) for k in range(12)) * 1e3
        document.cancel()
        report("A step of dragging 1,000 keys, painted", f"{took:.1f} ms", "two screen frames", took, 33.4, "ms")
