"""What the program is to the desktop: checked by the desktop's own tools, put in place and taken away."""

import ast
import importlib
import os
import re
import shutil
import subprocess
import sys
from importlib.util import find_spec
from pathlib import Path

import pytest
import typer

import wild_heron as wh
from wild_heron import __version__
from wild_heron.cli import app
from wild_heron.files.artwork_files import files_of
from wild_heron.files.formats import ICON
from wild_heron.integration.place import HERE, ID, PLACES, put, remove

ROOT = Path(__file__).parent.parent


def run(*command: object, **environment: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [str(each) for each in command], capture_output=True, text=True, env={**os.environ, **environment}, check=False
    )


def heron(*arguments: object, **environment: str) -> subprocess.CompletedProcess[str]:
    return run(sys.executable, "-m", "wild_heron", *arguments, **environment)


def test_the_desktops_own_tools_find_nothing_wrong():
    entry = run("desktop-file-validate", HERE / f"{ID}.desktop")
    assert (entry.returncode, entry.stdout) == (0, "")
    told = run("appstreamcli", "validate", "--no-net", HERE / f"{ID}.metainfo.xml")
    assert told.returncode == 0, told.stdout
    manual = run("man", "--warnings", "-l", HERE / "wild-heron.1", LC_ALL="C", MANWIDTH="100")
    assert (manual.returncode, manual.stderr) == (0, "")
    assert f'<release version="{__version__}"' in (HERE / f"{ID}.metainfo.xml").read_text()
    assert f"Wild Heron {__version__}" in (HERE / "wild-heron.1").read_text()


def test_a_scene_is_known_by_its_name_and_by_what_it_starts_with(tmp_path):
    put(tmp_path)
    assert run("update-mime-database", tmp_path / "mime").returncode == 0
    assert "50:application/x-wild-heron-scene:*.heron" in (tmp_path / "mime" / "globs2").read_text()
    magic = (tmp_path / "mime" / "magic").read_bytes()
    start = (ROOT / "src/wild_heron/demo/lantern-fair.heron").read_bytes()[:80]
    said = re.search(rb'"format": "wild-heron-scene"', magic)
    assert said is not None
    assert said[0] in start[: 32 + len(said[0])]


@pytest.mark.parametrize("shell", ["bash", "zsh", "fish"])
def test_manual_and_completion_know_every_command_and_option(shell):
    written = heron("completion", shell).stdout
    manual = (HERE / "wild-heron.1").read_text().replace("\\", "")
    for name, command in typer.main.get_command(app).commands.items():
        if command.hidden:
            continue
        assert re.search(rf"\b{name}\b", written), name
        assert f".B wild-heron {name}" in manual, name
        for parameter in command.params:
            for option in (each for each in parameter.opts if each.startswith("--")):
                there = option if shell != "fish" else f"-l {option[2:]}"
                assert there in written, (name, option)
                assert option in manual, (name, option)


def test_the_bash_completion_completes(tmp_path):
    (tmp_path / "fair.heron").touch()
    (tmp_path / "fair.txt").touch()
    script = f"source {HERE / 'wild-heron.bash'}; COMP_WORDS=($1); COMP_CWORD=$2; _wild_heron; echo ${{COMPREPLY[@]}}"
    complete = lambda words, at: subprocess.run(  # noqa: E731
        ["bash", "-c", script, "-", words, str(at)], capture_output=True, text=True, cwd=tmp_path, check=True
    ).stdout.split()
    assert complete("wild-heron re", 1) == ["render"]
    assert complete("wild-heron render fa", 2) == ["fair.heron"]
    assert complete("wild-heron render fair.heron --no", 3) == ["--no-clobber"]


