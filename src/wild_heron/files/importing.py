"""Builds nodes from imported files: names, sizes and places, ready to be added in one step."""

import re
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Literal

import msgspec

from ..edits import add_nodes, free_id, free_name
from ..scene import (
    AnyNode,
    Channel,
    ImageFile,
    Layer,
    Logo,
    Model,
    ModelFile,
    Movie,
    Null,
    Picture,
    Projection,
    Scene,
    SceneError,
    Sequence,
    Settings,
)
from ..scene.channels import OPACITY, POSITION, SCALE
from ..scene.validate import held, validate_change
from .artwork_files import source_for
from .contents import FoundGroup, FoundLayer
from .errors import FileError, why
from .formats import format_of
from .reader import Reader
from .sequences import Numbered, find_sequence

As = Literal["best", "picture", "sequence", "layers", "logo", "projection"]

_RUN = 4
"""So many files of one run that are brought in together are one moving picture."""


class Proposal(msgspec.Struct, frozen=True):
    """A node to be added. Its id is provisional; ``holder`` is the place of its carrier among the proposals.

    ``position`` (x, y, z) in units is relative to that carrier, or to where the artwork is put.
    """

    node: AnyNode
    holder: int | None = None
    position: tuple[float, float, float] = (0.0, 0.0, 0.0)
    values: tuple[tuple[str, float], ...] = ()


class Bringing(msgspec.Struct, frozen=True):
    """What was found in some files, and what could not be read."""

    proposals: tuple[Proposal, ...]
    problems: tuple[str, ...] = ()
    notes: tuple[str, ...] = ()


