"""The system's libraries that the program needs: whether they are there, and which package brings one that is not."""

import ctypes
import re
from collections.abc import Iterable
from pathlib import Path
from typing import NamedTuple

_TABLE = Path(__file__).with_name("libraries.txt")
_NAMED = re.compile(r"\b(lib[\w+.-]+?\.so(?:\.\d+)*)")


class Library(NamedTuple):
    """A shared library by its file's name, and the packages that bring it."""

    name: str
    debian: str
    fedora: str
    arch: str

    @property
    def remedy(self) -> str:
        """What is to be installed, as a sentence."""
        if self.fedora == self.arch and self.fedora != self.debian:
            return f"Install {self.debian} (Debian, Ubuntu) or {self.arch} (Fedora, Arch)."
        return f"Install {self.debian} (Debian, Ubuntu), {self.fedora} (Fedora) or {self.arch} (Arch)."

    @property
    def is_there(self) -> bool:
        """Whether it can be loaded."""
        try:
            ctypes.CDLL(self.name)
        except OSError:
            return False
        return True

    @property
    def platform(self) -> str:
        """What of "x11" and "wayland" it is for alone; "" for both."""
        name = self.name.lower()
        return "wayland" if "wayland" in name else "x11" if "xcb" in name or "x11" in name else ""


def libraries(platform: str = "") -> list[Library]:
    """All of them, or those that one of "x11" and "wayland" needs."""
    rows = [line.split() for line in _TABLE.read_text("utf-8").splitlines() if line and not line.startswith("#")]
    found = [Library(*row) for row in rows]
    return [each for each in found if not platform or each.platform in ("", platform)]


def missing(wanted: Iterable[Library]) -> str | None:
    """One line about those that cannot be loaded; None where all can."""
    gone = [each for each in wanted if not each.is_there]
    if not gone:
        return None
    if len(gone) == 1:
        return f"the library {gone[0].name} is not installed. {gone[0].remedy}"
    debian, fedora, arch = (" ".join(dict.fromkeys(names)) for names in list(zip(*gone, strict=True))[1:])
    names = ", ".join(each.name for each in gone)
    return f"libraries are not installed: {names}. Debian, Ubuntu: {debian}. Fedora: {fedora}. Arch: {arch}."


def about(problem: BaseException) -> str | None:
    """One line about the library that an error names as missing; None where it names none."""
    found = _NAMED.search(str(problem))
    if found is None:
        return None
    known = next((each for each in libraries() if each.name == found[1]), None)
    remedy = known.remedy if known is not None else "Install the package of your system that brings it."
    return f"the library {found[1]} is not installed. {remedy}"
