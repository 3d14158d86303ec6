"""Builds the five small scenes beside the fair."""

from pathlib import Path

import msgspec
import numpy as np
from msgspec.structs import replace

import wild_heron as wh
from wild_heron import edits
from wild_heron.edits.posing import aim_at_node
from wild_heron.motion.takes.mending import mark, mend
from wild_heron.motion.takes.steadying import steady
from wild_heron.scene import TURN, Camera, Gradient, Linear, Overshoot, Scene, Stop, Take, TakeUse, Target, packed
from wild_heron.scene.channels import POSITION
from wild_heron.scene.checks import LimitOfScene
from wild_heron.scene.solids import Box, Cone, Cylinder, Plane, Sphere
from wild_heron.scene.spans import Family
from wild_heron.tracker.hand import Flaws, tracked

from . import painting

LAST = 239
_BOTH, _IN, _OUT = Family("sine", "in-out"), Family("cubic", "in"), Family("cubic", "out")


class Maker:
    """Puts a scene together."""

    def __init__(self, name: str, background: str, folder: Path, width: int = 1920, height: int = 1080) -> None:
        self.folder = folder
        settings = wh.Settings(width=width, height=height, last=LAST, background=background, light="linear")
        self.scene = Scene(name=name, settings=settings)

    def add(self, node: wh.AnyNode, **values: float) -> str:
        """A node with values of its channels, ``position_x`` for position x."""
        self.scene = edits.add_node(self.scene, node)
        for name, value in values.items():
            self.scene = edits.set_value(self.scene, node.id, name.replace("_", ".", 1), value)
        return node.id

    def picture(self, name: str, file: str, size: tuple[int, int], **values: float) -> str:
        """A painted picture; ``scale`` for all three of its channels."""
        node = wh.Picture(id=edits.fresh_id(self.scene, name), name=name, artwork=wh.ImageFile(f"examples/{file}"),
                          width=size[0], height=size[1])  # fmt: skip
        scale = values.pop("scale", 1.0)
        return self.add(node, scale_x=scale, scale_y=scale, **values)

    def sky(self, *tones: str, away: float = -60.0, width: int = 12_000, height: int = 7_000) -> str:
        """A card of colours behind everything, from the top to the bottom."""
        stops = tuple(Stop(k / (len(tones) - 1), tone) for k, tone in enumerate(tones))
        card = wh.Picture(id="sky", name="Sky", artwork=Gradient(stops), width=width, height=height)
        return self.add(card, position_z=away, position_y=4.0)

    def solid(self, name: str, shape: object, tone: str, carrier: str | None = None, **values: float) -> str:
        node = wh.Model(id=edits.fresh_id(self.scene, name), name=name, shape=shape, surface=tone, carrier=carrier)
        return self.add(node, **values)

    def lights(self, strength: float = 1.1, ambient: float = 0.5, turn: float = -35.0, fall: float = -38.0) -> None:
        key = wh.Light(id="key-light", name="Key light", light="directional", softness=0.3)
        self.add(key, light_strength=strength, rotation_x=fall, rotation_y=turn, position_y=8.0)
        fill = wh.Light(id="fill", name="Fill", light="ambient")
        self.add(fill, light_strength=ambient, position_y=9.0)

    def keys(self, node: str, channel: str, *run: tuple[float, float, object]) -> None:
        """Keys: frame, value, and the span that follows."""
        for frame, value, span in run:
            self.scene = edits.set_key(self.scene, node, channel, frame, value, span)


REEDS = (2800, 760)
BANK = (2600, 860)


def reeds(folder: Path) -> None:
    """The banks that several scenes have."""
    painting.reeds(folder / "reeds-far.webp", *REEDS, (38, 74, 70), 170, 11)
    painting.reeds(folder / "reeds-near.webp", *BANK, (16, 38, 38), 90, 12)