def bring(
    paths: Iterable[Path],
    base: Path | None,
    settings: Settings,
    reader: Reader,
    as_: As = "best",
    step: Callable[[int, int], None] = lambda done, total: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> Bringing:
    """Look at files and say what they become. ``step(done, total)`` is called before each and may raise.

    Raises Cancelled once ``cancelled()`` says so, in the midst of a file too.

    best: pictures, movies and models as they are, an OpenRaster file as its layers, and a run of numbered pictures
    as one moving picture.
    """
    found: list[Proposal] = []
    problems: list[str] = []
    notes: list[str] = []
    jobs = _jobs(list(paths), as_)
    for done, (path, kind, run) in enumerate(jobs):
        step(done, len(jobs))
        try:
            new = _Proposer(base, settings, reader, cancelled).propose(path, kind, run)
        except FileError as problem:
            problems.append(str(problem))
            continue
        except OSError as problem:
            problems.append(str(FileError(path, f"could not be read: {why(problem)}", "Check that you may read it.")))
            continue
        if run is not None:
            notes.append(f"{run.count} numbered files came in as one moving picture.")
        shift = len(found)
        found.extend(
            msgspec.structs.replace(each, holder=None if each.holder is None else each.holder + shift) for each in new
        )
    return Bringing(tuple(found), tuple(problems), tuple(notes))


def _jobs(paths: list[Path], as_: As) -> list[tuple[Path, As, Numbered | None]]:
    jobs: list[tuple[Path, As, Numbered | None]] = []
    taken: set[Path] = set()
    chosen = set(paths)
    for path in paths:
        if path in taken:
            continue
        run = None
        if as_ in ("best", "sequence") and path.is_file() and format_of(path).becomes not in ("movie", "model"):
            run = find_sequence(path)
        if run is not None and as_ == "best":
            numbers = [run.first + k for k in range(run.count) if _numbered(run, k) in chosen]
            if len(numbers) < _RUN:
                run = None
            else:
                run = msgspec.structs.replace(run, first=numbers[0], count=numbers[-1] - numbers[0] + 1)
        if run is not None:
            taken.update(_numbered(run, k) for k in range(run.count))
            jobs.append((path, "sequence", run))
        else:
            jobs.append((path, as_, None))
    return jobs


def _numbered(run: Numbered, k: int) -> Path:
    hashes = run.source.name.count("#")
    return run.source.with_name(run.source.name.replace("#" * hashes, str(run.first + k).zfill(hashes), 1))


class _Proposer:
    """Looks at single files."""

    def __init__(
        self, base: Path | None, settings: Settings, reader: Reader, cancelled: Callable[[], bool] = lambda: False
    ) -> None:
        self._base, self._settings, self._reader, self._cancelled = base, settings, reader, cancelled

    def propose(self, path: Path, as_: As, run: Numbered | None) -> list[Proposal]:
        """What a file becomes. FileError where it cannot be read, or becomes what no scene can hold."""
        found = self._look_at(path, as_, run)
        try:
            for each in found:
                held(each.node, AnyNode, each.node.name)
        except SceneError as problem:
            raise FileError(path, f"cannot be brought in: {problem}", "Rename it, or save it anew.") from problem
        return found

    def _look_at(self, path: Path, as_: As, run: Numbered | None) -> list[Proposal]:
        kind, reader, cancelled = format_of(path), self._reader, self._cancelled
        source = source_for(self._base, path)
        name = readable(path.stem)
        if as_ == "sequence":
            return [self._sequence(path, run)]
        if as_ == "layers" or (as_ == "best" and kind.becomes == "layers"):
            return self._layers(path, source, name)
        if as_ == "logo":
            size = reader.logo_size(path, cancelled)
            depth, bevel = round(0.08 * size.height), round(0.01 * size.height)
            outlines = ImageFile(source)
            return [
                Proposal(
                    Logo(
                        id="new", name=name, outlines=outlines, width=size.width, height=size.height, depth=depth,
                        bevel=bevel,
                    )
                )
            ]  # fmt: skip
        if as_ == "projection":
            info = reader.probe(path, cancelled)
            return [Proposal(Projection(id="new", name=name, source=source, width=info.width, height=info.height))]
        if kind.becomes == "model":
            return [self._model(path, source, name)]
        if kind.becomes == "movie":
            movie = reader.movie(path, cancelled)
            return [_picture(name, Movie(source, movie.count, movie.rate), movie.width, movie.height)]
        info = reader.probe(path, cancelled)
        return [_picture(name, ImageFile(source), info.width, info.height)]

    def _sequence(self, path: Path, run: Numbered | None) -> Proposal:
        if run is None:
            raise FileError(path, "is not one of several numbered pictures.", "Choose a file such as walk_0001.png.")
        size = self._reader.probe(_numbered(run, 0), self._cancelled)
        sequence = Sequence(source_for(self._base, run.source), run.first, run.count, self._settings.rate.fps)
        bare = run.source.stem.strip("#_-. ")
        title = readable(run.source.stem.replace("#", "") if bare else path.parent.name)
        return _picture(title, sequence, size.width, size.height)

    def _model(self, path: Path, source: str, name: str) -> Proposal:
        summary = self._reader.model(path, self._cancelled)
        first = next(iter(summary.animations), "")
        shape = ModelFile(source, _corner(summary.low), _corner(summary.high), first)
        # A glTF unit is a metre.
        scale = 1000.0 / self._settings.mm_per_unit
        return Proposal(Model(id="new", name=name, shape=shape), values=tuple((channel, scale) for channel in SCALE))

    def _layers(self, path: Path, source: str, name: str) -> list[Proposal]:
        """A null for the file, one for each group, and a picture for each layer, where they lie on the canvas."""
        layers = self._reader.layers(path, self._cancelled)
        unit = self._settings.pixels_per_unit
        found = [Proposal(Null(id="new", name=name))]

        def add(item: FoundGroup | FoundLayer, holder: int) -> None:
            if isinstance(item, FoundGroup):
                found.append(Proposal(Null(id="new", name=item.name, hidden=not item.visible), holder))
                here = len(found) - 1
                for child in item.children:
                    add(child, here)
                return
            x = (item.x + item.width / 2 - layers.width / 2) / unit
            y = (layers.height / 2 - item.y - item.height / 2) / unit
            picture = Picture(
                id="new",
                name=item.name,
                artwork=Layer(source, item.layer, item.crop),
                width=item.width,
                height=item.height,
                hidden=not item.visible,
            )
            values = ((OPACITY, item.opacity),) if item.opacity != 1.0 else ()
            found.append(Proposal(picture, holder, (x, y, 0.0), values))

        for child in layers.children:
            add(child, 0)
        return found


def readable(stem: str) -> str:
    """A file's name as a node's: ``far_ridge-2`` → “Far ridge 2”."""
    words = re.sub(r"[_\-\s]+", " ", stem).strip()
    return (words[:1].upper() + words[1:])[:180] or "Artwork"


def _picture(name: str, artwork: ImageFile | Sequence | Movie, width: int, height: int) -> Proposal:
    return Proposal(Picture(id="new", name=name, artwork=artwork, width=width, height=height))


def _corner(point: Iterable[float]) -> tuple[float, float, float]:
    x, y, z = (round(float(value), 6) for value in point)
    return x, y, z


def add_proposals(
    scene: Scene, proposals: Iterable[Proposal], places: Callable[[int], tuple[float, float, float]]
) -> tuple[Scene, tuple[str, ...]]:
    """The scene with the proposed nodes added; ``places(n)`` says where the n-th of those without a carrier is put.

    Returns the scene and the new ids in order. SceneError where a file could not hold the scene.
    """
    ids: list[str] = []
    added: list[AnyNode] = []
    names = {node.name for node in scene.nodes}
    taken = {node.id for node in scene.nodes}
    free = 0
    for proposal in proposals:
        name = free_name(names, proposal.node.name)
        node_id = free_id(taken, name)
        names.add(name)
        taken.add(node_id)
        x, y, z = proposal.position
        carrier = None
        if proposal.holder is not None:
            if proposal.holder >= len(ids):
                raise SceneError(f"{name} comes before its carrier.")
            carrier = ids[proposal.holder]
        else:
            dx, dy, dz = places(free)
            x, y, z = x + dx, y + dy, z + dz
            free += 1
        place = {channel: value for channel, value in zip(POSITION, (x, y, z), strict=True) if value}
        values = place | dict(proposal.values)
        node = msgspec.structs.replace(
            proposal.node,
            id=node_id,
            name=name,
            carrier=carrier,
            channels=tuple(Channel(channel, float(value)) for channel, value in values.items()),
        )
        added.append(node)
        ids.append(node_id)
    grown = add_nodes(scene, added)
    validate_change(scene, grown)
    return grown, tuple(ids)


def with_file(node: AnyNode, path: Path, base: Path | None, settings: Settings, reader: Reader) -> AnyNode:
    """The node with another file in place of its own: its keys and its place are kept, its size is the file's.

    FileError where the file cannot be read, or is of another kind than what the node shows.
    """
    becomes = format_of(path).becomes
    as_: As = "best"
    run = None
    if isinstance(node, Picture) and becomes != "model":
        as_ = "picture"
        if isinstance(node.artwork, Sequence) and becomes != "movie":
            as_, run = "sequence", find_sequence(path)
    elif isinstance(node, Logo | Projection):
        as_ = "logo" if isinstance(node, Logo) else "projection"
    new = _Proposer(base, settings, reader).propose(path, as_, run)[0].node
    if isinstance(node, Picture) and isinstance(new, Picture):
        artwork = new.artwork
        if isinstance(artwork, Sequence | Movie) and isinstance(node.artwork, Sequence | Movie):
            artwork = msgspec.structs.replace(artwork, timing=node.artwork.timing)
        return msgspec.structs.replace(node, artwork=artwork, width=new.width, height=new.height)
    if isinstance(node, Model) and isinstance(new, Model):
        return msgspec.structs.replace(node, shape=new.shape)
    if isinstance(node, Logo) and isinstance(new, Logo):
        return msgspec.structs.replace(node, outlines=new.outlines, width=new.width, height=new.height)
    if isinstance(node, Projection) and isinstance(new, Projection):
        return msgspec.structs.replace(node, source=new.source, width=new.width, height=new.height)
    raise FileError(path, f"is of another kind than what {node.name} shows.", "Bring it in as a new node.")
