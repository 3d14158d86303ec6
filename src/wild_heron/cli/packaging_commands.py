"""Commands that hand a scene over: gathered, or as a bundle for render queues, whose tasks they also carry out."""

from pathlib import Path
from typing import Annotated

import typer

from ..files.permission import for_scene
from ..files.project import load
from .arguments import FileArgument, FormatOption, Progress, UsageError, app, find_formats, listed, path_of, tell
from .options import AllowOption, DrawingOptions, QuietOption, allowed_with, grouped


@app.command()
def gather(
    file: FileArgument,
    out: Annotated[Path, typer.Option("-o", "--out", help="A new folder, or a .zip.")],
    allow: AllowOption = None,
    quiet: QuietOption = False,
) -> None:
    """Put a scene and all its artwork into one folder or zip, by relative paths."""
    from ..files.gathering import gathered, write_gathered
    from ..files.reader import Reader

    path = path_of(file)
    scene = load(path)
    base = path.resolve().parent
    with Reader(1, for_scene(base, allowed_with(allow))) as reader:
        found = gathered(scene, base, reader)
    written = write_gathered(found, out)
    tell(written)
    if found.missing and not quiet:
        tell(f"Left out, since it is missing or may not be read: {listed(list(found.missing))}.", aside=True)


@app.command()
@grouped
def job(
    file: FileArgument,
    out: Annotated[Path, typer.Option("-o", "--out", help="A new folder for the bundle.")],
    drawing: DrawingOptions,
    name: Annotated[
        str, typer.Option("--name", help="What is made: movie.mp4, frame_####.png and so on.")
    ] = "film.mp4",
    output_format: FormatOption = None,
    chunk: Annotated[int, typer.Option("--chunk", help="Frames to a task.")] = 24,
    allow: AllowOption = None,
    quiet: QuietOption = False,
) -> None:
    """Write a bundle for render queues, in the Open Job Description standard."""
    from ..output.bundle import write_bundle
    from ..output.job import ExportJob

    path = path_of(file)
    scene = load(path)
    drawing.check()
    try:
        name.encode()
    except UnicodeEncodeError:
        raise UsageError("--name: is not text in UTF-8. Name it otherwise.") from None
    if not 1 <= chunk <= 100_000:
        raise UsageError(f"--chunk {chunk}: use 1 to 100000.")
    (shape,) = find_formats(scene, None if output_format is None else [output_format], False)
    wanted = ExportJob(
        path=Path(name),
        size=drawing.size_in(shape.width, shape.height),
        format=None if shape.plain == scene.plain_formats()[0] else shape.name,
        allowed=allowed_with(allow),
        **drawing.of(scene),
    )
    missing = write_bundle(scene, path.resolve().parent, wanted, out, chunk)
    tell(out / "template.json")
    if missing and not quiet:
        tell(f"Left out, since it is missing or may not be read: {listed(list(missing))}.", aside=True)


@app.command(hidden=True)
def task(
    what: Annotated[str, typer.Argument(help="draw or join.")],
    order: Annotated[Path, typer.Argument(help="The bundle's order.json.")],
    scene: Annotated[Path, typer.Option("--scene", help="The bundle's scene file.")],
    output: Annotated[Path, typer.Option("--output", help="The folder that is written to.")],
    chunk: Annotated[int, typer.Option("--chunk", help="Which chunk is drawn, counted from 1.")] = 1,
    workers: Annotated[int, typer.Option("--workers", help="How many processes draw.")] = 1,
) -> None:
    """Carry out one task of a bundle (what its template calls)."""
    from ..output.bundle import draw_chunk, join_chunks, read_bundle

    bundle = read_bundle(order)
    if what == "draw":
        draw_chunk(bundle, scene, output, chunk, Progress(False), workers)
        tell(f"Chunk {chunk} of {bundle.count} is drawn.")
    elif what == "join":
        tell(f"Written: {join_chunks(bundle, scene, output, Progress(False))}")
    else:
        raise UsageError(f"task {what}: use draw or join.")
