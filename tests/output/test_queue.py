"""Outputs one after another, bundles for many machines, and scenes gathered for handing over."""

import contextlib
import json
import os
import random
import signal
import sqlite3
import subprocess
import sys
import time
import zipfile
from dataclasses import replace
from pathlib import Path

import msgspec
import pytest
from openjd.model import create_job, decode_job_template, preprocess_job_parameters
from PIL import Image

import wild_heron as wh
from wild_heron.files.errors import FileError
from wild_heron.files.gathering import gathered, write_gathered
from wild_heron.files.permission import Permission
from wild_heron.files.reader import Reader
from wild_heron.output.bundle import Bundle, job_template, piece, read_bundle, write_bundle
from wild_heron.output.job import ExportJob
from wild_heron.output.queue import working
from wild_heron.output.queue.order import Order, Run, order_of, runs_of
from wild_heron.output.queue.store import QueueList, QueueStore
from wild_heron.output.queue.working import QueueWorker
from wild_heron.output.running import export

SIZE = (64, 36)


@pytest.fixture
def scene(tmp_path) -> wh.Scene:
    """A moving card whose picture lies outside of the scene's folder."""
    (tmp_path / "elsewhere").mkdir()
    (tmp_path / "work").mkdir()
    Image.new("RGB", (40, 20), (230, 30, 20)).save(tmp_path / "elsewhere" / "card.png")
    camera = wh.Camera(id="cam", name="Cam", channels=(wh.Channel("position.z", 10.0),))
    card = wh.Picture(id="card", name="Card", artwork=wh.ImageFile("../elsewhere/card.png"), width=200, height=100)
    made = wh.Scene(name="Fair", settings=wh.Settings(width=64, height=36, last=20), nodes=(camera, card), camera="cam")
    for frame, x in ((0.0, -1.0), (20.0, 1.0)):
        made = wh.edits.set_key(made, "card", "position.x", frame, x)
    return made


def job(folder: Path, name: str = "film.mp4", count: int = 10, **changes) -> ExportJob:
    frames = tuple(float(k) for k in range(count))
    allowed = (str(folder.parent / "elsewhere"),)
    return ExportJob(**({"path": folder / name, "frames": frames, "camera": "cam", "size": SIZE, "fine": False,
                         "allowed": allowed} | changes))  # fmt: skip


@pytest.fixture
def out(tmp_path) -> Path:
    (tmp_path / "out").mkdir()
    return tmp_path / "out"


def test_an_order_is_the_job_as_a_file_holds_it(out):
    wanted = job(
        out, "f_####.exr", frames=(1.0, 2.0, 3.0, 8.0, 10.0, 12.0, 12.5), passes=True, depth="float", samples=8
    )
    order = msgspec.json.decode(msgspec.json.encode(order_of(wanted)), type=Order)
    assert order.job() == wanted
    assert runs_of((1.0, 2.0, 3.0, 8.0, 10.0)) == (Run(1.0, 3, 1.0), Run(8.0, 2, 2.0))
    with pytest.raises(wh.SceneError, match="preview"):
        order_of(replace(wanted, around=1.2))


def finished(store: QueueStore, worker: QueueWorker, seconds: float = 60.0) -> list:
    """Work until nothing is left to do."""
    worker.start()
    until = time.monotonic() + seconds
    while any(each.is_open for each in store.read().jobs):
        assert time.monotonic() < until
        worker.wake.wait(0.05)
    worker.close()
    return list(store.read().jobs)


def test_jobs_are_made_one_after_another_of_the_scene_as_it_was(scene, out, tmp_path):
    store = QueueStore(tmp_path / "queue")
    base = tmp_path / "work"
    store.add(scene, base, [job(out), job(out, "f_##.png")])
    # What becomes of the scene afterwards is no matter.
    export(scene, base, job(tmp_path, "direct.mp4", allowed=job(out).allowed))
    done = finished(store, QueueWorker(store))
    assert [each.state for each in done] == ["done", "done"]
    assert done[0].size == (out / "film.mp4").stat().st_size
    assert (out / "film.mp4").read_bytes() == (tmp_path / "direct.mp4").read_bytes()
    assert len(list(out.glob("f_*.png"))) == 10


def test_a_job_that_fails_is_told_and_the_next_one_is_made(scene, out, tmp_path):
    store = QueueStore(tmp_path / "queue")
    (tmp_path / "gone").mkdir()
    store.add(scene, tmp_path / "work", [job(tmp_path / "gone"), job(out)])
    (tmp_path / "gone").rmdir()
    first, second = finished(store, QueueWorker(store))
    assert (first.state, second.state) == ("failed", "done")
    assert "folder that is not there" in first.message
    (tmp_path / "gone").mkdir()
    store.retry(first.id)
    assert finished(store, QueueWorker(store))[0].state == "done"


