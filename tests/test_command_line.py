"""The command line as a process: what it says when things go wrong, and what it ends with."""

import json
import os
import signal
import subprocess
import sys
import time

import av
import msgspec
import numpy as np
import pytest

import wild_heron as wh
from wild_heron.files.permission import allow, user_file


@pytest.fixture
def saved(rig, art):
    path = art / "rig.heron"
    wh.save(rig, path)
    return path


def heron(*arguments: object, **more: object) -> subprocess.CompletedProcess[str]:
    command = [sys.executable, "-m", "wild_heron", *map(str, arguments)]
    return subprocess.run(command, capture_output=True, text=True, timeout=120, check=False, **more)  # type: ignore


def failed(done: subprocess.CompletedProcess[str], *words: str) -> None:
    """One line that starts with ``error:``, and status 2."""
    assert done.returncode == 2
    assert done.stderr.startswith("error: ")
    assert len(done.stderr.strip().splitlines()) == 1
    assert all(word in done.stderr for word in words)


def no_screen(**more: str) -> dict[str, str]:
    gone = ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")
    return {name: value for name, value in os.environ.items() if name not in gone} | more


def test_without_a_screen_a_window_is_an_error_and_no_abort(saved):
    failed(heron(env=no_screen()), "no screen", "DISPLAY is not set")
    failed(heron(saved, env=no_screen(DISPLAY=":7654")), "X server “:7654” does not answer")
    failed(heron("demo", env=no_screen(WAYLAND_DISPLAY="wayland-7654", QT_QPA_PLATFORM="wayland")), "wayland-7654")


def test_a_mistyped_command_is_no_window(saved):
    failed(heron("rendr", env=no_screen()), "rendr", "Nor is it a command", "sample, render")
    failed(heron("rendr", saved, env=no_screen()), "rendr")
    failed(heron("none.heron", env=no_screen()), "none.heron: was not found.")


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (("--frames", "0:10:1e-320"), "more than"),
        (("--frames", "1e8"), "lie between"),
        (("--frames", "1e999"), "not a range"),
        (("--size", "²x²"), "not a size"),
        (("--camera", "Other"), "The scene has: Cam."),
        (("--camera", "Card"), "The scene has: Cam."),
    ],
)
def test_numbers_and_names_that_cannot_be(saved, arguments, says):
    failed(heron("sample", saved, *arguments), says)


def test_a_sample_tells_ids_takes_addresses_and_says_help(saved):
    done = heron("sample", saved.as_uri(), "--nodes", "Card", "--frames", "1", "--json")
    assert msgspec.json.decode(done.stdout)["id"] == "card"
    assert "Commands:" in heron("-h").stdout
    assert "--no-clobber" in heron("render", "-h").stdout
    failed(heron("sample", "file://elsewhere/a.heron"), "another machine")


def test_names_do_not_steer_the_terminal(rig, tmp_path):
    wh.save(wh.edits.rename(rig, "card", "Card\x1b]0;mine\x07\x1b[31m"), tmp_path / "s.heron")
    done = heron("sample", tmp_path / "s.heron", "--frames", "0")
    assert "\x1b" not in done.stdout
    assert "Card�" in done.stdout
    assert "\x1b" not in heron("sample", tmp_path / "s.heron", "--nodes", "\x1b[31m").stderr


def test_whoever_reads_may_stop_and_a_full_disk_is_told(saved):
    command = f"{sys.executable} -m wild_heron sample {saved} --frames 0:48:0.01"
    done = subprocess.run(f"{command} | head -1", shell=True, capture_output=True, text=True, check=False)
    assert (len(done.stdout.splitlines()), done.stderr) == (1, "")
    full = subprocess.run(f"{command} > /dev/full", shell=True, capture_output=True, text=True, check=False)
    failed(full, "No space left")


def test_a_terminal_of_few_letters_gets_stand_ins(saved):
    few = os.environ | {"PYTHONIOENCODING": "ascii", "LC_ALL": "C"}
    failed(heron("sample", saved, "--nodes", "x", env=few), "?x?")
    assert heron("sample", saved, "--frames", "0", env=few).returncode == 0


