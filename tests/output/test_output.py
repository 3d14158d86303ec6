"""What is written, read back: every kind of picture and movie, passes, chapters, and jobs that go on."""

import json
import shutil
from fractions import Fraction

import av
import msgspec
import numpy as np
import OpenEXR
import pytest
import tifffile
from msgspec.structs import replace
from PIL import Image
from scipy.ndimage import maximum_filter, minimum_filter

import wild_heron as wh
from wild_heron.colour import to_display
from wild_heron.files.errors import FileError
from wild_heron.gl.request import FrameRequest, ThroughLens
from wild_heron.output import frame_files, movies, resuming
from wild_heron.output import job as job_module
from wild_heron.output.estimate import estimated_seconds, told_time
from wild_heron.output.gif import GifEncoder
from wild_heron.output.job import ExportJob
from wild_heron.output.kinds import BY_NAME, KINDS, kind_of
from wild_heron.output.movies import chapters_of, encoder_options
from wild_heron.output.passes import murmur3, node_number
from wild_heron.output.resuming import export_on, piece_job, sidecar_path, whole_frames, work_folder
from wild_heron.output.running import export
from wild_heron.output.several import export_each
from wild_heron.process.stream import FrameStream
from wild_heron.scene import Marker

SIZE = (96, 54)
FRAMES = (0.0, 1.0, 2.0, 3.0, 4.0)


@pytest.fixture(scope="module")
def scene() -> wh.Scene:
    """A card that goes across, seen through in part, over one that stands."""
    camera = wh.Camera(id="cam", name="Cam", channels=(wh.Channel("position.z", 10.0),))
    card = wh.Picture(
        id="card", name="Card", artwork=wh.Gradient((wh.Stop(0.0, "#f2c25b"), wh.Stop(1.0, "#40506a"))),
        width=400, height=260,
        channels=(wh.Channel("opacity", 0.75), wh.Channel("rotation.z", 20.0)),
    )  # fmt: skip
    back = wh.Picture(id="back", name="Back", artwork=wh.Solid("#446688"), width=300, height=500,
                      channels=(wh.Channel("position.x", -1.5), wh.Channel("position.z", -1.0)))  # fmt: skip
    made = wh.Scene(
        settings=wh.Settings(width=SIZE[0], height=SIZE[1], last=40, background="#1c262b"),
        nodes=(camera, back, card), camera="cam",
    )  # fmt: skip
    for frame, x in ((0.0, -1.0), (4.0, 1.0)):
        made = wh.edits.set_key(made, "card", "position.x", frame, x, wh.Linear())
    return made


def job(folder, name: str, **changes) -> ExportJob:
    return ExportJob(**({"path": folder / name, "frames": FRAMES, "camera": "cam", "size": SIZE} | changes))


@pytest.fixture(scope="module")
def rendered(scene):
    """The frames as the renderer gives them, by numbers and whether the background is left out."""
    kept = {}

    def frames_of(numbers: str = "bytes", clear: bool = False) -> list[np.ndarray]:
        if (numbers, clear) not in kept:
            wish = FrameRequest(0.0, ThroughLens("cam", transparent=clear), *SIZE, fine=True, numbers=numbers)
            with FrameStream(scene, None, wish) as stream:
                kept[numbers, clear] = list(stream.frames(FRAMES))
        return kept[numbers, clear]

    return frames_of


def decoded(path, layout: str = "rgb24") -> list[np.ndarray]:
    with av.open(str(path)) as movie:
        return [frame.to_ndarray(format=layout) for frame in movie.decode(video=0)]


def psnr(a: np.ndarray, b: np.ndarray) -> float:
    return float(10.0 * np.log10(255.0**2 / max(((a.astype(float) - b.astype(float)) ** 2).mean(), 1e-9)))


