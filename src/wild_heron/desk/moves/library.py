"""The moves that there are to choose from: the scene's, the user's own, and those that ship. Free of Qt."""

from pathlib import Path
from typing import Literal, NamedTuple

from ...files.errors import FileError
from ...files.move_files import shipped_moves, user_moves
from ...scene import Scene
from ...scene.moves import Move

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