def logo_landing(folder: Path) -> Scene:
    """A tea house's name is circled once, and settles before the lens."""
    make = Maker("Fennel & Tide", "#10201f", folder)
    # The banks are a soft background.
    soft = LimitOfScene("nearness.soft", 2.0)
    make.scene = replace(make.scene, checks=replace(make.scene.checks, limits=(soft,)))
    make.sky("#0f2a2c", "#2c5a54", "#d9b27a", away=-80.0, width=40_000, height=16_000)
    reeds(folder)
    make.picture("Far reeds", "reeds-far.webp", REEDS, position_x=3.0, position_y=-5.0, position_z=-12.0, scale=2.1)
    make.picture("Middle reeds", "reeds-far.webp", REEDS, position_x=2.0, position_y=-5.0, position_z=-7.0, scale=1.7)
    logo = wh.Logo(
        id="name", name="Name", outlines=wh.Text("Fennel & Tide", size=150.0, weight=700, colour="#f0d9a0"),
        width=1100, height=190, depth=34.0, bevel=5.0, side="#a8763c", gloss=0.4,
    )  # fmt: skip
    make.add(logo, position_y=0.5)
    make.solid("Bar", Box(7.6, 0.07, 0.3), "#d9a441", position_y=-0.75)
    make.picture("Near reeds", "reeds-near.webp", BANK, position_y=-4.7, position_z=4.0, scale=0.6)
    make.lights()
    make.add(wh.Null(id="turn", name="Turn"))
    make.add(Camera(id="camera", name="Camera", carrier="turn", colour="#f2c25b"), position_z=17.5, lens_focal=40.0)
    make.keys("turn", "rotation.y", (0.0, -27.0, _BOTH), (170.0, 0.0, _BOTH))
    make.keys("turn", "rotation.x", (0.0, -3.0, _BOTH), (170.0, 0.0, _BOTH))
    make.keys("camera", "position.z", (0.0, 17.5, _BOTH), (130.0, 15.4, _IN), (184.0, 13.4, Linear()))
    swing = Overshoot(targets=(Target("position.z"),), bounce=0.4, speed=1.1)
    return edits.add_movers(make.scene, "camera", [swing])[0]


def product(folder: Path) -> Scene:
    """A desk lamp on its stand: an orbit, a push, and a close look, with two cuts."""
    make = Maker("Lowlight desk lamp", "#23282e", folder)
    painting.studio(folder / "studio.webp", 1600, 1000)
    make.picture("Studio wall", "studio.webp", (1600, 1000), position_z=-9.0, position_y=3.5, scale=3.4)
    # A wall that is out of focus may be soft.
    soft = LimitOfScene("nearness.soft", 8.0)
    make.scene = replace(make.scene, checks=replace(make.scene.checks, limits=(soft,)))
    make.solid("Floor", Plane(60.0, 60.0), "#39424a", rotation_x=-90.0)
    make.solid("Stand", Cylinder(1.7, 0.5), "#e6dcc4", position_y=0.25)
    make.add(wh.Null(id="lamp", name="Lamp"), position_y=0.5)
    make.solid("Foot", Cylinder(0.62, 0.16), "#2f7f86", "lamp", position_y=0.08)
    make.solid("Stem", Cylinder(0.06, 2.0), "#d9a441", "lamp", position_y=1.1)
    make.solid("Knuckle", Sphere(0.15), "#2f7f86", "lamp", position_y=2.1)
    make.solid("Arm", Cylinder(0.05, 1.3), "#d9a441", "lamp", position_x=0.45, position_y=2.55, rotation_z=-45.0)
    make.solid("Shade", Cone(0.62, 0.75), "#2f7f86", "lamp", position_x=0.98, position_y=2.9, rotation_z=24.0)
    make.solid("Bulb", Sphere(0.17), "#fff1c4", "lamp", position_x=1.08, position_y=2.58)
    make.solid(
        "Book", Box(1.1, 0.18, 0.8), "#b5533c", position_x=-0.3, position_y=0.59, position_z=0.95, rotation_y=18.0
    )
    make.lights(1.2, 0.42, 38.0)
    make.add(wh.Null(id="middle", name="Middle"), position_y=2.1)
    make.add(wh.Null(id="turn", name="Turn"), position_y=2.1)
    make.add(
        Camera(id="orbit", name="Orbit", carrier="turn", colour="#f2c25b"),
        position_z=9.0,
        position_y=1.0,
        lens_focal=40.0,
    )
    make.add(
        Camera(id="push", name="Push", colour="#7fb2c9"),
        position_x=-4.4,
        position_y=2.2,
        position_z=6.6,
        lens_focal=50.0,
    )
    make.add(
        Camera(id="close", name="Close", colour="#e07a4f"),
        position_x=3.4,
        position_y=3.2,
        position_z=3.9,
        lens_focal=50.0,
    )
    make.scene = aim_at_node(make.scene, "orbit", "middle")
    make.scene = aim_at_node(make.scene, "push", "middle")
    make.scene = aim_at_node(make.scene, "close", "bulb")
    make.keys("turn", "rotation.y", (-12.0, -34.0, Linear()), (96.0, 20.0, Linear()))
    make.keys("push", "position.z", (70.0, 7.4, Linear()), (180.0, 5.4, Linear()))
    make.keys("close", "position.x", (150.0, 4.0, Linear()), (251.0, 2.9, Linear()))
    shots = (wh.Shot("All of it", "orbit", 0.0), wh.Shot("Nearer", "push", 84.0), wh.Shot("The bulb", "close", 165.0))
    return edits.with_shots(make.scene, shots)


