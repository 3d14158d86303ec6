"""Switching live: while it plays, a key chooses what is shown from then on."""

from collections.abc import Callable

from PyQt6.QtCore import QObject, pyqtSignal

from ...edits import keep_pass, switched
from ...edits.film import Order, sequence_of
from ...scene.output import output_camera, shots_of, shown_nodes
from ..state.document import Document
from ..state.playback import Playback

_LONG = 4096


class LiveSwitching(QObject):
    """Every press while it plays is a cut or a blend by the joining rules; a pass is one step. Standing still, the same
    presses only choose what the Lens shows."""

    changed = pyqtSignal()

    def __init__(self, document: Document, playback: Playback, shown_frame: Callable[[], float]) -> None:
        """``shown_frame``: the frame of the picture that is seen."""
        super().__init__()
        self._document, self._playback, self._shown_frame = document, playback, shown_frame
        self.on = False
        self.order: Order = "in order"
        self.seed = 1
        self.chosen: tuple[str, ...] = ()
        """What Enter goes through; nothing: all there is."""
        self._presses: list[tuple[float, str]] = []
        self._place = -1
        playback.changed.connect(self._playback_changed)
        document.opened.connect(lambda: self.set_on(False))

    def set_on(self, on: bool) -> None:
        """Listen to the keys, or no more."""
        if on and not self.views():
            self._document.messages.say("There is nothing to switch between: add cameras, or keep framings.", True)
            on = False
        if on != self.on:
            self.on = on
            self._finish()
            self.changed.emit()
            if on:
                text = (
                    "Live: 1 to 9 choose a camera, Enter the next one, Backspace the one before. Play to record cuts."
                )
                self._document.messages.say(text)

    def set_order(self, order: Order) -> None:
        self.order, self._place = order, -1
        self.changed.emit()

    def shuffle_anew(self) -> None:
        """Another order by chance."""
        self.seed += 1
        self.set_order("shuffled")

    def choose_list(self) -> None:
        """Let Enter go through the selected cameras and framings only, or with fewer than two through all of them."""
        scene = self._document.scene
        chosen = tuple(i for i in self._document.selection.nodes if scene.node(i).serves_as("shown"))
        self.chosen = chosen if len(chosen) > 1 else ()
        self._place = -1
        self.changed.emit()

    def views(self) -> list[str]:
        """What the keys 1 to 9 choose, in order."""
        return list(shown_nodes(self._document.scene))

    def _list(self) -> list[str]:
        known = self.views()
        return [each for each in self.chosen if each in known] or known

    # Presses

    def press(self, number: int) -> bool:
        """A key from 1 to 9; whether it stands for anything."""
        views = self.views()
        if not 1 <= number <= len(views):
            return False
        self.show(views[number - 1])
        return True

    def step(self, forward: bool = True) -> None:
        """The next one in order, or the one before."""
        views = self._list()
        if not views:
            return
        turn = sequence_of(views, _LONG, self.order, self.seed)
        now = self._now()
        if self._place < 0 or turn[self._place % _LONG] != now:
            self._place = turn.index(now) if now in turn else -1
        self._place = max(self._place + (1 if forward else -1), 0) % _LONG
        self.show(turn[self._place])

    def _now(self) -> str | None:
        document = self._document
        if self._presses:
            return self._presses[-1][1]
        return document.views.lens or output_camera(document.scene, document.playhead.frame)

    def show(self, lens: str) -> None:
        """Show a camera or a framing: from now on in the film while it plays, else just in the Lens."""
        document = self._document
        if not self._playback.is_playing or not shots_of(document.scene):
            document.views.set_lens(lens)
            return
        frame = float(round(self._shown_frame()))
        document.views.set_lens(None)
        if self._presses and frame < self._presses[-1][0]:
            # It has begun anew: this goes over what was switched before.
            self._commit()
        self._presses = [each for each in self._presses if each[0] != frame]
        self._presses.append((frame, lens))
        document.gesture.begin("Switch live")
        self._preview()

    def _preview(self) -> None:
        document = self._document
        base = document.gesture.base
        end = max(document.playhead.frame, self._presses[-1][0])
        document.gesture.preview(base.with_scene(switched(base.scene, self._presses, end)))

    def _commit(self) -> None:
        document = self._document
        if self._presses and document.gesture.running:
            before = document.gesture.base.scene.shots
            self._preview()
            document.gesture.preview(document.state.with_scene(keep_pass(document.scene, before)))
            document.gesture.commit()
        self._presses = []

    def _finish(self) -> None:
        count = len(self._presses)
        self._commit()
        if count:
            self._document.messages.say(
                f"{count} switch{'es' if count > 1 else ''} recorded as one step; passes are kept."
            )

    def _playback_changed(self) -> None:
        if not self._playback.is_playing:
            self._finish()
