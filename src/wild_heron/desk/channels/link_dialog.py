"""A link's ranges, ease and clamp, changed while the views show what comes of it."""

from functools import partial

import msgspec
from PyQt6.QtWidgets import QCheckBox, QGridLayout, QHBoxLayout, QWidget

from ...edits import set_links
from ...scene import Family, Hold, Link, Scene, SceneError, Span, channel_or_default, spec
from ...scene.channels import ChannelSpec
from ...scene.spans import CSS_EASE_IN_OUT, Linear
from ..state.document import Document
from ..widgets.dialog import Dialog, push_button
from ..widgets.number_field import NumberField
from ..widgets.panel_parts import Choice, label

EASES: tuple[tuple[Span, str], ...] = (
    (Linear(), "straight"),
    (Family("sine", "in"), "soft start"),
    (Family("sine", "out"), "soft landing"),
    (CSS_EASE_IN_OUT, "soft both ways"),
    (Family("back", "out"), "over and back"),
    (Hold(), "a switch"),
)


class LinkDialog(Dialog):
    """Not modal: every change is seen at once, and is a step of its own."""

    def __init__(self, document: Document, place: tuple[str, str], number: int, parent: QWidget | None = None) -> None:
        super().__init__("Link", parent, looked_past=True)
        self._document, self._place, self._number = document, place, number
        link = self._link()
        assert link is not None
        self._source = (link.node, link.channel)
        words = label(f"{document.label(*self._source)}   drives   {document.label(*place)}")
        self.column.addWidget(words)
        grid = QGridLayout()
        given = spec(document.scene.node(link.node), link.channel)
        taken = spec(document.scene.node(place[0]), place[1])
        self.fields: dict[str, NumberField] = {}
        for row, (title, low, high, known) in enumerate(
            (("From", "low", "high", given), ("becomes", "out_low", "out_high", taken))
        ):
            grid.addWidget(label(title, "soft"), row, 0)
            for column_, name in ((1, low), (3, high)):
                field = NumberField(ChannelSpec(name, name.replace("_", " "), known.unit, 0.0, -1e9, 1e9, known.nudge))
                field.follow(
                    document,
                    lambda: "Change the link",
                    partial(self._put, name),
                    f"link/{name}",
                )
                grid.addWidget(field, row, column_)
                self.fields[name] = field
            grid.addWidget(label("to", "soft"), row, 2)
        self.column.addLayout(grid)
        line = QHBoxLayout()
        self.ease = Choice()
        self.ease.setToolTip("The ease across the range")
        for ease, text in EASES:
            self.ease.addItem(text, ease)
        self.ease.activated.connect(lambda k: self._put("ease", EASES[k][0]))
        self.clamp = QCheckBox("stays inside")
        self.clamp.setToolTip("On: it stops at the ends of the range. Off: it goes on beyond them")
        self.clamp.clicked.connect(lambda on: self._put("clamp", on))
        line.addWidget(label("Ease", "soft"))
        line.addWidget(self.ease, 1)
        line.addWidget(self.clamp)
        self.column.addLayout(line)
        self.add_buttons(push_button("Done", self.close), apart=push_button("Take the link away", self._remove))
        document.changed.connect(self.refresh)
        self.refresh()

    def _link(self) -> Link | None:
        node_id, name = self._place
        if node_id not in self._document.scene:
            return None
        links = channel_or_default(self._document.scene.node(node_id), name).links
        return links[self._number] if self._number < len(links) else None

    def refresh(self) -> None:
        try:
            link = self._link()
        except SceneError:
            link = None
        if link is None or (link.node, link.channel) != self._source:
            self.close()
            return
        for name, field in self.fields.items():
            field.show_value(float(getattr(link, name)))
        self.ease.setCurrentIndex(next((k for k, (ease, _) in enumerate(EASES) if ease == link.ease), -1))
        self.clamp.setChecked(link.clamp)

    def _put(self, field: str, value: object, merge: str = "") -> None:
        document, (node_id, name) = self._document, self._place
        base = document.gesture.base

        def changed(scene: Scene) -> Scene:
            links = list(channel_or_default(scene.node(node_id), name).links)
            links[self._number] = msgspec.structs.replace(links[self._number], **{field: value})
            return set_links(scene, node_id, name, tuple(links))

        try:
            state = base.with_scene(changed(base.scene))
        except (SceneError, ValueError) as problem:
            document.messages.say(str(problem).capitalize() + ".", True)
            self.refresh()
            return
        if document.gesture.running:
            document.gesture.preview(state)
        else:
            document.push("Change the link", state, merge)

    def _remove(self) -> None:
        node_id, name = self._place

        def changed(scene: Scene) -> Scene:
            links = channel_or_default(scene.node(node_id), name).links
            return set_links(scene, node_id, name, links[: self._number] + links[self._number + 1 :])

        self._document.edit("Take the link away", changed)
        self.close()
