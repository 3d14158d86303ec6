"""The mesh cache: loaded in the background, kept while a node uses them."""

from collections.abc import Callable, Hashable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import moderngl
import numpy as np
from numpy.typing import NDArray

from ..arrays import Array, Pixels
from ..files.artwork_files import resolve
from ..files.contents import Material, ModelContents, SolidData
from ..files.errors import FileError
from ..files.light import as_light, light_of
from ..files.reader import Cancelled, Reader
from ..files.simple_solids import simple, stand_in_for
from ..log import log
from ..scene import ImageFile, Logo, Model, ModelFile
from .loading import Loader
from .mipmaps import build_mipmaps
from .textures import as_texture, by_processor

_CREASE = 0.02


@dataclass
class GpuPart:
    """One mesh in one material; its vertex arrays are made for each program that draws it.

    ``draft`` are the fewer faces it has when it is seen small, of the same corners; None where it has few anyway.
    """

    vertices: moderngl.Buffer
    indices: moderngl.Buffer
    draft: moderngl.Buffer | None
    material: Material
    texture: moderngl.Texture | None
    node: int
    arrays: dict[tuple[moderngl.Program, bool], moderngl.VertexArray] = field(default_factory=dict)

    def array(self, context: moderngl.Context, program: moderngl.Program, draft: bool = False) -> moderngl.VertexArray:
        draft = draft and self.draft is not None
        known = self.arrays.get((program, draft))
        if known is None:
            # Not every program uses everything that a corner has.
            names = [name for name in ("position", "direction", "texture_place") if name in program]
            layout = " ".join(
                f"{size}{'f' if name in names else 'x4'}"
                for name, size in (("position", 3), ("direction", 3), ("texture_place", 2))
            )
            faces = self.draft if draft else self.indices
            known = context.vertex_array(program, [(self.vertices, layout, *names)], faces)
            self.arrays[program, draft] = known
        return known


@dataclass
class GpuSolid:
    """A model or logo ready to be drawn; a sphere around it in its own space."""

    parts: list[GpuPart]
    textures: list[moderngl.Texture]
    contents: ModelContents | None
    middle: Array
    radius: float
    problem: str
    creased: bool = True
    """Whether any faces that meet are shaded as if there were a crease between them."""

    def release(self) -> None:
        for part in self.parts:
            for each in (*part.arrays.values(), part.vertices, part.indices, part.draft):
                if each is not None:
                    each.release()
        for texture in self.textures:
            texture.release()


