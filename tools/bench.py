"""The measurements behind docs/performance.md: ``make bench``. Ratios are taken within one run, of medians."""

import argparse
import os
import platform
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from functools import cache
from pathlib import Path

os.environ["XDG_CONFIG_HOME"] = os.environ["XDG_DATA_HOME"] = tempfile.mkdtemp(prefix="wild-heron-bench-")

import moderngl
import numpy as np
from msgspec.structs import replace
from PIL import Image
from scipy.interpolate import CubicHermiteSpline

import wild_heron as wh
from wild_heron.demo import DEMO_SCENE
from wild_heron.evaluate import evaluate
from wild_heron.files.decode.pixels import read_pixels
from wild_heron.files.decode.source import on_disk
from wild_heron.files.pixels import file_of
from wild_heron.motion import Curve
from wild_heron.render.client import RenderClient
from wild_heron.render.export import ExportJob, export
from wild_heron.render.messages import FrameRequest, ThroughLens
from wild_heron.render.stream import FrameStream
from wild_heron.scene import channel_or_default
from wild_heron.scene.dependencies import closure, descendants, evaluation_order

WIDTH, HEIGHT = 1280, 720
VIEW = ThroughLens("main-camera")
ROWS: list[tuple[str, str, str, str, bool]] = []


def timed(work: Callable[[], object]) -> float:
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


def paired(ours: Callable[[], object], theirs: Callable[[], object], runs: int) -> tuple[float, float]:
    """Medians of two jobs that take turns, so that both see the same machine."""
    ours(), theirs()
    a, b = [], []
    for _ in range(runs):
        a.append(timed(ours))
        b.append(timed(theirs))
    return statistics.median(a), statistics.median(b)


def report(what: str, ours: str, base: str, got: float, limit: float, unit: str = "×") -> None:
    ROWS.append((what, ours, base, f"{got:.2f} {unit} (≤ {limit:g})", got <= limit))
    print(
        f"{'ok  ' if got <= limit else 'MISS'}  {what}: {ours} against {base}: {got:.2f} {unit}, mark {limit:g}",
        flush=True,
    )


def ms(seconds: float) -> str:
    return f"{seconds * 1e3:.1f} ms" if seconds < 10 else f"{seconds:.1f} s"


def curves() -> None:
    ease = wh.Bezier(0.42, 0.0, 0.58, 1.0)
    knots = np.arange(200.0) * 10.0
    values = np.sin(knots / 37.0)
    curve = Curve(tuple(wh.Key(float(f), float(v), ease) for f, v in zip(knots, values, strict=True)))
    spline = CubicHermiteSpline(knots, values, np.cos(knots / 37.0) / 37.0)
    in_order = np.linspace(0.0, 1990.0, 1_000_000)
    anyhow = np.random.default_rng(1).uniform(0.0, 1990.0, 1_000_000)
    for name, times in (("in order", in_order), ("in any order", anyhow)):
        ours, theirs = paired(lambda times=times: curve(times), lambda times=times: spline(times), 11)
        report(
            f"A million times {name} on a 200-key ease curve",
            ms(ours),
            f"SciPy spline {ms(theirs)}",
            ours / theirs,
            4.0,
        )


def evaluation(scene: wh.Scene) -> None:
    frames = np.arange(240.0)
    ours, one = paired(lambda: evaluate(scene, frames), lambda: evaluate(scene, [100.0]), 41)
    report("All 240 frames of the demo in one call", ms(ours), f"one frame {ms(one)}", ours / one, 12.0)


def edited(scene: wh.Scene) -> None:
    """Parts (a node after so many of its binds) worked out again after an edit of one channel, counted."""
    frames = np.arange(240.0)
    before = evaluate(scene, frames)
    again = dependent = 0
    for node, channel in (("turn", "position.x"), ("grass", "opacity"), ("town", "position.y"), ("aim", "position.z")):
        keyed = channel_or_default(scene.node(node), channel).keys
        edit = wh.edits.set_key(scene, node, channel, 30.0, 0.5) if keyed else None
        new = edit or wh.edits.set_value(scene, node, channel, 0.5)
        again += evaluate(new, frames, previous=before).computed
        dependent += sum(any(each == node for each, _ in closure(new, [part])) for part in evaluation_order(new))
    parts = 4 * before.computed
    report(
        "An edit of one channel, parts worked out again", f"{again} of {parts}", f"{dependent} depend on it",
        again / dependent, 1.0,
    )  # fmt: skip