def test_missing_artwork_is_named_before_anything_is_drawn(saved, art):
    (art / "card.png").unlink()
    failed(heron("render", saved, "-o", art / "x.png", "--frames", "0"), "card.png", "--allow-missing")
    assert not (art / "x.png").exists()
    done = heron("render", saved, "-o", art / "x.png", "--frames", "0", "--size", "64x36", "--allow-missing")
    assert (done.returncode, (art / "x.png").exists()) == (0, True)


def test_artwork_outside_the_folder_has_to_be_allowed(rig, art):
    (art / "scenes").mkdir()
    path = art / "scenes" / "s.heron"
    wh.save(wh.edits.change_node(rig, "card", artwork=wh.ImageFile("../card.png")), path)
    arguments = ("render", path, "-o", art / "x.png", "--frames", "0", "--size", "64x36")
    failed(heron(*arguments), "outside the scene's folder", f"--allow {path.parent}/..")
    assert heron(*arguments, "--allow", art).returncode == 0
    (art / "x.png").unlink()
    # What the user allowed in the window holds here too.
    kept = user_file().read_bytes() if user_file().exists() else None
    allow([art / "card.png"])
    try:
        assert heron(*arguments).returncode == 0
    finally:
        user_file().write_bytes(kept or b"[]")


def test_one_picture_needs_no_number_and_is_not_written_over(saved, art):
    arguments = ("render", saved, "-o", art / "one.png", "--frames", "7", "--size", "64x36")
    assert heron(*arguments).returncode == 0
    before = (art / "one.png").stat().st_mtime_ns
    failed(heron(*arguments, "--no-clobber"), "one.png", "is there already")
    assert (art / "one.png").stat().st_mtime_ns == before
    failed(heron("render", saved, "-o", art / "two.png", "--frames", "7:8"), "no place for the frame number")


def test_a_place_that_cannot_be_written_is_noticed_before_drawing(saved, art):
    failed(heron("render", saved, "-o", "/proc/self/x.mp4"), "/proc/self/x.mp4", "cannot be written")
    (art / "odd.mp4").symlink_to("/dev/full")
    failed(heron("render", saved, "-o", art / "odd.mp4"), "not a plain file")
    if os.geteuid() != 0:
        (art / "shut").mkdir(mode=0o500)
        failed(heron("render", saved, "-o", art / "shut" / "x.mp4"), "cannot be written")


@pytest.mark.parametrize("number", [signal.SIGINT, signal.SIGTERM, signal.SIGHUP])
@pytest.mark.parametrize("name", ["x.mp4", "x_##.png"])
def test_interrupted_it_says_so_and_leaves_nothing_half(saved, art, number, name):
    before = set(os.listdir(art))
    command = [sys.executable, "-m", "wild_heron", "render", str(saved), "-o", str(art / name), "--samples", "64"]
    with subprocess.Popen(command, stderr=subprocess.PIPE, text=True) as running:
        deadline = time.monotonic() + 60
        # It has begun to write.
        while set(os.listdir(art)) == before and time.monotonic() < deadline:
            os.sched_yield()
        running.send_signal(number)
        _, said = running.communicate(timeout=60)
    assert running.returncode == 128 + number
    assert "Stopped" in said
    assert "Traceback" not in said
    assert set(os.listdir(art)) == before


def test_what_a_kill_leaves_is_cleared_at_the_next_start(saved, art):
    before = set(os.listdir(art))
    command = [sys.executable, "-m", "wild_heron", "render", str(saved), "-o", str(art / "x.mp4"), "--samples", "64"]
    with subprocess.Popen(command, stderr=subprocess.DEVNULL) as running:
        deadline = time.monotonic() + 60
        while not [each for each in os.listdir(art) if each.endswith(".partial.mp4")] and time.monotonic() < deadline:
            os.sched_yield()
        running.kill()
    assert set(os.listdir(art)) > before
    assert heron("render", saved, "-o", art / "one.png", "--frames", "0", "--size", "64x36").returncode == 0
    assert set(os.listdir(art)) == before | {"one.png"}


def test_the_package_offers_what_it_raises():
    assert issubclass(wh.UnknownNodeError, wh.SceneError)
    with pytest.raises(wh.FileError):
        wh.load("/none.heron")
    with pytest.raises(AttributeError, match="nothing"):
        wh.nothing  # noqa: B018
    assert {"evaluate", "load", "edits", "FileError"} <= set(dir(wh))


