"""User presets (eases, movers): a small open JSON file, the same list as in a scene."""

from pathlib import Path
from typing import Any, TypeVar

import msgspec

from .atomic import write_atomically
from .errors import FileError, why

_MOST = 500
_Kept = TypeVar("_Kept", bound=msgspec.Struct)


def user_file(name: str) -> Path:
    """Where a user's own things of a kind are kept."""
    import platformdirs

    return Path(platformdirs.user_config_dir("wild-heron")) / name


def load_presets(path: Path, kind: type[_Kept]) -> tuple[_Kept, ...]:
    """What a file holds; nothing where there is none. FileError where it cannot be used."""
    try:
        data = path.read_bytes()
    except FileNotFoundError:
        return ()
    except OSError as error:
        raise FileError(path, f"could not be read: {why(error)}", "Check that you may read it.") from error
    try:
        return msgspec.json.decode(data, type=tuple[kind, ...])[:_MOST]  # type: ignore[valid-type]
    except (msgspec.DecodeError, ValueError, RecursionError) as problem:
        raise FileError(path, f"does not hold what it should: {problem}", "Mend it, or move it away.") from problem


def save_presets(path: Path, kept: tuple[msgspec.Struct, ...]) -> None:
    """Write the file whole or not at all."""
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileError(path, f"could not be written: {why(error)}", "Check the folder.") from error
    write_atomically(path, msgspec.json.format(msgspec.json.encode(kept), indent=1) + b"\n")


def with_one(kept: tuple[_Kept, ...], one: Any) -> tuple[_Kept, ...]:
    """What is kept with one more; one of the same name is replaced."""
    return (*(each for each in kept if each.name != one.name), one)  # type: ignore[attr-defined]