@pytest.mark.parametrize("clear", [False, True])
def test_what_is_lossless_is_exactly_what_was_drawn(scene, rendered, tmp_path, clear):
    last = 4 if clear else 3
    want = [each[..., :last] for each in rendered(clear=clear)]
    assert export(scene, None, job(tmp_path, "m.mkv", transparent=clear))
    own = decoded(tmp_path / "m.mkv", "bgra" if clear else "bgr24")
    assert all((got[..., [2, 1, 0, 3][:last]] == drawn).all() for got, drawn in zip(own, want, strict=True))
    for name in ("f_#.png", "w_#.webp"):
        assert export(scene, None, job(tmp_path, name, transparent=clear, quality=100.0))
        for k, drawn in enumerate(want):
            with Image.open(tmp_path / name.replace("#", str(k))) as image:
                assert image.mode == ("RGBA" if clear else "RGB")
                assert (np.asarray(image) == drawn).all()
    assert export(scene, None, job(tmp_path, "t_#.tif", transparent=clear, depth="8"))
    assert (tifffile.imread(tmp_path / "t_2.tif") == want[2]).all()


@pytest.mark.parametrize(("name", "codec"), [
    ("m.mp4", "h264"), ("m.mp4", "av1"), ("m.webm", "vp9"), ("m.webm", "av1"), ("m.webp", None), ("f_#.jpg", None),
    ("f_#.webp", None),
])  # fmt: skip
def test_what_is_lossy_is_close(scene, rendered, tmp_path, name, codec):
    assert export(scene, None, job(tmp_path, name, codec=codec, quality=95.0))
    if "#" in name:
        own = [np.asarray(Image.open(tmp_path / name.replace("#", str(k)))) for k in range(5)]
    elif name.endswith("webp"):
        with Image.open(tmp_path / name) as image:
            assert image.n_frames == 5
            own = []
            for k in range(5):
                image.seek(k)
                own.append(np.asarray(image.convert("RGB")))
    else:
        own = decoded(tmp_path / name)
    for got, drawn in zip(own, rendered(), strict=True):
        # Colour is halved in each direction: judged where neighbours are alike, as in what a camera takes.
        values = drawn[..., :3].astype(float)
        spread = (maximum_filter(values, (5, 5, 1)) - minimum_filter(values, (5, 5, 1))).max(axis=2)
        smooth = spread < 24.0
        assert psnr(got[smooth], drawn[smooth][:, :3]) > 40.0


@pytest.mark.parametrize("name", ["a.mp4", "b.webm", "c.webp", "d.gif", "e.apng"])
def test_one_frame_that_flashes_is_there(tmp_path, name):
    """A-B-A, and long after that A again: in colours whose order in a palette is the same."""
    card = wh.Picture(id="c", name="C", artwork=wh.Solid("#20a0f0"), width=300, height=300)
    camera = wh.Camera(id="k", name="K", channels=(wh.Channel("position.z", 10.0),))
    scene = wh.Scene(settings=wh.Settings(width=64, height=36, last=6, background="#101010"),
                     nodes=(card, camera), camera="k")  # fmt: skip
    for frame, value in ((0.0, 1.0), (2.0, 0.0), (3.0, 1.0)):
        scene = wh.edits.set_key(scene, "c", "opacity", frame, value, wh.Hold())
    shown = ExportJob(tmp_path / name, tuple(map(float, range(7))), "k", (64, 36), quality=100.0)
    assert export(scene, None, shown)
    if name.endswith((".gif", ".webp")):
        with Image.open(tmp_path / name) as image:
            seen, moments = [], 0
            for k in range(image.n_frames):
                image.seek(k)
                seen += [np.asarray(image.convert("RGB"))[18, 32]] * max(1, round(image.info["duration"] * 24 / 1000.0))
                moments += image.info["duration"]
        assert moments == pytest.approx(7000 / 24, abs=10.0)
    else:
        seen = [each[18, 32] for each in decoded(tmp_path / name)]
    assert [int(each[2]) > 128 for each in seen] == [True, True, False, True, True, True, True]


