"""Messages over the pipes of a process, each with its length in front."""

from __future__ import annotations

import struct
from typing import IO, Any

import msgspec

LENGTH = struct.Struct("<Q")


def send(stream: IO[bytes], message: dict[str, Any]) -> None:
    """Write one message."""
    data = msgspec.msgpack.encode(message)
    stream.write(LENGTH.pack(len(data)) + data)
    stream.flush()


def receive(stream: IO[bytes]) -> dict[str, Any] | None:
    """Read one message; None at the end of the stream."""
    head = stream.read(LENGTH.size)
    if len(head) < LENGTH.size:
        return None
    (length,) = LENGTH.unpack(head)
    data = stream.read(length)
    if len(data) < length:
        return None
    message: dict[str, Any] = msgspec.msgpack.decode(data)
    return message
