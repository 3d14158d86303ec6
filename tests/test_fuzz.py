"""A short run of the attacks in tools/fuzzing; ``make fuzz`` runs long ones."""

import pytest

from fuzzing.artworks import Armoury, fuzz_artworks, write_originals
from fuzzing.everything import everything
from fuzzing.scenes import attack, fuzz_scenes

SEED = 20261126


def test_hostile_scenes_are_refused_or_worked_out():
    tally, failures = fuzz_scenes(400, SEED)
    assert failures == []
    assert min(tally.get(each, 0) for each in ("refused", "sound")) > 0


def test_the_scene_of_everything_is_sound():
    import json

    assert attack(json.dumps(everything()).encode()) == "sound"


def test_broken_artwork_is_refused_or_read(tmp_path):
    write_originals(tmp_path)
    tally, failures = fuzz_artworks(220, SEED, tmp_path)
    assert failures == []
    assert min(tally.get(each, 0) for each in ("refused", "read")) > 0


@pytest.fixture(scope="module")
def armoury(tmp_path_factory):
    return Armoury(tmp_path_factory.mktemp("bombs"))


@pytest.mark.parametrize(
    "wanted",
    [
        "nested-250-probe arc-probe huge-probe unlimited-probe copies-probe itself-probe entities-probe",
        "entity-file-probe link-34-probe link-39-probe link-apostrophe-probe link-inner-probe use-file-probe",
        "postscript megapixels long text packed bomb deep",
        "zeros sparse chain loop animation outside0 outside1 outside3 number",
        "playlist concat sdp sound window data quote",
        "pipe zero folder",
    ],
    ids=["drawings", "links", "packed", "models", "movies", "places"],
)
def test_bombs_do_not_go_off(armoury, wanted):
    names = [each.name for each in armoury.bombs if each.name.partition(".")[0] in wanted.split()]
    tally, failures = armoury.set_off(names)
    assert failures == []
    assert sum(tally.values()) == len(names) >= len(wanted.split())