def test_jobs_are_moved_cancelled_and_removed(scene, out, tmp_path):
    store = QueueStore(tmp_path / "queue")
    a, b, c = store.add(scene, tmp_path / "work", [job(out, f"{name}.mp4") for name in "abc"])
    store.move(c.id, -2)
    assert [each.path.stem for each in store.read().jobs] == ["c", "a", "b"]
    QueueWorker(store).cancel(a.id)
    assert [each.state for each in store.read().jobs] == ["waiting", "cancelled", "waiting"]
    store.remove([a.id, b.id])
    assert [each.path.stem for each in store.read().jobs] == ["c"]
    assert store.scene(c) == scene
    with pytest.raises(FileError, match="Add the job again"):
        store.scene(a)


def test_a_paused_queue_goes_on_where_it_stopped(scene, out, tmp_path, monkeypatch):
    monkeypatch.setattr(working, "TELL_SECONDS", 0.0)
    monkeypatch.setattr(working, "LOOK_SECONDS", 0.0)
    store = QueueStore(tmp_path / "queue")
    (only,) = store.add(scene, tmp_path / "work", [job(out, "f_##.png", 60)])
    worker = QueueWorker(store)
    drawn = []

    def told() -> None:
        if len(list(out.glob("f_*.png"))) >= 3 and not drawn:
            drawn.append(True)
            store.pause(True)

    worker.told = told
    worker.start()
    until = time.monotonic() + 60
    while not drawn or worker.is_working:
        assert time.monotonic() < until
        worker.wake.wait(0.05)
    worker.close()
    early = {path: path.stat().st_mtime_ns for path in out.glob("f_*.png")}
    assert 3 <= len(early) < 60
    assert store.read().jobs[0].state == "waiting"
    store.pause(False)
    assert finished(store, QueueWorker(store))[0].state == "done"
    assert all(path.stat().st_mtime_ns == stamp for path, stamp in early.items())
    assert len(list(out.glob("f_*.png"))) == 60
    assert only.id == store.read().jobs[0].id


def test_two_windows_share_a_queue_and_one_works_on_it(scene, tmp_path):
    store = QueueStore(tmp_path / "queue")
    with store.working() as mine, QueueStore(tmp_path / "queue").working() as theirs:
        assert (mine, theirs) == (True, False)
    with QueueStore(tmp_path / "queue").working() as theirs:
        assert theirs


@pytest.mark.parametrize("broken", [b"{" * 5000, b"SQLite format 3\0" + bytes(4000)])
def test_a_broken_list_is_put_aside(tmp_path, broken):
    store = QueueStore(tmp_path / "queue")
    store.pause(True)
    (store.folder / "queue.sqlite").write_bytes(broken)
    assert store.read().jobs == ()
    assert len(list(store.folder.glob("queue.broken-*"))) == 1
    store.pause(True)
    assert store.read().paused


def test_a_job_that_cannot_be_read_puts_the_list_aside(scene, out, tmp_path):
    store = QueueStore(tmp_path / "queue")
    store.add(scene, tmp_path / "work", [job(out, "a.mp4")])
    with contextlib.closing(sqlite3.connect(store.folder / "queue.sqlite")) as database, database:
        database.execute("UPDATE jobs SET job = 'none'")
    assert store.read().jobs == ()
    assert len(list(store.folder.glob("queue.broken-*"))) == 1
    assert len(store.add(scene, tmp_path / "work", [job(out, "b.mp4")])) == 1
    assert [each.path.name for each in store.read().jobs] == ["b.mp4"]


def test_the_list_is_read_while_another_changes_it(scene, out, tmp_path):
    store = QueueStore(tmp_path / "queue")
    known = store.add(scene, tmp_path / "work", [job(out, "a.mp4")])
    with contextlib.closing(sqlite3.connect(store.folder / "queue.sqlite", isolation_level=None)) as other:
        other.execute("BEGIN IMMEDIATE")
        other.execute("DELETE FROM jobs")
        assert store.read().jobs == known


def test_a_list_of_before_is_taken_over(scene, out, tmp_path):
    """It was a file of JSON, with a scene beside it for each job."""
    store = QueueStore(tmp_path / "queue")
    known = store.add(scene, tmp_path / "work", [job(out, "a.mp4"), job(out, "b.mp4")])
    older = QueueStore(tmp_path / "older")
    older.folder.mkdir()
    (older.folder / "queue.json").write_bytes(msgspec.json.encode(QueueList(known)))
    for each in known:
        wh.save(scene, older.folder / f"{each.id}.heron")
    assert older.read().jobs == known
    assert older.scene(known[1]) == scene
    assert older.read().jobs == known


