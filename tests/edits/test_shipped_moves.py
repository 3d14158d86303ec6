"""The moves that ship: on sets of different sizes they end on their subject, upright, at even speeds, however large."""

import importlib

import numpy as np
import pytest
from msgspec.structs import replace

import wild_heron as wh
from wild_heron.edits import moves
from wild_heron.edits.rigs import FrameRange
from wild_heron.evaluate.extent import corners
from wild_heron.files.move_files import encode_move, shipped_moves

SHIPPED = {kept.path.stem: kept.move for kept in shipped_moves()}
SETS = {
    "plaque": (400, 300, {"position.x": 3.0, "position.y": 1.0, "rotation.y": 40.0}),
    "banner": (2400, 300, {"position.z": -30.0, "scale.x": 4.0, "scale.y": 4.0}),
    "tower": (200, 1600, {"position.x": -8.0, "rotation.y": -120.0, "rotation.z": 8.0, "anchor.y": 6.0}),
}


def staged(name: str, factor: float = 1.0) -> wh.Scene:
    """A set with a subject that goes about, and another one beside it, all of it so many times as large."""
    width, height, values = SETS[name]
    values = {"scale.x": 1.0, "scale.y": 1.0, "scale.z": 1.0} | values
    sized = {key: value * (factor if key.startswith(("position", "scale")) else 1.0) for key, value in values.items()}
    channels = [wh.Channel(key, value) for key, value in sized.items() if key != "position.y"]
    start = values.get("position.y", 0.0) * factor
    rising = wh.Channel("position.y", start, (wh.Key(0.0, start), wh.Key(200.0, start + 2.0 * factor)))
    still = wh.Channel("position.y", start)
    nodes = [
        wh.Picture(id=each, name=each, artwork=wh.Solid("#efe8d6"), width=width, height=height,
                   channels=tuple(sorted((*channels, rising if each == "kite" else still), key=lambda one: one.name)))
        for each in ("sign", "kite")
    ]  # fmt: skip
    end = wh.Null(id="end", name="End", channels=(wh.Channel("position.x", 25.0 * factor),))
    return wh.Scene(settings=wh.Settings(last=299), nodes=(*nodes, end))


def put_on(name: str, move, factor: float = 1.0):
    scene = staged(name, factor)
    subject = "kite" if move.along == "place" else "sign"
    span = FrameRange(20.0, 20.0 + move.frames)
    scene, ids = moves.put(scene, move, subject, span, other="end" if move.has_other else None)
    return scene, ids[-1], subject, span


def test_there_are_enough_and_they_are_what_the_script_makes():
    made = importlib.import_module("demo.moves").moves()
    assert len(SHIPPED) >= 24
    assert {name: encode_move(each) for name, each in made.items()} == {
        name: encode_move(each) for name, each in SHIPPED.items()
    }
    assert len({move.name for move in SHIPPED.values()}) == len(SHIPPED)
    assert all(move.line and move.tags for move in SHIPPED.values())


@pytest.mark.parametrize("stem", SHIPPED)
@pytest.mark.parametrize("name", SETS)
def test_it_ends_on_its_subject_upright_and_runs_evenly(name, stem):
    move = SHIPPED[stem]
    scene, camera, subject, span = put_on(name, move)
    here = wh.evaluate(scene, [span.last])
    view = here.camera(camera)
    target = "end" if move.has_other else subject
    points = corners(here, target)
    pixels, depth = view.pixels(points[:, None])
    pixels = np.stack([view.pixels(point[None])[0][0] for point in points])
    assert (depth > 0.0).all()
    assert ((pixels > 0.0) & (pixels < [1920.0, 1080.0])).all()

    frames = np.arange(span.first, span.last + 0.05, 0.1)
    view = wh.evaluate(scene, frames).camera(camera)
    assert (view.pose[:, 1, 1] > 0.1).all(), "the horizon turns over"
    if move.smooth:
        state = np.concatenate(
            [view.position / np.ptp(view.position, axis=0).max(initial=1e-3), view.pose[:, :3, 2]], axis=1
        )
        speed = np.diff(state, axis=0)
        jump = np.abs(np.diff(speed, axis=0)).max()
        assert jump < 0.08 * np.abs(speed).max() + 1e-9, "its speed jumps"


@pytest.mark.parametrize("factor", [0.01, 100.0])
@pytest.mark.parametrize("stem", SHIPPED)
def test_the_picture_does_not_depend_on_how_large_the_set_is(stem, factor):
    move = SHIPPED[stem]
    seen, focus = [], []
    for each in (1.0, factor):
        scene, camera, subject, span = put_on("plaque", move, each)
        frames = np.linspace(span.first, span.last, 9)
        here = wh.evaluate(scene, frames)
        view = here.camera(camera)
        places = [np.broadcast_to(point, (9, 3)) for point in corners(here, subject)]
        seen.append(np.concatenate([view.pixels(place)[0] for place in places]))
        focus.append(view.focus / each)
    assert seen[0] == pytest.approx(seen[1], abs=0.01, nan_ok=True)
    assert focus[0] == pytest.approx(focus[1], rel=1e-3)


def test_they_are_put_in_other_rates_and_frames():
    """Four seconds stay four seconds where the range is made of them, and a vertical frame shows the subject too."""
    move = SHIPPED["01-push-in"]
    scene = staged("banner")
    scene = replace(scene, settings=replace(scene.settings, rate=wh.Rate(60), width=1080, height=1920))
    made, ids = moves.put(scene, move, "sign", FrameRange(0.0, move.seconds * 60.0))
    view = wh.evaluate(made, [240.0]).camera(ids[-1])
    points = corners(wh.evaluate(made, [240.0]), "sign")
    pixels = np.stack([view.pixels(point[None])[0][0] for point in points])
    assert ((pixels > 0.0) & (pixels < [1080.0, 1920.0])).all()
