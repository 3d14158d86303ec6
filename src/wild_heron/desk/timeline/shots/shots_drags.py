"""What can be dragged on the film: joins, the ends of blends, shots past each other, and sounds."""

from collections.abc import Iterable

import msgspec
from PyQt6.QtCore import QPointF

from ....edits import change_sound, ripple, roll_join, swap_shots
from ....edits.film import roll_limits, shot, with_shots
from ....motion.tempo import beat_frames
from ....scene import Blend, Scene, SceneError
from ...widgets.drag import Keys
from ..time_view import TimeDrag
from .shots_layout import ShotsLayout

_CATCH = 6.0


def snapped(view: ShotsLayout, wanted: float, but: float | None = None) -> float:
    """The nearest whole frame, or a marker, a beat, a key of what moves, or the playhead close by."""
    document = view.document
    scene = document.gesture.base.scene
    first, last = view.axis.start, view.axis.end
    beats, _ = beat_frames(scene.beats, scene.settings.rate, first, last)
    catches: list[float] = [document.playhead.frame, *(each.frame for each in scene.markers), *beats.tolist()]
    catches += _keys_near(scene, wanted, _CATCH / view.axis.pixels_per_frame)
    catches = [each for each in catches if but is None or abs(each - but) > 1e-6]
    best = min(catches, key=lambda each: abs(each - wanted), default=wanted)
    return float(round(best if abs(best - wanted) * view.axis.pixels_per_frame < _CATCH else wanted))


def _keys_near(scene: Scene, wanted: float, reach: float) -> Iterable[float]:
    return {
        key.frame
        for node in scene.nodes
        for channel in node.channels
        for key in channel.keys
        if abs(key.frame - wanted) < reach
    }


class FilmDrag(TimeDrag):
    """A gesture over the film."""

    name = "Change the film"

    def __init__(self, view: ShotsLayout, start: QPointF) -> None:
        super().__init__(view, start)
        self.view = view
        self.moved = False

    def scene(self, at: QPointF, keys: Keys) -> Scene:
        """The scene while the pointer is somewhere. SceneError where that cannot be."""
        raise NotImplementedError

    def move(self, at: QPointF, keys: Keys) -> None:
        if not self.moved and not self.is_past(at):
            return
        self.moved = True
        document = self.view.document
        document.gesture.begin(self.name)
        try:
            scene = self.scene(at, keys)
        except SceneError as problem:
            document.messages.say(str(problem), True)
            return
        document.gesture.preview(document.gesture.base.with_scene(scene))

    def release(self, at: QPointF) -> None:
        self.view.document.gesture.commit()

    def cancel(self) -> None:
        self.view.document.cancel()

    def frames(self, at: QPointF) -> float:
        """By how many frames it was dragged."""
        return self.offset(at).x() / self.view.axis.pixels_per_frame


class RollDrag(FilmDrag):
    """A join. With Shift everything after it moves along."""

    def __init__(self, view: ShotsLayout, start: QPointF, number: int, ripples: bool) -> None:
        super().__init__(view, start)
        self._number, self._ripples = number, ripples
        self._first = view.document.scene.shots[number].first
        self.name = "Ripple" if ripples else "Roll a join"

    def scene(self, at: QPointF, keys: Keys) -> Scene:
        base = self.view.document.gesture.base.scene
        wanted = self._first + self.frames(at)
        to = wanted if keys & Keys.AltModifier else snapped(self.view, wanted, self._first)
        say = self.view.document.messages.say
        if self._ripples:
            by = float(round(to - self._first))
            say(f"Ripple by {by:+g} frames")
            return ripple(base, self._first, by) if by else base
        low, high = roll_limits(base, self._number)
        to = min(max(to, low), high)
        say(f"{base.shots[self._number].name} begins at frame {to:g} ({to - self._first:+g})")
        return roll_join(base, self._number, to)


class BlendDrag(FilmDrag):
    """An end of a blend: its length, the place kept."""

    name = "Change the length of a blend"

    def __init__(self, view: ShotsLayout, start: QPointF, number: int, at_end: bool) -> None:
        super().__init__(view, start)
        self._number, self._at_end = number, at_end

    def scene(self, at: QPointF, keys: Keys) -> Scene:
        base = self.view.document.gesture.base.scene
        here = shot(base, self._number)
        assert isinstance(here.join, Blend)
        frame = self.view.axis.frame(at.x())
        frame = frame if keys & Keys.AltModifier else snapped(self.view, frame)
        away = frame - here.first if self._at_end else here.first - frame
        length = max(away * (2.0 if here.join.place == "on" else 1.0), 1.0)
        rate = base.settings.rate
        shown = length / rate.fps if here.join.unit == "seconds" else length
        changed = msgspec.structs.replace(here, join=msgspec.structs.replace(here.join, length=round(shown, 4)))
        self.view.document.messages.say(f"Blend of {length:g} frames, {length / rate.fps:.2f} s")
        return with_shots(base, [*base.shots[: self._number], changed, *base.shots[self._number + 1 :]])


class ShotDrag(FilmDrag):
    """A shot past its neighbours; a click selects it alone."""

    name = "Move a shot"

    def __init__(self, view: ShotsLayout, start: QPointF, number: int, alone: bool) -> None:
        super().__init__(view, start)
        self._number, self._alone = number, alone

    def is_past(self, at: QPointF, pixels: float = 3.0) -> bool:
        return super().is_past(at, 10.0)

    def scene(self, at: QPointF, keys: Keys) -> Scene:
        scene = self.view.document.gesture.base.scene
        number, frame = self._number, self.view.axis.frame(at.x())
        # Past the middle of a neighbour they change places.
        while number + 1 < len(scene.shots) and frame > _middle(scene, number + 1):
            scene, number = swap_shots(scene, number, number + 1), number + 1
        while number > 0 and frame < _middle(scene, number - 1):
            scene, number = swap_shots(scene, number - 1, number), number - 1
        self.view.document.selection.choose_shots([number])
        return scene

    def release(self, at: QPointF) -> None:
        super().release(at)
        if not self.moved and self._alone:
            self.view.document.selection.choose_shots([self._number])


def _middle(scene: Scene, number: int) -> float:
    end = scene.shots[number + 1].first if number + 1 < len(scene.shots) else scene.settings.last + 1.0
    return 0.5 * (scene.shots[number].first + end)


class SoundDrag(FilmDrag):
    """A sound along time."""

    name = "Move a sound"

    def __init__(self, view: ShotsLayout, start: QPointF) -> None:
        super().__init__(view, start)
        self._starts = [each.start for each in view.document.scene.sounds]

    def scene(self, at: QPointF, keys: Keys) -> Scene:
        scene = self.view.document.gesture.base.scene
        by = self.frames(at)
        by = by if keys & Keys.AltModifier else float(round(by))
        for k, start in enumerate(self._starts):
            scene = change_sound(scene, k, start=start + by)
        if scene.beats is not None:
            beats = scene.beats
            moved = msgspec.structs.replace(beats, first=beats.first + by, at=tuple(each + by for each in beats.at))
            scene = msgspec.structs.replace(scene, beats=moved)
        self.view.document.messages.say(f"Sound moved by {by:+g} frames")
        return scene
