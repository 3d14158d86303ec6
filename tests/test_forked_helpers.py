"""Helper processes of the tests are forked from one that lives through whatever they do."""

import os
import signal
import threading

from .forked_helpers import FORKED, Server


def test_several_threads_may_ask_how_one_ended():
    """As a window that closes and a thread that waits do: it is told once, and kept for all."""
    server = Server()
    for _ in range(40):
        here, there = os.pipe()
        helper = server.start(next(iter(FORKED)), [], [there], silent=True)
        os.close(there)
        os.kill(helper.pid, signal.SIGKILL)
        codes: list[int] = []
        gate = threading.Barrier(4)

        def ask(helper=helper, codes=codes, gate=gate) -> None:
            gate.wait()
            codes.append(helper.wait())

        threads = [threading.Thread(target=ask) for _ in range(4)]
        for each in threads:
            each.start()
        for each in threads:
            each.join(20.0)
        os.close(here)
        assert len(codes) == 4
        assert len(set(codes)) == 1