def rig_scene(groups: int) -> wh.Scene:
    """Groups of twelve nodes that are bound in every way there is, to each other and to moving things."""
    scene = wh.Scene(name="Bench", settings=wh.Settings(1280, 720, last=239))
    waves = wh.Waves((wh.Wave(20.0, 9.0, 0.8, 1.0), wh.Wave(95.0, 4.0, 0.3, -0.5)))
    height = wh.Limit("height", id="limit-2")
    card = {"artwork": wh.Solid(), "width": 100, "height": 100}
    for g in range(groups):
        at = 30.0 * g
        points = tuple((at + x, 1.0 + 0.3 * x, 3.0 * (-1.0) ** x) for x in range(6))

        def name(word: str, g: int = g) -> dict[str, str]:
            return {"id": f"{word}-{g}", "name": f"{word.capitalize()} {g}"}

        def at_x(x: float) -> tuple[wh.Channel, ...]:
            keys = tuple(wh.Key(float(f), x + 0.02 * f, wh.Family("sine")) for f in range(0, 241, 24))
            return (wh.Channel("position.x", x, keys),)

        lead, cart, cam, hills = f"lead-{g}", f"cart-{g}", f"cam-{g}", f"hills-{g}"
        progress = wh.Channel("ride.progress", 0.0, (wh.Key(0.0, 0.0), wh.Key(239.0, 1.0)))
        eye = (wh.Channel("aim.off.x", 0.3), wh.Channel("position.x", at), wh.Channel("position.z", 14.0))
        high = (wh.Channel("position.x", at), wh.Channel("position.y", 5.0))
        sway = wh.Channel("rotation.y", formula=f'10 * sin(turn * seconds) + of("{cart}", "position.x")')
        nodes: tuple[wh.Node, ...] = (
            wh.Path(**name("path"), curve=wh.ThroughPath(points)),
            wh.Ground(**name("hills"), surface=waves, channels=(wh.Channel("position.x", at),)),
            wh.Null(**name("cart"), channels=at_x(at), binds=(wh.RideGround(hills),)),
            wh.Null(**name("lead"), channels=(progress,), binds=(wh.RidePath(f"path-{g}"),)),
            wh.Null(**name("heron"), binds=(wh.Follow(lead),)),
            wh.Null(**name("rider"), binds=(wh.Match(cart, "xyz", "xyz"),)),
            wh.Light(**name("rim"), light="point", binds=(wh.Opposite(cam, cart),)),
            wh.Null(**name("kept"), channels=at_x(at - 9.0), binds=(wh.Limit("distance", cart), height)),
            wh.Model(**name("ball"), shape=wh.Sphere(0.5), channels=high, binds=(wh.DropAndRoll(hills),)),
            wh.Picture(**name("card"), carrier=cart, binds=(wh.FaceCamera(cam),), **card),
            wh.Camera(**name("cam"), channels=eye, binds=(wh.AimAt((lead, cart), f"rider-{g}"), wh.Limit("tilt"))),
            wh.Null(**name("sway"), channels=(sway,)),
        )
        scene = wh.edits.add_nodes(scene, nodes)
    return replace(scene, camera="cam-0")


