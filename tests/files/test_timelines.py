"""Films as timelines, out and in: told to OpenTimelineIO and asked of it."""

from pathlib import Path

import opentimelineio as otio
import pytest
from msgspec.structs import replace

import wild_heron as wh
from wild_heron.demo import DEMO_SCENE
from wild_heron.evaluate.evaluation import Evaluation
from wild_heron.evaluate.film import film_of
from wild_heron.files.contents import FilmCuts
from wild_heron.files.decode.source import on_disk
from wild_heron.files.decode.timeline_cuts import read_cuts
from wild_heron.files.errors import FileError
from wild_heron.files.export_formats.timeline_cuts import with_cuts
from wild_heron.files.export_formats.writing import MoveJob, write_move
from wild_heron.files.project import load
from wild_heron.files.reader import Reader
from wild_heron.scene import Marker

FRAMES = (0.0,)
T, R = otio.opentime.RationalTime, otio.opentime.TimeRange


@pytest.fixture
def scene() -> wh.Scene:
    """Three shots of 30 frames, of two cameras and a framing, with a blend and a note."""
    nodes = (wh.Camera(id="a", name="A"), wh.Camera(id="b", name="B"), wh.Framing(id="close", name="Close"))
    blend = wh.Blend(10.0, "frames", "before", wh.Family("cubic", "in-out"), "round")
    shots = (
        wh.Shot("One", "a", 0.0, note="Slowly."),
        wh.Shot("Two", "b", 30.0, join=blend),
        wh.Shot("Three", "close", 60.0, colour="#c0ffee"),
    )
    return wh.Scene(settings=wh.Settings(width=64, height=36, last=89), nodes=nodes, camera="a", shots=shots)


def written(scene: wh.Scene, path: Path, base: Path | None = None, **wish):
    write_move(scene, base, MoveJob(path, FRAMES, **wish))
    return otio.adapters.read_from_file(str(path))


def clips_of(timeline) -> list:
    return [item for item in timeline.video_tracks()[0] if isinstance(item, otio.schema.Clip)]


@pytest.mark.parametrize(("first", "last", "lengths"), [
    (0, 89, [30, 30, 30]), (20, 69, [10, 30, 10]), (40, 89, [20, 30]), (35, 50, [16]), (-10, 10, [21]),
])  # fmt: skip
def test_a_trimmed_scene_is_as_long_as_its_range(scene, tmp_path, first, last, lengths):
    scene = replace(scene, settings=replace(scene.settings, first=first, last=last))
    timeline = written(scene, tmp_path / "a.otio")
    clips = clips_of(timeline)
    assert [clip.duration().to_frames() for clip in clips] == lengths
    assert timeline.duration().to_frames() == last - first + 1
    assert clips[0].source_range.start_time.to_frames() == first
    for clip in clips:
        there = clip.available_range()
        assert there.start_time <= clip.source_range.start_time
        assert clip.source_range.end_time_exclusive() <= there.end_time_exclusive()


def test_what_is_not_heard_claims_nothing_and_stretches_nothing(scene, tmp_path):
    (tmp_path / "project" / "sound").mkdir(parents=True)
    (tmp_path / "out").mkdir()
    source = "sound/drum loop.wav"
    sounds = (
        wh.Sound("Late", source, 10.0, start=70.0, skip=1.0),
        wh.Sound("Short", source, 2.0, start=-12.0, skip=0.25),
        wh.Sound("Gone", source, 1.0, start=-60.0),
        wh.Sound("After", source, 1.0, start=90.0),
        wh.Sound("Off", source, 1.0, on=False),
    )
    timeline = written(replace(scene, sounds=sounds), tmp_path / "out" / "a.otio", tmp_path / "project")
    tracks = {track.name: track for track in timeline.audio_tracks()}
    assert set(tracks) == {"Late", "Short"}
    assert timeline.duration().to_frames() == 90
    late, short = tracks["Late"][-1], tracks["Short"][-1]
    assert (late.source_range.start_time.to_frames(), late.duration().to_frames()) == (24, 20)
    # A quarter of a second is skipped and half a second lies before the film: 1.25 s of its 2 s are left.
    assert (short.source_range.start_time.to_seconds(), short.duration().to_seconds()) == (0.75, 1.25)
    assert short.media_reference.available_range.duration.to_seconds() == 2.0
    assert short.media_reference.target_url == "../project/sound/drum%20loop.wav"
    for track in tracks.values():
        assert track.duration() <= timeline.duration()


