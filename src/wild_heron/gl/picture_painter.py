"""Draws flat pictures back to front, split where they intersect."""

from collections.abc import Iterator
from contextlib import AbstractContextManager
from typing import NamedTuple, Protocol

import moderngl
import numpy as np

from ..arrays import Array
from ..evaluate import Evaluation
from ..motion.timing import source_frame
from ..scene import AnyNode, Distance, Movie, Picture, Scene, Sequence, may_change
from ..scene.channels import ANCHOR, BLUR, OPACITY
from ..space.transform import product
from . import shaders
from .artwork_store import Artwork, ArtworkWant
from .blurring import LEAST
from .bsp import DrawOrder, Piece
from .edges import corners_in_frame
from .lighting import set_haze, set_light
from .uniforms import Uniforms
from .view_transform import NEAR, WHOLE_DEPTH, ViewTransform

FARTHEST = 1e12
"""Beyond this a graphics card's numbers do not hold what becomes of a place."""
_BEYOND = 0.06
"""How much more on each side than is seen is asked for, for what drifts and is filtered into it."""
_FRAME = np.array([[-1, 1, -1, 1], [-1, -1, 1, 1], [1, 1, 1, 1.0]])
_WHOLE = (0.0, 0.0, 1.0, 1.0)
ANISOTROPY, _LEANS = 8.0, 1.5
"""How much finer artwork is looked up along the way it leans, and from what slant on in a frame that is not kept."""


class PlacedPicture(NamedTuple):
    """A picture at one sample: what it shows, the matrix from u, v (v down) to the world, its opacity, its blur radius
    in artwork pixels, and whether any of it can be in view."""

    node: Picture
    moment: int
    placed: Array
    opacity: float
    blur: float
    in_view: bool

    def scale(self, eye: ViewTransform) -> float:
        """How many pixels of the frame an artwork pixel takes up at its nearest corner."""
        corners = self.placed @ np.array([[0, 1, 0, 1], [0, 0, 1, 1], [0, 0, 0, 0], [1, 1, 1, 1.0]])
        depth = 1.0 if eye.parallel else max(float(eye.depth(corners[:3].T).min()), 0.5)
        return eye.pixels_at_unit * self._side / depth

    @property
    def _side(self) -> float:
        """The longer side of an artwork pixel, in units."""
        across = float(np.linalg.norm(self.placed[:3, 0])) / self.node.width
        down = float(np.linalg.norm(self.placed[:3, 1])) / self.node.height
        return max(across, down)

    def want(self, eye: ViewTransform) -> ArtworkWant:
        """What it needs of the artwork store: as sharp as it is seen at its nearest corner."""
        scale = self.scale(eye)
        # What casts a shadow, or is blurred, is looked up beyond what is in view.
        if self.node.takes_light or self.blur >= LEAST:
            return ArtworkWant(self.node, self.moment, scale)
        return ArtworkWant(self.node, self.moment, scale, *self._seen(eye, self._side))

    def _seen(self, eye: ViewTransform, side: float) -> tuple[tuple[float, float, float, float] | None, float]:
        """The part of it that may be in view, from u, v to u, v, and how many pixels an artwork pixel, whose side is so
        many units, takes up there at the most. None where that cannot be told."""
        plane = (eye.clip @ self.placed)[np.ix_((0, 1, 3), (0, 1, 3))]
        if abs(np.linalg.det(plane)) < 1e-12 * max(float(np.abs(plane).max()), 1e-30) ** 3:
            return None, 0.0
        corners = np.linalg.inv(plane) @ _FRAME
        if not (corners[2] > 0.0).all():
            return None, 0.0
        uv = corners[:2] / corners[2]
        low, high = uv.min(axis=1), uv.max(axis=1)
        rim = _BEYOND * (high - low)
        box = (float(low[0] - rim[0]), float(low[1] - rim[1]), float(high[0] + rim[0]), float(high[1] + rim[1]))
        inside = np.clip(uv, 0.0, 1.0)
        depth = 1.0 if eye.parallel else float((plane[2] @ np.vstack([inside, np.ones(4)])).min())
        return (box, eye.pixels_at_unit * side / depth) if depth > 0.0 else (None, 0.0)


