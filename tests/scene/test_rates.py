"""Exact rates and timecode."""

import pytest

from wild_heron.scene import Rate, seconds, timecode

NTSC = Rate(30000, 1001)


@pytest.mark.parametrize(
    ("frame", "code"),
    [
        (0, "00:00:00;00"),
        (1799, "00:00:59;29"),
        (1800, "00:01:00;02"),  # SMPTE ST 12-1: 00 and 01 are dropped at each minute …
        (17981, "00:09:59;29"),
        (17982, "00:10:00;00"),  # … but not at each tenth
        (107892, "01:00:00;00"),
    ],
)
def test_drop_frame_timecode(frame, code):
    assert timecode(frame, NTSC) == code


def test_plain_timecode_and_seconds():
    assert timecode(24 * 3661 + 5, Rate(24)) == "01:01:01:05"
    assert timecode(-25, Rate(25)) == "-00:00:01:00"
    assert timecode(24, Rate(24000, 1001)) == "00:00:01:00"
    assert seconds(96, Rate(24)) == 4.0
    assert seconds(30000, NTSC) == pytest.approx(1001.0)
    assert NTSC.label == "29.97"
