"""Compiles shader programs from the GLSL 3.30 files in ``glsl/``.

Textures are premultiplied, and so is everything that is blended. A program is compiled for what it needs, by switches
(``#ifdef`` in the files), so that a plain picture costs one texture fetch.
"""

import re
from functools import cache
from importlib.resources import files

import moderngl

from .footprints import MOST_ALONG

MAX_LIGHTS = 8
MAX_PROJECTIONS = 4
MAX_CUTS = 16

_NUMBERS = {"MAX_LIGHTS": MAX_LIGHTS, "MAX_CUTS": MAX_CUTS, "MOST_ALONG": f"{MOST_ALONG}.0"}
_INCLUDE = re.compile(r'^#include "([a-z_.]+)"$', re.MULTILINE)


def compiled(
    context: moderngl.Context, vertex: str, fragment: str, switches: tuple[str, ...] = (), projections: int = 0
) -> moderngl.Program:
    """The program of two files, by their names without suffix, with some of the switches that they ask for."""
    both = (f"{vertex}.vert", f"{fragment}.frag")
    vertex_shader, fragment_shader = (source(name, switches, projections) for name in both)
    return context.program(vertex_shader=vertex_shader, fragment_shader=fragment_shader)


def chosen(**switches: bool) -> tuple[str, ...]:
    """The names of the switches that are on."""
    return tuple(name for name, on in switches.items() if on)


def source(name: str, switches: tuple[str, ...] = (), projections: int = 0) -> str:
    """A file of GLSL with what it includes, for a compiler."""
    numbers = {**_NUMBERS, "PROJECTIONS": projections, **dict.fromkeys(switches, 1)}
    defines = "".join(f"#define {key} {value}\n" for key, value in numbers.items())
    return f"#version 330\n{defines}{_whole(name)}"


@cache
def _whole(name: str) -> str:
    text = (files(__package__) / "glsl" / name).read_text("utf-8")
    return _INCLUDE.sub(lambda found: _whole(found[1]), text)