def test_a_full_disk_leaves_the_list_as_it_was(scene, out, tmp_path, monkeypatch):
    store = QueueStore(tmp_path / "queue")
    known = store.add(scene, tmp_path / "work", [job(out, "a.mp4")])
    connect = sqlite3.connect

    def small(*args: object, **more: object) -> sqlite3.Connection:
        database = connect(*args, **more)
        (pages,) = database.execute("PRAGMA page_count").fetchone()
        database.execute(f"PRAGMA max_page_count = {pages}")
        return database

    monkeypatch.setattr(sqlite3, "connect", small)
    with pytest.raises(FileError, match=r"full.*Make room there"):
        store.add(
            msgspec.structs.replace(scene, name="N" * 150), tmp_path / "work", [job(out, f"{k}.mp4") for k in range(40)]
        )
    assert store.read().jobs == known


WORK = """
import sys
from pathlib import Path
from wild_heron.output.queue.store import QueueList, QueueStore
from wild_heron.output.queue.working import QueueWorker
worker = QueueWorker(QueueStore(Path(sys.argv[1])))
worker.start()
worker._thread.join()
"""


@pytest.mark.parametrize("name", ["f_##.png", "film.mp4"])
def test_a_killed_program_loses_no_job_and_leaves_nothing_half(scene, out, tmp_path, name):
    store = QueueStore(tmp_path / "queue")
    wanted = job(out, name, 60)
    store.add(scene, tmp_path / "work", [wanted])
    process = subprocess.Popen([sys.executable, "-c", WORK, str(store.folder)])
    pattern = "f_*.png" if "#" in name else ".film.mp4.pieces/piece_*.mkv"
    until = time.monotonic() + 60
    while not list(out.glob(pattern)):
        assert time.monotonic() < until
        os.waitid(os.P_PID, process.pid, os.WEXITED | os.WNOHANG | os.WNOWAIT)
    process.send_signal(signal.SIGKILL)
    process.wait()
    assert not (out / "film.mp4").exists()
    for path in out.glob("f_*.png"):
        with Image.open(path) as image:
            image.load()
    assert store.read().jobs[0].state in ("running", "waiting")
    assert finished(store, QueueWorker(store))[0].state == "done"
    assert [path for path in out.iterdir() if "partial" in path.name or "pieces" in path.name] == []
    assert all(path.is_file() for path in wanted.written())


# Bundles


def runner(template: Path, *arguments: str) -> subprocess.CompletedProcess[str]:
    environment = os.environ | {"PATH": f"{Path(sys.executable).parent}{os.pathsep}{os.environ['PATH']}"}
    command = [sys.executable, "-m", "openjd", "run", str(template), *arguments]
    return subprocess.run(command, capture_output=True, text=True, env=environment, timeout=300)


def test_a_bundle_runs_in_any_order_and_is_the_movie_made_directly(scene, out, tmp_path):
    folder = tmp_path / "bundle"
    assert write_bundle(scene, tmp_path / "work", job(out), folder, 4) == ()
    export(scene, tmp_path / "work", job(out))
    # As it is on another machine: elsewhere, and without what it was made of.
    moved = tmp_path / "other machine"
    folder.rename(moved)
    (tmp_path / "elsewhere" / "card.png").unlink()
    everything = (
        b"".join(path.read_bytes() for path in moved.rglob("*.json")) + (moved / "scene" / "fair.heron").read_bytes()
    )
    assert str(tmp_path).encode() not in everything
    tasks = [{"Chunk": number} for number in (3, 1, 2)]
    random.Random(1).shuffle(tasks)
    # One that fails: its place is taken by a file.
    blocked = moved / "output" / "film_pieces"
    blocked.parent.mkdir()
    blocked.write_text("in the way")
    failed = runner(moved / "template.json", "--step", "Draw", "--tasks", json.dumps(tasks[:1]))
    assert failed.returncode != 0
    blocked.unlink()
    again = runner(moved / "template.json", "--step", "Draw", "--tasks", json.dumps(tasks))
    assert again.returncode == 0, again.stdout
    joined = runner(moved / "template.json", "--step", "Join", "--no-run-dependencies")
    assert joined.returncode == 0, joined.stdout
    assert (moved / "output" / "film.mp4").read_bytes() == (out / "film.mp4").read_bytes()
    assert [path.name for path in (moved / "output").iterdir()] == ["film.mp4"]


@pytest.mark.parametrize("name", ["Fair {{Param.Order}}", "{{{x}}}", "a\tb\n", "\u2028", "x" * 300, "{{", "   "])
def test_a_bundle_is_sound_whatever_its_scene_is_called(name):
    order = order_of(ExportJob(Path("f_####.png"), (0.0, 1.0), None, (64, 36)))
    template = job_template(name, Bundle(1, order, 4), "scene.heron")
    decoded = decode_job_template(template=template)
    here = {"job_template_dir": Path.cwd(), "current_working_dir": Path.cwd(), "allow_job_template_dir_walk_up": True}
    values = preprocess_job_parameters(job_template=decoded, job_parameter_values={}, **here)
    # What is to be filled in is filled in here, and would be missing in a name.
    made = create_job(job_template=decoded, job_parameter_values=values)
    assert made.name == template["name"]


