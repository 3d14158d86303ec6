"""``wild-heron check`` as a process."""

import json
import os
import signal
import subprocess
import sys
from pathlib import Path

import msgspec
import pytest

import wild_heron as wh
from wild_heron.process import checking
from wild_heron.process.checking import check_scene
from wild_heron.process.stream import FrameStream
from wild_heron.scene import Format

from .scenes import bare_right, camera, card, film, limited


def check(*arguments: object) -> subprocess.CompletedProcess[str]:
    command = [sys.executable, "-m", "wild_heron", "check", *map(str, arguments)]
    gone = ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")
    there = {name: value for name, value in os.environ.items() if name not in gone}
    return subprocess.run(command, capture_output=True, text=True, timeout=120, check=False, env=there)


@pytest.fixture
def bare(tmp_path):
    path = tmp_path / "bare.heron"
    wh.save(bare_right(), path)
    return path


def test_findings_end_with_1_and_are_told(bare):
    done = check(bare)
    assert done.returncode == 1, done.stderr
    assert "Wide 16:9: 1 finding" in done.stdout
    assert "Bare at the right, frames 41–60: up to 6.2 % of the frame" in done.stdout


def test_a_clean_film_ends_with_0(tmp_path):
    path = tmp_path / "clean.heron"
    wh.save(film(card("sky", 30.0, 20.0), camera(), last=3), path)
    done = check(path)
    assert (done.returncode, done.stdout) == (0, "Wide 16:9: nothing found\n")


def test_json_is_one_document_with_every_format(bare):
    scene = msgspec.structs.replace(bare_right(), formats=(Format("Tall", 900, 1600),))
    wh.save(limited(scene, "comfort.cross", 1.0), bare)
    done = check(bare, "--json")
    document = json.loads(done.stdout)
    assert [each["name"] for each in document["formats"]] == ["Wide 16:9", "Tall"]
    (found,) = document["formats"][0]["findings"]
    assert (found["kind"], found["about"], found["first"], found["last"]) == ("bare", "right", 41.0, 60.0)
    assert document["formats"][1]["findings"] == []
    assert document["clean"] is False
    assert check(bare, "--format", "Tall").returncode == 0


def test_what_cannot_be_checked_ends_with_2(tmp_path, bare):
    path = tmp_path / "empty.heron"
    wh.save(wh.Scene(), path)
    done = check(path)
    assert done.returncode == 2
    assert done.stderr.startswith("error: ")
    assert "has no camera" in done.stderr
    assert check(tmp_path / "none.heron").returncode == 2
    done = check(bare, "--format", "Round")
    assert done.returncode == 2
    assert "there is no format “Round”" in done.stderr


def test_interrupted_it_says_so_and_ends_with_130(tmp_path):
    path = tmp_path / "long.heron"
    wh.save(film(card("sky", 30.0, 20.0), camera(), last=20_000), path)
    command = [sys.executable, "-m", "wild_heron", "check", str(path)]
    with subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True) as running:
        # It is under way once its render process is there.
        children = Path(f"/proc/{running.pid}/task/{running.pid}/children")
        while running.poll() is None and not children.read_text().strip():
            pass
        running.send_signal(signal.SIGINT)
        _, said = running.communicate(timeout=60)
    assert running.returncode == 130
    assert "Stopped" in said


def test_checking_goes_on_where_its_renderer_ends(tmp_path, monkeypatch):
    """Killed twice in its midst: what it finds is what it would have found."""
    scene = bare_right()
    want = check_scene(scene, None)
    streams: list[FrameStream] = []

    class Watched(FrameStream):
        def __init__(self, *arguments: object, **more: object) -> None:
            super().__init__(*arguments, **more)
            streams.append(self)

    killed: list[int] = []

    def progress(done: int, total: int) -> None:
        if done in (3, 20):
            (client,) = streams[0].clients
            os.kill(client.pid, signal.SIGKILL)
            killed.append(client.pid)

    monkeypatch.setattr(checking, "FrameStream", Watched)
    found = check_scene(scene, None, progress=progress)
    assert [each.findings for each in found] == [each.findings for each in want]
    assert len(set(killed)) == 2
