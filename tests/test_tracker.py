"""The tracker over real UDP: the stand-in as a process, a listener that is flooded and fed rubbish."""

import os
import socket
import subprocess
import sys

import numpy as np
import pytest

from wild_heron.tracker import listening
from wild_heron.tracker.hand import CLEAN, made_hand, tracked
from wild_heron.tracker.listening import Listener, offset_of
from wild_heron.tracker.messages import ADDRESS, Pose, decode, encode
from wild_heron.tracker.sending import send

POSE = Pose(12.5, (0.1, -2.0, 3.0), (0.0, 0.6, 0.0, 0.8), True)


@pytest.fixture
def listener():
    made = Listener(port=0)
    yield made
    made.close()


def until(listener, condition, seconds=20.0):
    """Wait for the listener's thread."""
    for _ in range(int(seconds * 200)):
        if condition():
            return
        listener.stopping.wait(0.005)
    raise AssertionError("the listener heard nothing of the kind")


def send_raw(port, *datagrams):
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as out:
        for datagram in datagrams:
            out.sendto(datagram, ("127.0.0.1", port))


class TestMessages:
    def test_a_pose_comes_back(self):
        back = decode(encode(POSE))
        assert back.time == POSE.time
        assert np.allclose(back.position, POSE.position)
        assert np.allclose(back.quaternion, POSE.quaternion)
        assert back.button

    def test_it_is_an_open_sound_control_message(self):
        raw = encode(POSE)
        assert raw.startswith(ADDRESS.encode() + b"\0")
        assert len(raw) % 4 == 0
        assert b",dfffffffi\0" in raw

    @pytest.mark.parametrize(
        "datagram",
        [
            b"", b"\0", b"hello", b"/wild-heron/pose", os.urandom(200), b"/wild-heron/pose\0\0\0\0,d\0\0",
            encode(POSE)[:-3], encode(POSE)[:40], encode(POSE) * 20, b"#bundle\0" + b"\0" * 40,
            encode(POSE._replace(position=(float("nan"), 0.0, 0.0))), encode(POSE._replace(position=(1e30, 0.0, 0.0))),
            encode(POSE._replace(quaternion=(0.0, 0.0, 0.0, 0.0))), encode(POSE._replace(time=float("inf"))),
            encode(POSE).replace(b"pose", b"rose"),
        ],
    )  # fmt: skip
    def test_rubbish_is_none(self, datagram):
        assert decode(datagram) is None


class TestListening:
    def test_what_the_hand_does_is_heard_in_the_order_of_its_time(self, listener):
        sent = tracked("walk", 3.0, 90.0, 4, CLEAN._replace(late=600.0))
        # As fast as it goes, late messages late.
        now = [0.0]

        def sleep(seconds):
            now[0] += seconds
            listener.stopping.wait(0.001)

        count = send(sent, ("127.0.0.1", listener.port), clock=lambda: now[0], sleep=sleep)
        until(listener, lambda: listener.count == count)
        heard = listener.samples()
        assert count == len(sent.times)
        assert (np.diff(heard.times) > 0.0).all()
        assert np.abs(heard.times - sent.times).max() < 1e-9
        meant = made_hand("walk", sent.times, 4)
        assert np.abs(heard.position - meant.position).max() < 1e-5
        assert heard.button.any()
        assert not heard.button[0]

    def test_rubbish_costs_nothing(self, listener):
        send_raw(
            listener.port, encode(POSE), b"rubbish", os.urandom(400), b"\xff" * 2000, encode(POSE._replace(time=13.0))
        )
        until(listener, lambda: listener.count == 2)
        assert listener.samples().times.tolist() == [12.5, 13.0]
        assert listener.refused >= 3
        assert listener.problem == ""

    def test_a_flood_is_left_lying_and_it_goes_on(self, listener):
        burst = [encode(POSE._replace(time=float(k))) for k in range(4000)]
        send_raw(listener.port, *burst)
        until(listener, lambda: listener.refused > 0)
        assert listener.count < 4000
        listener.stopping.wait(0.2)
        before = listener.count
        send_raw(listener.port, encode(POSE._replace(time=1e6)))
        until(listener, lambda: listener.count > before)

    def test_what_is_heard_is_bounded(self, listener, monkeypatch):
        monkeypatch.setattr(listening, "MOST_SAMPLES", 10)
        send_raw(listener.port, *(encode(POSE._replace(time=float(k))) for k in range(20)))
        until(listener, lambda: listener.refused >= 10)
        assert listener.count == 10

    def test_a_listener_that_dies_keeps_what_it_heard(self, listener):
        send_raw(listener.port, encode(POSE))
        until(listener, lambda: listener.count == 1)
        listener._socket.close()
        until(listener, lambda: bool(listener.problem))
        assert "heard no more" in listener.problem
        assert len(listener.samples().times) == 1

    def test_a_port_that_is_taken_is_told(self, listener):
        with pytest.raises(OSError):
            Listener(port=listener.port)

    def test_the_clocks_are_matched_by_the_quickest_message(self):
        times = np.arange(0.0, 1.0, 0.1)
        late = np.array([0.02, 0.05, 0.003, 0.04, 0.03, 0.2, 0.01, 0.08, 0.02, 0.03])
        nothing = np.zeros((10, 4))
        samples = listening.Samples(times, times + 100.0 + late, nothing[:, :3], nothing, nothing[:, 0] > 0)
        assert offset_of(samples) == pytest.approx(100.003)


class TestTheStandIn:
    def run(self, *arguments):
        return subprocess.run(
            [sys.executable, "-m", "wild_heron", "tracker", *arguments], capture_output=True, text=True, timeout=120
        )

    def test_as_a_process_it_is_heard(self, listener):
        done = self.run("--seconds", "1", "--rate", "60", "--to", f"127.0.0.1:{listener.port}", "--hand", "look")
        assert done.returncode == 0, done.stderr
        until(listener, lambda: listener.count > 40)
        assert "messages sent" in done.stdout

    @pytest.mark.parametrize(
        ("arguments", "named"),
        [
            (["--hand", "wave"], "--hand wave"),
            (["--seconds", "-1"], "--seconds -1"),
            (["--rate", "0"], "--rate 0"),
            (["--to", "nowhere"], "--to nowhere"),
            (["--to", "no such host:80"], "could not be reached"),
            (["--seed", "-3"], "--seed -3"),
        ],
    )
    def test_bad_arguments_are_named(self, arguments, named):
        done = self.run(*arguments, "--seconds", "0.2") if "--seconds" not in arguments else self.run(*arguments)
        assert done.returncode == 2
        assert done.stderr.startswith("error:")
        assert named in done.stderr

    def test_it_stops_when_interrupted(self):
        process = subprocess.Popen(
            [sys.executable, "-m", "wild_heron", "tracker", "--repeat"], stdout=subprocess.PIPE, stderr=subprocess.PIPE
        )
        assert b"Sending" in process.stdout.readline()
        process.send_signal(2)
        _, err = process.communicate(timeout=30)
        assert process.returncode == 130
        assert b"Stopped" in err
