"""Movers and takes: what they cost beside keys alone, long recordings, and the window while one is made or in use."""

import socket
import statistics
import tempfile
import time
from pathlib import Path

import numpy as np
from msgspec.structs import replace
from PyQt6.QtCore import QTimer
from scipy.signal import butter, sosfiltfilt

import wild_heron as wh
from wild_heron import edits
from wild_heron.demo import DEMO_SCENE
from wild_heron.desk.shell.collector import Collector
from wild_heron.evaluate import evaluate
from wild_heron.motion.takes.fewest import Closeness, fewest
from wild_heron.motion.takes.mending import mark, mend
from wild_heron.motion.takes.sampling import even_step
from wild_heron.motion.takes.steadying import steady
from wild_heron.scene import TURN, Take, TakeUse, packed
from wild_heron.scene.channels import POSITION, ROTATION
from wild_heron.scene.mover_presets import new_mover
from wild_heron.scene.movers import MOVER_KINDS
from wild_heron.tracker.hand import tracked
from wild_heron.tracker.messages import Pose, encode

from .loops import bare_loop, event_loop, gaps_of
from .measuring import ms, paired, report, timed
from .window import shown

_NODES, _LAST = 20, 999
_RATE, _LENGTH = 90.0, 600.0


def _keyed(shift: float) -> wh.Scene:
    """20 nodes that move and turn by 21 keys a channel, another version for each ``shift``."""
    nodes: list[wh.AnyNode] = []
    for n in range(_NODES):
        keys = tuple(wh.Key(50.0 * k, float(np.sin(k + n) + shift), wh.Family("sine")) for k in range(21))
        channels = tuple(wh.Channel(name, 0.0, keys) for name in (*POSITION, *ROTATION))
        nodes.append(wh.Null(id=f"n{n}", name=f"Null {n}", channels=channels))
    return wh.Scene(settings=wh.Settings(last=_LAST), nodes=tuple(nodes), markers=(wh.Marker(100.0, "bang"),))


def _alive(scene: wh.Scene) -> wh.Scene:
    """The same with a mover on each node, all kinds in turn."""
    for n, node in enumerate(scene.nodes):
        mover = new_mover(MOVER_KINDS[n % len(MOVER_KINDS)], node)
        if n >= len(MOVER_KINDS) and isinstance(mover, wh.Overshoot):
            mover = replace(mover, only_stops=False)
        scene, _ = edits.add_movers(scene, node.id, [mover])
    return scene


def movers() -> None:
    """1,000 frames of 20 nodes after every one of them was edited, with a mover on each and without."""
    frames = np.arange(_LAST + 1.0)
    shifts = iter(np.arange(1, 200) * 1e-3)
    ours, theirs = [], []
    for _ in range(15):
        plain = _keyed(float(next(shifts)))
        alive = _alive(_keyed(float(next(shifts))))
        theirs.append(timed(lambda plain=plain: evaluate(plain, frames)))
        ours.append(timed(lambda alive=alive: evaluate(alive, frames)))
    a, b = statistics.median(ours), statistics.median(theirs)
    report("1,000 frames of 20 nodes with 20 movers, all just edited", ms(a), f"keys alone {ms(b)}", a / b, 3.0)


def _long_take(length: float) -> Take:
    sent = tracked("walk", length, _RATE, 5)
    columns = np.column_stack([sent.hand.position, sent.hand.quaternion])
    return Take("long", "Long", "cam", (*POSITION, *TURN), packed(sent.times, columns))


