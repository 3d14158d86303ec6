"""A scene with a little of everything that a scene can hold, as JSON."""

import json
from typing import Any

import msgspec
import numpy as np

import wild_heron as wh
from wild_heron.edits.mixes import mix_of, with_pad
from wild_heron.edits.moves import keep_in_scene
from wild_heron.files.move_files import shipped_moves
from wild_heron.files.project import encode


def everything() -> Any:
    """Every kind of node, artwork, solid, path, ground, bind, mover, span, light, dial, link and formula."""
    spans = (
        wh.Hold(), wh.Linear(), wh.Flow(), wh.Flow("smooth"), wh.Handles(1.0, 0.4, -1.0, 0.3), wh.Steps(4),
        wh.Bezier(0.1, 2.0, 0.9, -1.0), wh.Family("elastic"), wh.Spring(2.0, 0.4),
        wh.EasePart(wh.Family("sine"), 0.1, 0.6),
    )  # fmt: skip
    keys = tuple(wh.Key(6.0 * k, float(k % 3), span) for k, span in enumerate(spans))

    def moving(name: str, value: float = 0.0, **more: Any) -> wh.Channel:
        return wh.Channel(name, value, keys, **more)

    waves = wh.Waves((wh.Wave(20.0, 6.0, 0.4, 1.0), wh.Wave(-40.0, 2.0, 0.1)))
    heights = wh.HeightMap(3, 2, bytes(range(12)), -1.0, 2.0, "hill.png")
    points = tuple(wh.PathPoint((float(k), float(k % 2), 0.0), (-0.3, 0.0, 0.0), (0.3, 0.0, 0.0)) for k in range(4))
    text = wh.Text("Two\nlines", tracking=20.0)
    artworks = (
        wh.ImageFile("a.png"), wh.Layer("b.ora", "data/x.png"), wh.Layer("c.svg", "0.1", (1.0, 2.0, 30.0, 40.0)),
        wh.Sequence("walk_####.png", 1, 9, 24.0, wh.Timing(3.0, 0.5, "swing")), wh.Movie("m.mp4", 9, 25.0), wh.Solid(),
        wh.Gradient((wh.Stop(0.0, "#000000"), wh.Stop(1.0, "#ffffff", 0.5))), text,
    )  # fmt: skip
    shapes = (
        wh.Plane(), wh.Box(), wh.Sphere(), wh.Cylinder(), wh.Cone(), wh.Torus(),
        wh.ModelFile("m.glb", animation="Swing"),
    )  # fmt: skip
    curves = (
        wh.BezierPath(points), wh.ThroughPath(((0.0, 0.0, 0.0), (1.0, 2.0, 0.0), (3.0, 0.0, 1.0)), True),
        wh.CirclePath(), wh.EllipsePath(), wh.LinePath(),
    )  # fmt: skip
    dial = wh.Dial("push", "Push", "share", 0.0, 10.0, 0.2)
    nodes: list[Any] = [
        wh.Null(id="desk", name="Desk", dials=(dial,), channels=(moving("dial.push", 0.1, after="swing"),)),
        wh.Null(id="turn", name="Turn", channels=(moving("rotation.y", after="offset", before="go"),)),
    ]
    nodes += [
        wh.Picture(
            id=f"p{k}", name=f"Picture {k}", artwork=each, width=300, height=200, carrier="turn", takes_light=k == 2
        )
        for k, each in enumerate(artworks)
    ]
    nodes += [wh.Model(id=f"m{k}", name=f"Model {k}", shape=each) for k, each in enumerate(shapes)]
    nodes += [wh.Path(id=f"way{k}", name=f"Way {k}", curve=each) for k, each in enumerate(curves)]
    nodes += [wh.Ground(id="g0", name="Waves", surface=waves), wh.Ground(id="g1", name="Hill", surface=heights)]
    nodes += [
        wh.Light(id=f"l{k}", name=f"Light {k}", light=each, shadow=each == "directional")  # type: ignore[arg-type]
        for k, each in enumerate(("ambient", "directional", "point"))
    ]
    nodes += [
        wh.Logo(id="logo", name="Logo", outlines=text, width=300, height=200, depth=10.0, bevel=1.0),
        wh.Logo(id="sign", name="Sign", outlines=wh.ImageFile("s.svg"), width=30, height=20),
        wh.Projection(id="slide", name="Slide", source="photo.jpg", width=300, height=200, receivers=("m0", "m1")),
    ]
    binds: dict[str, tuple[Any, ...]] = {
        "rider": (wh.RidePath("way0"), wh.AimAt(("p0", "p1"))),
        "roller": (wh.DropAndRoll("g0", ("m1",)), wh.Match("turn", "", "y", "x")),
        "sitter": (wh.RideGround("g1"), wh.Limit("height")),
        "follower": (wh.Follow("rider"), wh.AimAt(("rider",), "turn"), wh.Limit("tilt")),
        "other": (wh.Opposite("rider", "turn"), wh.Limit("distance", "rider", "near"), wh.FaceCamera("cam", True)),
    }
    nodes += [
        wh.Null(id=name, name=name.title(), binds=each, channels=(moving("position.x"),))
        for name, each in binds.items()
    ]
    link = wh.Link("desk", "dial.push", 0.0, 1.0, 18.0, 85.0, wh.Family("quad"))
    nodes.append(
        wh.Camera(
            id="cam", name="Camera", carrier="turn", binds=(wh.AimAt(),), depth_of_field=True,
            channels=(
                wh.Channel("aim.x", 0.0, formula='noise(seconds, 3) * of("desk", "dial.push") + ease(frame, 0, 24)'),
                wh.Channel("lens.focal", 35.0, links=(link,)),
                moving("position.z", 9.0, locked=True),
            ),
        )
    )  # fmt: skip
    nodes += [
        wh.Null(id=f"moved{k}", name=f"Moved {k}", carrier="turn", movers=(each,), channels=(moving("position.x"),))
        for k, each in enumerate(_movers())
    ]
    nodes[-1] = msgspec.structs.replace(
        nodes[-1], take=wh.TakeUse("walk", ("position.x", "position.y", "position.z", "rotation.x"), 3.0, 0.5)
    )
    nodes.append(
        wh.Camera(
            id="alive", name="Alive", carrier="turn", binds=(wh.AimAt(("p0",)),),
            movers=_movers(), channels=(moving("position.x"), moving("life", 0.5), wh.Channel("shake.strength", 0.3)),
        )
    )  # fmt: skip
    rows = [[0.1 * k, float(k), 0.0, 1.0, 0.0, 0.0, 0.0, 1.0] for k in range(5)]
    columns = ("position.x", "position.y", "position.z", *wh.TURN)
    table = np.array(rows)
    take = wh.Take("walk", "Walk", "alive", columns, wh.packed(table[:, 0], table[:, 1:]), marks=(wh.Mark(0.1, 0.2),))
    scene = wh.Scene(
        "Everything",
        wh.Settings(distance=wh.Distance(blur=4.0), new_keys=wh.Flow()),
        tuple(nodes),
        "cam",
        (wh.Format("Tall", 1080, 1920),),
        (wh.NamedEase("Mine", wh.Spring()),),
        (wh.Marker(3.0, "cut"), wh.Marker(9.0, "beat")),
        movers=(wh.NamedMovers("Hand", _movers()[:3]),),
        takes=(take,),
        checks=wh.ChecksOfScene(
            (wh.Subject("p0"), wh.Subject("logo", "title", (0.1, 0.1, 0.9, 0.9), 0.05)),
            (wh.LimitOfScene("comfort.cross", 5.0),), ("cuts",), (wh.Accepted("fast", 0.0, 9.0, 3.0, "Tall"),),
            ("p0", "p1"),
        ),
    )  # fmt: skip
    # A mix of its cameras with a pad, and moves that were kept of a file and of its own camera.
    seen = [node.id for node in scene.nodes if isinstance(node, wh.Camera | wh.Framing)][:3]
    if len(seen) > 1:
        scene, mix = mix_of(scene, seen)
        scene = with_pad(scene, mix)
        scene = wh.edits.set_key(scene, mix, "dial.across", 5.0, 0.5)
    for kept in shipped_moves()[::5]:
        scene = keep_in_scene(scene, kept.move)
    return json.loads(encode(scene))


def _movers() -> tuple[Any, ...]:
    pose = tuple(
        wh.Target(f"{what}.{axis}", 0.2 * k) for k, what in enumerate(("position", "rotation"), 1) for axis in "xyz"
    )
    one = (wh.Target("position.x", 0.5),)
    return (
        wh.Oscillator(targets=pose, wave=wh.Family("sine"), per="beats", space="own"),
        wh.SteadyRate(targets=one, since=5.0, ease_in=0.4, space="world"),
        wh.Shake(targets=pose, space="world", loop=2.0, stride=0.5, start=4.0, end=40.0, fade_in=3.0),
        wh.Shake(id="hand", targets=pose, about="aim", peakiness=2.0),
        wh.Overshoot(targets=one),
        wh.Overshoot(id="swing", targets=pose, only_stops=False, space="world", loop=1.5),
        wh.Lag(targets=one),
        wh.Lag(id="late", targets=one, by="frames", delay=3.0),
        wh.Limiter(targets=one, soft=0.3),
        wh.StepHold(targets=one),
        wh.Impact(targets=one, when="marker", name="cut", seed=3),
        wh.Impact(id="thud", targets=pose, when="contact", node="roller", space="picture"),
    )
