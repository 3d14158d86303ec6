"""Exports several formats, one after another."""

import re
from collections.abc import Callable, Iterator, Mapping
from dataclasses import replace
from pathlib import Path
from types import MappingProxyType

from ..arrays import Pixels
from ..scene import Format, Scene, SceneError
from .job import ExportJob
from .resuming import write_on
from .running import write


def path_for(path: Path, format_name: str) -> Path:
    """A path with a format's name in it, before the digits of numbered frames: ``fair.mp4`` becomes
    ``fair_Vertical-9x16.mp4``."""
    words = re.sub(r"[^\w×-]+", "-", format_name.replace(":", "x")).strip("-_") or "format"
    stem, digits = path.stem, ""
    if "#" in stem:
        start = stem.index("#")
        stem, digits = stem[:start].rstrip("_-. "), f"_{stem[start:]}"
    return path.with_name(f"{stem}_{words}{digits}{path.suffix}" if stem else f"{words}{digits}{path.suffix}")


def jobs_for(
    job: ExportJob, scene: Scene, shapes: tuple[Format, ...], size: Callable[[Format], tuple[int, int]]
) -> list[ExportJob]:
    """A job for each format. One of them alone keeps the name that was given; SceneError where two would write the same
    file."""
    main = scene.plain_formats()[0]
    out = []
    for shape in shapes:
        path = job.path if len(shapes) == 1 else path_for(job.path, shape.name)
        name = None if shape.plain == main else shape.name
        out.append(replace(job, path=path, format=name, size=size(shape)))
    paths = [each.path for each in out]
    twice = next((path for path in paths if paths.count(path) > 1), None)
    if twice is not None:
        raise SceneError(f"Two formats would both be written to {twice.name}. Give one of them another name.")
    return out


def export_each(
    scene: Scene,
    base: Path | None,
    jobs: list[ExportJob],
    progress: Callable[[int, int], None] = lambda done, total: None,
    cancelled: Callable[[], bool] = lambda: False,
    held: Mapping[float, Pixels] = MappingProxyType({}),
    resume: bool = False,
) -> Iterator[Path]:
    """Write one job after another, from frames (H, W, 4) that are held where there are any, telling each path once it
    is whole; it ends early where it was cancelled.

    Every job is checked before the first is begun. Frames that are ``held`` are for the only job. ``resume``: what is
    whole already is not drawn again.
    """
    for job in jobs:
        job.check()
    total, before = sum(len(job.frames) for job in jobs), 0
    for job in jobs:

        def told(count: int, _: int, before: int = before) -> None:
            progress(before + count, total)

        done = write_on(scene, base, job, told, cancelled) if resume else write(scene, base, job, told, cancelled, held)
        if not done:
            return
        yield job.path
        before += len(job.frames)
