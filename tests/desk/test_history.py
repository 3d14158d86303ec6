"""Undo as a list of states: what is merged, what is cut off, how far back it goes."""

import pytest

import wild_heron as wh
from wild_heron.desk.state.history import History
from wild_heron.desk.state.recording import State


def state(name: str) -> State:
    return State(wh.Scene(name=name))


@pytest.fixture
def history(monkeypatch):
    """A history with a clock that stands at 0 until it is moved."""
    clock = [0.0]
    monkeypatch.setattr("wild_heron.desk.state.history.time.monotonic", lambda: clock[0])
    out = History(state("opened"))
    out.clock = clock
    return out


def test_back_and_forward_name_the_step_and_a_new_one_cuts_off_what_was_undone(history):
    for name in ("a", "b"):
        history.add(name, state(name), (name,))
    assert history.back().name == "b"
    assert (history.step.name, history.after.name, history.before.name) == ("a", "b", "Open")
    assert history.forward().selection == ("b",)
    history.back()
    history.add("c", state("c"), ())
    assert history.after is None
    assert history.forward() is None
    assert [history.back().name, history.back().name, history.back()] == ["c", "a", None]


def test_steps_of_one_kind_that_follow_at_once_become_one(history):
    history.add("Dolly", state("1"), (), "wheel")
    history.clock[0] = 0.9
    history.add("Dolly", state("2"), (), "wheel")
    assert history.position == 1
    history.clock[0] = 2.5
    history.add("Dolly", state("3"), (), "wheel")
    assert history.position == 2
    history.add("Zoom", state("4"), (), "other")
    assert history.position == 3
    # Not into a step that was undone to.
    history.back()
    history.add("Dolly", state("5"), (), "wheel")
    assert history.position == 3


def test_it_forgets_the_oldest_and_rewrites_all(history):
    for k in range(600):
        history.add(str(k), state(str(k)), ())
    assert history.position == 499
    history.rewrite(lambda old: State(wh.Scene(name=f"new {old.scene.name}")))
    assert history.step.state.scene.name == "new 599"
    assert history.before.state.scene.name == "new 598"
