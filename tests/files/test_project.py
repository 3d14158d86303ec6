"""The project file: round trips, bad input, and saving whole or not at all."""

import contextlib
import json
import os
from typing import get_args

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

import wild_heron as wh
from wild_heron.demo import DEMO_SCENE
from wild_heron.files.artwork_files import missing_artwork
from wild_heron.files.errors import FileError
from wild_heron.files.project import decode, encode
from wild_heron.files.schema import DOCUMENT_PATH, SCHEMA_PATH, schema_text, with_table
from wild_heron.scene.nodes import AnyNode
from wild_heron.scene.validate import validate

names = st.text(min_size=1, max_size=12).filter(str.strip)
numbers = st.floats(-1e6, 1e6, allow_subnormal=False)
spans = st.one_of(
    st.builds(wh.Hold),
    st.builds(wh.Flow),
    st.builds(wh.Bezier, st.floats(0, 1), numbers.filter(lambda v: abs(v) < 99), st.floats(0, 1), st.floats(-9, 9)),
    st.builds(wh.Steps, st.integers(2, 50), st.sampled_from(["start", "end", "both", "none"])),
    st.builds(wh.Family, st.sampled_from(["sine", "elastic", "bounce"]), st.sampled_from(["in", "out", "in-out"])),
)


@st.composite
def scenes(draw) -> wh.Scene:
    scene = wh.Scene(name=draw(names), settings=wh.Settings(rate=draw(st.builds(wh.Rate, st.integers(1, 120)))))
    for k in range(draw(st.integers(0, 4))):
        carrier = draw(st.sampled_from([None, *(node.id for node in scene.nodes)]))
        kind = draw(st.sampled_from(["null", "picture", "camera"]))
        common = {"id": f"n{k}", "name": draw(names), "carrier": carrier}
        if kind == "null":
            node = wh.Null(**common)
        elif kind == "picture":
            node = wh.Picture(**common, artwork=wh.ImageFile("art/a b.png"), width=10, height=20)
        else:
            node = wh.Camera(**common, binds=draw(st.sampled_from([(), (wh.AimAt(),)])))
        scene = wh.edits.add_node(scene, node)
        for frame in draw(st.lists(st.integers(-50, 500), max_size=4, unique=True)):
            scene = wh.edits.set_key(scene, node.id, "position.x", float(frame), draw(numbers), draw(spans))
    return scene


@given(scenes())
def test_a_scene_comes_back_the_same(scene):
    assert decode(encode(scene)) == scene


def test_files_are_stable_and_readable(tmp_path, rig):
    path = tmp_path / "rig.heron"
    wh.save(rig, path)
    first = path.read_bytes()
    wh.save(wh.load(path), path)
    assert path.read_bytes() == first
    assert json.loads(first)["format"] == "wild-heron-scene"


def test_the_published_schema_is_the_one_of_the_structs():
    assert SCHEMA_PATH.read_text(encoding="utf-8") == schema_text()
    document = DOCUMENT_PATH.read_text(encoding="utf-8")
    assert with_table(document) == document
    assert "| `lag` | `delay` |" in document


def test_the_demo_is_valid_and_its_artwork_is_there():
    scene = wh.load(DEMO_SCENE)
    validate(scene)
    assert missing_artwork(scene, DEMO_SCENE.parent) == []
    assert {node.kind for node in scene.nodes} == {kind.kind for kind in get_args(AnyNode)}
    assert (scene.settings.width, scene.settings.height, scene.settings.frame_count) == (1920, 1080, 480)


@pytest.mark.parametrize("version", [1, 2, 3])
def test_an_older_file_is_read_and_becomes_this_version(rig, version):
    old = json.loads(encode(rig))
    old["version"] = version
    for node in old["scene"]["nodes"]:
        if node["kind"] == "picture" and version == 1:
            node["source"] = node.pop("artwork")["source"]
        if node["kind"] == "camera" and version < 3:
            (bind,) = node.pop("binds")
            node["aim"] = {"type": "node", "node": bind["targets"][0]}
    for film in ("shots", "rules", "events", "passes", "sounds", "beats"):
        del old["scene"][film]
    del old["scene"]["settings"]["light"]
    # It looks as it did.
    shown = replace(rig, settings=replace(rig.settings, light="display"))
    assert decode(json.dumps(old).encode()) == shown
    if version < 3:
        with pytest.raises(FileError, match=r"unknown field `(source|aim)`"):
            decode(json.dumps(old | {"version": 4}).encode())


