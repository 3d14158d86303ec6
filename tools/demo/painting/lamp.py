"""The street lamp of the fair: a paper lantern on a post, as a glTF file."""

from pathlib import Path

from wild_heron import edits
from wild_heron.files.export_formats.writing import MoveJob, write_move
from wild_heron.scene import Box, Channel, Cone, Cylinder, Model, Null, Scene, Settings
from wild_heron.scene.solids import Shape

_WOOD, _IRON, _PAPER, _RIB, _FLAME = "#3a2a3f", "#241d33", "#f2a65b", "#a4502f", "#ffe2b4"

# name, shape, surface, x, y, turns about x and z: in units of a tenth of a metre, which is what the fair has.
PARTS: tuple[tuple[str, Shape, str, float, float, float, float], ...] = (
    ("Foot", Cylinder(0.16, 0.14), _IRON, 0.0, 0.07, 0.0, 0.0),
    ("Post", Cylinder(0.05, 2.3), _WOOD, 0.0, 1.2, 0.0, 0.0),
    ("Knob", Cone(0.085, 0.2), _IRON, 0.0, 2.44, 0.0, 0.0),
    ("Arm", Box(0.74, 0.05, 0.05), _WOOD, 0.3, 2.2, 0.0, 0.0),
    ("Brace", Box(0.5, 0.035, 0.035), _WOOD, 0.18, 2.02, 0.0, 45.0),
    ("Chain", Box(0.02, 0.12, 0.02), _IRON, 0.6, 2.12, 0.0, 0.0),
    ("Cap", Cone(0.2, 0.12), _RIB, 0.6, 2.02, 0.0, 0.0),
    ("Paper", Cylinder(0.17, 0.38), _PAPER, 0.6, 1.78, 0.0, 0.0),
    ("Upper rib", Cylinder(0.175, 0.02), _RIB, 0.6, 1.88, 0.0, 0.0),
    ("Lower rib", Cylinder(0.175, 0.02), _RIB, 0.6, 1.68, 0.0, 0.0),
    ("Floor", Cylinder(0.18, 0.03), _RIB, 0.6, 1.58, 0.0, 0.0),
    ("Flame", Cone(0.05, 0.09), _FLAME, 0.6, 1.54, 180.0, 0.0),
)


class Lamp:
    """Is saved as a ``.glb``."""

    def save(self, path: Path) -> None:
        scene = Scene(name="Street lamp", settings=Settings(mm_per_unit=100.0))
        scene = edits.add_node(scene, Null(id="lamp", name="Street lamp"))
        for name, shape, surface, x, y, tilt, turn in PARTS:
            places = {"position.x": x, "position.y": y, "rotation.x": tilt, "rotation.z": turn}
            node = Model(
                id=edits.fresh_id(scene, name), name=name, carrier="lamp", shape=shape, surface=surface,
                channels=tuple(Channel(channel, value) for channel, value in places.items() if value),
            )  # fmt: skip
            scene = edits.add_node(scene, node)
        write_move(scene, None, MoveJob(path, (0.0,)))