def test_a_gif_of_many_colours_comes_back_frame_by_frame(tmp_path):
    """Pictures of noise, each in colours of its own: what is decoded is what its palette could say of it."""
    rng = np.random.default_rng(5)
    frames_ = [np.dstack([rng.integers(0, 40 * (k + 1), (30, 40, 3)), np.full((30, 40), 255)]).astype(np.uint8)
               for k in range(5)]  # fmt: skip
    frames_.insert(3, frames_[0])
    encoder = GifEncoder((40, 30), Fraction(25))
    data = encoder.begin() + b"".join(encoder.add(each) for each in frames_) + encoder.finish()
    (tmp_path / "a.gif").write_bytes(data)
    own = decoded(tmp_path / "a.gif")
    assert len(own) == 6
    for got, drawn in zip(own, frames_, strict=True):
        assert np.abs(got.astype(int) - drawn[..., :3]).mean() < 12.0
    with Image.open(tmp_path / "a.gif") as image:
        assert (image.n_frames, image.info["duration"], image.info["loop"]) == (6, 40, 0)


def test_a_gif_has_its_colours_and_its_time(scene, rendered, tmp_path):
    assert export(scene, None, job(tmp_path, "m.gif"))
    with Image.open(tmp_path / "m.gif") as image:
        assert image.n_frames == 5
        times = []
        for k, drawn in enumerate(rendered()):
            image.seek(k)
            times.append(image.info["duration"])
            assert psnr(np.asarray(image.convert("RGB")), drawn[..., :3]) > 28.0
    assert np.mean(times) == pytest.approx(1000.0 / 24.0, abs=6.0)


@pytest.mark.parametrize(("name", "codec"), [("m.mp4", "h264"), ("m.mp4", "av1"), ("m.webm", "vp9"), ("m.webm", "av1")])
def test_key_frames_are_at_cuts_and_chapters(tmp_path, name, codec):
    near, far = (
        wh.Camera(id=each, name=each, channels=(wh.Channel("position.z", z),)) for each, z in (("a", 5.0), ("b", 8.0))
    )
    card = wh.Picture(id="c", name="C", artwork=wh.Solid("#808080"), width=300, height=300)
    shots = (wh.Shot("A", "a"), wh.Shot("B", "b", 7.0), wh.Shot("C", "a", 11.5))
    scene = wh.Scene(settings=wh.Settings(width=64, height=36, last=30), nodes=(near, far, card), camera="a",
                     shots=shots, markers=(Marker(20.0, "Late", "chapter"), Marker(24.0, "Beat", "beat")))  # fmt: skip
    wanted = ExportJob(tmp_path / name, tuple(map(float, range(31))), None, (64, 36), codec=codec)
    assert export(scene, None, wanted)
    with av.open(str(tmp_path / name)) as movie:
        keys = [k for k, frame in enumerate(movie.decode(video=0)) if frame.key_frame]
    assert {0, 7, 12, 20} <= set(keys)
    assert len(keys) < 10


@pytest.mark.parametrize(("name", "depth", "layout"), [
    ("m.mkv", "16", "gbrp16le"), ("m.mp4", "10", "yuv420p10le"), ("m.webm", "10", "yuv420p10le"),
    ("m.apng", "16", "rgb48be"),
])  # fmt: skip
def test_movies_of_more_bits_are_finer(tmp_path, name, depth, layout):
    """A ramp so slow that eight bits show it as steps."""
    dark = wh.Gradient((wh.Stop(0.0, "#000000"), wh.Stop(1.0, "#ffffff")), angle=90.0)
    card = wh.Picture(id="c", name="C", artwork=dark, width=2000, height=600, channels=(wh.Channel("opacity", 0.03),))
    camera = wh.Camera(id="k", name="K", channels=(wh.Channel("position.z", 12.0),))
    scene = wh.Scene(settings=wh.Settings(width=256, height=36, last=1), nodes=(card, camera), camera="k")
    codec = "av1" if depth == "10" else None
    levels = {}
    for bits in ("8", depth):
        made = ExportJob(tmp_path / f"{bits}{name}", (0.0, 1.0), "k", (256, 36), depth=bits, codec=codec, quality=100.0)
        assert export_on(scene, None, made) if bits == "16" else export(scene, None, made)
        with av.open(str(made.path)) as movie:
            frame = next(movie.decode(video=0))
            assert (frame.format.name == layout) == (bits == depth)
            levels[bits] = len(np.unique(frame.to_ndarray(format="gray16le")[18]))
    assert levels[depth] > 2.5 * levels["8"]


