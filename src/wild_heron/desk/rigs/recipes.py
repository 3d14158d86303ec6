"""What each rig command asks, and what it makes of the answers. Free of Qt."""

from collections.abc import Callable, Mapping, Sequence
from typing import Any, Literal

import msgspec

from ...edits import baking, rigs
from ...edits.rigs import Built, FrameRange, Variant
from ...scene import AnyNode, Scene, SceneError
from ...scene.channels import POSITION, ChannelSpec
from ...scene.output import output_camera
from ...scene.types import Role, UnitName
from ..commands.action_spec import ActionSpec

Answers = Mapping[str, Any]
Kind = Literal["number", "choice", "node"]


class Question(msgspec.Struct, frozen=True):
    """One thing a command asks: a number, one of a few words, or a node (of some kinds, perhaps none)."""

    name: str
    label: str
    kind: Kind = "number"
    unit: UnitName = "units"
    default: Any = 0.0
    low: float = -1e6
    high: float = 1e6
    nudge: float = 0.1
    choices: tuple[tuple[Any, str], ...] = ()
    role: Role | None = None
    """What the node has to serve as."""
    none: str = ""
    """What no node is called where none may be chosen."""

    @property
    def spec(self) -> ChannelSpec:
        return ChannelSpec(self.name, self.label, self.unit, float(self.default), self.low, self.high, self.nudge)


class Recipe(msgspec.Struct, frozen=True):
    """A rig command: its action, what it is for, what it asks, and how it builds."""

    action: ActionSpec
    words: str
    asks: tuple[Question, ...]
    build: Callable[[Scene, float, Answers], Built]
    done: str = ""
    """What to do next, once it stands."""

    @property
    def name(self) -> str:
        return self.action.name.partition(".")[2]

    @property
    def title(self) -> str:
        return self.action.text.rstrip("…")


_CAMERA = Question("camera", "Camera", "node", role="camera")
_SUBJECT = Question("subject", "Around", "node", none="what it looks at")
_SPAN = (
    Question("first", "From frame", unit="count", default=0.0, nudge=1.0),
    Question("last", "To frame", unit="count", default=239.0, nudge=1.0),
)


def _span(answers: Answers) -> FrameRange:
    first, last = float(answers["first"]), float(answers["last"])
    if last <= first:
        raise SceneError("The span must end after it starts.")
    return FrameRange(first, last)


def _targets(answers: Answers, name: str = "subject") -> Sequence[str]:
    chosen = answers.get(name)
    return [chosen] if chosen else []


def _needed(answers: Answers, name: str, what: str) -> str:
    if not answers.get(name):
        raise SceneError(f"Choose {what}.")
    return str(answers[name])


def _camera(answers: Answers) -> str:
    return _needed(answers, "camera", "a camera; Camera ▸ Add camera makes one")


def _orbit(scene: Scene, frame: float, a: Answers) -> Built:
    return rigs.orbit(scene, _camera(a), _targets(a), frame, float(a["turns"]), _span(a))


def _base(scene: Scene, frame: float, a: Answers) -> Built:
    return rigs.base_turn_arm(scene, _camera(a), _targets(a), frame)


def _ring(scene: Scene, frame: float, a: Answers) -> Built:
    return rigs.ring(scene, _camera(a), _targets(a), frame)


def _drift(scene: Scene, frame: float, a: Answers) -> Built:
    built, ids = rigs.drift(
        scene, _camera(a), frame, a["axis"], float(a["speed"]), a["per"] == "span", float(a["turn"]), _span(a)
    )
    count = round(float(a["variants"]))
    if count:
        others = [Variant(float(a["lift"]) * k, float(a["tilt"]) * k, float(a["lens"])) for k in range(1, count + 1)]
        built, more = rigs.variants(built, ids[-1], others)
        ids = (*ids, *more)
    return built, ids


def _crane(scene: Scene, frame: float, a: Answers) -> Built:
    return rigs.crane(scene, _camera(a), _targets(a), frame)


def _path_ride(scene: Scene, frame: float, a: Answers) -> Built:
    return rigs.path_ride(scene, _camera(a), a.get("path"), frame, a.get("aim"), _span(a))


def _ground_ride(scene: Scene, frame: float, a: Answers) -> Built:
    ground = _needed(a, "ground", "a ground; Rig ▸ New ground makes one")
    return rigs.ground_ride(scene, _camera(a), ground, frame, float(a["height"]), float(a["tilt"]))


