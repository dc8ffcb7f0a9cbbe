"""Messages over the pipes of a process, each with its length in front."""

from __future__ import annotations

import struct
from typing import IO, Any

import msgspec

LENGTH = struct.Struct("<Q")


def send(stream: IO[bytes], message: dict[str, Any]) -> None:
    """Write one message."""
    data = msgspec.msgpack.encode(message)
    left = memoryview(LENGTH.pack(len(data)) + data)
    while left:
        # A pipe without a buffer takes as much as there is room for.
        left = left[stream.write(left) :]
    stream.flush()


def receive(stream: IO[bytes]) -> dict[str, Any] | None:
    """Read one message; None at the end of the stream."""
    head = _exactly(stream, LENGTH.size)
    if head is None:
        return None
    (length,) = LENGTH.unpack(head)
    data = _exactly(stream, length)
    if data is None:
        return None
    message: dict[str, Any] = msgspec.msgpack.decode(data)
    return message


def _exactly(stream: IO[bytes], count: int) -> bytes | None:
    """So many bytes, however they come; None where the stream ends before."""
    found = bytearray()
    while len(found) < count:
        block = stream.read(count - len(found))
        if not block:
            return None
        found += block
    return bytes(found)
