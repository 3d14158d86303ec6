"""Undo: states of the document, each with the name of the step that led to it. Free of Qt."""

import time
from collections.abc import Callable

import msgspec

from .recording import State

_MOST_STEPS = 500
_MERGE_SECONDS = 1.0


class Step(msgspec.Struct, frozen=True):
    """What a step led to, and what was selected then."""

    name: str
    state: State
    selection: tuple[str, ...]


class History:
    """A list of steps and where in it the document stands."""

    def __init__(self, state: State) -> None:
        self._steps = [Step("Open", state, ())]
        self._at = 0
        self._merge = ("", 0.0)

    @property
    def position(self) -> int:
        """How many steps lie before the present state."""
        return self._at

    @property
    def step(self) -> Step:
        """The step that led to the present state."""
        return self._steps[self._at]

    @property
    def before(self) -> Step | None:
        """The one before it."""
        return self._steps[self._at - 1] if self._at > 0 else None

    @property
    def after(self) -> Step | None:
        """The one that was undone last."""
        return self._steps[self._at + 1] if self._at + 1 < len(self._steps) else None

    def add(self, name: str, state: State, selection: tuple[str, ...], merge: str = "") -> None:
        """A step more. It takes the place of the last one where both share ``merge`` and follow at once."""
        now = time.monotonic()
        latest = self.after is None and self._at > 0
        if merge and latest and merge == self._merge[0] and now - self._merge[1] < _MERGE_SECONDS:
            self._at -= 1
        self._merge = (merge, now)
        del self._steps[self._at + 1 :]
        self._steps.append(Step(name, state, selection))
        if len(self._steps) > _MOST_STEPS:
            del self._steps[0]
        self._at = len(self._steps) - 1

    def back(self) -> Step | None:
        """Undo: the step that is taken back."""
        if self._at == 0:
            return None
        self._at -= 1
        return self._steps[self._at + 1]

    def forward(self) -> Step | None:
        """Redo: the step that is made again."""
        if self.after is None:
            return None
        self._at += 1
        return self.step

    @property
    def names(self) -> list[str]:
        """Every step by name, the first being how the scene was opened."""
        return [step.name for step in self._steps]

    def go(self, position: int) -> bool:
        """Stand after so many steps; whether that is elsewhere than before."""
        position = min(max(position, 0), len(self._steps) - 1)
        moved, self._at = position != self._at, position
        return moved

    def rewrite(self, change: Callable[[State], State]) -> None:
        """Every state put as another; states that are one stay one."""
        known: dict[int, State] = {}
        for step in self._steps:
            if id(step.state) not in known:
                known[id(step.state)] = change(step.state)
        self._steps = [Step(step.name, known[id(step.state)], step.selection) for step in self._steps]

    @property
    def undo_name(self) -> str | None:
        """What undo would take back."""
        return self.step.name if self.before is not None else None

    @property
    def redo_name(self) -> str | None:
        """What redo would make again."""
        return self.after.name if self.after is not None else None
