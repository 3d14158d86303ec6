"""Build the demo scene from the painted artwork: ``python -m demo.build``."""

from pathlib import Path

from msgspec.structs import replace

from wild_heron import edits
from wild_heron.demo import DEMO_SCENE, STUDY_SCENE
from wild_heron.edits import rigs
from wild_heron.edits.arranging import spread
from wild_heron.edits.baking import lift_to_path
from wild_heron.files.importing import add_proposals, bring
from wild_heron.files.project import save
from wild_heron.files.reader import Reader
from wild_heron.scene import (
    AimAt,
    Bezier,
    Camera,
    Dial,
    Family,
    Flow,
    Format,
    Gradient,
    Hold,
    Light,
    Linear,
    Link,
    Marker,
    Model,
    Null,
    Picture,
    Plane,
    Projection,
    Rate,
    RideGround,
    Scene,
    Settings,
    Span,
    Stop,
)

from .checks import checked
from .film import FRAMES, filmed
from .kept_moves import with_kept_moves
from .painting import lane
from .painting.cart import WHEEL
from .pieces import DUSK_HAZE, emblem, picture, placed, street, with_layers
from .study import build_study

_SOFT = Bezier(0.45, 0.0, 0.2, 1.0)
_BOTH = Family("sine", "in-out")


def build(art: Path) -> Scene:
    """A film of the Emberfold Lantern Fair: twenty seconds at 24 frames per second."""
    scene = Scene(
        name="Lantern Fair, opening",
        settings=Settings(1920, 1080, Rate(24), 0, FRAMES - 1, 100.0, 100.0, "#0b1230", DUSK_HAZE),
        formats=(
            Format.fresh("Portrait 4:5", 1080, 1350),
            Format.fresh("Vertical 9:16", 1080, 1920),
        ),
        markers=(Marker(48.0, "lanterns"), Marker(96.0, "rest"), Marker(126.0, "onward")),
    )
    for name, node_id, x, y, z, carrier in (
        ("Base", "base", 0.0, 0.0, 0.0, None),
        ("Turn", "turn", 0.0, 3.4, 0.0, "base"),
        ("Aim", "aim", 0.0, 3.0, 0.0, None),
    ):
        scene = edits.add_node(scene, Null(id=node_id, name=name, carrier=carrier, colour="#8fbf9f"))
        scene = placed(scene, node_id, x, y, z)
    scene = edits.add_node(
        scene, Camera(id="main-camera", name="Main camera", carrier="turn", binds=(AimAt(("aim",)),), colour="#f2c25b")
    )
    scene = placed(scene, "main-camera", 0.0, -1.1, 18.4)
    scene = edits.set_value(scene, "main-camera", "lens.focus", 18.4)
    scene = with_layers(scene, art)
    scene = emblem(_town(scene, art), art)
    scene = edits.add_node(scene, Null(id="kite-flight", name="Kite flight", colour="#8fbf9f"))
    scene = picture(scene, art, "Kite", "kite.webp", "#e07a4f", "kite-flight")
    scene = placed(scene, scene.nodes[-1].id, 0.0, 0.0, 0.0, 0.16)
    return with_kept_moves(checked(filmed(_rigged(_lamps(_cart(_keyed(_lane(_lights(scene), art)), art), art)))))


def _town(scene: Scene, art: Path) -> Scene:
    """The town's layers, as they come in from their file, a few units apart."""
    with Reader() as reader:
        found = bring([art / "town.ora"], art.parent, scene.settings, reader)
    scene, ids = add_proposals(scene, found.proposals, lambda number: (-4.0, 5.0, -7.0))
    tones = {"Towers": "#7fb2c9", "Back roofs": "#7fb2c9", "Front roofs": "#6f9ac9", "Low fog": "#e6a87c"}
    for node_id in ids:
        node = scene.node(node_id)
        scene = edits.change_node(scene, node_id, colour=tones.get(node.name, "#8fbf9f"))
    for channel in ("scale.x", "scale.y", "scale.z"):
        scene = edits.set_value(scene, ids[0], channel, 1.6)
    steps = spread(scene, "main-camera", ["towers", "back-roofs", "front-roofs", "low-fog"], 24.0, 33.0, "even", 96.0)
    for (node_id, channel), value in steps.items():
        scene = edits.set_value(scene, node_id, channel, value)
    # Behind the emblem in the list too.
    for node_id in reversed(ids):
        scene = edits.move_in_list(scene, node_id, [node.id for node in scene.nodes].index("emblem-glow"))
    return scene


