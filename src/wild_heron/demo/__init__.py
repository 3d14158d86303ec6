"""The scenes that ship: the opening of the Emberfold Lantern Fair, a paper theatre, and small ones to take apart."""

from pathlib import Path
from typing import NamedTuple

_HERE = Path(__file__).parent

DEMO_SCENE = _HERE / "lantern-fair.heron"
"""The shipped scene file; its artwork lies beside it in ``art``."""

STUDY_SCENE = _HERE / "ease-study.heron"
"""One move at the fair three times: flat, before it is shaped, and after."""


class Example(NamedTuple):
    """A shipped scene that is opened as a copy: a line about it, and a small picture of it."""

    name: str
    about: str
    scene: Path
    picture: Path


def _example(name: str, about: str, scene: Path) -> Example:
    return Example(name, about, scene, _HERE / "pictures" / f"{scene.stem}.png")


EXAMPLES = (
    _example("Lantern Fair", "A film of nine shots", DEMO_SCENE),
    _example("Logo landing", "A circle, and it settles", _HERE / "logo-landing.heron"),
    _example("Product", "Orbit, push, two cuts", _HERE / "product.heron"),
    _example("Photograph", "Walls for one picture", _HERE / "photograph.heron"),
    _example("Vertical", "From a wide film", _HERE / "vertical.heron"),
    _example("Steadied", "A move recorded by hand", _HERE / "steadied.heron"),
)
