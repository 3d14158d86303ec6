"""Frames drawn in tiles are the frames that are drawn in one piece."""

import os
import subprocess
import sys
from dataclasses import replace

import av
import numpy as np
import pytest
import tifffile
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

import wild_heron as wh
from wild_heron.files.errors import FileError
from wild_heron.output import tiled
from wild_heron.output.job import ExportJob
from wild_heron.output.running import export
from wild_heron.output.tiled import RIM, rows_of_tiles
from wild_heron.scene import SceneError

SIZE = (500, 300)


@pytest.fixture
def set_(art) -> tuple[wh.Scene, object]:
    """Cards that lean and cut each other, one out of focus in haze, a ring before them, and a camera that moves."""
    scene = wh.Scene(settings=wh.Settings(width=SIZE[0], height=SIZE[1], last=10, background="#304050"))
    scene = wh.edits.add_node(scene, wh.Camera(id="cam", name="Cam"))
    scene = wh.edits.set_key(scene, "cam", "position.x", 0.0, -0.4, wh.Linear())
    scene = wh.edits.set_key(scene, "cam", "position.x", 10.0, 0.8)
    scene = wh.edits.set_value(scene, "cam", "position.z", 6.0)
    for number, (turn, blur) in enumerate(((35.0, 0.0), (-50.0, 0.0), (10.0, 9.0))):
        name = f"card{number}"
        file = wh.ImageFile("card.png" if number else "glass.png")
        scene = wh.edits.add_node(scene, wh.Picture(id=name, name=name, artwork=file, width=400, height=260))
        scene = wh.edits.set_value(scene, name, "rotation.y", turn)
        scene = wh.edits.set_value(scene, name, "position.z", -1.5 * (number == 2))
        if blur:
            scene = wh.edits.set_value(scene, name, "blur", blur)
    scene = wh.edits.add_node(scene, wh.Model(id="ring", name="Ring", shape=wh.Torus(1.2, 0.3)))
    return scene, art


def made(scene, base, path, **how) -> np.ndarray:
    job = replace(ExportJob(path, (4.0,), "cam", SIZE), **how)
    assert export(scene, base, job)
    if path.suffix == ".tif":
        return tifffile.imread(path).astype(int)
    if job.depth == "16":
        with av.open(str(path)) as file:
            frame = next(file.decode(video=0))
        return frame.to_ndarray(format="rgba64le" if job.clear else "rgb48le").astype(int)
    return np.asarray(Image.open(path)).astype(int)


@given(st.integers(1, 700), st.integers(1, 700), st.integers(1, 6))
def test_tiles_cover_every_pixel_once_and_are_drawn_with_what_lies_beside_them(width, height, sides):
    covered = np.zeros((height, width), int)
    for tile in (tile for row in rows_of_tiles((width, height), 64 * sides) for tile in row):
        (x, y, across, down), (left, top, wide, high) = tile.own, tile.drawn
        covered[y : y + down, x : x + across] += 1
        assert (left, top) == (max(0, x - RIM), max(0, y - RIM))
        assert (left + wide, top + high) == (min(width, x + across + RIM), min(height, y + down + RIM))
    assert (covered == 1).all()


@pytest.mark.parametrize("fine", [False, True])
@pytest.mark.parametrize("samples", [1, 4])
def test_what_is_joined_is_what_is_drawn_at_once(set_, tmp_path, monkeypatch, fine, samples):
    scene, base = set_
    whole = made(scene, base, tmp_path / "whole.png", fine=fine, samples=samples)
    monkeypatch.setattr(tiled, "SIDE", 128)
    joined = made(scene, base, tmp_path / "joined.png", fine=fine, samples=samples, tiled=True)
    assert joined.shape == whole.shape == (SIZE[1], SIZE[0], 3)
    assert whole.std() > 20.0
    # Places in a part of a frame are rounded a little otherwise.
    off = np.abs(joined - whole)
    assert off.mean() < 0.01
    assert (off > 1).mean() < 2e-4


@pytest.mark.parametrize("name", ["a.png", "a.tif"])
@pytest.mark.parametrize("depth", ["8", "16"])
@pytest.mark.parametrize("transparent", [False, True])
def test_every_kind_reads_as_it_is_otherwise(set_, tmp_path, monkeypatch, name, depth, transparent):
    scene, base = set_
    how = {"depth": depth, "transparent": transparent, "fine": False}
    whole = made(scene, base, tmp_path / name, **how)
    monkeypatch.setattr(tiled, "SIDE", 256)
    joined = made(scene, base, tmp_path / f"joined_{name}", tiled=True, **how)
    assert joined.shape == whole.shape
    least = 257 if depth == "16" else 1
    assert (np.abs(joined - whole) > least).mean() < 2e-4


def test_what_cannot_be_in_tiles_is_said_before_anything_is_drawn(tmp_path):
    job = ExportJob(tmp_path / "large.png", (0.0,), "cam", (16_384, 9_216))
    with pytest.raises(SceneError, match="--tiles"):
        job.check()
    replace(job, tiled=True).check()
    with pytest.raises(SceneError, match="32768"):
        replace(job, tiled=True, size=(40_000, 10)).check()
    for name, how in (("large.jpg", {}), ("large.mp4", {}), ("large.exr", {"passes": True})):
        with pytest.raises(FileError, match="in tiles"):
            replace(job, tiled=True, path=tmp_path / name, **how).check()


def test_a_cancelled_one_leaves_nothing(set_, tmp_path, monkeypatch):
    scene, base = set_
    monkeypatch.setattr(tiled, "SIDE", 64)
    asked = []
    job = replace(ExportJob(tmp_path / "a_##.png", (0.0, 1.0), "cam", SIZE), tiled=True, fine=False)
    assert not export(scene, base, job, cancelled=lambda: bool(asked.append(1)) or len(asked) > 4)
    assert set(os.listdir(tmp_path)) == {"card.png", "glass.png"}


def test_wider_than_one_piece_may_be_from_the_command_line(set_, tmp_path):
    scene, base = set_
    wh.save(scene, base / "wide.heron")
    out = tmp_path / "wide.png"
    command = [sys.executable, "-m", "wild_heron", "render", str(base / "wide.heron"), "-o", str(out)]
    command += ["--frames", "2", "--size", "9000x60", "--quick"]
    refused = subprocess.run(command, capture_output=True, text=True)
    assert refused.returncode == 2
    assert "--tiles" in refused.stderr
    done = subprocess.run([*command, "--tiles"], capture_output=True, text=True)
    assert done.returncode == 0, done.stderr
    Image.MAX_IMAGE_PIXELS = None
    with Image.open(out) as picture:
        assert picture.size == (9000, 60)
        assert np.asarray(picture).std() > 10.0