def _lights(scene: Scene) -> Scene:
    """A warm key light from the upper left, which casts shadows, in a dusk that is blue."""
    key = Light(id="key-light", name="Key light", shadow=True, softness=0.15, tint="#ffe2b4", colour="#f6e3b4")
    dusk = Light(id="dusk", name="Dusk", light="ambient", tint="#a9a6d8", colour="#8d7fa6")
    for light, values in (
        (key, {"rotation.x": -34.0, "rotation.y": -32.0, "light.strength": 1.15, "position.y": 9.0, "position.z": 3.0}),
        (dusk, {"light.strength": 0.42, "position.x": 1.5, "position.y": 9.0, "position.z": 3.0}),
    ):
        scene = edits.add_node(scene, light)
        for channel, value in values.items():
            scene = edits.set_value(scene, light.id, channel, value)
    return scene


def _lane(scene: Scene, art: Path) -> Scene:
    """The market lane: plain walls behind the audience, a photograph projected on them, and a camera that walks in.

    It looks the other way, so that neither set is in the picture of the other.
    """
    scene = edits.add_node(scene, Null(id="market-lane", name="Market lane", colour="#8fbf9f"))
    scene = placed(scene, "market-lane", 0.0, 0.0, 40.0)
    scene = edits.set_value(scene, "market-lane", "rotation.y", 180.0)
    half, tall, middle, end = lane.HALF, lane.TALL, -(lane.AHEAD + lane.LONG / 2), -(lane.AHEAD + lane.LONG)
    long = lane.LONG + lane.AHEAD
    walls = (
        ("Lane floor", Plane(2 * half, long), (0.0, 0.0, middle + 1.0), (-90.0, 0.0, 0.0)),
        ("Left houses", Plane(long, tall), (-half, tall / 2, middle + 1.0), (0.0, 90.0, 0.0)),
        ("Right houses", Plane(long, tall), (half, tall / 2, middle + 1.0), (0.0, -90.0, 0.0)),
        ("Lane end", Plane(2 * half, tall), (0.0, tall / 2, end), (0.0, 0.0, 0.0)),
    )
    ids = []
    for name, shape, (x, y, z), turn in walls:
        node = Model(
            id=edits.fresh_id(scene, name), name=name, carrier="market-lane", shape=shape, surface="#4b3d63",
            colour="#b0869c",
        )  # fmt: skip
        scene = placed(edits.add_node(scene, node), node.id, x, y, z)
        for axis, angle in zip("xyz", turn, strict=True):
            scene = edits.set_value(scene, node.id, f"rotation.{axis}", angle)
        ids.append(node.id)
    photo = Projection(
        id="lane-photograph", name="Lane photograph", carrier="market-lane", source="art/market-lane.webp",
        width=lane.WIDTH, height=lane.HEIGHT, sensor_width=lane.SENSOR_MM, receivers=tuple(ids), colour="#7fb2c9",
    )  # fmt: skip
    scene = placed(edits.add_node(scene, photo), photo.id, 0.0, lane.EYE, 0.0)
    scene = edits.set_value(scene, photo.id, "lens.focal", lane.FOCAL_MM)
    card = Picture(
        id="lane-sky", name="Lane sky", carrier="market-lane", width=2400, height=1200, colour="#6d6aa6",
        artwork=Gradient((Stop(0.0, "#141a44"), Stop(0.6, "#5a4a86"), Stop(1.0, "#e08c6c")), "along", 180.0),
        takes_haze=False,
    )  # fmt: skip
    scene = placed(edits.add_node(scene, card), card.id, 0.0, 6.0, end - 3.0, 1.4)
    camera = Camera(id="lane-camera", name="Lane camera", carrier="market-lane", colour="#e0a646")
    scene = placed(edits.add_node(scene, camera), camera.id, 0.0, 1.75, -1.2)
    scene = edits.set_value(scene, camera.id, "lens.focal", 28.0)
    return edits.set_value(scene, camera.id, "lens.focus", 9.0)


