"""Scenes made to fail in known ways: a camera 10 units before cards, with a frame of 1600 × 900 that is 16 units wide
there."""

import msgspec

import wild_heron as wh
from wild_heron.scene import Blend, Cut, Format, Linear, Shot, Subject

FOCAL = 22.5
DISTANCE = 10.0


def card(node_id: str, width: float, height: float, x: float = 0.0, y: float = 0.0, z: float = 0.0) -> wh.Picture:
    """A card of so many units, placed."""
    node = wh.Picture(
        id=node_id, name=node_id.capitalize(), width=round(width * 100), height=round(height * 100),
        artwork=wh.Solid("#6d7fa8"),
    )  # fmt: skip
    channels = [wh.Channel(f"position.{axis}", value) for axis, value in zip("xyz", (x, y, z), strict=True) if value]
    return msgspec.structs.replace(node, channels=tuple(channels))


def camera(node_id: str = "cam", x: float = 0.0, z: float = DISTANCE, **fields: object) -> wh.Camera:
    channels = (
        wh.Channel("lens.focal", FOCAL),
        wh.Channel("position.x", x),
        wh.Channel("position.z", z),
        wh.Channel("lens.focus", max(abs(z), 1.0)),
    )
    return wh.Camera(id=node_id, name=node_id.capitalize(), channels=channels, **fields)  # type: ignore[arg-type]


def film(*nodes: object, last: int = 30, **fields: object) -> wh.Scene:
    settings = wh.Settings(width=1600, height=900, last=last)
    scene = wh.edits.add_nodes(wh.Scene(settings=settings, **fields), list(nodes))  # type: ignore[arg-type]
    lens = next(node.id for node in scene.nodes if isinstance(node, wh.Camera))
    return msgspec.structs.replace(scene, camera=lens)


def keyed(scene: wh.Scene, node: str, name: str, *keys: tuple[float, float], span: object = Linear()) -> wh.Scene:
    for frame, value in keys:
        scene = wh.edits.set_key(scene, node, name, frame, value, span)
    return scene


def with_checks(scene: wh.Scene, **fields: object) -> wh.Scene:
    return msgspec.structs.replace(scene, checks=msgspec.structs.replace(scene.checks, **fields))


def limited(scene: wh.Scene, name: str, value: float) -> wh.Scene:
    return with_checks(scene, limits=(*scene.checks.limits, wh.LimitOfScene(name, value)))


def bare_right() -> wh.Scene:
    """The lens goes 3 units to the right over a sky that reaches 10: from 2 on, the right is bare."""
    scene = film(card("sky", 20.0, 12.0), camera(), last=60)
    return keyed(scene, "cam", "position.x", (0.0, 0.0), (60.0, 3.0))


def leaving() -> wh.Scene:
    """A kite of 1 × 1 that flies up and out of the action area; the sky is large."""
    scene = film(card("sky", 60.0, 40.0, z=-1.0), card("kite", 1.0, 1.0), camera())
    scene = keyed(scene, "kite", "position.y", (0.0, 0.0), (30.0, 4.5))
    return with_checks(scene, subjects=(Subject("kite"),))


def rushing(easing: object = Linear()) -> wh.Scene:
    """8 units in one second: 2 s to cross the frame, at its fastest; the rest of 4 seconds is still."""
    scene = film(card("sky", 80.0, 40.0), camera(), last=96)
    return keyed(scene, "cam", "position.x", (24.0, 0.0), (48.0, 8.0), span=easing)


def two_shots(first: wh.Camera, second: wh.Camera, *others: object, cut: float = 30.0, last: int = 60) -> wh.Scene:
    scene = film(card("sky", 80.0, 40.0), first, second, *others, last=last)
    return msgspec.structs.replace(
        scene, shots=(Shot("One", first.id), Shot("Two", second.id, cut)), camera=first.id
    )  # fmt: skip


__all__ = [
    "Blend", "Cut", "Format", "bare_right", "camera", "card", "film", "keyed", "leaving", "limited", "rushing",
    "two_shots", "with_checks",
]  # fmt: skip
