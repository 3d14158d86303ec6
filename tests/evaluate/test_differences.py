"""An edit changes the picture exactly where it does."""

import numpy as np
import pytest
from msgspec.structs import replace

import wild_heron as wh
from wild_heron.evaluate.differences import changed_frames

FRAMES = np.arange(0.0, 49.0)


@pytest.mark.parametrize(
    ("edit", "first", "last"),
    [
        (lambda s: wh.edits.rename(s, "card", "Sign"), None, None),
        (lambda s: wh.edits.change_node(s, "card", colour="#ff0000", locked=True), None, None),
        (lambda s: wh.edits.set_key(s, "turn", "rotation.y", 60.0, 0.0), None, None),
        (lambda s: wh.edits.set_key(s, "turn", "rotation.y", 24.0, 50.0), 1, 47),
        (lambda s: wh.edits.set_value(s, "card", "opacity", 0.5), 0, 48),
        (lambda s: wh.edits.change_node(s, "card", hidden=True), 0, 48),
        (lambda s: wh.edits.set_value(s, "target", "position.x", 1.0), 0, 48),
        (lambda s: wh.edits.set_value(s, "cam", "lens.focal", 50.0), 0, 48),
        (lambda s: wh.edits.remove_nodes(s, ["card"]), 0, 48),
        (lambda s: replace(s, settings=replace(s.settings, background="#102030")), 0, 48),
    ],
)
def test_only_frames_that_look_different_are_told(rig, edit, first, last):
    rig = wh.edits.set_key(rig, "turn", "rotation.y", 48.0, 90.0, wh.Hold())
    changed = changed_frames(rig, edit(rig), FRAMES)
    if first is None:
        assert not changed.any()
    else:
        assert np.flatnonzero(changed).tolist() == list(range(first, last + 1))


def test_the_same_scene_does_not_differ(rig):
    assert not changed_frames(rig, rig, FRAMES).any()
