"""``wild-heron doctor``: what the program found on this machine, for a report, and what is missing."""

import os
import platform
import re
import shutil
import sys
from collections.abc import Iterator
from importlib.metadata import PackageNotFoundError, requires, version
from pathlib import Path
from typing import Annotated, NamedTuple

import msgspec
import typer

from .. import __version__
from ..files.extras import EXTRAS
from ..integration.libraries import libraries
from .arguments import app, tell

_NAME = re.compile(r"^[A-Za-z0-9_.-]+")
_LEAST_MEMORY, _LEAST_DISK = 2.0, 1.0
"""GB below which it is said."""


class Fact(NamedTuple):
    """One thing that was looked at: under what heading, its name, what was found, and whether that will do."""

    heading: str
    name: str
    found: str
    is_fine: bool = True


def examine() -> Iterator[Fact]:
    """Look at everything, one after another."""
    yield from _program()
    yield from _libraries()
    yield from _drawing()
    yield from _screen()
    yield from _fonts()
    yield from _codecs()
    yield from _limits()


def _program() -> Iterator[Fact]:
    yield Fact("Program", "Wild Heron", __version__)
    yield Fact("Program", "Python", f"{platform.python_version()} ({sys.implementation.name})")
    yield Fact("Program", "System", f"{platform.system()} {platform.release()}, {platform.machine()}")
    for wish in sorted(requires("wild-heron") or [], key=str.lower):
        wanted, _, extra = wish.partition(";")
        found = _NAME.match(wanted)
        if found is None or "dev" in extra:
            continue
        try:
            yield Fact("Program", found[0], version(found[0]))
        except PackageNotFoundError:
            optional = next((what for what, package, _ in EXTRAS.values() if package == found[0]), None)
            said = f"not installed; {optional} want it" if optional else f"not installed; {wanted.strip()} is wanted"
            yield Fact("Program", found[0], said, optional is not None)


def _libraries() -> Iterator[Fact]:
    shown = {
        kind for kind, variable in (("x11", "DISPLAY"), ("wayland", "WAYLAND_DISPLAY")) if os.environ.get(variable)
    }
    gone = [each for each in libraries() if not each.is_there]
    for each in gone:
        # What only another kind of screen needs is no fault here.
        fine = bool(each.platform) and each.platform not in shown
        yield Fact("Libraries", each.name, f"not installed. {each.remedy}", fine)
    if not gone:
        yield Fact("Libraries", "All of them", "found")


def _drawing() -> Iterator[Fact]:
    """By a render process of the kind that draws: a driver that ends it does not end this."""
    from ..gl.request import FrameRequest, ThroughLens
    from ..process.client import RenderClient
    from ..process.messages import RenderError
    from ..scene import Camera, Scene, Settings

    camera = Camera(id="c", name="Camera")
    scene = Scene(settings=Settings(width=64, height=64), nodes=(camera,), camera="c")
    try:
        with RenderClient(slots=1, slot_bytes=64 * 64 * 4) as client:
            client.set_scene(scene, None)
            client.draw(FrameRequest(0.0, ThroughLens("c"), 64, 64))
            yield Fact("Drawing", "OpenGL", client.renderer)
    except (RenderError, OSError) as problem:
        yield Fact("Drawing", "OpenGL", str(problem), False)


def _screen() -> Iterator[Fact]:
    from ..desk.shell.screen import missing_screen

    for name, variable in (("Wayland", "WAYLAND_DISPLAY"), ("X11", "DISPLAY")):
        yield Fact("Screen", name, os.environ.get(variable) or "none")
    yield Fact("Screen", "Desktop", os.environ.get("XDG_CURRENT_DESKTOP") or "not told")
    why = missing_screen()
    # Where nobody sits before it, the commands are what is used.
    is_fine = why is None or not (os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY"))
    yield Fact("Screen", "A window", why or "can be opened", is_fine)


def _fonts() -> Iterator[Fact]:
    from ..files.errors import FileError
    from ..files.reader import Reader

    reader = Reader(1)
    try:
        families = reader.families()
        yield Fact("Fonts", "Families", f"{len(families)} installed", True)
    except FileError as problem:
        yield Fact("Fonts", "Families", str(problem), False)
    finally:
        reader.close()


def _codecs() -> Iterator[Fact]:
    import av.codec

    from ..output.kinds import KINDS

    known = av.codec.codecs_available
    for kind in KINDS:
        for codec in kind.codecs:
            wanted = [codec.encoder, *([codec.sound[0]] if codec.sound else [])]
            gone = [each for each in wanted if each not in known]
            what = f"PyAV comes without {' and '.join(gone)}" if gone else " and ".join(wanted)
            yield Fact("Movies", f"{kind.label}, {codec.label.partition(',')[0]}", what, not gone)


def _limits() -> Iterator[Fact]:
    yield Fact("Limits", "Processors", str(len(os.sched_getaffinity(0))))
    total = os.sysconf("SC_PHYS_PAGES") * os.sysconf("SC_PAGE_SIZE") / 1e9
    yield Fact("Limits", "Memory", f"{total:.1f} GB", total >= _LEAST_MEMORY)
    import platformdirs

    place = Path(platformdirs.user_cache_dir("wild-heron"))
    there = next(each for each in (place, *place.parents) if each.exists())
    free = shutil.disk_usage(there).free / 1e9
    yield Fact("Limits", "Free disk for previews", f"{free:.1f} GB in {there}", free >= _LEAST_DISK)


@app.command()
def doctor(
    as_json: Annotated[bool, typer.Option("--json", help="One JSON object, for programs.")] = False,
) -> int:
    """Say what was found on this machine: libraries, OpenGL, screen, fonts, codecs, limits. Status 1 where something is
    missing."""
    facts = []
    heading = ""
    for fact in examine():
        facts.append(fact)
        if as_json:
            continue
        if fact.heading != heading:
            if heading:
                print()
            tell(fact.heading)
            heading = fact.heading
        tell(f"{' ' if fact.is_fine else '!'} {fact.name:<26} {fact.found}")
    wrong = [fact for fact in facts if not fact.is_fine]
    if as_json:
        rows = [{"heading": f.heading, "name": f.name, "found": f.found, "fine": f.is_fine} for f in facts]
        tell(msgspec.json.encode({"fine": not wrong, "facts": rows}).decode())
    else:
        said = f"{len(wrong)} of these want attention: they are marked with !." if wrong else "Everything is here."
        print()
        tell(said)
    return 1 if wrong else 0
