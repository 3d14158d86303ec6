"""What the inspector shows of a shot or an event that is selected."""

from collections.abc import Callable
from functools import partial
from typing import Any, get_args

import msgspec
from PyQt6.QtCore import QPoint
from PyQt6.QtWidgets import QToolButton, QWidget

from ...edits import change_event, change_shot, roll_join
from ...scene import (
    CONDITIONS,
    AtMarker,
    Blend,
    ChannelPasses,
    Condition,
    Cut,
    DistancePasses,
    Ease,
    Event,
    HeightPasses,
    Hits,
    InFrame,
    Scene,
    SceneError,
    Shot,
    SpeedPasses,
    span_label,
    specs,
)
from ...scene.film import WAY_WORDS
from ...scene.output import shot_range, shown_nodes
from ...scene.types import UnitName
from ..state.document import Document
from ..widgets.ease_menu import add_eases
from ..widgets.panel_parts import label, popup_menu
from ..widgets.property_fields import Property
from .rows import Rows, spec, word_button

_PLACES: list[tuple[Any, str]] = [("before", "before it"), ("on", "across it"), ("after", "after it")]


def shown_choices(scene: Scene) -> list[tuple[Any, str]]:
    """Cameras and framings to choose from."""
    return [(node.id, node.name) for node in shown_nodes(scene).values()]


# Shots


def shot_shape(scene: Scene, number: int) -> tuple[object, ...]:
    """All that decides which rows a shot has."""
    shot = scene.shots[number]
    blend = (shot.join.unit, shot.join.ease) if isinstance(shot.join, Blend) else ()
    return ("shot", number, len(scene.shots), *blend, tuple(shown_choices(scene)), scene.settings.rate)


def shot_rows(rows: Rows, number: int) -> None:
    """Name, camera, first frame and length, join, colour and note."""
    document = rows.document

    def of(name: str, field: str) -> Property:
        return Property(
            document,
            f"Shot: {name}",
            lambda scene: getattr(scene.shots[number], field),
            lambda scene, value: change_shot(scene, number, **{field: value}),
            (Shot, field),
        )

    rows.widgets("Name", rows.line(of("name", "name"), "Name of the shot"), spans=(3,))
    seen = rows.choice(of("camera", "camera"), shown_choices(document.scene), "The camera or framing that it shows")
    rows.widgets("Shows", seen, spans=(3,))
    first = Property(
        document,
        "Roll a join",
        lambda scene: scene.shots[number].first,
        lambda scene, value: (
            roll_join(scene, number, value) if number else change_shot(scene, 0, first=min(value, _latest(scene)))
        ),
    )
    begins = rows.number(first, spec("first frame", "count", 1.0))
    long = label("", "soft", 11)

    def show_length() -> None:
        if number < len(document.scene.shots):
            low, high = shot_range(document.scene, number)
            seconds = (high - low) / document.settings.rate.fps
            long.setText(f"{high - low:g} frames, {seconds:.2f} s")

    rows.widgets("Begins", begins, long, spans=(1, 2))
    rows.followers.append(show_length)
    if number:
        _join_rows(rows, of("join", "join"))
    rows.widgets("Colour", rows.tone(of("colour", "colour"), "Colour of the shot", "by camera"))
    rows.widgets("Note", rows.line(of("note", "note"), "A note on the shot"), spans=(3,))


def _latest(scene: Scene) -> float:
    return scene.shots[1].first - 1.0 if len(scene.shots) > 1 else float(scene.settings.last)


def _join_rows(rows: Rows, join: Property) -> None:
    """Cut or blend, and how long, where, by which ease and way."""
    document, now = rows.document, join.value
    kind = Property(
        document,
        "Join",
        lambda scene: isinstance(join.value, Blend),
        lambda scene, value: join.changed(
            scene, Blend(length=min(24.0, document.settings.rate.fps)) if value else Cut()
        ),
    )
    kinds: list[tuple[Any, str]] = [(False, "cut"), (True, "blend")]
    choice = rows.choice(kind, kinds, "How it follows on the shot before it")
    if not isinstance(now, Blend):
        rows.widgets("Joined by", choice)
        return

    def of(name: str, field: str) -> Property:
        return Property(
            document,
            f"Blend: {name}",
            lambda scene: getattr(join.value, field, None),
            lambda scene, value: join.changed(scene, msgspec.structs.replace(join.value, **{field: value})),
            (Blend, field),
        )

    unit: UnitName = "seconds" if now.unit == "seconds" else "count"
    rows.widgets(
        "Joined by",
        choice,
        rows.number(of("length", "length"), spec("length of the blend", unit, 1.0 if unit == "count" else 0.1)),
        rows.choice(of("unit", "unit"), [("frames", "frames"), ("seconds", "seconds")], "What its length counts"),
    )
    rows.widgets(
        "",
        rows.choice(of("place", "place"), _PLACES, "Where it lies beside the shot's first frame"),
        rows.choice(of("way", "way"), list(WAY_WORDS), "How it goes from one camera to the other"),
        spans=(1, 2),
    )
    ease = word_button(span_label(now.ease), "Ease of the blend", partial(_ease_menu, document, of("ease", "ease")))
    rows.widgets("Ease", ease, spans=(3,))