def rigs() -> None:
    from wild_heron.evaluate.binds import following, rolling

    def cold(scene: wh.Scene, count: int) -> Callable[[], object]:
        def work() -> None:
            following._course.cache_clear()
            rolling.simulated.cache_clear()
            evaluate(scene, np.arange(float(count)))

        return work

    whole, half = rig_scene(10), rig_scene(5)
    sixty, thousand = paired(cold(whole, 1000), cold(half, 1000), 5)
    each = thousand / 60 / 1000
    report("1,000 frames of 120 nodes with every bind", ms(sixty), f"60 nodes {ms(thousand)}", sixty / thousand, 2.3)
    long, short = paired(lambda: evaluate(half, np.arange(2000.0)), lambda: evaluate(half, np.arange(1000.0)), 9)
    report("2,000 frames of 60 nodes with every bind", ms(long), f"1,000 frames {ms(short)}", long / short, 2.3)
    free = wh.Scene(nodes=tuple(wh.edits.change_node(half, n.id, binds=()).node(n.id) for n in half.nodes))
    frames = np.arange(1000.0)
    bound, plain = paired(lambda: evaluate(half, frames), lambda: evaluate(free, frames), 9)
    cost = f"{bound / 60e3 * 1e9:.0f} ns a node and frame, {each * 1e9:.0f} the first time"
    what = f"The same, 60 nodes and 1,000 frames ({cost})"
    report(what, ms(bound), f"without binds {ms(plain)}", bound / plain, 12.0)


class BareLoop:
    """The least that draws the same pictures and reads them back: textured quads, one after the other."""

    def __init__(self, scene: wh.Scene, base: Path, frame: float, only: set[str] | None = None) -> None:
        gl = self.gl = moderngl.create_context(standalone=True, backend="egl", require=330)
        self.program = gl.program(
            vertex_shader="#version 330\nin vec2 uv; uniform mat4 m; out vec2 t;\n"
            "void main() { t = uv; gl_Position = m * vec4(uv, 0, 1); }",
            fragment_shader="#version 330\nin vec2 t; uniform sampler2D s; uniform float o; out vec4 c;\n"
            "void main() { c = texture(s, t) * o; }",
        )
        self.square = gl.vertex_array(self.program, [(gl.buffer(np.array([0, 0, 1, 0, 0, 1, 1, 1], "f4")), "2f", "uv")])
        self.target = gl.framebuffer([gl.texture((WIDTH, HEIGHT), 4)])
        here = evaluate(scene, [frame])
        camera = here.camera("main-camera", size=(WIDTH, HEIGHT))
        pose, focal = camera.pose[0], float(camera.focal_px[0])
        lens = np.array(
            [[2 * focal / WIDTH, 0, 0, 0], [0, -2 * focal / HEIGHT, 0, 0], [0, 0, -1, -2e-3], [0, 0, -1, 0]]
        )
        view = lens @ np.linalg.inv(pose)
        found = []
        for node in scene.nodes:
            if isinstance(node, wh.Picture) and (only is None or node.id in only):
                path = file_of(node, base)
                pixels = read_pixels(node, None if path is None else on_disk(path), 1.0, 8192).pixels
                texture = gl.texture((pixels.shape[1], pixels.shape[0]), 4, np.ascontiguousarray(pixels))
                texture.build_mipmaps()
                texture.filter = (moderngl.LINEAR_MIPMAP_LINEAR, moderngl.LINEAR)
                texture.repeat_x = texture.repeat_y = False
                w, h = node.width / 100, node.height / 100
                place = np.array([[w, 0, 0, -w / 2], [0, -h, 0, h / 2], [0, 0, 1, 0], [0, 0, 0, 1]])
                matrix = view @ here.world(node.id)[0] @ place
                depth = float(camera.pixels(here.position(node.id))[1][0])
                opacity = float(here.value(node.id, "opacity")[0])
                found.append((depth, texture, np.ascontiguousarray(matrix.T, dtype="f4"), opacity))
        self.quads = sorted(found, key=lambda each: -each[0])

    def draw(self) -> bytes:
        self.target.use()
        self.target.clear(0, 0, 0, 1)
        self.gl.enable(moderngl.BLEND)
        self.gl.blend_func = moderngl.ONE, moderngl.ONE_MINUS_SRC_ALPHA
        for _, texture, matrix, opacity in self.quads:
            texture.use(0)
            self.program["m"].write(matrix)
            self.program["o"] = opacity
            self.square.render(moderngl.TRIANGLE_STRIP)
        return self.target.read(components=4)


