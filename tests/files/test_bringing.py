"""What files become: pictures, moving pictures, layers, logos, models."""

import numpy as np
import pytest
from PIL import Image

import wild_heron as wh
from wild_heron.evaluate import evaluate
from wild_heron.files.errors import FileError
from wild_heron.files.importing import add_proposals, bring, readable, with_file
from wild_heron.files.reader import Reader

from .direct import read_layer, read_layers
from .layered_files import glb, triangle, write_movie, write_ora

SETTINGS = wh.Settings(width=400, height=200)
STACK = """
<layer name="Grass" src="data/g.png" x="0" y="150" opacity="0.5"/>
<stack name="Houses" opacity="0.5">
  <layer name="Door" src="data/d.png" x="100" y="100" opacity="0.8"/>
  <layer name="Wall" src="data/w.png" x="80" y="60" visibility="hidden"/>
</stack>
<layer name="Sky" src="data/s.png" x="0" y="0"/>"""
PICTURES = {
    "data/g.png": (400, 50, (0, 200, 0, 255)),
    "data/d.png": (20, 40, (200, 0, 0, 255)),
    "data/w.png": (60, 80, (90, 90, 90, 255)),
    "data/s.png": (400, 200, (0, 0, 200, 255)),
}


def added(paths, base, as_="best", place=(0.0, 0.0, 0.0)) -> tuple[wh.Scene, tuple[str, ...], tuple[str, ...]]:
    with Reader() as reader:
        found = bring(paths, base, SETTINGS, reader, as_)
    scene, ids = add_proposals(wh.Scene(settings=SETTINGS), found.proposals, lambda number: place)
    return scene, ids, found.problems


def test_the_layers_of_an_openraster_file_lie_where_they_lay(tmp_path):
    path = write_ora(tmp_path / "paper_town.ora", STACK, (400, 200), PICTURES)
    scene, ids, problems = added([path], tmp_path, place=(1.0, 2.0, 3.0))
    assert not problems
    assert [node.name for node in scene.nodes] == ["Paper town", "Sky", "Houses", "Wall", "Door", "Grass"]
    assert [node.kind for node in scene.nodes] == ["null", "picture", "null", "picture", "picture", "picture"]
    assert scene.node("door").carrier == "houses"
    assert scene.node("houses").carrier == "paper-town"
    assert scene.node("wall").hidden
    here = evaluate(scene, 0.0)
    # The door's middle is at pixel (110, 120) of 400 × 200: 0.9 left and 0.2 below the middle, at 100 pixels a unit.
    assert here.position("door")[0] == pytest.approx([1.0 - 0.9, 2.0 - 0.2, 3.0])
    assert here.position("sky")[0] == pytest.approx([1.0, 2.0, 3.0])
    # A group's opacity goes to its layers.
    assert here.value("door", "opacity")[0] == pytest.approx(0.4)
    assert here.value("grass", "opacity")[0] == pytest.approx(0.5)
    door = scene.node("door")
    assert (door.width, door.height) == (20, 40)
    assert read_layer(path, door.artwork, None)[0, 0].tolist() == [200, 0, 0, 255]
    assert ids[0] == "paper-town"


def test_the_groups_of_an_svg_come_apart_and_together_again(tmp_path):
    path = tmp_path / "fair.svg"
    path.write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 40 20" width="400" height="200">'
        '<defs><linearGradient id="g"><stop offset="0" stop-color="#0000c8"/><stop offset="1" stop-color="#0000c8"/>'
        '</linearGradient></defs><g id="Sky"><rect width="40" height="20" fill="url(#g)"/></g>'
        '<g id="Booth" opacity="0.5" transform="translate(10 5)"><rect width="4" height="6" fill="#c80000"/></g>'
        '<g id="Nothing"/></svg>'
    )
    scene, _, problems = added([path], tmp_path, "layers")
    assert not problems
    assert [node.name for node in scene.nodes] == ["Fair", "Sky", "Booth"]
    booth = scene.node("booth")
    assert evaluate(scene, 0.0).value("booth", "opacity")[0] == 0.5
    x, y, width, height = booth.artwork.crop
    assert (x, y) == pytest.approx((100, 50), abs=3)
    assert (x + width, y + height) == pytest.approx((140, 110), abs=3)
    pixels = read_layer(path, booth.artwork, round(width))
    assert pixels.shape[:2] == (height, width)
    middle = pixels[int(80 - y), int(120 - x)]
    assert middle.tolist() == [200, 0, 0, 255]
    sky = read_layer(path, scene.node("sky").artwork, 400)
    assert sky[80, 120].tolist() == [0, 0, 200, 255]