class StillPictures:
    """What of pictures does not change over time, worked out once for a scene."""

    def __init__(self) -> None:
        self._known: dict[str, tuple[Array, float, float]] = {}
        self._scene: Scene | None = None

    def look_up(self, evaluation: Evaluation, i: int, node: Picture) -> tuple[Array, float, float]:
        """The picture's matrix (4, 4) from u, v, its opacity and its own blur at sample ``i``."""
        if self._scene is not evaluation.scene:
            self._known, self._scene = {}, evaluation.scene
        known = self._known.get(node.id)
        if known is not None:
            return known
        unit = evaluation.scene.settings.pixels_per_unit
        w, h = node.width / unit, node.height / unit
        placed = evaluation.content(node.id)[i] @ np.array(
            [[w, 0, 0, -w / 2], [0, -h, 0, h / 2], [0, 0, 1, 0], [0, 0, 0, 1.0]]
        )
        opacity, blur = (float(evaluation.value(node.id, name)[i]) for name in (OPACITY, BLUR))
        found = (placed, opacity, blur)
        if not any(may_change(node, name) for name in (OPACITY, BLUR, *ANCHOR)) and evaluation.is_still(node.id):
            self._known[node.id] = found
        return found


class OneByOne(Protocol):
    """Keeps what fails for one node from the others."""

    def alone(self, node: AnyNode) -> AbstractContextManager[None]: ...


def place_pictures(
    evaluation: Evaluation,
    i: int,
    hidden: set[str],
    eye: ViewTransform,
    distance: Distance | None,
    still: StillPictures,
    context: OneByOne,
) -> list[PlacedPicture]:
    """The scene's pictures that show at sample ``i``, in the order of the scene."""
    found: list[tuple[Picture, int, Array, float, float]] = []
    for node in evaluation.scene.nodes:
        if isinstance(node, Picture) and node.id not in hidden:
            with context.alone(node):
                placed = _placed(evaluation, i, node, eye, distance, still)
                if placed is not None:
                    found.append(placed)
    return [PlacedPicture(*each, ok) for each, ok in zip(found, _may_be_seen(found, eye), strict=True)]


def _placed(
    evaluation: Evaluation, i: int, node: Picture, eye: ViewTransform, distance: Distance | None, still: StillPictures
) -> tuple[Picture, int, Array, float, float] | None:
    """A picture, which of its frames shows, its matrix, opacity and blur; None where it does not show."""
    placed, opacity, blur = still.look_up(evaluation, i, node)
    if opacity <= 0.0 or not np.abs(placed).max() < FARTHEST:
        return None
    moment: int | None = 0
    if isinstance(node.artwork, Sequence | Movie):
        moment = source_frame(node.artwork, float(evaluation.frames[i]), evaluation.scene.settings.rate.fps)
    if moment is None:
        return None
    if distance is not None and distance.blur > 0.0 and node.takes_haze:
        middle = placed[:3, 3] + 0.5 * (placed[:3, 0] + placed[:3, 1])
        away = float(np.linalg.norm(middle - eye.position))
        blur += distance.blur * min(max((away - distance.start) / (distance.end - distance.start), 0.0), 1.0)
    return node, moment, placed, opacity, blur


def _may_be_seen(pictures: list[tuple[Picture, int, Array, float, float]], eye: ViewTransform) -> list[bool]:
    """Whether any of each picture, with what blur spreads, can be in the frame."""
    if not pictures:
        return []
    pads = np.array([(1.6 * blur / node.width, 1.6 * blur / node.height) for node, _, _, _, blur in pictures])
    uv = np.array([[0, 0], [1, 0], [1, 1], [0, 1.0]])
    places = np.zeros((len(pictures), 4, 4))
    places[..., :2] = uv + pads[:, None, :] * (2.0 * uv - 1.0)
    places[..., 3] = 1.0
    clips = eye.clip @ np.array([placed for _, _, placed, _, _ in pictures])
    corners = places @ clips.transpose(0, 2, 1)
    w = corners[..., 3]
    behind = (w <= NEAR).all(axis=1)
    beyond = [(side > w * 1.02).all(axis=1) for k in (0, 1) for side in (corners[..., k], -corners[..., k])]
    return (~(behind | np.any(beyond, axis=0))).tolist()


def _corners(uv: Array) -> Array:
    return np.concatenate([uv, np.zeros((len(uv), 1)), np.ones((len(uv), 1))], axis=1)


def outside(corners: Array, near: float = 0.0, far: float = np.inf) -> bool:
    """Whether clip corners (K, 4) all lie beyond one side of the frame, behind the lens, or beyond a clip plane."""
    x, y, w = corners[:, 0], corners[:, 1], corners[:, 3]
    reach = w * 1.02
    if (w < near).all() or (w > far).all():
        return True
    return bool((w <= NEAR).all() or any((side > reach).all() for side in (x, -x, y, -y)))


class ShownPiece(NamedTuple):
    """A piece that is in view: its clip corners, the picture and what it shows."""

    piece: Piece
    corners: Array
    clip: Array
    picture: PlacedPicture
    artwork: Artwork


