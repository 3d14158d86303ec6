"""Connects actions to commands, and signals between parts."""

from functools import partial
from pathlib import Path

from PyQt6.QtWidgets import QMenu

from ...checks import Finding
from ...demo import DEMO_SCENE, STUDY_SCENE
from ...motion.takes.steadying import GRADES
from ...scene import BEYOND, GUIDES, Family, Flow, Hold, Linear
from ...scene.mover_presets import MOVER_PRESETS
from ...scene.movers import MOVER_KINDS
from ..commands.bind_commands import BIND_ACTIONS
from ..commands.new_nodes import NEW_IN_RIG, NEW_NODES, add
from ..rigs.recipes import RECIPES
from ..state.recording import SCOPES
from ..timeline.ease.trial import apply_ease
from ..widgets.kind_looks import tag_of
from .action_states import ActionStates
from .areas import AREAS
from .context_menus import ContextMenus
from .desk import Desk
from .preview_memory import PREVIEW_RATES
from .recent import RecentFiles, keep_picture


def connect(desk: Desk) -> None:
    """Connect everything that is not connected by the panel that it belongs to, and be as it was left."""
    for each in (
        _scene_and_edit,
        _set,
        _camera_and_rig,
        _keys_and_ease,
        _film,
        _life,
        _checks,
        _sound,
        _play,
        _view_and_output,
        _signals,
    ):
        each(desk)
    desk.restore()


def _signals(desk: Desk) -> None:
    document, files, actions = desk.document, desk.files, desk.actions_
    ActionStates(document, actions, files, desk.frame)
    recent = QMenu("Recent", desk.frame)
    desk.menus["scene"].insertMenu(actions["scene.demo"], recent)
    RecentFiles(files, recent)
    desk.builder.closed.connect(lambda: desk.areas.show_numbers(desk.inspector))
    desk.board.visibilityChanged.connect(lambda on: actions["view.board"].setChecked(not desk.board.isHidden()))
    desk.areas.shown.connect(lambda area, on: actions[f"view.{area}"].setChecked(on))
    desk.top_bar.quality.currentIndexChanged.connect(desk.set_quality)
    desk.link.status.connect(desk.status.show_work)
    desk.commands.files_pasted.connect(desk.bring_in)
    files.put_away.connect(lambda path: _keep_picture(desk, path))
    desk.link.problems_changed.connect(desk.show_problems)
    desk.previews.shown.changed.connect(desk.lanes.view.update)
    for every in PREVIEW_RATES:
        desk.previews.rate_changed.connect(
            lambda now, every=every: actions[f"play.every_{every}"].setChecked(every == now)
        )
    desk.offers.find_wanted.connect(desk.open.missing)
    desk.offers.allowed.connect(desk.reload_artwork)
    desk.bringer.progressed.connect(desk.status.show_progress)
    desk.bringer.finished.connect(desk.came_in)
    desk.status.cancelled.connect(desk.bringer.cancel)
    desk.format_commands.progressed.connect(
        lambda done, total: desk.status.show_progress(done, total, "Working out the calmest way, shot")
    )
    desk.status.cancelled.connect(desk.format_commands.cancel)
    desk.watcher.changed.connect(desk.files_changed)
    ContextMenus(desk)
    desk.bringer.begun.connect(desk.playback.play)
    desk.lesson_bar.next.clicked.connect(lambda: desk.do_lesson(desk.lesson_bar.following))
    # A lesson is about its scene: with another one it is over.
    document.opened.connect(desk.lesson_run.leave)


def _keep_picture(desk: Desk, path: Path) -> None:
    """A scene is saved or let go: keep how it looks for the list of recent ones."""
    image = desk.lens.view.image
    if image is not None and desk.document.views.camera is not None:
        keep_picture(path, image)


def _scene_and_edit(desk: Desk) -> None:
    act, files, opener, commands = desk.actions_.connect, desk.files, desk.open, desk.commands
    document = desk.document
    act("scene.new", files.new)
    act("scene.begin", desk.begin_with_artwork)
    act("scene.open", files.ask_open)
    act("scene.demo", lambda: files.open(DEMO_SCENE, as_copy=True))
    act("scene.study", lambda: files.open(STUDY_SCENE, as_copy=True))
    act("scene.save", files.save)
    act("scene.save_as", files.ask_save_as)
    act("scene.settings", opener.settings)
    act("scene.preferences", lambda: opener.preferences(desk.previews))
    act("scene.quit", desk.frame.close)
    act("edit.undo", document.undo)
    act("edit.redo", document.redo)
    act("edit.history", opener.steps)
    act("edit.cut", commands.cut)
    act("edit.copy", commands.copy)
    act("edit.paste", commands.paste)
    act("edit.duplicate", commands.duplicate)
    act("edit.delete", desk.delete)
    act("edit.select_all", commands.select_all)
    act("edit.select_none", commands.select_none)


