"""Offers: moves fitted to a subject in their set, each with a small film."""

from collections.abc import Callable, Iterator, Sequence
from contextlib import ExitStack, suppress
from pathlib import Path
from typing import NamedTuple

import numpy as np

from ..arrays import Pixels
from ..checks.fit import EVERYTHING, Change, Fitted, Look, fit
from ..edits.moves import put
from ..edits.moves.drafts import Draft
from ..edits.rigs import FrameRange
from ..gl.request import FrameRequest, ThroughLens
from ..scene import Scene, SceneError
from .checking import covering
from .client import RenderClient

FILM_FRAMES = 10
_MOMENTS = 4
_LONGER_SIDE = 208
_NICENESS = 5


class Asked(NamedTuple):
    """What offers are made for: a subject, a range, and where the move ends where it goes to another one."""

    scene: Scene
    base: Path | None
    allowed: tuple[str, ...]
    subject: str
    span: FrameRange
    other: str | None = None
    may: frozenset[str] = EVERYTHING


class Offer(NamedTuple):
    """A draft as it was fitted; None where it cannot be put there."""

    number: int
    draft: Draft
    fitted: Fitted | None

    @property
    def is_clean(self) -> bool:
        return self.fitted is not None and not self.fitted.left


class Cancelled(Exception):
    """It is wanted no more."""


def offers(
    asked: Asked,
    wanted: Sequence[Draft],
    fits: bool,
    tell: Callable[[Offer | None, int, Pixels | None], None],
    cancelled: Callable[[], bool] = lambda: False,
) -> list[Offer]:
    """Every draft fitted, or as it is, and drawn as a small film. ``tell`` gets each offer by its number as it is made,
    and each of its pictures as it is drawn. The work is done in the drafts' order, and so are the results, whatever
    takes how long; where it is ``cancelled``, what was made so far. RenderError where nothing can be drawn."""
    out: list[Offer] = []

    def step() -> None:
        if cancelled():
            raise Cancelled

    try:
        with ExitStack() as opened:
            client = opened.enter_context(RenderClient(niceness=_NICENESS))
            # It starts while the first pictures are drawn.
            look = opened.enter_context(covering(asked.base, asked.allowed)) if fits else None
            if fits:
                # One picture of each as it is, so that there is something to see while they are fitted.
                for number, draft in enumerate(wanted):
                    step()
                    with suppress(SceneError):
                        tell(None, number, _picture(client, asked, _fitted(asked, draft, None, step), 0.5))
            for number, draft in enumerate(wanted):
                step()
                try:
                    fitted = _fitted(asked, draft, look, step)
                except SceneError:
                    fitted = None
                offer = Offer(number, draft, fitted)
                out.append(offer)
                tell(offer, number, None)
                if fitted is not None:
                    for picture in film(client, asked, fitted):
                        step()
                        tell(None, number, picture)
    except Cancelled:
        pass
    return out


def _fitted(asked: Asked, draft: Draft, look: Look | None, step: Callable[[], None]) -> Fitted:
    if look is None:
        built = put(asked.scene, draft.move, asked.subject, asked.span, draft.how, asked.other)
        return Fitted(built, draft.how, asked.span, Change(), "as it is")
    return fit(
        asked.scene, draft.move, asked.subject, asked.span, look, draft.how, asked.other, asked.may, step, _MOMENTS
    )


def film(client: RenderClient, asked: Asked, fitted: Fitted) -> Iterator[Pixels]:
    """Small pictures (H, W, 4) of a move, evenly over it."""
    for share in np.linspace(0.0, 1.0, FILM_FRAMES).tolist():
        yield _picture(client, asked, fitted, share)


def _picture(client: RenderClient, asked: Asked, fitted: Fitted, share: float) -> Pixels:
    settings = asked.scene.settings
    scale = _LONGER_SIDE / max(settings.width, settings.height)
    size = max(16, round(settings.width * scale)), max(16, round(settings.height * scale))
    scene, ids = fitted.built
    client.set_scene(scene, asked.base, allowed=asked.allowed)
    frame = fitted.span.first + share * (fitted.span.last - fitted.span.first)
    return client.draw(FrameRequest(frame, ThroughLens(ids[-1], blurs=False), *size))


def ranked(found: Sequence[Offer]) -> list[Offer]:
    """Those that are clean first; otherwise in the order in which they were chosen. What could not be put is left
    out."""
    return sorted((each for each in found if each.fitted is not None), key=lambda each: not each.is_clean)
