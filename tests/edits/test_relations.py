"""What nodes of the set say of each other and of files, through edits."""

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st

import wild_heron as wh
from wild_heron.edits import add_nodes, free_id, free_name
from wild_heron.scene import numbered
from wild_heron.scene.validate import validate


@pytest.fixture
def scene() -> wh.Scene:
    card = wh.Picture(id="card", name="Card", artwork=wh.Solid(), width=9, height=9, binds=(wh.FaceCamera("cam"),))
    return add_nodes(
        wh.Scene(),
        [
            wh.Camera(id="cam", name="Cam"),
            card,
            wh.Model(id="wall", name="Wall", shape=wh.Plane()),
            wh.Model(id="floor", name="Floor", shape=wh.Plane()),
            wh.Projection(id="photo", name="Photo", source="p.png", width=9, height=9, receivers=("wall", "floor")),
        ],
    )


def test_what_is_gone_is_faced_and_lit_no_more(scene):
    left = wh.edits.remove_nodes(scene, ["cam", "floor"])
    assert left.node("card").binds == ()
    assert left.node("photo").receivers == ("wall",)
    validate(left)


def test_copies_refer_to_copies(scene):
    scene, ids = wh.edits.duplicate(scene, ["cam", "card", "wall", "photo"])
    camera, card, wall, photo = (scene.node(i) for i in ids)
    assert card.binds == (wh.FaceCamera(camera.id),)
    assert photo.receivers == (wall.id, "floor")
    validate(scene)
    scene, (alone,) = wh.edits.duplicate(scene, ["card"])
    assert scene.node(alone).binds == (wh.FaceCamera("cam"),)


@pytest.mark.parametrize(
    ("node", "field", "value", "says"),
    [
        ("card", "binds", (wh.FaceCamera("wall"),), r"binds\[0\]: there is no camera “wall”"),
        ("photo", "receivers", ("card",), "receivers: there is no model “card”"),
        ("photo", "receivers", ("ghost",), "receivers: there is no model “ghost”"),
    ],
)
def test_relations_to_the_wrong_thing_are_refused_with_the_place(scene, node, field, value, says):
    changed = msgspec.structs.replace(scene.node(node), **{field: value})
    broken = msgspec.structs.replace(scene, nodes=tuple(changed if n.id == node else n for n in scene.nodes))
    with pytest.raises(wh.SceneError, match=says):
        validate(broken)


def test_nodes_of_one_id_are_refused(scene):
    with pytest.raises(wh.SceneError, match="one id"):
        add_nodes(scene, [wh.Null(id="cam", name="Other")])


FROM_FILES = [
    wh.Picture(id="n", name="N", artwork=wh.ImageFile("a.png"), width=9, height=9),
    wh.Picture(id="n", name="N", artwork=wh.Layer("a.ora", "data/x.png"), width=9, height=9),
    wh.Picture(id="n", name="N", artwork=wh.Sequence("a_##.png", 1, 2, 24.0), width=9, height=9),
    wh.Picture(id="n", name="N", artwork=wh.Movie("a.mp4", 2, 24.0), width=9, height=9),
    wh.Logo(id="n", name="N", outlines=wh.ImageFile("a.svg"), width=9, height=9),
    wh.Model(id="n", name="N", shape=wh.ModelFile("a.glb")),
    wh.Projection(id="n", name="N", source="a.jpg", width=9, height=9),
]


@pytest.mark.parametrize("node", FROM_FILES, ids=lambda node: type(getattr(node, "artwork", node)).__name__)
def test_every_kind_of_file_is_found_and_changed(node):
    source = node.file
    assert source.startswith("a")
    other = node.with_file(f"moved/{source}")
    assert other.file == f"moved/{source}"
    assert other.with_file(source) == node


@pytest.mark.parametrize(
    "artwork", [wh.Solid(), wh.Text("x"), wh.Gradient((wh.Stop(0, "#000000"), wh.Stop(1, "#ffffff")))]
)
def test_cards_come_from_no_file(artwork):
    assert wh.Picture(id="n", name="N", artwork=artwork, width=9, height=9).file is None


@given(st.lists(st.text(max_size=20), max_size=12))
def test_free_names_and_ids_are_free_and_legal(names):
    taken_names: set[str] = set()
    taken_ids: set[str] = set()
    for name in names:
        label = free_name(taken_names, name)
        node_id = free_id(taken_ids, label)
        assert label not in taken_names
        assert node_id not in taken_ids
        wh.edits.add_node(wh.Scene(), wh.Null(id=node_id, name=label))
        validate(wh.Scene(nodes=(wh.Null(id=node_id, name=label),)))
        taken_names.add(label)
        taken_ids.add(node_id)


def test_haze_must_end_beyond_its_start():
    with pytest.raises(ValueError, match="farther"):
        wh.Distance(start=9.0, end=9.0)


def test_numbers_take_the_place_of_their_run():
    assert numbered("walk_####.png", 7) == "walk_0007.png"
    assert numbered("walk_##.png", 1234) == "walk_1234.png"
