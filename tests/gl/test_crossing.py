"""Cards that cut through each other, against a ray-cast picture: no hole and no doubled pixel along any seam."""

import numpy as np
import pytest

import wild_heron as wh
from tests.gl.raycast import card_hits, rays
from wild_heron.gl.request import FrameRequest, ThroughLens
from wild_heron.process.client import RenderClient

SIZE = (320, 180)
TONES = ("#ff0000", "#00ff00", "#0000ff")
NEARBY = ((0.0, 0.0), (0.02, 0.02), (0.02, -0.02), (-0.02, 0.02), (-0.02, -0.02))


@pytest.fixture(scope="module")
def client():
    with RenderClient(slots=3) as running:
        yield running


def crossing(cards, opacity: float) -> wh.Scene:
    eye = wh.Camera(id="cam", name="Cam", channels=(wh.Channel("lens.focal", 35.0), wh.Channel("position.z", 9.0)))
    nodes = []
    for tone, (width, height, place, turn) in zip(TONES, cards, strict=False):
        values = [*zip(("position.x", "position.y", "position.z"), place, strict=True)]
        values += [*zip(("rotation.x", "rotation.y", "rotation.z"), turn, strict=True), ("opacity", opacity)]
        channels = tuple(wh.Channel(name, value) for name, value in values)
        nodes.append(
            wh.Picture(id=tone[1:], name=tone, artwork=wh.Solid(tone), width=width, height=height, channels=channels)
        )
    settings = wh.Settings(width=SIZE[0], height=SIZE[1], background="#000000", light="display")
    return wh.Scene(settings=settings, nodes=(eye, *nodes), camera="cam")


def at_random(seed: int, count: int):
    rng = np.random.default_rng(seed)
    return [
        (*rng.integers(300, 800, 2).tolist(), rng.uniform(-0.6, 0.6, 3).tolist(), rng.uniform(-60, 60, 3).tolist())
        for _ in range(count)
    ]


def cast(scene, opacity: float, beside) -> tuple[np.ndarray, np.ndarray]:
    """The picture (H, W, 3), and where the edge of a card is within two pixels (H, W)."""
    hits = card_hits(scene, *rays(scene, "cam", SIZE, beside=beside))
    distances = np.stack([distance for _, distance in hits])
    colours = 255.0 * np.eye(3)[: len(hits)]
    out = np.zeros((distances.shape[1], 3))
    for which in np.argsort(-distances, axis=0):
        covers = np.isfinite(distances[which, np.arange(len(out))])[:, None] * opacity
        out = out * (1.0 - covers) + colours[which] * covers
    rim = np.zeros(SIZE[::-1], bool)
    for distance in distances:
        on = np.isfinite(distance).reshape(SIZE[::-1])
        for step in np.ndindex(5, 5):
            rim |= on != np.roll(on, np.array(step) - 2, (0, 1))
    return out.reshape(*SIZE[::-1], 3), rim


GIVEN = [(700, 500, (-0.1, -0.1, 0.3), (-15, -21, -21)), (700, 500, (0, -0.3, 0), (59, 9, 34))]
CASES = [GIVEN, *(at_random(seed, 2) for seed in range(20)), *(at_random(seed, 3) for seed in range(20))]


@pytest.mark.parametrize("opacity", [1.0, 0.5])
@pytest.mark.parametrize("cards", CASES, ids=range(len(CASES)))
def test_crossing_cards_are_what_rays_see(client, cards, opacity):
    scene = crossing(cards, opacity)
    client.set_scene(scene, None)
    drawn = client.draw(FrameRequest(0.0, ThroughLens("cam"), *SIZE, 1)).astype(float)[..., :3]
    # A middle of a pixel may lie on the seam itself: it is either side's then.
    views = [cast(scene, opacity, beside) for beside in NEARBY]
    off = np.min([np.abs(drawn - picture).max(axis=-1) for picture, _ in views], axis=0)
    # An edge just outside of the frame is within two pixels too.
    assert not ((off > 3.0) & ~views[0][1])[2:-2, 2:-2].any()