@pytest.mark.parametrize("name", ["m.mkv", "m.webm", "m.gif", "m.apng"])
def test_the_same_film_is_the_same_bytes(scene, tmp_path, name):
    for folder in ("a", "b"):
        (tmp_path / folder).mkdir()
        assert export(scene, None, job(tmp_path / folder, name))
    assert (tmp_path / "a" / name).read_bytes() == (tmp_path / "b" / name).read_bytes()


def test_frames_say_how_many_there_are_a_second_and_that_pixels_are_square(scene, tmp_path):
    quick = replace(scene, settings=replace(scene.settings, rate=wh.Rate(30000, 1001)))
    assert export(quick, None, job(tmp_path, "f_#.exr", frames=(0.0,)))
    rate = OpenEXR.File(str(tmp_path / "f_0.exr")).header()["framesPerSecond"]
    assert rate == Fraction(30000, 1001)
    assert export(quick, None, job(tmp_path, "p_#.png", frames=(0.0,), depth="16"))
    with av.open(str(tmp_path / "p_0.png")) as picture:
        assert picture.streams.video[0].sample_aspect_ratio == 1


@pytest.mark.parametrize(("name", "codec"), [("m.webm", "vp9"), ("m.webp", None)])
def test_a_movie_can_leave_the_background_out(scene, rendered, tmp_path, name, codec):
    assert export(scene, None, job(tmp_path, name, codec=codec, transparent=True, quality=100.0))
    drawn = rendered(clear=True)[2]
    if name.endswith("webp"):
        with Image.open(tmp_path / name) as image:
            image.seek(2)
            alpha = np.asarray(image.convert("RGBA"))[..., 3]
    else:
        with av.open(str(tmp_path / name)) as movie:
            # FFmpeg's own decoder of VP9 leaves alpha out.
            decoder = av.CodecContext.create("libvpx-vp9", "r")
            found = [
                frame for packet in movie.demux(video=0) for frame in decoder.decode(packet if packet.size else None)
            ]
        alpha = found[2].to_ndarray(format="rgba")[..., 3]
    assert np.abs(alpha.astype(int) - drawn[..., 3]).mean() < 2.0


def test_sixteen_bits_are_finer_than_eight(scene, rendered, tmp_path):
    for name in ("f_#.png", "f_#.tif"):
        assert export(scene, None, job(tmp_path, name, depth="16"))
    want = rendered("shown")[1][..., :3]
    with av.open(str(tmp_path / "f_1.png")) as picture:
        png = next(picture.decode(video=0)).to_ndarray(format="rgb48le")
    tiff = tifffile.imread(tmp_path / "f_1.tif")
    assert (png == tiff).all()
    assert tiff / 65_535.0 == pytest.approx(want, abs=1.0 / 65_535.0)
    assert len(np.unique(tiff)) > 256


def test_pictures_say_that_they_are_srgb(scene, tmp_path):
    for name in ("a.png", "a.jpg", "a.webp", "a.tif"):
        assert export(scene, None, job(tmp_path, name, frames=(0.0,)))
    assert export(scene, None, job(tmp_path, "b.png", frames=(0.0,), depth="16"))
    with Image.open(tmp_path / "a.png") as image:
        assert image.info["srgb"] == 0
    for name in ("a.jpg", "a.webp"):
        with Image.open(tmp_path / name) as image:
            assert b"s\0R\0G\0B" in image.info["icc_profile"]
    with tifffile.TiffFile(tmp_path / "a.tif") as file:
        assert b"s\0R\0G\0B" in file.pages[0].iccprofile
    assert b"sRGB" in (tmp_path / "b.png").read_bytes()[:200]
    with OpenEXR.File(str(_exr(scene, tmp_path))) as file:
        assert file.header()["chromaticities"][:2] == pytest.approx((0.64, 0.33))


