"""What the scenes of the fair have in common: their layers, the emblem, and putting things in their place."""

from functools import lru_cache
from pathlib import Path

from msgspec.structs import replace

from wild_heron import edits
from wild_heron.files.contents import PictureInfo
from wild_heron.files.importing import add_proposals, bring
from wild_heron.files.reader import Reader
from wild_heron.scene import Channel, Distance, Ground, ImageFile, Logo, Picture, Scene, Wave, Waves

DUSK_HAZE = Distance("#8d6d9c", 16.0, 60.0, 0.34, 2.0)

# name, file, x, y, z, scale, colour: far to near.
LAYERS = (
    ("Night sky", "sky.webp", 0.0, 20.5, -44.0, 5.9, "#6d6aa6"),
    ("Moon", "moon.webp", -15.0, 15.5, -40.0, 1.3, "#f6e3b4"),
    ("Far ridge", "far-ridge.webp", 2.0, 8.4, -26.0, 3.2, "#9a7fae"),
    ("Near ridge", "near-ridge.webp", -3.0, 5.6, -17.0, 2.4, "#5b5f9c"),
    ("Mist", "mist.webp", 0.0, 3.2, -11.0, 2.6, "#e6a87c"),
    ("Emblem glow", "emblem-glow.svg", 0.0, 5.3, -0.6, 0.68, "#f2c25b"),
    ("Stalls", "stalls.webp", 0.4, 1.14, 4.6, 0.85, "#e07a4f"),
    ("Far lanterns", "lanterns-far.webp", 0.6, 3.8, 8.0, 0.62, "#f2a65b"),
    ("Near lanterns", "lanterns-near.webp", -1.0, 3.45, 11.2, 0.46, "#f2a65b"),
    ("Crowd edge", "crowd.webp", 0.0, 0.72, 13.0, 0.46, "#8d7fa6"),
    ("Grass", "grass.webp", 0.0, 1.42, 15.6, 0.38, "#6f9a98"),
)


def with_layers(scene: Scene, art: Path) -> Scene:
    """The scene with the painted layers at their depths."""
    for name, file, x, y, z, scale, colour in LAYERS:
        scene = picture(scene, art, name, file, colour, None)
        scene = placed(scene, scene.nodes[-1].id, x, y, z, scale)
    return scene


def emblem(scene: Scene, art: Path) -> Scene:
    """The scene with the emblem as a solid."""
    with Reader() as reader:
        found = bring([art / "emblem.svg"], art.parent, scene.settings, reader, "logo")
    (proposal,) = found.proposals
    assert isinstance(proposal.node, Logo)
    logo = replace(proposal.node, depth=54.0, bevel=5.0, side="#b9762f", gloss=0.45, colour="#f2c25b", takes_haze=False)
    scene, (node_id,) = add_proposals(scene, [replace(proposal, node=logo)], lambda number: (0.0, 0.0, 0.0))
    return placed(scene, node_id, 0.0, 5.3, 0.0, 0.52)


def placed(scene: Scene, node: str, x: float, y: float, z: float, scale: float = 1.0) -> Scene:
    """The scene with a node at a place, in a size."""
    values = {"position.x": x, "position.y": y, "position.z": z} | dict.fromkeys(
        ("scale.x", "scale.y", "scale.z"), scale
    )
    for channel, value in values.items():
        scene = edits.set_channel(scene, node, Channel(channel, value))
    return scene


@lru_cache
def _size(path: Path) -> PictureInfo:
    with Reader() as reader:
        return reader.probe(path)


def picture(scene: Scene, art: Path, name: str, file: str, colour: str, carrier: str | None) -> Scene:
    """The scene with a painted picture more."""
    size = _size(art / file)
    node = Picture(
        id=edits.fresh_id(scene, name),
        name=name,
        artwork=ImageFile(f"art/{file}"),
        width=size.width,
        height=size.height,
        colour=colour,
        carrier=carrier,
        takes_haze=name not in ("Moon", "Mist", "Emblem glow"),
    )
    return edits.add_node(scene, node)


def street(scene: Scene) -> Scene:
    """The scene with the fair's uneven street."""
    ground = Ground(
        id="street", name="Street", surface=Waves((Wave(12.0, 5.5, 0.26), Wave(-28.0, 2.9, 0.1, phase=70.0))), width=52.0,
        depth=13.0, tone="#3b2b4d", gloss=0.02, colour="#8d7fa6",
    )  # fmt: skip
    return placed(edits.add_node(scene, ground), "street", 0.0, -0.16, 8.6)
