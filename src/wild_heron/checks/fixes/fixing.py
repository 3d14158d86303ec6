"""Which fixes each kind of finding has, told once."""

import numpy as np

from ...scene import Scene, SceneError
from ..finding import Finding
from . import comfort, cuts, edges, framing, nearness, photographs
from .problem import Fixer, Look, Problem
from .trial import Fix, new_findings


def fixes_for(scene: Scene, finding: Finding, look: Look | None = None) -> list[Fix]:
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
    "bare": (edges.scale_backdrop, edges.move_backdrop, edges.dolly_in, edges.longer_lens),
    "margin": (edges.scale_backdrop, edges.move_backdrop, edges.dolly_in, edges.longer_lens),
    "hole": (edges.scale_backdrop, edges.dolly_in),
    "clipped": (edges.far_plane,),
    "out": (framing.follow, framing.aim_off, framing.wider_lens, framing.pull_back),
    "small": (framing.longer_to_read, framing.push_in),
    "hidden": (framing.move_hider, framing.bring_forward),
    "fast": (comfort.another_ease, comfort.land_later, comfort.start_earlier, comfort.slower),
    "busy": (comfort.slower, comfort.land_later),
    "shake": (comfort.less_life,),
    "strobe": (comfort.longer_shutter, comfort.another_ease, comfort.land_later),
    "roll": (comfort.another_ease, comfort.land_later, comfort.start_earlier),
    "dead": (cuts.through_the_cut,),
    "jump": (cuts.even_speed_over, cuts.blend_over),
    "angle": (cuts.blend_over,),
    "line": (cuts.blend_over,),
    "short": (cuts.longer_shot,),
    "long": (cuts.shorter_shot,),
    "through": (nearness.push_layer_away, framing.pull_back),
    "near": (nearness.push_layer_away, framing.pull_back),
    "soft": (framing.pull_back, framing.wider_lens),
    "stretched": (photographs.wider_lens, photographs.pull_back),
    "missing": (photographs.longer_lens, photographs.dolly_in),
    "words": (cuts.longer_shot,),
}
"""What is tried for each kind of finding, the gentlest change first."""
NEEDS_LOOK = ("stretched", "missing")
"""Kinds for whose fixes pictures are looked at."""
