"""Packs results with arrays into shared memory, without a copy at the receiving end.

The block starts with the length of a MessagePack text in eight bytes, and the text; arrays lie behind it.
"""

import mmap
import os
from math import prod
from typing import Any

import msgspec
import numpy as np

_ARRAY = 1
_ALIGN = 64
_KINDS = {"|u1", "<u2", "<i2", "<u4", "<i4", "<i8", "<f2", "<f4", "<f8"}


class _Place(msgspec.Struct, frozen=True, array_like=True):
    start: int
    kind: str
    shape: tuple[int, ...]


def pack(result: object, limit: int) -> tuple[int, int]:
    """A memory file that holds a result, and its size. MemoryError where it would be larger than ``limit``."""
    arrays: list[np.ndarray[Any, Any]] = []
    size = 0

    def place(value: object) -> object:
        nonlocal size
        if isinstance(value, np.ndarray):
            start = -(-size // _ALIGN) * _ALIGN
            size = start + value.nbytes
            arrays.append(value)
            return msgspec.msgpack.Ext(_ARRAY, msgspec.msgpack.encode(_Place(start, value.dtype.str, value.shape)))
        if isinstance(value, np.generic):
            return value.item()
        raise TypeError(f"a {type(value).__name__} cannot be handed over")

    text = msgspec.msgpack.encode(result, enc_hook=place)
    head = -(-(8 + len(text)) // _ALIGN) * _ALIGN
    total = max(head + size, 1)
    if total > limit:
        raise MemoryError("what is in it is larger than can be handed over")
    handle = os.memfd_create("read", os.MFD_CLOEXEC | os.MFD_ALLOW_SEALING)
    os.ftruncate(handle, total)
    with mmap.mmap(handle, total) as memory:
        memory[:8] = len(text).to_bytes(8, "little")
        memory[8 : 8 + len(text)] = text
        start = 0
        for value in arrays:
            start = -(-start // _ALIGN) * _ALIGN
            there = np.frombuffer(memory, value.dtype, value.size, head + start).reshape(value.shape)
            np.copyto(there, value)
            del there
            start += value.nbytes
    return handle, total


def unpack(memory: mmap.mmap, size: int, kind: Any) -> Any:
    """The result of this type; its arrays are the memory itself. ValueError where it is none."""
    length = int.from_bytes(memory[:8], "little")
    head = -(-(8 + length) // _ALIGN) * _ALIGN
    if 8 + length > size:
        raise ValueError("its text is longer than it")

    def array(code: int, data: memoryview) -> object:
        place = msgspec.msgpack.decode(data, type=_Place)
        if code != _ARRAY or place.kind not in _KINDS or any(side < 0 for side in place.shape) or place.start < 0:
            raise ValueError("an array of no known kind")
        dtype = np.dtype(place.kind)
        if head + place.start + prod(place.shape) * dtype.itemsize > size:
            raise ValueError("an array beyond the end")
        return np.frombuffer(memory, dtype, prod(place.shape), head + place.start).reshape(place.shape)

    def as_is(wanted: Any, value: object) -> object:
        if isinstance(value, np.ndarray):
            return value
        raise ValueError("something that is no array where one should be")

    raw = msgspec.msgpack.decode(memory[8 : 8 + length], ext_hook=array)
    return msgspec.convert(raw, kind, dec_hook=as_is)