def _follow(scene: Scene, frame: float, a: Answers) -> Built:
    target = _needed(a, "target", "a node to follow")
    lag = float(a["lag"])
    return rigs.follow(scene, _camera(a), target, a["way"], float(a["nearest"]), float(a["farthest"]), lag)


def _hop(scene: Scene, frame: float, a: Answers) -> Built:
    return rigs.hop_over(scene, _camera(a), _needed(a, "subject", "what to hop over"), a.get("end"), frame, _span(a))


def _hold(scene: Scene, frame: float, a: Answers) -> Built:
    scene, _ = baking.hold_size(scene, _camera(a), _needed(a, "subject", "the subject"), _span(a))
    return scene, (_camera(a),)


def _dissolve(scene: Scene, frame: float, a: Answers) -> Built:
    allowed = baking.Tolerance(float(a["units"]), float(a["degrees"]))
    node = _needed(a, "node", "what to take off its rig")
    return baking.dissolve(scene, [node], _span(a), allowed, a["keep"] == "both")


def _action(name: str, text: str, tip: str, shortcut: str, gap: bool = False) -> ActionSpec:
    return ActionSpec(name, text, tip, shortcut, gap=gap, sub="Build a rig")


RECIPES = {
    each.name: each
    for each in (
        Recipe(
            _action("rig.orbit", "Orbit…", "Put the camera on an arm around the middle of the selection", "R, O", gap=True), "A null in the middle, the camera out on an arm. One angle turns, one lifts.",
            (_CAMERA, _SUBJECT, Question("turns", "Turns", unit="factor", nudge=0.25), *_SPAN), _orbit,
            "Its y angle turns; the lift's x angle lifts; the camera's z is the distance.",
        ),
        Recipe(
            _action("rig.base", "Base, turn, arm…", "A base that moves everything, a turn on it, an arm that pushes in, and an aim", "R, B"), "A base that moves everything, a turn on it, an arm that pushes in, and an aim.",
            (_CAMERA, _SUBJECT), _base, "Turn: y angle. Arm: z. Base: where all of it is.",
        ),
        Recipe(
            _action("rig.ring", "Ring…", "Put the camera on a circle with dials for height, radius and turn", "R, R"), "The camera on a circle whose height, radius and turn are three dials.",
            (_CAMERA, _SUBJECT), _ring, "Its three dials are on the board.",
        ),
        Recipe(
            _action("rig.drift", "Drift…", "Travel steadily along an axis, turning slowly", "R, D"), "Steady travel along an axis of the picture, with a slow turn, and versions of it.",
            (
                _CAMERA,
                Question("axis", "Along", "choice", default="x", choices=(("x", "across"), ("y", "up"), ("z", "towards us"))),
                Question("speed", "Speed", default=0.2, nudge=0.02),
                Question("per", "Counted", "choice", default="second", choices=(("second", "per second"), ("span", "over the span"))),
                Question("turn", "Slow turn", unit="degrees", nudge=0.5), *_SPAN,
                Question("variants", "More versions", unit="count", low=0, high=8, nudge=1.0),
                Question("lift", "Each higher by", default=0.6), Question("tilt", "Each tilted by", unit="degrees", default=-3.0, nudge=0.5),
                Question("lens", "Lens (0: same)", unit="mm", low=0.0, high=5000.0, nudge=1.0),
            ), _drift, "Its keys are two, and linear.",
        ),
        Recipe(
            _action("rig.crane", "Crane…", "Put the camera at the end of a boom on a post", "R, C"), "A post, a boom that raises, and the camera level at its end.", (_CAMERA, _SUBJECT), _crane,
            "The boom's x angle raises; the post's y angle swings.",
        ),
        Recipe(
            _action("rig.path", "Path ride…", "Move the camera along a path from end to end", "R, P"), "The camera on a path from end to end, looking along it or at a node.",
            (
                _CAMERA, Question("path", "Path", "node", role="path", none="a new circle"),
                Question("aim", "Looks at", "node", none="along the path"), *_SPAN,
            ), _path_ride, "Progress is one lane: shape and timing are two things.",
        ),
        Recipe(
            _action("rig.ground", "Ground ride…", "Carry the camera at eye height over a ground", "R, G"), "Carried at eye height over a ground, with a roll reference above.",
            (
                _CAMERA, Question("ground", "Ground", "node", role="ground"), Question("height", "Eye height", default=1.6, low=0.0),
                Question("tilt", "Tilts with it", unit="share", default=0.35, low=0.0, high=1.0, nudge=0.01),
            ), _ground_ride, "Key where the carrier goes; the ground does the rest.",
        ),
        Recipe(
            _action("rig.follow", "Follow…", "Keep the camera within two distances of a moving node", "R, F"), "Stay between two distances from a moving node, and look at it.",
            (
                _CAMERA, Question("target", "Node", "node"),
                Question("way", "From", "choice", default="behind", choices=(("behind", "behind"), ("fixed", "this side"))),
                Question("nearest", "Nearest", default=4.0, low=0.0), Question("farthest", "Farthest", default=7.0, low=0.0),
                Question("lag", "Lag", unit="seconds", default=0.3, low=0.0, high=60.0, nudge=0.05),
            ), _follow, "Lag is a half-life: the same however you scrub.",
        ),
        Recipe(
            _action("rig.hop", "Hop over…", "Move from one side of a subject over its top to the other", "R, V"), "From one side of a subject over its top to the other, at a kept distance.",
            (_CAMERA, Question("subject", "Over", "node"), Question("end", "Ends on", "node", none="the same"), *_SPAN), _hop,
            "One angle hops; the roll brings it down upright.",
        ),
        Recipe(
            _action("rig.hold", "Hold size…", "Keep a subject's size in the frame while distance or lens changes", "R, S"), "Keep a subject's size in frame: the distance follows the lens, or the lens the distance.",
            (_CAMERA, Question("subject", "Subject", "node"), *_SPAN), _hold, "Play it: the subject keeps its size.",
        ),
        Recipe(
            _action("rig.dissolve", "Dissolve a rig…", "Turn a rig into as few keys as make the same move", "R, X"), "As few keys of its own as make the same move, without carriers and binds.",
            (
                Question("node", "Node", "node"), *_SPAN, Question("units", "Within", default=0.005, low=1e-6, nudge=0.001),
                Question("degrees", "and within", unit="degrees", default=0.05, low=1e-6, nudge=0.01),
                Question("keep", "Leaves", "choice", default="one", choices=(("one", "the baked one"), ("both", "both"))),
            ), _dissolve, "Its keys are its own.",
        ),
    )
}  # fmt: skip


