"""The textures' budget, and what is read at which size."""

import moderngl
import numpy as np
import pytest
from PIL import Image

import wild_heron as wh
from wild_heron.files.drafts import Drafts
from wild_heron.files.permission import Permission, for_scene
from wild_heron.files.reader import Reader
from wild_heron.gl.artwork_store import ArtworkStore, ArtworkWant


@pytest.fixture(scope="module")
def context():
    out = moderngl.create_context(standalone=True, backend="egl", require=330)
    yield out
    out.release()


@pytest.fixture
def store(context, tmp_path, reader):
    return ArtworkStore(context, reader, drafts=Drafts(tmp_path / "drafts"))


def pictures(folder, count: int, size: tuple[int, int] = (400, 300)) -> list[wh.Picture]:
    found = []
    for k in range(count):
        Image.new("RGB", size, (k, 0, 0)).save(folder / f"{k}.png")
        found.append(
            wh.Picture(id=f"p{k}", name=f"P{k}", artwork=wh.ImageFile(f"{k}.png"), width=size[0], height=size[1])
        )
    return found


def get(store, wanted, folder):
    return store.get_all(
        [ArtworkWant(picture, 0, scale) for picture, scale in wanted], folder, True, lambda done, total: None
    )


def test_what_was_not_used_for_longest_goes_when_the_budget_is_spent(store, tmp_path):
    cards = pictures(tmp_path, 6)
    one = 400 * 300 * 16 // 3
    store.budget = 3 * one
    for card in cards:
        get(store, [(card, 1.0)], tmp_path)
        store.tidy()
        assert store.bytes <= store.budget
    first = get(store, [(cards[3], 1.0)], tmp_path)[0]
    store.tidy()
    get(store, [(cards[0], 1.0)], tmp_path)
    store.tidy()
    assert get(store, [(cards[3], 1.0)], tmp_path)[0] is first
    # What a frame needs is never taken from it, budget or not.
    shown = get(store, [(card, 1.0) for card in cards], tmp_path)
    store.tidy()
    assert all(each is not None for each in shown)
    assert store.bytes == 6 * one


def test_a_large_picture_seen_small_is_read_small_and_in_full_for_a_kept_frame(store, tmp_path):
    (card,) = pictures(tmp_path, 1, (4000, 3000))
    while (seen := store.get_all([ArtworkWant(card, 0, 0.2)], tmp_path, False, lambda done, total: None)[0]) is None:
        pass
    assert seen.texture.size == (1000, 750)
    store.tidy()
    assert get(store, [(card, 0.2)], tmp_path)[0].texture.size == (4000, 3000)
    # From now on the full one serves both.
    store.tidy()
    again = store.get_all([ArtworkWant(card, 0, 0.2)], tmp_path, False, lambda done, total: None)[0]
    assert again.texture.size == (4000, 3000)


@pytest.mark.parametrize("scale", [8.0, 60.0])
def test_a_drawing_that_is_wanted_whole_is_drawn_as_large_as_can_be_read_in_time(store, tmp_path, scale):
    (tmp_path / "glow.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="900" height="900"><radialGradient id="a">'
        '<stop stop-color="#fc8"/><stop offset="1" stop-color="#f94" stop-opacity="0"/></radialGradient>'
        '<circle cx="450" cy="450" r="440" fill="url(#a)"/></svg>'
    )
    glow = wh.Picture(id="g", name="Glow", artwork=wh.ImageFile("glow.svg"), width=900, height=900)
    (found,) = get(store, [(glow, scale)], tmp_path)
    assert not found.problem
    assert 1_800 <= found.texture.width <= 3_200


def test_opaque_and_empty_parts_are_known(store, tmp_path):
    pixels = np.zeros((300, 400, 4), np.uint8)
    pixels[100:150, 200:240] = 255
    Image.fromarray(pixels).save(tmp_path / "dot.png")
    dot = wh.Picture(id="d", name="D", artwork=wh.ImageFile("dot.png"), width=400, height=300)
    (plain,) = pictures(tmp_path, 1)
    first, second = get(store, [(dot, 1.0), (plain, 1.0)], tmp_path)
    assert second.opaque
    assert not first.opaque
    u0, v0, u1, v1 = first.bounds
    assert (u0 * 400, v0 * 300, u1 * 400, v1 * 300) == pytest.approx((184, 84, 256, 166))


def test_unused_artwork_is_dropped(store, tmp_path):
    cards = pictures(tmp_path, 3)
    get(store, [(card, 1.0) for card in cards], tmp_path)
    store.drop_unused([(cards[0], tmp_path)])
    assert store.bytes == 400 * 300 * 16 // 3


def test_a_draft_shows_nothing_of_a_file_that_may_not_be_read(context, tmp_path):
    (tmp_path / "outside").mkdir()
    (tmp_path / "scene").mkdir()
    Image.new("RGB", (2000, 1500), (200, 0, 0)).save(tmp_path / "outside" / "a.png")
    artwork = wh.ImageFile("../outside/a.png")
    card = wh.Picture(id="p", name="P", artwork=artwork, width=2000, height=1500)

    def shown(permission: Permission) -> str | None:
        with Reader(permission=permission) as reader:
            store = ArtworkStore(context, reader, drafts=Drafts(tmp_path / "drafts"))
            wanted = [ArtworkWant(card, 0, 0.1)]
            while (found := store.get_all(wanted, tmp_path / "scene", False, lambda *_: None)[0]) is None:
                store.collect()
            return found.problem

    assert shown(Permission()) is None
    assert list((tmp_path / "drafts").iterdir())
    assert "outside the scene's folder" in (shown(for_scene(tmp_path / "scene", ())) or "")
    assert shown(for_scene(tmp_path / "scene", (str(tmp_path / "outside"),))) is None
