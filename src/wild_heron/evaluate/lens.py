"""The table of lens parameters: channel, field of ``CameraView``, and how each is interpolated."""

from collections.abc import Callable
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..arrays import Array
from ..scene.channels import APERTURE, FAR, FOCAL, FOCUS, NEAR, SHUTTER
from ..space.blending import log_mix
from .cameras import CameraView

Mix = Callable[[CameraView, CameraView, Array], Array]
"""What is between two pictures (N), a share (N,) of the way."""


class LensPart(NamedTuple):
    """Of a picture of the lens: its channel ("" where it has none), the field, and how it is mixed."""

    channel: str
    field: str
    mix: Mix


def _evenly_in_log(field: str) -> Mix:
    def mix(a: CameraView, b: CameraView, share: Array) -> Array:
        first, other = getattr(a, field), getattr(b, field)
        return log_mix(first, other, share.reshape(-1, *([1] * (first.ndim - 1))))

    return mix


def _opening(a: CameraView, b: CameraView, share: Array) -> Array:
    """How wide the aperture is, (N,): so focus can come in slowly where it was not blurred at all."""
    wide = [np.where(each.depth_of_field, 1.0 / each.f_stop, 0.0) for each in (a, b)]
    return np.maximum(wide[0] + (wide[1] - wide[0]) * share, 0.0)


def _f_stop(a: CameraView, b: CameraView, share: Array) -> Array:
    opening = _opening(a, b, share)
    blurs = opening > 0.0
    return np.where(blurs, 1.0 / np.where(blurs, opening, 1.0), log_mix(a.f_stop, b.f_stop, share))


def _blurs(a: CameraView, b: CameraView, share: Array) -> NDArray[np.bool_]:
    return np.asarray(_opening(a, b, share) > 0.0)


def _shutter(a: CameraView, b: CameraView, share: Array) -> Array:
    return np.maximum(a.shutter + (b.shutter - a.shutter) * share, 0.0)


PARTS = (
    LensPart(FOCAL, "focal_mm", _evenly_in_log("focal_mm")),
    LensPart(FOCUS, "focus", _evenly_in_log("focus")),
    LensPart(APERTURE, "f_stop", _f_stop),
    LensPart(SHUTTER, "shutter", _shutter),
    LensPart(NEAR, "near", _evenly_in_log("near")),
    LensPart(FAR, "far", _evenly_in_log("far")),
    LensPart("", "depth_of_field", _blurs),  # type: ignore[arg-type]
    LensPart("", "sensor", _evenly_in_log("sensor")),
)

LENS = {part.channel: part.field for part in PARTS if part.channel}
"""The channels of a lens, and the fields of a picture that they become: what framings keep and tours change."""
