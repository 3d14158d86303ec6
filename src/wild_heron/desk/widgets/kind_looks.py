"""What kinds of things look like, and by which letter they are made: one table for each family, by the tag in files."""

from typing import NamedTuple

from .theme import AMBER, REED, RUST, SKY, SOFT


class MoverLook(NamedTuple):
    """``letter``: after L, makes one. ``tone``: of its dot and its graph."""

    letter: str
    tone: str

    @property
    def keys(self) -> str:
        """The shortcut that makes one; "" for none."""
        return f"L, {self.letter}" if self.letter else ""


MOVER_LOOKS = {
    "oscillator": MoverLook("O", SKY),
    "rate": MoverLook("R", REED),
    "shake": MoverLook("S", SKY),
    "overshoot": MoverLook("V", AMBER),
    "lag": MoverLook("G", AMBER),
    "limiter": MoverLook("I", SOFT),
    "steps": MoverLook("N", SOFT),
    "impact": MoverLook("P", RUST),
}

_PLAIN = MoverLook("", SOFT)


def mover_look(kind: type) -> MoverLook:
    """The look of a kind of mover; one without a letter and in no colour of its own where the table has none."""
    return MOVER_LOOKS.get(tag_of(kind), _PLAIN)


def tag_of(kind: type) -> str:
    """What a kind is called in files and actions."""
    return str(kind.__struct_config__.tag)  # type: ignore[attr-defined]