def _set(desk: Desk) -> None:
    act, opener, commands, place = desk.actions_.connect, desk.open, desk.commands, desk.set_commands
    act("set.bring", lambda: opener.files("best", desk.bring_in))
    for as_ in ("sequence", "layers", "logo", "projection"):
        act(f"set.{as_}", lambda as_=as_: opener.files(as_, desk.bring_in))
    for new in (*NEW_NODES, *NEW_IN_RIG):
        act(new.action.name, partial(add, desk.document, new))
    act("set.solo", place.solo)
    act("set.spread", opener.spread)
    act("set.fill", place.fill_frame)
    act("set.ground", place.stand_on_ground)
    act("set.one_to_one", place.to_frame_distance)
    act("set.snap", place.snap)
    act("set.face", lambda: place.face_camera(False))
    act("set.face_upright", lambda: place.face_camera(True))
    act("set.anchor_middle", lambda: place.anchor("in the middle", (0.5, 0.5, 0.5)))
    act("set.anchor_bottom", lambda: place.anchor("at the bottom", (0.5, 0.0, 0.5)))
    for line in ("x", "y", "depth"):
        act(f"set.align_{line}", lambda line=line: place.align(line))
        act(f"set.even_{line}", lambda line=line: place.distribute(line))
    act("set.replace", lambda: opener.replacement(place))
    act("set.stretch", opener.stretch)
    act("set.rename", desk.rename)
    act("set.hide", lambda checked: commands.toggle("hidden", "Hide", "Show"))
    act("set.lock", lambda checked: commands.toggle("locked", "Lock", "Unlock"))
    act("set.up", lambda: commands.move_in_list(-1))
    act("set.down", lambda: commands.move_in_list(1))
    act("set.missing", opener.missing)
    act("set.reload", desk.reload_artwork)


def _camera_and_rig(desk: Desk) -> None:
    act, opener, commands = desk.actions_.connect, desk.open, desk.commands
    act("camera.add", desk.add_camera)
    act("camera.look", commands.look_through_selected)
    act("camera.keep_move", opener.keep_move)
    act("camera.library", opener.moves)
    act("camera.offer", lambda: opener.moves(offering=True))
    act("rig.null", commands.null_at_selection)
    act("rig.null_middle", commands.null_in_middle)
    act("rig.null_aim", commands.null_at_aim)
    act("rig.carry", commands.hang_on_last)
    act("rig.free", commands.take_off)
    act("rig.aim_node", commands.aim_at_selected)
    act("rig.aim_point", commands.aim_at_point)
    act("rig.aim_none", commands.take_aim_away)
    rig = desk.rig_commands
    for recipe in RECIPES.values():
        act(recipe.action.name, partial(desk.build_rig, recipe.name))
    for bind in BIND_ACTIONS:
        act(bind.action.name, partial(bind.run, desk.bind_commands))
    act("rig.heights", lambda: opener.heights(rig.ground_from_picture))
    act("rig.surface", rig.ground_from_model)
    act("rig.lift", rig.lift_to_path)
    act("rig.lower", rig.lower_to_keys)
    act("rig.table", lambda: opener.table(rig.motion_from_table))
    act("rig.animation", lambda: opener.animation(rig.motion_from_model))
    act("rig.dial", desk.add_dial)


def _keys_and_ease(desk: Desk) -> None:
    act, document, commands, opener = desk.actions_.connect, desk.document, desk.commands, desk.open
    act("keys.auto", document.recorder.set_auto_key)
    act("keys.now", commands.key_selected)
    act("keys.pending", commands.key_pending)
    act("keys.discard", commands.discard_pending)
    act("keys.earlier", lambda: commands.nudge_keys(-1.0))
    act("keys.later", lambda: commands.nudge_keys(1.0))
    keys = desk.key_commands
    for name in ("insert", "hold_until", "jump", "reverse", "to_frames", "copy_pose", "paste_pose"):
        act(f"keys.{name}", getattr(keys, name))
    act("keys.stretch", lambda: opener.stretch_keys(keys.selected_keys("stretch")))
    for scope in SCOPES:
        act(f"keys.scope_{scope}", lambda on, scope=scope: document.recorder.set_scope(scope))
    act("keys.undo_last", document.recorder.undo_last_keys)
    act("keys.shift", keys.ask_shift)
    act("keys.ripple_earlier", lambda: keys.ripple(-1.0))
    act("keys.ripple_later", lambda: keys.ripple(1.0))
    act("keys.paste_onto", lambda: keys.paste_here(commands.clip, False))
    act("keys.paste_offset", lambda: keys.paste_here(commands.clip, True))
    for how in BEYOND:
        act(f"keys.beyond_{how}", lambda how=how: keys.loop(how))
    act("ease.copy", keys.copy_ease)
    act("ease.paste", keys.paste_ease)
    act("ease.even", keys.even_speed)
    act("ease.even_eased", lambda: keys.even_speed(eased=True))
    act("ease.match", keys.match_speed)
    act("ease.through", keys.run_through)
    act("ease.landing", keys.soft_landing)
    for name, span in (
        ("smooth", Flow("smooth")),
        ("hold", Hold()),
        ("linear", Linear()),
        ("flow", Flow()),
        ("both", Family("cubic", "in-out")),
    ):
        act(f"ease.{name}", lambda span=span: apply_ease(document, span))


