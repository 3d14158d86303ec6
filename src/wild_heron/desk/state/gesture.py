"""A drag: it shows many states, and leaves one undo step."""

from collections.abc import Iterable
from typing import Protocol

from ...scene.edits import KeyRef
from .recording import State


class Host(Protocol):
    """Whose states a gesture shows."""

    @property
    def state(self) -> State: ...

    def take(self, state: State) -> bool:
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

    def __init__(self, host: Host) -> None:
        self._host = host
        self._begun: tuple[str, State] | None = None

    @property
    def running(self) -> bool:
        return self._begun is not None

    @property
    def base(self) -> State:
        """The state the running gesture started from (the present one where none runs)."""
        return self._begun[1] if self._begun else self._host.state

    def begin(self, name: str) -> None:
        if self._begun is None:
            self._begun = (name, self._host.state)

    def preview(self, state: State, keys: Iterable[KeyRef] | None = None) -> None:
        """Show a state of the running gesture; with ``keys``, those are selected in it."""
        assert self._begun is not None
        if state != self._host.state and self._host.take(state):
            self._host.show(state, keys)

    def commit(self) -> None:
        """End the gesture; what it changed is one undo step."""
        if self._begun is None:
            return
        name, base = self._begun
        self._begun = None
        if self._host.state != base:
            self._host.finish(name)

    def cancel(self) -> bool:
        """End the gesture and go back to where it started; whether one ran."""
        if self._begun is None:
            return False
        _, base = self._begun
        self._begun = None
        self._host.show(base)
        return True

    def drop(self) -> None:
        """Forget the gesture: another scene is open."""
        self._begun = None
