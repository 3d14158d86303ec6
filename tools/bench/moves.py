"""Moves: fitted, offered, and the scene they are put in with many that remember."""

import time

import numpy as np
from msgspec.structs import replace

import wild_heron as wh
from wild_heron.checks import Measures
from wild_heron.checks.fit import fit
from wild_heron.demo import EXAMPLES
from wild_heron.edits.moves import put
from wild_heron.edits.moves.drafts import chosen, drafts
from wild_heron.edits.rigs import FrameRange
from wild_heron.files.move_files import shipped_moves
from wild_heron.process.checking import covering
from wild_heron.process.offering import Asked, offers
from wild_heron.scene import AnyNode
from wild_heron.scene.movers import Overshoot, Target

from .measuring import ms, report, timed

_OFFERS = 12


def _logo() -> tuple[wh.Scene, object, str]:
    example = next(each for each in EXAMPLES if each.name == "Logo landing")
    scene = wh.load(example.scene)
    subject = next(node.id for node in scene.nodes if node.serves_as("solid"))
    return scene, example.scene.parent, subject


def fitting() -> None:
    """Every shipped move fitted to a logo, beside checking its range once."""
    scene, base, subject = _logo()
    fits, checks = [], []
    with covering(base) as look:  # type: ignore[arg-type]
        for kept in shipped_moves():
            if kept.move.has_other:
                continue
            span = FrameRange(0.0, min(kept.move.frames, float(scene.settings.last)))
            made = put(scene, kept.move, subject, span)[0]
            measures = Measures(made)
            rows = np.arange(int(span.first), int(span.last) + 1)

            def check(made: wh.Scene = made, measures: Measures = measures, rows: np.ndarray = rows) -> None:
                measures.measure(made, rows)
                for row in rows.tolist():
                    look(made, measures, row)

            look(made, measures, 0)
            checks.append(timed(check))
            fits.append(timed(lambda kept=kept, span=span: fit(scene, kept.move, subject, span, look)))
    ratios = np.array(fits) / np.array(checks)
    line = f"{len(fits)} moves fitted to a logo, the middle one"
    report(line, ms(float(np.median(fits))), f"checking its range once {ms(float(np.median(checks)))}",
           float(np.median(ratios)), 3.0)  # fmt: skip
    report("The same, the slowest", ms(float(fits[int(ratios.argmax())])),
           f"checking its range once {ms(float(checks[int(ratios.argmax())]))}", float(ratios.max()), 3.0)  # fmt: skip


def offering() -> None:
    """Twelve offers with their films, beside one film as many times."""
    scene, base, subject = _logo()
    wanted = chosen(drafts([kept.move for kept in shipped_moves()], "calm", 0), _OFFERS)
    asked = Asked(scene, base, (), subject, FrameRange(0.0, 96.0))  # type: ignore[arg-type]
    started = time.perf_counter()
    first: list[float] = []
    offers(asked, wanted, True, lambda *_: first or first.append(time.perf_counter() - started))
    whole = time.perf_counter() - started
    one = timed(lambda: offers(asked, wanted[:1], False, lambda *_: None))
    report("Twelve offers, their first picture", ms(first[0]), "a second", first[0], 1.0, "s")
    report("Twelve offers, fitted and drawn", ms(whole), f"one small film {ms(one)}", whole / one, 12.0)


def remembering() -> None:
    """A frame of 300 things that swing, beside one of 100."""
    times = []
    for count in (300, 100):
        way = wh.Channel("position.x", 0.0, (wh.Key(0.0, 0.0), wh.Key(50.0, 3.0)))
        swing = Overshoot(targets=(Target("position.x"),), only_stops=False)
        nodes: list[AnyNode] = [
            wh.Null(id=f"n{k}", name=f"N{k}", channels=(way,), movers=(swing,)) for k in range(count)
        ]
        scene = replace(wh.Scene(), nodes=tuple(nodes))
        wh.evaluate(scene, [1.0])
        times.append(
            float(np.median([timed(lambda k=k, scene=scene: wh.evaluate(scene, [2.0 + k])) for k in range(5)]))
        )
    report("A frame of 300 things that swing", ms(times[0]), f"of 100 {ms(times[1])}", times[0] / times[1], 3.6)
