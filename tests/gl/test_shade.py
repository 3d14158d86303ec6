"""What photographs and shadows fall on, against rays cast from where they come from."""

import numpy as np
import pytest
from PIL import Image

import wild_heron as wh
from tests.gl.raycast import met, rays, triangles
from wild_heron.evaluate import evaluate
from wild_heron.gl.request import FrameRequest, ThroughLens
from wild_heron.process.client import RenderClient

SIZE = (160, 100)


@pytest.fixture(scope="module")
def client():
    with RenderClient(slots=3) as running:
        yield running


def model(name: str, shape, place=(0.0, 0.0, 0.0), turn=(0.0, 0.0, 0.0), lit=False) -> wh.Model:
    values = [*zip(("position.x", "position.y", "position.z"), place, strict=True)]
    values += [*zip(("rotation.x", "rotation.y", "rotation.z"), turn, strict=True)]
    return wh.Model(
        id=name, name=name, shape=shape, surface="#808080", gloss=0.0, takes_light=lit,
        channels=tuple(wh.Channel(channel, float(value)) for channel, value in values),
    )  # fmt: skip


def seen_from(place, turn, *nodes) -> wh.Scene:
    values = [*zip(("position.x", "position.y", "position.z"), place, strict=True)]
    values += [*zip(("rotation.x", "rotation.y", "rotation.z"), turn, strict=True), ("lens.focal", 28.0)]
    eye = wh.Camera(id="cam", name="Cam", channels=tuple(wh.Channel(n, float(v)) for n, v in values))
    settings = wh.Settings(width=SIZE[0], height=SIZE[1], background="#000000", light="display")
    return wh.Scene(settings=settings, nodes=(eye, *nodes), camera="cam")


def drawn(client, scene, folder=None) -> np.ndarray:
    client.set_scene(scene, folder)
    return client.draw(FrameRequest(0.0, ThroughLens("cam"), *SIZE, 1)).astype(float)[..., :3]


def reached(scene, source, beside=(0.0, 0.0)) -> tuple[np.ndarray, np.ndarray]:
    """Whether what is seen at each pixel is the first thing met from a point (3,), or along a direction (4,), 0 last;
    and how square to it the surface lies. NaN where nothing is seen."""
    every = np.concatenate(list(triangles(scene).values()))
    origin, ways = rays(scene, "cam", SIZE, beside=beside)
    distance, which = met(origin, ways, every)
    seen = np.isfinite(distance)
    points = origin + ways * np.where(seen, distance, 0.0)[:, None]
    toward = (source[:3] - points) if len(source) == 3 else np.broadcast_to(source[:3], points.shape)
    first, _ = met(points + 1e-5 * toward, toward, every)
    far = 1.0 if len(source) == 3 else np.inf
    free = np.where(seen, (first > far - 1e-4) | ~np.isfinite(first), np.nan)
    normals = np.cross(every[:, 1] - every[:, 0], every[:, 2] - every[:, 0])
    normals /= np.maximum(np.linalg.norm(normals, axis=1), 1e-12)[:, None]
    square = np.abs((normals[which] * toward).sum(axis=1)) / np.linalg.norm(toward, axis=1)
    return free.reshape(SIZE[::-1]), square.reshape(SIZE[::-1])


def away_from_borders(*maps: np.ndarray, by: int = 2) -> np.ndarray:
    """Where none of the maps changes by half within so many pixels, (H, W)."""
    calm = np.ones(SIZE[::-1], bool)
    for one in maps:
        filled = np.nan_to_num(one, nan=-1.0)
        for step in np.ndindex(2 * by + 1, 2 * by + 1):
            calm &= np.abs(filled - np.roll(filled, np.array(step) - by, (0, 1))) < 0.5
    calm[:by], calm[-by:], calm[:, :by], calm[:, -by:] = False, False, False, False
    return calm


WALL = model("wall", wh.Plane(12, 8))
BOX = model("box", wh.Box(1.0, 1.0, 1.0), (0.0, 0.0, 4.0))


def photographed(*others, place=(0.0, 0.0, 10.0)) -> wh.Scene:
    values = tuple(zip(("position.x", "position.y", "position.z"), place, strict=True))
    photo = wh.Projection(
        id="photo", name="Photo", source="photo.png", width=160, height=90,
        receivers=tuple(each.id for each in (WALL, BOX, *others)),
        channels=tuple(wh.Channel(name, float(value)) for name, value in values),
    )  # fmt: skip
    return seen_from((7.0, 1.5, 9.0), (-5.0, 38.0, 0.0), WALL, BOX, *others, photo)


OTHERS = {
    "alone": (),
    "ball beyond": (model("ball", wh.Sphere(0.5), (0.0, 8.0, 9.5)),),
    "ball far behind": (model("ball", wh.Sphere(0.5), (0.0, 8.0, 40.0)),),
    "floor": (model("floor", wh.Plane(60, 60), (0.0, -2.0, 5.0), (-90.0, 0.0, 0.0)),),
    "mountain": (model("mountain", wh.Box(800, 500, 300), (0.0, 0.0, -2000.0)),),
    "near": (model("near", wh.Box(0.02, 0.02, 0.02), (0.02, 0.0, 9.9)),),
    "room": (model("room", wh.Box(30, 20, 60), (0.0, 0.0, 5.0)),),
}


