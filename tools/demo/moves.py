"""``python -m demo.moves``: writes the moves that ship with the program. A unit is the height of the subject."""

from typing import Any

import wild_heron as wh
from wild_heron.files.move_files import SHIPPED_FOLDER, SUFFIX, save_move
from wild_heron.scene.movers import Lag, Oscillator, Overshoot, Shake, Target
from wild_heron.scene.moves import BASE, OTHER, SUBJECT, Move

NEAR = 3.0
"""From here a subject fills a little more than half of the frame's height through the usual lens."""
SOFT = wh.Family("sine", "in-out")
LANDS = wh.Family("cubic", "out")
REED, AMBER, SKY = "#8fbf9f", "#f2c25b", "#7fb2c9"
Keys = tuple[tuple[float, float], ...]


def ch(name: str, *keys: tuple[float, float] | float, span: wh.Span = SOFT) -> wh.Channel:
    """A channel that stays, or has keys of one span."""
    if isinstance(keys[0], int | float):
        return wh.Channel(name, float(keys[0]))
    made = tuple(wh.Key(float(frame), float(value), span) for frame, value in keys)  # type: ignore[misc]
    return wh.Channel(name, made[0].value, made)


def _sorted(*channels: wh.Channel) -> tuple[wh.Channel, ...]:
    return tuple(sorted(channels, key=lambda each: each.name))


def cam(*channels: wh.Channel, aim: str | None = None, carrier: str | None = None, **more: Any) -> wh.Camera:
    binds = (wh.AimAt((aim,)),) if aim is not None else ()
    return wh.Camera(id="camera", name="Camera", channels=_sorted(*channels), binds=binds, carrier=carrier, **more)


def null(node_id: str, *channels: wh.Channel, carrier: str | None = None, **more: Any) -> wh.Null:
    return wh.Null(
        id=node_id, name=node_id.capitalize(), channels=_sorted(*channels), colour=REED, carrier=carrier, **more
    )  # fmt: skip


def move(name: str, line: str, frames: int, *nodes: wh.Null | wh.Camera, tags: str, **more: Any) -> Move:
    return Move(
        name=name, line=line, tags=tuple(tags.split()), frames=float(frames), nodes=nodes, camera="camera",
        **{"focuses": True} | more,
    )  # fmt: skip


def drift(way: str, across: float, up: float) -> Move:
    """Steady, so that it can be cut anywhere."""
    keys = [
        ch(f"position.{axis}", (0, -by), (120, by), span=wh.Linear()) for axis, by in (("x", across), ("y", up)) if by
    ]
    return move(f"Drift {way}", f"A slow, even glide {way}: keeps a still picture alive.", 120,
                cam(*keys, ch("position.z", 3.3)), tags="calm drift", rest="middle")  # fmt: skip


def arc(way: str, sign: float) -> Move:
    turn = null("turn", ch("rotation.y", (0, -15 * sign), (96, 15 * sign)))
    return move(f"Arc {way}", f"Goes {way} about the subject, which stays in the middle.", 96,
                turn, cam(ch("position.z", NEAR), carrier="turn"), tags="calm turn", rest="middle")  # fmt: skip


