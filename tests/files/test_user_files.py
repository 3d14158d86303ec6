"""The user's own files: atomic saves, autosaves, locks, and what is left of programs that were killed."""

import os
import signal
import stat
import subprocess
import sys
import threading

import pytest

import wild_heron as wh
from wild_heron.files.atomic import write_atomically
from wild_heron.files.autosave import autosave_path, recoveries_for, unsaved_recoveries, write_autosave
from wild_heron.files.errors import FileError
from wild_heron.files.project import load_with_version, version_on_disk
from wild_heron.files.scene_lock import SceneLock
from wild_heron.files.sessions import Session, clear_stale, is_alive, unfinished


def names(folder) -> set[str]:
    return {path.name for path in folder.iterdir()}


def test_a_save_goes_through_links_and_keeps_the_mode(tmp_path):
    real, link = tmp_path / "real" / "s.heron", tmp_path / "s.heron"
    real.parent.mkdir()
    wh.save(wh.Scene(name="one"), real)
    real.chmod(0o640)
    link.symlink_to(real)
    wh.save(wh.Scene(name="two"), link)
    assert link.is_symlink()
    assert wh.load(real).name == "two"
    assert stat.S_IMODE(real.stat().st_mode) == 0o640
    assert names(real.parent) == {"s.heron"}


@pytest.mark.skipif(os.geteuid() != 0, reason="only root may give files away")
def test_a_save_keeps_the_owner(tmp_path):
    path = tmp_path / "s.heron"
    wh.save(wh.Scene(), path)
    os.chown(path, 1234, 4321)
    wh.save(wh.Scene(name="two"), path)
    assert (path.stat().st_uid, path.stat().st_gid) == (1234, 4321)


@pytest.mark.parametrize("make", [os.mkfifo, os.mkdir, lambda path: os.symlink("/dev/full", path)])
def test_what_is_no_plain_file_is_not_written_over(tmp_path, make):
    path = tmp_path / "odd.heron"
    make(path)
    with pytest.raises(FileError, match=r"odd\.heron"):
        wh.save(wh.Scene(), path)
    assert names(tmp_path) == {"odd.heron"}


def test_a_name_that_cannot_be_saved_is_refused_as_a_scene_error(tmp_path):
    scene = wh.Scene(nodes=(wh.Null(id="n", name="bad\udcff"),))
    with pytest.raises(wh.SceneError, match="not proper text"):
        wh.save(scene, tmp_path / "s.heron")
    assert not names(tmp_path)


def test_leftovers_of_killed_writers_go_and_those_of_living_ones_stay(tmp_path):
    path = tmp_path / "s.heron"
    (tmp_path / ".s.heron.1234.partial").write_text("half")
    import fcntl

    with open(tmp_path / ".s.heron.5678.partial", "w") as living:
        fcntl.flock(living, fcntl.LOCK_EX)
        write_atomically(path, b"whole")
        assert names(tmp_path) == {"s.heron", ".s.heron.5678.partial"}


@pytest.mark.parametrize("seed", range(6))
def test_a_kill_while_saving_leaves_the_old_scene_or_the_new_one(tmp_path, seed):
    path = tmp_path / "s.heron"
    wh.save(wh.Scene(name="0"), path)
    code = (
        "import sys, wild_heron as wh\n"
        "nodes = tuple(wh.Null(id=f'n{k}', name='N') for k in range(300))\n"
        "print('go', flush=True)\n"
        "for k in range(10**6): wh.save(wh.Scene(name=str(k), nodes=nodes), sys.argv[1])\n"
    )
    with subprocess.Popen([sys.executable, "-c", code, str(path)], stdout=subprocess.PIPE) as writer:
        assert writer.stdout is not None
        writer.stdout.readline()
        timer = threading.Timer(0.05 + 0.013 * seed, writer.kill)
        timer.start()
        writer.wait()
    assert wh.load(path).name.isdigit()
    wh.save(wh.Scene(name="after"), path)
    assert names(tmp_path) == {"s.heron"}


def test_every_session_has_an_autosave_of_its_own_and_leaves_the_others_alone(tmp_path):
    path = tmp_path / "s.heron"
    wh.save(wh.Scene(name="saved"), path)
    path.chmod(0o604)
    with Session() as mine, Session() as yours:
        for session in (mine, yours):
            write_autosave(wh.Scene(name=session.token), autosave_path(path, session.token), path)
        assert autosave_path(path, mine.token) != autosave_path(path, yours.token)
        assert stat.S_IMODE(autosave_path(path, mine.token).stat().st_mode) == 0o604
        # As long as they live, nothing of them is offered to anyone.
        assert recoveries_for(path) == []
    found = recoveries_for(path)
    assert {wh.load(each.autosave).name for each in found} == {mine.token, yours.token}


def test_an_autosave_is_offered_until_it_is_decided_on_however_often_the_file_is_saved(tmp_path):
    path = tmp_path / "s.heron"
    wh.save(wh.Scene(name="saved"), path)
    write_autosave(wh.Scene(name="saved"), autosave_path(path, "gone"))
    assert recoveries_for(path) == []  # it says the same
    write_autosave(wh.Scene(name="lost"), autosave_path(path, "gone"))
    assert [each.newer for each in recoveries_for(path)] == [True]
    wh.save(wh.Scene(name="went on"), path)
    later = path.stat().st_mtime + 5
    os.utime(path, (later, later))
    (found,) = recoveries_for(path)
    assert not found.newer
    assert wh.load(found.autosave).name == "lost"


def test_an_autosave_of_an_older_version_is_found_too(tmp_path):
    path = tmp_path / "s.heron"
    wh.save(wh.Scene(name="saved"), path)
    wh.save(wh.Scene(name="old way"), tmp_path / ".s.autosave.heron")
    assert [wh.load(each.autosave).name for each in recoveries_for(path)] == ["old way"]