def _cart(scene: Scene, art: Path) -> Scene:
    """The street, and the lantern cart that rolls along it: its carrier rides the ground, and a formula on its wheels
    turns them as far as it has come."""
    scene = street(scene)
    scene = edits.add_node(scene, Null(id="lantern-cart", name="Lantern cart", colour="#8fbf9f"))
    scene = placed(scene, "lantern-cart", -7.0, 0.0, 5.6)
    scene, bind = edits.add_bind(scene, "lantern-cart", RideGround("street"))
    scene = edits.set_value(scene, "lantern-cart", f"{bind}.footprint", 0.5)
    scene = edits.set_key(scene, "lantern-cart", "position.x", 0.0, -7.2, _BOTH)
    scene = edits.set_key(scene, "lantern-cart", "position.x", 239.0, 4.6, _BOTH)
    scene = edits.set_key(scene, "lantern-cart", "position.x", 479.0, 6.4)
    size = 0.17
    scene = picture(scene, art, "Cart", "cart.webp", "#e0a646", "lantern-cart")
    across = size * WHEEL / 200.0
    scene = placed(scene, "cart", 0.0, size * (900 / 200.0 - 1.3) + across, 0.0, size)
    for name, x in (("Rear wheel", -0.3), ("Front wheel", 0.36)):
        scene = picture(scene, art, name, "wheel.webp", "#e0a646", "lantern-cart")
        node = scene.nodes[-1].id
        scene = placed(scene, node, x, across, 0.03, size)
        scene = edits.set_formula(
            scene, node, "rotation.z", f'of("Lantern cart", "position.x") / {across:.3g} * -180 / pi'
        )
    return scene


def _lamps(scene: Scene, art: Path) -> Scene:
    """Two street lamps from one file, their arms towards the street."""
    with Reader() as reader:
        found = bring([art / "street-lamp.glb"], art.parent, scene.settings, reader)
    (proposal,) = found.proposals
    for name, (x, z), turn in (("Left lamp", (-5.7, 6.2), -20.0), ("Right lamp", (5.0, 6.4), 200.0)):
        node = replace(proposal.node, name=name, colour="#f2a65b")
        scene, (node_id,) = add_proposals(scene, [replace(proposal, node=node)], lambda number: (0.0, 0.0, 0.0))
        scene = placed(scene, node_id, x, 0.0, z, 10.0)
        scene = edits.set_value(scene, node_id, "rotation.y", turn)
    return scene


def _rigged(scene: Scene) -> Scene:
    """The rigs: the kite's flight as a path, a camera that follows it, one that orbits the emblem, and a board."""
    scene, _ = lift_to_path(scene, "kite-flight")
    scene = _camera(scene, "Kite camera", 1.5, 3.2, 15.0)
    scene, _ = rigs.follow(scene, "kite-camera", "kite-flight", "fixed", 3.6, 4.9, 0.35)
    scene = _camera(scene, "Orbit camera", 0.0, 6.2, 7.4)
    scene, (pivot, lift, _) = rigs.orbit(scene, "orbit-camera", ["emblem"], 0.0)
    # To and fro before the fair: from the side its painted layers end.
    for frame, angle in ((0, -11.0), (130, 12.0), (239, 2.0)):
        scene = edits.set_key(scene, pivot, "rotation.y", frame, angle, Family("sine", "in-out"))
    scene = edits.add_node(scene, Null(id="fair-board", name="Fair board", colour="#8fbf9f"))
    scene = placed(scene, "fair-board", 3.5, 0.0, 16.0)
    for dial in (
        Dial("lift", "Orbit lift", "degrees", -10.0, 60.0, 3.0, "Emblem orbit"),
        Dial("distance", "Orbit distance", "units", 3.0, 16.0, 7.5, "Emblem orbit"),
        Dial("sway", "Kite sway", "factor", 0.0, 2.0, 1.0, "Fair"),
        Dial("street", "Uneven street", "factor", 0.0, 3.0, 1.0, "Fair"),
    ):
        scene, _ = edits.add_dial(scene, "fair-board", dial)
    for (node, channel), link in (
        ((lift, "rotation.x"), Link("fair-board", "dial.lift", -10.0, 60.0, 10.0, -60.0, clamp=False)),
        (("orbit-camera", "position.z"), Link("fair-board", "dial.distance", 3.0, 16.0, 3.0, 16.0, clamp=False)),
        (("street", "relief"), Link("fair-board", "dial.street", 0.0, 3.0, 0.0, 3.0, clamp=False)),
    ):
        scene = edits.set_value(scene, node, channel, 0.0)
        scene = edits.set_links(scene, node, channel, (link,))
    scene = edits.rename(scene, pivot, "Emblem orbit")
    return edits.set_formula(scene, "kite", "rotation.z", 'value * of("Fair board", "dial.sway")')