def _exr(scene, folder, **changes):
    changed = job(folder, "e_#.exr", frames=(2.0,), **changes)
    assert export(scene, None, changed)
    return changed.frame_path(2.0)


@pytest.mark.parametrize("depth", ["half", "float"])
def test_an_exr_is_linear_light_with_alpha(scene, rendered, tmp_path, depth):
    with OpenEXR.File(str(_exr(scene, tmp_path, depth=depth))) as file:
        pixels = file.channels()["RGBA"].pixels
    assert pixels.dtype == {"half": np.float16, "float": np.float32}[depth]
    assert pixels == pytest.approx(rendered("light", True)[2], abs=1e-3)
    with OpenEXR.File(str(_exr(scene, tmp_path, transparent=False))) as file:
        pixels = file.channels()["RGBA"].pixels.astype(float)
    assert (pixels[..., 3] == 1.0).all()
    shown = np.round(to_display(np.clip(pixels[..., :3], 0.0, 1.0)) * 255.0)
    assert np.abs(shown - rendered()[2][..., :3]).max() <= 1.0


def test_passes_are_layers_of_one_exr(scene, tmp_path):
    with OpenEXR.File(str(_exr(scene, tmp_path, passes=True))) as file:
        header, channels = dict(file.header()), {name: each.pixels for name, each in file.channels().items()}
    # The reader gathers channels of a layer.
    depth = channels["depth.Z"]
    focal = 35.0 * SIZE[0] / 36.0
    assert depth[27, 48] == pytest.approx(10.0, rel=1e-4)
    assert channels["motion.X"][27, 48] == pytest.approx(0.5 * focal / 10.0, abs=1e-3)
    key = next(name for name in header if name.startswith("cryptomatte/") and name.endswith("/manifest"))
    listed = json.loads(header[key])
    assert set(listed) == {"Cam", "Back", "Card"}
    card = np.uint32(int(listed["Card"], 16)).view(np.float32)
    layer = channels["Node00"] if "Node00" in channels else np.stack([channels[f"Node00.{c}"] for c in "RGBA"], axis=-1)
    assert layer[27, 48, 0] == card
    # A card that is three quarters there leaves what lies behind to the next.
    assert layer[27, 48, 1] == pytest.approx(0.75, abs=0.07)
    assert key == f"cryptomatte/{murmur3(b'Node'):08x}"[:19] + "/manifest"


def test_names_become_numbers_as_the_layout_has_it():
    # Values that the layout's own description and MurmurHash3's give.
    assert murmur3(b"") == 0
    assert murmur3(b"hello") == 0x248BFA47
    assert murmur3(b"hello, world") == 0x149BBB7F
    assert np.isfinite([node_number(f"n{k}") for k in range(3000)]).all()


def test_a_movie_has_chapters_and_sound_where_it_can(scene, tmp_path):
    begins = ((0.0, "Dusk"), (3.0, "Lanterns"))
    marked = replace(scene, markers=tuple(Marker(frame, name, "chapter") for frame, name in begins))
    for name in ("m.mp4", "m.mkv"):
        assert export(marked, None, job(tmp_path, name))
        with av.open(str(tmp_path / name)) as movie:
            found = [
                (each["metadata"]["title"], round(float(each["start"] * each["time_base"]) * 24))
                for each in movie.chapters()
            ]
        assert found == [("Dusk", 0), ("Lanterns", 3)]
    assert chapters_of(marked.markers, (4.0, 2.0), Fraction(24)) == []
    assert [each["start"] for each in chapters_of(marked.markers, (2.0, 3.0, 4.0), Fraction(24))] == [0, 1]


