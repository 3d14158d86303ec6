"""The moves that there are to choose from: the scene's, the user's own, and those that ship."""

from pathlib import Path
from typing import Literal, NamedTuple

from msgspec.structs import replace

from ...edits.moves import keep_in_scene, take_from_scene
from ...files.errors import FileError, why
from ...files.move_files import save_move, shipped_moves, user_moves
from ...scene import Scene, SceneError
from ...scene.moves import Move
from ..state.document import Document

Source = Literal["scene", "mine", "shipped"]
SOURCES: dict[Source, str] = {"scene": "this scene", "mine": "mine", "shipped": "shipped"}


class Listed(NamedTuple):
    """A move, where it comes from, and its file where it has one."""

    move: Move
    source: Source
    path: Path | None = None

    def answers(self, words: str) -> bool:
        """Whether it is what somebody looks for: every word is in its name, its line or its tags."""
        text = " ".join((self.move.name, self.move.line, *self.move.tags)).casefold()
        return all(word in text for word in words.casefold().split())


def listed(scene: Scene) -> tuple[list[Listed], tuple[FileError, ...]]:
    """Every move, and what is wrong with files that hold none."""
    mine, problems = user_moves()
    found = [Listed(move, "scene") for move in scene.moves]
    found += [Listed(kept.move, "mine", kept.path) for kept in mine]
    found += [Listed(kept.move, "shipped", kept.path) for kept in shipped_moves()]
    return found, problems


def remove(document: Document, each: Listed) -> None:
    """A move taken out of the scene, or its file out of the user's folder. FileError where that cannot be."""
    if each.source == "scene":
        document.edit(f"Remove the move {each.move.name}", lambda scene: take_from_scene(scene, each.move.name))
    elif each.source == "mine" and each.path is not None:
        try:
            each.path.unlink()
        except OSError as error:
            raise FileError(each.path, f"could not be removed: {why(error)}", "Check the folder.") from error


def rename(document: Document, each: Listed, name: str) -> None:
    """Another name for a move, in the scene or in its file. SceneError where it is taken, FileError where it cannot be
    written."""
    if name in {other.move.name for other in listed(document.scene)[0]}:
        raise SceneError(f"There is a move “{name}” already. Choose another name.")
    moved = replace(each.move, name=name)
    if each.source == "scene":
        old = each.move.name
        document.edit(f"Rename the move {old}", lambda scene: keep_in_scene(take_from_scene(scene, old), moved))
    elif each.source == "mine" and each.path is not None:
        save_move(moved, each.path)
