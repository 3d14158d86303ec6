"""Resolves cameras: by name, or the output, which shows the film or the scene's camera.

Nothing else looks at ``Scene.camera``.
"""

import msgspec

from .errors import SceneError, UnknownNodeError
from .film import Cut, Shot, shot_at
from .lookup import nodes_by_id
from .model import Scene
from .nodes import AnyNode, Camera, Projection, View


def output_camera(scene: Scene, frame: float | None = None) -> str | None:
    """The id of what the output shows at a frame (None: at first), events apart; None where there is nothing."""
    if scene.shots:
        return scene.shots[0 if frame is None else shot_at(scene.shots, frame)].camera
    return scene.camera if isinstance(nodes_by_id(scene).get(scene.camera or ""), Camera) else None


def shots_of(scene: Scene) -> tuple[Shot, ...]:
    """The shots; where there are none, one of the scene's camera."""
    if scene.shots or output_camera(scene) is None:
        return scene.shots
    assert scene.camera is not None
    node = nodes_by_id(scene)[scene.camera]
    return (Shot(node.name, scene.camera, float(scene.settings.first), join=Cut()),)


def output_nodes(scene: Scene) -> tuple[str, ...]:
    """The ids of everything that the output may show, each once."""
    shown = [shot.camera for shot in shots_of(scene)]
    shown += [event.camera for event in scene.events if event.on and shown]
    return tuple(dict.fromkeys(shown))


def lost_output(scene: Scene) -> str | None:
    """The camera that the output should show where it is none; None where nothing is wrong."""
    nodes = nodes_by_id(scene)
    if scene.camera is not None and not isinstance(nodes.get(scene.camera), Camera):
        return scene.camera
    return None


def has_output(scene: Scene) -> bool:
    """Whether the output shows anything."""
    return output_camera(scene) is not None


def shown_camera(scene: Scene, lens: str | None, frame: float) -> View | None:
    """What is looked through (None: the output) at a frame, events apart, where it is a camera or a framing."""
    found = nodes_by_id(scene).get(lens or output_camera(scene, frame) or "")
    return found if isinstance(found, View) else None


def with_output_camera(scene: Scene, camera: str | None) -> Scene:
    """The scene whose output, where there are no shots, shows another camera. SceneError where that is none."""
    if camera is not None and not isinstance(scene.node(camera), Camera):
        raise SceneError(f"{scene.node(camera).name} is not a camera.")
    return msgspec.structs.replace(scene, camera=camera)


def with_some_output(scene: Scene) -> Scene:
    """The scene with its first camera as the output, where the one that was is gone or there was none."""
    nodes = nodes_by_id(scene)
    if isinstance(nodes.get(scene.camera or ""), Camera):
        return scene
    return msgspec.structs.replace(scene, camera=next(iter(cameras(scene)), None))


def cameras(scene: Scene) -> dict[str, Camera]:
    """Every camera by its id, in the order of the scene."""
    return {node.id: node for node in scene.nodes if isinstance(node, Camera)}


def shown_nodes(scene: Scene) -> dict[str, View]:
    """Every camera and framing by its id: cameras first, both in the order of the scene."""
    found = [node for node in scene.nodes if isinstance(node, View)]
    return {node.id: node for node in sorted(found, key=lambda node: not isinstance(node, Camera))}


def resolve_camera(scene: Scene, name: str | None) -> str | None:
    """The id of the camera or framing that a name or an id means; None for the output. SceneError, with a remedy, for
    none."""
    if name is None:
        if not has_output(scene):
            raise SceneError("The scene has no camera. Add one in the window first.")
        return None
    known = shown_nodes(scene)
    ids = [node.id for node in known.values() if node.name == name] or [each for each in known if each == name]
    if not ids:
        names = ", ".join(node.name for node in known.values()) or "none"
        raise SceneError(f"There is no camera “{name}”. The scene has: {names}.")
    if len(ids) > 1:
        raise SceneError(f"Several cameras are called “{name}”. Use an id: {', '.join(ids)}.")
    return ids[0]


def resolve_shots(scene: Scene, names: str) -> list[tuple[float, float]]:
    """The frames of shots that are named, separated by commas: where each begins, and where the next one does (infinite
    for the last). SceneError, with a remedy, for a name that is none."""
    found: list[tuple[float, float]] = []
    for name in (each.strip() for each in names.split(",")):
        numbers = [k for k, shot in enumerate(scene.shots) if shot.name == name]
        if not numbers:
            known = ", ".join(shot.name for shot in scene.shots) or "none"
            raise SceneError(f"There is no shot “{name}”. The scene has: {known}.")
        found += [shot_range(scene, number) for number in numbers]
    return found


def shot_range(scene: Scene, number: int) -> tuple[float, float]:
    """Where a shot begins and where the next one does, within the scene: the end belongs to the next one."""
    shots, settings = scene.shots, scene.settings
    first = float(settings.first) if number == 0 else max(shots[number].first, float(settings.first))
    end = shots[number + 1].first if number + 1 < len(shots) else settings.last + 1.0
    return first, min(end, settings.last + 1.0)


def lens_nodes(scene: Scene, lens: str | None) -> tuple[str, ...]:
    """What has to be evaluated to look through a camera, or a projection as the camera that took its photograph; None:
    the output. UnknownNodeError where there is none."""
    if lens is None and (shown := output_nodes(scene)):
        return (*shown, *(event.aim for event in scene.events if event.on and event.aim))
    return (lens_node(scene, lens).id,)


def lens_node(scene: Scene, lens: str | None) -> View | Projection:
    """What is looked through, of the output what it shows at first. UnknownNodeError where there is none."""
    node_id = output_camera(scene) if lens is None else lens
    node: AnyNode | None = nodes_by_id(scene).get(node_id or "")
    if not isinstance(node, View | Projection):
        raise UnknownNodeError(node_id or "camera")
    return node