class PicturePainter:
    """Draws placed pictures."""

    def __init__(self, context: moderngl.Context) -> None:
        self._context = context
        # On a processor the driver's filter for what is slanted is slow, and jagged.
        self._most_slanted = 1.0 if is_software(context) else ANISOTROPY
        self._corners = context.buffer(reserve=4 * 8)
        self._programs: dict[tuple[str, tuple[str, ...]], tuple[moderngl.Program, moderngl.VertexArray]] = {}
        shadow = shaders.compiled(context, "picture", "picture_shadow")
        self._shadow = (shadow, context.vertex_array(shadow, [(self._corners, "2f", "place")]))
        self._order: tuple[bytes, DrawOrder] | None = None

    def _program(self, fragment: str, switches: tuple[str, ...]) -> tuple[moderngl.Program, moderngl.VertexArray]:
        key = (fragment, switches)
        if key not in self._programs:
            program = shaders.compiled(self._context, "picture", fragment, switches)
            self._programs[key] = (program, self._context.vertex_array(program, [(self._corners, "2f", "place")]))
        return self._programs[key]

    def in_order(
        self, pictures: list[PlacedPicture], artworks: list[Artwork | None], eye: ViewTransform
    ) -> list[ShownPiece]:
        """The pieces in view, from back to front; what lies behind a picture that fills the frame is left out."""
        shown: list[ShownPiece] = []
        clips: dict[int, Array] = {}
        for piece in self._sorted(pictures, artworks).from_eye(eye.position):
            picture, artwork = pictures[piece.picture], artworks[piece.picture]
            if artwork is None or not picture.in_view:
                continue
            if piece.picture not in clips:
                clips[piece.picture] = product(eye.clip, picture.placed)
            clip = clips[piece.picture]
            corners = _corners(piece.uv) @ clip.T
            if outside(corners, eye.near, eye.far):
                continue
            if artwork.opaque and picture.opacity >= 1.0 and picture.blur < LEAST and _fills(corners, eye):
                shown.clear()
            shown.append(ShownPiece(piece, corners, clip, picture, artwork))
        return shown

    def _sorted(self, pictures: list[PlacedPicture], artworks: list[Artwork | None]) -> DrawOrder:
        bounds = [artwork.bounds if artwork is not None else _WHOLE for artwork in artworks]
        key = b"".join(picture.placed.tobytes() for picture in pictures) + np.array(bounds).tobytes()
        if self._order is None or self._order[0] != key:
            pieces = []
            for number, (picture, (u0, v0, u1, v1)) in enumerate(zip(pictures, bounds, strict=True)):
                uv = np.array([[u0, v0], [u1, v0], [u1, v1], [u0, v1]])
                pieces.append(Piece(number, (_corners(uv) @ picture.placed.T)[:, :3], uv))
            self._order = (key, DrawOrder(pieces))
        return self._order[1]

    def fill_first(
        self, shown: list[ShownPiece], eye: ViewTransform, uniforms: Uniforms, size: tuple[int, int]
    ) -> bool:
        """Draw the solid insides of opaque pictures from front to back, so that what they hide is not drawn at all.

        Their depths are their places in the order. Returns whether anything was drawn.
        """
        count, drawn = len(shown), False
        # The farthest hides nothing.
        for number in range(count - 1, 0, -1):
            each = shown[number]
            if not each.artwork.opaque or each.picture.opacity < 1.0 or each.picture.blur >= LEAST:
                continue
            # Less the rim, over which its edge fades.
            margin, _ = _edges(each.piece, each.corners, each.clip, size)
            margin = _wider(margin, each, uniforms, size)
            if max(margin) > 0.4:
                continue
            self._draw(each, eye, uniforms, size, (-margin[0], -margin[1]), False, depth_at(number, count))
            drawn = True
        return drawn

    def draw(
        self, each: ShownPiece, eye: ViewTransform, uniforms: Uniforms, size: tuple[int, int], depth: float = 2.0
    ) -> None:
        """Draw one piece; blending and depth are set by whoever calls. ``depth``: at the depth of its place in the
        order (2: at its own)."""
        blurred = each.picture.blur >= LEAST
        soft = blurred or each.artwork.clear_rim
        margin, edge_in_view = ((0.0, 0.0), False) if soft else _edges(each.piece, each.corners, each.clip, size)
        margin = _wider(margin, each, uniforms, size)
        self._draw(each, eye, uniforms, size, margin, edge_in_view, depth)

    def _draw(
        self, each: ShownPiece, eye: ViewTransform, uniforms: Uniforms, size: tuple[int, int],
        margin: tuple[float, float], edged: bool, depth: float,
    ) -> None:  # fmt: skip
        node = each.picture.node
        haze, lit = uniforms.haze_on(node), uniforms.lights_on(node)
        cuts = each.piece.cuts[-shaders.MAX_CUTS :]
        fine = uniforms.footprint if uniforms.mattes is None and uniforms.aov is None else None
        if fine is not None and fine.fewest and _slant(each, size) < _LEANS:
            # Seen so large that one place to a pixel will do.
            fine = None
        if uniforms.aov is not None:
            program, array = self._program("picture_pass", ("MOVING",))
        else:
            switches = shaders.chosen(
                EDGED=edged, HAZED=haze is not None, LIT=lit, CUT=len(cuts) > 0, FINE=fine is not None,
                LINEAR=lit and uniforms.linear,
            )  # fmt: skip
            program, array = self._program("picture", switches)
        program["clip_from_picture"].write(np.ascontiguousarray(each.clip.T, dtype="f4"))
        program["margin"] = (0.0, 0.0) if fine is not None else margin
        program["order"] = depth
        program["seen_depth"] = eye.seen_depth
        program["opacity"] = each.picture.opacity
        program["inside"] = each.artwork.inside
        if "world_from_picture" in program:
            world = eye.near_origin(each.picture.placed)
            program["world_from_picture"].write(np.ascontiguousarray(world.T, dtype="f4"))
        if haze is not None:
            set_haze(program, haze, eye.position, eye.origin, uniforms.linear)
        if fine is not None:
            fine.bind(program, node, each.clip, size)
        if uniforms.aov is not None:
            uniforms.aov.bind(program, node, self._in_contents(each, uniforms), size)
        if lit:
            _bind_light(program, each, eye, uniforms)
        uv = each.piece.whole.uv
        if fine is not None:
            # Beyond the artwork too, as far as a motion takes it.
            uv = uv + (2.0 * (uv >= uv.mean(axis=0)) - 1.0) * np.array(margin)
        self._corners.write(np.ascontiguousarray(uv, dtype="f4"))
        slant = _slant(each, size) if fine is None and self._most_slanted > 1.0 else 1.0
        slanted = slant > (_LEANS if uniforms.drafts else 1.1)
        each.artwork.texture.anisotropy = min(slant, self._most_slanted) if slanted else 1.0
        each.artwork.texture.use(0)
        if uniforms.aov is not None:
            program["cut_count"] = len(cuts)
        if not len(cuts):
            array.render(moderngl.TRIANGLE_FAN, 4)
            return
        # All parts of a picture are drawn as the whole of it, so that what is worked out at a pixel is the same in all.
        padded = np.zeros((shaders.MAX_CUTS, 4), "f4")
        padded[: len(cuts)] = cuts
        program["cuts"].write(padded)
        program["cut_count"] = len(cuts)
        frame = self._context.fbo
        frame.scissor = corners_in_frame(each.corners, size)
        array.render(moderngl.TRIANGLE_FAN, 4)
        frame.scissor = None

    @staticmethod
    def _in_contents(each: ShownPiece, uniforms: Uniforms) -> Array:
        """From u, v into the contents of a picture."""
        node, unit = each.picture.node, uniforms.pixels_per_unit
        w, h = node.width / unit, node.height / unit
        return np.array([[w, 0, 0, -w / 2], [0, -h, 0, h / 2], [0, 0, 1, 0], [0, 0, 0, 1.0]])

    def depths(self, pictures: list[PlacedPicture], artworks: list[Artwork | None], clip: Array) -> None:
        """Draw what is not empty of pictures into a depth map, by a clip matrix (4, 4)."""
        program, array = self._shadow
        program["seen_depth"] = WHOLE_DEPTH
        square = np.array([[0, 0], [1, 0], [1, 1], [0, 1]], dtype="f4")
        for picture, artwork in zip(pictures, artworks, strict=True):
            if artwork is None:
                continue
            program["clip_from_picture"].write(np.ascontiguousarray((clip @ picture.placed).T, dtype="f4"))
            for name, value in (("margin", (0.0, 0.0)), ("order", 2.0), ("opacity", picture.opacity)):
                program[name] = value
            program["inside"] = artwork.inside
            self._corners.write(square)
            artwork.texture.use(0)
            array.render(moderngl.TRIANGLE_FAN, 4)