def test_numbered_files_become_one_moving_picture(tmp_path):
    for number in range(7, 12):
        Image.new("RGB", (32, 16), (number * 20, 0, 0)).save(tmp_path / f"walk_{number:04}.png")
    files = sorted(tmp_path.glob("*.png"))
    scene, _, _ = added(files, tmp_path)
    (node,) = scene.nodes
    assert node.name == "Walk"
    assert (node.artwork.source, node.artwork.first, node.artwork.count) == ("walk_####.png", 7, 5)
    # Few of them, or one that is asked for as a picture, are pictures.
    assert len(added(files[:2], tmp_path)[0].nodes) == 2
    assert isinstance(added(files[:1], tmp_path)[0].nodes[0].artwork, wh.ImageFile)
    # One stands for all when numbered frames are asked for.
    (whole,) = added(files[2:3], tmp_path, "sequence")[0].nodes
    assert whole.artwork.count == 5
    # A gap ends the run.
    (tmp_path / "walk_0009.png").unlink()
    (half,) = added(files[:1], tmp_path, "sequence")[0].nodes
    assert half.artwork.count == 2


def test_movies_models_and_logos(tmp_path):
    write_movie(tmp_path / "loop.mp4", [(200, 30, 30)] * 9, rate=12)
    (tmp_path / "cart.glb").write_bytes(glb(*triangle()))
    (tmp_path / "mark.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="60" height="30"><circle cx="30" cy="15" r="9"/></svg>'
    )
    scene, _, problems = added([tmp_path / "loop.mp4", tmp_path / "cart.glb"], tmp_path)
    assert not problems
    movie, model = scene.nodes
    assert (movie.artwork.count, movie.artwork.rate, movie.width) == (9, 12.0, 64)
    # A glTF unit is a metre: ten units, at 100 mm a unit. The triangle is doubled, and two up.
    assert evaluate(scene, 0.0).value(model.id, "scale.x")[0] == 10.0
    assert model.shape.low == (0.0, 2.0, 0.0)
    assert model.shape.high == (2.0, 4.0, 0.0)
    logo = added([tmp_path / "mark.svg"], tmp_path, "logo")[0].nodes[0]
    assert (logo.width, logo.height) == (60, 30)
    assert logo.depth > 0


@pytest.mark.parametrize(
    ("name", "content", "as_"),
    [
        ("broken.ora", b"PK nothing", "best"),
        ("no.png", b"text", "best"),
        ("no.mp4", b"text", "best"),
        ("no.glb", b"glTF", "best"),
        ("lonely_0001.png", b"", "sequence"),
        ("plain.png", b"", "layers"),
        ("empty.svg", b"<svg xmlns='http://www.w3.org/2000/svg' width='9' height='9'/>", "layers"),
        ("empty.svg", b"<svg xmlns='http://www.w3.org/2000/svg' width='9' height='9'/>", "logo"),
        ("odd.svg", b"<svg><g>", "layers"),
        ("gone.exr", None, "best"),
        ("broken.exr", b"v/1\x01 and so on", "best"),
    ],
)
def test_what_cannot_be_read_is_named_and_the_rest_comes_in(tmp_path, art, name, content, as_):
    if content is not None:
        (tmp_path / name).write_bytes(content)
    scene, _, problems = added([tmp_path / name, art / "card.png"], tmp_path, as_ if as_ == "best" else "best")
    if as_ != "best":
        scene, _, problems = added([tmp_path / name], tmp_path, as_)
        assert not scene.nodes
    else:
        assert [node.name for node in scene.nodes] == ["Card"]
    (problem,) = problems
    assert name in problem
    assert problem.count("\n") == 0


