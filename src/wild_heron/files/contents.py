"""Plain data types of what the reader process returns."""

from typing import Any, Literal, NamedTuple

import msgspec
import numpy as np
from numpy.typing import NDArray

from ..arrays import Array, Pixels
from ..space.mesh import Mesh
from ..space.rotation import quaternion_to_matrix, slerp


class PictureInfo(msgspec.Struct, frozen=True):
    """A picture's size in artwork pixels, and whether it is vector art."""

    width: int
    height: int
    vector: bool = False


class SoundInfo(msgspec.Struct, frozen=True):
    seconds: float


class SoundRead(msgspec.Struct, frozen=True):
    """Samples (N, 2) at 48 kHz."""

    samples: NDArray[np.int16]


class MovieInfo(msgspec.Struct, frozen=True):
    width: int
    height: int
    count: int
    rate: float


class FoundLayer(msgspec.Struct, frozen=True, tag="layer"):
    """A picture in a layered file: where it lies on the canvas (x, y from the top-left corner, in canvas pixels)."""

    name: str
    layer: str
    x: float
    y: float
    width: int
    height: int
    crop: tuple[float, float, float, float] | None
    opacity: float
    visible: bool


class FoundGroup(msgspec.Struct, frozen=True, tag="group"):
    """A group of layers, far to near."""

    name: str
    visible: bool
    children: tuple["FoundGroup | FoundLayer", ...]


class Layers(msgspec.Struct, frozen=True):
    """The canvas in pixels and what lies on it, far to near."""

    width: int
    height: int
    children: tuple[FoundGroup | FoundLayer, ...]

    def count(self) -> int:
        """How many pictures there are."""
        waiting = list(self.children)
        total = 0
        while waiting:
            item = waiting.pop()
            if isinstance(item, FoundGroup):
                waiting.extend(item.children)
            else:
                total += 1
        return total


class TextSize(msgspec.Struct, frozen=True):
    """The size that a set text takes up in artwork pixels, and what is wrong with it ("" for nothing)."""

    width: int
    height: int
    problem: str = ""


class PixelsRead(msgspec.Struct, frozen=True):
    """A picture's pixels (H, W, 4), premultiplied: bytes, or floats; and what is wrong with it ("" for nothing)."""

    pixels: NDArray[Any]
    problem: str = ""


class Material(NamedTuple):
    """Base colour (r, g, b, a), the texture's number or None, and how it is drawn. ``cutoff``: alpha below it is
    not drawn."""

    colour: tuple[float, float, float, float] = (0.72, 0.7, 0.64, 1.0)
    texture: int | None = None
    blend: bool = False
    cutoff: float = 0.0
    double_sided: bool = False
    unlit: bool = False


class Part(NamedTuple):
    """A mesh in one material, hanging on a node. ``draft`` are fewer faces of the same corners, where it has many."""

    mesh: Mesh
    material: Material
    node: int
    draft: NDArray[np.uint32] | None = None


class AnimationTrack(NamedTuple):
    """Keys of one property of one node: times (K,) in seconds, values (K, C), or (K, 3, C) for cubic splines, where
    they are in-tangent, value, out-tangent (glTF 2.0, section 3.11)."""

    node: int
    path: Literal["translation", "rotation", "scale"]
    times: Array
    values: Array
    interpolation: str

    def at(self, seconds: float) -> Array:
        """The value (C,) at a time; before the first key and after the last it holds."""
        times, cubic = self.times, self.interpolation == "CUBICSPLINE"
        right = int(np.searchsorted(times, seconds, side="right"))
        if right == 0 or right == len(times):
            value = self.values[0 if right == 0 else -1]
            return self._unit(value[1] if cubic else value)
        left = right - 1
        step = float(times[right] - times[left])
        share = (seconds - float(times[left])) / step if step > 0.0 else 0.0
        if cubic:
            p0, m0 = self.values[left, 1], self.values[left, 2] * step
            p1, m1 = self.values[right, 1], self.values[right, 0] * step
            s2, s3 = share * share, share * share * share
            return self._unit(
                (2 * s3 - 3 * s2 + 1) * p0 + (s3 - 2 * s2 + share) * m0 + (3 * s2 - 2 * s3) * p1 + (s3 - s2) * m1
            )
        a, b = self.values[left], self.values[right]
        if self.interpolation == "STEP":
            return self._unit(a)
        if self.path == "rotation":
            return slerp(a, b, np.float64(share))
        return np.asarray(a + (b - a) * share)

    def _unit(self, value: Array) -> Array:
        return value / max(float(np.linalg.norm(value)), 1e-12) if self.path == "rotation" else value


