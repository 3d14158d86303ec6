"""Which camera is meant: the one that shows the film, or one by name. Nothing else looks at ``Scene.camera``."""

import msgspec

from .errors import SceneError, UnknownNodeError
from .lookup import nodes_by_id
from .model import Scene
from .nodes import Camera, Projection


def output_camera(scene: Scene) -> str | None:
    """The id of the camera that the output shows; None where there is none."""
    return scene.camera if isinstance(nodes_by_id(scene).get(scene.camera or ""), Camera) else None


def lost_output(scene: Scene) -> str | None:
    """The camera that the output should show where it is none; None where nothing is wrong."""
    return scene.camera if scene.camera is not None and output_camera(scene) is None else None


def has_output(scene: Scene) -> bool:
    """Whether the output shows anything."""
    return output_camera(scene) is not None


def shown_camera(scene: Scene) -> Camera | None:
    """The camera that the output shows."""
    found = nodes_by_id(scene).get(scene.camera or "")
    return found if isinstance(found, Camera) else None


def with_output_camera(scene: Scene, camera: str | None) -> Scene:
    """The scene whose output shows another camera. SceneError where that is none."""
    if camera is not None and not isinstance(scene.node(camera), Camera):
        raise SceneError(f"{scene.node(camera).name} is not a camera.")
    return msgspec.structs.replace(scene, camera=camera)


def with_some_output(scene: Scene) -> Scene:
    """The scene with its first camera as the output, where the one that was is gone or there was none."""
    found = output_camera(scene)
    return scene if found is not None else msgspec.structs.replace(scene, camera=next(iter(cameras(scene)), None))


def cameras(scene: Scene) -> dict[str, Camera]:
    """Every camera by its id, in the order of the scene."""
    return {node.id: node for node in scene.nodes if isinstance(node, Camera)}


def resolve_camera(scene: Scene, name: str | None) -> str:
    """The id of the camera that a name or an id means, None for the output's. SceneError, with a remedy, for none."""
    if name is None:
        found = output_camera(scene)
        if found is None:
            raise SceneError("The scene has no camera. Add one in the window first.")
        return found
    known = cameras(scene)
    ids = [camera.id for camera in known.values() if camera.name == name] or [each for each in known if each == name]
    if not ids:
        names = ", ".join(camera.name for camera in known.values()) or "none"
        raise SceneError(f"There is no camera “{name}”. The scene has: {names}.")
    if len(ids) > 1:
        raise SceneError(f"Several cameras are called “{name}”. Use an id: {', '.join(ids)}.")
    return ids[0]


def lens_node(scene: Scene, lens: str | None) -> Camera | Projection:
    """What is looked through: a camera, or a projection as the camera that took its photograph; None: the output.
    UnknownNodeError where there is none."""
    node_id = output_camera(scene) if lens is None else lens
    node = nodes_by_id(scene).get(node_id or "")
    if not isinstance(node, Camera | Projection):
        raise UnknownNodeError(node_id or "camera")
    return node