def flat(scene: wh.Scene) -> wh.Scene:
    """The demo's pictures alone, as a bare loop draws them: no solids, no haze, no second set."""
    gone = {
        node.id for node in scene.nodes if isinstance(node, wh.Logo | wh.Model | wh.Ground | wh.Projection | wh.Light)
    }
    gone |= descendants(scene, "market-lane")
    scene = wh.edits.remove_nodes(scene, gone)
    return replace(scene, settings=replace(scene.settings, distance=None))


def lens_frames(scene: wh.Scene, base: Path) -> None:
    scene = flat(scene)
    with RenderClient() as client:
        client.set_scene(scene, base)
        ratios, ours_all, theirs_all = [], [], []
        for frame in (0.0, 60.0, 120.0, 200.0):
            bare = BareLoop(scene, base, frame)
            ours, theirs = paired(
                lambda frame=frame: client.draw(FrameRequest(frame, VIEW, WIDTH, HEIGHT)), bare.draw, 15
            )
            ratios.append(ours / theirs)
            ours_all.append(ours)
            theirs_all.append(theirs)
    ours, theirs = statistics.median(ours_all), statistics.median(theirs_all)
    report(
        "A Lens frame of the demo's pictures at 1280×720, request to pixels",
        ms(ours),
        f"bare loop {ms(theirs)}",
        statistics.median(ratios),
        1.25,
    )


