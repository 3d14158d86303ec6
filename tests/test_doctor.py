"""What is said of a machine that lacks something: by the doctor, by commands, and by the window."""

import json
import os
import subprocess
import sys

import moderngl
import pytest

import wild_heron as wh
from wild_heron.gl.opening import NoOpenGL, open_context
from wild_heron.integration.libraries import about, libraries, missing


def heron(*arguments: object, **environment: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, "-m", "wild_heron.launch", *map(str, arguments)], capture_output=True, text=True, timeout=120,
        env=os.environ | environment, check=False,
    )  # fmt: skip


def facts(done: subprocess.CompletedProcess[str]) -> dict[str, dict[str, object]]:
    return {each["name"]: each for each in json.loads(done.stdout)["facts"]}


@pytest.fixture
def without(tmp_path):
    """A folder of libraries that are none, which are found first."""

    def make(*names: str) -> str:
        for name in names:
            (tmp_path / name).write_text("no library")
        return str(tmp_path)

    return make


def test_a_machine_that_has_everything_is_well():
    done = heron("doctor", "--json")
    told = facts(done)
    assert done.returncode == 0, done.stdout
    assert told["All of them"]["found"] == "found"
    assert told["OpenGL"]["fine"]
    assert {"numpy", "PyQt6", "Memory", "Families", "MP4 movie, H.264"} <= set(told)
    spoken = heron("doctor")
    assert spoken.returncode == 0
    assert spoken.stdout.rstrip().endswith("Everything is here.")
    assert str(told["OpenGL"]["found"]) in spoken.stdout


def test_without_egl_the_doctor_and_a_render_name_the_packages(without, tmp_path):
    lacking = without("libEGL.so.1", "libEGL.so", "libGL.so.1", "libGL.so")
    done = heron("doctor", "--json", LD_LIBRARY_PATH=lacking, DISPLAY="")
    told = facts(done)
    assert done.returncode == 1
    assert "libegl1" in told["libEGL.so.1"]["found"]
    assert not told["OpenGL"]["fine"]
    assert "libegl1" in told["OpenGL"]["found"]
    scene = tmp_path / "scene.heron"
    wh.save(wh.Scene(nodes=(wh.Camera(id="c", name="Camera"),), camera="c"), scene)
    drawn = heron("render", scene, "-o", tmp_path / "a.png", "--frames", "0", LD_LIBRARY_PATH=lacking, DISPLAY="")
    assert drawn.returncode == 2
    assert drawn.stderr.startswith("error: ")
    assert drawn.stderr.count("\n") == 1
    assert "mesa-libEGL" in drawn.stderr
    assert not (tmp_path / "a.png").exists()


@pytest.mark.skipif(not os.environ.get("DISPLAY"), reason="needs a screen")
@pytest.mark.parametrize("name", ["libxcb-cursor.so.0", "libxkbcommon-x11.so.0", "libxcb-icccm.so.4"])
def test_without_what_a_window_needs_it_ends_in_a_line(without, name):
    done = heron("demo", LD_LIBRARY_PATH=without(name), WAYLAND_DISPLAY="", QT_QPA_PLATFORM="xcb")
    assert done.returncode == 2
    assert done.stderr.startswith("error: ")
    assert done.stderr.count("\n") == 1
    assert name in done.stderr
    assert "Traceback" not in done.stderr


def test_an_import_that_fails_for_want_of_a_library_names_its_packages():
    said = about(ImportError("libdbus-1.so.3: cannot open shared object file: No such file or directory"))
    assert said is not None
    assert "libdbus-1-3" in said
    assert "dbus-libs" in said
    unknown = about(ImportError("libsomething.so.7: cannot open shared object file"))
    assert unknown is not None
    assert "libsomething.so.7" in unknown
    assert about(ImportError("No module named x")) is None
    assert missing(libraries()) is None


@pytest.mark.parametrize("works", [0, 2, 5])
def test_every_way_to_opengl_is_tried(monkeypatch, works):
    tried = []

    def create(**how):
        tried.append(how)
        if len(tried) <= works:
            raise RuntimeError("(standalone) XOpenDisplay: cannot open display")
        return "a context"

    monkeypatch.setattr(moderngl, "create_context", create)
    context, _ = open_context()
    assert context == "a context"
    assert [how.get("device_index") for how in tried] == [None, *range(works)]


def test_where_no_way_works_it_says_what_was_tried(monkeypatch):
    monkeypatch.setenv("DISPLAY", ":9")
    ways = []

    def create(**how):
        ways.append(how.get("backend"))
        raise RuntimeError("no such driver")

    monkeypatch.setattr(moderngl, "create_context", create)
    with pytest.raises(NoOpenGL, match=r"Install a graphics driver.*EGL: no such driver.*GLX: no such driver"):
        open_context()
    assert ways[0] == "egl"
    assert ways[-1] is None
