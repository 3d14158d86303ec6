"""A gesture: a drag that previews many states and leaves one undo step."""

from collections.abc import Iterable
from typing import Protocol

from ...edits import KeyRef
from .recording import State


class GestureHost(Protocol):
    """Whose states a gesture shows."""

    @property
    def state(self) -> State: ...

    def try_state(self, state: State) -> bool:
        """Let a state be the present one, if it can be evaluated here."""
        ...

    def show(self, state: State, keys: Iterable[KeyRef] | None = None) -> None:
        """Tell everyone about a state that was taken; with ``keys``, those are selected in it."""
        ...

    def finish(self, name: str) -> None:
        """Make the present state a step, or go back to the last one."""
        ...


class Gesture:
    """One at a time."""

    def __init__(self, host: GestureHost) -> None:
        self._host = host
        self._begun: tuple[str, State] | None = None
        self._held: State | None = None

    @property
    def running(self) -> bool:
        return self._begun is not None

    @property
    def is_held(self) -> bool:
        return self._held is not None

    @property
    def base(self) -> State:
        """The state the running gesture started from (the present one where none runs)."""
        if self._held is not None:
            return self._held
        return self._begun[1] if self._begun else self._host.state

    def begin(self, name: str) -> None:
        if self._held is not None:
            self._held = self._host.state
        elif self._begun is None:
            self._begun = (name, self._host.state)

    def hold(self, name: str, state: State) -> bool:
        """Begin a gesture that shows a state and holds it, until it is let go: drags come and go inside it, and leave
        no steps. Whether it could."""
        before = self._host.state
        if self._begun is not None or not self._host.try_state(state):
            return False
        self._begun = (name, before)
        self._held = state
        self._host.show(state)
        return True

    def let_go(self) -> None:
        """End a gesture that is held, and go back to where it started."""
        self._held = None
        self.cancel()

    def preview(self, state: State, keys: Iterable[KeyRef] | None = None) -> None:
        """Show a state of the running gesture; with ``keys``, those are selected in it."""
        assert self._begun is not None
        if state != self._host.state and self._host.try_state(state):
            self._host.show(state, keys)

    def commit(self) -> None:
        """End the gesture; what it changed is one undo step."""
        if self._held is not None:
            self._held = self._host.state
            return
        if self._begun is None:
            return
        name, base = self._begun
        self._begun = None
        if self._host.state != base:
            self._host.finish(name)

    def cancel(self) -> bool:
        """End the gesture and go back to where it started; whether one ran."""
        if self._held is not None:
            self._host.show(self._held)
            return True
        if self._begun is None:
            return False
        _, base = self._begun
        self._begun = None
        self._host.show(base)
        return True

    def drop(self) -> None:
        """Forget the gesture: another scene is open."""
        self._begun = self._held = None
