"""How the units of the rack are spoken to: messages over a TCP socket of this machine.

A message is sixteen bytes, little-endian, and a body: four letters that say what it is, the bytes of the body as a
32-bit number, and a frame counter as a 64-bit number (0 where none is meant).

=====  =========  ================================================================================================
what   from       body
=====  =========  ================================================================================================
HELO   the unit   JSON: ``unit`` (outboard or instrument), ``name``, ``rates_hz``, ``most_channels``, ``busy``
OPEN   the host   JSON: ``rate_hz``, ``channels``; for an instrument ``score``, a Standard MIDI File as base64
REDY   the unit   JSON: ``rate_hz``, ``channels``, as they will be
FAIL   the unit   JSON: ``code``, ``sentence``; nothing follows
PLAY   the host   float32, little-endian, interleaved; the counter is that of the first frame, from 0 on
HEAR   the unit   the same, counted by the unit's own clock
CUE    the host   JSON: ``what`` (click or score); an instrument begins with it at the frame of the counter
STOP   the host   nothing: no more will be sent
DONE   the unit   nothing: no more will be heard
=====  =========  ================================================================================================

A unit receives and returns audio at the speed of its own clock: a faster sender has to wait.
"""

import json
import socket
import struct
from dataclasses import dataclass
from io import BufferedIOBase
from typing import Any

import numpy as np
from numpy.typing import NDArray

HEAD = struct.Struct("<4sIQ")
MOST_BODY = 16 << 20
BLOCK_FRAMES = 1_024
OUTBOARD_PORT, INSTRUMENT_PORT = 8141, 8142
"""Default ports of the units."""

Frames = NDArray[np.float32]


@dataclass(frozen=True, slots=True)
class Message:
    """One of them."""

    kind: str
    counter: int = 0
    body: bytes = b""

    def fields(self) -> dict[str, Any]:
        """Its body as JSON; nothing where it is none."""
        try:
            found = json.loads(self.body)
        except ValueError:
            return {}
        return found if isinstance(found, dict) else {}

    def frames(self, channels: int) -> Frames | None:
        """Its body as sound; None where it is not whole frames."""
        if len(self.body) % (4 * channels):
            return None
        return np.frombuffer(self.body, dtype="<f4").reshape(-1, channels)


def send(connection: socket.socket, kind: str, body: bytes = b"", counter: int = 0) -> None:
    """Sends one. Raises: OSError."""
    connection.sendall(HEAD.pack(kind.ljust(4).encode("ascii"), len(body), counter) + body)


def tell(connection: socket.socket, kind: str, counter: int = 0, **fields: Any) -> None:
    """Sends one whose body is JSON. Raises: OSError."""
    send(connection, kind, json.dumps(fields).encode(), counter)


def receive(file: BufferedIOBase) -> Message | None:
    """The next one; None where the other side has gone, or speaks something else. Raises: OSError."""
    head = file.read(HEAD.size)
    if len(head) < HEAD.size:
        return None
    kind, size, counter = HEAD.unpack(head)
    if size > MOST_BODY:
        return None
    body = file.read(size)
    if len(body) < size:
        return None
    return Message(kind.decode("ascii", "replace").strip(), counter, body)