class RestPose(NamedTuple):
    """A node of a model at rest: its parent's number or −1, and its place in it; ``matrix`` in their stead if any."""

    parent: int
    translation: Array
    rotation: Array
    scale: Array
    matrix: Array | None


class ModelContents(NamedTuple):
    """A read model; of its nodes parents come first."""

    parts: tuple[Part, ...]
    textures: tuple[Pixels, ...]
    nodes: tuple[RestPose, ...]
    animations: dict[str, tuple[AnimationTrack, ...]]

    def length(self, animation: str) -> float:
        """How long an animation is, in seconds."""
        return max((float(track.times[-1]) for track in self.animations.get(animation, ())), default=0.0)

    def poses(self, animation: str = "", seconds: float = 0.0) -> Array:
        """Matrices (K, 4, 4) of all nodes in the model's space, at a time of an animation."""
        moved: dict[tuple[int, str], Array] = {
            (track.node, track.path): track.at(seconds) for track in self.animations.get(animation, ())
        }
        out = np.zeros((len(self.nodes), 4, 4))
        for number, (parent, translation, rotation, scale, matrix) in enumerate(self.nodes):
            local = np.eye(4)
            if matrix is not None and not any((number, path) in moved for path in ("translation", "rotation", "scale")):
                local = matrix
            else:
                turn = quaternion_to_matrix(moved.get((number, "rotation"), rotation)[None])[0]
                local[:3, :3] = turn * moved.get((number, "scale"), scale)
                local[:3, 3] = moved.get((number, "translation"), translation)
            out[number] = local if parent < 0 else out[parent] @ local
        return out

    def bounds(self) -> tuple[Array, Array]:
        """Lowest and highest corner (3,) at rest."""
        return self.bounds_of(self.parts)

    def bounds_of(self, parts: "tuple[Part, ...]", moving: bool = False) -> tuple[Array, Array]:
        """The same corners (3,), (3,) of parts that its nodes carry; of ``moving`` ones with what their boxes come to
        in animations."""
        poses, corners = self.poses(), [np.zeros((0, 3))]
        filled = [part for part in parts if len(part.mesh.positions)]
        for part in filled:
            corners.append(_placed(part.mesh.positions.astype(np.float64), poses[part.node]))
        boxes = [(part.node, _corners(*np.array(part.mesh.bounds(), np.float64))) for part in filled] if moving else []
        for name, tracks in self.animations.items() if boxes else ():
            times = np.unique(np.concatenate([track.times for track in tracks] or [np.zeros(1)]))
            for time in times[np.linspace(0, len(times) - 1, min(len(times), _MOST_POSES)).astype(int)].tolist():
                poses = self.poses(name, time)
                corners += [_placed(box, poses[node]) for node, box in boxes]
        points = np.concatenate(corners)
        return (points.min(axis=0), points.max(axis=0)) if len(points) else (np.zeros(3), np.zeros(3))


_MOST_POSES = 200


def _placed(points: Array, pose: Array) -> Array:
    return np.asarray(points @ pose[:3, :3].T + pose[:3, 3])


def _corners(low: Array, high: Array) -> Array:
    """The eight corners (8, 3) of a box."""
    return np.array([[(low, high)[k >> axis & 1][axis] for axis in range(3)] for k in range(8)], dtype=np.float64)