def test_less_quality_is_a_smaller_file(scene, rendered, tmp_path):
    held = dict(zip(FRAMES, rendered(), strict=True))
    for kind in KINDS:
        if not kind.lossy:
            continue
        for codec in kind.codecs or (None,):
            sizes = []
            for quality in (10.0, 95.0):
                name = "m" if kind.movie else "f_#"
                wanted = job(tmp_path, name + kind.suffixes[0], quality=quality, codec=codec and codec.name)
                assert export(scene, None, wanted, held=held)
                sizes.append(sum(path.stat().st_size for path in wanted.written()))
            assert sizes[0] < sizes[1], (kind.name, codec)


def test_kinds_are_told_by_their_names(tmp_path):
    assert kind_of(tmp_path / "a.webp", 5) == BY_NAME["webp-anim"]
    assert kind_of(tmp_path / "a_##.webp", 5) == kind_of(tmp_path / "a.webp", 1) == BY_NAME["webp"]
    assert kind_of(tmp_path / "a.TIF", 1) == BY_NAME["tiff"]
    assert kind_of(tmp_path / "a.avi", 1) is None
    assert encoder_options(BY_NAME["mp4"].codecs[0], 80.0, False)["crf"] == "16.0"


@pytest.mark.parametrize(("name", "changes", "said"), [
    ("m.mp4", {"codec": "vp9"}, "cannot be encoded as vp9"),
    ("m.mp4", {"transparent": True}, "has no transparency"),
    ("f_#.jpg", {"transparent": True}, "has no transparency"),
    ("f_#.png", {"depth": "half"}, "cannot hold half numbers"),
    ("f_#.png", {"passes": True}, "Use EXR frames"),
])  # fmt: skip
def test_what_a_kind_cannot_hold_is_refused(tmp_path, name, changes, said):
    with pytest.raises(FileError, match=said):
        job(tmp_path, name, **changes).check()


# Going on where it stopped


class Counting:
    """Lets some frames be written, then fails or cancels."""

    def __init__(self, monkeypatch, target, after: int) -> None:
        self.count, self.after = 0, after
        real = target.add

        def add(sink, frame, drawn):
            if self.count >= self.after:
                raise OSError(28, "No space left on device")
            self.count += 1
            real(sink, frame, drawn)

        monkeypatch.setattr(target, "add", add)


@pytest.mark.parametrize("name", ["f_##.png", "f_##.exr"])
def test_frames_go_on_where_they_stopped(scene, tmp_path, monkeypatch, name):
    wanted = job(tmp_path, name)
    with monkeypatch.context() as patched:
        Counting(patched, frame_files.FramesOneByOne, 2)
        with pytest.raises(FileError, match=r"No space left.*whole are kept"):
            export_on(scene, None, wanted)
    assert whole_frames(scene, None, wanted) == {0.0, 1.0}
    assert sorted(each.name for each in tmp_path.iterdir() if each.name[0] != ".") == [
        wanted.frame_path(k).name for k in (0.0, 1.0)
    ]
    counted = Counting(monkeypatch, frame_files.FramesOneByOne, 99)
    first = wanted.frame_path(0.0).stat().st_mtime_ns
    told: list[tuple[int, int]] = []
    assert export_on(scene, None, wanted, lambda done, total: told.append((done, total)))
    assert (counted.count, told[0], told[-1]) == (3, (2, 5), (5, 5))
    assert wanted.frame_path(0.0).stat().st_mtime_ns == first
    # One that is another one now, and all of them for another scene.
    wanted.frame_path(3.0).write_bytes(b"broken")
    assert whole_frames(scene, None, wanted) == {0.0, 1.0, 2.0, 4.0}
    other = replace(scene, settings=replace(scene.settings, background="#000000"))
    assert whole_frames(other, None, wanted) == set()
    sidecar_path(wanted).write_bytes(b"{")
    assert whole_frames(scene, None, wanted) == set()


