"""Rows of paths and grounds."""

from functools import partial
from typing import Any

import msgspec
import numpy as np
from PyQt6.QtCore import QPoint
from PyQt6.QtWidgets import QToolButton

from ...scene import (
    AnyNode,
    BezierPath,
    CirclePath,
    EllipsePath,
    Ground,
    HeightMap,
    LinePath,
    Path,
    PathPoint,
    ThroughPath,
    Wave,
    Waves,
)
from ...scene.channels import OPACITY, RELIEF
from ...scene.paths import Curve
from ...space.path import is_closed, pieces, track
from ...space.path_shape import Grip, moved
from ..widgets.number_field import NumberField
from ..widgets.panel_parts import icon_button, label, popup_menu
from ..widgets.property_fields import Property
from .rows import Page, Pages, Rows, spec, word_button

_WORDS: dict[type, str] = {
    CirclePath: "circle", EllipsePath: "ellipse", LinePath: "line", ThroughPath: "through points",
    BezierPath: "with handles",
}  # fmt: skip


def path_rows(rows: Rows, node: Path) -> None:
    """Shape, measures, and length."""
    kind = word_button(
        _WORDS[type(node.curve)],
        "What kind of path it is; points can be dragged in the Overview",
        partial(_kinds, rows),
    )
    rows.properties["path kind"] = kind
    length = label("", "soft", 11)

    def show_length() -> None:
        now = rows.document.scene.node(node.id)
        if isinstance(now, Path):
            length.setText(f"{track(now.curve).length:.2f} units long")

    rows.followers.append(show_length)
    rows.widgets("Path", kind, length, spans=(1, 2))
    match node.curve:
        case CirclePath():
            rows.widgets("Radius", rows.number(rows.part("curve", "radius", "radius"), _size("radius")))
        case EllipsePath():
            rows.widgets(
                "Half axes",
                rows.number(rows.part("curve", "across", "across"), _size("across")),
                rows.number(rows.part("curve", "deep", "deep"), _size("deep")),
                label("x and z", "soft", 11),
            )
        case LinePath():
            for title, field in (("From", "start"), ("To", "end")):
                rows.widgets(title, *(_coordinate(rows, field, k) for k in range(3)))
        case ThroughPath() | BezierPath():
            closed = rows.switch(rows.part("curve", "closed", "closed"), "closed", "The end joins the start")
            note = label("drag points; double-click adds", "soft", 11)
            rows.widgets("Points", closed, note, spans=(1, 2))
            _point_rows(rows)


def _point_rows(rows: Rows) -> None:
    """One point of the path at a time, by its number, and where it is."""
    chosen = [0]

    def point(node: AnyNode) -> tuple[float, float, float]:
        points = node.curve.points
        each = points[min(chosen[0], len(points) - 1)]
        return each.at if isinstance(each, PathPoint) else each

    def put(k: int, node: AnyNode, value: float) -> AnyNode:
        assert isinstance(node, Path)
        at = np.array(point(node))
        at[k] = value
        number = min(chosen[0], len(node.curve.points) - 1)
        return msgspec.structs.replace(node, curve=moved(node.curve, Grip("point", number, at), at))

    number = NumberField(spec("number of the point", "count", 1, 1, 5000, 1))
    number.show_value(1.0)
    number.setToolTip("The point whose numbers are below")
    fields = [
        rows.number(
            rows.property(
                f"point {'xyz'[k]}", partial(lambda k, node: point(node)[k], k), partial(put, k), (PathPoint, "at")
            ),
            spec(f"point {'xyz'[k]}", "units", 0.1),
        )
        for k in range(3)
    ]

    def choose(value: float, repeats: bool = False) -> None:
        node = rows.document.scene.node(rows.node.id)
        count = len(node.curve.points) if isinstance(node, Path) else 1
        chosen[0] = min(max(round(value) - 1, 0), count - 1)
        number.show_value(chosen[0] + 1.0)
        for field in fields:
            field.refresh()

    number.edited.connect(choose)
    number.dragged.connect(choose)
    rows.properties["point"] = number
    rows.widgets("Point no.", number)
    rows.widgets("is at", *fields)


def _size(name: str):  # type: ignore[no-untyped-def]
    return spec(name, "units", 0.1)


def _coordinate(rows: Rows, field: str, k: int) -> Any:
    def put(node: AnyNode, value: float) -> AnyNode:
        assert isinstance(node, Path)
        point = list(getattr(node.curve, field))
        point[k] = value
        return msgspec.structs.replace(node, curve=msgspec.structs.replace(node.curve, **{field: tuple(point)}))

    kind = type(rows.node.curve) if isinstance(rows.node, Path) else Path
    prop = rows.property(f"{field} {'xyz'[k]}", lambda node: getattr(node.curve, field)[k], put, (kind, field))
    return rows.number(prop, spec(f"{field} {'xyz'[k]}", "units", 0.1))


def _kinds(rows: Rows, button: QToolButton) -> None:
    menu = popup_menu(button)
    node = rows.node
    assert isinstance(node, Path)
    for kind, words in _WORDS.items():
        action = menu.addAction(words)
        action.setCheckable(True)
        action.setChecked(isinstance(node.curve, kind))
        action.triggered.connect(partial(_convert, rows, kind))
    menu.exec(button.mapToGlobal(QPoint(0, button.height())))


