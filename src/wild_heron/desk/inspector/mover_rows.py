"""The rows of each kind of mover: what it acts on and how much, its own numbers, its axes and its range."""

from collections.abc import Callable
from functools import partial
from typing import Any

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
    Lag,
    Limiter,
    Mover,
    Oscillator,
    Overshoot,
    Scene,
    Shake,
    SteadyRate,
    StepHold,
    Target,
    span_label,
    spec,
)
from ...scene.channels import POSITION, ROTATION, ChannelSpec
from ...scene.types import UnitName
from ..commands.movers import MoverCommands
from ..widgets.ease_menu import add_eases
from ..widgets.panel import label, menu_button, popup_menu
from ..widgets.property_fields import Property
from .rows import Rows, word_button
from .rows import spec as number_spec

_SPACES: dict[str, str] = {
    "own": "its own axes", "carrier": "its carrier's axes", "world": "the world's axes",
    "picture": "across the picture",
}  # fmt: skip
_WAVES = ("sine", "triangle", "saw", "square")
_PER: list[tuple[Any, str]] = [("seconds", "seconds"), ("beats", "beats")]
_TRIPLES = (("Move", POSITION), ("Turn", ROTATION))


def mover_shape(mover: Mover) -> tuple[object, ...]:
    """All of a mover that decides which rows it has."""
    words = ("per", "wave", "about", "only_stops", "by", "when", "node", "name")
    return (
        mover.id, type(mover), mover.on, mover.names, mover.space, mover.start is None, mover.end is None,
        *(getattr(mover, field, None) for field in words),
    )  # fmt: skip


class MoverRows:
    """The rows of one mover while they are built."""

    def __init__(self, rows: Rows, node: AnyNode, mover: Mover, commands: MoverCommands) -> None:
        self.rows, self.node, self.mover, self.commands = rows, node, mover, commands

    def build(self) -> None:
        self._targets()
        _KINDS[type(self.mover)](self, self.mover)
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

    def number(self, name: str, field: str, unit: UnitName, nudge: float, caption: str = "") -> QWidget:
        made = self.rows.number(self.of(name, field), number_spec(name, unit, nudge), caption=caption)
        self.rows.properties[f"{self.mover.id} {field}"] = made
        return made

    def choice(self, name: str, field: str, choices: list[tuple[Any, str]], tip: str) -> QWidget:
        made = self.rows.choice(self.of(name, field), choices, tip)
        self.rows.properties[f"{self.mover.id} {field}"] = made
        return made

    def switch(self, word: str, field: str, tip: str) -> QWidget:
        made = self.rows.switch(self.of(word, field), word, tip)
        self.rows.properties[f"{self.mover.id} {field}"] = made
        return made

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
        choices: list[tuple[Any, str]] = [(each, _SPACES[each]) for each in self.mover.spaces]
        self.rows.widgets(
            "Along", self.choice("axes", "space", choices, "Along whose axes it moves and turns"), spans=(3,)
        )

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
            number = self.number(f"{title.lower()} frame", field, "count", 1.0, "frame")
            fades = self.number("fade", fade, "count", 1.0, "fade, frames")
            fades.setToolTip("Over how many frames it fades")
            whole = menu_button(
                "always", f"Let it {'begin with' if field == 'start' else 'go on to'} the scene", edge(field)
            )
            self.row(title, number, fades, whole)


# Kinds


def _oscillator(at: MoverRows, mover: Oscillator) -> None:
    at.row(
        "Period",
        at.number("period", "period", "count", 0.1),
        at.choice("beat", "per", _PER, "What the period is counted in"),
        spans=(1, 2),
    )
    at.row(
        "Between",
        at.number("low", "low", "factor", 0.05, "low"),
        at.number("high", "high", "factor", 0.05, "high"),
        at.number("phase", "phase", "share", 0.01, "phase"),
    )
    text = mover.wave if isinstance(mover.wave, str) else span_label(mover.wave)
    at.row("Wave", word_button(text, "The shape of the wave", lambda button: _wave_menu(at, mover, button)), spans=(3,))


def _wave_menu(at: MoverRows, mover: Oscillator, button: QToolButton) -> None:
    wave = at.of("wave", "wave")
    menu = popup_menu(button)
    for name in _WAVES:
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


def _rate(at: MoverRows, mover: SteadyRate) -> None:
    at.row(
        "Per",
        at.choice("per", "per", [("seconds", "second"), ("beats", "beat")], "What the amounts are for"),
        at.number("from frame", "since", "count", 1.0, "from frame"),
        at.number("ease in", "ease_in", "seconds", 0.1, "ease in"),
    )


