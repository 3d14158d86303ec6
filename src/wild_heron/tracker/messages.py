"""What a tracker says, as Open Sound Control messages (OSC 1.0) in UDP datagrams.

One datagram holds one message::

    /wild-heron/pose  dd fff ffff i      time, position x y z, rotation x y z w, button

``time`` is in seconds from whatever the tracker counts from; the position is in units, the rotation a quaternion, in
the right-handed axes of the application (Y up, −Z forward); the button is 1 while it is held. Numbers may be float32 or
float64. Anything that sends this to the port is a tracker.
"""

from typing import NamedTuple

ADDRESS = "/wild-heron/pose"
PORT = 50_917
HOST = "127.0.0.1"
"""Only this machine is listened to, unless the user opens it."""
MAX_DATAGRAM = 512
_FARTHEST = 1e6


class Pose(NamedTuple):
    """One message."""

    time: float
    position: tuple[float, float, float]
    quaternion: tuple[float, float, float, float]
    button: bool


def encode(pose: Pose) -> bytes:
    """The datagram of a pose."""
    from pythonosc.osc_message_builder import OscMessageBuilder

    builder = OscMessageBuilder(ADDRESS)
    builder.add_arg(pose.time, "d")
    for value in (*pose.position, *pose.quaternion):
        builder.add_arg(float(value), "f")
    builder.add_arg(int(pose.button), "i")
    return builder.build().dgram


def decode(datagram: bytes) -> Pose | None:
    """The pose in a datagram; None for whatever is no such message, or holds numbers that mean nothing."""
    from pythonosc.osc_message import OscMessage, ParseError

    if len(datagram) > MAX_DATAGRAM:
        return None
    try:
        message = OscMessage(datagram)
        if message.address != ADDRESS:
            return None
        values = [float(value) for value in message.params]
    except (ParseError, ValueError, TypeError, IndexError, OverflowError, RecursionError):
        return None
    if len(values) != 9 or not all(-_FARTHEST <= value <= _FARTHEST for value in values[1:]):
        return None
    if not -1e12 <= values[0] <= 1e12:
        return None
    x, y, z, w = values[4:8]
    size = (x * x + y * y + z * z + w * w) ** 0.5
    if not 0.5 < size < 2.0:
        return None
    return Pose(
        values[0], (values[1], values[2], values[3]), (x / size, y / size, z / size, w / size), values[8] >= 0.5
    )
