"""Which files may be read for a scene: those in its folder, and in folders that the user has allowed once."""

import os
from collections.abc import Iterable
from pathlib import Path

import msgspec
import platformdirs

from .atomic import write_atomically
from .errors import FileError
from .formats import SHIPPED_ART

_MOST = 2_000
OUTSIDE = "lies outside the scene's folder."


class Permission(msgspec.Struct, frozen=True):
    """What may be read: files in ``folders`` and below them, and those directly in ``allowed`` ones. Where the two are
    None, every file may."""

    folders: tuple[str, ...] | None = None
    allowed: tuple[str, ...] = ()

    def allows(self, path: Path) -> bool:
        """Whether a file lies where it may be read, with every link on the way followed."""
        if self.folders is None:
            return True
        try:
            place = os.path.dirname(os.path.realpath(path))
        except (OSError, ValueError):
            return False
        return place in self.allowed or any(_is_in(place, os.path.realpath(each)) for each in self.folders)

    def check(self, path: Path) -> None:
        """FileError where the file may not be read."""
        if not self.allows(path):
            raise FileError(path, OUTSIDE, f"Allow {path.parent} if it is yours, or bring the file in anew.")


def _is_in(place: str, folder: str) -> bool:
    return place == folder or place.startswith(folder.rstrip("/") + "/")


def for_scene(base: Path | None, allowed: tuple[str, ...]) -> Permission:
    """What may be read for a scene in ``base`` (None: one that is not saved)."""
    return Permission((str(SHIPPED_ART), *([str(base)] if base is not None else [])), allowed)


# What a user has allowed


def user_file() -> Path:
    """Where it is kept: an open JSON list of folders."""
    return Path(platformdirs.user_config_dir("wild-heron")) / "allowed-folders.json"


def allowed_folders(file: Path | None = None) -> tuple[str, ...]:
    """The folders that the user has allowed; none where they cannot be read."""
    try:
        return msgspec.json.decode((file or user_file()).read_bytes(), type=tuple[str, ...])[:_MOST]
    except (OSError, ValueError, RecursionError):
        return ()


def allow(files: Iterable[Path], file: Path | None = None) -> tuple[str, ...]:
    """Allow the folders of some files from now on, and those that links lead to; returns all that are allowed.
    FileError where that cannot be kept."""
    file = file or user_file()
    known = allowed_folders(file)
    new: list[str] = []
    for each in files:
        new += [os.path.realpath(each.parent), os.path.dirname(os.path.realpath(each))]
    both = tuple(dict.fromkeys((*new, *known)))[:_MOST]
    if set(both) != set(known):
        try:
            file.parent.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise FileError(file, f"could not be written: {error.strerror}.", "Check the folder.") from error
        write_atomically(file, msgspec.json.encode(both))
    return both
