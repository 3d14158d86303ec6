"""The published JSON schema of the project file, made from the structs. ``make schema`` writes it."""

from pathlib import Path

import msgspec

from .project import ProjectFile

SCHEMA_PATH = Path(__file__).with_name("scene.schema.json")


def schema_text() -> str:
    """The schema as it is published."""
    schema = {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Wild Heron scene, version 4",
        **msgspec.json.schema(ProjectFile),
    }
    return msgspec.json.format(msgspec.json.encode(schema), indent=2).decode() + "\n"


if __name__ == "__main__":
    SCHEMA_PATH.write_text(schema_text(), encoding="utf-8")