def test_it_is_put_in_place_for_a_user_and_taken_away(tmp_path):
    share = tmp_path / "my share"
    (share / "applications").mkdir(parents=True)
    (share / "applications" / "other.desktop").write_text("[Desktop Entry]\n")
    done = heron("integrate", XDG_DATA_HOME=str(share))
    assert done.returncode == 0, done.stderr
    assert sorted(done.stdout.split("\n")[:-1]) == sorted(str(share / place) for place in PLACES.values())
    for place in PLACES.values():
        assert (share / place).is_file()
    again = heron("integrate", XDG_DATA_HOME=str(share))
    assert again.returncode == 0
    gone = heron("integrate", "--remove", XDG_DATA_HOME=str(share))
    assert gone.returncode == 0
    assert not any((share / place).exists() for place in PLACES.values())
    assert (share / "applications" / "other.desktop").exists()
    assert "nothing to remove" in heron("integrate", "--remove", XDG_DATA_HOME=str(share)).stdout


def test_the_entry_starts_the_program_that_put_it_there(tmp_path):
    own = tmp_path / "a place" / "wild-heron"
    own.parent.mkdir()
    put(tmp_path, str(own))
    entry = tmp_path / "applications" / f"{ID}.desktop"
    assert f'Exec="{own}" %F\n' in entry.read_text()
    assert run("desktop-file-validate", entry).stdout == ""
    remove(tmp_path)


def test_what_cannot_be_written_is_named(tmp_path):
    (tmp_path / "applications").write_text("in the way")
    done = heron("integrate", XDG_DATA_HOME=str(tmp_path))
    assert done.returncode == 2
    assert done.stderr.startswith("error: ")
    assert str(tmp_path / "applications") in done.stderr
    assert done.stderr.count("\n") == 1


def test_make_install_puts_it_below_prefix_and_destdir(tmp_path):
    place = HERE / "place.py"
    done = run(sys.executable, "-I", place, "--prefix", "/usr", "--destdir", tmp_path)
    assert done.returncode == 0, done.stderr
    for each in PLACES.values():
        assert (tmp_path / "usr" / "share" / each).is_file()
    assert "Exec=wild-heron %F" in (tmp_path / "usr" / "share" / "applications" / f"{ID}.desktop").read_text()
    assert run(sys.executable, "-I", place, "--prefix", "/usr", "--destdir", tmp_path, "--remove").returncode == 0
    assert not [path for path in tmp_path.rglob("*") if path.is_file()]


def test_the_demo_is_copied_with_its_artwork_and_nothing_is_written_over(tmp_path):
    folder = tmp_path / "fair"
    done = heron("demo", "--copy", folder)
    assert done.returncode == 0, done.stderr
    copied = Path(done.stdout.strip())
    assert copied.parent == folder
    files = files_of(wh.load(copied), folder)
    assert len(files) > 15
    assert all(path.is_file() and path.is_relative_to(folder) for path in files)
    before = copied.read_bytes()
    again = heron("demo", "--copy", folder)
    assert again.returncode == 2
    assert "is there already" in again.stderr
    assert copied.read_bytes() == before


def test_the_core_works_without_qt_and_the_window_says_what_it_lacks(tmp_path):
    # As if it were not installed.
    (tmp_path / "sitecustomize.py").write_text(
        "import importlib.util, sys\n"
        "sys.modules['PyQt6'] = None\n"
        "find = importlib.util.find_spec\n"
        "importlib.util.find_spec = lambda name, *a: None if name == 'PyQt6' else find(name, *a)\n"
    )
    scene = heron("demo", "--where").stdout.strip()
    sampled = heron("sample", scene, "--nodes", "Emblem", "--frames", "0", PYTHONPATH=str(tmp_path))
    assert sampled.returncode == 0, sampled.stderr
    window = heron(PYTHONPATH=str(tmp_path))
    assert window.returncode == 2
    assert window.stderr.startswith("error: the window needs PyQt6")


def test_a_crash_of_the_process_leaves_its_trace(tmp_path):
    code = "from wild_heron.log import start_log; start_log(); import os; os.kill(os.getpid(), 11)"
    ended = run(sys.executable, "-c", code, XDG_STATE_HOME=str(tmp_path))
    assert ended.returncode == -11
    assert "Segmentation fault" in (tmp_path / "wild-heron" / "crashes.log").read_text()


