"""``python -m doors [--write FILE]``, in this folder's parent: the worst error of every format, as others read it."""

import argparse
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

import numpy as np
from msgspec.structs import replace

import wild_heron as wh
from wild_heron.demo import DEMO_SCENE
from wild_heron.evaluate.film_output import output
from wild_heron.files.decode.camera_files import read_cameras
from wild_heron.files.decode.source import on_disk
from wild_heron.files.export_formats.camera_takes import with_cameras
from wild_heron.files.export_formats.fewest import Tolerances
from wild_heron.files.export_formats.writing import MoveJob, write_move
from wild_heron.scene.output import lens_node

from . import pictures, readers
from .scenes import SCENES, moments, points

WHOLE, BETWEEN = 0.01, 0.5
_BEGIN, _END = "<!-- doors -->", "<!-- end of doors -->"


class Row(NamedTuple):
    format: str
    reader: str
    scene: str
    whole: float
    between: float
    keys: str

    @property
    def holds(self) -> bool:
        return self.whole <= WHOLE and self.between <= BETWEEN


def main() -> None:
    parser = argparse.ArgumentParser(prog="doors")
    parser.add_argument("--write", type=Path)
    wanted = parser.parse_args()
    films = {name: (made(), None, (0, 96)) for name, made in SCENES.items()}
    films["the demo"] = (wh.load(DEMO_SCENE), DEMO_SCENE.parent, (96, 336))
    rows = []
    with tempfile.TemporaryDirectory() as folder:
        for name, (scene, base, (first, last)) in films.items():
            for row in _out(Path(folder), name, scene, base, first, last):
                print(f"{row.format:6} {row.scene:9} {row.whole:9.5f} {row.between:8.4f} {row.keys}", flush=True)
                rows.append(row)
        for row in _in(Path(folder)):
            print(f"{row.format:6} {row.scene:9} {row.whole:9.5f} {row.between:8.4f} {row.keys}", flush=True)
            rows.append(row)
        told = pictures.rows(Path(folder))
    text = _text(rows, told)
    print(text)
    if wanted.write is not None:
        whole = wanted.write.read_text()
        before, after = whole.partition(_BEGIN)[0], whole.partition(_END)[2]
        wanted.write.write_text(f"{before.rstrip()}\n\n{_BEGIN}\n{text}\n{_END}\n{after.lstrip()}")
    if not all(row.holds for row in rows):
        raise SystemExit("a row misses its mark")


Read = Callable[[Path, np.ndarray, np.ndarray], np.ndarray]


def _out(folder: Path, name: str, scene: wh.Scene, base: Path | None, first: int, last: int) -> list[Row]:
    size = (scene.settings.width, scene.settings.height)
    lens = "Film" if scene.shots else lens_node(scene, None).name
    rate, metres = scene.settings.rate.fps, scene.settings.mm_per_unit / 1000.0

    def gltf(path: Path, frames: np.ndarray, at: np.ndarray) -> np.ndarray:
        return readers.three_js(path, lens, frames - first, at, size, rate, metres)

    def usd(path: Path, frames: np.ndarray, at: np.ndarray) -> np.ndarray:
        return readers.open_usd(path, lens, frames, at, size)

    def csv(path: Path, frames: np.ndarray, at: np.ndarray) -> np.ndarray:
        return readers.table(path, lens, frames, at, size)

    every = np.arange(first, last + 1.0)
    some = moments(scene, first, last, 200)
    found = []
    doors: tuple[tuple[str, str, Read], ...] = (
        (".glb", "three.js", gltf), (".usda", "OpenUSD", usd), (".usdc", "OpenUSD", usd), (".csv", "SciPy", csv),
    )  # fmt: skip
    for suffix, reader, read in doors:
        whole, counts = [], []
        for few in (None, Tolerances()):
            path = folder / f"{name}_{few is None}{suffix}".replace(" ", "_")
            write_move(
                scene, base, MoveJob(path, tuple(every.tolist()), nodes=None if suffix == ".glb" else [], few=few)
            )
            moment = every if few is None else some
            whole.append(_worst(scene, moment, read(path, moment, points())))
            counts.append(f"{path.stat().st_size / 1024:.0f} kB")
        found.append(Row(suffix, reader, name, whole[0], whole[1], " → ".join(counts)))
    return found


def _worst(scene: wh.Scene, frames: np.ndarray, seen: np.ndarray) -> float:
    """The largest distance in pixels from where the scene has points that are in the picture."""
    view = output(scene, frames)
    worst = 0.0
    for k in range(len(view)):
        want, depth = view.at(k).pixels(points())
        inside = (depth > 1.0) & (want >= 0.0).all(axis=1) & (want <= [view.width, view.height]).all(axis=1)
        if inside.any():
            worst = max(worst, float(np.abs(seen[k] - want)[inside].max()))
    return worst


def _in(folder: Path) -> list[Row]:
    """What went out of the scenes comes in again, and is where the file's own reader has it."""
    found = []
    for name in ("orbit", "zoom", "holds"):
        scene = SCENES[name]()
        size = (scene.settings.width, scene.settings.height)
        for suffix, reader in ((".glb", "three.js"), (".usda", "OpenUSD"), (".csv", "SciPy")):
            path = folder / f"in_{name}{suffix}"
            frames = tuple(map(float, range(0, 97)))
            write_move(scene, None, MoveJob(path, frames, nodes=[], few=Tolerances()))
            back, (camera, *_), _ = with_cameras(
                wh.Scene(settings=scene.settings), read_cameras(on_disk(path), 24.0), 0.0
            )
            whole = []
            for moment in (np.arange(0.0, 97.0), moments(scene, 0.0, 96.0, 200)):
                if suffix == ".glb":
                    seen = readers.three_js(path, "Cam", moment, points(), size, 24.0, 0.1)
                elif suffix == ".usda":
                    seen = readers.open_usd(path, "Cam", moment, points(), size)
                else:
                    seen = readers.table(path, "Cam", moment, points(), size)
                whole.append(_worst(replace(back, camera=camera), moment, seen))
            found.append(Row(f"{suffix}, in", reader, name, whole[0], whole[1], ""))
    return found


def _text(rows: list[Row], told: list[str]) -> str:
    lines = [
        "Worst errors in pixels of a 1280×720 picture (the demo's is 1920×1080), of points that are in it; as readers"
        " see it that we did not write. Whole frames: with a key on every frame. Between them: with keys where they are"
        " needed, at the default tolerance.",
        "",
        "| format | reader | scene | whole frames (≤ 0.01) | between (≤ 0.5) | size | |",
        "| --- | --- | --- | --- | --- | --- | --- |",
    ]
    for row in rows:
        met = "met" if row.holds else "**missed**"
        lines.append(
            f"| {row.format} | {row.reader} | {row.scene} | {row.whole:.5f} | {row.between:.3f} | {row.keys} | {met} |"
        )
    return "\n".join([*lines, "", *told])


main()
