"""The scene: frozen structs, and edits as pure functions from scene to scene."""

from . import edits
from .channels import ChannelSpec, channel_or_default, spec, specs
from .errors import LoopError, SceneError
from .model import (
    AimNode,
    AimPoint,
    AnyNode,
    Camera,
    Channel,
    Format,
    Key,
    Null,
    Picture,
    Scene,
    Settings,
    main_format,
)
from .rates import STANDARD_RATES, Rate, seconds, timecode
from .spans import DEFAULT_SPAN, Bezier, Family, Flow, Hold, Linear, Span, Steps, span_label

__all__ = [
    "DEFAULT_SPAN",
    "STANDARD_RATES",
    "AimNode",
    "AimPoint",
    "AnyNode",
    "Bezier",
    "Camera",
    "Channel",
    "ChannelSpec",
    "Family",
    "Flow",
    "Format",
    "Hold",
    "Key",
    "Linear",
    "LoopError",
    "Null",
    "Picture",
    "Rate",
    "Scene",
    "SceneError",
    "Settings",
    "Span",
    "Steps",
    "channel_or_default",
    "edits",
    "main_format",
    "seconds",
    "span_label",
    "spec",
    "specs",
    "timecode",
]