def broken(rig: wh.Scene, old: str, new: str) -> bytes:
    text = encode(rig).decode()
    assert old in text
    return text.replace(old, new, 1).encode()


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"", "is empty"),
        (b"[1, 2]", "object"),
        (b'{"format": "something-else"}', r"\$\.format"),
        (b'{"format": "wild-heron-scene", "version": 99}', "newer Wild Heron"),
        (b'{"format": "wild-heron-scene", "version": 1}', "scene"),
        (b'{"format":\n  oops}', "line 2, column 3"),
        (b'{"format": "wild-heron-scene", "version": 1, "sce', "truncated"),
        (b"\xff\xfe", "line 1|UTF-8"),
        (b'{"a":' * 50_000, "nested too deeply"),
    ],
)
def test_a_bad_file_gets_one_line_with_the_place(data, said):
    with pytest.raises(FileError, match=said) as caught:
        decode(data, "bad.heron")
    assert str(caught.value).startswith("bad.heron: ")
    assert "\n" not in str(caught.value)


@pytest.mark.parametrize(
    ("old", "new", "said"),
    [
        ('"position.z"', '"position.q"', r"channels\[0\]\.name"),
        ('"frame": 48.0', '"frame": 1e999', "out of range"),
        ('"frame": 48.0', '"frame": NaN', "line"),
        ('"frame": 48.0', '"frame": 0.0', "in order of frame"),
        ('"carrier": "turn"', '"carrier": "ghost"', "no node “ghost”"),
        ('"id": "target"', '"id": "turn"', "two nodes"),
        ('"name": "Target"', '"name": "Target", "carrier": "cam"', "loop: "),
        ('"kind": "null"', '"kind": "script"', "kind"),
        ('"camera": "cam"', '"camera": "turn"', "no camera"),
        ('"name": "Turn"', '"name": "Turn", "exec": "rm"', "exec"),
        ('"width": 640', '"width": -4', "width"),
        ('"last": 48', '"last": -9', "last frame"),
    ],
)
def test_a_hostile_or_mended_file_names_the_place(rig, old, new, said):
    with pytest.raises(FileError, match=said):
        decode(broken(rig, old, new), "bad.heron")


@given(st.binary(max_size=200))
def test_no_bytes_do_worse_than_a_file_error(data):
    with pytest.raises(FileError):
        decode(data)


@given(st.integers(0, 2000), st.integers(0, 255))
def test_no_flipped_byte_does_worse_than_a_file_error(at, value):
    scene = wh.edits.add_node(wh.Scene(), wh.Camera(id="c", name="C"))
    data = bytearray(encode(wh.edits.set_key(scene, "c", "position.x", 1.0, 2.0)))
    data[at % len(data)] = value
    with contextlib.suppress(FileError):
        validate(decode(bytes(data)))


@pytest.mark.parametrize("what", ["missing", "folder", "pipe"])
def test_what_is_no_plain_file_is_refused_at_once(tmp_path, what):
    path = tmp_path / "x.heron"
    if what == "folder":
        path.mkdir()
    elif what == "pipe":
        os.mkfifo(path)
    with pytest.raises(FileError, match=r"x\.heron"):
        wh.load(path)


def test_a_scene_that_cannot_be_said_is_not_written(tmp_path, rig):
    path = tmp_path / "keep.heron"
    wh.save(rig, path)
    before = path.read_bytes()
    bad = msgspec.structs.replace(
        rig, nodes=(wh.Null(id="n", name="N", channels=(wh.Channel("position.x", float("nan")),)),)
    )
    with pytest.raises(wh.SceneError):
        wh.save(bad, path)
    assert path.read_bytes() == before


@pytest.mark.parametrize("broken_call", ["fsync", "replace", "fdopen"])
def test_a_save_that_fails_leaves_the_old_file_whole(tmp_path, rig, monkeypatch, broken_call):
    path = tmp_path / "keep.heron"
    wh.save(rig, path)
    before = path.read_bytes()

    def full(*_: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(os, broken_call, full)
    with pytest.raises(FileError, match="No space left"):
        wh.save(wh.Scene(name="new"), path)
    monkeypatch.undo()
    assert path.read_bytes() == before
    assert [each.name for each in tmp_path.iterdir()] == ["keep.heron"]
