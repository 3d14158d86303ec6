"""Pictures, placeholders, relative paths."""

import gzip
import os

import numpy as np
import pytest
from PIL import Image

import wild_heron as wh
from wild_heron.files.artwork_files import files_of, missing_artwork, rebase, relink, resolve, source_for
from wild_heron.files.errors import FileError
from wild_heron.files.stand_in import placeholder

from .direct import probe, read_picture


def picture(name: str, source: str) -> wh.Picture:
    return wh.Picture(id=name, name=name, artwork=wh.ImageFile(source), width=200, height=100)


def test_pictures_are_premultiplied(art):
    pixels = read_picture(art / "glass.png")
    assert pixels.shape == (100, 200, 4)
    assert pixels[0, 0].tolist() == pytest.approx([10, 30, 120, 128], abs=1)


@pytest.mark.parametrize(
    ("mode", "suffix"), [("L", ".png"), ("P", ".png"), ("CMYK", ".jpg"), ("I;16", ".tif"), ("RGB", ".webp")]
)
def test_other_kinds_of_picture_are_read(tmp_path, mode, suffix):
    path = tmp_path / f"x{suffix}"
    Image.new("RGB", (30, 20), (200, 200, 200)).convert("L" if mode == "I;16" else mode).convert(mode).save(path)
    assert (probe(path).width, probe(path).height) == (30, 20)
    assert read_picture(path).shape == (20, 30, 4)


def test_a_turned_photograph_is_turned_back(tmp_path):
    path = tmp_path / "p.jpg"
    exif = Image.Exif()
    exif[0x0112] = 6
    Image.new("RGB", (30, 20)).save(path, exif=exif)
    assert (probe(path).width, probe(path).height) == (20, 30)
    assert read_picture(path).shape == (30, 20, 4)


def test_vector_art_is_drawn_at_the_size_needed_and_pulls_in_nothing(tmp_path, art):
    path = tmp_path / "v.svg"
    path.write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="40" height="20"><rect width="20" height="20" fill="#f00"/>'
        f'<image href="{art / "glass.png"}" x="20" width="20" height="20"/></svg>'
    )
    assert (probe(path).width, probe(path).vector) == (40, True)
    large = read_picture(path, 400)
    assert large.shape == (200, 400, 4)
    assert large[100, 100].tolist() == [255, 0, 0, 255]
    assert large[:, 200:, 3].max() == 0
    packed = tmp_path / "v.svgz"
    packed.write_bytes(gzip.compress(path.read_bytes()))
    assert (read_picture(packed, 400) == large).all()


@pytest.mark.parametrize("content", [b"", b"not a picture", b"\x89PNG\r\n\x1a\n broken", b"<svg"])
@pytest.mark.parametrize("suffix", [".png", ".svg", ".svgz"])
def test_what_is_no_picture_is_refused_by_name(tmp_path, content, suffix):
    path = tmp_path / f"odd{suffix}"
    path.write_bytes(content)
    with pytest.raises(FileError, match="odd"):
        probe(path)


def test_a_truncated_picture_and_a_pipe_are_refused(tmp_path, art):
    path = tmp_path / "cut.png"
    noise = np.random.default_rng(0).integers(0, 255, (200, 200, 3), np.uint8)
    Image.fromarray(noise).save(path)
    path.write_bytes(path.read_bytes()[:20_000])
    with pytest.raises(FileError, match="cut"):
        read_picture(path)
    os.mkfifo(tmp_path / "pipe.png")
    with pytest.raises(FileError, match="plain file"):
        probe(tmp_path / "pipe.png")


def test_a_placeholder_is_labelled():
    plain, named = placeholder("", 400, 200, ""), placeholder("Far ridge", 400, 200)
    assert named.shape == (200, 400, 4)
    assert (named != plain).any()
    assert placeholder("x", 1, 60_000).shape[0] <= 1024


def test_sources_are_relative_and_move_with_the_scene(tmp_path, art):
    scene = wh.Scene(nodes=(picture("a", str(art / "card.png")),))
    here = rebase(scene, None, art)
    assert here.node("a").artwork.source == "card.png"
    evaluator = rebase(here, art, tmp_path / "deep" / "down")
    assert evaluator.node("a").artwork.source.startswith("../..")
    assert (
        resolve(tmp_path / "deep" / "down", evaluator.node("a").artwork.source).resolve()
        == (art / "card.png").resolve()
    )
    assert rebase(evaluator, tmp_path / "deep" / "down", None).node("a").artwork.source == (art / "card.png").as_posix()
    assert source_for(art, art / "card.png") == "card.png"


def test_finding_one_missing_picture_finds_its_neighbours(art, tmp_path):
    scene = wh.Scene(
        nodes=(picture("a", "gone/card.png"), picture("b", "gone/glass.png"), picture("c", "gone/none.png"))
    )
    assert [each.name for each in missing_artwork(scene, art)] == ["a", "b", "c"]
    scene, found = relink(scene, art, "a", art / "card.png")
    assert found == 2
    assert [each.name for each in missing_artwork(scene, art)] == ["c"]


def test_a_folder_that_moved_whole_is_found_whole(tmp_path, art):
    old, new = tmp_path / "job", tmp_path / "elsewhere" / "job"
    for name in ("cards/a.png", "cards/b.png", "models/c.png", "walk/w_01.png", "walk/w_02.png"):
        path = new / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes((art / "card.png").read_bytes())
    places = {"a": "cards", "b": "cards", "c": "models"}
    nodes = [picture(name, f"{old}/{place}/{name}.png") for name, place in places.items()]
    walk = wh.Picture(id="w", name="W", artwork=wh.Sequence(f"{old}/walk/w_##.png", 1, 2, 24.0), width=9, height=9)
    scene = wh.Scene(nodes=(*nodes, walk))
    assert len(missing_artwork(scene, None)) == 4
    found, count = relink(scene, None, "a", new / "cards" / "a.png")
    assert count == 4
    assert missing_artwork(found, None) == []
    assert found.node("w").artwork.source == (new / "walk" / "w_##.png").as_posix()


def test_a_sound_is_missed_found_again_and_moves_with_the_scene(tmp_path):
    scene = wh.Scene(sounds=(wh.Sound("March", "sounds/march.wav", 3.0),))
    (missed,) = missing_artwork(scene, tmp_path)
    assert (missed.name, missed.path) == ("March", tmp_path / "sounds/march.wav")
    (tmp_path / "other").mkdir()
    there = tmp_path / "other" / "march.wav"
    there.write_bytes(b"")
    found, count = relink(scene, tmp_path, missed.node, there)
    assert (found.sounds[0].source, count) == ("other/march.wav", 1)
    assert rebase(found, tmp_path, tmp_path / "other").sounds[0].source == "march.wav"
    assert list(files_of(found, tmp_path)) == [there]