def test_cuts_that_events_make_are_there(tmp_path):
    scene = load(DEMO_SCENE)
    made = film_of(Evaluation.evaluator, scene)
    timeline = written(scene, tmp_path / "a.otio", DEMO_SCENE.parent)
    frames = [clip.source_range.start_time.to_frames() for clip in clips_of(timeline)]
    want = [round(shot.first) for shot in made.shots if scene.settings.first <= shot.first <= scene.settings.last]
    assert frames == want
    assert any(shot.event >= 0 for shot in made.shots)
    assert [clip for clip in clips_of(timeline) if "event" in clip.metadata["wild_heron"]]


@pytest.mark.parametrize(
    ("name", "kind"), [("film.mp4", "ExternalReference"), ("f_####.png", "ImageSequenceReference")]
)
def test_clips_show_what_was_made_of_the_film(scene, tmp_path, name, kind):
    timeline = written(scene, tmp_path / "a.otio", picture=tmp_path / "made" / name)
    clip = clips_of(timeline)[1]
    medium = clip.media_reference
    assert type(medium).__name__ == kind
    assert medium.available_range == R(T(0, 24), T(90, 24))
    if kind == "ExternalReference":
        assert medium.target_url == "made/film.mp4"
    else:
        assert medium.target_url_for_image_number(30) == "made/f_0030.png"


def test_a_film_comes_back_as_it_went(scene, tmp_path):
    markers = (Marker(48.0, "Dusk", "chapter", "#112233"), Marker(50.0, "Hop"))
    scene = replace(scene, markers=markers)
    written(scene, tmp_path / "a.otio")
    back, notes = with_cuts(replace(scene, shots=(), markers=()), read_cuts(on_disk(tmp_path / "a.otio")), 0.0)
    assert back.shots == scene.shots
    assert back.markers == markers
    assert (back.settings, notes) == (scene.settings, ())


def test_the_films_cuts_come_back_as_they_went(tmp_path):
    scene = replace(load(DEMO_SCENE), events=())
    marked = replace(scene, markers=(Marker(48.0, "Dusk", "chapter"),))
    path = tmp_path / "film.otio"
    timeline = written(marked, path)
    clips = [item for item in timeline.video_tracks()[0] if isinstance(item, otio.schema.Clip)]
    assert [clip.name for clip in clips] == [shot.name for shot in scene.shots]
    assert timeline.duration().to_frames() == scene.settings.frame_count
    assert [track.name for track in timeline.audio_tracks()] == [sound.name for sound in scene.sounds if sound.on]
    with Reader() as reader:
        back, _ = with_cuts(replace(scene, shots=(), markers=()), reader.cuts(path), 0.0)
    assert [(shot.name, shot.camera, round(shot.first, 4)) for shot in back.shots] == [
        (shot.name, shot.camera if isinstance(scene.node(shot.camera), wh.Camera) else back.shots[k].camera, shot.first)
        for k, shot in enumerate(scene.shots)
    ]
    assert [wh.scene.film.blend_frames(a.join, scene.settings.rate) if isinstance(a.join, wh.Blend) else 0.0
            for a in back.shots] == pytest.approx([
        wh.scene.film.blend_frames(a.join, scene.settings.rate) if isinstance(a.join, wh.Blend) else 0.0
        for a in scene.shots
    ])  # fmt: skip
    assert [(marker.frame, marker.name) for marker in back.markers] == [(48.0, "Dusk")]


def timeline_of(*tracks, rate: float = 24.0) -> otio.schema.Timeline:
    timeline = otio.schema.Timeline("T")
    timeline.tracks.extend(tracks)
    return timeline


def track_of(*items, name: str = "V") -> otio.schema.Track:
    return otio.schema.Track(name, list(items), kind=otio.schema.TrackKind.Video)


