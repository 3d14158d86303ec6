"""The table of fixes by kind of finding."""

import numpy as np

from ...scene import Scene, SceneError
from ..finding import Finding
from . import comfort_fixes, cut_fixes, edge_fixes, framing_fixes, nearness_fixes, photograph_fixes
from .problem import Fixer, PhotographLook, Problem
from .trial import Fix, new_findings


def fixes_for(scene: Scene, finding: Finding, look: PhotographLook | None = None) -> list[Fix]:
    """What puts a finding right and makes no other, at no frame and by no check; the gentlest first. None where nothing
    that is tried does.

    ``look`` tells how a photograph fares in a scene at a frame; without it none is offered for those (``NEEDS_LOOK``).
    """
    out = []
    try:
        problem = Problem(scene, finding, look)
    except SceneError:
        return []
    for fixer in FIXERS.get(finding.kind, ()):
        try:
            out += [fix for fix in fixer(problem) if not new_findings(scene, fix.scene)]
        except (SceneError, np.linalg.LinAlgError):
            continue
    return out


FIXERS: dict[str, tuple[Fixer, ...]] = {
    "bare": (edge_fixes.scale_backdrop, edge_fixes.move_backdrop, edge_fixes.dolly_in, edge_fixes.longer_lens),
    "margin": (edge_fixes.scale_backdrop, edge_fixes.move_backdrop, edge_fixes.dolly_in, edge_fixes.longer_lens),
    "hole": (edge_fixes.scale_backdrop, edge_fixes.dolly_in),
    "clipped": (edge_fixes.far_plane,),
    "out": (framing_fixes.follow, framing_fixes.aim_off, framing_fixes.wider_lens, framing_fixes.pull_back),
    "small": (framing_fixes.longer_to_read, framing_fixes.push_in),
    "hidden": (framing_fixes.move_hider, framing_fixes.bring_forward),
    "fast": (comfort_fixes.another_ease, comfort_fixes.land_later, comfort_fixes.start_earlier, comfort_fixes.slower),
    "busy": (comfort_fixes.slower, comfort_fixes.land_later),
    "shake": (comfort_fixes.less_life,),
    "strobe": (comfort_fixes.longer_shutter, comfort_fixes.another_ease, comfort_fixes.land_later),
    "roll": (comfort_fixes.another_ease, comfort_fixes.land_later, comfort_fixes.start_earlier),
    "dead": (cut_fixes.through_the_cut,),
    "jump": (cut_fixes.even_speed_over, cut_fixes.blend_over),
    "angle": (cut_fixes.blend_over,),
    "line": (cut_fixes.blend_over,),
    "short": (cut_fixes.longer_shot,),
    "long": (cut_fixes.shorter_shot,),
    "through": (nearness_fixes.push_layer_away, framing_fixes.pull_back),
    "near": (nearness_fixes.push_layer_away, framing_fixes.pull_back),
    "soft": (framing_fixes.pull_back, framing_fixes.wider_lens),
    "stretched": (photograph_fixes.wider_lens, photograph_fixes.pull_back),
    "missing": (photograph_fixes.longer_lens, photograph_fixes.dolly_in),
    "words": (cut_fixes.longer_shot,),
}
"""What is tried for each kind of finding, the gentlest change first."""
NEEDS_LOOK = ("stretched", "missing")
"""Kinds for whose fixes pictures are looked at."""
