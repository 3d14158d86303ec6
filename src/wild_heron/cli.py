"""The command line: the window, and the same core without one."""

import contextlib
import os
import signal
import sys
import time
import warnings
from pathlib import Path
from typing import Annotated, Any, NoReturn
from urllib.parse import unquote, urlsplit

import msgspec
import typer

from . import __version__
from .desk import open_window
from .evaluate.evaluation import FARTHEST_FRAME
from .files.artwork import files_of
from .files.errors import FileError, why
from .files.permission import allowed_folders, for_scene
from .files.project import SUFFIX, load
from .scene import Scene, SceneError
from .scene.output import has_output, resolve_camera, resolve_shots

MAX_FRAMES = 1_000_000
_NAMES = {"help_option_names": ["-h", "--help"]}

app = typer.Typer(
    add_completion=False,
    no_args_is_help=False,
    pretty_exceptions_enable=False,
    rich_markup_mode=None,
    context_settings=_NAMES,
)

FileArgument = Annotated[str, typer.Argument(help="A .heron scene file.", show_default=False)]
FramesOption = Annotated[
    str | None, typer.Option("--frames", help="first:last[:step], or one frame.", show_default="the scene's range")
]
CameraOption = Annotated[
    str | None, typer.Option("--camera", help="A camera's or a framing's name.", show_default="what the shots show")
]
ShotsOption = Annotated[str | None, typer.Option("--shots", help="Names of shots, separated by commas.")]
SizeOption = Annotated[str | None, typer.Option("--size", help="WIDTHxHEIGHT in pixels.", show_default="the frame's")]
FormatOption = Annotated[str | None, typer.Option("--format", help="One of the scene's formats, by name.")]


class UsageError(Exception):
    """A wrong argument; the message names it and the remedy."""


class Stopped(BaseException):
    """A signal asked the command to end."""

    def __init__(self, number: int) -> None:
        self.number = number
        super().__init__()


def parse_frames(text: str | None, scene: Scene) -> list[float]:
    """``first:last[:step]`` or a single frame, ends included; the scene's range without one."""
    if text is None:
        return [float(frame) for frame in range(scene.settings.first, scene.settings.last + 1)]
    parts = text.split(":")
    try:
        numbers = [float(part) for part in parts]
    except ValueError:
        numbers = []
    if not 1 <= len(numbers) <= 3 or not all(abs(number) < 1e300 for number in numbers):
        raise UsageError(f"--frames {text}: not a range of frames. Use first:last[:step], such as 1:48 or 1:48:0.5.")
    if any(abs(number) > FARTHEST_FRAME for number in numbers):
        raise UsageError(f"--frames {text}: frames lie between {-FARTHEST_FRAME:.0f} and {FARTHEST_FRAME:.0f}.")
    if len(numbers) == 1:
        return numbers
    first, last = numbers[:2]
    step = numbers[2] if len(numbers) == 3 else 1.0
    if step <= 0.0 or last < first:
        raise UsageError(
            f"--frames {text}: the range is empty. The last frame comes after the first, the step is above 0."
        )
    steps = (last - first) / step
    if not steps < MAX_FRAMES:
        raise UsageError(f"--frames {text}: that is more than {MAX_FRAMES} frames. Ask for fewer.")
    count = int(steps + 1e-9) + 1
    return [first + i * step for i in range(count)]


def frames_of(text: str | None, shots: str | None, scene: Scene) -> list[float]:
    """The frames of a range that lie in the named shots; without any all of them."""
    numbers = parse_frames(text, scene)
    if shots is None:
        return numbers
    ranges = resolve_shots(scene, shots)
    found = [frame for first, end in ranges for frame in numbers if first <= frame < end]
    if not found:
        raise UsageError(f"--shots {shots}: none of the frames lies in them.")
    return found


def _check_one(camera: str | None, shots: str | None) -> None:
    if camera is not None and shots is not None:
        raise UsageError("--camera and --shots: shots have cameras of their own. Leave one of the two out.")


def find_node(scene: Scene, name: str) -> str:
    """A node's id from its name or id."""
    found = [node.id for node in scene.nodes if node.name == name] or [n.id for n in scene.nodes if n.id == name]
    if not found:
        known = ", ".join(node.name for node in scene.nodes) or "none"
        raise UsageError(f"there is no node “{name}”. The scene has: {known}.")
    if len(found) > 1:
        raise UsageError(f"several nodes are called “{name}”. Use an id: {', '.join(found)}.")
    return found[0]


def find_format(scene: Scene, name: str | None) -> str | None:
    if name is None:
        return None
    formats = scene.formats_with_main()
    if name not in (each.name for each in formats):
        raise UsageError(f"there is no format “{name}”. The scene has: {', '.join(each.name for each in formats)}.")
    return name


