"""Taking a camera's aim away, which leaves it the pose that it had."""

from ...edits.posing import release_aim
from ..state.document import Document
from ..state.recording import record


def release_aim_of(document: Document, camera_id: str) -> None:
    """Take a camera's aim away; its pose at the playhead is kept."""
    name = document.scene.node(camera_id).name
    freed, values = release_aim(document.scene, camera_id, document.playhead.frame)
    if freed is document.scene:
        document.messages.say(f"{name} is not aimed at anything.")
        return
    changes = {(camera_id, channel): value for channel, value in values.items()}
    recorded = record(document.state.with_scene(freed), changes, document.playhead.frame, document.recorder.auto_key)
    document.recorder.apply(f"Take the aim of {name} away", recorded)
