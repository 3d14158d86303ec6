"""What needs a package that is not installed says so, in commands and in the reader; all else works without."""

import subprocess
import sys

import pytest

import wild_heron as wh

HIDE = """
import sys
class Hidden:
    def find_spec(self, name, path=None, target=None):
        if name.partition(".")[0] == {module!r}:
            raise ModuleNotFoundError(f"No module named {{name!r}}", name=name)
sys.meta_path.insert(0, Hidden())
from wild_heron.cli import run_command
run_command({arguments!r})
"""


def without(module: str, *arguments: object) -> subprocess.CompletedProcess[str]:
    script = HIDE.format(module=module, arguments=[str(each) for each in arguments])
    return subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, timeout=120, check=False)


@pytest.fixture
def scene(tmp_path):
    path = tmp_path / "scene.heron"
    wh.save(wh.Scene(settings=wh.Settings(last=3), nodes=(wh.Camera(id="c", name="Camera"),), camera="c"), path)
    return path


@pytest.mark.parametrize(
    ("module", "command", "target", "extra"),
    [
        ("pxr", "export", "move.usda", "wild_heron[usd]"),
        ("opentimelineio", "export", "film.otio", "wild_heron[timelines]"),
        ("OpenEXR", "render", "frame_####.exr", "wild_heron[exr]"),
    ],
)
def test_one_line_says_what_is_to_be_installed(scene, tmp_path, module, command, target, extra):
    done = without(module, command, scene, "-o", tmp_path / target)
    assert done.returncode == 2
    assert done.stderr.startswith("error: ")
    assert done.stderr.count("\n") == 1
    assert extra in done.stderr
    assert [path.name for path in tmp_path.iterdir()] == ["scene.heron"]


@pytest.mark.parametrize("module", ["pxr", "opentimelineio", "OpenEXR"])
def test_everything_else_works_without(scene, tmp_path, module):
    done = without(module, "export", scene, "-o", tmp_path / "move.glb")
    assert done.returncode == 0, done.stderr
    assert (tmp_path / "move.glb").exists()
    assert without(module, "check", scene).returncode in (0, 1)