def _ease_menu(document: Document, prop: Property, button: QToolButton) -> None:
    menu = popup_menu(button)

    def choose(ease: Ease) -> None:
        prop.set(ease)

    add_eases(menu, document.scene.eases, prop.value, choose)
    menu.exec(button.mapToGlobal(QPoint(0, button.height())))


# Events


def event_shape(scene: Scene, number: int) -> tuple[object, ...]:
    """All that decides which rows an event has."""
    event = scene.events[number]
    nodes = tuple((node.id, node.name) for node in scene.nodes)
    return ("event", number, type(event.when), type(event.until), _channels(event), nodes, scene.markers)


def _channels(event: Event) -> tuple[object, ...]:
    """Whose channels are chosen among, and in what unit their values are."""
    return tuple((c.node, c.channel) if isinstance(c, ChannelPasses) else None for c in (event.when, event.until))


def event_rows(rows: Rows, number: int) -> None:
    """When it comes true, what it shows, for how long, and how often."""
    document = rows.document

    def of(name: str, field: str) -> Property:
        return Property(
            document,
            f"Event: {name}",
            lambda scene: getattr(scene.events[number], field),
            lambda scene, value: change_event(scene, number, **{field: value}),
            (Event, field),
        )

    on = rows.switch(of("on or off", "on"), "on", "Whether the film heeds it")
    rows.widgets("Name", rows.line(of("name", "name"), "Name of the event"), on, spans=(2, 1))
    _condition_rows(rows, "When", of("when", "when"), False)
    rows.widgets(
        "Shows", rows.choice(of("camera", "camera"), shown_choices(document.scene), "What it shows"), spans=(3,)
    )
    aims: list[tuple[Any, str]] = [(None, "where it looks"), *((node.id, node.name) for node in document.scene.nodes)]
    tilt = rows.number(of("tilt", "tilt"), spec("tilt of the horizon", "degrees", 1.0))
    rows.widgets(
        "Aimed at", rows.choice(of("aim", "aim"), aims, "The node that the camera is aimed at"), tilt, spans=(2, 1)
    )
    delay = rows.number(of("delay", "delay"), spec("delay", "seconds", 0.1))
    hold = rows.number(of("hold", "hold"), spec("held for", "seconds", 0.1))
    rows.widgets("Delay", delay, label("s, then held", "soft", 11), hold)
    _condition_rows(rows, "Until", of("until", "until"), True)
    cooling = rows.number(of("cooling", "cooling"), spec("not again for", "seconds", 0.1))
    rows.widgets(
        "Not again for", cooling, rows.number(of("priority", "priority"), spec("priority", "count", 1.0)),
        label("priority", "soft", 11),
    )  # fmt: skip


_KINDS: dict[type, Callable[[Scene, str, str], Condition]] = {
    AtMarker: lambda scene, node, other: AtMarker(scene.markers[0].name if scene.markers else "Marker 1"),
    DistancePasses: lambda scene, node, other: DistancePasses(node, other),
    HeightPasses: lambda scene, node, other: HeightPasses(node),
    SpeedPasses: lambda scene, node, other: SpeedPasses(node),
    ChannelPasses: lambda scene, node, other: ChannelPasses(node, "position.x"),
    InFrame: lambda scene, node, other: InFrame(node, next(iter(shown_nodes(scene)))),
    Hits: lambda scene, node, other: Hits(node),
}
"""What a condition of each kind looks at first."""
_WAY_WORDS: dict[type, tuple[str, str]] = {
    DistancePasses: ("farther than", "nearer than"), HeightPasses: ("rises above", "sinks below"),
    SpeedPasses: ("goes faster than", "goes slower than"), ChannelPasses: ("rises above", "sinks below"),
    InFrame: ("comes into frame", "leaves the frame"),
}  # fmt: skip
_UNITS: dict[type, UnitName] = {SpeedPasses: "units", HeightPasses: "units", DistancePasses: "units", Hits: "units"}


