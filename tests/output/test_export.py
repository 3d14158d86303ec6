"""Movies and frames on disk, whole or not at all; and the command line."""

import errno
import os
import signal
import subprocess
import sys
from pathlib import Path

import av
import msgspec
import numpy as np
import pytest
from msgspec.structs import replace
from PIL import Image

import wild_heron as wh
from wild_heron.demo import DEMO_SCENE
from wild_heron.files.errors import FileError
from wild_heron.gl.request import FrameRequest, ThroughLens
from wild_heron.output import frame_files, movies
from wild_heron.output.job import ExportJob
from wild_heron.output.running import export
from wild_heron.output.several import export_each, jobs_for, path_for
from wild_heron.process.stream import FrameStream
from wild_heron.scene import Format

FRAMES = (0.0, 1.0, 2.0, 3.0)


@pytest.fixture
def saved(rig, art):
    path = art / "rig.heron"
    wh.save(wh.edits.set_value(rig, "card", "position.z", -1.0), path)
    return path


def job(folder, name: str = "out.mp4", **changes) -> ExportJob:
    fields = {"path": folder / name, "frames": FRAMES, "camera": "cam", "size": (64, 36)} | changes
    return ExportJob(**fields)


@pytest.mark.parametrize(("name", "codec"), [("out.mp4", "h264"), ("out.webm", "vp9")])
def test_a_movie_has_its_frames_rate_and_colours(saved, tmp_path, name, codec):
    out = tmp_path / "made"
    out.mkdir()
    assert export(wh.load(saved), saved.parent, job(out, name))
    with av.open(str(out / name)) as movie:
        stream = movie.streams.video[0]
        frames = [frame.to_ndarray(format="rgb24") for frame in movie.decode(stream)]
        assert (stream.codec_context.name.replace("lib", "")[:4], stream.average_rate) == (codec[:4], 24)
    assert len(frames) == 4
    assert frames[0][18, 32].astype(int) == pytest.approx([230, 30, 20], abs=14)
    assert [each.name for each in out.iterdir()] == [name]


def test_numbered_frames_are_the_renderers(saved, tmp_path):
    scene = wh.load(saved)
    assert export(scene, saved.parent, job(tmp_path, "f_####.png"))
    with FrameStream(
        scene, saved.parent, FrameRequest(0.0, ThroughLens("cam"), 64, 36, fine=True), processes=2
    ) as stream:
        for number, pixels in zip((0, 1, 2, 3), stream.frames(FRAMES), strict=True):
            with Image.open(tmp_path / f"f_{number:04d}.png") as image:
                assert (np.asarray(image) == pixels[..., :3]).all()


EVERY_KIND = ["out.mp4", "out.webm", "out.mkv", "out.webp", "out.gif", "f_##.png", "f_##.tif", "f_##.exr", "f_##.jpg",
              "f_##.webp"]  # fmt: skip


@pytest.mark.parametrize("name", EVERY_KIND)
def test_a_cancel_leaves_nothing(saved, tmp_path, name):
    out = tmp_path / "made"
    out.mkdir()
    assert export(wh.load(saved), saved.parent, job(out, name), cancelled=lambda: True) is False
    assert list(out.iterdir()) == []


@pytest.mark.parametrize("name", EVERY_KIND)
def test_a_full_disk_leaves_the_old_file_and_nothing_else(saved, tmp_path, monkeypatch, name):
    out = tmp_path / "made"
    out.mkdir()
    old = job(out, name).written()[0]
    old.write_bytes(b"the old one")

    def full(*_: object, **__: object) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(movies.MovieWriter, "add", full)
    monkeypatch.setattr(frame_files.Frames, "add", full)
    with pytest.raises(FileError, match="No space left"):
        export(wh.load(saved), saved.parent, job(out, name))
    assert [each.name for each in out.iterdir()] == [old.name]
    assert old.read_bytes() == b"the old one"