class ModelSummary(msgspec.Struct, frozen=True):
    """A model's lowest and highest corner at rest, and of each animation how many nodes it moves."""

    low: tuple[float, float, float]
    high: tuple[float, float, float]
    animations: dict[str, int]


class SolidData(NamedTuple):
    """Parts in the node's own space, and what is wrong ("" for nothing). A logo is in artwork pixels, a model in
    units; ``contents`` poses the parts of a file."""

    parts: tuple[Part, ...]
    textures: tuple[Pixels, ...] = ()
    contents: ModelContents | None = None
    problem: str = ""

    def sphere(self) -> tuple[Array, float]:
        """Middle (3,) and radius of a sphere around all of it, at rest and in its animations."""
        if self.contents is not None:
            low, high = self.contents.bounds_of(self.parts, moving=True)
        else:
            bounds = np.array([part.mesh.bounds() for part in self.parts] or np.zeros((1, 2, 3)), dtype=np.float64)
            low, high = bounds[:, 0].min(axis=0), bounds[:, 1].max(axis=0)
        middle = 0.5 * (low + high)
        return middle, float(np.linalg.norm(high - middle))


class MotionTrack(NamedTuple):
    """Samples at frames (N,): positions (N, 3) in units, and angles (N, 3) about x, y, z in degrees or rotation
    matrices (N, 3, 3), where there are any."""

    frames: Array
    positions: Array
    angles: Array | None = None
    rotations: Array | None = None


class TakeTable(NamedTuple):
    """Samples at seconds (N,): columns (N, C) by name, as a take has them."""

    times: Array
    columns: Array
    names: tuple[str, ...]


class SeenFromAbove(msgspec.Struct, frozen=True):
    """A model as a height map's numbers (rows, columns) from 0 to 1 of ``low`` to ``high``; its width and depth in
    units, and its middle (x, z)."""

    share: Array
    low: float
    high: float
    width: float
    depth: float
    middle: tuple[float, float]


class CameraTrack(NamedTuple):
    """A camera's motion at seconds (N,), close enough that it is straight in between, and within SIDES where it jumps:
    positions (N, 3), quaternions (N, 4), focal length in mm (N,) of a ``sensor`` (width, height), and where it is told
    focus in units, f-stop and shutter in degrees (N,).

    ``shift`` (N, 2) is how far the axis of the lens lands to the right of and above the middle of the picture, in
    shares of its width and height. ``metres``: how many a unit has; None where the file does not say.
    """

    name: str
    seconds: Array
    positions: Array
    quaternions: Array
    focal_mm: Array
    sensor: tuple[float, float]
    fits_height: bool = False
    focus: Array | None = None
    f_stop: Array | None = None
    shutter: Array | None = None
    shift: Array | None = None
    metres: float | None = None


class FoundCameras(NamedTuple):
    """The cameras of a file, and what of it does not come in, a sentence each."""

    tracks: list[CameraTrack]
    notes: tuple[str, ...] = ()


class CutClip(msgspec.Struct, frozen=True):
    """A shot of a film: when it begins, in seconds, and for how long it is mixed with the one before, before and after
    that moment. ``blend``: how, as JSON, where a file of ours says it; with a note and a colour."""

    name: str
    camera: str
    begins: float
    before: float = 0.0
    after: float = 0.0
    blend: str = ""
    note: str = ""
    colour: str = ""


class FilmMarker(msgspec.Struct, frozen=True):
    """A marker at a second of a film; ``kind`` and ``colour`` where a file of ours says them."""

    seconds: float
    name: str
    kind: str = ""
    colour: str = ""


class FilmCuts(msgspec.Struct, frozen=True):
    """The shots of a film, its length in seconds, its markers, how many frames a second it counts, and what of it does
    not come in, a sentence each."""

    clips: tuple[CutClip, ...]
    seconds: float
    markers: tuple[FilmMarker, ...] = ()
    rate: float = 0.0
    notes: tuple[str, ...] = ()
