"""What an export format cannot hold, as sentences for the user."""

from collections.abc import Callable, Iterable

from ...evaluate import evaluate
from ...scene import AnyNode, Ground, Model, ModelFile, Movie, Picture, Waves, moved_channels
from ...scene import Sequence as PictureSequence
from ...scene.channels import BLUR, RELIEF
from .lights import light_of
from .move import Move, MovedNode

_FORMATS = {".glb": "glTF", ".usda": "USD", ".usdc": "USD", ".usdz": "USD", ".csv": "A table"}


def notes_of(move: Move, suffix: str) -> tuple[str, ...]:
    """Of a move in the format of this suffix."""
    notes = [*_baked(move), *_lens(move, suffix)]
    if suffix == ".csv":
        shown = [each.node for each in move.nodes if isinstance(each.node, Picture) or each.level[1].min() < 1.0]
        if shown:
            notes.append("A table tells where nodes are, not what they show or how opaque they are.")
        notes += _skewed(move.nodes, "A table")
    else:
        notes += [*_artwork(move), *_lights(move, suffix), *_look(move)]
        if suffix == ".glb":
            notes += [*_skewed(move.nodes, "glTF"), *_faded(move.nodes)]
    left = [node.name for node in move.left]
    if left:
        notes.append(f"Left out, since there is nothing of their kind elsewhere: {_names(left)}.")
    return tuple(notes)


def _baked(move: Move) -> Iterable[str]:
    scene = move.scene
    if any(moved_channels(node) for node in scene.nodes) or scene.takes:
        yield "Movers and takes are baked into the keys."
    if any(node.binds for node in scene.nodes):
        yield "Binds are baked into the keys."
    if any(channel.formula or channel.links for node in scene.nodes for channel in node.channels):
        yield "Formulas and links are baked into the keys."
    loose = [each.node.name for each in move.nodes if each.node.carrier is not None and each.parent < 0]
    if loose:
        yield f"In the world by itself, without what carries it: {_names(loose)}."


def _lens(move: Move, suffix: str) -> Iterable[str]:
    if move.camera is None or suffix != ".glb":
        return
    yield "glTF has no focus, aperture and shutter; focal length is told as an angle of view."
    if len(move.camera.lens) > 1:
        yield "The lens changes by KHR_animation_pointer: a program that does not know it keeps the first focal length."


def _skewed(nodes: Iterable[MovedNode], what: str) -> Iterable[str]:
    names = [each.node.name for each in nodes if each.poses.skewed is not None]
    if names:
        yield f"{_names(names)}: skewed by what carries it, which {what} cannot hold. It is straightened."


def _faded(nodes: Iterable[MovedNode]) -> Iterable[str]:
    fading = [each for each in nodes if len(each.level[1]) > 1 and each.node.serves_as("seen")]
    if fading:
        yield (
            f"Opacity changes by KHR_animation_pointer: a program that does not know it shows {_names(fading)} at its"
            " most opaque, and not where it is at 0, since its size is 0 there, too."
        )


def _artwork(move: Move) -> Iterable[str]:
    nodes = [each.node for each in move.nodes]

    def those(kind: Callable[[AnyNode], bool]) -> list[str]:
        return [node.name for node in nodes if kind(node)]

    if names := those(lambda n: isinstance(n, Picture) and isinstance(n.artwork, Movie | PictureSequence)):
        yield f"Of moving pictures the first frame is shown: {_names(names)}."
    if names := those(lambda n: isinstance(n, Model) and isinstance(n.shape, ModelFile) and bool(n.shape.animation)):
        yield f"Animated models stand as at rest: {_names(names)}."
    if names := those(
        lambda n: isinstance(n, Ground) and isinstance(n.surface, Waves) and any(w.speed for w in n.surface.waves)
    ):
        yield f"Waves stand still: {_names(names)}."
    grounds = [node for node in nodes if isinstance(node, Ground) and node.is_animated(RELIEF)]
    if grounds:
        yield f"Relief stays as on the first frame: {_names(node.name for node in grounds)}."
    cards = [node for node in nodes if isinstance(node, Picture)]
    there = evaluate(move.scene, move.frames[:1], [node.id for node in cards]) if cards else None
    blurred = [
        node.name
        for node in cards
        if there is not None and (node.is_animated(BLUR) or bool((there.value(node.id, BLUR) > 0.0).any()))
    ]
    if blurred:
        yield f"Blur is left out: {_names(blurred)}."


def _lights(move: Move, suffix: str) -> Iterable[str]:
    lights = [(each.node.name, light) for each in move.nodes if (light := light_of(move, each)) is not None]
    ambient = [name for name, light in lights if light.kind == "ambient"]
    if ambient and suffix == ".glb":
        yield f"glTF has no ambient light: {_names(ambient)} is left out."
    points = [name for name, light in lights if light.kind == "point"]
    if points:
        yield (
            "Point lights fade with the square of the distance elsewhere, as bright as here at half their reach:"
            f" {_names(points)}."
        )
    if any(light.shadow for _, light in lights):
        yield "Shadows are as the other program casts them."


def _look(move: Move) -> Iterable[str]:
    settings = move.scene.settings
    distance = settings.distance
    left = []
    if distance is not None and distance.strength > 0.0:
        left.append("haze")
    if distance is not None and distance.blur > 0.0:
        left.append("blur by distance")
    if settings.background != "#000000":
        left.append("the background's colour")
    if left:
        yield f"Left out: {', '.join(left)}."


def _names(names: Iterable[str | MovedNode]) -> str:
    every = [each if isinstance(each, str) else each.node.name for each in names]
    return ", ".join(every[:6]) + (f" and {len(every) - 6} more" if len(every) > 6 else "")
