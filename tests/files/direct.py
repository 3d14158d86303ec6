"""The decoders of files called right here, by path, without the process that they run in otherwise."""

from pathlib import Path
from typing import Any

from wild_heron.files.decode import gltf, heights, images, layered, motion_tracks, moving, outlines, solid_meshes
from wild_heron.files.decode.source import Source, on_disk
from wild_heron.scene import ImageFile, Layer, Text


def _source(path: Path | None) -> Source | None:
    return None if path is None else on_disk(path)


def probe(path: Path) -> Any:
    return images.probe(on_disk(path))


def read_picture(path: Path, *arguments: Any, **more: Any) -> Any:
    return images.read_picture(on_disk(path), *arguments, **more)


def read_layers(path: Path) -> Any:
    return layered.read_layers(on_disk(path))


def read_layer(path: Path, layer: Layer, *arguments: Any) -> Any:
    return layered.read_layer(on_disk(path), layer, *arguments)


def read_model(path: Path) -> Any:
    return gltf.read_model(on_disk(path))


def build_solid(node: Any, path: Path | None = None) -> Any:
    return solid_meshes.build(node, _source(path))


def read_table(path: Path) -> Any:
    return motion_tracks.read_table(on_disk(path))


def read_animation(path: Path, *arguments: Any) -> Any:
    return motion_tracks.read_animation(on_disk(path), *arguments)


def heights_of_picture(path: Path) -> Any:
    return heights.heights_of_picture(on_disk(path))


def heights_of_model(node: Any, path: Path | None = None) -> Any:
    return heights.heights_of_model(node, _source(path))


def outlines_of(source: ImageFile | Text, path: Path | None) -> Any:
    return outlines.outlines_of(source, _source(path))


class MovieReader(moving.MovieReader):
    def __init__(self, path: Path) -> None:
        super().__init__(on_disk(path))
