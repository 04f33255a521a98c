"""A binary frame a picture, and what waits for one viewer: one newest-only slot a side."""

import asyncio
import struct
import uuid
from collections import deque

from mudlamp.core.arrays import ByteArray
from mudlamp.core.ping import Ping

MAGIC = b"MUDL"
# magic, session, ping number, revision, time [s], beams, range bins, side (0 the picture, 1 its twin): little-endian, 44 bytes.
HEADER = struct.Struct("<4s16sIIdHHI")
MOST_TEXTS = 400


def frame(session_id: uuid.UUID, ping: Ping, revision: int, picture: ByteArray, *, side: int = 0) -> bytes:
    """Return a binary frame: the header, then the (beam, range_bin) brightness."""
    beams, bins = picture.shape
    return HEADER.pack(MAGIC, session_id.bytes, ping.number, revision, ping.time_s, beams, bins, side) + picture.tobytes()


class Mailbox:
    """What waits for one viewer: texts in order, and the newest frame of each side alone. Filled from any thread, emptied on the loop."""

    def __init__(self, loop: asyncio.AbstractEventLoop) -> None:
        self._loop = loop
        self._texts: deque[str] = deque(maxlen=MOST_TEXTS)
        self._latest: dict[str, str] = {}
        self._frames: dict[int, bytes] = {}
        self._wake = asyncio.Event()
        self._told = False
        self.closed = False
        self.dropped = 0

    def put_text(self, _kind: str, message: str) -> None:
        """Leave a text."""
        self._texts.append(message)
        self._notify()

    def put_latest(self, kind: str, message: str) -> None:
        """Leave a text of which only the newest counts."""
        self._latest[kind] = message
        self._notify()

    def put_frame(self, data: bytes, side: int = 0) -> None:
        """Leave a frame of a side; one that was not fetched yet is dropped."""
        if side in self._frames:
            self.dropped += 1
        self._frames[side] = data
        self._notify()

    def close(self) -> None:
        """Nothing more comes."""
        self.closed = True
        self._notify()

    def _notify(self) -> None:
        """Wake the loop, once until it has looked."""
        if not self._told and not self._loop.is_closed():
            self._told = True
            self._loop.call_soon_threadsafe(self._wake.set)

    async def fetch(self) -> tuple[list[str], list[bytes]]:
        """Wait until something is there; return the texts and the newest frame of each side."""
        await self._wake.wait()
        self._wake.clear()
        # From here on what is left wakes the loop again: it may be taken along below, which costs no more than an empty look.
        self._told = False
        texts = [self._texts.popleft() for _ in range(len(self._texts))]
        latest, self._latest = self._latest, {}
        data, self._frames = self._frames, {}
        return texts + list(latest.values()), [data[side] for side in sorted(data)]
