"""Packages that the program does without until what they are for is wanted."""

from collections.abc import Iterator
from contextlib import contextmanager

from ..scene import SceneError


class MissingExtra(SceneError):
    """A package is wanted that is not installed: ``what`` is told of a file that needs it, ``remedy`` installs it."""

    def __init__(self, uses: str, package: str, extra: str) -> None:
        self.what = f"needs the package {package}, which is not installed."
        self.remedy = f"Install {package}, or wild_heron[{extra}], and start Wild Heron again."
        super().__init__(f"{uses} need the package {package}, which is not installed. {self.remedy}")


EXTRAS = {
    "pxr": ("USD files", "usd-core", "usd"),
    "opentimelineio": ("Timelines (.otio)", "opentimelineio", "timelines"),
    "OpenEXR": ("EXR files", "OpenEXR", "exr"),
}
"""By the module that is imported: what it is for, the package that brings it, and the extra of ours for it."""


@contextmanager
def needing() -> Iterator[None]:
    """Around the import of such a package: MissingExtra where it is not installed."""
    try:
        yield
    except ModuleNotFoundError as problem:
        known = EXTRAS.get((problem.name or "").partition(".")[0])
        if known is None:
            raise
        raise MissingExtra(*known) from problem
