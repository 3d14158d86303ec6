"""The ease study: one move past the stalls up to the emblem, flat, stopping at every pose, and shaped."""

from pathlib import Path

from wild_heron import edits
from wild_heron.edits import KeyRef, key_ranges, move_keys
from wild_heron.edits.even_speed import even_speed
from wild_heron.scene import AimAt, Bezier, Camera, Family, Flow, Linear, Marker, Null, Rate, Scene, Settings, Span
from wild_heron.scene.channels import POSITION

from .pieces import DUSK_HAZE, emblem, placed, street, with_layers

LAST = 143
_FRAMES = (0.0, 48.0, 96.0, 143.0)
_PLACES = ((-4.6, 2.1, 19.5), (-2.4, 1.7, 15.4), (1.9, 2.2, 14.2), (0.7, 4.3, 8.6))
_GAZES = ((-2.6, 2.4, 4.0), (-0.6, 2.0, 4.0), (1.6, 2.8, 3.0), (0.0, 5.2, 0.0))
_STOPPING: Span = Family("cubic", "in-out")
_RUN = Bezier(0.32, 0.0, 0.2, 1.0)
_LEAD = 5.0
_GOING = 9.0
_COLOURS = {"flat": "#a3b0ac", "before": "#e07a4f", "after": "#8fbf9f"}


def build_study(art: Path) -> Scene:
    """Six seconds at 24 frames per second, seen by three cameras."""
    scene = Scene(
        name="Lantern Fair, ease study",
        settings=Settings(1920, 1080, Rate(24), 0, LAST, 100.0, 100.0, "#0b1230", DUSK_HAZE),
        camera="flat",
        markers=(Marker(0.0, "cut in"), Marker(48.0, "stalls"), Marker(96.0, "turn up"), Marker(143.0, "cut out")),
    )
    scene = street(emblem(with_layers(scene, art), art))
    for name in ("flat", "before", "after"):
        gaze = Null(id=f"{name}-gaze", name=f"{name.capitalize()} gaze", colour=_COLOURS[name])
        camera = Camera(id=name, name=name.capitalize(), binds=(AimAt((gaze.id,)),), colour=_COLOURS[name])
        scene = edits.add_node(edits.add_node(scene, gaze), camera)
        scene = edits.set_value(scene, name, "lens.focus", 12.0)
    return _after(_before(_flat(scene)))


def _flat(scene: Scene) -> Scene:
    """From the first pose straight to the last at one speed, dead at both ends."""
    scene = placed(scene, "flat-gaze", *_GAZES[-1])
    return _keyed(scene, "flat", (_FRAMES[0], _FRAMES[-1]), (_PLACES[0], _PLACES[-1]), Linear())


def _before(scene: Scene) -> Scene:
    """Every pose is reached and left at rest, so the move stumbles."""
    scene = _keyed(scene, "before", _FRAMES, _PLACES, _STOPPING)
    return _keyed(scene, "before-gaze", _FRAMES, _GAZES, _STOPPING)


def _after(scene: Scene) -> Scene:
    """The same poses, run through: one ease along the way, going already at the cut, the gaze a little ahead."""
    for node, places in (("after", _PLACES), ("after-gaze", _GAZES)):
        scene = _keyed(scene, node, _FRAMES, places, Flow("smooth"))
        scene = even_speed(scene, node, _FRAMES[0], _FRAMES[-1], _RUN)
        scene, keys = key_ranges.stretch(scene, _keys(scene, node), _FRAMES[-1], 1.0 + _GOING / LAST)
        if node == "after-gaze":
            scene, keys = move_keys(scene, keys, -_LEAD)
    return scene


def _keys(scene: Scene, node: str) -> list[KeyRef]:
    return [
        KeyRef(node, name, key.frame)
        for name in POSITION
        if (channel := scene.node(node).channel(name)) is not None
        for key in channel.keys
    ]


def _keyed(
    scene: Scene, node: str, frames: tuple[float, ...], places: tuple[tuple[float, float, float], ...], span: Span
) -> Scene:
    for frame, place in zip(frames, places, strict=True):
        for name, value in zip(POSITION, place, strict=True):
            scene = edits.set_key(scene, node, name, frame, value, span)
    return scene