def _camera(scene: Scene, name: str, x: float, y: float, z: float) -> Scene:
    node = Camera(id=edits.fresh_id(scene, name), name=name, colour="#e0a646")
    return placed(edits.add_node(scene, node), node.id, x, y, z)


def _keyed(scene: Scene) -> Scene:
    keys: dict[tuple[str, str], list[tuple[float, float, Span]]] = {
        ("base", "position.z"): [(0, 2.1, _SOFT), (96, -0.9, Hold()), (126, -0.9, Family("cubic", "in-out")), (239, -3.6, Hold()), (424, -3.6, Family("sine", "in-out")), (500, -1.2, Linear())],
        ("turn", "rotation.y"): [(0, -6.5, _SOFT), (96, 1.5, Hold()), (126, 1.5, _BOTH), (239, 7.0, Hold()), (424, 7.0, Family("sine", "in-out")), (500, 1.0, Linear())],
        ("turn", "position.y"): [(0, 2.7, _BOTH), (96, 3.4, Linear())],
        ("aim", "position.y"): [(0, 2.5, _BOTH), (96, 3.3, Hold()), (126, 3.3, _BOTH), (239, 4.3, Linear())],
        ("main-camera", "lens.focal"): [(126, 35.0, _BOTH), (239, 41.0, Linear())],
        ("main-camera", "rotation.z"): [(0, -1.2, _SOFT), (96, 0.0, Linear())],
        ("emblem", "rotation.y"): [(0, -30, _SOFT), (120, 22, _BOTH), (239, -14, _BOTH), (360, 18, _BOTH), (479, -10, Linear())],
        ("lane-camera", "position.z"): [(0, -0.9, _SOFT), (239, -4.2, Linear())],
        ("lane-camera", "position.x"): [(0, -0.5, _BOTH), (239, 0.7, Linear())],
        ("lane-camera", "rotation.y"): [(0, -5, _BOTH), (239, 6, Linear())],
        ("grass", "opacity"): [(140, 1.0, _BOTH), (190, 0.0, Linear())],
        ("kite-flight", "position.x"): [(0, 2.6, Flow()), (70, 0.9, Flow()), (140, 1.9, Flow()), (239, -1.4, Flow()), (310, 0.4, Flow()), (479, 2.2, Linear())],
        ("kite-flight", "position.y"): [(0, 4.2, Flow()), (70, 4.3, Flow()), (140, 4.75, Flow()), (239, 5.2, Flow()), (310, 4.6, Flow()), (479, 5.0, Linear())],
        ("kite-flight", "position.z"): [(0, 9.6, Linear()), (239, 6.6, Flow()), (310, 4.8, Flow()), (479, 5.6, Linear())],
        ("kite", "rotation.z"): [(0, -14, _BOTH), (48, 10, _BOTH), (104, -12, _BOTH), (164, 14, _BOTH), (239, -8, _BOTH), (290, 12, _BOTH), (360, -10, _BOTH), (479, 6, Linear())],
    }  # fmt: skip
    for (node, channel), run in keys.items():
        for frame, value, span in run:
            scene = edits.set_key(scene, node, channel, float(frame), float(value), span)
    return scene


if __name__ == "__main__":
    save(build(DEMO_SCENE.with_name("art")), DEMO_SCENE)
    save(build_study(DEMO_SCENE.with_name("art")), STUDY_SCENE)
