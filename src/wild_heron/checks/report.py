"""Findings as text for people and as JSON for programs."""

import math
from typing import Any

from ..scene import Scene
from .finding import Finding, Judged
from .judging import CHECKS

_LABELS = {check.name: check.label for check in CHECKS}


def as_text(found: list[Judged], every: bool = False) -> str:
    """A paragraph for each format: what is wrong with it, worst first; ``every``: what was accepted too."""
    out = []
    for each in found:
        count, accepted = len(each.open), len(each.findings) - len(each.open)
        words = f"{count} finding{'s' * (count != 1)}" if count else "nothing found"
        out.append(f"{each.format}: {words}" + (f", {accepted} accepted" if accepted else ""))
        for finding in each.findings if every else each.open:
            note = f" (accepted{': ' + finding.note if finding.note else ''})" if finding.accepted else ""
            out.append(f"  {_LABELS[finding.check]:9} {finding.title}: {finding.detail}{note}")
    return "\n".join(out)


def as_document(scene: Scene, found: list[Judged]) -> dict[str, Any]:
    """The same as plain values: formats, each with its findings and figures. What is not finite is null."""
    return {
        "scene": scene.name,
        "clean": not any(each.open for each in found),
        "formats": [
            {
                "name": each.format,
                "figures": {name: _number(value) for name, value in each.figures.items()},
                "findings": [_plain(finding) for finding in each.findings],
            }
            for each in found
        ],
    }


def _plain(finding: Finding) -> dict[str, Any]:
    return {
        "check": finding.check, "kind": finding.kind, "first": finding.first, "last": finding.last,
        "worst_at": finding.at, "worst": _number(finding.worst), "badness": _number(finding.badness),
        "about": finding.about, "title": finding.title, "detail": finding.detail, "accepted": finding.accepted,
        "note": finding.note,
    }  # fmt: skip


def _number(value: float) -> float | None:
    return value if math.isfinite(value) else None
