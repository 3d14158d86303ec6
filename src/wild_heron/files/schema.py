"""The published JSON schema of the project file, made from the structs. ``make schema`` writes it."""

import contextlib
from pathlib import Path
from typing import Any

import msgspec

from ..scene.binds import BIND_KINDS
from ..scene.fields import shown
from ..scene.movers import MOVER_KINDS
from .project import ProjectFile

SCHEMA_PATH = Path(__file__).with_name("scene.schema.json")


def schema_text() -> str:
    """The schema as it is published."""
    schema: dict[str, Any] = {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Wild Heron scene, version 4",
        **msgspec.json.schema(ProjectFile),
    }
    for kind in (*MOVER_KINDS, *BIND_KINDS):
        for name, told in schema["$defs"][kind.__name__]["properties"].items():
            with contextlib.suppress(LookupError):
                told["title"] = shown(kind, name).label
    return msgspec.json.format(msgspec.json.encode(schema), indent=2).decode() + "\n"


if __name__ == "__main__":
    SCHEMA_PATH.write_text(schema_text(), encoding="utf-8")
