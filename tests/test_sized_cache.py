"""What is kept of results: by the memory they take, whatever their number."""

import threading

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import wild_heron as wh
from wild_heron.evaluate import evaluate
from wild_heron.evaluate.binds import following
from wild_heron.evaluate.movers import followers
from wild_heron.scene.movers import Lag, Overshoot, Target
from wild_heron.sized_cache import SizedCache, cached_by_size, forget_all, size_of


@given(st.lists(st.tuples(st.integers(0, 12), st.integers(0, 3000)), max_size=60), st.integers(1000, 20_000))
def test_it_keeps_the_newest_within_its_bytes(asked, most):
    """Against a list: the results that were asked for last, as many as there is room for, and always the newest."""
    cache, sizes, order = SizedCache(most), {}, []
    for key, size in asked:
        made = []
        found = cache.look_up(key, lambda size=size, made=made: made.append(1) or np.zeros(size, np.uint8))
        known = key in order
        assert bool(made) != known
        if known:
            order.remove(key)
        else:
            sizes[key] = 400 + size_of(key) + size_of(found)
        order.append(key)
        while sum(sizes[each] for each in order) > most and len(order) > 1:
            order.pop(0)
        assert len(cache) == len(order)
        assert cache.bytes == sum(sizes[each] for each in order)


def test_what_fails_is_not_kept():
    calls = []

    @cached_by_size
    def works_later(number: int) -> int:
        calls.append(number)
        if len(calls) == 1:
            raise ValueError
        return number

    with pytest.raises(ValueError):
        works_later(3)
    assert [works_later(3), works_later(3)] == [3, 3]
    assert len(calls) == 2
    forget_all()
    assert works_later(3) == 3
    assert len(calls) == 3


def test_threads_may_ask_at_once():
    cache = SizedCache(20_000)

    def work(seed: int) -> None:
        for number in np.random.default_rng(seed).integers(0, 40, 2000).tolist():
            assert cache.look_up(number, lambda number=number: np.full(50, number))[0] == number

    threads = [threading.Thread(target=work, args=(seed,)) for seed in range(4)]
    for each in threads:
        each.start()
    for each in threads:
        each.join()
    assert cache.bytes == sum(size for _, size in cache._kept.values()) <= 20_000


@pytest.mark.parametrize("kind", ["overshoot", "lag", "follow"])
def test_a_scene_may_have_more_that_remember_than_any_number(kind, monkeypatch):
    """At a second frame nothing is worked out again of 200 things that were worked out over the scene at the first."""
    moved = wh.Channel("position.x", 0.0, keys=(wh.Key(0.0, 0.0), wh.Key(20.0, 3.0)))
    on = (Target("position.x"),)
    extra = {
        "overshoot": {"movers": (Overshoot(targets=on, only_stops=False),)},
        "lag": {"movers": (Lag(targets=on, delay=0.2),)},
        "follow": {"binds": (wh.Follow("led"),)},
    }[kind]
    led = wh.Null(id="led", name="Led", channels=(moved,))
    nodes = tuple(wh.Null(id=f"n{k}", name=f"N{k}", channels=(moved,), **extra) for k in range(200))
    scene = wh.Scene(settings=wh.Settings(last=29), nodes=(led, *nodes))
    evaluate(scene, [4.0])
    worked_out = []
    blocks = followers.in_blocks
    for module in (followers, following):
        monkeypatch.setattr(module, "in_blocks", lambda *given: worked_out.append(1) or blocks(*given))
    evaluate(scene, [5.0])
    assert not worked_out
