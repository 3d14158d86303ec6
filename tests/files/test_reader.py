"""The reader process: what it may do, how it ends, and who may read what."""

import inspect
import os
import signal
import subprocess
import sys
import threading
import time
from importlib import import_module
from typing import get_args

import msgspec
import numpy as np
import pytest
from PIL import Image

import wild_heron as wh
from wild_heron.files.errors import FileError
from wild_heron.files.permission import Permission, allow, allowed_folders, for_scene
from wild_heron.files.reader import Cancelled, Reader, messages
from wild_heron.files.reader.packing import pack, unpack
from wild_heron.files.reader.worker import DECODERS

from .direct import read_model, read_picture
from .layered_files import animated, glb


def test_what_comes_through_the_door_is_what_is_in_the_file(reader, art, tmp_path):
    assert (reader.picture(art / "glass.png", 4096) == read_picture(art / "glass.png")).all()
    path = tmp_path / "toy.glb"
    path.write_bytes(glb(*animated("rotation", np.eye(4)[:2], "LINEAR", np.array([0.0, 1.0]))))
    node = wh.Model(id="m", name="M", shape=wh.ModelFile("toy.glb"))
    through, direct = reader.solid(node, path), read_model(path)
    assert len(through.parts) == len(direct.parts)
    for ours, theirs in zip(through.parts, direct.parts, strict=True):
        assert ours.material == theirs.material
        for a, b in zip(ours.mesh, theirs.mesh, strict=True):
            assert a.dtype == b.dtype
            assert (a == b).all()
    assert (through.contents.poses("Swing", 0.3) == direct.poses("Swing", 0.3)).all()


def inside(code: str) -> subprocess.CompletedProcess[str]:
    """Run code in a process that gave its rights up as the reader does."""
    head = "from wild_heron.files.reader.confine import *\nlimit_resources()\nheld = confine()\n"
    return subprocess.run([sys.executable, "-c", head + code], capture_output=True, text=True, check=False)


@pytest.mark.parametrize(
    "code",
    [
        "import subprocess; subprocess.run(['/bin/true'])",
        "import os; os.system('true')",
        "import os; os.execv('/bin/true', ['true'])",
        "import os; os.fork()",
        "import socket; socket.create_connection(('127.0.0.1', 9))",
        "bytearray(3_000_000_000)",
    ],
)
def test_a_reader_starts_nothing_talks_to_nobody_and_stays_small(code):
    done = inside(code)
    assert done.returncode != 0
    assert "PermissionError" in done.stderr or "MemoryError" in done.stderr


def test_a_reader_opens_no_file_of_the_users_and_writes_none(tmp_path):
    (tmp_path / "secret.txt").write_text("mine")
    if "True" not in inside("print(held)").stdout:
        pytest.skip("this kernel has no Landlock")
    # Beneath Python too, where its own hooks are not asked.
    code = f"import ctypes; print(ctypes.CDLL(None).open({str(tmp_path / 'secret.txt')!r}.encode(), 0))"
    assert inside(code).stdout == "-1\n"
    made = f"import ctypes; print(ctypes.CDLL(None).open({str(tmp_path / 'new.txt')!r}.encode(), 0o101, 0o600))"
    assert inside(made).stdout == "-1\n"
    assert not (tmp_path / "new.txt").exists()
    ran = "import ctypes; print(ctypes.CDLL(None).execv(b'/bin/true', (ctypes.c_char_p * 2)(b'true', None)))"
    assert inside(ran).stdout == "-1\n"


@pytest.fixture
def slow(tmp_path):
    """Outlines that take longer than anyone would wait for."""
    points = " ".join(f"{k % 997},{k % 787}" for k in range(200_000))
    line = f'<polyline stroke="red" fill="none" points="{points}"/>'
    path = tmp_path / "slow.svg"
    path.write_text(f'<svg xmlns="http://www.w3.org/2000/svg" width="900" height="900">{line}</svg>')
    return path


def test_one_that_breaks_down_is_said_and_the_next_file_is_read(art, slow):
    with Reader() as reader:
        reader.warm_up()
        pid = reader._processes[0].process.pid
        # While it is at work.
        threading.Timer(1.5, os.kill, (pid, signal.SIGSEGV)).start()
        with pytest.raises(FileError, match=r"slow\.svg.*broke down"):
            reader.logo_size(slow)
        assert reader.probe(art / "card.png").width == 200


def test_what_takes_too_long_is_ended_and_named(art, slow):
    with Reader() as reader:
        with pytest.raises(FileError, match=r"slow\.svg.*takes too long"):
            reader.logo_size(slow)
        assert reader.probe(art / "card.png").height == 100


def test_a_job_is_given_up_at_once(slow):
    asked = []
    with Reader() as reader, pytest.raises(Cancelled):
        reader.logo_size(slow, lambda: bool(asked.append(1)) or len(asked) > 3)
    assert len(asked) == 4


