"""Markers: in order, one to a frame, named, moved, kept by the file and by a change of rate."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

import wild_heron as wh
from wild_heron.edits import change_rate, marker_at, move_marker, neighbouring_markers, remove_marker, set_marker
from wild_heron.files.errors import FileError
from wild_heron.files.project import decode, encode
from wild_heron.scene import Rate


@given(st.lists(st.integers(-50, 300), max_size=20))
def test_markers_stay_in_order_one_to_a_frame_with_names_of_their_own(frames):
    scene = wh.Scene()
    for frame in frames:
        scene = set_marker(scene, frame)
    assert [each.frame for each in scene.markers] == sorted(set(map(float, frames)))
    assert len({each.name for each in scene.markers}) == len(scene.markers)
    assert decode(encode(scene)) == scene
    for frame in set(frames):
        scene = remove_marker(scene, frame)
    assert scene == wh.Scene()


def test_a_marker_keeps_its_name_when_it_moves_and_takes_the_place_of_one_it_lands_on():
    scene = set_marker(set_marker(wh.Scene(), 24, "beat"), 48, "drop")
    moved = move_marker(scene, 24, 48)
    assert [(each.frame, each.name) for each in moved.markers] == [(48.0, "beat")]
    with pytest.raises(wh.SceneError, match="no marker at frame 30"):
        move_marker(scene, 30, 31)
    assert neighbouring_markers(scene, 24) == (None, 48.0)
    assert neighbouring_markers(scene, 30) == (24.0, 48.0)
    assert marker_at(scene, 24.0000001).name == "beat"


def test_markers_keep_their_second_when_the_rate_changes():
    scene = set_marker(wh.Scene(settings=wh.Settings(rate=Rate(24, 1))), 24, "beat")
    assert change_rate(scene, Rate(50, 1), "seconds").markers[0].frame == 50.0
    assert change_rate(scene, Rate(50, 1), "frames").markers[0].frame == 24.0


def test_markers_out_of_order_in_a_file_are_named():
    data = encode(set_marker(set_marker(wh.Scene(), 1, "a"), 2, "b")).replace(b'"frame": 2.0', b'"frame": 0.5')
    with pytest.raises(FileError, match=r"markers\[1\]"):
        decode(data)
