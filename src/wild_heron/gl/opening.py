"""Opens OpenGL 3.3 off screen, by whichever way there is."""

import os
from collections.abc import Iterator
from typing import Any

import moderngl

from ..integration.libraries import libraries, missing

_VERSION = 330
_MOST_DEVICES = 8


class NoOpenGL(Exception):
    """OpenGL 3.3 is not to be had; the message says what was tried, and what to install."""


def ways() -> Iterator[tuple[str, dict[str, Any]]]:
    """What may be tried, in order: EGL as it is set up, each of its devices, and a screen's own."""
    yield "EGL", {"backend": "egl"}
    for number in range(_MOST_DEVICES):
        yield f"EGL device {number}", {"backend": "egl", "device_index": number}
    if os.environ.get("DISPLAY"):
        yield "GLX", {}


def open_context() -> tuple[moderngl.Context, str]:
    """A context of its own, and by which way it was opened. NoOpenGL where there is none."""
    tried: list[str] = []
    for name, how in ways():
        try:
            return moderngl.create_context(standalone=True, require=_VERSION, **how), name
        except Exception as problem:
            tried.append(f"{name}: {str(problem).rstrip('.') or type(problem).__name__}")
    raise NoOpenGL(_told(tried))


def _told(tried: list[str]) -> str:
    gone = missing([each for each in libraries() if each.name in ("libEGL.so.1", "libGL.so.1")])
    if gone is not None:
        return f"The picture cannot be drawn: {gone}"
    return (
        "The picture cannot be drawn: OpenGL 3.3 is not to be had. Install a graphics driver, or Mesa "
        f"(libgl1-mesa-dri, mesa-dri-drivers or mesa). wild-heron doctor says more. Tried {tried[0]}; {tried[-1]}."
    )
