"""EXR files. What comes in is decoded elsewhere, in the reader process."""

from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np

from ..extras import needing

with needing():
    import OpenEXR


def frame_rate(rate: Fraction) -> dict[str, object]:
    """What a header says of it."""
    return {"framesPerSecond": rate}


def write(path: Path, channels: dict[str, Any], header: dict[str, object]) -> None:
    """Write channels by name, (H, W) or (H, W, 4) for RGBA, with BT.709 primaries and what the header says besides."""
    # White at D65, as sRGB has it (ITU-R BT.709).
    primaries = tuple(np.array(each, np.float32) for each in (0.64, 0.33, 0.30, 0.60, 0.15, 0.06, 0.3127, 0.3290))
    whole = {
        "compression": OpenEXR.ZIP_COMPRESSION,
        "type": OpenEXR.scanlineimage,
        "chromaticities": tuple(float(each) for each in primaries),
    } | header
    with OpenEXR.File(whole, channels) as file:
        file.write(str(path))