def _convert(rows: Rows, kind: type, checked: bool = False) -> None:
    node = rows.node
    assert isinstance(node, Path)
    now = rows.document.scene.node(node.id)
    assert isinstance(now, Path)
    curve = converted(now.curve, kind)
    rows.document.edit(
        f"{node.name}: {_WORDS[kind]}",
        lambda scene: scene.with_node(msgspec.structs.replace(scene.node(node.id), curve=curve)),
    )


def converted(curve: Curve, kind: type) -> Curve:
    """A path of another kind that is like this one: the same points, or about as large."""
    if isinstance(curve, kind):
        return curve
    parts = pieces(curve)
    low, high = parts.reshape(-1, 3).min(axis=0), parts.reshape(-1, 3).max(axis=0)
    half = [max(float(each), 0.1) for each in 0.5 * (high - low)]
    if kind is CirclePath:
        return CirclePath(max(half[0], half[2]))
    if kind is EllipsePath:
        return EllipsePath(half[0], half[2])
    ends = [tuple(parts[0, 0].tolist()), tuple(parts[-1, 3].tolist())]
    if kind is LinePath:
        return LinePath(*(ends if ends[0] != ends[1] else (tuple(low.tolist()), tuple(high.tolist()))))
    closed = is_closed(curve)
    points = [tuple(each.tolist()) for each in parts[:, 0]] + ([] if closed else [ends[1]])
    if kind is ThroughPath:
        return ThroughPath(tuple(points), closed)
    out = []
    for k, at in enumerate(points):
        before = parts[k - 1, 2] - parts[k - 1, 3] if k or closed else None
        after = parts[k, 1] - parts[k, 0] if k < len(parts) else None
        handles = [(0.0, 0.0, 0.0) if each is None else tuple(each.tolist()) for each in (before, after)]
        out.append(PathPoint(at, *handles))
    return BezierPath(tuple(out), closed)


def ground_rows(rows: Rows, node: Ground) -> None:
    """Size, relief, waves, and how it looks."""
    rows.widgets(
        "Size",
        rows.number(rows.field("width", "width"), _size("width")),
        rows.number(rows.field("depth", "depth"), _size("depth")),
        rows.number(rows.field("faces", "fineness"), spec("faces", "count", 4)),
    )
    rows.channels("", (RELIEF, OPACITY), axis=False, captions=("relief", "opacity"))
    rows.widgets(
        "Surface",
        rows.tone(rows.field("surface", "tone"), "Colour of the surface"),
        rows.switch(rows.field("takes light", "takes_light"), "lit", "Lights shade it"),
        rows.switch(rows.field("takes haze", "takes_haze"), "haze", "Distance fades it"),
    )
    if isinstance(node.surface, HeightMap):
        surface = node.surface
        rows.widgets(
            "Heights",
            *(rows.number(rows.part("surface", end, end), spec(end, "units", 0.1)) for end in ("low", "high")),
            label(f"{surface.columns} × {surface.rows}", "soft", 11),
        )
        if surface.source:
            rows.widgets("From", label(surface.source.rpartition("/")[2], "soft", 11), spans=(3,))
        return
    _wave_rows(rows, node)


def _wave_rows(rows: Rows, node: Ground) -> None:
    assert isinstance(node.surface, Waves)
    add = icon_button("plus", "Another wave", size=20)
    add.clicked.connect(
        lambda: _change_waves(rows, "Add a wave", lambda waves: (*waves, Wave(60.0 * len(waves), 6.0, 0.3)))
    )
    add.setEnabled(len(node.surface.waves) < 16)
    rows.properties["add wave"] = add
    rows.heading("Waves: direction, length, height; speed, phase", add)
    for k in range(len(node.surface.waves)):

        def wave(field: str, k: int = k) -> Property:
            def put(node: AnyNode, value: float) -> AnyNode:
                assert isinstance(node, Ground)
                assert isinstance(node.surface, Waves)
                waves = list(node.surface.waves)
                waves[k] = msgspec.structs.replace(waves[k], **{field: value})
                return msgspec.structs.replace(node, surface=Waves(tuple(waves)))

            name = f"wave {k + 1} {field}"
            return rows.property(name, lambda node: getattr(node.surface.waves[k], field), put, (Wave, field))

        rows.widgets(
            f"Wave {k + 1}",
            rows.number(wave("direction"), spec(f"wave {k + 1} direction", "degrees", 1)),
            rows.number(wave("wavelength"), spec(f"wave {k + 1} length", "units", 0.1)),
            rows.number(wave("height"), spec(f"wave {k + 1} height", "units", 0.02)),
        )
        away = icon_button("cross", f"Take wave {k + 1} away", size=20)
        away.clicked.connect(
            lambda checked, k=k: _change_waves(rows, "Take a wave away", lambda waves: (*waves[:k], *waves[k + 1 :]))
        )
        row = rows.widgets(
            "",
            rows.number(wave("speed"), spec(f"wave {k + 1} speed", "units", 0.05)),
            rows.number(wave("phase"), spec(f"wave {k + 1} phase", "degrees", 1)),
        )
        rows.grid.addWidget(away, row, 3)


def _change_waves(rows: Rows, name: str, change: Any) -> None:
    node = rows.node
    assert node is not None

    def edit(scene):  # type: ignore[no-untyped-def]
        ground = scene.node(node.id)
        return scene.with_node(msgspec.structs.replace(ground, surface=Waves(change(ground.surface.waves))))

    rows.document.edit(name, edit)


PAGES: Pages = {
    Path: Page(path_rows, lambda node: (type(node.curve), getattr(node.curve, "closed", None))),
    Ground: Page(ground_rows, lambda node: (type(node.surface), len(getattr(node.surface, "waves", ())))),
}
