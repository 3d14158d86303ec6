"""The rows of each kind of mover: what it acts on and how much, its own numbers, its axes and its range."""

from collections.abc import Callable
from functools import partial
from typing import Any, get_args

from msgspec.structs import replace
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QMenu, QToolButton, QWidget

from ... import edits
from ...edits.movers import actable
from ...evaluate.movers.stopping import nothing_to_swing, stops
from ...scene import (
    AnyNode,
    Ease,
    Impact,
    Mover,
    Oscillator,
    Overshoot,
    Scene,
    Target,
    span_label,
    spec,
)
from ...scene.channels import POSITION, ROTATION, ChannelSpec
from ...scene.fields import is_number
from ...scene.movers import Wave
from ..commands.mover_commands import MoverCommands
from ..widgets.ease_menu import add_eases
from ..widgets.panel_parts import label, menu_button, popup_menu
from ..widgets.property_fields import Property
from .rows import Rows, word_button
from .rows import spec as number_spec

_TRIPLES = (("Move", POSITION), ("Turn", ROTATION))


def mover_shape(mover: Mover) -> tuple[object, ...]:
    """All of a mover that decides which rows it has."""
    kind = type(mover)
    words = (getattr(mover, field) for _, *fields in mover.rows for field in fields if not is_number(kind, field))
    return (mover.id, kind, mover.on, mover.names, mover.space, mover.start is None, mover.end is None, *words)


