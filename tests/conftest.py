"""Shared scenes, and a home of its own for every run."""

import atexit
import os
import subprocess
import tempfile

# Before anything reads them: settings and autosaves of a test run stay in a folder of their own.
_home = tempfile.mkdtemp(prefix="wild-heron-tests-")
os.environ["XDG_CONFIG_HOME"] = os.path.join(_home, "config")
os.environ["XDG_DATA_HOME"] = os.path.join(_home, "data")
os.environ["XDG_STATE_HOME"] = os.path.join(_home, "state")
os.environ["XDG_CACHE_HOME"] = os.path.join(_home, "cache")

# Tests that run beside each other do so on screens of their own: one takes neither focus nor clipboard from another.
if "PYTEST_XDIST_WORKER" in os.environ and os.environ.get("DISPLAY"):
    _told, _tell = os.pipe()
    _screen = subprocess.Popen(
        ["Xvfb", "-displayfd", str(_tell), "-screen", "0", "1600x1000x24", "-nolisten", "tcp"],
        pass_fds=[_tell], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
    )  # fmt: skip
    atexit.register(_screen.kill)
    os.close(_tell)
    with os.fdopen(_told) as _line:
        _number = _line.readline().strip()
    if not _number:
        raise RuntimeError("Xvfb, the virtual screen, did not start. Install it, or run with -n 0 on your own screen.")
    os.environ.update(DISPLAY=f":{_number}", QT_QPA_PLATFORM="xcb")
    os.environ.pop("WAYLAND_DISPLAY", None)

import builtins  # noqa: E402
import sys  # noqa: E402
import threading  # noqa: E402

# Every process that is started compiles what it imports where nothing compiled is kept.
os.environ.pop("PYTHONDONTWRITEBYTECODE", None)
sys.dont_write_bytecode = False
# What the software renderer compiles is kept from run to run.
os.environ.setdefault("MESA_SHADER_CACHE_DIR", os.path.join(tempfile.gettempdir(), f"wild-heron-shaders-{os.getuid()}"))
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
# Runs beside each other draw on one processor each.
os.environ.setdefault("LP_NUM_THREADS", "1")

import numpy as np  # noqa: E402
import pytest  # noqa: E402
from hypothesis import settings  # noqa: E402
from PIL import Image  # noqa: E402

import wild_heron as wh  # noqa: E402
from wild_heron import helper_process  # noqa: E402

from .forked_helpers import FORKED, Server  # noqa: E402

_start_module, _server = helper_process.start_module, Server()


def _start(module, *arguments, **how):
    start = _server.start if module in FORKED else _start_module
    return start(module, *arguments, **how)


# Before anything that starts them is loaded.
helper_process.start_module = _start
from wild_heron.files.reader import Reader  # noqa: E402

settings.register_profile("suite", deadline=None, max_examples=40)
settings.load_profile("suite")


_import = builtins.__import__
_strayed: list[str] = []


def _import_where_it_belongs(name, globals=None, locals=None, fromlist=(), level=0):
    """Qt lives in the window's thread alone: what is loaded of it elsewhere crashes the program now and then."""
    if threading.current_thread() is not threading.main_thread() and name.partition(".")[0] == "PyQt6" and level == 0:
        _strayed.append(f"{name} in the thread “{threading.current_thread().name}”")
    return _import(name, globals, locals, fromlist, level)


builtins.__import__ = _import_where_it_belongs


class _Watch:
    """The same, for what imports by name rather than by a statement."""

    def find_spec(self, name, path=None, target=None):
        if threading.current_thread() is not threading.main_thread() and name.partition(".")[0] == "PyQt6":
            _strayed.append(f"{name} in the thread “{threading.current_thread().name}”")


sys.meta_path.insert(0, _Watch())


@pytest.fixture(autouse=True)
def qt_stays_in_its_thread():
    yield
    strayed, _strayed[:] = list(_strayed), []
    assert not strayed, f"Qt was imported outside the window's thread: {', '.join(strayed)}"


@pytest.fixture(scope="session")
def reader():
    """A reader process that may read everything."""
    with Reader() as out:
        yield out


@pytest.fixture
def rig() -> wh.Scene:
    """A camera on a turning null, aimed at a target, before a picture."""
    scene = wh.Scene(settings=wh.Settings(width=640, height=360, last=48))
    scene = wh.edits.add_node(scene, wh.Null(id="turn", name="Turn"))
    scene = wh.edits.add_node(scene, wh.Null(id="target", name="Target"))
    scene = wh.edits.add_node(scene, wh.Camera(id="cam", name="Cam", carrier="turn", binds=(wh.AimAt(("target",)),)))
    scene = wh.edits.set_value(scene, "cam", "position.z", 10.0)
    scene = wh.edits.set_key(scene, "turn", "rotation.y", 0.0, 0.0, wh.Linear())
    scene = wh.edits.set_key(scene, "turn", "rotation.y", 48.0, 90.0)
    return wh.edits.add_node(
        scene, wh.Picture(id="card", name="Card", artwork=wh.ImageFile("card.png"), width=200, height=100)
    )


@pytest.fixture
def art(tmp_path):
    """A folder with a red card and a half-transparent blue one."""
    red = np.zeros((100, 200, 4), np.uint8)
    red[...] = (230, 30, 20, 255)
    Image.fromarray(red).save(tmp_path / "card.png")
    blue = np.zeros((100, 200, 4), np.uint8)
    blue[...] = (20, 60, 240, 128)
    Image.fromarray(blue).save(tmp_path / "glass.png")
    return tmp_path