def test_the_source_package_is_complete(tmp_path):
    """Built from a copy, as a packager does it: all that the tests and the set-up need is in it."""
    kept = subprocess.run(["git", "ls-files"], cwd=ROOT, capture_output=True, text=True, check=False).stdout.split("\n")
    if not any(kept):
        pytest.skip("not a checkout: there is nothing to compare with")
    copy = tmp_path / "copy"
    for name in filter(None, kept):
        if (ROOT / name).is_file():
            (copy / name).parent.mkdir(parents=True, exist_ok=True)
            shutil.copyfile(ROOT / name, copy / name)
    code = "import setuptools.build_meta as b; print(b.build_sdist('..'))"
    built = subprocess.run([sys.executable, "-c", code], cwd=copy, capture_output=True, text=True, check=False)
    assert built.returncode == 0, built.stderr
    shutil.unpack_archive(next(tmp_path.glob("*.tar.gz")), tmp_path / "out", filter="data")
    (inside,) = (tmp_path / "out").iterdir()
    missing = [name for name in filter(None, kept) if (ROOT / name).is_file() and not (inside / name).exists()]
    assert missing == [".gitignore"] or missing == []


def test_the_icon_is_drawn_for_all_sizes():
    text = ICON.read_text()
    assert 'viewBox="0 0 128 128"' in text
    assert "clipPath" not in text  # What draws icons on desktops knows the small profile alone.
    assert "href" not in text


def test_the_program_goes_by_the_name_of_its_entry():
    from wild_heron import integration

    assert integration.ID == ID


@pytest.fixture
def archive(tmp_path):
    """The set-up's list with two tools that are nowhere, beside an archive that has one of them and refuses the other:
    it is written down what it is asked for."""
    folder = tmp_path / "bin"
    folder.mkdir()
    asked = tmp_path / "asked"
    (folder / "apt-get").write_text(
        f"""#!/bin/bash
echo "$*" >> {asked}
[[ " $* " == *" refused-package "* ]] && exit 100
[[ " $* " == *" fine-package "* ]] && ln -s /bin/true {folder}/fine-tool
exit 0
"""
    )
    (folder / "id").write_text("#!/bin/bash\necho 0\n")
    for each in ("apt-get", "id"):
        (folder / each).chmod(0o755)
    script = tmp_path / "tools" / "system-packages"
    script.parent.mkdir()
    script.write_text((ROOT / "tools" / "system-packages").read_text())
    listed = "src/wild_heron/integration/libraries.txt"
    (tmp_path / listed).parent.mkdir(parents=True)
    more = "refused-tool refused-package one two\nfine-tool fine-package three four\n"
    (tmp_path / listed).write_text((ROOT / listed).read_text() + more)
    environment = os.environ | {"PATH": f"{folder}{os.pathsep}{os.environ['PATH']}"}

    def run() -> tuple[subprocess.CompletedProcess[str], list[str]]:
        done = subprocess.run(["bash", script], env=environment, capture_output=True, text=True, timeout=60)
        return done, asked.read_text().splitlines() if asked.exists() else []

    return run


def test_what_the_archive_refuses_is_named_and_the_rest_is_there(archive):
    done, asked = archive()
    assert done.returncode == 1
    assert "Could not be installed: refused-tool" in done.stdout
    assert "sudo apt-get install refused-package\n" in done.stdout
    assert not any("libegl1" in each for each in asked)
    # The second time only what is still missing is asked for.
    done, again = archive()
    assert [each for each in again[len(asked) :] if "fine-package" in each] == []


def test_the_tools_take_from_the_program_what_is_there():
    """What measures and pictures it is run by hand: nothing else would tell that a name went elsewhere."""
    missing = []
    for path in sorted((ROOT / "tools").rglob("*.py")):
        for each in ast.walk(ast.parse(path.read_text())):
            if isinstance(each, ast.ImportFrom) and each.level == 0 and (each.module or "").startswith("wild_heron"):
                module = importlib.import_module(each.module)
                for name in each.names:
                    if not hasattr(module, name.name) and find_spec(f"{each.module}.{name.name}") is None:
                        missing.append(f"{path.name}: {each.module}.{name.name}")
    assert missing == []
