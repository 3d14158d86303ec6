"""An export as a bundle for render queues: a job template of Open Job Description (2023-09), the scene with its
artwork, and what is to be made of it, all by relative paths.

Frames are drawn in chunks, as tasks that may run anywhere and in any order; a last step joins them.
"""

import os
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Annotated, Any

import msgspec
from msgspec import Meta

from ..files.errors import FileError, why
from ..files.gathering import copy_into, gathered
from ..files.permission import allowed_folders, for_scene
from ..files.project import MAX_BYTES, load
from ..files.reader import Reader
from ..files.regular import open_regular
from ..files.sessions import unfinished
from ..scene import Scene
from .job import ExportJob
from .queue.order import Order, order_of
from .resuming import join
from .running import export

TEMPLATE, ORDER, SCENE = "template.json", "order.json", "scene"
VERSION = 1
USUAL_CHUNK = 24
Chunk = Annotated[int, Meta(ge=1, le=100_000)]


class Bundle(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What the tasks of a bundle are told. Paths in ``order`` are names in the output folder."""

    version: int
    order: Order
    chunk: Chunk

    @property
    def count(self) -> int:
        """How many chunks there are."""
        return -(-len(self.order.frames) // self.chunk)


def write_bundle(
    scene: Scene,
    base: Path | None,
    job: ExportJob,
    folder: Path,
    chunk: int = USUAL_CHUNK,
    step: Callable[[int, int], None] = lambda done, total: None,
) -> tuple[Path, ...]:
    """Write a bundle into a new folder, whole or not at all; the files that were not there. FileError where the folder
    is there already, or artwork is missing."""
    if folder.exists():
        raise FileError(folder, "is there already.", "Choose another name.")
    job = replace(job, path=folder.parent / job.path.name)
    job.check()
    allowed = allowed_folders() if job.allowed is None else job.allowed
    with Reader(1, for_scene(base, allowed)) as reader:
        found = gathered(scene, base, reader)
    order = msgspec.structs.replace(order_of(job), path=job.path.name, allowed=())
    bundle = Bundle(VERSION, order, chunk)
    try:
        with unfinished(folder) as partial:
            (partial / SCENE).mkdir(parents=True)
            copy_into(found, partial / SCENE, step)
            (partial / ORDER).write_bytes(msgspec.json.format(msgspec.json.encode(bundle)))
            template = msgspec.json.encode(job_template(scene.name, bundle, found.name))
            (partial / TEMPLATE).write_bytes(msgspec.json.format(template))
            os.rename(partial, folder)
    except OSError as problem:
        raise FileError(folder, f"could not be written: {why(problem)}", "Try another place.") from problem
    return found.missing


def job_template(name: str, bundle: Bundle, scene_file: str) -> dict[str, Any]:
    """The template: a step that draws chunks, and one that joins them."""

    def script(what: str, *more: str, seconds: int) -> dict[str, Any]:
        arguments = [
            "task", what, "{{Param.Order}}", "--scene", "{{Param.Scene}}/" + scene_file, "--output", "{{Param.Output}}",
            *more,
        ]  # fmt: skip
        run = {"command": "{{Param.Program}}", "args": arguments, "timeout": seconds}
        return {"actions": {"onRun": run}}

    def path(which: str, kind: str, flow: str, default: str, says: str) -> dict[str, Any]:
        told = {"type": "PATH", "objectType": kind, "dataFlow": flow}
        return {"name": which, "default": default, "description": says} | told

    return {
        "specificationVersion": "jobtemplate-2023-09",
        "name": _job_name(name),
        "parameterDefinitions": [
            {
                "name": "Program", "type": "STRING", "default": "wild-heron",
                "description": "The command that draws: Wild Heron's, on each machine's path.",
            },
            path("Scene", "DIRECTORY", "IN", SCENE, "The scene with its artwork."),
            path("Order", "FILE", "IN", ORDER, "What is made of it."),
            path("Output", "DIRECTORY", "OUT", "output", "Where it is written."),
        ],
        "steps": [
            {
                "name": "Draw",
                "parameterSpace": {
                    "taskParameterDefinitions": [{"name": "Chunk", "type": "INT", "range": f"1-{bundle.count}"}]
                },
                "script": script("draw", "--chunk", "{{Task.Param.Chunk}}", seconds=86_400),
            },
            {"name": "Join", "dependencies": [{"dependsOn": "Draw"}], "script": script("join", seconds=86_400)},
        ],
    }  # fmt: skip


def _job_name(name: str) -> str:
    """A scene's name as the standard takes it: one line, in which nothing is to be filled in."""
    plain = "".join(each if each.isprintable() else " " for each in name)
    while "{{" in plain or "}}" in plain:
        plain = plain.replace("{{", "{").replace("}}", "}")
    return plain[:128].strip() or "Scene"


def read_bundle(path: Path) -> Bundle:
    """FileError where it is none."""
    try:
        with os.fdopen(open_regular(path), "rb") as file:
            data = file.read(MAX_BYTES + 1)
        if len(data) > MAX_BYTES:
            raise FileError(path, "is larger than any order of a bundle.", "Write the bundle anew.")
        found = msgspec.json.decode(data, type=Bundle)
    except OSError as problem:
        raise FileError(path, f"could not be read: {why(problem)}", "Write the bundle anew.") from problem
    except (ValueError, msgspec.MsgspecError) as problem:
        raise FileError(path, f"is no order of a bundle: {problem}.", "Write the bundle anew.") from problem
    if found.version != VERSION:
        raise FileError(path, f"is of version {found.version}.", "Use the Wild Heron that wrote it.")
    if Path(found.order.path).name != found.order.path:
        raise FileError(path, "names an output outside of its folder.", "Write the bundle anew.")
    return found


def _chunk_job(bundle: Bundle, output: Path, number: int) -> ExportJob:
    """The job of one chunk, counted from 1: frames in their place, or a lossless piece of a movie."""
    whole = bundle.order.job(path=output / bundle.order.path)
    frames = whole.frames[(number - 1) * bundle.chunk : number * bundle.chunk]
    if not whole.kind.movie:
        return replace(whole, frames=frames)
    return whole.piece(piece(bundle, output, number), frames)


def piece(bundle: Bundle, output: Path, number: int) -> Path:
    """The file of one chunk of a movie."""
    return output / f"{Path(bundle.order.path).stem}_pieces" / f"piece_{number:05d}.mkv"


def draw_chunk(
    bundle: Bundle, scene_file: Path, output: Path, number: int, progress: Callable[[int, int], None], workers: int = 1
) -> None:
    """Draw one chunk, counted from 1. It may be drawn again, and gives the same."""
    if not 1 <= number <= bundle.count:
        raise FileError(output, f"has no chunk {number}: there are {bundle.count}.", "Choose one of these.")
    job = replace(_chunk_job(bundle, output, number), processes=workers)
    try:
        job.path.parent.mkdir(parents=True, exist_ok=True)
    except OSError as problem:
        raise FileError(job.path.parent, f"could not be made: {why(problem)}", "Make room there.") from problem
    export(load(scene_file), scene_file.resolve().parent, job, progress)


def join_chunks(bundle: Bundle, scene_file: Path, output: Path, progress: Callable[[int, int], None]) -> Path:
    """Join a movie of its pieces, which go then; or look whether all frames are there. FileError names what is not."""
    job = bundle.order.job(path=output / bundle.order.path)
    if not job.kind.movie:
        gone = [path for path in job.written() if not path.is_file()]
        if gone:
            raise FileError(gone[0], f"is missing, of {len(job.frames)} frames.", "Draw its chunk again.")
        return job.path.parent
    pieces = [piece(bundle, output, number) for number in range(1, bundle.count + 1)]
    gone = [path for path in pieces if not path.is_file()]
    if gone:
        raise FileError(gone[0], f"is missing, of {len(pieces)} pieces.", "Draw its chunk again.")
    join(load(scene_file), scene_file.resolve().parent, job, pieces, progress=progress)
    for path in pieces:
        path.unlink(missing_ok=True)
    with_pieces = pieces[0].parent
    if with_pieces.is_dir() and not any(with_pieces.iterdir()):
        with_pieces.rmdir()
    return job.path
