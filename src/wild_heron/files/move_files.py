"""Moves on disk: an open JSON file each, those that ship with the program and the user's own."""

import re
from pathlib import Path
from typing import Any, Literal, NamedTuple

import msgspec

from ..scene import SceneError
from ..scene.moves import Move, check_move
from .atomic import write_atomically
from .errors import FileError, why
from .regular import read_regular

MOVE_FORMAT: Literal["wild-heron-move"] = "wild-heron-move"
MOVE_VERSION: Literal[1] = 1
SUFFIX = ".move"
SHIPPED_FOLDER = Path(__file__).with_name("moves")
_MOST_BYTES = 8 * 1024 * 1024
_MOST_FILES = 2000


class MoveFile(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What stands in a ``.move`` file."""

    format: Literal["wild-heron-move"]
    version: Literal[1]
    move: Move


class _Header(msgspec.Struct):
    format: Any = None
    version: Any = None


class KeptMove(NamedTuple):
    """A move and the file that it is kept in."""

    move: Move
    path: Path
    shipped: bool = False


def encode_move(move: Move) -> bytes:
    """The file's bytes. SceneError where the move does not hang together."""
    check_move(move)
    return msgspec.json.format(msgspec.json.encode(MoveFile(MOVE_FORMAT, MOVE_VERSION, move)), indent=1) + b"\n"


def decode_move(data: bytes, path: str | Path) -> Move:
    """The move in a file's bytes. FileError with what is wrong and the remedy."""
    try:
        data.decode("utf-8")
        header = msgspec.json.decode(data, type=_Header)
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as problem:
        raise FileError(path, f"is broken: {problem}.", "Go back to a copy.") from problem
    if header.format != MOVE_FORMAT:
        raise FileError(path, "is not a move ($.format).", f"Choose a {SUFFIX} file.")
    if isinstance(header.version, int) and header.version > MOVE_VERSION:
        newer = f"was made by a newer Wild Heron ($.version is {header.version}, this one reads up to {MOVE_VERSION})."
        raise FileError(path, newer, "Update Wild Heron.")
    try:
        move = msgspec.json.decode(data, type=MoveFile).move
        check_move(move)
    except (msgspec.ValidationError, SceneError, RecursionError) as problem:
        raise FileError(path, f"cannot be used: {problem}", "Mend that place, or go back to a copy.") from problem
    return move


def load_move(path: Path) -> Move:
    """Read a move. FileError names the file, the place in it and the remedy."""
    return decode_move(read_regular(path, _MOST_BYTES, "a move"), path)


def save_move(move: Move, path: Path) -> None:
    """Write a move whole or not at all. SceneError or FileError leave an old file as it was."""
    data = encode_move(move)
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileError(path, f"could not be written: {why(error)}", "Check the folder.") from error
    write_atomically(path, data)


def user_folder() -> Path:
    """Where the user's own moves are kept."""
    import platformdirs

    return Path(platformdirs.user_data_dir("wild-heron")) / "moves"


def file_for(name: str, folder: Path) -> Path:
    """A file in a folder for a move of a name, which may be anything, and that no other has."""
    stem = re.sub(r"[^\w-]+", "-", name, flags=re.UNICODE).strip("-.")[:60] or "move"
    path, number = folder / f"{stem}{SUFFIX}", 2
    while path.exists():
        path, number = folder / f"{stem}-{number}{SUFFIX}", number + 1
    return path


def shipped_moves() -> tuple[KeptMove, ...]:
    """The moves that come with the program, in the order of what they are for."""
    return tuple(KeptMove(load_move(path), path, True) for path in sorted(SHIPPED_FOLDER.glob(f"*{SUFFIX}")))


def user_moves(folder: Path | None = None) -> tuple[tuple[KeptMove, ...], tuple[FileError, ...]]:
    """The user's own moves by name, and what is wrong with files that hold none."""
    found, problems = [], []
    for path in sorted((folder or user_folder()).glob(f"*{SUFFIX}"))[:_MOST_FILES]:
        try:
            found.append(KeptMove(load_move(path), path))
        except FileError as problem:
            problems.append(problem)
    return tuple(sorted(found, key=lambda each: each.move.name.casefold())), tuple(problems)
