"""``python -m bench [--only JOB] [--write FILE]``, in this folder's parent."""

import argparse
import os
import tempfile
from collections.abc import Callable
from pathlib import Path

os.environ["XDG_CONFIG_HOME"] = os.environ["XDG_DATA_HOME"] = tempfile.mkdtemp(prefix="wild-heron-bench-")

import wild_heron as wh
from wild_heron.demo import DEMO_SCENE

from . import checks, evaluation, files, film, life, loops, moves, output, pictures, renderer, window
from .measuring import write


def main() -> None:
    scene = wh.load(DEMO_SCENE)
    base = DEMO_SCENE.parent
    jobs: dict[str, Callable[[], None]] = {
        "curves": evaluation.curves,
        "evaluation": lambda: evaluation.evaluation(scene),
        "edited": lambda: evaluation.edited(scene),
        "lens": lambda: pictures.lens_frames(scene, base),
        "set": pictures.large_set,
        "movie": lambda: pictures.movie(scene, base),
        "final": lambda: output.final_frames(scene, base),
        "fine": lambda: output.fine_frames(scene, base),
        "move": lambda: output.move(scene),
        "workers": lambda: output.workers(scene, base),
        "start": window.start_up,
        "loop": loops.event_loop,
        "rigs": evaluation.rigs,
        "rigloop": loops.rig_loop,
        "largeloop": loops.large_loop,
        "busyloop": loops.busy_loop,
        "reading": files.reading,
        "saving": files.saving,
        "publishing": renderer.publishing,
        "revival": renderer.revival,
        "lanes": loops.lanes,
        "film": film.shown_by_the_film,
        "rolling": film.rolling,
        "small": film.small_pictures,
        "beats": film.beats,
        "movers": life.movers,
        "takes": life.takes,
        "takeloop": life.take_loop,
        "usedloop": life.used_loop,
        "checking": checks.checking,
        "recheck": checks.recheck,
        "solving": checks.solving,
        "checkloop": checks.check_loop,
        "fitting": moves.fitting,
        "offering": moves.offering,
        "remembering": moves.remembering,
    }
    parser = argparse.ArgumentParser()
    parser.add_argument("--write", type=Path, help="also write the table to this file")
    parser.add_argument("--only", choices=jobs, action="append", help="a job; all of them where none is named")
    options = parser.parse_args()
    for name, job in jobs.items():
        if options.only is None or name in options.only:
            job()
    if options.write:
        write(options.write)


main()
