"""Commands that look at a film, write it, or check it."""

import signal
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import msgspec
import typer

from ..files.export_formats.fewest import Tolerances
from ..files.project import load
from ..output.job import TILED_SIDE
from ..output.profile import Profile
from ..scene import Format, Scene
from ..scene.output import has_output, resolve_camera
from .arguments import (
    CameraOption,
    FileArgument,
    FormatOption,
    FramesOption,
    Progress,
    ShotsOption,
    SizeOption,
    UsageError,
    app,
    check_artwork,
    check_nothing_there,
    check_one,
    find_format,
    find_formats,
    find_node,
    frames_of,
    parse_frames,
    parse_size,
    path_of,
    printable,
    tell,
)
from .options import AllowOption, DrawingOptions, QuietOption, WritingOptions, allowed_with, grouped

if TYPE_CHECKING:
    from ..output.job import ExportJob


@app.command()
def sample(
    file: FileArgument,
    nodes: Annotated[
        str | None, typer.Option("--nodes", help="Names, separated by commas.", show_default="all")
    ] = None,
    frames: FramesOption = None,
    camera: CameraOption = None,
    shots: ShotsOption = None,
    size: SizeOption = None,
    as_json: Annotated[bool, typer.Option("--json", help="One JSON object a line.")] = False,
) -> None:
    """Where nodes are over time, in the world and in the picture."""
    from ..evaluate.sample import sample as sample_scene

    # Whoever reads may have enough, and that ends it without a word.
    signal.signal(signal.SIGPIPE, signal.SIG_DFL)
    scene = load(path_of(file))
    check_one(camera, shots)
    camera_id = resolve_camera(scene, camera) if camera is not None or has_output(scene) else None
    ids = [find_node(scene, name.strip()) for name in nodes.split(",")] if nodes else [n.id for n in scene.nodes]
    shape = parse_size(size, (scene.settings.width, scene.settings.height))
    numbers = frames_of(frames, shots, scene)
    if not as_json:
        print(f"{'frame':>10} {'node':24} {'x':>12} {'y':>12} {'z':>12} {'pixel x':>10} {'pixel y':>10} {'depth':>10}")
    # In blocks, so that a long range neither waits nor fills the memory.
    for start in range(0, len(numbers), 1000):
        for record in sample_scene(scene, ids, numbers[start : start + 1000], camera_id, shape):
            print(msgspec.json.encode(record).decode() if as_json else _row(record))


def _row(record: dict[str, Any]) -> str:
    x, y, z = record["position"]
    pixel = record["pixel"]
    seen = f"{pixel[0]:10.2f} {pixel[1]:10.2f}" if pixel else f"{'—':>10} {'—':>10}"
    depth = f"{record['depth']:10.4f}" if record["depth"] is not None else f"{'—':>10}"
    return f"{record['frame']:10.3f} {printable(record['node'])[:24]:24} {x:12.5f} {y:12.5f} {z:12.5f} {seen} {depth}"


@dataclass(frozen=True)
class FormatsOptions:
    """Which of a scene's formats are written."""

    output_formats: Annotated[
        list[str] | None, typer.Option("--format", help="An output format, by name; several, each to its own file.")
    ] = None
    all_formats: Annotated[bool, typer.Option("--all-formats", help="Write every format of the scene.")] = False


@dataclass(frozen=True)
class RunningOptions:
    """How drawing many frames goes."""

    workers: Annotated[
        int | None, typer.Option("--workers", help="How many processes draw.", show_default="by the processors")
    ] = None
    keep_going: Annotated[
        bool, typer.Option("--resume", help="Put each frame in its place at once; draw only those that are missing.")
    ] = False
    allow_missing: Annotated[
        bool, typer.Option("--allow-missing", help="Draw labelled stand-ins for files that are not there.")
    ] = False

    tiles: Annotated[
        bool,
        typer.Option("--tiles", help=f"Draw frames in tiles: up to {TILED_SIDE} pixels wide and high, as PNG or TIFF."),
    ] = False
    profile: Annotated[bool, typer.Option("--profile", help="Tell at the end where the time went, by stage.")] = False

    def check(self) -> None:
        """UsageError where one is out of its range."""
        if self.workers is not None and not 1 <= self.workers <= 64:
            raise UsageError(f"--workers {self.workers}: use 1 to 64.")
        if self.tiles and self.keep_going:
            raise UsageError("--resume: a frame that is drawn in tiles is drawn whole. Leave one of the two out.")


