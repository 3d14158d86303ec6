"""glTF: meshes, materials, hierarchies and animation; and files that lie."""

import base64
import json

import numpy as np
import pytest
from scipy.spatial.transform import Rotation, Slerp

from wild_heron.files.errors import FileError
from wild_heron.scene import Model, ModelFile

from .direct import build_solid, read_model
from .layered_files import animated, glb, triangle


def test_a_model_is_read_with_its_hierarchy_and_colour(tmp_path):
    path = tmp_path / "cart.glb"
    path.write_bytes(glb(*triangle()))
    model = read_model(path)
    (part,) = model.parts
    assert part.mesh.faces.tolist() == [[0, 1, 2]]
    assert part.mesh.normals[0].tolist() == [0.0, 0.0, 1.0]
    assert part.material.colour == pytest.approx((1.0, 0.0, 0.0, 1.0))
    pose = model.poses()[part.node]
    assert pose @ [1, 0, 0, 1] == pytest.approx([2, 2, 0, 1])


def test_buffers_beside_the_file_and_in_it_are_the_same(tmp_path):
    gltf, binary = triangle()
    (tmp_path / "cart data.bin").write_bytes(binary)
    beside = gltf | {"buffers": [{"byteLength": len(binary), "uri": "cart%20data.bin"}]}
    inside = gltf | {
        "buffers": [{"byteLength": len(binary), "uri": "data:;base64," + base64.b64encode(binary).decode()}]
    }
    for name, each in (("a.gltf", beside), ("b.gltf", inside)):
        (tmp_path / name).write_text(json.dumps(each))
        assert read_model(tmp_path / name).parts[0].mesh.positions[1].tolist() == [1, 0, 0]


def test_rotations_turn_the_short_way_at_an_even_speed(tmp_path):
    turns = Rotation.from_euler("yx", [[0, 0], [170, 20], [-60, 40]], degrees=True)
    times = np.array([0.0, 0.5, 2.0])
    quaternions = turns.as_quat() * np.array([[1], [-1], [1]])
    (tmp_path / "m.glb").write_bytes(glb(*animated("rotation", quaternions, "LINEAR", times)))
    model = read_model(tmp_path / "m.glb")
    assert model.length("Swing") == 2.0
    wanted = Slerp(times, turns)
    for t in (0.0, 0.1, 0.49, 0.5, 1.3, 2.0):
        pose = model.poses("Swing", t)[model.parts[0].node]
        assert pose[:3, :3] / 2.0 == pytest.approx(wanted(t).as_matrix(), abs=1e-5)


@pytest.mark.parametrize(("kind", "at", "x"), [("STEP", 0.9, 0.0), ("LINEAR", 0.75, 3.0), ("LINEAR", 9.0, 4.0)])
def test_translations_step_or_glide_and_hold_past_the_end(tmp_path, kind, at, x):
    values = np.array([[0, 0, 0], [4, 0, 0.0]])
    (tmp_path / "m.glb").write_bytes(glb(*animated("translation", values, kind, np.array([0.0, 1.0]))))
    model = read_model(tmp_path / "m.glb")
    assert model.poses("Swing", at)[1, 0, 3] == pytest.approx(x)


def test_cubic_splines_are_hermite(tmp_path):
    # In-tangent, value, out-tangent for each key.
    values = np.array([[[0, 0, 0], [0, 0, 0], [6, 0, 0]], [[-2, 0, 0], [4, 0, 0], [0, 0, 0.0]]])
    gltf, binary = animated("translation", values, "CUBICSPLINE", np.array([0.0, 2.0]))
    (tmp_path / "m.glb").write_bytes(glb(gltf, binary))
    model = read_model(tmp_path / "m.glb")
    # p(½) = (p0 + p1)/2 + T·(m0 − m1)/8 of a cubic Hermite spline.
    assert model.poses("Swing", 1.0)[1, 0, 3] == pytest.approx(2.0 + 2.0 * (6.0 + 2.0) / 8.0)


def changed(**fields) -> dict:
    return triangle()[0] | fields


@pytest.mark.parametrize(
    "gltf",
    [
        changed(asset={"version": "1.0"}),
        changed(extensionsRequired=["KHR_draco_mesh_compression"]),
        changed(nodes=[{"children": [1]}, {"children": [0], "mesh": 0}]),
        changed(nodes=[{"mesh": 7}]),
        changed(scenes=[{"nodes": [9]}]),
        changed(meshes=[{"primitives": []}]),
        changed(bufferViews=[{"buffer": 0, "byteOffset": 0, "byteLength": 10**9}]),
        changed(
            accessors=[
                {"bufferView": 0, "componentType": 5126, "count": 10**7, "type": "VEC3"},
                {"bufferView": 1, "componentType": 5123, "count": 3, "type": "SCALAR"},
            ]
        ),
        changed(images=[{"uri": "../secret.png"}]),
        changed(images=[{"uri": "https://example.org/x.png"}]),
        {"asset": 3},
    ],
)
def test_files_that_lie_are_refused_by_name(tmp_path, gltf):
    path = tmp_path / "odd.glb"
    path.write_bytes(glb(gltf, triangle()[1]))
    with pytest.raises(FileError, match=r"odd\.glb"):
        read_model(path)


@pytest.mark.parametrize("cut", [0, 3, 30, 300, 1000])
def test_truncated_files_are_refused(tmp_path, cut):
    data = glb(*triangle())
    path = tmp_path / "cut.glb"
    path.write_bytes(data[:cut] if cut < len(data) else data[:-40])
    with pytest.raises(FileError, match="cut"):
        read_model(path)


def test_a_model_that_is_built_is_as_large_as_it_is(tmp_path):
    """What the renderer asks for, of the parts that the contents no longer hold."""
    (tmp_path / "still.glb").write_bytes(glb(*triangle()))
    times = np.array([0.0, 0.5, 1.0])
    moves = np.array([[0.0, 0.0, 0.0], [0.0, 9.0, 0.0], [0.0, 0.0, 0.0]], dtype=np.float32)
    (tmp_path / "moving.glb").write_bytes(glb(*animated("translation", moves, "LINEAR", times)))
    for name, reach in (("still.glb", 0.0), ("moving.glb", 9.0)):
        data = build_solid(Model(id="m", name="M", shape=ModelFile(name)), tmp_path / name)
        middle, radius = data.sphere()
        low, high = read_model(tmp_path / name).bounds()
        assert radius > 0.4
        assert (np.linalg.norm(np.stack([low, high]) - middle, axis=1) <= radius + 1e-9).all()
        assert np.linalg.norm(0.5 * (low + high) + [0.0, 0.9 * reach, 0.0] - middle) <= radius