def moves() -> dict[str, Move]:
    """By the names of their files, in the order of the library."""
    listed = [
        move("Push in", "Comes nearer: what you see now matters.", 96,
             cam(ch("position.z", (0, 4.4), (96, NEAR))), tags="calm push"),
        move("Pull out", "Goes back from a detail and shows what it belongs to.", 96,
             cam(ch("position.z", (0, 2.3), (96, 4.4))), tags="calm push", rest="start"),
        drift("left", -0.3, 0.0),
        drift("right", 0.3, 0.0),
        drift("up", 0.0, 0.2),
        drift("down", 0.0, -0.2),
        move("Rise over", "Climbs and looks down: from among the things to above them.", 120,
             null("turn", ch("rotation.x", (0, 4), (120, -38))),
             cam(ch("position.z", (0, NEAR), (120, 3.6)), carrier="turn"), tags="calm crane", rest="start"),
        move("Crane down", "Comes down from above and arrives level with the subject.", 108,
             cam(ch("position.y", (0, 1.7), (108, 0)), ch("position.z", (0, 3.8), (108, NEAR)), aim=BASE),
             tags="calm crane"),
        arc("left", -1.0),
        arc("right", 1.0),
        move("Half turn", "Half way round, from one side to the other.", 168,
             null("turn", ch("rotation.y", (0, -90), (168, 90)), ch("rotation.x", -8)),
             cam(ch("position.z", 3.4), carrier="turn"), tags="lively turn", rest="middle"),
        move("Full turn", "Once round, evenly: it loops.", 240,
             null("turn", ch("rotation.y", (0, 0), (240, 360), span=wh.Linear()), ch("rotation.x", -8)),
             cam(ch("position.z", 3.4), carrier="turn"), tags="calm turn loop", rest="start"),
        move("Swing in and settle", "Swings in from the side, past its place, and settles.", 108,
             null("turn", ch("rotation.y", (0, 42), (54, 0), span=wh.Family("quad", "in")),
                  movers=(Overshoot(targets=(Target("rotation.y"),), bounce=0.25, speed=0.9),)),
             cam(ch("position.z", (0, 4.2), (54, NEAR)), carrier="turn"), tags="lively turn"),
        move("Slide out from behind", "Slides sideways out from behind whatever stands before the subject.", 96,
             cam(ch("position.x", (0, -1.5), (96, 0), span=LANDS), ch("position.z", (0, 2.7), (96, NEAR)), aim=BASE),
             tags="lively reveal"),
        move("Through the layers", "Flies in through what stands before the subject.", 120,
             cam(ch("position.z", (0, 10), (120, NEAR), span=wh.Family("cubic", "in-out"))), tags="bold push"),
        move("Hold size, open the lens", "The subject keeps its size while the world behind it stretches.", 120,
             cam(ch("lens.focal", (0, 70), (120, 24)), ch("position.z", (0, 6.3), (120, 6.3 * 24 / 70))),
             tags="bold lens"),
        move("Look up along", "From low before the subject, up along it.", 96,
             cam(ch("position.y", -0.4), ch("position.z", NEAR), ch("rotation.x", (0, -14), (96, 7.6))),
             tags="lively look"),
        move("Roll in", "Comes in tilted and rights itself.", 84,
             cam(ch("position.z", (0, 4.4), (84, NEAR)), ch("rotation.z", (0, 16), (84, 0))), tags="bold roll"),
        move("Whip to", "Whips from one subject to another one.", 60,
             null("trolley", ch("to.strength", (16, 0), (36, 1), span=wh.Family("cubic", "in-out")),
                  binds=(wh.Match(OTHER, id="to"),)),
             null("look", ch("to.strength", (12, 0), (30, 1), span=wh.Family("cubic", "in-out")),
                  binds=(wh.Match(OTHER, id="to"),)),
             cam(ch("position.z", NEAR), ch("lens.focus", NEAR), aim="look", carrier="trolley"),
             tags="bold two", focuses=False),
        move("Follow along", "Goes along with something that moves, a little late.", 120,
             null("trail", movers=(Lag(targets=(Target("position.x"), Target("position.y"), Target("position.z")),
                                       delay=0.25, space="world"),)),
             cam(ch("position.x", 0.5), ch("position.y", 0.2), ch("position.z", 3.6), ch("lens.focus", 3.6),
                 aim=SUBJECT, carrier="trail"),
             tags="lively follow", along="place", focuses=False),
        move("Pull back to all of it", "From the subject back to the whole set.", 144,
             cam(ch("position.y", (0, 0), (144, 0.5)), ch("position.z", (0, 2.4), (144, 7.5)), aim=BASE),
             tags="bold push", rest="start"),
        move("Hop", "From one side to the other, over the top.", 60,
             cam(ch("position.x", (0, -1.2), (60, 1.2)), ch("position.z", NEAR),
                 wh.Channel("position.y", 0.0, (wh.Key(0.0, 0.0, wh.Family("sine", "out")),
                                                wh.Key(30.0, 0.9, wh.Family("sine", "in")), wh.Key(60.0, 0.0))),
                 aim=BASE), tags="lively", smooth=False, rest="middle"),
        move("Two-beat nudge", "A small step nearer on each of two beats.", 24,
             cam(wh.Channel("position.z", 3.3, (wh.Key(0.0, 3.3, wh.Family("expo", "out")), wh.Key(12.0, 3.15, wh.Family("expo", "out")), wh.Key(24.0, NEAR)))),
             tags="lively beat", beats=2.0, smooth=False),
        move("Breathing hold", "Stands, and breathes.", 192,
             cam(ch("position.z", NEAR), movers=(
                 Oscillator(targets=(Target("position.z", 0.03), Target("position.y", 0.008)), period=4.0),)),
             tags="calm hold"),
        move("Hand-held look", "As held in the hand by somebody who looks on.", 144,
             cam(ch("position.z", (0, 3.2), (144, 3.05)), movers=(
                 Shake(targets=(Target("position.x", 0.03), Target("position.y", 0.02), Target("rotation.x", 0.35),
                                Target("rotation.y", 0.35), Target("rotation.z", 0.4)), period=1.6, octaves=2),)),
             tags="lively hand"),
        move("Land on the logo", "Comes in from far and above, turns to the front, and lands softly.", 120,
             null("turn", ch("rotation.x", (0, -32), (120, 0), span=wh.Family("quint", "out")),
                  ch("rotation.y", (0, 48), (120, 0), span=wh.Family("quint", "out"))),
             cam(ch("position.z", (0, 7), (120, NEAR), span=wh.Family("quint", "out")), carrier="turn"),
             tags="bold logo"),
    ]  # fmt: skip
    return {f"{number:02d}-{each.name.lower().replace(',', '').replace(' ', '-')}": each
            for number, each in enumerate(listed, 1)}  # fmt: skip


def main() -> None:
    SHIPPED_FOLDER.mkdir(exist_ok=True)
    for old in SHIPPED_FOLDER.glob(f"*{SUFFIX}"):
        old.unlink()
    for name, each in moves().items():
        save_move(each, SHIPPED_FOLDER / f"{name}{SUFFIX}")


if __name__ == "__main__":
    main()