def test_a_bundle_of_frames_ends_with_a_look_whether_they_are_there(scene, out, tmp_path):
    folder = tmp_path / "bundle"
    write_bundle(scene, tmp_path / "work", job(out, "f_##.png", 6), folder, 4)
    short = runner(folder / "template.json", "--step", "Draw", "-tp", "Chunk=1")
    assert short.returncode == 0, short.stdout
    assert "f_04.png: is missing" in runner(folder / "template.json", "--step", "Join", "--no-run-dependencies").stdout
    whole = runner(folder / "template.json", "--step", "Join", "--run-dependencies")
    assert whole.returncode == 0, whole.stdout
    assert len(list((folder / "output").glob("f_*.png"))) == 6


def test_a_hostile_order_writes_nowhere_else(scene, out, tmp_path):
    folder = tmp_path / "bundle"
    write_bundle(scene, tmp_path / "work", job(out), folder)
    bundle = read_bundle(folder / "order.json")
    assert piece(bundle, Path("o"), 2) == Path("o/film_pieces/piece_00002.mkv")
    told = json.loads((folder / "order.json").read_text())
    for path in ("/etc/film.mp4", "../film.mp4"):
        told["order"]["path"] = path
        (folder / "order.json").write_text(json.dumps(told))
        with pytest.raises(FileError, match="outside of its folder"):
            read_bundle(folder / "order.json")
    assert "dependsOn" in json.dumps(job_template("x", bundle, "x.heron"))


# Gathering


@pytest.mark.parametrize("name", ["handed", "handed.zip"])
def test_a_gathered_scene_stands_by_itself(scene, tmp_path, name):
    with Reader(1, Permission((str(tmp_path),))) as reader:
        found = gathered(scene, tmp_path / "work", reader)
    assert found.missing == ()
    where = write_gathered(found, tmp_path / name)
    if name.endswith("zip"):
        with zipfile.ZipFile(where) as packed:
            packed.extractall(tmp_path / "out of it")
        where = tmp_path / "out of it" / "handed" / "fair.heron"
    back = wh.load(where)
    assert back.node("card").artwork.source == "artwork/card.png"
    with Image.open(where.parent / "artwork" / "card.png") as image:
        assert image.size == (40, 20)
    with pytest.raises(FileError, match="there already"):
        write_gathered(found, tmp_path / name)


def test_what_is_missing_is_told_and_names_that_are_alike_stay_apart(scene, tmp_path):
    (tmp_path / "third").mkdir()
    Image.new("RGB", (8, 8)).save(tmp_path / "third" / "card.png")
    more = wh.Picture(
        id="more", name="More", artwork=wh.ImageFile(str(tmp_path / "third" / "card.png")), width=8, height=8
    )
    gone = wh.Picture(id="gone", name="Gone", artwork=wh.ImageFile("gone.png"), width=8, height=8)
    both = wh.edits.add_node(wh.edits.add_node(scene, more), gone)
    with Reader(1, Permission((str(tmp_path),))) as reader:
        found = gathered(both, tmp_path / "work", reader)
    assert found.missing == (tmp_path / "work" / "gone.png",)
    assert sorted(found.files) == ["artwork-2/card.png", "artwork/card.png"]
    assert found.scene.node("gone").artwork.source == "gone.png"


def test_a_model_brings_what_lies_beside_it(tmp_path):
    told = {
        "asset": {"version": "2.0"},
        "buffers": [{"uri": "shape.bin", "byteLength": 4}],
        "images": [{"uri": "skin/a%20b.png"}, {"uri": "../../secret"}, {"uri": "data:image/png;base64,AA"}],
    }
    (tmp_path / "far" / "skin").mkdir(parents=True)
    (tmp_path / "far" / "thing.gltf").write_text(json.dumps(told))
    (tmp_path / "far" / "shape.bin").write_bytes(b"1234")
    (tmp_path / "far" / "skin" / "a b.png").write_bytes(b"5")
    model = wh.Model(id="m", name="M", shape=wh.ModelFile(str(tmp_path / "far" / "thing.gltf")))
    with Reader(1, Permission((str(tmp_path),))) as reader:
        found = gathered(wh.Scene(nodes=(model,)), None, reader)
    assert sorted(found.files) == ["artwork/shape.bin", "artwork/skin/a b.png", "artwork/thing.gltf"]