def _shake(at: MoverRows, mover: Shake) -> None:
    at.row(
        "Period",
        at.number("period", "period", "seconds", 0.05, "seconds"),
        at.number("octaves", "octaves", "count", 1.0, "octaves"),
        at.number("persistence", "persistence", "share", 0.02, "persistence"),
    )
    at.row(
        "",
        at.number("peakiness", "peakiness", "factor", 0.05, "peakiness"),
        at.number("loop", "loop", "seconds", 0.5, "loop"),
        at.number("seed", "seed", "count", 1.0, "seed"),
    )
    at.row(
        "Steps",
        at.number("a step takes", "stride", "seconds", 0.02, "seconds each"),
        at.number("tread", "tread", "factor", 0.05, "tread"),
    )
    if at.node.serves_as("lens") and not set(mover.names).isdisjoint(ROTATION):
        at.row(
            "About",
            at.choice(
                "about",
                "about",
                [("lens", "the lens"), ("aim", "what it is aimed at")],
                "What turns go about, and so stays where it is",
            ),
            spans=(3,),
        )


def _overshoot(at: MoverRows, mover: Overshoot) -> None:
    at.row(
        "Bounce",
        at.number("bounce", "bounce", "share", 0.01, "of a step"),
        at.number("speed", "speed", "factor", 0.05, "swings/s"),
        at.number("loop", "loop", "seconds", 0.5, "loop"),
    )
    at.row(
        "",
        at.switch(
            "only where keys stop", "only_stops", "Follow exactly, and swing on only where keys stop at speed, or jump"
        ),
        spans=(3,),
    )
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


def _lag(at: MoverRows, mover: Lag) -> None:
    unit: UnitName = "seconds" if mover.by == "half-life" else "count"
    at.row(
        "Late by",
        at.number("delay", "delay", unit, 0.02 if unit == "seconds" else 1.0),
        at.choice(
            "by", "by", [("half-life", "half-life"), ("frames", "frames")], "Softened, or the same some frames later"
        ),
        spans=(1, 2),
    )


def _limiter(at: MoverRows, mover: Limiter) -> None:
    at.row(
        "Between",
        at.number("low", "low", "factor", 0.05, "low"),
        at.number("high", "high", "factor", 0.05, "high"),
        at.number("soft", "soft", "factor", 0.05, "soft over"),
    )


def _steps(at: MoverRows, mover: StepHold) -> None:
    at.row(
        "Every",
        at.number("every", "every", "count", 1.0, "frames"),
        at.number("from frame", "since", "count", 1.0, "from frame"),
    )


def _impact(at: MoverRows, mover: Impact) -> None:
    scene, node_id = at.rows.document.scene, at.node.id
    whens: list[tuple[Any, str]] = [
        ("marker", "a marker"),
        ("beats", "every beat"),
        ("event", "an event"),
        ("contact", "a landing"),
    ]
    falling: list[tuple[Any, str]] = [(n.id, n.name) for n in scene.nodes if any(b.collides for b in n.binds)]
    events: list[tuple[Any, str]] = [(event.name, event.name) for event in scene.events]

    def wait_for(scene: Scene, when: str) -> Scene:
        """What it waits for, and the first there is of that."""
        name = events[0][0] if when == "event" and events else ""
        lands = falling[0][0] if when == "contact" and falling else None
        return edits.change_mover(scene, node_id, mover.id, when=when, name=name, node=lands)

    when = Property(
        at.rows.document,
        f"{at.node.name}: impact, when",
        lambda scene: getattr(edits.find_mover(scene.node(node_id), mover.id), "when", None),
        wait_for,
    )
    at.row("At", at.rows.choice(when, whens, "What it waits for"), spans=(3,))
    if mover.when == "marker":
        names: list[tuple[Any, str]] = [("", "every marker"), *dict.fromkeys((m.name, m.name) for m in scene.markers)]
        at.row("", at.choice("marker", "name", names, "The markers that it comes at"), spans=(3,))
    elif mover.when == "event":
        which = at.choice("event", "name", events or [("", "no events yet")], "The event that it comes with")
        at.row("", which, spans=(3,))
    elif mover.when == "contact":
        what = at.choice("node", "node", falling or [(None, "nothing drops yet")], "What lands")
        at.row("", what, at.number("least", "least", "factor", 0.5, "from units/s"), spans=(2, 1))
    at.row(
        "Decay",
        at.number("half-life", "half_life", "seconds", 0.02, "half-life"),
        at.number("speed", "speed", "factor", 0.1, "swings/s"),
        at.number("seed", "seed", "count", 1.0, "seed"),
    )


_KINDS: dict[type, Callable[[MoverRows, Any], None]] = {
    Oscillator: _oscillator, SteadyRate: _rate, Shake: _shake, Overshoot: _overshoot, Lag: _lag, Limiter: _limiter,
    StepHold: _steps, Impact: _impact,
}  # fmt: skip
MOVER_ROWS = _KINDS
