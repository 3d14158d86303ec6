"""``python -m soak [--starts N] [--windows N] [--ends N] [--minutes M]``: 0 faults, nothing left over, or status 1."""

import argparse
import random
import subprocess
import sys

from .machine import busy, crash_lines, fresh_home, left_over
from .starts import soak_starts


def _module(name: str, *arguments: object) -> list[str]:
    """Run a part in a process of its own beside two busy ones; what went wrong, a line each."""
    environment = fresh_home()
    with busy(2):
        done = subprocess.run(
            [sys.executable, "-m", name, *map(str, arguments)], env=environment, stderr=subprocess.PIPE, text=True
        )
    words = " ".join(map(str, arguments))
    wrong = [] if done.returncode == 0 else [f"{name} {words}: ended with {done.returncode}: {done.stderr[-3000:]}"]
    wrong += [f"{name} {words}: said {done.stderr[-600:]}"] if done.stderr.strip() and not wrong else []
    wrong += [f"{name} {words}: processes left over: {left}"] if (left := left_over(environment)) else []
    return wrong + [f"{name}: crashes.log: {line}" for line in crash_lines(environment)]


def main() -> int:
    parser = argparse.ArgumentParser()
    parser.add_argument("--starts", type=int, default=0)
    parser.add_argument("--windows", type=int, default=0)
    parser.add_argument("--ends", type=int, default=0, help="ends of the interpreter with a window open")
    parser.add_argument("--minutes", type=float, default=0.0, help="of random work")
    parser.add_argument("--seed", type=int, default=None)
    options = parser.parse_args()
    seed = options.seed if options.seed is not None else random.SystemRandom().randrange(10**6)
    print(f"seed {seed}", flush=True)
    wrong: list[str] = []
    if options.starts:
        print(f"{options.starts} starts", flush=True)
        wrong += soak_starts(options.starts, seed)
    if options.windows:
        print(f"{options.windows} windows", flush=True)
        wrong += _module("soak.windows", options.windows, seed, "close")
    for number in range(options.ends):
        wrong += _module("soak.windows", 1, seed + number, "abort")
    if options.minutes:
        print(f"{options.minutes:g} minutes of work", flush=True)
        wrong += _module("fuzzing.random_work", "--minutes", options.minutes, "--seed", seed)
    for each in wrong:
        print(f"WRONG {each}")
    print("Nothing went wrong." if not wrong else f"{len(wrong)} things went wrong (seed {seed}).")
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