def test_a_process_that_is_killed_is_replaced_and_no_frame_is_lost(saved):
    scene = wh.load(saved)
    frames = [float(k) for k in range(12)]
    with FrameStream(scene, saved.parent, FrameRequest(0.0, ThroughLens("cam"), 64, 36)) as stream:
        whole = list(stream.frames(frames))
    with FrameStream(scene, saved.parent, FrameRequest(0.0, ThroughLens("cam"), 64, 36)) as stream:
        got = []
        for number, pixels in enumerate(stream.frames(frames)):
            got.append(pixels)
            if number == 2:
                os.kill(stream.clients[0].pid, signal.SIGKILL)
    assert len(got) == 12
    assert all((a == b).all() for a, b in zip(whole, got, strict=True))


@pytest.mark.parametrize(
    ("changes", "said"),
    [
        ({"name": "out.avi"}, "no kind"),
        ({"name": "frame.png"}, "no place for the frame number"),
        ({"name": "none/out.mp4"}, "not there"),
        ({"size": (63, 36)}, "even width"),
        ({"frames": ()}, "empty"),
        ({"size": (90_000, 2)}, "cannot be written"),
        ({"name": "f_#.png", "frames": (0.0, 0.2)}, "between whole frames"),
    ],
)
def test_a_job_that_cannot_be_done_says_so_first(tmp_path, changes, said):
    with pytest.raises((FileError, wh.SceneError), match=said):
        job(tmp_path, **changes).check()


# The command line


def heron(*arguments: object, cwd=None) -> subprocess.CompletedProcess[str]:
    command = [sys.executable, "-m", "wild_heron", *map(str, arguments)]
    return subprocess.run(command, capture_output=True, text=True, cwd=cwd, timeout=120)


def test_sample_gives_one_json_object_a_frame_and_node(saved):
    done = heron("sample", saved, "--nodes", "Card,Cam", "--frames", "0:1:0.5", "--size", "320x180", "--json")
    records = [msgspec.json.decode(line) for line in done.stdout.splitlines()]
    assert [(r["frame"], r["node"]) for r in records] == [(f, n) for f in (0.0, 0.5, 1.0) for n in ("Card", "Cam")]
    assert records[0]["pixel"] == pytest.approx([160.0, 90.0])
    assert len(records[0]["matrix"]) == 16
    assert records[1]["hfov_deg"] == pytest.approx(54.432, abs=1e-3)
    table = heron("sample", saved, "--frames", "3")
    assert len(table.stdout.splitlines()) == 1 + 4


def test_render_writes_a_movie_and_frames_in_a_format(tmp_path, saved):
    done = heron("render", saved, "-o", tmp_path / "m.mp4", "--frames", "0:5", "--size", "64x36", "--samples", "2")
    assert (done.returncode, done.stderr) == (0, "")
    with av.open(str(tmp_path / "m.mp4")) as movie:
        assert sum(1 for _ in movie.decode(video=0)) == 6
    shaped = msgspec.structs.replace(wh.load(saved), formats=(Format("Portrait 4:5", 1080, 1350),))
    wh.save(shaped, tmp_path / "shaped.heron")
    done = heron(
        "render", "shaped.heron", "-o", "d_###.png", "--frames", "7", "--format", "Portrait 4:5", "--size", "108x135",
        cwd=tmp_path,
    )  # fmt: skip
    assert (done.returncode, done.stderr) == (0, "")
    with Image.open(tmp_path / "d_007.png") as image:
        assert image.size == (108, 135)


