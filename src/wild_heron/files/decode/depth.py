"""Decodes EXR, and PNG and TIFF of 16 bits a channel, at full depth, as floats."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...colour import to_display, to_light
from ..errors import FileError
from .deep_images import exr_light, sixteen_bits
from .source import Source

_MAX_BYTES = 640 * 1024 * 1024


def read_deep(file: Source, limit: int, linear: bool) -> NDArray[np.float32] | None:
    """A picture of more than eight bits a channel as (H, W, 4), premultiplied: light, where it is to be ``linear``, or
    what a display is sent, with 1 for white and more for what is brighter. None for every other one, and for those that
    are too large for it."""
    if file.suffix == ".exr":
        found: NDArray[Any] | None = exr_light(file)
    else:
        found = sixteen_bits(file)
    if found is None or max(found.shape[:2]) > limit or found.size * 4 > _MAX_BYTES:
        return None
    out = np.empty(found.shape, np.float32)
    is_light = file.suffix == ".exr"
    # In rows: in between it takes up several times as much.
    for row, told in zip(out, found, strict=True):
        if is_light:
            alpha = told[:, 3:]
            row[:] = told
            if not linear:
                row[:, :3] = to_display(told[:, :3] / np.maximum(alpha, 1e-6)) * alpha
        else:
            shown = told * np.float64(1.0 / 65_535.0)
            row[:, 3] = shown[:, 3]
            row[:, :3] = (to_light(shown[:, :3]) if linear else shown[:, :3]) * shown[:, 3:]
    if not np.isfinite(out).all():
        raise FileError(file.path, "has numbers without an end.", "Export it anew.")
    return out