def test_where_the_folder_cannot_be_written_autosaves_lie_in_the_state_folder(tmp_path, monkeypatch):
    path = tmp_path / "s.heron"
    wh.save(wh.Scene(name="saved"), path)
    monkeypatch.setattr(os, "access", lambda place, how: False)
    spare = autosave_path(path, "gone")
    assert tmp_path not in spare.parents
    write_autosave(wh.Scene(name="lost"), spare)
    assert [each.autosave for each in recoveries_for(path)] == [spare]
    spare.unlink()


def test_unsaved_scenes_of_dead_programs_are_offered_and_broken_ones_are_not():
    with Session() as living:
        made = [autosave_path(None, token) for token in ("aaaa", living.token, "bbbb")]
        write_autosave(wh.Scene(name="lost"), made[0])
        write_autosave(wh.Scene(name="alive"), made[1])
        made[2].write_text("{")
        assert [wh.load(each.autosave).name for each in unsaved_recoveries()] == ["lost"]
    for path in made:
        path.unlink()


def test_a_scene_is_held_by_one_window_at_a_time(tmp_path):
    path = tmp_path / "s.heron"
    wh.save(wh.Scene(), path)
    (tmp_path / "link.heron").symlink_to(path)
    first = SceneLock(path)
    second = SceneLock(tmp_path / "link.heron")
    assert first.is_held
    assert not second.is_held
    assert second.holder is not None
    assert second.holder.process == os.getpid()
    first.release()
    third = SceneLock(path)
    assert third.is_held
    third.release()
    assert names(tmp_path) == {"s.heron", "link.heron"}


def test_a_lock_ends_with_its_holder(tmp_path):
    path = tmp_path / "s.heron"
    code = (
        "import signal, sys, pathlib\n"
        "from wild_heron.files.scene_lock import SceneLock\n"
        "lock = SceneLock(pathlib.Path(sys.argv[1])); print(lock.is_held, flush=True); signal.pause()"
    )
    with subprocess.Popen([sys.executable, "-c", code, str(path)], stdout=subprocess.PIPE, text=True) as holder:
        assert holder.stdout is not None
        assert holder.stdout.readline() == "True\n"
        assert SceneLock(path).holder is not None
        holder.send_signal(signal.SIGKILL)
        holder.wait()
    lock = SceneLock(path)
    assert lock.is_held
    lock.release()


def test_what_a_killed_session_left_is_cleared_and_nothing_else(tmp_path):
    folder = tmp_path / "sessions"
    (tmp_path / "mine.txt").write_text("keep")
    half = tmp_path / ".movie.abc.partial.mp4"
    half.write_text("half")
    frames = tmp_path / ".frames.x.partial"
    frames.mkdir()
    code = (
        "import sys, os, pathlib\n"
        "from wild_heron.files.sessions import Session\n"
        "s = Session(pathlib.Path(sys.argv[1]))\n"
        "for name in sys.argv[2:]: s.begin(pathlib.Path(name))\n"
        "os.kill(os.getpid(), 9)"
    )
    lost = [str(half), str(frames), str(tmp_path / "mine.txt")]
    subprocess.run([sys.executable, "-c", code, str(folder), *lost], check=False)
    with Session(folder) as living:
        other = tmp_path / ".other.partial.mp4"
        other.write_text("growing")
        living.begin(other)
        assert is_alive(living.token, folder)
        assert set(clear_stale(folder)) == {half, frames}
        assert names(tmp_path) == {"mine.txt", "sessions", other.name}
        assert names(folder) == {f"{living.token}.lock"}


def test_another_version_on_disk_is_told_by_what_is_in_it(tmp_path):
    path = tmp_path / "s.heron"
    known = wh.save(wh.Scene(name="one"), path)
    assert version_on_disk(path, known) is known
    os.utime(path, (1, 1))
    assert version_on_disk(path, known).digest == known.digest
    assert load_with_version(path)[1].digest == known.digest
    wh.save(wh.Scene(name="two"), path)
    assert version_on_disk(path, known).digest != known.digest
    path.unlink()
    assert version_on_disk(path, known) is None


class TestUnfinished:
    def test_it_goes_whatever_ends_it(self, tmp_path):
        with unfinished(tmp_path / "a.glb") as done:
            done.write_bytes(b"x")
            done.rename(tmp_path / "a.glb")

        def fail():
            with unfinished(tmp_path / "folder") as partial:
                (partial / "inner").mkdir(parents=True)
                raise LookupError

        with pytest.raises(LookupError):
            fail()
        session = Session()
        left = tmp_path / f".b.{session.token}.partial"
        session.begin(left)
        left.write_bytes(b"a signal came between it and its end")
        session.close()
        assert [path.name for path in tmp_path.iterdir()] == ["a.glb"]

    def test_what_a_kill_leaves_goes_with_the_next_start_of_anything(self, tmp_path):
        script = (
            "import signal, sys; from pathlib import Path; from wild_heron.files.sessions import unfinished\n"
            "with unfinished(Path(sys.argv[1])) as partial:\n"
            "    partial.mkdir(); print('made', flush=True); signal.pause()"
        )
        made = subprocess.Popen([sys.executable, "-c", script, str(tmp_path / "bundle")], stdout=subprocess.PIPE)
        assert made.stdout.readline() == b"made\n"
        made.kill()
        made.wait()
        assert len(list(tmp_path.iterdir())) == 1
        done = subprocess.run([sys.executable, "-m", "wild_heron", "demo", "--where"], capture_output=True)
        assert done.returncode == 0
        assert list(tmp_path.iterdir()) == []