def photograph(folder: Path) -> Scene:
    """A photograph of a glasshouse on plain walls, and a camera that walks into it."""
    make = Maker("Glasshouse", "#cdd6c4", folder)
    painted = LimitOfScene("nearness.stretch", 8.0)
    make.scene = replace(make.scene, checks=replace(make.scene.checks, limits=(painted,)))
    painting.glasshouse(folder / "glasshouse.webp")
    half, tall, long, eye = painting.HALF, painting.TALL, painting.LONG, painting.EYE
    make.add(wh.Null(id="house", name="House"))
    deep = long + 4.0
    at = -long / 2 + 2.0
    walls = (
        ("Floor", Plane(2 * half, deep), {"position_z": at, "rotation_x": -90.0}),
        ("Roof", Plane(2 * half, deep), {"position_y": tall, "position_z": at, "rotation_x": 90.0}),
        (
            "Left glass",
            Plane(deep, tall),
            {"position_x": -half, "position_y": tall / 2, "position_z": at, "rotation_y": 90.0},
        ),
        (
            "Right glass",
            Plane(deep, tall),
            {"position_x": half, "position_y": tall / 2, "position_z": at, "rotation_y": -90.0},
        ),
        ("Far end", Plane(2 * half, tall), {"position_y": tall / 2, "position_z": -long}),
    )
    ids = tuple(make.solid(name, shape, "#9fb39a", "house", **place) for name, shape, place in walls)
    size = painting.GLASSHOUSE
    photo = wh.Projection(
        id="photograph", name="Photograph", carrier="house", source="examples/glasshouse.webp", width=size[0],
        height=size[1], sensor_width=painting.SENSOR, receivers=ids,
    )  # fmt: skip
    make.add(photo, position_y=eye, lens_focal=painting.FOCAL)
    make.add(Camera(id="camera", name="Camera", colour="#f2c25b"), position_y=eye, lens_focal=35.0)
    make.keys("camera", "position.z", (0.0, -0.6, _BOTH), (LAST, -2.9, Linear()))
    make.keys("camera", "position.x", (0.0, -0.24, _BOTH), (LAST, 0.24, Linear()))
    make.keys("camera", "rotation.y", (0.0, -2.4, _BOTH), (LAST, 2.0, Linear()))
    return make.scene


HILLS, RIVER = (3200, 640), (3000, 930)