def _film(desk: Desk) -> None:
    act, opener, shots, framings, live = (
        desk.actions_.connect,
        desk.open,
        desk.shot_commands,
        desk.framing_commands,
        desk.live,
    )
    for name in ("split", "swap", "duplicate", "remove", "replace", "ripple", "trim", "toggle_join", "moving"):
        act(f"film.{name}", getattr(shots, name))
    act("film.cut", lambda: shots.cut_here())
    act("film.blend", shots.blend_here)
    act("film.at_markers", lambda: shots.at_markers())
    act("film.at_beats", lambda: shots.at_markers("beat"))
    act("film.at_chapters", lambda: shots.at_markers("chapter"))
    act("film.run", opener.run_of_cuts)
    act("film.rules", opener.joining_rules)
    act("film.even", shots.even_speed)
    act("film.match", shots.match_speed)
    act("film.back", lambda: shots.go(False))
    act("film.forward", lambda: shots.go(True))
    act("film.select", desk.select_shot)
    act("film.show", shots.show_film)
    act("film.live", live.set_on)
    live.changed.connect(lambda: desk.actions_["film.live"].setChecked(live.on))
    act("film.keep", lambda: framings.keep())
    act("film.keep_before", lambda: framings.keep(before=True))
    act("film.update", framings.update)
    act("film.go", lambda: framings.go())
    act("film.glide", lambda: framings.glide())
    act("film.key_framing", framings.key)
    act("film.tour", lambda: framings.play_through())
    act("film.tour_loop", lambda: framings.play_through(loops=True))
    act("film.tour_back", lambda: framings.play_through(back=True))
    act("film.leave_tour", framings.leave_tour)
    act("film.event", shots.new_event)
    act("film.plain", shots.make_plain)


def _life(desk: Desk) -> None:
    act, movers = desk.actions_.connect, desk.mover_commands
    for kind in MOVER_KINDS:
        act(f"life.{tag_of(kind)}", partial(movers.add, kind))
    for number, name in enumerate(MOVER_PRESETS, 1):
        act(f"life.feels_{number}", partial(movers.add_preset, name))
    act("life.more", lambda: movers.scale_life(True))
    act("life.less", lambda: movers.scale_life(False))
    act("life.off", movers.toggle)
    act("life.copy", movers.copy)
    act("life.paste", movers.paste)
    act("life.keep", movers.keep)
    act("life.keys", movers.to_keys)
    act("life.back", movers.back)
    takes, opener = desk.take_commands, desk.open
    recorder = takes.recorder
    act("life.record", recorder.toggle)
    act("life.tracker", lambda on: recorder.set_source("tracker" if on else "hand"))
    recorder.changed.connect(lambda: desk.actions_["life.tracker"].setChecked(recorder.source == "tracker"))
    for name, run in (
        ("use", takes.toggle_use),
        ("frames", takes.onto_frames),
        ("mend", takes.mend),
        ("cut", lambda: takes.mend(cut=True)),
        ("nth", takes.every_nth),
        ("fewest", takes.fewest),
        ("stretch", takes.stretch),
        ("trim", takes.trim),
        ("join", takes.join),
        ("reverse", takes.reverse),
        ("here", takes.start_here),
        ("compare", takes.compare),
        ("remove_take", takes.remove),
    ):
        act(f"life.{name}", run)
    for grade in GRADES:
        act(f"life.{grade}", partial(takes.steady, grade))
    act("life.import", lambda: opener.take(takes.bring))
    act("life.export", lambda: opener.take_table(takes.export))
    takes.compare_wanted.connect(lambda: desk.lens.view.comparison.show(True))


