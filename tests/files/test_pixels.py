"""Pixels of moving pictures, deep pictures, cards and text; drafts on disk."""

import os

import numpy as np
import OpenEXR
import pytest
from PIL import Image

import wild_heron as wh
from wild_heron.files.decode.cards import card_svg
from wild_heron.files.decode.lettering import lettering
from wild_heron.files.decode.pixels import reduced
from wild_heron.files.decode.vector import draw_svg
from wild_heron.files.drafts import Drafts
from wild_heron.files.errors import FileError

from .direct import MovieReader, outlines_of, probe, read_picture
from .layered_files import write_movie

TONES = [(20 * k, 255 - 20 * k, 60) for k in range(12)]


@pytest.mark.parametrize("order", [range(12), range(11, -1, -1), [5, 5, 0, 11, 3, 4, 9]])
def test_a_movies_frames_are_the_same_in_any_order(tmp_path, order):
    reader = MovieReader(write_movie(tmp_path / "m.mp4", TONES))
    for k in order:
        assert reader.frame(k)[20, 20, :3] == pytest.approx(TONES[k], abs=6)
    assert reader.frame(40)[20, 20, :3] == pytest.approx(TONES[-1], abs=6)
    reader.close()


def test_a_playlist_in_a_movies_clothes_fetches_nothing(tmp_path):
    path = tmp_path / "list.mp4"
    path.write_text("#EXTM3U\n#EXTINF:1,\nhttp://127.0.0.1:9/x.ts\n")
    with pytest.raises(FileError, match="list"):
        MovieReader(path)


def test_exr_is_linear_light_with_premultiplied_alpha(tmp_path):
    path = tmp_path / "glow.exr"
    pixels = np.zeros((20, 30, 4), np.float32)
    pixels[...] = (0.5, 0.25, 0.0, 0.5)
    pixels[0, 0] = (9.0, np.nan, 0.0, 1.0)
    OpenEXR.File({}, {"RGBA": pixels}).write(str(path))
    assert (probe(path).width, probe(path).height) == (30, 20)
    read = read_picture(path)
    # Colour 1.0 and 0.5 at half cover; the sRGB curve takes 0.5 to 0.7354.
    assert read[5, 5].tolist() == pytest.approx([128, 0.7354 * 128, 0, 128], abs=1)
    assert read[0, 0].tolist() == [255, 0, 0, 255]


def test_sixteen_bit_colour_tiff_is_read(tmp_path):
    path = tmp_path / "deep.tif"
    import av

    frame = av.VideoFrame.from_ndarray(np.full((16, 24, 3), (65535, 32768, 0), np.uint16), format="rgb48le")
    with av.open(str(path), "w", format="image2", options={"update": "1"}) as container:
        stream = container.add_stream("tiff", rate=1)
        stream.width, stream.height, stream.pix_fmt = 24, 16, "rgb48le"
        for packet in (*stream.encode(frame), *stream.encode()):
            container.mux(packet)
    assert read_picture(path)[5, 5].tolist() == pytest.approx([255, 128, 0, 255], abs=1)


def test_gradients_run_from_corner_to_corner(tmp_path):
    ramp = wh.Gradient((wh.Stop(0.0, "#000000"), wh.Stop(1.0, "#ffffff")), "along", 90.0)
    pixels = draw_svg(None, card_svg(ramp, 200, 50), 200)
    assert pixels[25, :, 0].astype(float) == pytest.approx((np.arange(200) + 0.5) / 200 * 255, abs=2)
    slanted = draw_svg(None, card_svg(wh.Gradient(ramp.stops, "along", 135.0), 100, 100), 100)
    assert slanted[0, 0, 0] < 4
    assert slanted[99, 99, 0] > 251
    assert int(slanted[50, 50, 0]) == pytest.approx(128, abs=3)


def test_text_is_as_large_as_it_says_and_as_its_outlines_are():
    text = wh.Text("Fair & full", size=100.0, weight=600)
    set_ = lettering(text)
    pixels = draw_svg(None, card_svg(text, set_.width, set_.height), set_.width)
    assert pixels.shape[:2] == (set_.height, set_.width)
    rows, columns = np.flatnonzero(pixels[..., 3].any(axis=1)), np.flatnonzero(pixels[..., 3].any(axis=0))
    assert rows[0] > 0
    assert columns[0] > 0
    assert columns[-1] < set_.width - 1
    covered = pixels[..., 3].sum() / 255.0
    outlines = outlines_of(text, None)
    assert sum(each.shape.area for each in outlines.shapes) == pytest.approx(covered, rel=0.01)


def test_tracking_lines_and_alignment():
    plain, spaced = lettering(wh.Text("AVA", size=100.0)), lettering(wh.Text("AVA", size=100.0, tracking=200.0))
    assert spaced.width - plain.width == pytest.approx(2 * 20, abs=1)
    # Kerning draws A and V together.
    apart = lettering(wh.Text("A", size=100.0)).width + lettering(wh.Text("V", size=100.0)).width
    assert lettering(wh.Text("AV", size=100.0)).width < apart - 30 - 2
    two = lettering(wh.Text("long line\nx", size=100.0, leading=1.5))
    assert two.height - plain.height == pytest.approx(150, abs=1)
    middles = []
    for align in ("left", "middle", "right"):
        text = wh.Text("long line\nx", size=100.0, leading=1.5, align=align)
        pixels = draw_svg(None, card_svg(text, two.width, two.height), two.width)
        middles.append(np.flatnonzero(pixels[two.height * 2 // 3 :, :, 3].any(axis=0)).mean())
    assert middles[0] < middles[1] - 50 < middles[2] - 100


def test_a_font_that_is_not_there_is_said():
    assert "No such family" in lettering(wh.Text("x", font="No such family")).problem
    assert lettering(wh.Text("x")).problem == ""


def test_drafts_are_kept_by_content_and_within_a_limit(tmp_path):
    drafts = Drafts(tmp_path / "drafts")
    picture = np.random.default_rng(1).integers(0, 255, (64, 96, 4), np.uint8)
    picture[..., 3] = 255
    path = tmp_path / "a.png"
    Image.fromarray(picture).save(path)
    made = []

    def full(level=-2):
        made.append(1)
        return reduced(picture, level)

    small = drafts.get(path, "", -2, full)
    assert small.shape == (16, 24, 4)
    assert small[0, 0] == pytest.approx(picture[:4, :4].reshape(-1, 4).mean(axis=0), abs=1)
    assert (drafts.get(path, "", -2, full) == small).all()
    # The same content under another name is known; other content under the same name is not.
    os.replace(path, tmp_path / "b.png")
    assert (drafts.get(tmp_path / "b.png", "", -2, full) == small).all()
    assert len(made) == 1
    Image.fromarray(picture[::-1]).save(path)
    drafts.get(path, "", -2, full)
    drafts.get(path, "other layer", -2, full)
    assert len(made) == 3
    drafts.limit = small.nbytes + 100
    drafts.prune()
    assert len(list((tmp_path / "drafts").iterdir())) == 1
    # A folder that cannot be written, or a broken draft, costs time and nothing else.
    for kept in (tmp_path / "drafts").iterdir():
        kept.write_bytes(b"broken")
    assert drafts.get(path, "", -2, full).shape == (16, 24, 4)
    nowhere = Drafts(tmp_path / "a.png" / "no folder")
    assert nowhere.get(path, "", -1, lambda: full(-1)).shape == (32, 48, 4)