def test_several_formats_go_to_files_with_their_names(tmp_path, saved):
    scene = wh.load(saved)
    shapes = (Format("Tall 9:16", 36, 64), Format("../Square", 40, 40))
    wh.save(msgspec.structs.replace(scene, formats=shapes), saved)
    done = heron("render", saved, "-o", "m_##.png", "--frames", "3", "--all-formats", "--allow-missing", cwd=tmp_path)
    assert (done.returncode, done.stderr) == (0, "")
    main = scene.formats_with_main()[0]
    sizes = {}
    for path in tmp_path.glob("m_*.png"):
        with Image.open(path) as image:
            sizes[path.name] = image.size
    wide = path_for(Path("m_##.png"), main.name).name.replace("##", "03")
    assert sizes == {wide: (main.width, main.height), "m_Tall-9x16_03.png": (36, 64), "m_Square_03.png": (40, 40)}
    done = heron("render", saved, "-o", "m.png", "--frames", "3", "--format", "Tall 9:16", cwd=tmp_path)
    assert done.returncode == 0
    assert (tmp_path / "m.png").is_file()
    done = heron("render", saved, "-o", "m.png", "--all-formats", "--size", "8x8", cwd=tmp_path)
    assert done.returncode == 2
    assert "in its own size" in done.stderr


def test_a_cancel_keeps_the_formats_that_were_written(saved, tmp_path):
    scene = msgspec.structs.replace(wh.load(saved), formats=(Format("One", 32, 32), Format("Two", 32, 32)))
    jobs = jobs_for(job(tmp_path, "m.mp4"), scene, scene.formats, lambda shape: (shape.width, shape.height))
    written = []
    for path in export_each(scene, saved.parent, jobs, cancelled=lambda: bool(written)):
        written.append(path.name)
    assert written == ["m_One.mp4"]
    assert [each.name for each in tmp_path.glob("m_*")] == ["m_One.mp4"]
    assert not list(tmp_path.glob(".*partial*"))
    twins = msgspec.structs.replace(scene, formats=(Format("A b", 32, 32), Format("A/b", 32, 32)))
    with pytest.raises(wh.SceneError, match="both be written"):
        jobs_for(job(tmp_path, "m.mp4"), twins, twins.formats, lambda shape: (32, 32))


@pytest.mark.parametrize(
    "arguments",
    [
        ("sample", "{bad}"),
        ("sample", "{none}"),
        ("sample", "{good}", "--frames", "x"),
        ("sample", "{good}", "--frames", "5:1"),
        ("sample", "{good}", "--nodes", "Ghost"),
        ("sample", "{good}", "--camera", "Card"),
        ("sample", "{good}", "--size", "wide"),
        ("render", "{good}"),
        ("render", "{good}", "-o", "x.mp4", "--samples", "0"),
        ("render", "{good}", "-o", "x.exr"),
        ("render", "{good}", "-o", "x.mp4", "--format", "Round"),
        ("render", "{empty}", "-o", "x.mp4"),
        ("render", "{good}", "-o", "x_#.png", "--depth", "12"),
        ("render", "{good}", "-o", "x.mp4", "--quality", "200"),
        ("render", "{good}", "-o", "x.mp4", "--transparent"),
        ("render", "{good}", "-o", "x.mp4", "--workers", "0"),
        ("export", "{good}", "-o", "x.abc"),
        ("export", "{good}", "-o", "x.glb", "--nodes", "Ghost"),
        ("export", "{empty}", "-o", "x.otio"),
        ("gather", "{bad}", "-o", "x"),
        ("job", "{good}", "-o", "x", "--name", "film.avi"),
        ("job", "{good}", "-o", "x", "--chunk", "0"),
        ("task", "paint", "{bad}", "--scene", "{good}", "--output", "x"),
        ("sample", "{good}", "--what"),
    ],
)
def test_bad_input_gets_one_line_and_status_2(saved, tmp_path, arguments):
    (tmp_path / "bad.heron").write_text('{"format": "wild-heron-scene", "version": 1, "scene": {"nodes": 5}}')
    wh.save(wh.Scene(), tmp_path / "empty.heron")
    files = {
        "good": saved,
        "bad": tmp_path / "bad.heron",
        "none": tmp_path / "none.heron",
        "empty": tmp_path / "empty.heron",
    }
    done = heron(*(each.format(**files) for each in arguments), cwd=tmp_path)
    assert done.returncode == 2
    assert done.stdout == ""
    assert done.stderr.startswith("error: ")
    assert len(done.stderr.strip().splitlines()) == 1
    assert not list(tmp_path.glob("x*"))


