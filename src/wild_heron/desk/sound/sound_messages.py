"""Messages between the program and its sound process. Free of Qt."""

import msgspec

from ...motion.sound import RATE

BYTES = 4
"""Of a sample on both channels, 16 bits each."""
MESSAGE_BYTES = 256 * 1024
MOST_SAMPLES = MESSAGE_BYTES // BYTES - 64
assert MOST_SAMPLES > RATE // 2


class _Message(msgspec.Struct, frozen=True, tag=True, array_like=True):
    pass


class Begin(_Message, frozen=True):
    """Play what comes for this turn from now on, and nothing of earlier ones."""

    turn: int


class SoundData(_Message, frozen=True):
    """The next samples of a turn."""

    turn: int
    samples: bytes


class StopSound(_Message, frozen=True):
    """Be silent."""


class SoundReady(_Message, frozen=True):
    """The process is there; whether there is anything to be heard through."""

    usable: bool


class WantSound(_Message, frozen=True):
    """More of a turn, so many samples."""

    turn: int
    count: int


class SoundHeard(_Message, frozen=True):
    """Seconds of a turn that have come out of the device."""

    turn: int
    seconds: float


ForDevice = Begin | SoundData | StopSound
FromDevice = SoundReady | WantSound | SoundHeard
_for_device = msgspec.msgpack.Decoder(ForDevice)
_from_device = msgspec.msgpack.Decoder(FromDevice)


def encode(message: ForDevice | FromDevice) -> bytes:
    return msgspec.msgpack.encode(message)


def for_device(data: bytes) -> ForDevice:
    return _for_device.decode(data)


def from_device(data: bytes) -> FromDevice:
    return _from_device.decode(data)
