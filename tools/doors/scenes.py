"""Scenes whose moves are hard to tell: none of them is the demo."""

import numpy as np
from msgspec.structs import replace

import wild_heron as wh

SIZE = (1280, 720)
LAST = 96


def _scene(nodes: tuple[wh.AnyNode, ...], camera: str = "cam") -> wh.Scene:
    card = wh.Picture(id="card", name="Card", artwork=wh.Solid("#f2c25b"), width=300, height=200)
    settings = wh.Settings(width=SIZE[0], height=SIZE[1], last=LAST)
    return wh.Scene(settings=settings, nodes=(*nodes, card), camera=camera)


def _camera(node: str = "cam", carrier: str | None = None, z: float = 12.0) -> wh.Camera:
    return wh.Camera(id=node, name=node.title(), carrier=carrier, channels=(wh.Channel("position.z", z),))


def _keyed(scene: wh.Scene, node: str, channel: str, keys: dict[float, float], span: wh.Span | None = None) -> wh.Scene:
    for frame, value in keys.items():
        scene = wh.edits.set_key(scene, node, channel, frame, value, span)
    return scene


def orbit() -> wh.Scene:
    """Twice round on the arm of a null, eased, with a lift."""
    scene = _scene((wh.Null(id="arm", name="Arm"), _camera(carrier="arm")))
    scene = _keyed(scene, "arm", "rotation.y", {0.0: 0.0, 50.0: 400.0, 96.0: 720.0}, wh.Family("cubic", "in-out"))
    return _keyed(scene, "arm", "rotation.x", {0.0: 0.0, 96.0: -35.0})


def zoom() -> wh.Scene:
    """From 18 to 135 mm in a second and a half, while it goes back."""
    scene = _scene((_camera(),))
    scene = _keyed(scene, "cam", "lens.focal", {20.0: 18.0, 56.0: 135.0}, wh.Family("quint", "in-out"))
    return _keyed(scene, "cam", "position.z", {20.0: 6.0, 56.0: 40.0}, wh.Family("sine", "in-out"))


def holds() -> wh.Scene:
    """Holds between frames, steps and bounces, on a null that turns."""
    scene = _scene((wh.Null(id="arm", name="Arm"), _camera(carrier="arm")))
    scene = _keyed(scene, "arm", "rotation.y", {0.0: 0.0, 33.3: 20.0, 60.0: -15.0}, wh.Hold())
    return _keyed(scene, "cam", "position.x", {0.0: 0.0, 96.0: 3.0}, wh.Family("bounce", "out"))


def skewed() -> wh.Scene:
    """Carried by nulls of uneven size that turn against each other."""
    wide = wh.Null(id="wide", name="Wide", channels=(wh.Channel("scale.x", 2.5), wh.Channel("scale.y", 0.7)))
    inner = wh.Null(id="inner", name="Inner", carrier="wide")
    scene = _scene((wide, inner, _camera(carrier="inner", z=9.0)))
    scene = _keyed(scene, "wide", "rotation.z", {0.0: 0.0, 96.0: 40.0})
    scene = _keyed(scene, "inner", "rotation.y", {0.0: -30.0, 96.0: 50.0})
    nodes = tuple(replace(node, carrier="inner") if node.id == "card" else node for node in scene.nodes)
    return replace(scene, nodes=nodes)


def film() -> wh.Scene:
    """Cuts between frames and a blend, of cameras that go on."""
    scene = _scene((_camera("a"), _camera("b", z=16.0), _camera("c", z=7.0)), "a")
    for k, name in enumerate("abc"):
        scene = _keyed(scene, name, "position.x", {0.0: -2.0 + k, 96.0: 3.0 - k})
        scene = _keyed(scene, name, "rotation.y", {0.0: 5.0 * k, 96.0: -8.0 * k})
    blend = wh.Blend(14.0, "frames", "on", way="round")
    shots = (wh.Shot("One", "a"), wh.Shot("Two", "b", 24.4), wh.Shot("Three", "c", 60.0, join=blend))
    return replace(scene, shots=shots)


SCENES = {"orbit": orbit, "zoom": zoom, "holds": holds, "skewed": skewed, "film": film}


def points() -> np.ndarray:
    """World points (N, 3) that are looked for in pictures."""
    return np.random.default_rng(4).uniform(-3.0, 3.0, (120, 3)) * [1.0, 1.0, 0.6]


def moments(scene: wh.Scene, first: float, last: float, count: int) -> np.ndarray:
    """Frames between whole ones, none of them right beside a cut, or a key that is jumped to."""
    found = np.sort(np.random.default_rng(9).uniform(first, last, count))
    edges = [shot.first for shot in scene.shots]
    edges += [key.frame for node in scene.nodes for channel in node.channels for key in channel.keys]
    return found[np.abs(found[:, None] - np.array([*edges, 1e9])).min(axis=1) > 0.01]