def first_answers(recipe: Recipe, scene: Scene, selection: Sequence[str]) -> dict[str, Any]:
    """What a command starts with: the selection and the scene's camera and span where they fit."""
    chosen = [scene.node(node_id) for node_id in selection if node_id in scene]
    answers: dict[str, Any] = {}
    taken: set[str] = set()
    for ask in recipe.asks:
        if ask.kind == "node":
            answers[ask.name] = _first_node(ask, scene, chosen, taken)
            taken.add(answers[ask.name] or "")
        elif ask.name == "first":
            answers[ask.name] = float(scene.settings.first)
        elif ask.name == "last":
            answers[ask.name] = float(scene.settings.last)
        else:
            answers[ask.name] = ask.default
    return answers


def _first_node(ask: Question, scene: Scene, chosen: list[AnyNode], taken: set[str]) -> str | None:
    fitting = [each for each in choices_of(ask, scene) if each is not None]
    for node in reversed(chosen):
        if (
            node.id in fitting
            and node.id not in taken
            and (ask.role or not node.serves_as("camera") or ask.name == "node")
        ):
            return node.id
    if ask.role == "camera":
        return output_camera(scene) or (fitting[0] if fitting else None)
    if ask.none and not ask.role:
        return None
    if ask.role:
        return fitting[0] if fitting else None
    if ask.name == "node":
        return output_camera(scene)
    moving = [each for each in fitting if _moves(scene.node(each)) and each not in taken]
    return moving[0] if moving and ask.name == "target" else None


def _moves(node: AnyNode) -> bool:
    return not node.serves_as("camera") and any(channel.keys and channel.name in POSITION for channel in node.channels)


def choices_of(ask: Question, scene: Scene) -> list[str | None]:
    """The nodes that an answer can be, None where it can be none."""
    fitting: list[str | None] = [None] if ask.none else []
    for node in scene.nodes:
        if ask.role is None or node.serves_as(ask.role):
            fitting.append(node.id)
    return fitting
