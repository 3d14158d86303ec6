"""What the demo's checks are held to: its subjects, limits of its own, and what is as it should be."""

import msgspec

from wild_heron import edits
from wild_heron.checks.solving import follow_subjects, with_window
from wild_heron.scene import Accepted, ChecksOfScene, Hold, LimitOfScene, Scene, Subject

# A fair is lively; its artwork is painted small, so that the demo stays small.
_LIMITS = {"comfort.cross": 1.5, "nearness.soft": 8.0, "nearness.stretch": 5.0}
_BETWEEN = "Through between the lanterns, as in a paper theatre."
_OVER = "Over the tips of the grass."
_GLOW = "Lights that glow out of focus may be soft."
# Kind, about what, from and to which frame, how bad, in which format, and why it is well.
_ACCEPTED = (
    ("near", "grass", 112.0, 112.0, 0.15, "", _OVER),
    ("near", "far-lanterns", 130.0, 130.0, 0.15, "", _BETWEEN),
    ("through", "near-lanterns", 403.0, 404.0, 0.3, "", _BETWEEN),
    ("through", "far-lanterns", 419.0, 420.0, 0.3, "", _BETWEEN),
    ("through", "far-lanterns", 434.0, 435.0, 0.3, "", _BETWEEN),
    ("through", "near-lanterns", 440.0, 441.0, 0.3, "", _BETWEEN),
    ("soft", "far-lanterns", 280.0, 291.0, 9.9, "Portrait 4:5", _GLOW),
    ("soft", "far-lanterns", 251.0, 291.0, 14.1, "Vertical 9:16", _GLOW),
    ("soft", "stalls", 423.0, 433.0, 9.6, "Portrait 4:5", "It is behind the emblem, and goes by."),
    ("soft", "stalls", 416.0, 436.0, 13.6, "Vertical 9:16", "It is behind the emblem, and goes by."),
)


_SIZES = {"Portrait 4:5": 1.06, "Vertical 9:16": 1.5}
_HIGHER = {"Portrait 4:5": 0.0, "Vertical 9:16": 0.19}


def checked(scene: Scene) -> Scene:
    """The scene with what its checks know of it, and with formats that follow its subjects."""
    subjects = (
        Subject("emblem", "frame", shots=("Round the emblem",)),
        Subject("kite", "frame", shots=("Over the rooftops", "The kite")),
    )  # fmt: skip
    limits = tuple(LimitOfScene(name, value) for name, value in _LIMITS.items())
    accepted = tuple(
        Accepted(kind, first, last, worst, shape, about, note)
        for kind, about, first, last, worst, shape, note in _ACCEPTED
    )
    scene = msgspec.structs.replace(scene, checks=ChecksOfScene(subjects, limits, (), accepted))
    for shape in scene.formats:
        scene, window = with_window(scene, shape.name)
        # The emblem is wider than a tall frame: there it shows more of the picture.
        for frame, size in ((0.0, 1.0), (102.0, _SIZES[shape.name]), (180.0, 1.0)):
            scene = edits.set_key(scene, window, "window.size", frame, size, Hold())
        scene, _ = follow_subjects(scene, shape.name)
        # And so that nothing is bare under the street, a little higher up.
        for frame, up in ((0.0, 0.0), (102.0, _HIGHER[shape.name]), (180.0, 0.0)):
            scene = edits.set_key(scene, window, "window.up", frame, up, Hold())
    return scene
