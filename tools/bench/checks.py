"""Checks: what they cost beside drawing the film, what an edit measures anew, and the window meanwhile."""

import time

import numpy as np
from msgspec.structs import replace
from PyQt6.QtCore import QTimer
from PyQt6.QtTest import QTest

import wild_heron as wh
from wild_heron.checks import Measures
from wild_heron.checks.changes import other_frames
from wild_heron.checks.measures import measure_numbers
from wild_heron.demo import DEMO_SCENE
from wild_heron.desk.shell.collector import Collector
from wild_heron.render.checking import check_scene
from wild_heron.render.client import RenderClient
from wild_heron.render.messages import FrameRequest, ThroughLens

from .loops import bare_loop, gaps_of
from .measuring import report
from .window import shown

_FRAMES = 240
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
