"""Offers: drafts that differ, fitted and drawn, the same for the same seed whatever takes how long."""

import numpy as np
import pytest

import wild_heron as wh
from wild_heron.edits.moves.drafts import MOODS, chosen, distance, drafts, like, told
from wild_heron.edits.rigs import FrameRange
from wild_heron.files.move_files import shipped_moves
from wild_heron.process.offering import FILM_FRAMES, Asked, offers, ranked

MOVES = [kept.move for kept in shipped_moves()]


def small_set(back: int = 1500) -> wh.Scene:
    wall = wh.Picture(id="wall", name="Wall", artwork=wh.Solid("#46525a"), width=back, height=back * 9 // 16,
                      channels=(wh.Channel("position.z", -1.0),))  # fmt: skip
    sign = wh.Picture(id="sign", name="Sign", artwork=wh.Solid("#f2c25b"), width=300, height=200)
    return wh.Scene(settings=wh.Settings(width=640, height=360, last=47), nodes=(wall, sign))


def asked(scene: wh.Scene) -> Asked:
    return Asked(scene, None, (), "sign", FrameRange(0.0, 40.0))


@pytest.mark.parametrize("mood", MOODS)
def test_drafts_are_the_same_for_a_seed_and_others_for_another(mood):
    assert drafts(MOVES, mood, 3) == drafts(MOVES, mood, 3)
    assert drafts(MOVES, mood, 3) != drafts(MOVES, mood, 4)
    # What one move becomes does not depend on which others there are.
    few = drafts(MOVES[:3], mood, 3)
    assert few == drafts(MOVES, mood, 3)[: len(few)]


def test_only_where_there_are_two_a_move_goes_from_one_to_the_other():
    assert not any(each.move.has_other for each in drafts(MOVES, "bold", 0))
    assert any(each.move.has_other for each in drafts(MOVES, "bold", 0, two=True))


@pytest.mark.parametrize("mood", MOODS)
def test_what_is_chosen_suits_the_mood_and_differs(mood):
    found = chosen(drafts(MOVES, mood, 0), 12)
    assert len(found) == 12
    assert sum(mood in each.move.tags for each in found) >= 7
    numbers = [told(each.move, each.how) for each in found]
    apart = [distance(numbers[a], numbers[b]) for a in range(12) for b in range(a)]
    assert min(apart) > 0.05
    assert len({each.move.name for each in found}) >= 7


def test_a_distance_is_one():
    a, b, c = (told(move, drafts(MOVES, "calm", 0)[0].how) for move in MOVES[:3])
    assert distance(a, a) == 0.0
    assert distance(a, b) == distance(b, a) > 0.0
    assert distance(a, c) <= distance(a, b) + distance(b, c) + 1e-12


def test_what_is_like_a_draft_is_near_to_it():
    draft = next(each for each in drafts(MOVES, "calm", 0) if each.move.name == "Half turn")
    other = next(each for each in drafts(MOVES, "calm", 0) if each.move.name == "Push in")
    numbers = told(draft.move, draft.how)
    near = [distance(numbers, told(each.move, each.how)) for each in like(draft, 1)]
    assert near[0] == 0.0
    assert np.median(near) < distance(numbers, told(other.move, other.how))


def test_offers_are_fitted_drawn_and_ranked_clean_first():
    wanted = [each for each in drafts(MOVES, "calm", 0) if each.move.name in ("Push in", "Half turn", "Drift left")][:7]
    heard: list[tuple[int, bool]] = []
    pictures: dict[int, list[np.ndarray]] = {}

    def tell(offer, number, picture):
        heard.append((number, offer is not None))
        if picture is not None:
            pictures.setdefault(number, []).append(picture)

    found = offers(asked(small_set()), wanted, True, tell)
    assert [each.number for each in found] == list(range(len(wanted)))
    # One of each at first, then, once it is fitted, its film.
    assert [number for number, _ in heard[: len(wanted)]] == list(range(len(wanted)))
    assert all(len(each) == 1 + FILM_FRAMES for each in pictures.values())
    # What was changed to be clean is: nothing is left of it.
    assert all(not each.fitted.left for each in found if each.fitted.change.amount > 0.0)
    order = ranked(found)
    assert [each.is_clean for each in order] == sorted((each.is_clean for each in order), reverse=True)
    again = offers(asked(small_set()), wanted, True, lambda *_: None)
    assert [each.fitted for each in again] == [each.fitted for each in found]


def test_they_can_be_ended_and_what_does_not_go_is_left_out():
    wanted = drafts(MOVES[:2], "calm", 0)
    count = []

    def cancelled() -> bool:
        count.append(1)
        return len(count) > 8

    assert len(offers(asked(small_set()), wanted, False, lambda *_: None, cancelled)) < len(wanted)
    nothing = asked(small_set())._replace(span=FrameRange(5.0, 5.0))
    found = offers(nothing, wanted[:2], False, lambda *_: None)
    assert [each.fitted for each in found] == [None, None]
    assert ranked(found) == []