def parse_size(text: str | None, default: tuple[int, int]) -> tuple[int, int]:
    if text is None:
        return default
    width, _, height = text.lower().partition("x")
    if not (text.isascii() and width.isdecimal() and height.isdecimal() and int(width[:9]) > 0 and int(height[:9]) > 0):
        raise UsageError(f"--size {text}: not a size. Use WIDTHxHEIGHT, such as 1280x720.")
    return min(int(width[:9]), 10**8), min(int(height[:9]), 10**8)


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
    paths = [_path_of(name) for name in files]
    for name, path in zip(files, paths, strict=True):
        if not path.exists():
            commands = ", ".join(each for each in COMMANDS if each != "open")
            hint = "" if path.suffix == SUFFIX or "/" in name else f" Nor is it a command: those are {commands}."
            raise UsageError(f"{name}: was not found.{hint} See wild-heron --help.")
        load(path)
    import subprocess

    for path in paths[1:]:
        subprocess.Popen([sys.executable, "-m", "wild_heron", str(path)], start_new_session=True)
    open_window(paths[0])


def _path_of(name: str) -> Path:
    """A file from its path, or from the file:// address that a desktop hands over."""
    if name.startswith("file://"):
        parts = urlsplit(name)
        if parts.netloc not in ("", "localhost"):
            raise UsageError(f"{name}: lies on another machine. Copy it here first.")
        return Path(unquote(parts.path))
    return Path(name)


@app.command()
def demo(
    where: Annotated[bool, typer.Option("--where", help="Print the path of the shipped demo file instead.")] = False,
    copy: Annotated[
        Path | None, typer.Option("--copy", help="Put a copy of the scene and its artwork into a folder instead.")
    ] = None,
) -> None:
    """The window with the demo scene."""
    from .demo import DEMO_SCENE

    if where:
        print(DEMO_SCENE)
    elif copy is not None:
        print(_copied(DEMO_SCENE, copy))
    else:
        open_window(DEMO_SCENE, as_copy=True)


def _copied(scene_path: Path, folder: Path) -> Path:
    """A scene and its artwork copied into a folder, where nothing of theirs may be yet; the copy's path."""
    import shutil

    base = scene_path.parent
    wanted = [scene_path, *files_of(load(scene_path), base)]
    targets = [folder / path.relative_to(base) for path in wanted]
    _check_nothing_there(targets, "Choose another folder.")
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

    from .integration import place

    share = place.user_share()
    if take_away:
        done = place.remove(share)
    else:
        own = Path(sys.argv[0])
        command = str(own.resolve()) if own.name == "wild-heron" and own.exists() else shutil.which("wild-heron")
        done = place.put(share, command or "wild-heron")
    place.refresh(share)
    for path in done:
        print(f"{'removed ' if take_away else ''}{path}")
    if take_away and not done:
        print("There was nothing to remove.")


@app.command()
def completion(shell: Annotated[str, typer.Argument(help="bash, zsh or fish.", show_default=False)]) -> None:
    """Print the completion for a shell: eval "$(wild-heron completion bash)"."""
    from .integration import place

    names = {"bash": "wild-heron.bash", "zsh": "_wild-heron", "fish": "wild-heron.fish"}
    if shell not in names:
        raise UsageError(f"completion {shell}: not a shell that is known. Use bash, zsh or fish.")
    print((place.HERE / names[shell]).read_text(encoding="utf-8"), end="")


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
    from .evaluate.sample import sample as sample_scene

    # Whoever reads may have enough, and that ends it without a word.
    signal.signal(signal.SIGPIPE, signal.SIG_DFL)
    scene = load(_path_of(file))
    _check_one(camera, shots)
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


def printable(text: str) -> str:
    """A text without what would steer a terminal."""
    return "".join(each if each.isprintable() else "�" for each in text)


@app.command()
def render(
    file: FileArgument,
    out: Annotated[Path, typer.Option("-o", "--out", help="movie.mp4, movie.webm, frame_####.png or one picture.png.")],
    frames: FramesOption = None,
    size: SizeOption = None,
    camera: CameraOption = None,
    shots: ShotsOption = None,
    output_format: FormatOption = None,
    samples: Annotated[int, typer.Option("--samples", help="Samples a frame, for motion blur.")] = 1,
    quiet: Annotated[bool, typer.Option("--quiet", help="Say nothing while it goes well.")] = False,
    no_clobber: Annotated[bool, typer.Option("--no-clobber", help="Do not write over files that are there.")] = False,
    allow_missing: Annotated[
        bool, typer.Option("--allow-missing", help="Draw labelled stand-ins for files that are not there.")
    ] = False,
    allow: Annotated[
        list[Path] | None, typer.Option("--allow", help="A folder outside the scene's whose files may be read.")
    ] = None,
) -> None:
    """Write a movie, numbered frames or one picture."""
    from .render.export import ExportJob, drawing_processes, export

    path = _path_of(file)
    scene = load(path)
    base = path.resolve().parent
    _check_one(camera, shots)
    allowed = (*allowed_folders(), *(os.path.realpath(folder) for folder in allow or ()))
    name = find_format(scene, output_format)
    shape = next(each for each in scene.formats_with_main() if name in (None, each.name))
    if not 1 <= samples <= 1024:
        raise UsageError(f"--samples {samples}: use 1 to 1024.")
    if out.suffix.lower() == ".exr":
        raise UsageError(f"{out}: this version does not write EXR. Use .png.")
    job = ExportJob(
        path=out,
        frames=tuple(frames_of(frames, shots, scene)),
        camera=resolve_camera(scene, camera),
        size=parse_size(size, (shape.width, shape.height)),
        format=name,
        samples=samples,
        processes=drawing_processes(),
        allowed=allowed,
    )
    job.check()
    if no_clobber:
        _check_nothing_there(job.written())
    if not allow_missing:
        _check_artwork(scene, base, allowed)
    export(scene, base, job, _Progress(quiet))