@pytest.mark.parametrize(
    "stack",
    ['<layer src="data/gone.png"/>', '<layer src="../../etc/passwd"/>', '<layer src="data/g.png" x="here"/>', ""],
)
def test_a_layered_file_that_lies_is_refused(tmp_path, stack):
    path = write_ora(tmp_path / "odd.ora", stack, (400, 200), {"data/g.png": PICTURES["data/g.png"]})
    with pytest.raises(FileError, match=r"odd\.ora"):
        read_layers(path)


def test_cancelling_brings_nothing_in(tmp_path, art, reader):
    def step(done: int, total: int) -> None:
        if done == 1:
            raise InterruptedError

    with pytest.raises(InterruptedError):
        bring([art / "card.png", art / "glass.png"], tmp_path, SETTINGS, reader, "best", step)


def test_another_file_keeps_keys_place_and_timing(tmp_path, art, reader):
    node = wh.Picture(
        id="p", name="P", artwork=wh.Movie("old.mp4", 9, 12.0, wh.Timing(start=5.0, ends="loop")), width=9, height=9,
        channels=(wh.Channel("position.x", 0.0, (wh.Key(0.0, 1.0), wh.Key(9.0, 2.0))),),
    )  # fmt: skip
    write_movie(tmp_path / "new.mp4", [(0, 0, 0)] * 5)
    other = with_file(node, tmp_path / "new.mp4", tmp_path, SETTINGS, reader)
    assert other.channels == node.channels
    assert other.artwork.timing == node.artwork.timing
    assert (other.artwork.count, other.width) == (5, 64)
    still = with_file(other, art / "card.png", tmp_path, SETTINGS, reader)
    assert still.artwork == wh.ImageFile("card.png")
    (tmp_path / "cart.glb").write_bytes(glb(*triangle()))
    with pytest.raises(FileError, match="another kind"):
        with_file(node, tmp_path / "cart.glb", tmp_path, SETTINGS, reader)


def test_names_are_readable():
    assert readable("far_ridge-2") == "Far ridge 2"
    assert readable("___") == "Artwork"


def test_two_hundred_layers_are_quick_to_list_and_come_in_order(tmp_path):
    pictures = {f"data/{k}.png": (4, 4, (k, 0, 0, 255)) for k in range(200)}
    stack = "".join(f'<layer name="L{k}" src="data/{k}.png" x="{k}" y="0"/>' for k in range(200))
    path = write_ora(tmp_path / "many.ora", stack, (400, 200), pictures)
    scene, ids, _ = added([path], tmp_path)
    assert len(ids) == 201
    # The nearest is listed first in the file and last in the scene.
    assert [node.name for node in scene.nodes[1:3]] == ["L199", "L198"]
    assert np.ptp(evaluate(scene, 0.0).position("l0")[0] - evaluate(scene, 0.0).position("l199")[0]) > 1.0


USES = "".join(
    f'<g id="l{k}">' + "".join(f'<use href="#l{k - 1}" x="{n}"/>' for n in range(10)) + "</g>" for k in range(1, 12)
)


@pytest.mark.parametrize("as_", ["best", "layers", "logo"])
@pytest.mark.parametrize(
    "inside",
    [
        f'<rect id="l0" width="9" height="9"/>{USES}',
        '<g id="a"><use href="#b"/></g><g id="b"><use href="#a"/></g>',
        "<g>" * 400 + '<use href="#x"/>' + "</g>" * 400,
    ],
)
def test_drawings_that_unfold_without_end_are_refused_at_once(tmp_path, inside, as_):
    (tmp_path / "bomb.svg").write_text(f'<svg xmlns="http://www.w3.org/2000/svg" width="20" height="20">{inside}</svg>')
    scene, _, problems = added([tmp_path / "bomb.svg"], tmp_path, as_)
    assert not scene.nodes
    assert "bomb.svg" in problems[0]


def test_a_drawing_of_many_copies_is_no_bomb(tmp_path):
    copies = "".join(f'<use href="#dot" x="{k % 40}" y="{k // 40}"/>' for k in range(900))
    (tmp_path / "dots.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="40" height="30">'
        f'<defs><circle id="dot" r="0.3"/></defs>{copies}</svg>'
    )
    assert not added([tmp_path / "dots.svg"], tmp_path)[2]
