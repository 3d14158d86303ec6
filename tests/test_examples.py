"""The shipped scenes: that nothing is wrong with them, and that they are what the scripts make."""

import importlib
import sys
from pathlib import Path

import pytest

import wild_heron as wh
from wild_heron.demo import DEMO_SCENE, EXAMPLES
from wild_heron.files.artwork_files import files_of, missing_artwork
from wild_heron.lessons import lessons
from wild_heron.process.checking import check_scene

SMALL = [each for each in EXAMPLES if each.scene != DEMO_SCENE]
MOST_BYTES = 1_500_000


@pytest.mark.parametrize("example", SMALL, ids=lambda each: each.scene.stem)
def test_an_example_is_ten_seconds_and_small(example):
    scene = wh.load(example.scene)
    assert scene.settings.frame_count / scene.settings.rate.fps == pytest.approx(10.0)
    files = files_of(scene, example.scene.parent)
    assert example.scene.stat().st_size + sum(path.stat().st_size for path in files) < MOST_BYTES
    assert not missing_artwork(scene, example.scene.parent)
    assert example.picture.exists()


@pytest.mark.parametrize("example", SMALL, ids=lambda each: each.scene.stem)
def test_its_checks_find_nothing_in_any_format(example):
    scene = wh.load(example.scene)
    for each in check_scene(scene, example.scene.parent, every=24):
        assert [finding.title for finding in each.findings] == []


@pytest.mark.parametrize("name", sorted({each.scene for each in lessons().values()}))
def test_a_lessons_scene_is_there_with_its_artwork(name):
    path = DEMO_SCENE.with_name(name)
    assert not missing_artwork(wh.load(path), path.parent)


def test_the_scripts_make_what_ships(tmp_path, monkeypatch):
    monkeypatch.syspath_prepend(str(Path(__file__).parent.parent / "tools"))
    for name in [each for each in sys.modules if each == "demo" or each.startswith("demo.")]:
        monkeypatch.delitem(sys.modules, name)
    made = importlib.import_module("demo.lessons").scenes()
    for name, scene in made.items():
        shipped = wh.load(DEMO_SCENE.with_name(f"{name}.heron"))
        assert [node.id for node in shipped.nodes] == [node.id for node in scene.nodes]
        assert shipped.shots == scene.shots
