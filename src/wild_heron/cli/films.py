"""Commands that look at a film, write it, or check it."""

import os
import signal
from pathlib import Path
from typing import Annotated, Any, cast

import msgspec
import typer

from ..files.exchange.fewest import Tolerances
from ..files.permission import allowed_folders
from ..files.project import load
from ..output.kinds import Depth
from ..scene.output import has_output, resolve_camera
from .arguments import (
    CameraOption,
    DepthOption,
    FileArgument,
    FormatOption,
    FramesOption,
    Progress,
    ShotsOption,
    SizeOption,
    UsageError,
    app,
    check_artwork,
    check_drawing,
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


@app.command()
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
    frames: FramesOption = None,
    size: SizeOption = None,
    camera: CameraOption = None,
    shots: ShotsOption = None,
    output_formats: Annotated[
        list[str] | None, typer.Option("--format", help="An output format, by name; several, each to its own file.")
    ] = None,
    all_formats: Annotated[bool, typer.Option("--all-formats", help="Write every format of the scene.")] = False,
    samples: Annotated[int, typer.Option("--samples", help="Samples a frame, for motion blur.")] = 1,
    codec: Annotated[str | None, typer.Option("--codec", help="Of a movie: h264, av1, vp9.")] = None,
    quality: Annotated[float, typer.Option("--quality", help="0 to 100, of what is lossy.")] = 80.0,
    depth: DepthOption = None,
    transparent: Annotated[
        bool | None,
        typer.Option("--transparent/--opaque", help="Leave the background out, or not.", show_default="for EXR only"),
    ] = None,
    passes: Annotated[bool, typer.Option("--passes", help="Depth, motion and nodes, as layers of EXR frames.")] = False,
    quick: Annotated[
        bool, typer.Option("--quick", help="Draw as in the preview: edges and slanted artwork are less smooth.")
    ] = False,
    workers: Annotated[
        int | None, typer.Option("--workers", help="How many processes draw.", show_default="by the processors")
    ] = None,
    keep_going: Annotated[
        bool, typer.Option("--resume", help="Put each frame in its place at once; draw only those that are missing.")
    ] = False,
    quiet: Annotated[bool, typer.Option("--quiet", help="Say nothing while it goes well.")] = False,
    no_clobber: Annotated[bool, typer.Option("--no-clobber", help="Do not write over files that are there.")] = False,
    allow_missing: Annotated[
        bool, typer.Option("--allow-missing", help="Draw labelled stand-ins for files that are not there.")
    ] = False,
    allow: Annotated[
        list[Path] | None, typer.Option("--allow", help="A folder outside the scene's whose files may be read.")
    ] = None,
) -> None:
    """Write a movie, numbered frames or one picture; of several formats each to a file with its name."""
    from ..output.job import ExportJob
    from ..output.running import drawing_processes
    from ..output.several import export_each, jobs_for

    path = path_of(file)
    scene = load(path)
    base = path.resolve().parent
    check_one(camera, shots)
    allowed = (*allowed_folders(), *(os.path.realpath(folder) for folder in allow or ()))
    shapes = find_formats(scene, output_formats, all_formats)
    if size is not None and len(shapes) > 1:
        raise UsageError("--size: each of several formats is written in its own size. Leave it out, or name one.")
    check_drawing(samples, quality, depth)
    if workers is not None and not 1 <= workers <= 64:
        raise UsageError(f"--workers {workers}: use 1 to 64.")
    job = ExportJob(
        path=out,
        frames=tuple(frames_of(frames, shots, scene)),
        camera=resolve_camera(scene, camera),
        size=(shapes[0].width, shapes[0].height),
        samples=samples,
        fine=not quick,
        codec=codec,
        depth=cast(Depth | None, depth),
        quality=quality,
        transparent=transparent,
        passes=passes,
        processes=workers or drawing_processes(),
        allowed=allowed,
    )
    jobs = jobs_for(job, scene, shapes, lambda shape: parse_size(size, (shape.width, shape.height)))
    for each in jobs:
        each.check()
    if no_clobber:
        check_nothing_there([path for each in jobs for path in each.written()])
    if not allow_missing:
        check_artwork(scene, base, allowed)
    for _ in export_each(scene, base, jobs, Progress(quiet), resume=keep_going):
        pass


@app.command(name="export")
def export_move(
    file: FileArgument,
    out: Annotated[Path, typer.Option("-o", "--out", help="move.glb, .usda, .usdc, .usdz, .otio, .csv or .json.")],
    frames: FramesOption = None,
    camera: CameraOption = None,
    nodes: Annotated[
        str | None, typer.Option("--nodes", help='Names, separated by commas; "" for none.', show_default="all")
    ] = None,
    few_keys: Annotated[
        bool, typer.Option("--few-keys", help=f"As few keys as keep within {Tolerances().words()}.")
    ] = False,
    picture: Annotated[
        Path | None, typer.Option("--picture", help="Of a timeline: the movie, or frames, that its clips show.")
    ] = None,
    output_format: FormatOption = None,
    quiet: Annotated[bool, typer.Option("--quiet", help="Say nothing while it goes well.")] = False,
    no_clobber: Annotated[bool, typer.Option("--no-clobber", help="Do not write over a file that is there.")] = False,
    allow: Annotated[
        list[Path] | None, typer.Option("--allow", help="A folder outside the scene's whose files may be read.")
    ] = None,
) -> None:
    """Write the move itself for other programs: the camera, nulls, cards, models and lights, or the film's cuts."""
    from ..files.exchange.writing import MoveJob, write_move

    path = path_of(file)
    scene = load(path)
    base = path.resolve().parent
    name = find_format(scene, output_format)
    wanted = None if nodes is None else [find_node(scene, each.strip()) for each in nodes.split(",") if each.strip()]
    if camera is not None or has_output(scene):
        camera = None if camera is None else resolve_camera(scene, camera)
    job = MoveJob(
        out,
        tuple(parse_frames(frames, scene)),
        camera,
        wanted,
        Tolerances() if few_keys else None,
        next((each for each in scene.formats if each.name == name), None),
        (*allowed_folders(), *(os.path.realpath(folder) for folder in allow or ())),
        picture,
    )
    job.check()
    if no_clobber:
        check_nothing_there([out])
    notes = write_move(scene, base, job)
    if not quiet:
        for note in notes:
            tell(note, aside=True)


@app.command()
def check(
    file: FileArgument,
    output_format: FormatOption = None,
    as_json: Annotated[bool, typer.Option("--json", help="One JSON document, for other programs.")] = False,
    every: Annotated[bool, typer.Option("--all", help="Tell accepted findings too.")] = False,
    quiet: Annotated[bool, typer.Option("--quiet", help="Say nothing while it goes well.")] = False,
    allow: Annotated[
        list[Path] | None, typer.Option("--allow", help="A folder outside the scene's whose files may be read.")
    ] = None,
) -> None:
    """Tell what is wrong with a film. Exit status: 0 nothing, 1 findings, 2 it could not be checked."""
    from ..checks.report import as_document, as_text
    from ..process.checking import check_scene

    path = path_of(file)
    scene = load(path)
    base = path.resolve().parent
    allowed = (*allowed_folders(), *(os.path.realpath(folder) for folder in allow or ()))
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
