"""Findings that are as they should be."""

import msgspec

from ..scene import Scene
from .finding import Finding


def with_acceptance(scene: Scene, finding: Finding, note: str = "") -> Scene:
    """The scene with a finding accepted."""
    checks = scene.checks
    others = tuple(
        each
        for each in checks.accepted
        if not ((each.kind, each.about) == (finding.kind, finding.about) and each.format in ("", finding.format)
                and each.first <= finding.last and finding.first <= each.last)
    )  # fmt: skip
    fresh = (*others, finding.acceptance(note))
    return msgspec.structs.replace(scene, checks=msgspec.structs.replace(checks, accepted=fresh))


def without_acceptance(scene: Scene, finding: Finding) -> Scene:
    """The scene in which a finding is one again."""
    kept = tuple(
        each
        for each in scene.checks.accepted
        if not finding._replace(accepted=False).marked(
            msgspec.structs.replace(scene.checks, accepted=(each,))
        ).accepted
    )  # fmt: skip
    return msgspec.structs.replace(scene, checks=msgspec.structs.replace(scene.checks, accepted=kept))