class MoverRows:
    """The rows of one mover while they are built."""

    def __init__(self, rows: Rows, node: AnyNode, mover: Mover, commands: MoverCommands) -> None:
        self.rows, self.node, self.mover, self.commands = rows, node, mover, commands

    def build(self) -> None:
        self._targets()
        for title, *fields in self.mover.rows:
            if fields != ["about"] or self._turns_a_lens:
                self.row(title, *(self.field(each) for each in fields), spans=self._wide(fields))
        if isinstance(self.mover, Overshoot):
            _landing_notes(self, self.mover)
        self._space()
        self._range()

    def row(self, title: str, *widgets: QWidget, spans: tuple[int, ...] = ()) -> None:
        """A row whose fields stand on one line, whether or not they have captions over them."""
        number = self.rows.widgets(title, *widgets, spans=spans)
        grid = self.rows.grid
        for widget in widgets:
            grid.setAlignment(widget, Qt.AlignmentFlag.AlignBottom)
        place = grid.itemAtPosition(number, 0)
        words = place.widget() if place is not None else None
        if words is not None:
            words.setFixedHeight(23)
            grid.setAlignment(words, Qt.AlignmentFlag.AlignBottom)

    def of(self, name: str, field: str) -> Property:
        """A field of the mover as a property."""
        node_id, mover_id = self.node.id, self.mover.id
        return Property(
            self.rows.document,
            f"{self.node.name}: {self.mover.label}, {name}",
            lambda scene: getattr(edits.find_mover(scene.node(node_id), mover_id), field),
            lambda scene, value: edits.change_mover(scene, node_id, mover_id, **{field: value}),
            (type(self.mover), field),
        )

    def field(self, name: str) -> QWidget:
        """A field as its kind says that it is shown, or as one of ``_OWN`` has it."""
        kind, shown = type(self.mover), self.mover.shown(name)
        prop = self.of(shown.label, name)
        own = _OWN.get((kind, name))
        made: QWidget
        if own is not None:
            made = own(self, self.mover)
        elif shown.words:
            made = self.rows.choice(prop, list(shown.words), shown.tip)
        elif is_number(kind, name):
            made = self.rows.number(prop, number_spec(shown.label, shown.unit, shown.nudge), caption=shown.caption)
        else:
            made = self.rows.switch(prop, shown.label, shown.tip)
        if shown.tip and is_number(kind, name):
            made.setToolTip(shown.tip)
        self.rows.properties[f"{self.mover.id} {name}"] = made
        return made

    def choice(self, name: str, choices: list[tuple[Any, str]]) -> QWidget:
        """A field whose choices are those of the scene."""
        shown = self.mover.shown(name)
        return self.rows.choice(self.of(shown.label, name), choices, shown.tip)

    def _wide(self, fields: list[str]) -> tuple[int, ...]:
        return tuple(self.mover.shown(each).wide for each in fields)

    @property
    def _turns_a_lens(self) -> bool:
        return self.node.serves_as("lens") and not set(self.mover.names).isdisjoint(ROTATION)

    # What it acts on

    def _amount(self, name: str) -> Property:
        node_id, mover_id = self.node.id, self.mover.id

        def put(scene: Scene, value: float) -> Scene:
            mover = edits.find_mover(scene.node(node_id), mover_id)
            targets = tuple(Target(each.channel, value) if each.channel == name else each for each in mover.targets)
            if name not in mover.names:
                targets = (*targets, Target(name, value))
            return edits.change_mover(scene, node_id, mover_id, targets=targets)

        return Property(
            self.rows.document,
            f"{self.node.name}: {self.mover.label}, {spec(self.node, name).label}",
            lambda scene: edits.find_mover(scene.node(node_id), mover_id).amount(name),
            put,
        )

    def _amount_field(self, name: str, axis: int | None = None) -> QWidget:
        known = spec(self.node, name)
        shown = known if self.mover.adds else ChannelSpec(name, known.label, "share", 1.0, -10.0, 10.0, 0.05)
        room = replace(shown, low=-1e6, high=1e6, default=0.0)
        made = self.rows.number(self._amount(name), room, axis)
        made.setToolTip(f"How much it acts on {known.label}" + ("" if self.mover.adds else ", in percent"))
        self.rows.properties[f"{self.mover.id} {name}"] = made
        return made

    def _targets(self) -> None:
        names = self.mover.names
        for title, triple in _TRIPLES:
            if not set(triple).isdisjoint(names):
                self.row(title, *(self._amount_field(name, k) for k, name in enumerate(triple)))
        others = [name for name in names if name not in (*POSITION, *ROTATION)]
        for name in others:
            row = self.rows.widgets("", self._amount_field(name))
            words = label(spec(self.node, name).label, "soft", 11)
            words.setMinimumWidth(20)
            self.rows.grid.addWidget(words, row, 2, 1, 2)
        button = menu_button("Channels ▾", "Choose the channels that it acts on", lambda: self._target_menu(button))
        self.row("Acts on", button, spans=(2,))

    def _target_menu(self, button: QToolButton) -> None:
        menu = popup_menu(button)
        deeper: dict[str, QMenu] = {}
        for name in actable(self.node):
            known = spec(self.node, name)
            head, _, rest = name.partition(".")
            into = menu
            if rest:
                if head not in deeper:
                    more = menu.addMenu(known.label.rsplit(" ", 1)[0].capitalize() if head != "lens" else "Lens")
                    assert more is not None
                    deeper[head] = more
                into = deeper[head]
            action = into.addAction(known.label)
            assert action is not None
            action.setCheckable(True)
            action.setChecked(name in self.mover.names)
            action.triggered.connect(partial(self._choose, name))
        menu.exec(button.mapToGlobal(QPoint(0, button.height())))

    def _choose(self, name: str, on: bool) -> None:
        mover = self.mover
        others = tuple(each for each in mover.targets if each.channel != name)
        known = spec(self.node, name)
        usual = max(
            (abs(each.amount) for each in mover.targets if spec(self.node, each.channel).unit == known.unit),
            default=0.0,
        )
        amount = (usual or 10.0 * known.nudge) if mover.adds else 1.0
        targets = (*others, Target(name, amount)) if on else others
        self.rows.document.edit(
            f"{self.node.name}: {mover.label} {'on' if on else 'off'} {known.label}",
            lambda scene: edits.change_mover(scene, self.node.id, mover.id, targets=targets),
        )

    # Axes and range

    def _space(self) -> None:
        if len(self.mover.spaces) < 2 or set(self.mover.names).isdisjoint((*POSITION, *ROTATION)):
            return
        words = [each for each in self.mover.shown("space").words if each[0] in self.mover.spaces]
        made = self.choice("space", words)
        self.rows.properties[f"{self.mover.id} space"] = made
        self.rows.widgets("Along", made, spans=(3,))

    def _range(self) -> None:
        document = self.rows.document
        mover = self.mover

        def edge(field: str) -> Callable[[], None]:
            def toggle() -> None:
                now = getattr(mover, field)
                settings = document.settings
                usual = float(document.playhead.frame)
                if field == "end" and mover.start is not None and usual <= mover.start:
                    usual = float(max(settings.last, mover.start + 1.0))
                if field == "start" and mover.end is not None and usual >= mover.end:
                    usual = float(min(settings.first, mover.end - 1.0))
                value = usual if now is None else None
                document.edit(
                    f"{self.node.name}: {mover.label}, range",
                    lambda scene: edits.change_mover(scene, self.node.id, mover.id, **{field: value}),
                )

            return toggle

        for title, field, fade in (("From", "start", "fade_in"), ("To", "end", "fade_out")):
            if getattr(mover, field) is None:
                word = "the start" if field == "start" else "the end"
                tip = f"Let it {'begin' if field == 'start' else 'end'} at the playhead"
                button = menu_button(word, tip, edge(field))
                self.row(title, button)
                continue
            number, fades = self.field(field), self.field(fade)
            whole = menu_button(
                "always", f"Let it {'begin with' if field == 'start' else 'go on to'} the scene", edge(field)
            )
            self.row(title, number, fades, whole)