def _checks(desk: Desk) -> None:
    act, checks = desk.actions_.connect, desk.check_commands
    for name, run in (
        ("next", lambda: checks.step(1)),
        ("previous", lambda: checks.step(-1)),
        ("fix", checks.try_fix),
        ("take", checks.take),
        ("leave", checks.leave),
        ("accept", checks.accept),
        ("subject", checks.toggle_subject),
        ("subject_more", desk.open.subject),
        ("line", checks.toggle_line),
        ("limits", lambda: desk.open.limits(checks)),
        ("window", desk.format_commands.add_window),
        ("follow", desk.format_commands.follow),
    ):
        act(f"check.{name}", run)
    act("check.background", lambda on: desk.checker.wake())

    def show(finding: Finding) -> None:
        desk.lanes.choose("checks")
        checks.choose(finding)

    desk.format_commands.lost.connect(show)
    desk.lens.formats.finding_chosen.connect(show)
    desk.lanes.chosen.connect(lambda name: desk.checker.wake())


def _sound(desk: Desk) -> None:
    act, sounds = desk.actions_.connect, desk.sound_commands
    act("play.sound", lambda: desk.open.sound(sounds.bring))
    act("play.sound_settings", lambda: desk.open.sound_settings(sounds))
    act("play.mute", desk.player.set_muted)
    act("play.beats", sounds.find)
    act("play.tap", sounds.tap)
    act("play.beats_twice", sounds.twice)
    act("play.beats_half", sounds.half)
    act("play.beat_markers", sounds.markers_on_beats)


def _play(desk: Desk) -> None:
    act, document, commands = desk.actions_.connect, desk.document, desk.commands
    act("play.toggle", desk.playback.toggle)
    act("play.loop", document.playhead.set_loop)
    act("play.back", lambda: commands.step(-1))
    act("play.forward", lambda: commands.step(1))
    act("play.key_back", lambda: commands.to_key(False))
    act("play.key_forward", lambda: commands.to_key(True))
    act("play.start", lambda: document.playhead.set_frame(document.playhead.range[0]))
    act("play.end", lambda: document.playhead.set_frame(document.playhead.range[1]))
    act("play.from", commands.range_from)
    act("play.to", commands.range_to)
    act("play.whole", lambda: document.playhead.set_play_range(None))
    for every in PREVIEW_RATES:
        act(f"play.every_{every}", lambda on, every=every: desk.previews.set_rate(every))
    act("play.memory", lambda: desk.open.preferences(desk.previews))
    markers = desk.marker_commands
    act("play.marker", markers.add)
    act("play.marker_name", markers.rename)
    act("play.marker_beat", lambda: markers.toggle_kind("beat"))
    act("play.marker_chapter", lambda: markers.toggle_kind("chapter"))
    act("play.marker_colour", markers.colour)
    act("play.marker_remove", markers.remove)
    act("play.marker_back", lambda: markers.go(False))
    act("play.marker_forward", lambda: markers.go(True))


def _view_and_output(desk: Desk) -> None:
    act, opener = desk.actions_.connect, desk.open
    act("view.board", desk.areas.show_board)
    lens = desk.lens.view
    for side in ("before", "after"):
        act(f"view.ghost_{side}", lambda on, side=side: lens.ghosts.show(side, on))
    act("view.compare", lens.comparison.show)
    act("view.flip", lens.comparison.flip)
    act("view.keep", desk.keep_version)
    lens.comparison.toggled.connect(desk.actions_["view.compare"].setChecked)
    formats = desk.format_commands
    for guide in GUIDES:
        act(f"view.{guide}", partial(formats.show_guide, guide))
    act("view.beyond", formats.show_mask)
    act("view.guides", opener.guides)
    act("view.onion", desk.overview.view.show_onion)
    for area in AREAS:
        desk.actions_[f"view.{area}"].setChecked(True)
        act(f"view.{area}", partial(desk.areas.show_area, area))
    act("view.swap", desk.areas.swap)
    act("view.full", desk.show_full)
    act("view.menus", desk.go_to_menus)
    act("view.renderer", desk.restart_renderer)
    act("output.export", opener.export)
    act("output.queue", opener.queue)
    act("output.move", opener.move)
    act("output.bundle", opener.bundle)
    act("output.gather", opener.gather)
    act("camera.bring", lambda: opener.camera(desk.bringer.bring_motion))
    act("film.bring", lambda: opener.cuts(desk.bringer.bring_motion))
    act("view.blurred", desk.lens.view.show_blurred)
    act("output.preview", lambda: opener.preview_movie(desk.previews.shown, desk.lens.view.wish))
    act("help.find", lambda: opener.actions(desk.actions_, "Find an action"))
    act("help.guide", opener.guide)
    act("help.lessons", lambda: opener.lessons(desk.told_lessons(), desk.do_lesson))
    act("help.shortcuts", lambda: opener.actions(desk.actions_, "Shortcuts"))
    act("help.log", opener.log_folder)
    act("help.about", lambda: opener.about(desk.link.renderer))
