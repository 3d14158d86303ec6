"""What commands have in common: their arguments, and what is said of wrong ones."""

import contextlib
import sys
import time
from pathlib import Path
from typing import Annotated, get_args
from urllib.parse import unquote, urlsplit

import typer

from ..evaluate.evaluation import FARTHEST_FRAME
from ..files.artwork_files import files_of
from ..files.errors import FileError
from ..files.permission import for_scene
from ..output.kinds import Depth
from ..scene import Format, Scene
from ..scene.output import resolve_shots

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
DepthOption = Annotated[
    str | None, typer.Option("--depth", help=f"Of a picture's numbers: {', '.join(get_args(Depth))}.")
]
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


def check_one(camera: str | None, shots: str | None) -> None:
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


def find_formats(scene: Scene, names: list[str] | None, every: bool) -> tuple[Format, ...]:
    """The formats of these names, or all; the scene's own frame where none is named."""
    shapes = scene.formats_with_main()
    if every:
        return shapes
    wanted = {find_format(scene, name) for name in names or ()}
    return tuple(each for each in shapes if each.name in wanted) or shapes[:1]


def parse_size(text: str | None, default: tuple[int, int]) -> tuple[int, int]:
    if text is None:
        return default
    width, _, height = text.lower().partition("x")
    if not (text.isascii() and width.isdecimal() and height.isdecimal() and int(width[:9]) > 0 and int(height[:9]) > 0):
        raise UsageError(f"--size {text}: not a size. Use WIDTHxHEIGHT, such as 1280x720.")
    return min(int(width[:9]), 10**8), min(int(height[:9]), 10**8)


def path_of(name: str) -> Path:
    """A file from its path, or from the file:// address that a desktop hands over."""
    if name.startswith("file://"):
        parts = urlsplit(name)
        if parts.netloc not in ("", "localhost"):
            raise UsageError(f"{name}: lies on another machine. Copy it here first.")
        return Path(unquote(parts.path))
    return Path(name)


def printable(text: str) -> str:
    """A text without what would steer a terminal."""
    return "".join(each if each.isprintable() else "�" for each in text)


def tell(what: object, aside: bool = False) -> None:
    """Say something on standard output, or with ``aside`` on standard error: names in it come from anyone's files."""
    print(printable(str(what)), file=sys.stderr if aside else sys.stdout)


def check_nothing_there(paths: list[Path], remedy: str = "Choose another name, or leave --no-clobber out.") -> None:
    there = [path for path in paths if path.exists()]
    if there:
        more = f" and {len(there) - 1} more" if len(there) > 1 else ""
        raise FileError(there[0], f"is there already{more}.", remedy)


def check_artwork(scene: Scene, base: Path, allowed: tuple[str, ...]) -> None:
    """FileError that names the files which are not there, or may not be read."""
    files = files_of(scene, base)
    missing = [path for path in files if not path.is_file()]
    if missing:
        raise FileError(
            listed(missing), "is missing." if len(missing) == 1 else "are missing.",
            "Put them back, or draw stand-ins with --allow-missing.",
        )  # fmt: skip
    outside = [path for path in files if not for_scene(base, allowed).allows(path)]
    if outside:
        folders = listed(list(dict.fromkeys(path.parent for path in outside)))
        raise FileError(listed(outside), "lies outside the scene's folder.", f"If it is yours: --allow {folders}.")


def listed(paths: list[Path]) -> str:
    return ", ".join(map(str, paths[:8])) + (f" and {len(paths) - 8} more" if len(paths) > 8 else "")


class Progress:
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
        # Who looks on may leave: that is no reason to stop.
        with contextlib.suppress(OSError):
            print(f"\r{words:60}", end="\n" if done == total else "", file=sys.stderr, flush=True)