@app.command()
@grouped
def render(
    file: FileArgument,
    out: Annotated[
        Path,
        typer.Option(
            "-o",
            "--out",
            help="A movie (.mp4 .webm .mkv .webp .gif), numbered frames (frame_####.png .tif .exr .jpg .webp), or one "
            "picture (still.png).",
        ),
    ],
    drawing: DrawingOptions,
    formats: FormatsOptions,
    running: RunningOptions,
    writing: WritingOptions,
) -> None:
    """Write a movie, numbered frames or one picture; of several formats each to a file with its name."""
    from ..output.several import export_each

    path = path_of(file)
    scene = load(path)
    base = path.resolve().parent
    shapes = find_formats(scene, formats.output_formats, formats.all_formats)
    if drawing.size is not None and len(shapes) > 1:
        raise UsageError("--size: each of several formats is written in its own size. Leave it out, or name one.")
    drawing.check()
    running.check()
    jobs = _jobs(out, scene, shapes, drawing, running.workers, writing.allowed)
    profile = Profile() if running.profile else None
    jobs = [replace(each, profile=profile, tiled=running.tiles) for each in jobs]
    if writing.no_clobber:
        check_nothing_there([path for each in jobs for path in each.written()])
    if not running.allow_missing:
        check_artwork(scene, base, writing.allowed)
    for _ in export_each(scene, base, jobs, Progress(writing.quiet), resume=running.keep_going):
        pass
    if profile is not None:
        for line in profile.table().splitlines():
            tell(line, aside=True)


def _jobs(
    out: Path, scene: Scene, shapes: tuple[Format, ...], drawing: DrawingOptions, workers: int | None,
    allowed: tuple[str, ...],
) -> "list[ExportJob]":  # fmt: skip
    from ..output.job import ExportJob
    from ..output.running import drawing_processes
    from ..output.several import jobs_for

    own = (shapes[0].width, shapes[0].height)
    job = ExportJob(path=out, size=own, processes=workers or drawing_processes(), allowed=allowed, **drawing.of(scene))
    return jobs_for(job, scene, shapes, lambda shape: drawing.size_in(shape.width, shape.height))


@dataclass(frozen=True)
class MoveOptions:
    """What of a move is written."""

    frames: FramesOption = None
    camera: CameraOption = None
    nodes: Annotated[
        str | None, typer.Option("--nodes", help='Names, separated by commas; "" for none.', show_default="all")
    ] = None
    few_keys: Annotated[
        bool, typer.Option("--few-keys", help=f"As few keys as keep within {Tolerances().words()}.")
    ] = False
    picture: Annotated[
        Path | None, typer.Option("--picture", help="Of a timeline: the movie, or frames, that its clips show.")
    ] = None
    output_format: FormatOption = None


@app.command(name="export")
@grouped
def export_move(
    file: FileArgument,
    out: Annotated[Path, typer.Option("-o", "--out", help="move.glb, .usda, .usdc, .usdz, .otio, .csv or .json.")],
    what: MoveOptions,
    writing: WritingOptions,
) -> None:
    """Write the move itself for other programs: the camera, nulls, cards, models and lights, or the film's cuts."""
    from ..files.export_formats.writing import MoveJob, write_move

    path = path_of(file)
    scene = load(path)
    name = find_format(scene, what.output_format)
    wanted = None
    if what.nodes is not None:
        wanted = [find_node(scene, each.strip()) for each in what.nodes.split(",") if each.strip()]
    camera = what.camera
    if camera is not None or has_output(scene):
        camera = None if camera is None else resolve_camera(scene, camera)
    job = MoveJob(
        out,
        tuple(parse_frames(what.frames, scene)),
        camera,
        wanted,
        Tolerances() if what.few_keys else None,
        next((each for each in scene.formats if each.name == name), None),
        writing.allowed,
        what.picture,
    )
    job.check()
    if writing.no_clobber:
        check_nothing_there([out])
    notes = write_move(scene, path.resolve().parent, job)
    if not writing.quiet:
        for note in notes:
            tell(note, aside=True)


@app.command()
def check(
    file: FileArgument,
    output_format: FormatOption = None,
    as_json: Annotated[bool, typer.Option("--json", help="One JSON document, for other programs.")] = False,
    every: Annotated[bool, typer.Option("--all", help="Tell accepted findings too.")] = False,
    quiet: QuietOption = False,
    allow: AllowOption = None,
) -> None:
    """Tell what is wrong with a film. Exit status: 0 nothing, 1 findings, 2 it could not be checked."""
    from ..checks.report import as_document, as_text
    from ..process.checking import check_scene

    path = path_of(file)
    scene = load(path)
    base = path.resolve().parent
    allowed = allowed_with(allow)
    name = find_format(scene, output_format)
    if not has_output(scene):
        raise UsageError(f"{file}: has no camera, so there is no picture to check. Add one.")
    check_artwork(scene, base, allowed)
    found = check_scene(scene, base, allowed, (name,) if name else (), Progress(quiet))
    if as_json:
        print(msgspec.json.format(msgspec.json.encode(as_document(scene, found)), indent=2).decode())
    else:
        print(printable_lines(as_text(found, every)))
    if any(each.open for each in found):
        raise typer.Exit(1)


def printable_lines(text: str) -> str:
    return "\n".join(printable(line) for line in text.split("\n"))
