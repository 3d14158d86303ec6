"""What is done about findings: going to them, trying fixes, accepting them; subjects, limits, and the line."""

from typing import Any

from msgspec.structs import replace
from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QInputDialog, QWidget

from ...checks import LIMITS, Finding
from ...checks.fixes import NEEDS_LOOK, Fix, fixes_for
from ...edits import applied_to
from ...edits.acceptances import accept, take_back
from ...process.messages import RenderError
from ...scene import LimitOfScene, Scene, SceneError, Subject
from ...scene.checks import Area
from ..state.background import Errand
from ..state.document import Document

_FORMAT_WORDS = {"frame": "frame", "action": "action area", "title": "title area"}


class CheckCommands(QObject):
    """Acts on the finding that is chosen, in the format that is looked at."""

    fixes_changed = pyqtSignal()

    def __init__(self, document: Document, window: QWidget) -> None:
        super().__init__()
        self._document, self._window = document, window
        self.fixes: dict[tuple[Any, ...], list[Fix]] = {}
        """By a finding's key, what puts it right in the scene as it is."""
        self._fixes_of: Scene | None = None
        self.tried: Fix | None = None
        self._tried_on = document.scene
        self.is_looking = False
        """Whether fixes of the chosen finding are being worked out."""
        self._errand: Errand | None = None
        document.changed.connect(self._scene_changed)
        document.checked.chosen_changed.connect(self.look_for_fixes)

    # Findings

    @property
    def findings(self) -> tuple[Finding, ...]:
        """Those of the format that is looked at, worst first, accepted ones last."""
        verdict = self._document.checked.of(self._document.views.format.name)
        return verdict.findings if verdict is not None else ()

    @property
    def chosen(self) -> Finding | None:
        key = self._document.checked.chosen
        return next((each for each in self.findings if each.key == key), None)

    def choose(self, finding: Finding | None, go: bool = True) -> None:
        """Choose a finding, and go to where it is worst."""
        self.leave()
        document = self._document
        document.checked.choose(finding)
        if finding is None:
            return
        if go:
            document.playhead.set_frame(finding.at)
        if finding.about in document.scene:
            document.selection.choose([finding.about])

    def step(self, by: int) -> None:
        """To the next finding that was not accepted, in the order of time, or to the one before."""
        waiting = sorted((each for each in self.findings if not each.accepted), key=lambda each: (each.at, each.title))
        if not waiting:
            done = self._document.checked.is_done
            self._document.messages.say("Nothing was found." if done else "Nothing was found so far.")
            return
        chosen = self.chosen
        if chosen in waiting:
            number = (waiting.index(chosen) + by) % len(waiting)
        else:
            frame = self._document.playhead.frame
            later = [k for k, each in enumerate(waiting) if each.at >= frame]
            number = later[0] if by > 0 and later else len(waiting) - 1 if by < 0 else 0
        self.choose(waiting[number])
        self._document.messages.say(f"{waiting[number].title}: {waiting[number].detail}")

    # Fixes

    def look_for_fixes(self) -> None:
        """Work out, in a thread, what puts the chosen finding right."""
        finding, scene = self.chosen, self._document.scene
        if finding is None or finding.accepted or scene is not self._document.checked.scene:
            return
        if self._fixes_of is not scene:
            self.fixes, self._fixes_of = {}, scene
        if finding.key in self.fixes or self._errand is not None:
            return

        base, allowed = self._document.file.base, self._document.file.allowed

        def work(errand: Errand) -> list[Fix]:
            try:
                if finding.kind in NEEDS_LOOK:
                    # What starts processes is loaded when it is needed.
                    from ...process.checking import looking

                    with looking(base, allowed) as look:
                        return fixes_for(scene, finding, look)
                return fixes_for(scene, finding)
            except RenderError:
                return []  # What the renderer has to say is said where the picture is drawn.

        def failed(problem: Exception) -> None:
            self._take_found(scene, finding.key, [])
            raise problem

        self.is_looking = True
        self.fixes_changed.emit()
        self._errand = self._document.background.start(
            "fixes", work, lambda found: self._take_found(scene, finding.key, found), failed=failed
        )

    def _take_found(self, scene: Scene, key: tuple[Any, ...], fixes: list[Fix]) -> None:
        self._errand = None
        self.is_looking = False
        if scene is self._fixes_of:
            self.fixes[key] = fixes
        self.fixes_changed.emit()
        self.look_for_fixes()

    def try_fix(self, fix: Fix | None = None) -> None:
        """Show a fix in all views, without changing anything; without one, the gentlest of the chosen finding."""
        finding = self.chosen
        if fix is None:
            known = self.fixes.get(finding.key) if finding is not None else None
            if not known:
                why = "Choose a finding first." if finding is None else "Nothing that was tried puts it right."
                self._document.messages.say("It is still being worked out." if self.is_looking else why, True)
                return
            fix = known[0]
        if fix is self.tried:
            self.leave()
            return
        self.tried, self._tried_on = fix, self._document.scene
        self._document.views.propose(fix.scene)
        self._document.messages.say(f"Shown: {fix.label}. X, T takes it; X, L leaves it as it is.")
        self.fixes_changed.emit()

    def take(self) -> None:
        """Make the fix that is shown a step."""
        fix = self.tried
        if fix is None:
            self._document.messages.say("No fix is shown. Choose a finding, and press one of its fixes.", True)
            return
        base = self._tried_on
        self.leave()
        if self._document.edit(fix.undo, lambda scene: applied_to(scene, base, fix.scene)):
            self._document.messages.say(f"{fix.undo}: {fix.label}")

    def leave(self) -> None:
        """Put the fix that is shown away."""
        if self.tried is not None:
            self.tried = None
            self._document.views.propose(None)
            self.fixes_changed.emit()

    def _scene_changed(self) -> None:
        document, fix = self._document, self.tried
        if fix is None:
            return
        if not document.views.is_proposing:
            self.tried = None
            self.fixes_changed.emit()
        elif document.scene is not self._tried_on:
            # It is shown over what was edited since, as it will be taken.
            try:
                scene = applied_to(document.scene, self._tried_on, fix.scene)
            except SceneError as problem:
                self.leave()
                document.messages.say(str(problem), True)
                return
            self.tried, self._tried_on = fix._replace(scene=scene), document.scene
            document.views.propose(scene)

    # Accepting

    def accept(self) -> None:
        """The chosen finding is as it should be, with a note; or it is one again."""
        finding = self.chosen
        if finding is None:
            self._document.messages.say("Choose a finding first.", True)
            return
        if finding.accepted:
            self._document.edit("Take an acceptance back", lambda scene: take_back(scene, finding.here))
            return
        note, accepted = QInputDialog.getText(self._window, "Accept the finding", f"{finding.title}\n\nWhy is it well?")
        if accepted:
            self.accept_with(finding, note.strip()[:2000])

    def accept_with(self, finding: Finding, note: str) -> None:
        self.leave()
        self._document.edit("Accept a finding", lambda scene: accept(scene, finding.acceptance(note)))

    # Subjects, line, limits

    def toggle_subject(self) -> None:
        """What is selected is looked after, or no more."""
        document = self._document
        chosen = document.selection.nodes
        if not chosen:
            document.messages.say("Select what is to stay in the frame.", True)
            return
        kept = {each.node for each in document.scene.checks.subjects}
        gone = set(chosen) <= kept

        def change(scene: Scene) -> Scene:
            own = scene.checks.subjects
            if gone:
                subjects = tuple(each for each in own if each.node not in chosen)
            else:
                subjects = (*own, *(Subject(each) for each in chosen if each not in kept))
            return replace(scene, checks=replace(scene.checks, subjects=subjects))

        if document.edit("Leave a subject out of the checks" if gone else "Keep a subject in frame", change):
            name = document.scene.node(chosen[-1]).name
            names = name if len(chosen) == 1 else f"{name} and {len(chosen) - 1} more"
            said = "Checks no longer look after" if gone else "Checks look after"
            document.messages.say(
                f"{said} {names}." + ("" if gone else " X, Shift+S says how; X, V lets a format follow.")
            )

    def set_area(self, node_id: str, area: Area) -> None:
        """In which part of the frame a subject is to stay."""

        def change(scene: Scene) -> Scene:
            own = (replace(each, area=area) if each.node == node_id else each for each in scene.checks.subjects)
            return replace(scene, checks=replace(scene.checks, subjects=tuple(own)))

        self._document.edit(f"Keep a subject in the {_FORMAT_WORDS[area]}", change)

    def toggle_line(self) -> None:
        """The line between the two selected nodes is not to be crossed; or, while they have one, it may be again."""
        document = self._document
        chosen = tuple(document.selection.nodes)
        line = document.scene.checks.line
        if line is not None and (set(chosen) == set(line) or len(chosen) != 2):
            document.edit("Let cuts cross the line", lambda scene: _with_checks(scene, line=None))
        elif len(chosen) != 2:
            document.messages.say("Select the two nodes that face each other; no cut is to cross the line.", True)
        else:
            document.edit("Keep to one side of the line", lambda scene: _with_checks(scene, line=chosen))

    def set_limit(self, name: str, value: float | None) -> None:
        """Hold this scene to another limit; None: to the usual one."""
        limit = LIMITS[name]
        if value is not None and not limit.low <= value <= limit.high:
            low, high = limit.low * limit.shown, limit.high * limit.shown
            raise SceneError(f"{limit.label}: use {low:g} to {high:g} {limit.unit}.")

        def change(scene: Scene) -> Scene:
            others = tuple(each for each in scene.checks.limits if each.name != name)
            same = value is None or abs(value - limit.value) < 1e-12
            return _with_checks(scene, limits=others if same else (*others, LimitOfScene(name, float(value or 0.0))))

        self._document.edit(f"Limit: {limit.label.lower()}", change)

    def switch(self, check: str) -> None:
        """Make a check, or do not."""
        off = self._document.scene.checks.off
        fresh = tuple(each for each in off if each != check) if check in off else (*off, check)
        self._document.edit("Switch a check", lambda scene: _with_checks(scene, off=fresh))

    def stop(self) -> None:
        self._document.background.let_go(self._errand)


def _with_checks(scene: Scene, **fields: Any) -> Scene:
    return replace(scene, checks=replace(scene.checks, **fields))