@pytest.fixture
def film(rig, art):
    """Two cameras, two shots, and a click on every half second."""
    from tests.files.sounds import clicks, write_wave

    write_wave(art / "clicks.wav", clicks(120.0, 2.0))
    scene = wh.edits.add_node(rig, wh.Camera(id="two", name="Two"))
    scene = wh.edits.set_value(scene, "two", "position.z", 20.0)
    shots = (wh.Shot("First", "cam"), wh.Shot("Then", "two", 20.0))
    scene = msgspec.structs.replace(scene, shots=shots, sounds=(wh.Sound("Clicks", "clicks.wav", 2.0),))
    path = art / "film.heron"
    wh.save(scene, path)
    return path


def test_sample_takes_the_output_a_camera_or_some_shots(film):
    def depths(*arguments: str) -> dict[float, float]:
        done = heron("sample", film, "--nodes", "Target", "--json", *arguments)
        assert done.returncode == 0, done.stderr
        lines = [json.loads(line) for line in done.stdout.splitlines()]
        return {line["frame"]: line["depth"] for line in lines}

    shown = depths("--frames", "18:21")
    assert [round(shown[frame], 6) for frame in (18.0, 19.0, 20.0, 21.0)] == [10.0, 10.0, 20.0, 20.0]
    assert set(depths("--frames", "18:21", "--camera", "Two").values()) == {20.0}
    assert list(depths("--shots", "Then")) == [float(frame) for frame in range(20, 49)]
    failed(heron("sample", film, "--shots", "Other"), "There is no shot “Other”", "First, Then")
    failed(heron("sample", film, "--shots", "First", "--camera", "Two"), "cameras of their own")
    failed(heron("sample", film, "--shots", "First", "--frames", "30:40"), "none of the frames")


def test_a_rendered_film_has_its_shots_and_its_sound_trimmed(film, tmp_path):
    out = tmp_path / "film.mp4"
    done = heron("render", film, "-o", out, "--frames", "12:35", "--size", "64x36", "--quiet")
    assert done.returncode == 0, done.stderr
    with av.open(str(out)) as movie:
        loud = np.concatenate([frame.to_ndarray()[0] for frame in movie.decode(audio=0)])
    times = np.flatnonzero(np.abs(loud) > 0.2) / 48_000
    # Clicks at 0.3, 0.8, 1.3 s of the scene, of which the movie begins at half a second.
    assert times[0] == pytest.approx(0.3, abs=0.03)
    assert times[-1] == pytest.approx(0.86, abs=0.06)
    assert len(loud) / 48_000 == pytest.approx(1.0, abs=0.05)


def test_a_broken_or_missing_sound_is_named_before_anything_is_written(film, art, tmp_path):
    out = tmp_path / "film.mp4"
    (art / "clicks.wav").write_bytes(b"RIFF....WAVE")
    failed(heron("render", film, "-o", out, "--frames", "0:3", "--size", "64x36"), "clicks.wav")
    (art / "clicks.wav").unlink()
    failed(heron("render", film, "-o", out, "--frames", "0:3", "--size", "64x36"), "clicks.wav", "missing")
    assert not out.exists()
    done = heron("render", film, "-o", out, "--frames", "0:3", "--size", "64x36", "--allow-missing", "--quiet")
    assert done.returncode == 0, done.stderr


def test_a_render_tells_where_its_time_went(saved, tmp_path):
    done = heron("render", saved, "-o", tmp_path / "f_#.png", "--frames", "0:1", "--size", "64x36", "--profile")
    assert (done.returncode, done.stdout) == (0, "")
    heading, *rows = done.stderr.strip().splitlines()
    assert heading.split() == ["stage", "seconds", "ms", "a", "frame", "share"]
    stages = {row[:16].strip(): [float(each) for each in row[16:].replace("%", "").split()] for row in rows}
    assert {"drawing", "artwork", "evaluation", "reading back", "encoding"} <= set(stages)
    assert sum(share for _, _, share in stages.values()) == pytest.approx(100.0, abs=len(stages))
    seconds = [row[0] for row in stages.values()]
    assert seconds == sorted(seconds, reverse=True)
