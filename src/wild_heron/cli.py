"""The command line: the window, and the same core without one."""

import os
import sys
from pathlib import Path
from typing import Annotated, Any, NoReturn

import msgspec
import typer

from . import __version__
from .desk import open_window
from .files.errors import FileError
from .files.project import load
from .scene import Camera, Scene, SceneError

app = typer.Typer(add_completion=False, no_args_is_help=False, pretty_exceptions_enable=False, rich_markup_mode=None)

FileArgument = Annotated[Path, typer.Argument(help="A .heron scene file.", show_default=False)]
FramesOption = Annotated[
    str | None, typer.Option("--frames", help="first:last[:step], or one frame.", show_default="the scene's range")
]
CameraOption = Annotated[
    str | None, typer.Option("--camera", help="A camera's name.", show_default="the scene's camera")
]
SizeOption = Annotated[str | None, typer.Option("--size", help="WIDTHxHEIGHT in pixels.", show_default="the frame's")]
FormatOption = Annotated[str | None, typer.Option("--format", help="One of the scene's formats, by name.")]


class UsageError(Exception):
    """A wrong argument; the message names it and the remedy."""


def parse_frames(text: str | None, scene: Scene) -> list[float]:
    """``first:last[:step]`` or a single frame, ends included; the scene's range without one."""
    if text is None:
        return [float(frame) for frame in range(scene.settings.first, scene.settings.last + 1)]
    parts = text.split(":")
    try:
        numbers = [float(part) for part in parts]
    except ValueError:
        numbers = []
    if not 1 <= len(numbers) <= 3 or not all(abs(number) < 1e9 for number in numbers):
        raise UsageError(f"--frames {text}: not a range of frames. Use first:last[:step], such as 1:48 or 1:48:0.5.")
    if len(numbers) == 1:
        return numbers
    first, last = numbers[:2]
    step = numbers[2] if len(numbers) == 3 else 1.0
    if step <= 0.0 or last < first:
        raise UsageError(
            f"--frames {text}: the range is empty. The last frame comes after the first, the step is above 0."
        )
    count = int((last - first) / step + 1e-9) + 1
    if count > 10_000_000:
        raise UsageError(f"--frames {text}: that is {count} frames. Ask for fewer.")
    return [first + i * step for i in range(count)]


def find_node(scene: Scene, name: str) -> str:
    """A node's id from its name or id."""
    found = [node.id for node in scene.nodes if node.name == name] or [n.id for n in scene.nodes if n.id == name]
    if not found:
        known = ", ".join(node.name for node in scene.nodes) or "none"
        raise UsageError(f"there is no node “{name}”. The scene has: {known}.")
    if len(found) > 1:
        raise UsageError(f"several nodes are called “{name}”. Use an id: {', '.join(found)}.")
    return found[0]


def find_camera(scene: Scene, name: str | None) -> str:
    """A camera's id by name, or the scene's camera."""
    if name is None:
        if scene.camera is None:
            raise UsageError("the scene has no camera. Add one in the window first.")
        return scene.camera
    node_id = find_node(scene, name)
    if not isinstance(scene.node(node_id), Camera):
        raise UsageError(f"“{name}” is not a camera.")
    return node_id


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
    if not (width.isdigit() and height.isdigit() and int(width) and int(height)):
        raise UsageError(f"--size {text}: not a size. Use WIDTHxHEIGHT, such as 1280x720.")
    return int(width), int(height)


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
def open_file(file: FileArgument) -> None:
    """The window with a scene (what wild-heron FILE does)."""
    open_window(file)


@app.command()
def demo(
    where: Annotated[bool, typer.Option("--where", help="Print the path of the shipped demo file instead.")] = False,
) -> None:
    """The window with the demo scene."""
    from .demo import DEMO_SCENE

    if where:
        print(DEMO_SCENE)
    else:
        open_window(DEMO_SCENE, as_copy=True)


@app.command()
def sample(
    file: FileArgument,
    nodes: Annotated[
        str | None, typer.Option("--nodes", help="Names, separated by commas.", show_default="all")
    ] = None,
    frames: FramesOption = None,
    camera: CameraOption = None,
    size: SizeOption = None,
    as_json: Annotated[bool, typer.Option("--json", help="One JSON object a line.")] = False,
) -> None:
    """Where nodes are over time, in the world and in the picture."""
    from .evaluate.sample import sample as sample_scene

    scene = load(file)
    camera_id = find_camera(scene, camera) if camera is not None or scene.camera is not None else None
    ids = [find_node(scene, name.strip()) for name in nodes.split(",")] if nodes else [n.id for n in scene.nodes]
    shape = parse_size(size, (scene.settings.width, scene.settings.height))
    numbers = parse_frames(frames, scene)
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
    return f"{record['frame']:10.3f} {record['node'][:24]:24} {x:12.5f} {y:12.5f} {z:12.5f} {seen} {depth}"


@app.command()
def render(
    file: FileArgument,
    out: Annotated[Path, typer.Option("-o", "--out", help="movie.mp4, movie.webm or frame_####.png.")],
    frames: FramesOption = None,
    size: SizeOption = None,
    camera: CameraOption = None,
    output_format: FormatOption = None,
    samples: Annotated[int, typer.Option("--samples", help="Samples a frame, for motion blur.")] = 1,
    quiet: Annotated[bool, typer.Option("--quiet", help="Say nothing while it goes well.")] = False,
) -> None:
    """Write a movie or numbered frames."""
    from .render.export import ExportJob, drawing_processes, export

    scene = load(file)
    name = find_format(scene, output_format)
    shape = next(each for each in scene.formats_with_main() if name in (None, each.name))
    if not 1 <= samples <= 1024:
        raise UsageError(f"--samples {samples}: use 1 to 1024.")
    if out.suffix.lower() == ".exr":
        raise UsageError(f"{out}: this version does not write EXR. Use .png.")
    job = ExportJob(
        path=out,
        frames=tuple(parse_frames(frames, scene)),
        camera=find_camera(scene, camera),
        size=parse_size(size, (shape.width, shape.height)),
        format=name,
        samples=samples,
        processes=drawing_processes(),
    )

    def progress(done: int, total: int) -> None:
        if not quiet and sys.stderr.isatty():
            print(f"\r{done} of {total} frames", end="\n" if done == total else "", file=sys.stderr, flush=True)

    export(scene, file.resolve().parent, job, progress)


def run_command(arguments: list[str]) -> None:
    """Carry out a command; errors become one line on standard error and exit status 2."""
    if arguments and not arguments[0].startswith("-") and arguments[0] not in COMMANDS:
        arguments = ["open", *arguments]
    try:
        app(arguments, standalone_mode=False)
    except (FileError, SceneError, UsageError) as problem:
        _fail(str(problem))
    except typer.Exit as leave:
        sys.exit(leave.exit_code)
    except typer.Abort:
        _fail("stopped. Nothing was left behind.")
    except KeyboardInterrupt:
        _fail("stopped. Nothing was left behind.")
    except BrokenPipeError:
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
    except Exception as problem:
        if hasattr(problem, "format_message"):
            _fail(f"{problem.format_message()} See wild-heron --help.")
        from .render.messages import RenderError

        if isinstance(problem, RenderError):
            _fail(f"{problem}")
        raise


COMMANDS = ("open", "demo", "sample", "render")


def _fail(message: str) -> NoReturn:
    print("error: " + " ".join(message.split()), file=sys.stderr)
    sys.exit(2)