def clip(name: str, frames: float, start: float = 0.0, rate: float = 24.0, enabled: bool = True, markers=()):
    made = otio.schema.Clip(name, source_range=R(T(start, rate), T(frames, rate)))
    made.enabled = enabled
    made.markers.extend(otio.schema.Marker(each, R(T(at, rate), T(1, rate))) for each, at in markers)
    return made


def gap(frames: float) -> otio.schema.Gap:
    return otio.schema.Gap(source_range=R(T(0, 24), T(frames, 24)))


def read(timeline, tmp_path) -> FilmCuts:
    path = tmp_path / "in.otio"
    otio.adapters.write_to_file(timeline, str(path))
    return read_cuts(on_disk(path))


def seen(film: FilmCuts) -> list[tuple[str, int]]:
    return [(each.name, round(each.begins * 24.0)) for each in film.clips]


def test_upper_tracks_lie_over_lower_ones_where_they_have_clips_that_are_on(tmp_path):
    low = track_of(clip("A", 40), clip("B", 40))
    high = track_of(gap(30), clip("Over", 20), gap(5), clip("Off", 10, enabled=False))
    film = read(timeline_of(low, high), tmp_path)
    assert seen(film) == [("A", 0), ("Over", 30), ("B", 50)]
    assert film.seconds * 24.0 == pytest.approx(80.0)


def test_stacks_and_tracks_inside_are_opened_as_far_as_they_are_seen(tmp_path):
    inner = otio.schema.Stack("inner", [track_of(clip("C", 10), clip("D", 30)), track_of(gap(20), clip("E", 5))])
    inner.source_range = R(T(5, 24), T(25, 24))
    nested = track_of(clip("F", 8), clip("G", 8))
    film = read(timeline_of(track_of(clip("A", 12), inner, nested)), tmp_path)
    assert seen(film) == [("A", 0), ("C", 12), ("D", 17), ("E", 27), ("D", 32), ("F", 37), ("G", 45)]


def test_gaps_are_said_and_markers_of_clips_are_where_the_clip_is(tmp_path):
    track = track_of(clip("A", 10), gap(6), clip("B", 20, start=100.0, markers=(("Hit", 104.0), ("Outside", 3.0))))
    film = read(timeline_of(track), tmp_path)
    assert [(each.name, each.seconds * 24.0) for each in film.markers] == [("Hit", pytest.approx(20.0))]
    assert "1 gap between clips" in film.notes[0]


def test_the_scene_ends_with_the_film_and_sound_does_not_make_it_longer(scene, tmp_path):
    sound = otio.schema.Track("S", [clip("Sound", 500)], kind=otio.schema.TrackKind.Audio)
    film = read(timeline_of(track_of(clip("A", 50), clip("B", 70)), sound), tmp_path)
    back, notes = with_cuts(scene, film, 0.0)
    assert back.settings.last == 119
    assert "ends with the film, on frame 119" in notes[0]


def test_cuts_of_another_rate_fall_on_frames(scene, tmp_path):
    scene = replace(scene, settings=replace(scene.settings, rate=wh.Rate(24000, 1001)))
    track = track_of(clip("A", 37, rate=25.0), clip("B", 51, rate=25.0), clip("C", 20, rate=25.0))
    back, notes = with_cuts(scene, read(timeline_of(track), tmp_path), 0.0)
    assert [shot.first for shot in back.shots] == [0.0, 35.0, 84.0]
    assert "25 frames a second" in notes[0]


def test_timelines_without_an_end_are_refused(tmp_path):
    stack = otio.schema.Stack("0", [track_of(clip("A", 5))])
    for number in range(80):
        stack = otio.schema.Stack(str(number), [track_of(stack)])
    with pytest.raises(FileError, match=r"in\.otio"):
        read(timeline_of(track_of(stack)), tmp_path)


@pytest.mark.parametrize("text", ["{", "{}", '{"OTIO_SCHEMA": "Timeline.1"}', "[]"])
def test_what_is_no_timeline_is_named(tmp_path, text):
    path = tmp_path / "a.otio"
    path.write_text(text)
    with Reader() as reader, pytest.raises(FileError, match=r"a\.otio"):
        reader.cuts(path)
