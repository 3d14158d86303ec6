"""What a move is likely to be about, and over which frames: what dialogs begin with."""

from ...edits.moves import subject_place
from ...scene import Camera, Scene, SceneError
from ...scene.film import shot_at
from ...scene.output import shot_range
from ..state.document import Document


def has_no_size(scene: Scene, node_id: str, frame: float) -> bool:
    """Whether somebody has to say how high a subject is."""
    try:
        subject_place(scene, node_id, frame)
    except SceneError:
        return True
    return False


def likely_subject(document: Document) -> str | None:
    """What is selected, what is to stay in the frame, what the camera is aimed at, or something solid: the first of
    these that has a size, or else the first."""
    scene, camera = document.scene, document.views.camera
    placed = {node.id for node in scene.nodes if node.placed and not isinstance(node, Camera)}
    aimed = camera.aim.targets if camera is not None and camera.aim is not None else ()
    subjects = (each.node for each in scene.checks.subjects)
    solids = (node.id for node in scene.nodes if node.serves_as("solid"))
    chosen = reversed(document.selection.nodes)
    found = [each for each in (*chosen, *aimed, *subjects, *solids) if each in placed]
    frame = document.playhead.frame
    return next((each for each in found if not has_no_size(scene, each, frame)), next(iter(found), None))


def likely_span(document: Document) -> tuple[float, float]:
    """The range that is played, or else the shot at the playhead: a move lies within one."""
    scene, playhead = document.scene, document.playhead
    first, last = playhead.range
    if playhead.play_range is not None or len(scene.shots) < 2:
        return float(first), float(last)
    start, end = shot_range(scene, shot_at(scene.shots, playhead.frame))
    return max(float(first), start), min(float(last), end - 1.0)
