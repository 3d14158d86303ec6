"""Checks: what they cost beside drawing the film, what an edit measures anew, and the window meanwhile."""

import time

import numpy as np
from msgspec.structs import replace
from PyQt6.QtCore import QTimer
from PyQt6.QtTest import QTest
from scipy.optimize import linprog
from scipy.sparse import bmat, csr_array, eye_array

import wild_heron as wh
from wild_heron.checks import Measures
from wild_heron.checks.changes import other_frames
from wild_heron.checks.measures import measure_numbers
from wild_heron.checks.solving import follow_subjects, with_window
from wild_heron.demo import DEMO_SCENE
from wild_heron.desk.shell.collector import Collector
from wild_heron.evaluate import evaluate, output
from wild_heron.gl.request import FrameRequest, ThroughLens
from wild_heron.process.checking import check_scene
from wild_heron.process.client import RenderClient
from wild_heron.scene import Format, Subject

from .loops import bare_loop, gaps_of
from .measuring import report
from .window import shown

_FRAMES = 240
_SOLVED = 1000
_EVERY = 8
"""Of the frames at preview size one of so many is drawn, and its time taken for all of them."""


def checking() -> None:
    """240 frames of the demo checked in every format, beside drawing them at preview size."""
    scene = wh.load(DEMO_SCENE)
    scene = replace(scene, settings=replace(scene.settings, last=_FRAMES - 1))
    started = time.perf_counter()
    found = check_scene(scene, DEMO_SCENE.parent)
    checked = time.perf_counter() - started
    drawn = 0.0
    with RenderClient() as client:
        client.set_scene(scene, DEMO_SCENE.parent)
        wish = FrameRequest(0.0, ThroughLens(), 640, 360)
        client.draw(wish)
        for frame in range(0, _FRAMES, _EVERY):
            client.draw(replace(wish, frame=float(frame)))
            started = time.perf_counter()
            client.draw(replace(wish, frame=float(frame + 1)))
            drawn += time.perf_counter() - started
    drawn *= _EVERY
    line = f"{_FRAMES} frames of the demo checked in {len(found)} formats, the process started too"
    report(line, f"{checked:.1f} s", f"drawing them at 640×360 {drawn:.1f} s", checked / drawn, 0.5)


def recheck() -> None:
    """An edit of one channel: frames measured anew, against those whose numbers are other ones."""
    scene = wh.load(DEMO_SCENE)
    keys = scene.node("turn").channel("rotation.y").keys
    edited = wh.edits.set_key(scene, "turn", "rotation.y", keys[1].frame, keys[1].value + 2.0)
    frames = Measures(scene).frames
    numbers, pictures = other_frames(scene, edited, frames)
    before, after = measure_numbers(scene, frames), measure_numbers(edited, frames)
    other = np.zeros(len(frames), dtype=bool)
    for a, b in zip(before, after, strict=True):
        same = np.isclose(a, b, rtol=0.0, atol=0.0, equal_nan=True).reshape(len(frames), -1).all(axis=1)
        other |= ~same
    line = f"An edit of one channel, frames checked again of {len(frames)} ({len(pictures)} pictures)"
    assert other[np.setdiff1d(np.arange(len(frames)), numbers)].sum() == 0, "a frame that changed was kept"
    report(line, f"{len(numbers)}", f"{other.sum()} that are other ones", len(numbers) / other.sum(), 1.1)


def solving() -> None:
    """A format of 1,000 frames follows a subject, beside one linear programme of as many places."""
    scene = wh.Scene(settings=wh.Settings(width=1600, height=900, last=_SOLVED - 1))
    kite = wh.Picture(id="kite", name="Kite", width=100, height=100, artwork=wh.Solid("#6d7fa8"))
    lens = (wh.Channel("lens.focal", 22.5), wh.Channel("position.z", 10.0))
    scene = wh.edits.add_nodes(scene, [kite, wh.Camera(id="cam", name="Camera", channels=lens)])
    scene = replace(scene, camera="cam", formats=(Format("Tall", 900, 1600),))
    scene = replace(scene, checks=replace(scene.checks, subjects=(Subject("kite"),)))
    places = 5.0 * np.sin(np.arange(0, _SOLVED, 25) * 0.037) + np.random.default_rng(3).normal(0.0, 0.4, _SOLVED // 25)
    for number, place in enumerate(places.tolist()):
        scene = wh.edits.set_key(scene, "kite", "position.x", 25.0 * number, place)
    scene, _ = with_window(scene, "Tall")
    follow_subjects(scene, "Tall")
    started = time.perf_counter()
    _, solution = follow_subjects(scene, "Tall")
    took = time.perf_counter() - started
    assert solution.worst is None
    x = output(scene, solution.frames).pixels(evaluate(scene, solution.frames).position("kite"))[0][:, 0] - 800.0
    once = _one_programme(x - 180.0, x + 180.0)
    report(f"A format of {_SOLVED} frames follows its subject, both axes", f"{took * 1e3:.0f} ms",
           f"one linear programme of {_SOLVED} places {once * 1e3:.0f} ms", took / once, 3.0)  # fmt: skip


def _one_programme(low: np.ndarray, high: np.ndarray) -> float:
    """How long the plainest statement of it takes: the sizes of three differences, weighted, within bounds."""
    count = len(low)
    sizes, costs, blocks = [count - k for k in (1, 2, 3)], [np.zeros(count)], []
    for k, weight in zip((1, 2, 3), (1.0, 10.0, 100.0), strict=True):
        difference = csr_array(np.diff(np.eye(count), k, axis=0))
        costs.append(np.full(count - k, weight))
        for sign in (1.0, -1.0):
            blocks.append([sign * difference, *(-eye_array(n) if n == count - k else None for n in sizes)])
    matrix = bmat(blocks, format="csr")
    bounds = [*zip(low, high, strict=True), *[(0.0, None)] * sum(sizes)]
    started = time.perf_counter()
    found = linprog(np.concatenate(costs), matrix, np.zeros(matrix.shape[0]), bounds=bounds, method="highs")
    assert found.status == 0
    return time.perf_counter() - started


def check_loop() -> None:
    """The event loop while the Checks tab measures the demo, and somebody scrubs."""
    with shown() as window:
        desk = window.desk
        desk.previews.set_megabytes(0)
        desk.files.open(DEMO_SCENE, as_copy=True, ask=False)
        QTest.qWait(4000)
        collector = Collector()
        collector.start()
        idle, idle_high = bare_loop()
        desk.actions_["view.checks"].trigger()
        mover = QTimer()
        mover.timeout.connect(lambda: desk.document.playhead.set_frame((desk.document.playhead.frame + 7) % 240))
        mover.start(250)
        QTest.qWait(300)
        longest, high = gaps_of(8000)
        mover.stop()
        report("Event loop while it checks: longest gap", f"{longest:.1f} ms", f"a bare loop {idle:.1f} ms",
               longest, 50.0, "ms")  # fmt: skip
        report("Event loop while it checks: 99th percentile", f"{high:.1f} ms", f"a bare loop {idle_high:.1f} ms",
               high, 20.0, "ms")  # fmt: skip