@pytest.mark.parametrize("others", OTHERS.values(), ids=OTHERS)
def test_a_photograph_falls_on_what_it_meets_first_whatever_else_there_is(client, tmp_path, others):
    Image.new("RGB", (160, 90), (255, 0, 255)).save(tmp_path / "photo.png")
    scene = photographed(*others)
    frame = drawn(client, scene, tmp_path)
    projector = evaluate(scene, 0.0).world("photo")[0]
    free, square = reached(scene, projector[:3, 3])
    # Within the photograph's frame, well inside.
    origin, ways = rays(scene, "cam", SIZE)
    every = np.concatenate(list(triangles(scene).values()))
    distance, _ = met(origin, ways, every)
    points = origin + ways * np.where(np.isfinite(distance), distance, 0.0)[:, None] - projector[:3, 3]
    focal = evaluate(scene, 0.0).camera("photo").focal_px[0]
    depth = np.maximum(-points[:, 2], 1e-9)
    spread = np.abs(points[:, :2]) / depth[:, None] * focal / np.array([80.0, 45.0])
    inside = ((spread.max(axis=1) < 0.97) & (points[:, 2] < 0.0)).reshape(SIZE[::-1])
    judged = away_from_borders(free, inside.astype(float), 3.0 * square) & np.isfinite(free) & (square > 0.1)
    received = np.abs(frame - (255, 0, 255)).max(axis=-1) < 4
    wanted = inside & (free == 1.0)
    assert (judged & wanted).sum() > 500
    assert (judged & (received != wanted)).sum() == 0


def shaded(seed: int) -> wh.Scene:
    """Four solids over a floor, and a light from afar, from beside them or from amid them."""
    rng = np.random.default_rng(seed)
    nodes = [model("floor", wh.Plane(30, 30), (0, -1, 0), (-90, 0, 0), True)]
    for k in range(4):
        shapes = [
            wh.Box(*rng.uniform(0.6, 2.0, 3).tolist()), wh.Sphere(rng.uniform(0.4, 1.0)), wh.Cylinder(0.6, 1.6),
            wh.Box(3.0, 0.3, 0.3),
        ]  # fmt: skip
        place = rng.uniform([-3, -0.8, -4], [3, 2, 1])
        nodes.append(model(f"m{k}", shapes[int(rng.integers(4))], place, rng.uniform(-40, 40, 3), True))
    if seed % 3 == 0:
        turn = {"rotation.x": rng.uniform(-80, -15), "rotation.y": rng.uniform(-180, 180)}
        lamp = wh.Light(id="lamp", name="Lamp", light="directional", shadow=True, softness=0.0)
    else:
        place = rng.uniform([-4, 1.5, -4], [4, 5, 4]) if seed % 3 == 1 else rng.uniform([-12, 3, -12], [12, 9, 12])
        turn = dict(zip(("position.x", "position.y", "position.z"), place.tolist(), strict=True))
        lamp = wh.Light(id="lamp", name="Lamp", light="point", falloff="none", shadow=True, softness=0.0)
    scene = seen_from((0.0, 3.0, 9.0), (-18.0, 0.0, 0.0), *nodes, lamp)
    for name, value in turn.items():
        scene = wh.edits.set_value(scene, "lamp", name, value)
    return scene


@pytest.mark.parametrize("seed", [0, 4, 8, 10, 13])
def test_a_hard_shadow_is_where_rays_to_the_light_are_cut_off(client, seed):
    scene = shaded(seed)
    world = evaluate(scene, 0.0).world("lamp")[0]
    point = scene.node("lamp").light == "point"
    free, square = reached(scene, world[:3, 3] if point else np.array([*world[:3, 2], 0.0]))
    judged = away_from_borders(free, 3.0 * square) & np.isfinite(free) & (square > 0.08)
    assert judged.sum() > 5000
    # What stands far off and out of the light's way changes nothing, but that a map from afar shows more, coarser.
    beyond = wh.edits.add_node(scene, model("far", wh.Box(4, 4, 4), (40.0, -30.0, -60.0), lit=True))
    for each, few in ((scene, 1), (beyond, 1 if point else 6)):
        frame = drawn(client, each)[..., 0]
        assert (judged & ((frame > 8) != (free == 1.0))).sum() <= few


@pytest.mark.parametrize("far", [1e4, 1e6])
def test_models_far_from_the_origin_do_not_wobble(client, far):
    ball = model("ball", wh.Torus(0.8, 0.3), (0.2, 0.1, 0.0), (30.0, 20.0, 0.0), lit=True)
    floor = model("floor", wh.Plane(8, 8), (0, -1, 0), (-90, 0, 0), True)
    lamp = wh.Light(id="lamp", name="Lamp", light="point", falloff="none", shadow=True)
    near = wh.edits.set_value(
        seen_from((0.0, 1.0, 5.0), (-8.0, 0.0, 0.0), ball, floor, lamp), "lamp", "position.y", 4.0
    )
    away = near
    for node in near.nodes:
        for axis in ("position.x", "position.z"):
            value = float(evaluate(near, 0.0).value(node.id, axis)[0])
            away = wh.edits.set_value(away, node.id, axis, value + far)
    assert np.abs(drawn(client, near) - drawn(client, away)).max() <= 2.0
