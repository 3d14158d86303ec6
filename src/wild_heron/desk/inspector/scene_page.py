"""What the inspector shows while nothing is selected: how the scene as a whole looks."""

from typing import Any

import msgspec

from ...edits import change_settings
from ...scene import Distance, Scene
from ..widgets.panel_parts import label
from ..widgets.property_fields import Property
from .rows import Rows, spec


def scene_rows(rows: Rows) -> None:
    """Background, and the look of distance: haze and blur."""
    document = rows.document

    def setting(name: str, field: str) -> Property:
        return Property(
            document,
            f"Scene: {name}",
            lambda scene: getattr(scene.settings, field),
            lambda scene, value: change_settings(scene, msgspec.structs.replace(scene.settings, **{field: value})),
        )

    def haze(name: str, field: str) -> Property:
        def put(scene: Scene, value: Any) -> Scene:
            now = scene.settings.distance or Distance()
            changed = msgspec.structs.replace(scene.settings, distance=msgspec.structs.replace(now, **{field: value}))
            return change_settings(scene, changed)

        return Property(
            document, f"Haze: {name}", lambda scene: getattr(scene.settings.distance, field), put, (Distance, field)
        )

    rows.widgets("Background", rows.tone(setting("background", "background"), "Background"))
    on = Property(
        document,
        "Haze",
        lambda scene: scene.settings.distance is not None,
        lambda scene, value: change_settings(
            scene, msgspec.structs.replace(scene.settings, distance=Distance() if value else None)
        ),
    )
    switch = rows.switch(on, "haze", "Distance fades what takes haze to a colour, and blurs it")
    if document.settings.distance is None:
        rows.widgets("Distance", switch)
        return
    rows.widgets(
        "Distance",
        switch,
        rows.tone(haze("colour", "colour"), "Colour of the haze"),
        rows.number(haze("strength", "strength"), spec("strength", "share", 0.02)),
    )
    rows.widgets(
        "From – to",
        rows.number(haze("start", "start"), spec("start", "units", 0.5)),
        rows.number(haze("end", "end"), spec("end", "units", 0.5)),
        label("units away", "soft", 11),
    )
    rows.widgets(
        "Blur",
        rows.number(haze("blur", "blur"), spec("blur", "pixels", 0.5)),
        label("px at the far end", "soft", 11),
        spans=(1, 2),
    )
