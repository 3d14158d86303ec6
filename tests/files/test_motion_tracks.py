"""Motion and heights from outside."""

import numpy as np
import pytest
from PIL import Image

import wild_heron as wh
from wild_heron.edits import baking
from wild_heron.evaluate import evaluate
from wild_heron.files.errors import FileError
from wild_heron.files.take_tables import take_of_motion
from wild_heron.space.ground import Field, height_map, relief

from .direct import heights_of_model, heights_of_picture, read_animation, read_table
from .layered_files import animated, glb


@pytest.mark.parametrize(
    ("heads", "mark"),
    [("frame,x,y,z,rx,ry,rz", ","), ("Frame;position.x;position.y;position.z;rotation.x;rotation.y;rotation.z", ";")],
)
def test_a_table_of_frames_becomes_a_nodes_motion(tmp_path, heads, mark):
    path = tmp_path / "walk.csv"
    frames = np.arange(0, 60, 2)
    rows = np.stack(
        [frames, np.sin(frames / 9), frames * 0.1, -frames * 0.05, 0 * frames, frames * 12.0, 0 * frames], 1
    )
    lines = [mark.join(f"{value:.9f}" for value in row) for row in rows[::-1]]
    path.write_text("\n".join([heads, *lines, "", ""]), encoding="utf-8-sig")
    motion = read_table(path)
    scene = wh.Scene(nodes=(wh.Null(id="n", name="N"),))
    allowed = baking.Tolerance(1e-4, 1e-3)
    scene = baking.take_motion(scene, "n", motion.frames, motion.positions, motion.angles, allowed)
    here = evaluate(scene, frames)
    assert here.position("n") == pytest.approx(rows[:, 1:4], abs=2e-4)
    assert here.value("n", "rotation.y") == pytest.approx(rows[:, 5], abs=2e-3)
    assert len(scene.node("n").channel("rotation.y").keys) == 2
    assert scene.node("n").channel("rotation.x") is None


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "is empty"),
        ("frame,x,y\n1,2,3\n", "no column z"),
        ("frame,x,y,z\n1,2,3,four\n", "in line 2"),
        ("frame,x,y,z\n1,2\n", "in line 2"),
        ("frame,x,y,z\n1,2,3,nan\n", "line 2"),
        ("frame,x,y,z\n1,2,3,1e300\n", "line 2"),
        ("frame,x,y,z\n1,2,3,4\n1,2,3,4\n", "frame 1 twice"),
        ("frame,x,y,z\n", "nothing under it"),
        (b"frame,x\xff,y,z\n", "not text in UTF-8"),
    ],
)
def test_a_table_that_cannot_be_used_says_where(tmp_path, text, says):
    path = tmp_path / "walk.csv"
    path.write_bytes(text if isinstance(text, bytes) else text.encode())
    with pytest.raises(FileError, match=says):
        read_table(path)
    with pytest.raises(FileError, match="was not found"):
        read_table(tmp_path / "none.csv")


def test_an_animation_of_a_model_becomes_a_nodes_motion(tmp_path, reader):
    half = np.array([[0, 0, 0, 1], [0, np.sqrt(0.5), 0, np.sqrt(0.5)], [0, 1, 0, 0]])
    path = tmp_path / "toy.glb"
    path.write_bytes(glb(*animated("rotation", half, "LINEAR", np.array([0.0, 0.5, 1.0]))))
    assert reader.model(path).animations == {"Swing": 1}
    name = "Swing"
    motion = read_animation(path, name, 24.0, 10.0)
    assert motion.frames[0] == 10.0
    assert motion.rotations.shape == (25, 3, 3)
    assert motion.positions == pytest.approx(np.tile([0.0, 2.0, 0.0], (25, 1)))
    assert motion.rotations[12] == pytest.approx(np.array([[0, 0, 1], [0, 1, 0], [-1, 0, 0]]), abs=1e-6)
    assert np.linalg.det(motion.rotations) == pytest.approx(np.ones(len(motion.frames)))
    angles = baking.unrolled_angles(motion.rotations, "yxz", np.zeros(3))
    scene = wh.Scene(nodes=(wh.Null(id="n", name="N"),))
    scene = baking.take_motion(scene, "n", motion.frames, motion.positions, angles, baking.Tolerance(1e-4, 1e-3))
    here = evaluate(scene, motion.frames)
    assert here.position("n") == pytest.approx(motion.positions, abs=2e-4)
    assert here.world("n")[:, :3, :3] == pytest.approx(motion.rotations, abs=1e-4)
    taken = take_of_motion(motion, 24.0)
    assert taken.times[[0, -1]] == pytest.approx([0.0, 1.0])
    assert np.abs(taken.columns[12, 3:]) == pytest.approx([0.0, np.sqrt(0.5), 0.0, np.sqrt(0.5)], abs=1e-6)
    with pytest.raises(FileError, match="no animation “walk”"):
        read_animation(path, "walk", 24.0)


@pytest.mark.parametrize("bits", [8, 16])
def test_a_grey_picture_becomes_heights(tmp_path, bits):
    ramp = np.linspace(0, 2**bits - 1, 300)[None, :] * np.ones((100, 1))
    image = Image.fromarray(ramp.astype(np.uint8 if bits == 8 else np.uint16))
    image.save(tmp_path / "hill.png")
    surface = height_map(heights_of_picture(tmp_path / "hill.png"), 0.0, 4.0, "hill.png")
    assert (surface.columns, surface.rows) == (129, 43)
    x = np.linspace(-10, 10, 41)
    got = relief(Field(surface, 20.0, 8.0), x, 0 * x, np.zeros(1))
    assert got.height == pytest.approx(4.0 * (x / 20 + 0.5), abs=0.03)
    scene = wh.Scene(nodes=(wh.Ground(id="g", name="G", surface=surface),))
    wh.save(scene, tmp_path / "s.heron")
    assert wh.load(tmp_path / "s.heron") == scene
    with pytest.raises(FileError, match=r"(not found|not there)"):
        heights_of_picture(tmp_path / "none.png")


@pytest.mark.parametrize("shape", [wh.Sphere(2.0), wh.Cone(1.5, 3.0), wh.Box(4.0, 1.0, 2.0)])
def test_a_model_seen_from_above_becomes_heights(shape):
    seen = heights_of_model(wh.Model(id="m", name="M", shape=shape))
    surface, width, depth = height_map(seen.share, seen.low, seen.high), seen.width, seen.depth
    assert seen.middle == pytest.approx([0.0, 0.0], abs=1e-6)
    x = np.linspace(-0.4, 0.4, 9) * width
    got = relief(Field(surface, width, depth), x, 0 * x, np.zeros(1)).height
    wanted = {
        wh.Sphere: lambda: np.sqrt(4.0 - x * x),
        wh.Cone: lambda: 1.5 - 3.0 * np.abs(x) / 1.5,
        wh.Box: lambda: 0.5 + 0 * x,
    }[type(shape)]()
    assert got == pytest.approx(wanted, abs=0.05)