def takes() -> None:
    """Ten minutes at 90 samples a second: steadied, and brought to the fewest keys."""
    take = mend(mark(_long_take(_LENGTH)))
    columns = np.ascontiguousarray(take.table()[:, 1:])
    sos = butter(4, 1.2, fs=1.0 / even_step(take), output="sos")
    ours, theirs = paired(lambda: steady(take, "firm"), lambda: sosfiltfilt(sos, columns, axis=0), 7)
    report(f"A take of {take.count:,} samples steadied", ms(ours), f"sosfiltfilt {ms(theirs)}", ours / theirs, 5.0)
    smooth = steady(take, "firm")
    half = steady(mend(mark(_long_take(0.5 * _LENGTH))), "firm")
    allowed = Closeness(0.01, 0.1)
    whole, part = paired(lambda: fewest(smooth, allowed), lambda: fewest(half, allowed), 5)
    report("Fewest keys of ten minutes", ms(whole), f"of five minutes {ms(part)}", whole / part, 2.3)


def take_loop() -> None:
    """The event loop while the last seconds of ten minutes come from a tracker, and while they become a take."""
    with shown() as window:
        desk = window.desk
        desk.files.open(DEMO_SCENE, as_copy=True, ask=False)
        desk.document.selection.choose(["lane-camera"])
        desk.document.views.set_lens("lane-camera")
        desk.lanes.choose("takes")
        recorder = desk.take_commands.recorder
        recorder.port, recorder.count_in = 0, False
        recorder.set_source("tracker")
        listener = recorder.listener
        assert listener is not None
        gaps_of(3000)
        Collector().start()
        idle, idle_high = bare_loop()
        sent = tracked("walk", _LENGTH, _RATE, 5)
        listener._latest = Pose(0.0, (0.0, 0.0, 0.0), (0.0, 0.0, 0.0, 1.0), True)
        recorder.start()
        # All but the last ten seconds lie there already, as if they had been heard in time.
        begun = time.perf_counter() - _LENGTH + 10.0
        recorder._passes[-1] = recorder._passes[-1]._replace(began=begun, first=0)
        old = sent.times < _LENGTH - 10.0
        for at, place, turn in zip(sent.times[old], sent.hand.position[old], sent.hand.quaternion[old], strict=True):
            listener._add((float(at), begun + float(at), *place.tolist(), *turn.tolist(), 1.0))
        waiting = iter(np.flatnonzero(~old).tolist())

        def one() -> None:
            k = next(waiting, None)
            if k is not None:
                x, y, z = sent.hand.position[k].tolist()
                a, b, c, d = sent.hand.quaternion[k].tolist()
                pose = Pose(float(sent.times[k]), (x, y, z), (a, b, c, d), True)
                sender.sendto(encode(pose), ("127.0.0.1", listener.port))

        sender = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
        feed = QTimer()
        feed.timeout.connect(one)
        feed.start(11)
        longest, high = gaps_of(6000)
        feed.stop()
        sender.close()
        QTimer.singleShot(200, recorder.stop)
        ending, _ = gaps_of(1500)
        count = desk.document.scene.takes[-1].count if desk.document.scene.takes else 0
        report("Event loop while ten minutes are recorded from a tracker: longest gap", f"{longest:.1f} ms",
               f"a bare loop {idle:.1f} ms", longest, 50.0, "ms")  # fmt: skip
        report("Event loop, recording: 99th percentile", f"{high:.1f} ms",
               f"a bare loop {idle_high:.1f} ms", high, 20.0, "ms")  # fmt: skip
        report(f"Event loop while {count:,} samples become a take: longest gap", f"{ending:.1f} ms",
               f"a bare loop {idle:.1f} ms", ending, 50.0, "ms")  # fmt: skip


def used_loop() -> None:
    """Scrubbing and playing the demo while its camera moves by a take of a minute."""
    scene = wh.load(DEMO_SCENE)
    scene, take = edits.add_take(scene, replace(_long_take(60.0), node="lane-camera"))
    use = TakeUse(take, edits.find_take(scene, take).channels)
    scene = edits.use_take(scene, "lane-camera", use)
    with tempfile.TemporaryDirectory(dir=DEMO_SCENE.parent) as folder:
        path = Path(folder) / "take.heron"
        wh.save(scene, path)
        event_loop(path, "a take in use, ", "lane-camera")
