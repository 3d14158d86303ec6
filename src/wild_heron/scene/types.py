"""Shared value types and their ranges."""

from typing import Annotated, Literal

from msgspec import Meta

Number = Annotated[float, Meta(ge=-1e9, le=1e9)]
Name = Annotated[str, Meta(min_length=1, max_length=200)]
Identity = Annotated[str, Meta(pattern=r"^[A-Za-z0-9][A-Za-z0-9._-]{0,79}$")]
ShortId = Annotated[str, Meta(pattern=r"^[a-z][a-z0-9-]{0,39}$")]
"""The id of a bind or dial, which its channels are named after."""
Size = Annotated[float, Meta(gt=0.0, le=1e6)]
Vector = tuple[Number, Number, Number]
Role = Literal["seen", "solid", "lens", "camera", "light", "path", "ground", "receiver", "framing", "shown", "window"]
"""What a node can serve as; see the kinds of node."""
UnitName = Literal["units", "degrees", "factor", "share", "mm", "f", "count", "pixels", "seconds"]
