"""Limits are read from what the schema says of a field."""

import msgspec
import pytest

import wild_heron as wh
from wild_heron.scene.fields import room_of
from wild_heron.scene.movers import Limiter


def test_limits_defaults_and_whole_numbers_are_those_of_the_schema():
    assert room_of(wh.Light, "softness") == (0.0, 1000.0, 0.2, False)
    assert room_of(wh.Ground, "fineness") == (2.0, 256.0, 96.0, True)
    assert room_of(wh.TakeUse, "move")[:2] == (-1e9, 1e9)
    assert room_of(Limiter, "soft")[:2] == (0.0, 1e9)
    with pytest.raises(LookupError):
        room_of(wh.Light, "nothing")
    with pytest.raises(TypeError):
        room_of(wh.Light, "tint")


@pytest.mark.parametrize("kind", [wh.Light, wh.Logo, wh.Framing, wh.Wave, wh.Blend, wh.Projection, Limiter])
def test_what_lies_in_its_room_can_be_saved_and_what_lies_beyond_cannot(kind):
    for field in msgspec.structs.fields(kind):
        try:
            room = room_of(kind, field.name)
        except TypeError:
            continue
        turn = int if room.whole else float
        for value in (room.low, room.high):
            if abs(value) < 1e300:
                assert msgspec.convert(turn(value), field.type) == turn(value)
        for beyond in (room.low - 1.0, room.high + max(1.0, 1e-6 * abs(room.high))):
            if abs(beyond) < 1e300:
                with pytest.raises(msgspec.ValidationError):
                    msgspec.convert(turn(beyond), field.type)


def test_what_the_package_offers_are_its_own_functions():
    """Folders and modules share names with some of them."""
    from wild_heron.evaluate.evaluation import evaluate
    from wild_heron.evaluate.film_output import output
    from wild_heron.output import job

    assert (wh.output, wh.evaluate) == (output, evaluate)
    assert job.__name__ == "wild_heron.output.job"
    assert all(callable(getattr(wh, name)) for name in ("output", "evaluate", "load", "save", "keep_framing"))