def is_software(context: moderngl.Context) -> bool:
    """Whether a processor draws."""
    return "llvmpipe" in str(context.info["GL_RENDERER"])


def _bind_light(program: moderngl.Program, each: ShownPiece, eye: ViewTransform, uniforms: Uniforms) -> None:
    normal = np.cross(each.picture.placed[:3, 1], each.picture.placed[:3, 0])
    program["normal"] = tuple(normal / max(float(np.linalg.norm(normal)), 1e-12))
    set_light(program, uniforms.lights, eye.position, eye.origin, 0.0)
    if uniforms.shadow is not None:
        uniforms.shadow.bind(program, eye.origin)


def _wider(
    margin: tuple[float, float], each: ShownPiece, uniforms: Uniforms, size: tuple[int, int]
) -> tuple[float, float]:
    """A margin in u and v, with what a sample's part of the time and of the lens takes beyond it."""
    if uniforms.footprint is None:
        return margin
    spread = uniforms.footprint.spread(each.picture.node, each.clip, each.piece.whole.uv, size)
    return margin[0] + spread[0], margin[1] + spread[1]


def depth_at(number: int, count: int) -> float:
    """The depth, −1 to 1, that stands for a place in the order from back to front."""
    return 1.0 - 2.0 * (number + 1) / (count + 1)


