"""The published JSON schema of the project file, and the table of movers in its description, made from the structs.
``make schema`` writes both."""

import contextlib
from pathlib import Path
from typing import Any

import msgspec

from ..scene.binds import BIND_KINDS
from ..scene.fields import is_number, room_of, shown
from ..scene.movers import MOVER_KINDS
from .project import VERSION, ProjectFile

SCHEMA_PATH = Path(__file__).with_name("scene.schema.json")
DOCUMENT_PATH = Path(__file__).parents[3] / "docs" / "file-format.md"
_BEGINS, _ENDS = "<!-- made by make schema -->", "<!-- until here -->"


def schema_text() -> str:
    """The schema as it is published."""
    schema: dict[str, Any] = {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": f"Wild Heron scene, version {VERSION}",
        **msgspec.json.schema(ProjectFile),
    }
    for kind in (*MOVER_KINDS, *BIND_KINDS):
        for name, told in schema["$defs"][kind.__name__]["properties"].items():
            with contextlib.suppress(LookupError):
                told["title"] = shown(kind, name).label
    return msgspec.json.format(msgspec.json.encode(schema), indent=2).decode() + "\n"


def mover_table() -> str:
    """What the numbers of movers may be, for docs/file-format.md."""
    lines = ["| `type` | field | unit | from | to | usually |", "| --- | --- | --- | --- | --- | --- |"]
    for kind in MOVER_KINDS:
        # Its own, and those of all movers that it shows.
        fields = dict.fromkeys((*kind.__annotations__, *(name for _, *names in kind().rows for name in names)))
        for field in [name for name in fields if name in kind.__struct_fields__ and is_number(kind, name)]:
            how, room = shown(kind, field), room_of(kind, field)
            limits = " | ".join(f"{each:,.15g}" for each in (room.low, room.high, room.default))
            lines.append(f"| `{kind.__struct_config__.tag}` | `{field}` | {how.unit} | {limits} |")
    return "\n".join(lines) + "\n"


def with_table(text: str) -> str:
    """A document with the table of movers as it is now, between its two marks."""
    before, _, rest = text.partition(_BEGINS)
    _, _, after = rest.partition(_ENDS)
    return f"{before}{_BEGINS}\n{mover_table()}{_ENDS}{after}"


if __name__ == "__main__":
    SCHEMA_PATH.write_text(schema_text(), encoding="utf-8")
    DOCUMENT_PATH.write_text(with_table(DOCUMENT_PATH.read_text(encoding="utf-8")), encoding="utf-8")
