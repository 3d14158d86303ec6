"""Curves and evaluation."""

from collections.abc import Callable

import numpy as np
from msgspec.structs import replace
from scipy.interpolate import CubicHermiteSpline

import wild_heron as wh
from wild_heron.evaluate import evaluate
from wild_heron.motion import Curve
from wild_heron.scene import channel_or_default
from wild_heron.scene.dependencies import closure, evaluation_order
from wild_heron.sized_cache import forget_all

from .measuring import ms, paired, report


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
    def cold(scene: wh.Scene, count: int) -> Callable[[], object]:
        def work() -> None:
            forget_all()
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
