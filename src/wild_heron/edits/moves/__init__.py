"""Moves: kept from a camera, changed, and put on a subject."""

from msgspec.structs import replace

from ...scene import Scene
from ...scene.moves import Move, check_move
from .changing import mirrored as mirrored
from .changing import reversed_ as reversed_
from .changing import stronger as stronger
from .keeping import keep as keep
from .putting import Placing as Placing
from .putting import put as put
from .subject import SubjectPlace as SubjectPlace
from .subject import subject_place as subject_place


def keep_in_scene(scene: Scene, move: Move) -> Scene:
    """The scene with a move kept in it; one of the same name is replaced."""
    check_move(move)
    return replace(scene, moves=(*(each for each in scene.moves if each.name != move.name), move))


def take_from_scene(scene: Scene, name: str) -> Scene:
    """The scene without the move of a name."""
    return replace(scene, moves=tuple(each for each in scene.moves if each.name != name))