class MeshStore:
    """Solids by what they are made of."""

    def __init__(self, context: moderngl.Context, reader: Reader) -> None:
        self._context, self._reader = context, reader
        self._loaded: dict[Hashable, GpuSolid] = {}
        self._latest: dict[str, Hashable] = {}
        self._loader = Loader()
        self._stamps: dict[Path, Hashable] = {}
        self._by_processor = by_processor(context)
        self.linear = False
        """Whether textures are to give linear light."""
        self.arrived = 0
        """How many solids came in since this was last set to 0."""

    @property
    def pending(self) -> int:
        return len(self._loader)

    def forget(self) -> None:
        """Look at every file anew; what did not change is kept."""
        self._stamps.clear()

    def _key(self, node: Model | Logo, base: Path | None, linear: bool | None = None) -> Hashable:
        if isinstance(node, Logo):
            shape = (node.depth, node.bevel, node.side)
            if isinstance(node.outlines, ImageFile):
                path = resolve(base, node.outlines.source)
                return ("logo", str(path), self._stamp(path), *shape)
            return ("logo", node.outlines, *shape)
        if isinstance(node.shape, ModelFile):
            path = resolve(base, node.shape.source)
            return ("model", str(path), self._stamp(path), self.linear if linear is None else linear)
        return (node.shape, node.surface)

    def _stamp(self, path: Path) -> Hashable:
        if path not in self._stamps:
            try:
                status = path.stat()
                self._stamps[path] = (status.st_mtime_ns, status.st_size)
            except OSError:
                self._stamps[path] = None
        return self._stamps[path]

    def get_all(
        self, nodes: list[Model | Logo], base: Path | None, final: bool, step: Callable[[int, int], None]
    ) -> list[GpuSolid | None]:
        """The solids of nodes; None, unless they are ``final``, for what is still being made."""
        keys = [self._key(node, base) for node in nodes]
        missing: set[Hashable] = set()
        for key, node in zip(keys, nodes, strict=True):
            if key in self._loaded:
                continue
            if isinstance(node, Model) and not isinstance(node.shape, ModelFile):
                self._loaded[key] = self._upload(simple(node), False)
            else:
                missing.add(key)
                self._loader.begin(key, lambda node=node: _made(node, base, self._reader))  # type: ignore[misc]
        if final:
            self._loader.finish(missing, self._take_in, step)
        else:
            self.collect()
        out: list[GpuSolid | None] = []
        for key, node in zip(keys, nodes, strict=True):
            if key in self._loaded:
                self._latest[node.id] = key
            # While another shape is being made, the one before is shown.
            out.append(self._loaded.get(self._latest.get(node.id)))
        return out

    def collect(self) -> None:
        """Send what was made to the graphics card."""
        for key, data in self._loader.finished():
            self._take_in(key, data)

    def _take_in(self, key: Hashable, data: SolidData) -> None:
        linear = isinstance(key, tuple) and key[0] == "model" and bool(key[-1])
        self._loaded[key] = self._upload(data, linear)
        self.arrived += 1

    def drop_unused(self, nodes: list[tuple[Model | Logo, Path | None]]) -> None:
        """Between frames: release what none of these nodes, with the folders that their paths start from, uses."""
        ids = {node.id for node, _ in nodes}
        self._latest = {node: key for node, key in self._latest.items() if node in ids}
        used = {self._key(node, base, linear) for node, base in nodes for linear in (False, True)}
        used |= set(self._latest.values())
        for key in [key for key in self._loaded if key not in used]:
            self._loaded.pop(key).release()
        self._loader.drop(lambda key: key in used)

    def _light(self, pixels: Pixels) -> NDArray[Any]:
        # Where the processor draws, what it looks up as light is off by up to a fortieth in the darks.
        return light_of(pixels) if self._by_processor else as_light(pixels)

    def _upload(self, data: SolidData, linear: bool) -> GpuSolid:
        gl = self._context
        textures = []
        for pixels in data.textures:
            shown = self._light(pixels) if linear else pixels
            texture = as_texture(gl, shown, linear)
            build_mipmaps(gl, texture, shown, linear)
            texture.filter = (moderngl.LINEAR_MIPMAP_LINEAR, moderngl.LINEAR)
            textures.append(texture)
        parts = []
        for mesh, material, node, fewer in data.parts:
            if not len(mesh.faces):
                continue
            corners = np.concatenate([mesh.positions, mesh.normals, mesh.uv], axis=1).astype("f4")
            number = material.texture
            texture_ = textures[number] if number is not None and 0 <= number < len(textures) else None
            indices = gl.buffer(np.ascontiguousarray(mesh.faces, "u4"))
            draft = gl.buffer(fewer) if fewer is not None else None
            parts.append(GpuPart(gl.buffer(corners), indices, draft, material, texture_, node))
        middle, radius = data.sphere()
        creased = any(_creased(mesh.positions, mesh.normals) for mesh, *_ in data.parts)
        return GpuSolid(parts, textures, data.contents, middle, radius, data.problem, creased)


def _creased(positions: NDArray[Any], normals: NDArray[Any]) -> bool:
    """Whether corners (N, 3) lie at one place with normals (N, 3) that differ."""
    if not len(positions):
        return False
    places = np.ascontiguousarray(positions, "f4")
    order = np.lexsort(places.T)
    same = (places[order[1:]] == places[order[:-1]]).all(axis=1)
    apart = np.abs(normals[order[1:]] - normals[order[:-1]]).max(axis=1) > _CREASE
    return bool((same & apart).any())


def _made(node: Model | Logo, base: Path | None, reader: Reader) -> SolidData:
    """A node's solid; where its file cannot be read, a plain stand-in and the problem."""
    path = None
    if isinstance(node, Model) and isinstance(node.shape, ModelFile):
        path = resolve(base, node.shape.source)
    elif isinstance(node, Logo) and isinstance(node.outlines, ImageFile):
        path = resolve(base, node.outlines.source)
    try:
        return reader.solid(node, path)
    except Cancelled:
        return stand_in_for(node, "")
    except FileError as problem:
        return stand_in_for(node, str(problem))
    except Exception as problem:  # Whatever it is, the other nodes go on.
        log.error("making %s", node.id, exc_info=problem)
        return stand_in_for(node, f"{node.name} could not be made: {problem!r}.")
