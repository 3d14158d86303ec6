"""The command that brings cameras and cuts of other programs into a scene."""

from pathlib import Path
from typing import Annotated

import typer

from ..files.artwork_files import rebase
from ..files.errors import FileError
from ..files.export_formats.coming_in import CAMERA_SUFFIXES, CUTS_SUFFIXES, brought_in, read_motion
from ..files.permission import for_scene
from ..files.project import SUFFIX, load, save
from ..files.reader import Reader
from .arguments import FileArgument, UsageError, app, check_nothing_there, path_of, tell


@app.command()
def bring(
    file: FileArgument,
    what: Annotated[str, typer.Argument(help="A camera (.glb .gltf .usda .csv) or a timeline (.otio).")],
    out: Annotated[Path, typer.Option("-o", "--out", help="The scene file that is written; it may be the same.")],
    quiet: Annotated[bool, typer.Option("--quiet", help="Say nothing while it goes well.")] = False,
    no_clobber: Annotated[bool, typer.Option("--no-clobber", help="Do not write over a file that is there.")] = False,
) -> None:
    """Bring cameras with their motion, or a film's cuts, from another program into a scene."""
    path, source = path_of(file), path_of(what)
    if source.suffix.lower() not in (*CAMERA_SUFFIXES, *CUTS_SUFFIXES):
        raise UsageError(f"{what}: use one of {', '.join((*CAMERA_SUFFIXES, *CUTS_SUFFIXES))}.")
    if out.suffix != SUFFIX:
        raise UsageError(f"--out {out}: is no name of a scene. Use one that ends in {SUFFIX}.")
    if not out.resolve().parent.is_dir():
        raise FileError(out, "lies in a folder that is not there.", "Make the folder first.")
    if no_clobber:
        check_nothing_there([out])
    scene = load(path)
    # The file was named here, by who may read it.
    with Reader(1, for_scene(path.resolve().parent, (str(source.resolve().parent),))) as reader:
        brought = brought_in(scene, source, read_motion(source, scene.settings.rate.fps, reader))
    save(rebase(brought.scene, path.resolve().parent, out.resolve().parent), out)
    if not quiet:
        for each in (brought.said, *brought.notes):
            tell(each, aside=True)
    tell(out)
