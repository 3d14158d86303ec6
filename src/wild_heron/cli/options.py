"""Options that come together in several commands, and commands that take them as one."""

import os
from collections.abc import Callable
from dataclasses import dataclass, fields, is_dataclass
from functools import wraps
from inspect import Parameter, signature
from pathlib import Path
from typing import Annotated, Any, cast, get_args, get_type_hints

import typer

from ..files.permission import allowed_folders
from ..output.kinds import Depth
from ..scene import Scene
from ..scene.output import resolve_camera
from .arguments import (
    CameraOption,
    DepthOption,
    FramesOption,
    ShotsOption,
    SizeOption,
    UsageError,
    check_one,
    frames_of,
    parse_size,
)


def grouped(command: Callable[..., None]) -> Callable[..., None]:
    """A command some of whose parameters are dataclasses: each of their fields is an option of the command."""
    hints = get_type_hints(command, include_extras=True)
    groups: dict[str, Any] = {name: hint for name, hint in hints.items() if is_dataclass(hint)}
    flat: list[Parameter] = []
    for each in signature(command).parameters.values():
        if each.name not in groups:
            flat.append(each.replace(kind=Parameter.KEYWORD_ONLY, annotation=hints[each.name]))
            continue
        own = get_type_hints(groups[each.name], include_extras=True)
        for field in fields(groups[each.name]):
            flat.append(
                Parameter(field.name, Parameter.KEYWORD_ONLY, default=field.default, annotation=own[field.name])
            )

    @wraps(command)
    def run(**given: Any) -> None:
        for name, group in groups.items():
            given[name] = group(**{field.name: given.pop(field.name) for field in fields(group)})
        command(**given)

    run.__signature__ = signature(command).replace(parameters=flat)  # type: ignore[attr-defined]
    run.__annotations__ = {each.name: each.annotation for each in flat} | {"return": None}
    return run


AllowOption = Annotated[
    list[Path] | None, typer.Option("--allow", help="A folder outside the scene's whose files may be read.")
]
QuietOption = Annotated[bool, typer.Option("--quiet", help="Say nothing while it goes well.")]


def allowed_with(folders: list[Path] | None) -> tuple[str, ...]:
    """The folders whose files may be read: those that the user has allowed, and some more."""
    return (*allowed_folders(), *(os.path.realpath(folder) for folder in folders or ()))


@dataclass(frozen=True)
class WritingOptions:
    """What is said while files are written, what they may replace, and what may be read for them."""

    quiet: QuietOption = False
    no_clobber: Annotated[bool, typer.Option("--no-clobber", help="Do not write over files that are there.")] = False
    allow: AllowOption = None

    @property
    def allowed(self) -> tuple[str, ...]:
        return allowed_with(self.allow)


@dataclass(frozen=True)
class DrawingOptions:
    """Which frames are drawn, and how."""

    frames: FramesOption = None
    size: SizeOption = None
    camera: CameraOption = None
    shots: ShotsOption = None
    samples: Annotated[int, typer.Option("--samples", help="Samples a frame, for motion blur.")] = 1
    codec: Annotated[str | None, typer.Option("--codec", help="Of a movie: h264, av1, vp9.")] = None
    quality: Annotated[float, typer.Option("--quality", help="0 to 100, of what is lossy.")] = 80.0
    depth: DepthOption = None
    transparent: Annotated[
        bool | None,
        typer.Option("--transparent/--opaque", help="Leave the background out, or not.", show_default="for EXR only"),
    ] = None
    passes: Annotated[bool, typer.Option("--passes", help="Depth, motion and nodes, as layers of EXR frames.")] = False
    quick: Annotated[
        bool, typer.Option("--quick", help="Draw as in the preview: edges and slanted artwork are less smooth.")
    ] = False

    def check(self) -> None:
        """UsageError where they do not go together, or one is out of its range."""
        check_one(self.camera, self.shots)
        if not 1 <= self.samples <= 1024:
            raise UsageError(f"--samples {self.samples}: use 1 to 1024.")
        if not 0.0 <= self.quality <= 100.0:
            raise UsageError(f"--quality {self.quality:g}: use 0 to 100.")
        if self.depth is not None and self.depth not in get_args(Depth):
            raise UsageError(f"--depth {self.depth}: use {', '.join(get_args(Depth))}.")

    def size_in(self, width: int, height: int) -> tuple[int, int]:
        """The size that was asked for, or a frame's own."""
        return parse_size(self.size, (width, height))

    def of(self, scene: Scene) -> dict[str, Any]:
        """What they say of an export, as arguments of an ``ExportJob``."""
        return {
            "frames": tuple(frames_of(self.frames, self.shots, scene)),
            "camera": resolve_camera(scene, self.camera),
            "samples": self.samples,
            "fine": not self.quick,
            "codec": self.codec,
            "depth": cast(Depth | None, self.depth),
            "quality": self.quality,
            "transparent": self.transparent,
            "passes": self.passes,
        }
