"""Commands that open a window, or put the application in place."""

import sys
from pathlib import Path
from typing import Annotated

import typer

from .. import __version__
from ..desk import open_window
from ..files.artwork_files import files_of
from ..files.project import SUFFIX, load
from ..helper_process import start_module
from .arguments import UsageError, app, check_nothing_there, path_of, tell

COMMANDS = (
    "open", "demo", "sample", "render", "export", "bring", "gather", "job", "task", "check", "tracker", "doctor",
    "integrate", "completion",
)  # fmt: skip


@app.callback(invoke_without_command=True)
def root(
    context: typer.Context,
    version: Annotated[bool, typer.Option("--version", help="Print the version.")] = False,
) -> None:
    """Wild Heron: animate cameras through layered graphics.

    wild-heron [FILE] opens the window.
    """
    if version:
        print(f"Wild Heron {__version__}")
    elif context.invoked_subcommand is None:
        open_window(None)


@app.command(name="open", hidden=True)
def open_files(files: Annotated[list[str], typer.Argument(help=".heron scene files.", show_default=False)]) -> None:
    """A window for each scene (what wild-heron FILE … does)."""
    paths = [path_of(name) for name in files]
    for name, path in zip(files, paths, strict=True):
        if not path.exists():
            commands = ", ".join(each for each in COMMANDS if each != "open")
            hint = "" if path.suffix == SUFFIX or "/" in name else f" Nor is it a command: those are {commands}."
            raise UsageError(f"{name}: was not found.{hint} See wild-heron --help.")
        load(path)
    for path in paths[1:]:
        start_module("wild_heron.launch", [path.absolute()], start_new_session=True, cwd=None)
    open_window(paths[0])


@app.command()
def demo(
    where: Annotated[bool, typer.Option("--where", help="Print the path of the shipped demo file instead.")] = False,
    copy: Annotated[
        Path | None, typer.Option("--copy", help="Put a copy of the scene and its artwork into a folder instead.")
    ] = None,
) -> None:
    """The window with the demo scene."""
    from ..demo import DEMO_SCENE

    if where:
        print(DEMO_SCENE)
    elif copy is not None:
        tell(_copied(DEMO_SCENE, copy))
    else:
        open_window(DEMO_SCENE, as_copy=True)


def _copied(scene_path: Path, folder: Path) -> Path:
    """A scene and its artwork copied into a folder, where nothing of theirs may be yet; the copy's path."""
    import shutil

    base = scene_path.parent
    wanted = [scene_path, *files_of(load(scene_path), base)]
    targets = [folder / path.relative_to(base) for path in wanted]
    check_nothing_there(targets, "Choose another folder.")
    written: list[Path] = []
    try:
        # The scene comes last: where it is, its artwork is.
        for path, target in reversed(list(zip(wanted, targets, strict=True))):
            target.parent.mkdir(parents=True, exist_ok=True)
            written.append(target)
            shutil.copyfile(path, target)
    except BaseException:
        for path in written:
            path.unlink(missing_ok=True)
        raise
    return targets[0]


@app.command()
def integrate(
    take_away: Annotated[bool, typer.Option("--remove", help="Take them away again.")] = False,
) -> None:
    """Put desktop entry, icon, file type, manual and shell completion in place for this user."""
    import shutil

    from ..integration import place

    share = place.user_share()
    if take_away:
        done = place.remove(share)
    else:
        own = Path(sys.argv[0])
        command = str(own.resolve()) if own.name == "wild-heron" and own.exists() else shutil.which("wild-heron")
        done = place.put(share, command or "wild-heron")
    place.refresh(share)
    for path in done:
        tell(f"{'removed ' if take_away else ''}{path}")
    if take_away and not done:
        print("There was nothing to remove.")


@app.command()
def completion(shell: Annotated[str, typer.Argument(help="bash, zsh or fish.", show_default=False)]) -> None:
    """Print the completion for a shell: eval "$(wild-heron completion bash)"."""
    from ..integration import place

    names = {"bash": "wild-heron.bash", "zsh": "_wild-heron", "fish": "wild-heron.fish"}
    if shell not in names:
        raise UsageError(f"completion {shell}: not a shell that is known. Use bash, zsh or fish.")
    print((place.HERE / names[shell]).read_text(encoding="utf-8"), end="")