def test_a_movie_goes_on_where_it_stopped_and_is_the_same(scene, tmp_path, monkeypatch):
    monkeypatch.setattr(resuming, "CHUNK", 2)
    wanted = job(tmp_path, "m.mp4")
    with monkeypatch.context() as patched:
        Counting(patched, movies.MovieWriter, 3)
        with pytest.raises(FileError, match="No space left"):
            export_on(scene, None, wanted)
    assert not wanted.path.exists()
    assert [each.name for each in sorted(work_folder(wanted).glob("*.mkv"))] == ["piece_00000.mkv"]
    started = []
    with monkeypatch.context() as patched:
        start = FrameStream._start
        patched.setattr(FrameStream, "_start", lambda self: (started.append(1), start(self))[1])
        assert export_on(scene, None, wanted)
    assert len(started) == 1, "one renderer for all that is missing"
    assert not work_folder(wanted).exists()
    direct = job(tmp_path, "direct.mp4")
    assert export(scene, None, direct)
    assert wanted.path.read_bytes() == direct.path.read_bytes()


def test_pieces_of_another_scene_are_not_taken(scene, tmp_path, monkeypatch):
    monkeypatch.setattr(resuming, "CHUNK", 2)
    wanted = job(tmp_path, "m.mkv")
    assert (
        export_on(scene, None, wanted, cancelled=lambda: work_folder(wanted).joinpath("piece_00001.mkv").exists())
        is False
    )
    other = replace(scene, settings=replace(scene.settings, background="#ffffff"))
    assert export_on(other, None, wanted)
    assert decoded(wanted.path)[0][0, -1].tolist() == [255, 255, 255]


def test_a_missing_piece_is_named(scene, tmp_path, monkeypatch):
    monkeypatch.setattr(resuming, "CHUNK", 2)
    wanted = job(tmp_path, "m.mkv")
    pieces = [piece_job(wanted, tmp_path, number) for number in range(3)]
    for piece in pieces[:2]:
        assert export(scene, None, piece)
    with pytest.raises(FileError, match="could not be read"):
        resuming.join(scene, None, wanted, [piece.path for piece in pieces])
    shutil.copy(pieces[0].path, pieces[2].path)
    with pytest.raises(FileError, match="1 frames are missing"):
        resuming.join(scene, None, replace_frames(wanted, 7), [piece.path for piece in pieces])
    assert not wanted.path.exists()


def replace_frames(wanted: ExportJob, count: int) -> ExportJob:
    from dataclasses import replace as changed

    return changed(wanted, frames=tuple(float(k) for k in range(count)))


def test_a_sidecar_is_json_that_names_its_frames(scene, tmp_path):
    wanted = job(tmp_path, "f_#.png", frames=(0.0, 1.0))
    assert export_on(scene, None, wanted)
    known = msgspec.json.decode(sidecar_path(wanted).read_bytes())
    assert set(known["frames"]) == {"0", "1"}


def test_each_job_is_checked_once_before_anything_is_drawn(scene, tmp_path, monkeypatch):
    """The check writes to the folder, which on a disk over a network takes its time."""
    tried = []
    monkeypatch.setattr(job_module, "_cannot_write", tried.append)
    jobs = [job(tmp_path, f"{name}.png", frames=(0.0,)) for name in "ab"]
    for resume in (False, True):
        assert len(list(export_each(scene, tmp_path, jobs, resume=resume))) == 2
        assert tried == [tmp_path, tmp_path]
        tried.clear()


def test_how_long_it_takes_is_told_from_frames_drawn_on_trial(scene, tmp_path):
    """Twice as many frames take longer; one that is given up tells nothing."""
    short, long = (
        estimated_seconds(scene, tmp_path, job(tmp_path, "f_###.png", frames=tuple(float(k) for k in range(count))))
        for count in (4, 4000)
    )
    assert 0.0 < short < long
    assert estimated_seconds(scene, tmp_path, job(tmp_path, "f.mp4"), cancelled=lambda: True) is None
    words = {0.2: "1 s", 89.4: "89 s", 93.0: "1 min 35 s", 121.0: "2 min", 3000.0: "50 min", 9000.0: "2 h 30 min"}
    assert {each: told_time(each) for each in words} == words