def centres(shown: list[ShownPiece], eye: ViewTransform) -> Iterator[float]:
    """How far away the middle of each piece is, along the axis."""
    for each in shown:
        yield float(eye.depth(each.piece.corners.mean(axis=0)))


def _slant(each: ShownPiece, size: tuple[int, int]) -> float:
    """How many times finer a piece is seen along than across where it leans away most: 1 where it faces the eye."""
    # The change of a place in the frame with u and v, by the quotient rule, at the middle of the piece; in plain
    # numbers, since arrays of two would take longer than all the rest.
    (xu, xv, _, x0), (yu, yv, _, y0), _, (wu, wv, _, w0) = each.clip.tolist()
    u, v = each.piece.uv.mean(axis=0).tolist()
    w = wu * u + wv * v + w0
    if w <= NEAR:
        return ANISOTROPY
    node, (width, height) = each.picture.node, size
    x, y = (xu * u + xv * v + x0) / w, (yu * u + yv * v + y0) / w
    a, b = (xu - x * wu) * width / node.width, (xv - x * wv) * width / node.height
    c, d = (yu - y * wu) * height / node.width, (yv - y * wv) * height / node.height
    total, area = a * a + b * b + c * c + d * d, a * d - b * c
    root = max(total * total - 4.0 * area * area, 0.0) ** 0.5
    return float(((total + root) / max(total - root, 1e-9 * total, 1e-300)) ** 0.5)


def _fills(corners: Array, eye: ViewTransform) -> bool:
    """Whether a convex piece covers the whole frame: every corner of the frame lies within all of its sides."""
    depth = corners[:, 3]
    if (depth <= NEAR).any() or (depth < eye.near).any() or (depth > eye.far).any():
        return False
    points = corners[:, :2] / corners[:, 3:]
    ahead = np.roll(points, -1, axis=0) - points
    frame = 1.02 * np.array([[-1, -1], [1, -1], [1, 1], [-1, 1.0]])
    offset = frame[:, None, :] - points[None]
    side = ahead[None, :, 0] * offset[..., 1] - ahead[None, :, 1] * offset[..., 0]
    return bool((side > 0).all() or (side < 0).all())


def _edges(piece: Piece, corners: Array, clip: Array, size: tuple[int, int]) -> tuple[tuple[float, float], bool]:
    """How far in u and v to draw beyond the picture's true edges, and whether such an edge may be in view."""
    uv = piece.uv
    if not ((uv <= 0.0) | (uv >= 1.0)).any():
        return (0.0, 0.0), False
    w = corners[:, 3]
    margin = (0.0, 0.0)
    depth = float(np.abs(w).max())
    across = float(np.hypot(clip[0, 0] * size[0], clip[1, 0] * size[1])) / 2.0
    down = float(np.hypot(clip[0, 1] * size[0], clip[1, 1] * size[1])) / 2.0
    if across > 0.0 and down > 0.0:
        margin = (min(2.0 * depth / across, 0.25), min(2.0 * depth / down, 0.25))
    if (w <= NEAR).any():
        return margin, True
    x, y = corners[:, 0] / w, corners[:, 1] / w
    count = len(uv)
    for i in range(count):
        j = (i + 1) % count
        true_edge = any(uv[i, k] == uv[j, k] and uv[i, k] in (0.0, 1.0) for k in (0, 1))
        if true_edge and not any((side[i] > limit and side[j] > limit) for side in (x, -x, y, -y) for limit in (1.01,)):
            return margin, True
    return margin, False
