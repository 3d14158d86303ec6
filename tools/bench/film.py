"""A long film: what it shows, rolling its joins, small pictures beside the event loop, and its beats."""

import statistics
import tempfile
import time
from pathlib import Path

import numpy as np
from msgspec.structs import replace
from PyQt6.QtCore import QPointF, Qt, QTimer
from PyQt6.QtTest import QTest

import wild_heron as wh
from demo.march import march, write
from wild_heron.desk.shell.collector import Collector
from wild_heron.desk.timeline.shots.shots_drags import RollDrag
from wild_heron.evaluate import evaluate, output
from wild_heron.files.reader import Reader
from wild_heron.motion.beats import find_beats
from wild_heron.motion.sound import RATE, mono
from wild_heron.scene.output import shot_range

from .loops import bare_loop, gaps_of
from .measuring import ms, paired, report
from .window import shown

_CAMERAS, _SHOTS, _LAST = 40, 60, 4319


def film_scene() -> wh.Scene:
    """Three minutes, 60 shots, 40 cameras that move and aim, ten blends."""
    nodes: list[wh.AnyNode] = [wh.Null(id="subject", name="Subject")]
    for n in range(_CAMERAS):
        keys = tuple(wh.Key(60.0 * k, float(8.0 * np.sin(k + n)), wh.Family("sine")) for k in range(73))
        channels = (wh.Channel("position.x", 0.0, keys), wh.Channel("position.z", 12.0 + n / 4.0))
        nodes.append(wh.Camera(id=f"c{n}", name=f"Camera {n}", channels=channels, binds=(wh.AimAt(("subject",)),)))
    for n in range(30):
        place = (wh.Channel("position.x", n % 6 * 3.0 - 8.0), wh.Channel("position.y", n // 6 * 2.0 - 4.0))
        card = wh.Picture(
            id=f"p{n}", name=f"Card {n}", channels=place, artwork=wh.Solid("#c08040"), width=240, height=160
        )
        nodes.append(card)
    length = (_LAST + 1) / _SHOTS
    shots = tuple(
        wh.Shot(
            f"Shot {k}", f"c{k * 7 % _CAMERAS}", float(round(k * length)),
            join=wh.Blend(24.0) if k % 6 == 3 else wh.Cut(),
        )
        for k in range(_SHOTS)
    )  # fmt: skip
    return wh.Scene(settings=wh.Settings(last=_LAST), nodes=tuple(nodes), camera="c0", shots=shots)


def shown_by_the_film() -> None:
    """All frames of the output, and every shot's own camera over its own frames."""
    scene = film_scene()
    frames = np.arange(_LAST + 1.0)
    ranges = [(shot.camera, *shot_range(scene, k)) for k, shot in enumerate(scene.shots)]

    def alone() -> None:
        for camera, first, end in ranges:
            evaluate(scene, np.arange(first, end), [camera]).camera(camera)

    ours, theirs = paired(lambda: output(scene, frames), alone, 7)
    report("All 4,320 frames of a film of 60 shots", ms(ours), f"each shot's camera {ms(theirs)}", ours / theirs, 1.5)


def rolling() -> None:
    """Steps of rolling a join of the film, painted."""
    with tempfile.TemporaryDirectory() as folder, shown() as window:
        path = Path(folder) / "film.heron"
        wh.save(film_scene(), path)
        desk = window.desk
        desk.files.open(path, ask=False)
        desk.actions_["view.shots"].trigger()
        QTest.qWait(2500)
        view = desk.lanes.shots.view
        view.look_at(replace(view.axis, start=700.0, end=1100.0))
        QTest.qWait(400)
        number = 12
        start = QPointF(view.axis.x(desk.document.scene.shots[number].first), view.row("film").center().y())
        drag = RollDrag(view, start, number, False)
        took = []
        for k in range(40):
            began = time.perf_counter()
            drag.move(start + QPointF(4.0 + 1.5 * (k + 1), 0.0), Qt.KeyboardModifier.NoModifier)
            view.repaint()
            took.append(time.perf_counter() - began)
            QTest.qWait(15)
        drag.cancel()
        step = statistics.median(took) * 1e3
        report(
            "A step of rolling a join of that film, painted", f"{step:.1f} ms", "two screen frames", step, 33.4, "ms"
        )


def small_pictures() -> None:
    """The event loop while small pictures of the film are drawn."""
    with tempfile.TemporaryDirectory() as folder, shown() as window:
        path = Path(folder) / "film.heron"
        wh.save(film_scene(), path)
        desk = window.desk
        desk.files.open(path, ask=False)
        desk.actions_["view.shots"].trigger()
        QTest.qWait(2500)
        collector = Collector()
        collector.start()
        idle, idle_high = bare_loop()
        mover = QTimer()
        # Another part of the film each time, so that there is always something to draw.
        mover.timeout.connect(lambda: desk.lanes.shots.view.look_at(desk.lanes.shots.view.axis.moved(37.0)))
        mover.start(400)
        longest, high = gaps_of(8000)
        mover.stop()
        line = "Event loop while small pictures are drawn"
        report(f"{line}: longest gap", f"{longest:.1f} ms", f"a bare loop {idle:.1f} ms", longest, 50.0, "ms")
        report(f"{line}: 99th percentile", f"{high:.1f} ms", f"a bare loop {idle_high:.1f} ms", high, 20.0, "ms")


def beats() -> None:
    """Finding the beats of five minutes of the march, and decoding them."""
    with tempfile.TemporaryDirectory() as folder, Reader() as reader:
        path = Path(folder) / "march.ogg"
        write(path, np.tile(march(), 15))
        samples = mono(reader.samples(path).samples)
        ours, theirs = paired(lambda: find_beats(samples, RATE), lambda: reader.samples(path), 3)
        report("Beats of five minutes of music", ms(ours), f"decoding it {ms(theirs)}", ours / theirs, 3.0)
