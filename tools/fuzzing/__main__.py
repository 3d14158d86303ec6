"""``python -m fuzzing --scenes N --artworks N --commands N --bombs``: what came of each; failures with their seeds."""

import argparse
import os
import random
import sys
import tempfile
from pathlib import Path


def main() -> int:
    parser = argparse.ArgumentParser()
    parser.add_argument("--scenes", type=int, default=1000)
    parser.add_argument("--artworks", type=int, default=500)
    parser.add_argument("--commands", type=int, default=0)
    parser.add_argument("--bombs", action="store_true")
    parser.add_argument("--seed", type=int, default=None)
    options = parser.parse_args()
    seed = options.seed if options.seed is not None else random.SystemRandom().randrange(10**6)
    print(f"seed {seed}", flush=True)
    home = tempfile.mkdtemp(prefix="wild-heron-fuzz-")
    for name in ("CONFIG", "DATA", "CACHE", "STATE"):
        os.environ[f"XDG_{name}_HOME"] = f"{home}/{name.lower()}"
    from .artworks import Armoury, fuzz_artworks, write_originals
    from .commands import fuzz_commands
    from .scenes import fuzz_scenes

    failures = []
    if options.scenes:
        tally, failed = fuzz_scenes(options.scenes, seed)
        print(f"{options.scenes} scenes: {tally}", flush=True)
        failures += failed
    with tempfile.TemporaryDirectory() as folder:
        if options.artworks:
            (Path(folder) / "originals").mkdir()
            write_originals(Path(folder) / "originals")
            tally, failed = fuzz_artworks(options.artworks, seed, Path(folder) / "originals")
            print(f"{options.artworks} artworks: {tally}", flush=True)
            failures += failed
        if options.commands:
            tally, failed = fuzz_commands(options.commands, seed, Path(folder))
            print(f"{options.commands} commands: {tally}", flush=True)
            failures += failed
        if options.bombs:
            (Path(folder) / "bombs").mkdir()
            tally, failed = Armoury(Path(folder) / "bombs").set_off()
            print(f"bombs: {tally}", flush=True)
            failures += failed
    for each in failures:
        print(f"FAILED {each.what} {each.seed}: {each.why}")
    return 1 if failures else 0


if __name__ == "__main__":
    sys.exit(main())