def vertical(folder: Path) -> Scene:
    """A paper boat goes down a wide river; a vertical frame follows it."""
    make = Maker("Paper boat", "#2b4a63", folder)
    make.sky("#2c4a6b", "#7f9fb4", "#f0c9a0", away=-40.0, width=9000, height=4000)
    reeds(folder)
    painting.hills(folder / "hills.webp", *HILLS, (62, 92, 98), 4)
    painting.water(folder / "river.webp", *RIVER)
    painting.boat(folder / "boat.webp")
    make.picture("Hills", "hills.webp", HILLS, position_y=2.4, position_z=-26.0, scale=1.9)
    make.picture("River", "river.webp", RIVER, position_y=-6.6, position_z=-12.0, scale=1.75)
    make.picture("Far reeds", "reeds-far.webp", REEDS, position_y=-0.9, position_z=-11.0, scale=1.55)
    boat = make.picture("Boat", "boat.webp", (420, 320), position_y=-1.6, position_z=-2.0, scale=0.55)
    make.picture("Near reeds", "reeds-near.webp", BANK, position_y=-5.1, position_z=2.0, scale=0.84)
    make.keys(boat, "position.x", (0.0, -3.6, Linear()), (LAST, 3.6, Linear()))
    make.keys(boat, "rotation.z", *((float(k * 40), 3.0 if k % 2 else -3.0, _BOTH) for k in range(7)))
    make.add(Camera(id="camera", name="Camera", colour="#f2c25b"), position_z=14.0, lens_focal=35.0)
    make.keys("camera", "position.x", (0.0, -0.8, Linear()), (LAST, 0.8, Linear()))
    make.add(wh.FormatWindow(id="window", name="Vertical window"))
    format_ = wh.Format("Vertical 9:16", 1080, 1920, window="window")
    # A vertical frame out of a wide picture is twice as large: the painted banks may look soft there.
    soft = LimitOfScene("nearness.soft", 2.6)
    make.scene = replace(make.scene, formats=(format_,), checks=replace(make.scene.checks, limits=(soft,)))
    here = wh.evaluate(make.scene, np.array([0.0, float(LAST)]))
    view = here.camera("camera")
    away = here.position(boat) - view.position
    across = away[:, 0] / -away[:, 2] * view.focal_px / view.width
    make.keys(
        "window",
        "window.across",
        (0.0, round(float(across[0]), 4), Linear()),
        (LAST, round(float(across[1]), 4), Linear()),
    )
    return make.scene


def steadied(folder: Path) -> Scene:
    """A push in at night, recorded by hand, mended, and steadied with some of the hand left in."""
    make = Maker("Marsh at night", "#121a2a", folder)
    make.sky("#0c1426", "#26395a", "#7d6f8c", away=-70.0, width=24_000, height=12_000)
    painting.moon(folder / "moon.webp")
    make.picture("Moon", "moon.webp", (700, 700), position_x=9.0, position_y=12.0, position_z=-60.0, scale=1.3)
    make.picture("Hills", "hills.webp", HILLS, position_y=3.6, position_z=-42.0, scale=2.6)
    marsh = wh.Picture(id="marsh", name="Marsh", artwork=Gradient((Stop(0.0, "#3e5c62"), Stop(1.0, "#16232c"))), width=16_000,
                       height=2400)  # fmt: skip
    make.add(marsh, position_y=-13.6, position_z=-41.0)
    # Reeds before a lens that goes through them may be soft.
    soft = LimitOfScene("nearness.soft", 2.6)
    make.scene = replace(make.scene, checks=replace(make.scene.checks, limits=(soft,)))
    rows = (("Reeds 1", -1.0, -22.0, 0.0, 2.0), ("Reeds 2", -2.2, -14.0, 4.0, 1.6), ("Reeds 3", -2.6, -8.0, -3.0, 1.3))
    for name, low, z, x, scale in rows:
        make.picture(name, "reeds-far.webp", REEDS, position_x=x, position_y=low, position_z=z, scale=scale)
    make.picture("Near reeds", "reeds-near.webp", BANK, position_y=-4.1, position_z=-3.0, scale=0.9)
    make.add(Camera(id="camera", name="Camera", colour="#f2c25b"), position_z=7.0, lens_focal=35.0)
    sent = tracked("push", (LAST + 25) / 24.0, 60.0, 8, Flaws(jumps=24.0, lost=0.03))
    columns = np.column_stack([sent.hand.position - sent.hand.position[0], sent.hand.quaternion])
    recording = mark(Take(
        "push", "Push in, take 1", "camera", (*POSITION, *TURN), packed(sent.times - sent.times[0], columns), frame=-12.0,
    ))  # fmt: skip
    scene, first = edits.add_take(make.scene, recording)
    mended = msgspec.structs.replace(mend(recording), id="push-mended", source=first)
    scene, second = edits.add_take(scene, mended)
    firm = msgspec.structs.replace(steady(mended, "firm", sway=0.3), id="push-steadied", source=second)
    scene, third = edits.add_take(scene, firm)
    return edits.use_take(scene, "camera", TakeUse(third, firm.channels, -12.0, move=(0.0, 0.6, 7.0)))


SCENES = {
    "logo-landing": logo_landing, "product": product, "photograph": photograph, "vertical": vertical, "steadied": steadied,
}  # fmt: skip
