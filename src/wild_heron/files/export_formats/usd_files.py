"""OpenUSD on disk: as text or binary with a folder of pictures beside it, or all of it in one package."""

import os
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

from pxr import Sdf

from ..atomic import write_atomically
from ..errors import FileError, why
from ..reader import Reader
from ..sessions import unfinished
from .move import Move
from .usd import usd


def write_usd(move: Move, path: Path, reader: Reader, step: Callable[[str], None]) -> None:
    """Write a ``.usda``, ``.usdc`` or ``.usdz``, whole or not at all. The stage comes last, when all that it names is
    there."""
    folder = path.with_name(texture_folder(path))
    stage, files = usd(move, reader, folder.name)
    step("Writing")
    if path.suffix.lower() == ".usda":
        data = str(stage.GetRootLayer().ExportToString()).encode()
    else:
        data = _binary(stage, path, {} if path.suffix.lower() == ".usdc" else files)
    if path.suffix.lower() != ".usdz":
        _write_pictures(folder, files)
    write_atomically(path, data)


def texture_folder(path: Path) -> str:
    """The folder beside a file that its pictures are in."""
    return f"{path.stem}_artwork"


def _binary(stage: Any, path: Path, files: dict[str, bytes]) -> bytes:
    """A stage in USD's binary form; with files, in a package, which by the standard holds it first."""
    try:
        with tempfile.TemporaryDirectory(prefix="wild-heron-") as made:
            root = Path(made) / f"{path.stem}.usdc"
            if not stage.GetRootLayer().Export(str(root)):
                raise OSError("its data could not be put on disk")
            if path.suffix.lower() != ".usdz":
                return root.read_bytes()
            package = Sdf.ZipFileWriter.CreateNew(str(Path(made) / "whole.usdz"))
            package.AddFile(str(root), "scene.usdc")
            for name, data in files.items():
                picture = Path(made) / name
                picture.parent.mkdir(exist_ok=True)
                picture.write_bytes(data)
                package.AddFile(str(picture), name)
            if not package.Save():
                raise OSError("the package could not be put on disk")
            return (Path(made) / "whole.usdz").read_bytes()
    except OSError as problem:
        raise FileError(path, f"could not be written: {why(problem)}", "Make room for temporary files.") from problem


def _write_pictures(folder: Path, files: dict[str, bytes]) -> None:
    try:
        with unfinished(folder) as partial:
            if not files:
                return
            partial.mkdir(mode=0o755)
            for name, data in files.items():
                (partial / Path(name).name).write_bytes(data)
            if folder.is_dir() and not folder.is_symlink():
                _take_away(folder)
            os.replace(partial, folder)
    except OSError as problem:
        raise FileError(folder, f"could not be written: {why(problem)}", "Choose another place.") from problem


def _take_away(folder: Path) -> None:
    """Empty a folder of pictures that was written before; what else is in it stays, and is then in the way."""
    for path in folder.glob("*.png"):
        path.unlink()
    folder.rmdir()
