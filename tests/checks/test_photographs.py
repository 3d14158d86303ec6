"""Photographs projected on a wall: stretched and missing as closed forms say, and mended as far as that takes."""

import msgspec
import numpy as np
import pytest
from PIL import Image

import wild_heron as wh
from wild_heron.checks.fixes import fixes_for
from wild_heron.process.checking import check_scene, looking
from wild_heron.scene import Format

from .scenes import FOCAL, camera, film


@pytest.fixture
def folder(tmp_path):
    Image.fromarray(np.full((225, 400, 3), 120, np.uint8)).save(tmp_path / "photo.png")
    return tmp_path


def walled(distance: float, **fields: object) -> wh.Scene:
    """A photograph of 400 × 225 pixels thrown from 10 units on a wall, where it is 16 × 9 units large."""
    wall = wh.Model(id="wall", name="Wall", shape=wh.Plane(60.0, 60.0))
    photo = wh.Projection(
        id="photo", name="Photo", source="photo.png", width=400, height=225, receivers=("wall",),
        channels=(wh.Channel("lens.focal", FOCAL), wh.Channel("position.z", 10.0)),
    )  # fmt: skip
    scene = film(wall, photo, camera(z=distance), last=2)
    return msgspec.structs.replace(scene, **fields)


def found_in(scene: wh.Scene, folder, kind: str, number: int = 0):
    return [each for each in check_scene(scene, folder)[number].findings if each.kind == kind]


def test_how_far_it_is_stretched_follows_from_both_distances(folder):
    """A pixel of it is 0.04 units wide on the wall, one of the film a thousandth of the distance."""
    (found,) = found_in(walled(10.0), folder, "stretched")
    assert found.worst == pytest.approx(4.0, rel=0.03)
    assert not found_in(walled(14.0), folder, "stretched")
    # A format of half the size shows every pixel half as large.
    half = walled(10.0, formats=(Format("Half", 800, 450),))
    assert not found_in(half, folder, "stretched", 1)


def test_how_much_it_misses_is_what_lies_around_it(folder):
    assert not found_in(walled(10.0), folder, "missing")
    (found,) = found_in(walled(12.0), folder, "missing")
    assert found.worst == pytest.approx(100.0 * (1.0 - 10.0**2 / 12.0**2), abs=1.5)


@pytest.mark.parametrize(
    ("kind", "distance", "labels"),
    [
        ("stretched", 10.0, {"Use a wider lens": 16.5, "Pull the camera back": 3.6}),
        ("missing", 12.0, {"Use a longer lens": 26.8, "Dolly in": 1.9}),
    ],
)  # fmt: skip
def test_what_a_fix_gives_passes_the_check(folder, kind, distance, labels):
    scene = walled(distance)
    (found,) = found_in(scene, folder, kind)
    assert fixes_for(scene, found) == []
    with looking(folder) as look:
        fixes = fixes_for(scene, found, look)
    said = {fix.undo.removesuffix(" for the photograph"): fix for fix in fixes}
    assert set(said) == set(labels)
    for undo, fix in said.items():
        amount = float(fix.label.replace(" mm", "").split()[-1])
        assert amount == pytest.approx(labels[undo], abs=0.6 if "lens" in fix.label else 0.25)
        assert not found_in(fix.scene, folder, kind)
