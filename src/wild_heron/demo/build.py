"""Build the demo scene from the painted artwork: ``python -m wild_heron.demo.build``."""

from pathlib import Path

from ..files.images import probe
from ..files.project import save
from ..scene import (
    AimNode,
    Bezier,
    Camera,
    Channel,
    Family,
    Flow,
    Format,
    Hold,
    ImageFile,
    Linear,
    Null,
    Picture,
    Rate,
    Scene,
    Settings,
    Span,
    edits,
)
from . import DEMO_SCENE

_SOFT = Bezier(0.45, 0.0, 0.2, 1.0)
_BOTH = Family("sine", "in-out")

# name, file, x, y, z, scale, colour: far to near.
_LAYERS = (
    ("Night sky", "sky.webp", 0.0, 22.0, -44.0, 5.2, "#6d6aa6"),
    ("Moon", "moon.webp", -15.0, 15.5, -40.0, 1.3, "#f6e3b4"),
    ("Far ridge", "far-ridge.webp", 2.0, 8.4, -26.0, 3.2, "#9a7fae"),
    ("Near ridge", "near-ridge.webp", -3.0, 5.6, -17.0, 2.4, "#5b5f9c"),
    ("Mist", "mist.webp", 0.0, 3.2, -11.0, 2.6, "#e6a87c"),
    ("Town", "town.webp", -4.0, 5.0, -7.0, 1.6, "#7fb2c9"),
    ("Emblem", "emblem.svg", 0.0, 5.0, 0.0, 0.52, "#f2c25b"),
    ("Stalls", "stalls.webp", 0.4, 1.14, 4.6, 0.85, "#e07a4f"),
    ("Far lanterns", "lanterns-far.webp", 0.6, 3.9, 8.0, 0.62, "#f2a65b"),
    ("Near lanterns", "lanterns-near.webp", -1.0, 3.45, 11.2, 0.46, "#f2a65b"),
    ("Crowd edge", "crowd.webp", 0.0, 0.72, 13.0, 0.46, "#8d7fa6"),
    ("Grass", "grass.webp", 0.0, 1.42, 15.6, 0.38, "#6f9a98"),
)


def build(art: Path) -> Scene:
    """The opening of the Emberfold Lantern Fair: ten seconds at 24 frames per second."""
    scene = Scene(
        name="Lantern Fair, opening",
        settings=Settings(1920, 1080, Rate(24), 0, 239, 100.0, 100.0, "#0b1230"),
        formats=(
            Format("Portrait 4:5", 1080, 1350),
            Format("Vertical 9:16", 1080, 1920),
        ),
    )
    for name, node_id, x, y, z, carrier in (
        ("Base", "base", 0.0, 0.0, 0.0, None),
        ("Turn", "turn", 0.0, 3.4, 0.0, "base"),
        ("Aim", "aim", 0.0, 3.0, 0.0, None),
    ):
        scene = edits.add_node(scene, Null(id=node_id, name=name, carrier=carrier, colour="#8fbf9f"))
        scene = _placed(scene, node_id, x, y, z)
    scene = edits.add_node(
        scene, Camera(id="main-camera", name="Main camera", carrier="turn", aim=AimNode("aim"), colour="#f2c25b")
    )
    scene = _placed(scene, "main-camera", 0.0, -1.1, 18.4)
    scene = edits.set_value(scene, "main-camera", "lens.focus", 18.4)
    for name, file, x, y, z, scale, colour in _LAYERS:
        scene = _picture(scene, art, name, file, colour, None)
        node = scene.nodes[-1].id
        scene = _placed(scene, node, x, y, z, scale)
    scene = edits.add_node(scene, Null(id="kite-flight", name="Kite flight", colour="#8fbf9f"))
    scene = _picture(scene, art, "Kite", "kite.webp", "#e07a4f", "kite-flight")
    scene = _placed(scene, scene.nodes[-1].id, 0.0, 0.0, 0.0, 0.16)
    return _keyed(scene)


def _placed(scene: Scene, node: str, x: float, y: float, z: float, scale: float = 1.0) -> Scene:
    values = {"position.x": x, "position.y": y, "position.z": z} | dict.fromkeys(
        ("scale.x", "scale.y", "scale.z"), scale
    )
    for channel, value in values.items():
        scene = edits.set_channel(scene, node, Channel(channel, value))
    return scene


def _picture(scene: Scene, art: Path, name: str, file: str, colour: str, carrier: str | None) -> Scene:
    size = probe(art / file)
    picture = Picture(
        id=edits.fresh_id(scene, name),
        name=name,
        artwork=ImageFile(f"art/{file}"),
        width=size.width,
        height=size.height,
        colour=colour,
        carrier=carrier,
    )
    return edits.add_node(scene, picture)


def _keyed(scene: Scene) -> Scene:
    keys: dict[tuple[str, str], list[tuple[float, float, Span]]] = {
        ("base", "position.z"): [(0, 2.1, _SOFT), (96, -0.9, Hold()), (126, -0.9, Family("cubic", "in-out")), (239, -3.6, Linear())],
        ("turn", "rotation.y"): [(0, -6.5, _SOFT), (96, 1.5, Hold()), (126, 1.5, _BOTH), (239, 7.0, Linear())],
        ("turn", "position.y"): [(0, 2.7, _BOTH), (96, 3.4, Linear())],
        ("aim", "position.y"): [(0, 2.5, _BOTH), (96, 3.3, Hold()), (126, 3.3, _BOTH), (239, 4.3, Linear())],
        ("main-camera", "lens.focal"): [(126, 35.0, _BOTH), (239, 41.0, Linear())],
        ("main-camera", "rotation.z"): [(0, -1.2, _SOFT), (96, 0.0, Linear())],
        ("grass", "opacity"): [(140, 1.0, _BOTH), (190, 0.0, Linear())],
        ("kite-flight", "position.x"): [(0, 2.6, Flow()), (70, 0.9, Flow()), (140, 1.9, Flow()), (239, -1.4, Linear())],
        ("kite-flight", "position.y"): [(0, 4.2, Flow()), (70, 4.3, Flow()), (140, 4.75, Flow()), (239, 5.2, Linear())],
        ("kite-flight", "position.z"): [(0, 9.6, Linear()), (239, 6.6, Linear())],
        ("kite", "rotation.z"): [(0, -14, _BOTH), (48, 10, _BOTH), (104, -12, _BOTH), (164, 14, _BOTH), (239, -8, Linear())],
    }  # fmt: skip
    for (node, channel), run in keys.items():
        for frame, value, span in run:
            scene = edits.set_key(scene, node, channel, float(frame), float(value), span)
    return scene


if __name__ == "__main__":
    save(build(DEMO_SCENE.with_name("art")), DEMO_SCENE)
