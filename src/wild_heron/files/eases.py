"""A user's own eases: a small open JSON file, ``[{"name": …, "ease": {…}}, …]``, the same in a scene."""

from pathlib import Path

import msgspec

from ..scene import NamedEase
from .atomic import write_atomically
from .errors import FileError, why

_MOST = 500


def user_file() -> Path:
    """Where a user's eases are kept."""
    import platformdirs

    return Path(platformdirs.user_config_dir("wild-heron")) / "eases.json"


def load_eases(path: Path) -> tuple[NamedEase, ...]:
    """The eases in a file; none where there is no file. FileError where it cannot be used."""
    try:
        data = path.read_bytes()
    except FileNotFoundError:
        return ()
    except OSError as error:
        raise FileError(path, f"could not be read: {why(error)}", "Check that you may read it.") from error
    try:
        return msgspec.json.decode(data, type=tuple[NamedEase, ...])[:_MOST]
    except (msgspec.DecodeError, ValueError, RecursionError) as problem:
        raise FileError(path, f"holds no eases: {problem}", "Mend it, or move it away.") from problem


def save_eases(path: Path, eases: tuple[NamedEase, ...]) -> None:
    """Write a file of eases whole or not at all."""
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileError(path, f"could not be written: {why(error)}", "Check the folder.") from error
    write_atomically(path, msgspec.json.format(msgspec.json.encode(eases), indent=1) + b"\n")


def with_ease(eases: tuple[NamedEase, ...], ease: NamedEase) -> tuple[NamedEase, ...]:
    """The eases with one more; one of the same name is replaced."""
    return (*(each for each in eases if each.name != ease.name), ease)