# What is not as the rest


def _wave_button(at: MoverRows, mover: Oscillator) -> QWidget:
    text = mover.wave if isinstance(mover.wave, str) else span_label(mover.wave)
    return word_button(text, mover.shown("wave").tip, lambda button: _wave_menu(at, mover, button))


def _wave_menu(at: MoverRows, mover: Oscillator, button: QToolButton) -> None:
    wave = at.of("wave", "wave")
    menu = popup_menu(button)
    for name in get_args(Wave):
        action = menu.addAction(name)
        assert action is not None
        action.setCheckable(True)
        action.setChecked(mover.wave == name)
        action.triggered.connect(lambda checked, name=name: wave.set(name))
    menu.addSeparator()
    eases = menu.addMenu("Ease there and back")
    assert eases is not None
    now: Ease | None = None if isinstance(mover.wave, str) else mover.wave
    add_eases(eases, at.rows.document.scene.eases, now, wave.set)
    menu.exec(button.mapToGlobal(QPoint(0, button.height())))


def _landing_notes(at: MoverRows, mover: Overshoot) -> None:
    """What is said where nothing swings, and what can be done about it."""
    soft = nothing_to_swing(at.node, mover) if mover.only_stops else ()
    if mover.only_stops and not soft and not any(len(stops(at.node.channel(name)).frames) for name in mover.names):
        words = label(
            "None of its keys stops at speed, or jumps. Turn this off to swing after whatever moves it.", "warning", 11
        )
        words.setWordWrap(True)
        at.rows.grid.addWidget(words, at.rows.grid.rowCount(), 0, 1, 5)
    if soft:
        names = ", ".join(spec(at.node, name).label for name in soft)
        words = label(f"Nothing is left to swing: {names} lands softly.", "warning", 11)
        words.setWordWrap(True)
        at.rows.grid.addWidget(words, at.rows.grid.rowCount(), 0, 1, 5)
        button = menu_button(
            "Let it land at speed",
            "Give the last span an ease that arrives at full speed",
            lambda: at.commands.land(at.node.id, mover),
        )
        at.rows.properties[f"{mover.id} land"] = button
        at.row("", button, spans=(3,))


def _falling(at: MoverRows) -> list[tuple[Any, str]]:
    return [(n.id, n.name) for n in at.rows.document.scene.nodes if any(b.collides for b in n.binds)]


def _events(at: MoverRows) -> list[tuple[Any, str]]:
    return [(event.name, event.name) for event in at.rows.document.scene.events]


def _when(at: MoverRows, mover: Impact) -> QWidget:
    """What it waits for; with it goes the first there is of that."""
    node_id, events, falling = at.node.id, _events(at), _falling(at)

    def wait_for(scene: Scene, when: str) -> Scene:
        name = events[0][0] if when == "event" and events else ""
        lands = falling[0][0] if when == "contact" and falling else None
        return edits.change_mover(scene, node_id, mover.id, when=when, name=name, node=lands)

    prop = Property(
        at.rows.document,
        f"{at.node.name}: impact, when",
        lambda scene: getattr(edits.find_mover(scene.node(node_id), mover.id), "when", None),
        wait_for,
    )
    shown = mover.shown("when")
    return at.rows.choice(prop, list(shown.words), shown.tip)


def _name(at: MoverRows, mover: Impact) -> QWidget:
    if mover.when == "event":
        return at.choice("name", _events(at) or [("", "no events yet")])
    markers = dict.fromkeys((marker.name, marker.name) for marker in at.rows.document.scene.markers)
    return at.choice("name", [("", "every marker"), *markers])


def _lands(at: MoverRows, mover: Impact) -> QWidget:
    return at.choice("node", _falling(at) or [(None, "nothing drops yet")])


_OWN: dict[tuple[type, str], Callable[[MoverRows, Any], QWidget]] = {
    (Oscillator, "wave"): _wave_button, (Impact, "when"): _when, (Impact, "name"): _name, (Impact, "node"): _lands,
}  # fmt: skip