def test_several_threads_share_the_processes(art):
    with Reader(2) as reader:
        found: list[int] = []
        jobs = [threading.Thread(target=lambda: found.append(reader.probe(art / "card.png").width)) for _ in range(12)]
        for job in jobs:
            job.start()
        for job in jobs:
            job.join()
        assert found == [200] * 12


def test_a_reader_ends_with_its_program():
    code = (
        "import pathlib, sys, os\nfrom wild_heron.files.reader import Reader\n"
        "reader = Reader(); reader.warm_up(); print(reader._processes[0].process.pid, flush=True); os._exit(0)"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    pid = int(done.stdout)
    deadline = time.monotonic() + 20
    while time.monotonic() < deadline:
        try:
            os.kill(pid, 0)
        except ProcessLookupError:
            return
    raise AssertionError("the reader lives on")


@pytest.mark.parametrize("result", [[1, "two", None], {"a": np.arange(5.0)}, np.zeros((0, 3), np.float32)])
def test_results_survive_packing(result):
    import mmap

    handle, size = pack(result, 10**6)
    with mmap.mmap(handle, size) as memory:
        kind = type(result) if not isinstance(result, dict) else dict
        back = unpack(memory, size, kind)
        if isinstance(result, dict):
            assert (back["a"] == result["a"]).all()
        elif isinstance(result, np.ndarray):
            assert back.shape == result.shape
        else:
            assert back == result
        del back
    os.close(handle)
    with pytest.raises(MemoryError):
        pack(np.zeros(1000), 100)


# Who may read what


@pytest.fixture
def house(tmp_path):
    """A scene's folder with a file below it, one beside it, and links both ways."""
    for name in ("scene/art/in.png", "outside/out.png"):
        (tmp_path / name).parent.mkdir(parents=True)
        Image.new("RGB", (4, 4)).save(tmp_path / name)
    (tmp_path / "scene/art/leak.png").symlink_to(tmp_path / "outside/out.png")
    (tmp_path / "scene/up").symlink_to(tmp_path / "outside")
    return tmp_path


def test_only_the_scenes_own_folder_is_read_unless_another_is_allowed(house):
    scene = house / "scene"
    own = for_scene(scene, ())
    assert own.allows(scene / "art/in.png")
    for other in ("art/leak.png", "up/out.png", "../outside/out.png", "art/../../outside/out.png"):
        assert not own.allows(scene / other)
    assert not own.allows(house / "outside/out.png")
    assert not own.allows(house / "scene-2/in.png")
    wide = for_scene(scene, (str(house / "outside"),))
    assert wide.allows(scene / "art/leak.png")
    assert wide.allows(scene / "../outside/out.png")
    # An allowed folder's own files, not those below it.
    assert not for_scene(None, (str(house),)).allows(scene / "art/in.png")
    with Reader(permission=own) as reader, pytest.raises(FileError, match="outside the scene's folder"):
        reader.probe(scene / "art/leak.png")


def test_a_choice_allows_the_folder_and_where_its_links_lead(house, tmp_path):
    kept = tmp_path / "allowed.json"
    allow([house / "scene/art/leak.png"], kept)
    assert set(allowed_folders(kept)) == {str(house / "scene/art"), str(house / "outside")}
    assert allow([house / "scene/art/in.png"], kept) == allowed_folders(kept)
    kept.write_text("{broken")
    assert allowed_folders(kept) == ()


def test_a_model_reads_what_lies_beside_it_and_nothing_else(house, reader):
    import json

    for name, uri in (("leak", "art/leak.png"), ("up", "up/out.png")):
        gltf = {
            "asset": {"version": "2.0"}, "nodes": [{"mesh": 0}], "buffers": [{"byteLength": 9, "uri": uri}],
            "meshes": [{"primitives": [{"attributes": {"POSITION": 0}}]}],
            "accessors": [{"componentType": 5126, "type": "VEC3", "count": 1, "bufferView": 0}],
            "bufferViews": [{"buffer": 0, "byteLength": 9}],
        }  # fmt: skip
        (house / f"scene/{name}.gltf").write_text(json.dumps(gltf))
        with pytest.raises(FileError, match="outside the scene's folder"):
            reader.model(house / f"scene/{name}.gltf")
    assert Permission().allows(house / "anything")


@pytest.mark.parametrize("kind", get_args(messages.Job), ids=lambda kind: kind.__name__)
def test_every_job_has_a_decoder_that_takes_its_fields(kind):
    """They are named by text, since they are loaded when they are first wanted."""
    if kind in (messages.ProbeMovie, messages.ReadFrame):
        return  # A movie goes on where it was.
    module, name = DECODERS[kind]
    takes = inspect.signature(getattr(import_module(f"wild_heron.files.decode.{module}"), name)).parameters
    fields = {each.name for each in msgspec.structs.fields(kind)}
    assert fields | ({"file"} & set(takes)) <= set(takes)
    needed = {each.name for each in takes.values() if each.default is each.empty}
    assert needed <= fields | {"file"}
    assert kind in messages.RESULTS
