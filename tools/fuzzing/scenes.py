"""Hostile scenes: each is loaded, evaluated and saved again, in a process that is watched."""

import json
import os
import random
import signal
import sys
import time
from multiprocessing import Pipe, Process
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any, NamedTuple

from wild_heron.scene import Scene
from wild_heron.scene.output import has_output

from .mutate import grown_json, mutated_json, places

MAX_SECONDS = 10.0
PATIENCE_SECONDS = 90.0
"""By the clock, for what waits rather than works."""
MAX_BYTES = 2_000_000_000
GROWN = 0.5
"""How many of the scenes are grown rather than broken."""


class Failure(NamedTuple):
    what: str
    seed: int
    why: str


def sources() -> list[Any]:
    """The shipped scenes, and one that has a little of everything."""
    from wild_heron.demo import DEMO_SCENE, STUDY_SCENE

    from .everything import everything

    return [json.loads(path.read_text()) for path in (DEMO_SCENE, STUDY_SCENE)] + [everything()]


def attack(data: bytes) -> str:
    """Load a scene's bytes, evaluate it, and save it again. Anything but a clear refusal or success raises."""
    import numpy as np

    import wild_heron as wh
    from wild_heron.evaluate.sample import sample
    from wild_heron.files.project import decode, encode
    from wild_heron.scene import specs

    try:
        scene = decode(data, "fuzz.heron")
    except wh.FileError as refused:
        str(refused).encode()
        return "refused"
    settings = scene.settings
    frames = np.array(
        [settings.first, 0.5 * (settings.first + settings.last) + 0.25, settings.last, settings.last + 9.0]
    )
    here = wh.evaluate(scene, frames)
    for node in scene.nodes:
        assert np.isfinite(here.world(node.id)).all(), f"{node.id} is nowhere"
        for name in specs(node):
            assert np.isfinite(here.value(node.id, name)).all(), f"{node.id}.{name} is no number"
    list(sample(scene, [node.id for node in scene.nodes[:40]], frames.tolist(), None))
    if has_output(scene):
        seen = wh.output(scene, frames)
        assert np.isfinite(seen.pose).all(), "the output is nowhere"
        for name in seen.__struct_fields__:
            ours, theirs = getattr(seen, name), getattr(here.camera(), name)
            if isinstance(ours, np.ndarray):
                assert np.array_equal(ours, theirs, equal_nan=True), f"the output is two things: {name}"
        _check(scene)
    assert decode(encode(scene), "again.heron") == scene
    return "faulty" if here.faults else "sound"


def _check(scene: Scene) -> None:
    """Measure and judge a few frames, as far as numbers tell; a fix of the worst finding may be asked for too."""
    import numpy as np

    from wild_heron.checks import Measures, judged
    from wild_heron.checks.check_renders import looks_at

    if scene.settings.frame_count > 2000:
        return
    measures = Measures(scene)
    count = len(measures)
    measures.measure(scene, np.unique(np.linspace(0, count - 1, min(count, 12)).astype(int)))
    looks_at(scene)
    for which in range(min(len(measures.formats), 3)):
        for finding in judged(scene, measures, which).findings:
            assert np.isfinite(finding.badness) or finding.badness > 0.0, finding.title
            finding.title.encode()


def _serve(pipe: Connection) -> None:
    sys.stderr = open(os.devnull, "w")  # noqa: SIM115
    while True:
        data = pipe.recv_bytes()
        try:
            pipe.send(("ok", attack(data)))
        except BaseException as problem:
            pipe.send(("failed", f"{type(problem).__name__}: {str(problem)[:300]}"))


def processor_seconds(pid: int | None) -> float:
    """How much of the processors' time a process has had; 0 for one that is gone."""
    try:
        fields = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()
    except OSError:
        return 0.0
    return (int(fields[11]) + int(fields[12])) / os.sysconf("SC_CLK_TCK")


class _Runner:
    def __init__(self) -> None:
        self._pipe, theirs = Pipe()
        self._process = Process(target=_serve, args=(theirs,), daemon=True)
        self._process.start()

    def run(self, data: bytes) -> tuple[str, str]:
        self._pipe.send_bytes(data)
        # Of the processor's time: a busy machine is no fault of the scene.
        spent, deadline = processor_seconds(self._process.pid), time.monotonic() + PATIENCE_SECONDS
        while not self._pipe.poll(0.02):
            if processor_seconds(self._process.pid) - spent > MAX_SECONDS or time.monotonic() > deadline:
                return "failed", f"more than {MAX_SECONDS:.0f} s"
            if self.memory() > MAX_BYTES:
                return "failed", "more than 2 GB"
            if not self._process.is_alive():
                return "failed", "the process died"
        return self._pipe.recv()

    def memory(self) -> int:
        try:
            return int(Path(f"/proc/{self._process.pid}/statm").read_text().split()[1]) * os.sysconf("SC_PAGE_SIZE")
        except (OSError, ValueError):
            return 0

    def end(self) -> None:
        if self._process.pid:
            os.kill(self._process.pid, signal.SIGKILL)
        self._process.join()


def fuzz_scenes(count: int, seed: int) -> tuple[dict[str, int], list[Failure]]:
    """Attack with so many scenes, made from a seed. How often what came of them, and what failed."""
    made = [(each, places(each)) for each in sources()]
    tally: dict[str, int] = {}
    failures: list[Failure] = []
    runner = _Runner()
    for k in range(count):
        data = _case(made, seed, k)
        state, what = runner.run(data)
        if state == "failed":
            failures.append(Failure("scene", k, what))
            runner.end()
            runner = _Runner()
        elif runner.memory() > MAX_BYTES // 2:
            runner.end()
            runner = _Runner()
        tally[what if state == "ok" else "failed"] = tally.get(what if state == "ok" else "failed", 0) + 1
    runner.end()
    return tally, failures


def _case(made: list[tuple[Any, list[tuple[Any, ...]]]], seed: int, k: int) -> bytes:
    rng = random.Random(f"{seed}/scene/{k}")
    value, known = made[k % len(made)]
    if rng.random() < GROWN:
        value = grown_json([each for each, _ in made], rng)
        if rng.random() < 0.3:
            value = mutated_json(value, rng, places(value)[:20_000])
    else:
        value = mutated_json(value, rng, known)
    data = json.dumps(value).encode("utf-8", "surrogatepass")
    return data[: rng.randrange(len(data))] if rng.random() < 0.03 else data


def scene_of(seed: int, k: int) -> bytes:
    """The bytes of one case, to look at it by itself."""
    made = [(each, places(each)) for each in sources()]
    return _case(made, seed, k)
