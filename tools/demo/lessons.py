"""``python -m demo.lessons``: writes the scenes that lessons are done in, from pieces of the fair."""

from msgspec.structs import replace

import wild_heron as wh
from wild_heron import edits
from wild_heron.demo import DEMO_SCENE
from wild_heron.scene.checks import LimitOfScene

STAGE = (
    "night-sky", "moon", "far-ridge", "near-ridge", "mist", "emblem-glow", "stalls", "far-lanterns", "crowd-edge",
    "emblem", "key-light", "dusk",
)  # fmt: skip
LAST = 119
BEAT = 24
LENS = {"position.y": 3.6, "position.z": 19.0, "lens.focal": 35.0, "lens.focus": 19.0}


def stage() -> wh.Scene:
    """The fair without what moves and without a camera, five seconds long."""
    fair = wh.load(DEMO_SCENE)
    nodes = []
    for node in fair.nodes:
        if node.id in STAGE:
            still = tuple(wh.Channel(each.name, each.value) for each in node.channels if not each.keys)
            nodes.append(replace(node, channels=still, movers=(), binds=()))
    settings = wh.Settings(width=1920, height=1080, last=LAST, light=fair.settings.light, distance=fair.settings.distance,
                           background=fair.settings.background)  # fmt: skip
    return wh.Scene(name="Lesson", settings=settings, nodes=tuple(nodes))


def with_camera(scene: wh.Scene, name: str = "Camera", node_id: str = "camera", **values: float) -> wh.Scene:
    """The stage with a camera before it."""
    scene = edits.add_node(scene, wh.Camera(id=node_id, name=name, colour="#f2c25b"))
    for channel, value in (LENS | {key.replace("_", "."): value for key, value in values.items()}).items():
        scene = edits.set_value(scene, node_id, channel, value)
    return scene


def keyed(scene: wh.Scene, node_id: str, channel: str, *values: float) -> wh.Scene:
    """Linear keys, evenly over the range."""
    for number, value in enumerate(values):
        frame = round(number * LAST / (len(values) - 1))
        scene = edits.set_key(scene, node_id, channel, frame, value, wh.Linear())
    return scene


def scenes() -> dict[str, wh.Scene]:
    """By file, without suffix."""
    camera = with_camera(stage())
    stops = with_camera(stage())
    for channel, values in (
        ("position.x", (-3.0, 2.4, 0.0)), ("position.y", (3.0, 4.6, 5.2)), ("position.z", (19.0, 16.0, 11.0)),
    ):  # fmt: skip
        stops = keyed(stops, "camera", channel, *values)
    close = {"position_x": 1.6, "position_y": 5.0, "position_z": 8.0, "lens_focal": 50.0}
    two = with_camera(with_camera(stage(), "Wide", "wide"), "Close", "close", **close)
    two = keyed(keyed(two, "wide", "position.x", -1.2, 1.2), "close", "position.x", 2.2, 0.6)
    beats = two
    for number in range(1, 5):
        beats = edits.set_marker(beats, float(number * BEAT), f"Beat {number}", "beat")
    shots = (wh.Shot("Wide", "wide", 0.0), wh.Shot("Close", "close", 60.0, join=wh.Blend(length=36.0, way="straight")))
    bare = keyed(keyed(with_camera(stage()), "camera", "position.z", 17.0, 44.0), "camera", "position.x", 0.0, 5.0)
    # What is bare is all that is found there.
    soft = LimitOfScene("nearness.soft", 4.0)
    bare = replace(bare, checks=replace(bare.checks, limits=(soft,)))
    formats = (wh.Format("Vertical 9:16", 1080, 1920),)
    return {
        "lesson-formats": replace(keyed(camera, "camera", "position.x", -2.4, 2.4), formats=formats),
        "lesson-set": stage(), "lesson-camera": camera, "lesson-stops": stops, "lesson-beats": beats,
        "lesson-blend": edits.with_shots(two, shots), "lesson-bare": bare,
    }  # fmt: skip


if __name__ == "__main__":
    for name, scene in scenes().items():
        wh.save(replace(scene, name="Lesson"), DEMO_SCENE.with_name(f"{name}.heron"))
