"""Moves on disk: open, whole, and as safe from a stranger as a scene."""

import json

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

import wild_heron as wh
from wild_heron.edits import moves
from wild_heron.files import project
from wild_heron.files.errors import FileError
from wild_heron.files.move_files import (
    SHIPPED_FOLDER,
    decode_move,
    encode_move,
    file_for,
    load_move,
    save_move,
    shipped_moves,
    user_moves,
)
from wild_heron.scene import SceneError

PUSH = shipped_moves()[0].move
DATA = encode_move(PUSH)


def changed(**fields) -> bytes:
    told = json.loads(DATA)
    told["move"] |= fields
    return json.dumps(told).encode()


@pytest.mark.parametrize("kept", shipped_moves(), ids=lambda kept: kept.path.stem)
def test_a_move_is_read_as_it_was_written(kept, tmp_path):
    save_move(kept.move, tmp_path / "again.move")
    assert load_move(tmp_path / "again.move") == kept.move
    assert (tmp_path / "again.move").read_bytes() == kept.path.read_bytes()


@given(st.integers(0, len(DATA)), st.binary(max_size=6), st.integers(0, 40))
def test_a_damaged_file_ends_in_a_sentence(at, put_in, gone):
    damaged = DATA[:at] + put_in + DATA[at + gone :]
    try:
        decode_move(damaged, "theirs.move")
    except FileError as problem:
        told = str(problem)
    else:
        return
    assert told.startswith("theirs.move: ")
    assert "\n" not in told


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "broken"),
        (b'{"format": "wild-heron-scene"}', "is not a move"),
        (json.dumps(json.loads(DATA) | {"version": 2}).encode(), "newer Wild Heron"),
        (changed(frames=0.0), "frames"),
        (changed(surprise=1), "surprise"),
        (changed(camera="elsewhere"), "names no camera"),
        (changed(nodes=[{"kind": "picture", "id": "p", "name": "P", "width": 1, "height": 1,
                         "artwork": {"type": "image", "source": "/etc/passwd"}}]), "picture"),
        (changed(nodes=[{"kind": "camera", "id": "camera", "name": "C", "channels": [
            {"name": "position.x", "formula": "frame"}]}]), "has a formula"),
        (changed(nodes=[{"kind": "camera", "id": "camera", "name": "C", "carrier": "subject"}]), "say along"),
        (changed(nodes=[{"kind": "camera", "id": "camera", "name": "C", "channels": [
            {"name": "position.x", "keys": [{"frame": 4, "value": 0}, {"frame": 2, "value": 0}]}]}]), "not in order"),
    ],
)  # fmt: skip
def test_what_is_wrong_is_told(data, words):
    with pytest.raises(FileError, match=words):
        decode_move(data, "theirs.move")


@pytest.mark.parametrize("name", ["../../etc/passwd", "/abs", "..", "", "a/b\\c", "Zoom: *?", "ü" * 300, "\0"])
def test_no_name_leaves_the_folder(name, tmp_path):
    path = file_for(name, tmp_path)
    assert path.parent == tmp_path
    path.write_text("")
    assert file_for(name, tmp_path) != path


def test_the_users_own_come_by_name_and_what_is_wrong_is_told(tmp_path):
    for name in ("b move", "A move"):
        save_move(replace(PUSH, name=name), file_for(name, tmp_path))
    (tmp_path / "bad.move").write_text("{")
    (tmp_path / "folder.move").mkdir()
    found, problems = user_moves(tmp_path)
    assert [kept.move.name for kept in found] == ["A move", "b move"]
    assert {problem.path.name for problem in problems} == {"bad.move", "folder.move"}
    assert user_moves(tmp_path / "nowhere") == ((), ())
    assert SHIPPED_FOLDER.is_dir()


def test_a_scene_keeps_moves():
    scene = moves.keep_in_scene(wh.Scene(), PUSH)
    scene = moves.keep_in_scene(moves.keep_in_scene(scene, replace(PUSH, name="Mine")), PUSH)
    assert [move.name for move in scene.moves] == ["Mine", "Push in"]
    assert project.decode(project.encode(scene)) == scene
    assert moves.take_from_scene(scene, "Mine").moves == (PUSH,)
    twice = msgspec.structs.replace(scene, moves=(PUSH, PUSH))
    with pytest.raises(SceneError, match="two moves have one name"):
        project.encode(twice)