def _kind_of_condition(document: Document, prop: Property) -> Property:
    """What has to come true, by its kind: another one is about the same node, or what is selected."""
    now = prop.value

    def put(scene: Scene, kind: Any) -> Scene:
        if kind is None:
            return prop.changed(scene, None)
        known = list(now.named()) if now is not None else []
        ids = [node.id for node in scene.nodes]
        node = known[0] if known else next((e for e in document.selection.nodes if e in ids), ids[0])
        if kind is Hits:
            falling = [n.id for n in scene.nodes if any(bind.collides for bind in n.binds)]
            if not falling:
                raise SceneError(
                    "Nothing drops and rolls in this scene. Rig ▸ Bind ▸ Drop and roll makes something fall."
                )
            node = falling[0]
        other = next((each for each in ids if each != node), node)
        return prop.changed(scene, _KINDS[kind](scene, node, other))

    return Property(document, prop.name, lambda scene: type(prop.value) if prop.value is not None else None, put)


def _value_row(rows: Rows, now: Any, of: Callable[[str], Property]) -> None:
    """The channel that passes a value, which way, and the value."""
    document = rows.document
    unit = _UNITS.get(type(now), "units")
    if isinstance(now, ChannelPasses):
        known = specs(document.scene.node(now.node))
        channels: list[tuple[Any, str]] = [(name, each.label) for name, each in known.items()]
        rows.widgets("", rows.choice(of("channel"), channels, "The channel"), spans=(3,))
        unit = known[now.channel].unit if now.channel in known else unit
    last: list[QWidget] = []
    if type(now) in _WAY_WORDS:
        up, down = _WAY_WORDS[type(now)]
        last.append(rows.choice(of("way"), [("up", up), ("down", down)], "Which way it passes"))
    if now is not None and hasattr(now, "value"):
        low = 0.0 if isinstance(now, SpeedPasses | Hits) else -1e9
        last.append(rows.number(of("value"), spec("the value that is passed", unit, 0.1, low, 1e9)))
    if last:
        rows.widgets("", *last, spans=(2, 1) if len(last) > 1 else (3,))


def _condition_rows(rows: Rows, title: str, prop: Property, may_be_none: bool) -> None:
    document, now = rows.document, prop.value
    nodes: list[tuple[Any, str]] = [(node.id, node.name) for node in document.scene.nodes]
    if not nodes:
        return

    def of(field: str) -> Property:
        return Property(
            document,
            prop.name,
            lambda scene: getattr(prop.value, field),
            lambda scene, value: prop.changed(scene, msgspec.structs.replace(prop.value, **{field: value})),
            (type(prop.value), field),
        )

    fields: list[QWidget] = []
    if isinstance(now, AtMarker):
        names: list[tuple[Any, str]] = [
            (name, name) for name in dict.fromkeys([now.marker, *(m.name for m in document.scene.markers)])
        ]
        fields.append(rows.choice(of("marker"), names, "The marker's name"))
    elif now is not None:
        fields.append(rows.choice(of("node"), nodes, "The node that is looked at"))
    kinds: list[tuple[Any, str]] = [(None, "its time is up")] if may_be_none else []
    kinds += [(each, each.label) for each in CONDITIONS]
    kind = _kind_of_condition(document, prop)
    rows.widgets(title, rows.choice(kind, kinds, "What has to come true"), spans=(3,))
    if fields:
        rows.widgets("", *fields, spans=(3,))
    if isinstance(now, DistancePasses):
        rows.widgets("", rows.choice(of("other"), nodes, "The other node"), spans=(3,))
    if isinstance(now, InFrame):
        rows.widgets("", rows.choice(of("camera"), shown_choices(document.scene), "Whose frame"), spans=(3,))
    _value_row(rows, now, of)


assert set(_KINDS) == set(get_args(Condition))


def shot_title(shots: tuple[Shot, ...], number: int, chosen: int) -> str:
    """What stands over the rows of a shot."""
    more = f"  + {chosen - 1}" if chosen > 1 else ""
    return f"{shots[number].name}{more}"