def test_the_move_the_scene_and_the_job_go_out(saved, tmp_path):
    for name in ("move.glb", "move.usda", "move.usdz", "film.otio", "move.csv", "scene.json"):
        done = heron("export", saved, "-o", tmp_path / name, "--frames", "0:4", "--quiet")
        assert (done.returncode, done.stderr) == (0, "")
        assert (tmp_path / name).stat().st_size > 100
    assert "Binds are baked" in heron("export", saved, "-o", tmp_path / "b.glb", "--frames", "0").stderr
    done = heron("gather", saved, "-o", tmp_path / "handed.zip")
    assert (done.returncode, done.stdout.strip()) == (0, str(tmp_path / "handed.zip"))
    done = heron("job", saved, "-o", tmp_path / "job", "--frames", "0:5", "--size", "64x36", "--chunk", "4")
    assert done.returncode == 0
    order = tmp_path / "job" / "order.json"
    scene = next((tmp_path / "job" / "scene").glob("*.heron"))
    for what in (("draw", "--chunk", "2"), ("draw", "--chunk", "1"), ("join",)):
        done = heron("task", what[0], order, "--scene", scene, "--output", tmp_path / "out", *what[1:])
        assert done.returncode == 0, done.stderr
    assert [each.name for each in (tmp_path / "out").iterdir()] == ["film.mp4"]


def test_cameras_and_cuts_come_in(saved, tmp_path):
    out = tmp_path / "other" / "new.heron"
    out.parent.mkdir()
    assert heron("export", saved, "-o", tmp_path / "move.usda", "--frames", "0:24", "--quiet").returncode == 0
    done = heron("bring", saved, tmp_path / "move.usda", "-o", out)
    assert (done.returncode, done.stdout.strip()) == (0, str(out))
    before, after = wh.load(saved), wh.load(out)
    assert len(after.nodes) == len(before.nodes) + 1
    assert after.nodes[-1].channel("position.x") is not None
    # What the scene shows is found from its new place.
    sources = [node.file for node in after.nodes if node.file]
    assert sources
    assert all((out.parent / source).is_file() for source in sources)
    cut = replace(after, shots=(wh.Shot("A", after.nodes[-1].id), wh.Shot("B", after.camera, 10.0)))
    wh.save(cut, out)
    assert heron("export", out, "-o", tmp_path / "film.otio", "--quiet").returncode == 0
    done = heron("bring", saved, tmp_path / "film.otio", "-o", saved)
    assert "2 shots came in" in done.stderr
    assert [shot.name for shot in wh.load(saved).shots] == ["A", "B"]
    for wrong, words in (("x.fbx", "use one of"), ("none.usda", "none.usda")):
        done = heron("bring", saved, tmp_path / wrong, "-o", out)
        assert done.returncode == 2
        assert words in done.stderr
    assert "no name of a scene" in heron("bring", saved, tmp_path / "move.usda", "-o", tmp_path / "x.txt").stderr


def test_what_was_broken_off_goes_on_from_the_command_line(saved, tmp_path):
    arguments = ("render", saved, "-o", tmp_path / "f_##.exr", "--size", "64x36", "--passes", "--resume")
    assert heron(*arguments, "--frames", "0:2").returncode == 0
    early = {path.name: path.stat().st_mtime_ns for path in tmp_path.glob("f_*.exr")}
    assert heron(*arguments, "--frames", "0:4", "--workers", "2").returncode == 0
    now = {path.name: path.stat().st_mtime_ns for path in tmp_path.glob("f_*.exr")}
    assert len(now) == 5
    assert early.items() <= now.items()


def test_demo_says_where_it_is():
    assert heron("demo", "--where").stdout.strip() == str(DEMO_SCENE)
    assert "Wild Heron" in heron("--version").stdout