def _check_nothing_there(paths: list[Path], remedy: str = "Choose another name, or leave --no-clobber out.") -> None:
    there = [path for path in paths if path.exists()]
    if there:
        more = f" and {len(there) - 1} more" if len(there) > 1 else ""
        raise FileError(there[0], f"is there already{more}.", remedy)


def _check_artwork(scene: Scene, base: Path, allowed: tuple[str, ...]) -> None:
    """FileError that names the files which are not there, or may not be read."""
    files = files_of(scene, base)
    missing = [path for path in files if not path.is_file()]
    if missing:
        raise FileError(
            _listed(missing), "is missing." if len(missing) == 1 else "are missing.",
            "Put them back, or draw stand-ins with --allow-missing.",
        )  # fmt: skip
    outside = [path for path in files if not for_scene(base, allowed).allows(path)]
    if outside:
        folders = _listed(list(dict.fromkeys(path.parent for path in outside)))
        raise FileError(_listed(outside), "lies outside the scene's folder.", f"If it is yours: --allow {folders}.")


def _listed(paths: list[Path]) -> str:
    return ", ".join(map(str, paths[:8])) + (f" and {len(paths) - 8} more" if len(paths) > 8 else "")


class _Progress:
    """Says on a terminal how far it is, and about how long it still takes."""

    def __init__(self, quiet: bool) -> None:
        self._on = not quiet and sys.stderr.isatty()
        self._started = time.monotonic()
        self._said = -1

    def __call__(self, done: int, total: int) -> None:
        if not self._on or done == self._said:
            return
        self._said = done
        left = (time.monotonic() - self._started) / done * (total - done) if done else 0.0
        words = f"{done} of {total} frames" + (f", about {left:.0f} s left" if 0 < done < total else "")
        print(f"\r{words:60}", end="\n" if done == total else "", file=sys.stderr, flush=True)


def run_command(arguments: list[str]) -> None:
    """Carry out a command; errors become one line on standard error and exit status 2."""
    _settle_streams()
    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, _stop)
    if arguments and not arguments[0].startswith("-") and arguments[0] not in COMMANDS:
        arguments = ["open", *arguments]
    try:
        app(arguments, standalone_mode=False)
        sys.stdout.flush()
    except (FileError, SceneError, UsageError) as problem:
        _fail(str(problem))
    except typer.Exit as leave:
        sys.exit(leave.exit_code)
    except Stopped as stopped:
        print("\nStopped. Nothing was left behind.", file=sys.stderr)
        sys.exit(128 + stopped.number)
    except BrokenPipeError:
        # Whoever reads has enough.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
    except OSError as problem:
        name = problem.filename or ("standard output" if problem.filename is None else "")
        _fail(f"{name}: could not be written or read: {why(problem)} Check the place, and that it is not full.")
    except Exception as problem:
        if hasattr(problem, "format_message"):
            _fail(f"{problem.format_message()} See wild-heron --help.")
        from .render.messages import RenderError

        if isinstance(problem, RenderError):
            _fail(f"{problem}")
        raise


COMMANDS = ("open", "demo", "sample", "render", "integrate", "completion")


def _stop(number: int, frame: object) -> None:
    # Once is enough: what is cleared away now is not to be interrupted.
    for each in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(each, signal.SIG_IGN)
    raise Stopped(number)


def _settle_streams() -> None:
    """Terminals that know few letters get a stand-in for the others; warnings of libraries stay inside."""
    warnings.simplefilter("ignore")
    for stream in (sys.stdout, sys.stderr):
        if hasattr(stream, "reconfigure"):
            stream.reconfigure(errors="replace")


def _fail(message: str) -> NoReturn:
    with contextlib.suppress(OSError):
        print("error: " + printable(" ".join(message.split())), file=sys.stderr, flush=True)
    # What could not be written is not tried again on the way out.
    with contextlib.suppress(OSError, ValueError):
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
    sys.exit(2)
