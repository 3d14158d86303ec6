"""The sound process and the program's end of it, with a simulated device in place of the process."""

import contextlib
import os
import signal
import socket
import threading
import time

import numpy as np
import pytest

from wild_heron.desk.sound import feed as feeds
from wild_heron.desk.sound import sound_messages
from wild_heron.desk.sound.feed import Feed, Speaker
from wild_heron.motion.sound import RATE, Track, mixed
from wild_heron.scene import Rate, Sound

SAMPLES = (np.random.default_rng(4).uniform(-0.9, 0.9, (RATE, 2)) * 32767).astype(np.int16)
TRACKS = [Track(Sound("Noise", "noise.wav", 1.0), SAMPLES)]


class TestFeed:
    def test_pieces_of_any_length_are_one_sound(self):
        whole = Feed(TRACKS, Rate(24), 3.0, 0.0, 23.0, False).piece(9000)
        parts, feed = [], Feed(TRACKS, Rate(24), 3.0, 0.0, 23.0, False)
        for count in (1, 700, 4096, 0, 4203):
            parts.append(feed.piece(count))
        assert np.array_equal(np.concatenate(parts), whole)
        assert np.array_equal(whole, np.round(mixed(TRACKS, Rate(24), 0.125, 9000) * 32767.0).astype(np.int16))

    def test_it_goes_round_in_a_range_or_ends_with_it(self):
        round_, once = (Feed(TRACKS, Rate(24), 11.0, 6.0, 11.0, loops).piece(RATE // 2) for loops in (True, False))
        frame = RATE // 24
        assert np.array_equal(round_[:frame], once[:frame])
        assert not once[frame:].any()
        again = Feed(TRACKS, Rate(24), 6.0, 6.0, 11.0, True).piece(6 * frame)
        assert np.array_equal(round_[frame : 7 * frame], again)


class Simulated:
    """A device that asks for sound and tells what it heard of it; in place of the process."""

    def __init__(self, usable: bool = True) -> None:
        self.usable, self.turns, self.came = usable, [], {}
        self.gone = threading.Event()

    def start(self, module, arguments, handles, **how):
        assert module == "wild_heron.desk.sound.sound_process"
        self.connection = socket.socket(fileno=os.dup(handles[0]))
        threading.Thread(target=self._serve, daemon=True).start()
        return self

    def _serve(self) -> None:
        with contextlib.suppress(OSError):
            self._answer()
        self.gone.set()

    def _answer(self) -> None:
        tell = lambda what: self.connection.send(sound_messages.encode(what))  # noqa: E731
        tell(sound_messages.SoundReady(self.usable))
        while data := self.connection.recv(sound_messages.MESSAGE_BYTES):
            match sound_messages.for_device(data):
                case sound_messages.Begin(turn):
                    self.turns.append(turn)
                    tell(sound_messages.WantSound(turn, 1000))
                    tell(sound_messages.WantSound(turn - 1, 1000))
                case sound_messages.SoundData(turn, samples):
                    self.came[turn] = self.came.get(turn, b"") + samples
                    tell(sound_messages.SoundHeard(turn, len(self.came[turn]) / sound_messages.BYTES / RATE))
                    if len(self.came[turn]) < 6 * 4000:
                        tell(sound_messages.WantSound(turn, 1000))
                case sound_messages.StopSound():
                    self.turns.append(0)

    def kill(self) -> None:
        self.connection.shutdown(socket.SHUT_RDWR)

    def wait(self) -> int:
        return 0


def until(true, seconds: float = 20.0) -> None:
    end = time.monotonic() + seconds
    while not true():
        assert time.monotonic() < end
        os.sched_yield()


@pytest.fixture
def device(monkeypatch):
    out = Simulated()
    monkeypatch.setattr(feeds, "start_module", out.start)
    return out


def test_what_is_asked_for_is_given_and_what_is_heard_is_told(device):
    speaker = Speaker()
    until(lambda: speaker.usable is not None)
    assert speaker.usable
    speaker.play(Feed(TRACKS, Rate(24), 0.0, 0.0, 23.0, True))
    until(lambda: speaker.heard() >= 0.125)
    assert device.came[1] == Feed(TRACKS, Rate(24), 0.0, 0.0, 23.0, True).piece(6000).tobytes()
    speaker.silence()
    speaker.silence()
    speaker.play(Feed([], Rate(24), 0.0, 0.0, 23.0, True))
    until(lambda: 3 in device.came)
    assert device.turns == [1, 0, 3], "silence is told once, and what an old turn wants is not given"
    assert set(device.came) == {1, 3}
    assert not any(device.came[3])
    speaker.close()
    assert device.gone.wait(10.0)
    assert speaker.usable is False


def test_a_device_that_is_gone_or_takes_nothing_holds_nobody_up(device, monkeypatch):
    speaker = Speaker()
    until(lambda: speaker.usable is not None)
    device.kill()
    until(lambda: speaker.usable is False)
    speaker.play(Feed(TRACKS, Rate(24), 0.0, 0.0, 23.0, True))
    assert speaker.heard() == 0.0
    speaker.close()
    stuck = Simulated()
    monkeypatch.setattr(stuck, "_serve", lambda: stuck.gone.wait(60.0))
    monkeypatch.setattr(feeds, "start_module", stuck.start)
    speaker = Speaker()
    for _ in range(5000):
        speaker.play(Feed(TRACKS, Rate(24), 0.0, 0.0, 23.0, True))
    stuck.gone.set()
    speaker.close()


def test_the_real_process_says_what_there_is_and_ends_when_it_is_let_go():
    speaker = Speaker()
    until(lambda: speaker.usable is not None, 60.0)
    pid = speaker._process.pid
    speaker.close()
    with pytest.raises(ProcessLookupError):
        os.kill(pid, signal.SIGTERM)
