"""A short run of the attacks in tools/fuzzing; ``make fuzz`` runs long ones."""

import os
import subprocess
import sys

import pytest

from fuzzing.artworks import Armoury, fuzz_artworks, write_originals
from fuzzing.commands import fuzz_commands, hostile_folder
from fuzzing.everything import everything
from fuzzing.scenes import attack, fuzz_scenes

SEED = 20261126


def test_hostile_scenes_are_refused_or_worked_out():
    tally, failures = fuzz_scenes(70, SEED)
    assert failures == []
    assert min(tally.get(each, 0) for each in ("refused", "sound")) > 0


def test_the_scene_of_everything_is_sound():
    import json

    assert attack(json.dumps(everything()).encode()) == "sound"


def test_broken_artwork_is_refused_or_read(tmp_path):
    write_originals(tmp_path)
    tally, failures = fuzz_artworks(120, SEED, tmp_path)
    assert failures == []
    assert min(tally.get(each, 0) for each in ("refused", "read")) > 0


@pytest.fixture(scope="module")
def armoury(tmp_path_factory):
    return Armoury(tmp_path_factory.mktemp("bombs"))


@pytest.mark.parametrize(
    "wanted",
    [
        "nested-250-probe arc-probe huge-probe unlimited-probe copies-probe itself-probe entities-probe",
        "entity-file-probe link-34-probe link-39-probe link-apostrophe-probe link-inner-probe use-file-probe",
        "postscript megapixels long text packed bomb deep",
        "zeros sparse chain loop animation outside0 outside1 outside3 number",
        "playlist concat sdp sound window data quote",
        "pipe zero folder",
    ],
    ids=["drawings", "links", "packed", "models", "movies", "places"],
)
def test_bombs_do_not_go_off(armoury, wanted):
    names = [each.name for each in armoury.bombs if each.name.partition(".")[0] in wanted.split()]
    tally, failures = armoury.set_off(names)
    assert failures == []
    assert sum(tally.values()) == len(names) >= len(wanted.split())


def test_commands_in_a_strangers_folder_with_odd_streams(tmp_path):
    """Nothing of the folder runs, nothing is raw, nothing hangs, and no name steers the terminal."""
    tally, failures = fuzz_commands(16, SEED, tmp_path)
    assert failures == []
    assert min(tally.get(each, 0) for each in ("refused", "done")) > 0


def test_the_window_and_what_it_starts_run_nothing_of_the_folder_they_are_started_in(tmp_path):
    """A scene beside packages of our names, opened in the window, until its picture and its sound process are there."""
    ran = hostile_folder(tmp_path / "here")
    script = f"""
import os
os.chdir({str(tmp_path / "here")!r})
from wild_heron.launch import _leave_out_here
_leave_out_here()
from PyQt6.QtCore import QTimer
from wild_heron.desk.shell.app import make_app
from wild_heron.desk.shell.window import MainWindow
from wild_heron.desk.state.preferences import settings_file
from wild_heron.desk.sound.feed import Speaker
app = make_app()
window = MainWindow(settings_file())
desk = window.desk
from pathlib import Path
assert desk.files.open(Path("scene.heron"), ask=False)
window.show()
desk.link.completed.connect(lambda stream: app.quit() if stream == "lens" else None)
QTimer.singleShot(60_000, lambda: os._exit(3))
speaker = Speaker()
app.exec()
while speaker.usable is None:
    pass
speaker.close()
window.leave_now()
print("drawn", flush=True)
"""
    environment = os.environ | {"RAN": str(ran)}
    done = subprocess.run(
        [sys.executable, "-P", "-c", script], env=environment, capture_output=True, text=True, timeout=120
    )
    assert done.stdout == "drawn\n", done.stderr
    assert done.returncode == 0
    assert not ran.exists(), ran.read_text()