def crowd(folder: Path) -> tuple[wh.Scene, set[str]]:
    """200 pictures of two megapixels with soft edges, 30 of them in the picture; and which those are."""
    width, height = 1632, 1224
    v, u = np.mgrid[0:1:1224j, 0:1:1632j]
    fade = np.clip(12 * np.minimum(np.minimum(u, 1 - u), np.minimum(v, 1 - v)), 0, 1)
    nodes: list[wh.Picture | wh.Camera] = [
        wh.Camera(id="main-camera", name="Camera", channels=(wh.Channel("position.z", 60.0),))
    ]
    seen = set()
    for k in range(200):
        tone = np.array([(k * 37) % 256, (k * 91) % 256, (k * 53) % 256])
        pixels = np.concatenate([np.broadcast_to(tone, (height, width, 3)), fade[..., None] * 255], axis=-1)
        Image.fromarray(pixels.astype(np.uint8)).save(folder / f"{k}.png", compress_level=1)
        if k < 30:
            x, y, z = (k % 6 - 2.5) * 9.0, (k // 6 - 2) * 6.0, (k * 7) % 30 * 0.2
            seen.add(f"p{k}")
        else:
            x, y, z = 300.0 + (k % 17) * 9.0, (k // 17) * 8.0, 0.1 * k
        place = tuple(wh.Channel(f"position.{a}", float(value)) for a, value in zip("xyz", (x, y, z), strict=True))
        nodes.append(
            wh.Picture(
                id=f"p{k}", name=f"P{k}", artwork=wh.ImageFile(f"{k}.png"), width=width, height=height, channels=place
            )
        )
    return wh.Scene(settings=wh.Settings(background="#101010"), nodes=tuple(nodes), camera="main-camera"), seen


def large_set() -> None:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        scene, seen = crowd(folder)
        with RenderClient() as client:
            client.set_scene(scene, folder)
            bare = BareLoop(scene, folder, 0.0, seen)
            ours, theirs = paired(lambda: client.draw(FrameRequest(0.0, VIEW, WIDTH, HEIGHT)), bare.draw, 15)
        report(
            "200 pictures of 2 megapixels, 30 in the frame",
            ms(ours),
            f"bare loop of 30 {ms(theirs)}",
            ours / theirs,
            1.3,
        )
        wh.save(scene, folder / "crowd.heron")
        painted, complete = opened(folder / "crowd.heron")
    report("Opening it: window painted", ms(painted), f"last picture in {ms(complete)}", painted / complete, 1.0)


@cache
def application() -> "QApplication":  # noqa: F821
    """The one application of this process."""
    from wild_heron.desk.shell.app import make_app

    return make_app()


def opened(path: Path) -> tuple[float, float]:
    """Seconds until the window of a scene is painted, and until the Lens lacks no artwork."""
    from PyQt6.QtCore import QEvent, QEventLoop, QObject, QTimer

    from wild_heron.desk.shell.app import make_settings
    from wild_heron.desk.shell.window import MainWindow
    from wild_heron.desk.widgets.theme import apply_style

    app = application()
    started = time.perf_counter()
    painted: list[float] = []

    class Watch(QObject):
        def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
            if event is not None and event.type() == QEvent.Type.UpdateRequest and not painted:
                QTimer.singleShot(0, lambda: painted.append(time.perf_counter() - started))
            return False

    window = MainWindow(make_settings())
    apply_style()
    watch = Watch()
    window.installEventFilter(watch)
    window.resize(1280, 800)
    window.desk.files.open(path, ask=False)
    loop = QEventLoop()
    window.desk.link.completed.connect(lambda stream: loop.quit() if stream == "lens" else None)
    QTimer.singleShot(120_000, loop.quit)
    window.show()
    loop.exec()
    complete = time.perf_counter() - started
    window.desk.files.may_leave = lambda: True  # type: ignore[method-assign]
    window.close()
    app.processEvents()
    return painted[0], complete


def movie(scene: wh.Scene, base: Path) -> None:
    scene = flat(scene)
    frames = tuple(float(frame) for frame in range(48))
    with tempfile.TemporaryDirectory() as folder:
        job = ExportJob(Path(folder) / "movie.mp4", frames, "main-camera", (WIDTH, HEIGHT))

        def plain() -> None:
            with FrameStream(scene, base, FrameRequest(0.0, VIEW, WIDTH, HEIGHT)) as stream:
                for _ in stream.frames(frames):
                    pass

        ours, theirs = paired(lambda: export(scene, base, job), plain, 3)
    report("A 48-frame 1280×720 movie", ms(ours), f"rendering alone {ms(theirs)}", ours / theirs, 1.2)


_BARE_WINDOW = """
import sys
from PyQt6.QtWidgets import QApplication, QWidget
app = QApplication(sys.argv)
class W(QWidget):
    def paintEvent(self, event):
        print("painted", flush=True)
        app.exit()
w = W(); w.resize(1280, 800); w.show()
app.exec()
"""
# What ``wild-heron demo`` does, with a watch on what is painted, and a click once the panels are filled.
_OUR_WINDOW = """
import gc
gc.disable()
from PyQt6.QtCore import QEvent, QPointF, Qt, QTimer
from PyQt6.QtGui import QMouseEvent
from wild_heron.demo import DEMO_SCENE
from wild_heron.desk.shell import app
def click(window):
    # A press on the first row of the Rig: a node is selected, and the inspector shows it.
    tree = window.desk.rig.tree
    at = QPointF(tree.visualItemRect(tree.topLevelItem(0)).center())
    there = tree.viewport().mapToGlobal(at)
    left = Qt.MouseButton.LeftButton
    for kind in (QEvent.Type.MouseButtonPress, QEvent.Type.MouseButtonRelease):
        event = QMouseEvent(kind, at, there, left, left, Qt.KeyboardModifier.NoModifier)
        app.QApplication.sendEvent(tree.viewport(), event)
    assert window.desk.document.selection.active is not None
    print("ready", flush=True)
class Watched(app.MainWindow):
    painted = ready = False
    def event(self, event):
        done = super().event(event)
        if event.type() == QEvent.Type.UpdateRequest:
            if not self.painted:
                self.painted = True
                print("painted", flush=True)
            elif not self.ready and self._filled and len(self.desk.document.scene.nodes):
                self.ready = True
                QTimer.singleShot(0, lambda: click(self))
        return done
app.MainWindow = Watched
app.run(DEMO_SCENE, as_copy=True)
"""


def time_until(word: str, script: str) -> float:
    """How long a program takes from its start until it says a word, in seconds."""
    start = time.perf_counter()
    # Like a user's, with compiled modules on disk: the run that is not measured writes them.
    environment = {name: value for name, value in os.environ.items() if name != "PYTHONDONTWRITEBYTECODE"}
    process = subprocess.Popen(
        [sys.executable, "-c", script], stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True, env=environment
    )
    assert process.stdout is not None
    for line in process.stdout:
        if line.startswith(word):
            took = time.perf_counter() - start
            break
    else:
        raise RuntimeError(f"the window was never {word}")
    process.kill()
    process.wait()
    return took


def start_up() -> None:
    time_until("ready", _OUR_WINDOW)
    runs = [("painted", _OUR_WINDOW), ("ready", _OUR_WINDOW), ("painted", _BARE_WINDOW)]
    times = [[time_until(*run) for run in runs] for _ in range(9)]
    seen, ready, bare = (statistics.median(column) for column in zip(*times, strict=True))
    other = f"bare PyQt6 window {ms(bare)}"
    report("Start to something to see", ms(seen), other, seen / bare, 2.0)
    report("Start to the demo in all panels and a click answered", ms(ready), other, ready / bare, 5.0)


def gaps_of(milliseconds: int) -> tuple[float, float]:
    """The longest gap of the event loop in a while, and the 99th percentile, in milliseconds."""
    from PyQt6.QtCore import Qt, QTimer
    from PyQt6.QtTest import QTest

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


def event_loop(path: Path = DEMO_SCENE, what: str = "", others: int = 0) -> None:
    """The window's event loop while it scrubs and plays; with ``others``, while so many processes want the processors
    as well."""
    from PyQt6.QtCore import QTimer
    from PyQt6.QtTest import QTest

    from wild_heron.desk.shell.app import make_settings
    from wild_heron.desk.shell.collector import Collector
    from wild_heron.desk.shell.window import MainWindow
    from wild_heron.desk.widgets.theme import apply_style

    app = application()
    window = MainWindow(make_settings())
    apply_style()
    window.desk.files.open(path, as_copy=True, ask=False)
    window.resize(1280, 800)
    window.desk.document.selection.choose(["turn" if path == DEMO_SCENE else "heron-0"])
    window.show()
    QTest.qWait(4000)
    collector = Collector()
    collector.start()  # as the program does once its window is up
    busy = [subprocess.Popen([sys.executable, "-c", "while True: pass"]) for _ in range(others)]
    for name, play in (("scrubbing", False), ("playing", True)):
        idle, idle_high = bare_loop()
        mover = QTimer()
        mover.timeout.connect(
            lambda: window.desk.document.playhead.set_frame((window.desk.document.playhead.frame + 7) % 240)
        )
        QTest.qWait(100)
        if play:
            window.desk.playback.play()
        else:
            mover.start(16)
        longest, high = gaps_of(8000)
        mover.stop(), window.desk.playback.stop()
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
    window.desk.document.mark_loaded()
    window.close()
    app.processEvents()


def busy_loop() -> None:
    event_loop(others=2)


def reading() -> None:
    """A hundred pictures brought in and read in full, by way of the reader process, and right here."""
    from concurrent.futures import ThreadPoolExecutor

    from PIL import Image

    from wild_heron.files.bringing import bring
    from wild_heron.files.decode.images import probe
    from wild_heron.files.reader import Reader

    with tempfile.TemporaryDirectory() as name, Reader(2) as reader, ThreadPoolExecutor(2) as readers:
        folder = Path(name)
        rng = np.random.default_rng(3)
        rough = Image.fromarray(rng.integers(0, 255, (30, 40, 4), np.uint8)).resize((800, 600))
        paths = [folder / f"picture {k:03}.png" for k in range(100)]
        rough.save(paths[0], compress_level=1)
        for path in paths[1:]:
            path.write_bytes(paths[0].read_bytes())
        found = bring(paths, folder, wh.Settings(), reader, "picture").proposals
        nodes = [each.node for each in found]

        def ours() -> None:
            bring(paths, folder, wh.Settings(), reader, "picture")
            jobs = zip(nodes, paths, strict=True)
            list(readers.map(lambda job: reader.pixels(job[0], job[1], 1.0, 8192).pixels.shape, jobs))

        def theirs() -> None:
            for path in paths:
                probe(on_disk(path))
            jobs = zip(nodes, paths, strict=True)
            list(readers.map(lambda job: read_pixels(job[0], on_disk(job[1]), 1.0, 8192).pixels.shape, jobs))

        a, b = paired(ours, theirs, 5)
    report("100 pictures brought in and read in full", ms(a), f"in this process {ms(b)}", a / b, 1.15)


def saving() -> None:
    """A save beside writing as much, flushing it and renaming it over the old file."""
    from wild_heron.files.project import encode

    scene = many_keys()
    with tempfile.TemporaryDirectory() as name:
        path, other = Path(name) / "s.heron", Path(name) / "t.heron"

        def plain() -> None:
            data = encode(scene)
            with (Path(name) / "partial").open("wb") as out:
                out.write(data)
                out.flush()
                os.fsync(out.fileno())
            os.replace(Path(name) / "partial", other)

        a, b = paired(lambda: wh.save(scene, path), plain, 9)
    report("Saving 40,000 keys", ms(a), f"encoded, written and renamed {ms(b)}", a / b, 1.2)


def revival(kills: int = 12) -> None:
    """The renderer killed and stopped while the window is up: until its next picture is whole."""
    import signal

    from PyQt6.QtTest import QTest

    from wild_heron.desk.shell.app import make_settings
    from wild_heron.desk.shell.window import MainWindow

    app = application()
    window = MainWindow(make_settings())
    window.desk.previews.set_megabytes(0)
    window.desk.files.open(DEMO_SCENE, as_copy=True, ask=False)
    window.show()
    pictures: list[str] = []
    window.desk.link.completed.connect(lambda stream: stream == "lens" and pictures.append(stream))

    def until_whole(begin: Callable[[], None]) -> float:
        pictures.clear()
        start = time.perf_counter()
        begin()
        while not pictures and time.perf_counter() - start < 60.0:
            QTest.qWait(5)
        return time.perf_counter() - start

    def start_anew() -> None:
        window.desk.link.start()
        window.desk.lens.view.ask()

    def end(number: int) -> None:
        os.kill(window.desk.link.pid, number)
        window.desk.document.playhead.set_frame((window.desk.document.playhead.frame + 3) % 240)

    QTest.qWait(4000)
    bare = []
    for _ in range(3):
        window.desk.link.close()
        QTest.qWait(200)
        bare.append(until_whole(start_anew))
    base = statistics.median(bare)
    back = [until_whole(lambda: end(signal.SIGKILL)) for _ in range(kills)]
    came = sum(each < 60.0 for each in back)
    what = f"Renderer killed, {came} of {kills} back: the slowest whole picture"
    report(what, ms(max(back)), f"a bare start {ms(base)}", max(back) / base, 2.0)
    window.desk.link.set_scene(window.desk.document.views.shown, window.desk.document.file.base)
    said: list[float] = []
    start = [0.0]
    window.desk.link.status.connect(
        lambda text, warning: "hung" in text and said.append(time.perf_counter() - start[0])
    )
    start[0] = time.perf_counter()
    until_whole(lambda: end(signal.SIGSTOP))
    noticed = said[0] if said else 60.0
    report("Renderer stopped: until it is said and replaced", f"{noticed:.2f} s", "2 s", noticed, 2.0, "s")
    window.desk.document.mark_loaded()
    window.close()
    app.processEvents()


def rig_loop() -> None:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "rigs.heron"
        wh.save(rig_scene(5), path)
        event_loop(path, "60 bound nodes, ")


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
    from PyQt6.QtCore import QTimer
    from PyQt6.QtTest import QTest

    from wild_heron.desk.shell.app import make_settings
    from wild_heron.desk.shell.collector import Collector
    from wild_heron.desk.shell.window import MainWindow
    from wild_heron.desk.timeline.lanes.key_drag import Grabbed
    from wild_heron.desk.widgets.theme import apply_style
    from wild_heron.scene.edits import KeyRef

    app = application()
    window = MainWindow(make_settings())
    apply_style()
    document, view = window.desk.document, window.desk.lanes.view
    document.reset(many_keys(), None)
    window.resize(1280, 800)
    window.show()
    QTest.qWait(3000)
    collector = Collector()
    collector.start()
    turn = [0]

    def move() -> None:
        turn[0] += 1
        if turn[0] % 3:
            view.bar.setValue((turn[0] * 37) % max(view.bar.maximum(), 1))
        else:
            view._axis = view.axis.zoomed(1.15 if (turn[0] // 60) % 2 else 1 / 1.15, 1200.0)
            view.update()

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
        KeyRef(f"n{n}", c, key.frame) for n, c in channels for key in document.scene.node(f"n{n}").channel(c).keys[:50]
    )
    grabbed = Grabbed(0.0, document.selection.keys)
    steps = [
        timed(
            lambda k=k: (
                view.key_drag.move(grabbed, 3.0 + k * view.axis.pixels_per_frame, view.axis, False),
                view.repaint(),
            )
        )
        for k in range(12)
    ]
    document.cancel()
    took = statistics.median(steps) * 1e3
    report("A step of dragging 1,000 keys, painted", f"{took:.1f} ms", "two screen frames", took, 33.4, "ms")
    window.desk.files.may_leave = lambda: True  # type: ignore[method-assign]
    window.close()
    app.processEvents()


def machine() -> str:
    name = next(
        (
            line.split(":", 1)[1].strip()
            for line in Path("/proc/cpuinfo").read_text().splitlines()
            if "model name" in line
        ),
        platform.processor(),
    )
    gl = moderngl.create_context(standalone=True, backend="egl").info
    versions = f"Python {platform.python_version()}, NumPy {np.__version__}"
    return f"{os.cpu_count()} cores of {name}; {gl['GL_RENDERER']}; {versions}"


def write(path: Path) -> None:
    lines = [
        "# Performance",
        "",
        "Made by `make bench` (`tools/bench.py --write docs/performance.md`). Ratios are of medians that take turns",
        "within one run; a mark that is missed is shown as missed.",
        "",
        f"Machine: {machine()}. There is no graphics card in it: OpenGL is drawn by the processor.",
        "",
        "| what | ours | compared with | result (mark) | |",
        "| --- | --- | --- | --- | --- |",
        *(f"| {a} | {b} | {c} | {d} | {'met' if ok else '**missed**'} |" for a, b, c, d, ok in ROWS),
        "",
    ]
    path.write_text("\n".join(lines), encoding="utf-8")


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--write", type=Path, help="also write the table to this file")
    parser.add_argument("--only", help="one job: curves, evaluation, edited, lens, set, movie, start, loop, …")
    options = parser.parse_args()
    scene = wh.load(DEMO_SCENE)
    base = DEMO_SCENE.parent
    jobs: dict[str, Callable[[], None]] = {
        "curves": curves,
        "evaluation": lambda: evaluation(scene),
        "edited": lambda: edited(scene),
        "lens": lambda: lens_frames(scene, base),
        "set": large_set,
        "movie": lambda: movie(scene, base),
        "start": start_up,
        "loop": event_loop,
        "rigs": rigs,
        "rigloop": rig_loop,
        "busyloop": busy_loop,
        "reading": reading,
        "saving": saving,
        "revival": revival,
        "lanes": lanes,
    }
    for name, job in jobs.items():
        if options.only in (None, name):
            job()
    if options.write:
        write(options.write)


if __name__ == "__main__":
    main()
