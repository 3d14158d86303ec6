"""The film of the demo: shots and joins, framings and a tour of them, an event, the march and its beats."""

import msgspec

from wild_heron import edits
from wild_heron.edits.framings import play_through
from wild_heron.scene import (
    AimAt,
    Beats,
    Bezier,
    Blend,
    Camera,
    ChannelPasses,
    Cut,
    Event,
    Family,
    Framing,
    JoiningRule,
    Marker,
    Scene,
    Shot,
    Sound,
)
from wild_heron.scene.film import settled
from wild_heron.scene.spans import Ease

from .life import alive
from .march import BARS, BEAT, TEMPO
from .pieces import placed

FRAMES = 480
_BAR = round(4 * BEAT * 24)
_SOFT = Bezier(0.45, 0.0, 0.2, 1.0)
_BOTH = Family("sine", "in-out")

# Name, carrier, place, aim, focal length, how a tour comes to it, in how many seconds, and how long it stays.
_FRAMINGS: tuple[tuple[str, str | None, tuple[float, float, float], str, float, Ease, float, float], ...] = (
    ("Cart", "lantern-cart", (0.4, 1.1, 4.6), "cart", 50.0, _SOFT, 1.5, 0.25),
    ("Striped stalls", None, (-2.6, 2.0, 12.6), "", 42.0, _SOFT, 1.5, 0.25),
    ("Amber stall", None, (0.3, 1.9, 11.6), "", 50.0, _BOTH, 1.0, 0.25),
    ("Violet stalls", None, (2.9, 2.1, 12.6), "", 42.0, _BOTH, 1.0, 0.25),
    ("Emblem", None, (0.7, 4.1, 6.9), "emblem", 42.0, _BOTH, 1.75, 0.0),
)


def filmed(scene: Scene) -> Scene:
    """The scene with its film."""
    scene = _framings(scene)
    camera = Camera(id="touring-camera", name="Touring camera", colour="#e0a646")
    scene = placed(edits.add_node(scene, camera), camera.id, 0.0, 2.4, 12.6)
    stops = [edits.free_id(set(), name) + "-framing" for name, *_ in _FRAMINGS[1:]]
    scene, _ = play_through(scene, camera.id, stops, 8.25 * _BAR - 6.0)
    round_ = Blend(0.8 * _BAR, "frames", "on", Family("sine", "in-out"), "round")
    shots = (
        Shot("Over the rooftops", "main-camera", 0.0, "#f2c25b", "The fair lights up."),
        Shot("Round the emblem", "orbit-camera", 3.0 * _BAR, "#7fb2c9", join=round_),
        Shot("Market lane", "lane-camera", 4.5 * _BAR, "#b0869c"),
        Shot("The kite", "kite-camera", 6.0 * _BAR, "#e07a4f"),
        *(
            Shot(f"Roll {k + 1}", f"{name}-framing", 7.5 * _BAR + k * _BAR / 4, "#8fbf9f")
            for k, name in enumerate(("striped-stalls", "violet-stalls", "amber-stall"))
        ),
        Shot("Past the stalls", "touring-camera", 8.25 * _BAR, "#8fbf9f", "A tour of four framings."),
        Shot(
            "The fair goes on", "main-camera", 11.0 * _BAR, "#f2c25b", "",
            Blend(0.75 * _BAR, "frames", "on", Family("cubic", "in-out"), "auto"),
        ),
    )  # fmt: skip
    march = Sound("March", "art/march.ogg", BARS * 4 * BEAT, 0.0, fade_out=0.5)
    event = Event(
        "The cart comes by", ChannelPasses("lantern-cart", "position.x", -4.4), "cart-framing", aim="cart", hold=1.0
    )
    markers = [
        *scene.markers,
        *(
            Marker(frame, name, "chapter")
            for frame, name in ((0.0, "Dusk"), (4.5 * _BAR, "The fair"), (11.0 * _BAR, "Good night"))
        ),
    ]
    filmed = msgspec.structs.replace(
        scene,
        shots=settled(shots, scene.settings.rate),
        rules=(JoiningRule(None, None, Cut()),),
        events=(event,),
        markers=tuple(sorted(markers, key=lambda each: each.frame)),
        sounds=(march,),
        beats=Beats(TEMPO, 0.0, 4),
    )
    return alive(filmed, _BAR)


def _framings(scene: Scene) -> Scene:
    for name, carrier, (x, y, z), aim, focal, ease, time, stay in _FRAMINGS:
        made = Framing(
            id=edits.free_id(set(), name) + "-framing",
            name=name if name not in {node.name for node in scene.nodes} else f"{name} close",
            carrier=carrier,
            binds=(AimAt((aim,)),) if aim else (),
            ease=ease,
            time=time,
            stay=stay,
        )
        scene = placed(edits.add_node(scene, made), made.id, x, y, z)
        scene = edits.set_value(scene, made.id, "lens.focal", focal)
    return scene
