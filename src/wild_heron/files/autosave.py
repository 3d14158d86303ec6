"""Autosaves, each session its own, and what a crash leaves to be recovered.

They lie hidden beside the scene file, or in the state folder where the scene's cannot be written, or the scene was
never saved. No session writes or removes another's, except when the user says so.
"""

import os
import stat
from collections.abc import Iterator
from pathlib import Path

import msgspec
import platformdirs

from ..scene import Scene
from .atomic import write_atomically
from .errors import FileError
from .project import SUFFIX, encode, load
from .sessions import is_alive


def unsaved_folder() -> Path:
    """Where scenes are autosaved that have no place of their own."""
    return Path(platformdirs.user_data_dir("wild-heron")) / "unsaved"


def state_folder() -> Path:
    """Where scenes are autosaved whose own folder cannot be written."""
    return Path(platformdirs.user_state_dir("wild-heron")) / "autosaves"


def autosave_path(scene_path: Path | None, token: str) -> Path:
    """Where a session autosaves a scene."""
    if scene_path is None:
        return unsaved_folder() / f"unsaved-{token}{SUFFIX}"
    if os.access(scene_path.parent, os.W_OK):
        return scene_path.with_name(f".{scene_path.stem}.autosave.{token}{SUFFIX}")
    return state_folder() / f"{_digest(scene_path)}-{token}{SUFFIX}"


def _digest(scene_path: Path) -> str:
    import hashlib

    return hashlib.blake2b(os.fsencode(os.path.realpath(scene_path)), digest_size=8).hexdigest()


def write_autosave(scene: Scene, path: Path, mode_of: Path | None = None) -> None:
    """Write an autosave, whole or not at all, to be read by those who may read the file ``mode_of``."""
    mode = 0o600
    try:
        if mode_of is not None and mode_of.exists():
            mode = stat.S_IMODE(mode_of.stat().st_mode)
        path.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileError(path, f"could not be autosaved: {error.strerror}.", "Save the scene elsewhere.") from error
    write_atomically(path, encode(scene), mode)


def discard_autosave(path: Path) -> None:
    """Remove an autosave that is no longer wanted."""
    try:
        path.unlink(missing_ok=True)
    except OSError as error:
        raise FileError(path, f"could not be removed: {error.strerror}.", "Remove it by hand.") from error


class Recovery(msgspec.Struct, frozen=True):
    """An autosave of a session that no longer runs, which differs from its scene file, or whose scene has none."""

    autosave: Path
    scene_path: Path | None
    modified: float
    newer: bool = True
    """Than the scene file."""


def recoveries_for(scene_path: Path) -> list[Recovery]:
    """What crashes left of a scene file, newest first. What says the same as the file is left out."""
    found = []
    for autosave, token in _autosaves_of(scene_path):
        if is_alive(token):
            continue
        try:
            saved = scene_path.stat().st_mtime if scene_path.exists() else 0.0
            modified = autosave.stat().st_mtime
            if scene_path.exists() and autosave.read_bytes() == scene_path.read_bytes():
                continue
            load(autosave)
        except (OSError, FileError):
            continue
        found.append(Recovery(autosave, scene_path, modified, modified >= saved))
    return sorted(found, key=lambda each: -each.modified)


def _autosaves_of(scene_path: Path) -> Iterator[tuple[Path, str]]:
    """The autosaves of a scene file, and whose they are."""
    start = f".{scene_path.stem}.autosave"
    try:
        names = os.listdir(scene_path.parent)
    except OSError:
        names = []
    for name in names:
        if name.startswith(start) and name.endswith(SUFFIX):
            yield scene_path.with_name(name), name[len(start) : -len(SUFFIX)].lstrip(".")
    digest = _digest(scene_path)
    for path in state_folder().glob(f"{digest}-*{SUFFIX}"):
        yield path, path.stem.partition("-")[2]


def unsaved_recoveries() -> list[Recovery]:
    """What crashes left of scenes that were never saved, newest first."""
    found = []
    for path in unsaved_folder().glob(f"unsaved-*{SUFFIX}"):
        if is_alive(path.stem.partition("-")[2]):
            continue
        try:
            load(path)
            found.append(Recovery(path, None, path.stat().st_mtime))
        except (OSError, FileError):
            continue
    return sorted(found, key=lambda each: -each.modified)
