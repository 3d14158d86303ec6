"""The demo started, and asked to end at a random moment."""

import random
import signal
import subprocess
import sys
import time
from collections import Counter

from .machine import busy, crash_lines, end, fresh_home, left_over

_PATIENCE = 40.0
_SIGNALS = (signal.SIGTERM, signal.SIGINT, signal.SIGHUP)
# Where a signal comes before Python itself is up, it is Python's; these have begun when they say so.
_SCRIPT = """
import sys
from wild_heron.launch import main
import os, signal
def hears():
    with open("/proc/self/status") as status:
        caught = next(line for line in status if line.startswith("SigCgt")).split()[1]
    return bool(int(caught, 16) >> signal.SIGTERM - 1 & 1)
def told(kind, frame, value):
    if hears():
        sys.setprofile(None)
        print("begun", flush=True)
sys.setprofile(told)
sys.argv = ["wild-heron", "demo"]
main()
"""


def soak_starts(count: int, seed: int, longest: float = 7.0) -> list[str]:
    """Start and end it so often; what went wrong, a line each."""
    rng = random.Random(seed)
    environment = fresh_home()
    wrong: list[str] = []
    ended: Counter[int] = Counter()
    with busy(2):
        for number in range(count):
            process = subprocess.Popen(
                [sys.executable, "-c", _SCRIPT], env=environment, stdout=subprocess.PIPE, stderr=subprocess.PIPE,
                stdin=subprocess.DEVNULL, start_new_session=True,
            )  # fmt: skip
            assert process.stdout is not None
            process.stdout.readline()
            after = rng.choice((rng.uniform(0.0, 1.5), rng.uniform(0.0, longest)))
            time.sleep(after)
            by = rng.choice(_SIGNALS)
            early = process.poll()
            if early is None:
                process.send_signal(by)
            try:
                _, said = process.communicate(timeout=_PATIENCE)
            except subprocess.TimeoutExpired:
                process.kill()
                _, said = process.communicate()
            ended[process.returncode] += 1
            words = said.decode(errors="replace").strip()
            if early is not None:
                wrong.append(f"start {number}: ended by itself with {early}: {words[-300:]}")
            elif process.returncode != 128 + by:
                wrong.append(f"start {number}: {by.name} after {after:.2f} s gave {process.returncode}: {words[-300:]}")
            elif words and words != "Stopped. Nothing was left behind.":
                wrong.append(f"start {number}: said {words[-300:]}")
            if left := left_over(environment):
                wrong.append(f"start {number}: processes left over: {left}")
                end(left)
            if number % 20 == 19:
                print(f"  {number + 1} starts: {dict(ended)}, {len(wrong)} wrong", flush=True)
    wrong += [f"crashes.log: {line}" for line in crash_lines(environment)]
    return wrong
