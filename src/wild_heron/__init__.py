"""Wild Heron: animate cameras through layered 2.5D and 3D graphics.

A scene can be built and evaluated without the window::

    import wild_heron as wh

    scene = wh.load("fair.heron")
    scene = wh.edits.set_key(scene, "turn", "rotation.y", 48, 30.0)
    world = wh.evaluate(scene, range(240)).world("main-camera")   # (240, 4, 4)
    wh.save(scene, "fair.heron")
"""

from .evaluate import evaluate
from .files.project import load, save
from .scene import (
    AimNode,
    AimPoint,
    Bezier,
    Box,
    Camera,
    Channel,
    Cone,
    Cylinder,
    Distance,
    FaceCamera,
    Family,
    Flow,
    Format,
    Gradient,
    Hold,
    ImageFile,
    Key,
    Layer,
    Light,
    Linear,
    Logo,
    LoopError,
    Model,
    ModelFile,
    Movie,
    Null,
    Picture,
    Plane,
    Projection,
    Rate,
    Scene,
    SceneError,
    Sequence,
    Settings,
    Solid,
    Sphere,
    Steps,
    Stop,
    Text,
    Timing,
    Torus,
    edits,
)

__version__ = "0.1.0"

__all__ = [
    "AimNode",
    "AimPoint",
    "Bezier",
    "Box",
    "Camera",
    "Channel",
    "Cone",
    "Cylinder",
    "Distance",
    "FaceCamera",
    "Family",
    "Flow",
    "Format",
    "Gradient",
    "Hold",
    "ImageFile",
    "Key",
    "Layer",
    "Light",
    "Linear",
    "Logo",
    "LoopError",
    "Model",
    "ModelFile",
    "Movie",
    "Null",
    "Picture",
    "Plane",
    "Projection",
    "Rate",
    "Scene",
    "SceneError",
    "Sequence",
    "Settings",
    "Solid",
    "Sphere",
    "Steps",
    "Stop",
    "Text",
    "Timing",
    "Torus",
    "edits",
    "evaluate",
    "load",
    "save",
]
