"""Autosave beside the scene file, and what a crash leaves to be recovered."""

import os
from pathlib import Path

import msgspec

from ..scene import Scene
from .atomic import write_atomically
from .errors import FileError
from .project import SUFFIX, encode, load


def autosave_path(scene_path: Path | None, unsaved_folder: Path, session: str) -> Path:
    """Where a scene is autosaved: hidden beside its file, or in a folder of unsaved scenes under the session's name."""
    if scene_path is None:
        return unsaved_folder / f"unsaved-{session}{SUFFIX}"
    return scene_path.with_name(f".{scene_path.stem}.autosave{SUFFIX}")


def write_autosave(scene: Scene, path: Path) -> None:
    """Write an autosave, whole or not at all."""
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileError(path, f"could not be autosaved: {error.strerror}.", "Save the scene elsewhere.") from error
    write_atomically(path, encode(scene))


def discard_autosave(path: Path) -> None:
    """Remove an autosave that is no longer wanted."""
    try:
        path.unlink(missing_ok=True)
    except OSError as error:
        raise FileError(path, f"could not be removed: {error.strerror}.", "Remove it by hand.") from error


class Recovery(msgspec.Struct, frozen=True):
    """An autosave that is newer than its scene file, or of a scene that was never saved."""

    autosave: Path
    scene_path: Path | None
    modified: float


def recovery_for(scene_path: Path) -> Recovery | None:
    """The autosave of a scene file where it is newer than the file and differs from it; else None."""
    autosave = autosave_path(scene_path, Path(), "")
    try:
        modified = autosave.stat().st_mtime
        if modified < scene_path.stat().st_mtime:
            return None
        if autosave.read_bytes() == scene_path.read_bytes():
            return None
        load(autosave)
    except (OSError, FileError):
        return None
    return Recovery(autosave, scene_path, modified)


def unsaved_recoveries(unsaved_folder: Path) -> list[Recovery]:
    """Autosaves of never-saved scenes whose program no longer runs, newest first."""
    found = []
    for path in unsaved_folder.glob(f"unsaved-*{SUFFIX}"):
        process = path.stem.rpartition("-")[2]
        if process.isdigit() and _is_running(int(process)):
            continue
        try:
            load(path)
            found.append(Recovery(path, None, path.stat().st_mtime))
        except (OSError, FileError):
            continue
    return sorted(found, key=lambda each: -each.modified)


def _is_running(process: int) -> bool:
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        return False
    except OSError:
        return True
    return True
