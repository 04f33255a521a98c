"""Several sessions at once without a browser: does each keep its pace, and does none of them grow?"""

import asyncio
import json
import os
import time
import urllib.request
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from websockets.asyncio.client import connect

from mudlamp.cli.browser import running
from mudlamp.core.errors import UnavailableError
from mudlamp.services.live.frames import HEADER

SCENES = ("pear-tree", "winter-timber", "channel", "piling", "clear-deep", "giant-over-bait")
# The first seconds compile and warm up; the ring of the last minute (1,200 pictures) fills once and is a budget of its own.
WARM_S = 12.0
RING_PICTURES = 1300
RING_S = 240.0
QUICK_S = 12.0
PAGE_MB = 4096.0 / 1e6


class _Viewer:
    """One session with one viewer: counts the pictures that come."""

    def __init__(self, address: str, scene: str) -> None:
        self._address = address
        request = urllib.request.Request(  # noqa: S310 - our own loopback address
            f"{address}/api/v1/sessions",
            data=json.dumps({"scene": scene}).encode(),
            headers={"Content-Type": "application/json", "Origin": address},
        )
        with urllib.request.urlopen(request, timeout=30.0) as answer:  # noqa: S310 - our own loopback address
            self._cookie = "; ".join(line.split(";")[0] for line in answer.headers.get_all("Set-Cookie") or ())
            self._session = json.load(answer)["session"]
        self.pings: set[int] = set()

    async def watch(self) -> None:
        """Read until cancelled."""
        url = f"{self._address.replace('http', 'ws', 1)}/api/v1/live/{self._session}"
        headers = {"Cookie": self._cookie, "Origin": self._address}
        async with connect(url, additional_headers=headers, max_size=None, compression=None) as line:
            async for message in line:
                if isinstance(message, bytes):
                    self.pings.add(HEADER.unpack_from(message)[2])


def bench_sessions(*, seconds: float) -> dict[str, Any]:
    """Return pictures a second of six sessions at once, each on another scene, over so long [s]."""
    with running() as address:
        viewers = [_Viewer(address, scene) for scene in SCENES]
        rates = asyncio.run(_rates(viewers, seconds))
    return {
        "sessions": len(viewers),
        "least_pictures_per_s": min(rates),
        "pictures_per_s": dict(zip(SCENES, rates, strict=True)),
    }


async def _rates(viewers: Sequence[_Viewer], seconds: float) -> list[float]:
    watching = [asyncio.create_task(viewer.watch()) for viewer in viewers]
    await asyncio.sleep(WARM_S)
    before, started = [len(viewer.pings) for viewer in viewers], time.monotonic()
    await asyncio.sleep(seconds)
    span = time.monotonic() - started
    after = [len(viewer.pings) for viewer in viewers]
    await _end(watching)
    return [round((b - a) / span, 1) for a, b in zip(before, after, strict=True)]


def bench_soak(*, minutes: float, quick: bool, sessions: int = 2) -> dict[str, Any]:
    """Return how much memory the server took per session, from the time the ring of the last minute is full until so long after [min]."""
    with running() as address:
        viewers = [_Viewer(address, scene) for scene in SCENES[:sessions]]
        sizes = asyncio.run(_sizes(viewers, warm_s=QUICK_S if quick else RING_S, seconds=QUICK_S if quick else 60.0 * minutes))
    return {
        "sessions": sessions,
        "minutes": round((QUICK_S / 60.0) if quick else minutes, 1),
        "ring_full": not quick,
        "first_mb": round(sizes[0], 1),
        "last_mb": round(sizes[-1], 1),
        "growth_mb_a_session": round((sizes[-1] - sizes[0]) / sessions, 1),
        "every_minute_mb": [round(size, 1) for size in sizes],
        "pictures": [len(viewer.pings) for viewer in viewers],
    }


async def _sizes(viewers: Sequence[_Viewer], *, warm_s: float, seconds: float) -> list[float]:
    watching = [asyncio.create_task(viewer.watch()) for viewer in viewers]
    warm = time.monotonic() + warm_s
    while time.monotonic() < warm and min(len(viewer.pings) for viewer in viewers) < RING_PICTURES:
        await asyncio.sleep(1.0)
    sizes = [_server_mb()]
    end = time.monotonic() + seconds
    while (left := end - time.monotonic()) > 0:
        await asyncio.sleep(min(left, 60.0))
        sizes.append(_server_mb())
    await _end(watching)
    return sizes


async def _end(watching: Sequence[asyncio.Task[None]]) -> None:
    for task in watching:
        task.cancel()
    failed = [one for one in await asyncio.gather(*watching, return_exceptions=True) if not isinstance(one, asyncio.CancelledError)]
    if failed:
        raise UnavailableError(f"a session's line dropped during the bench: {failed[0]}")


def _server_mb() -> float:
    sizes = [pid for word in (b"mudlamp.cli\0serve", b"multiprocessing.forkserver") for pid in below(os.getpid(), word)]
    if not sizes:
        raise UnavailableError("the server was not found: it must be running below this process")
    return server_mb(sizes)


def server_mb(pids: Sequence[int]) -> float:
    """Return the resident memory of processes [MB]; one that has ended has none."""
    sizes = [_read(Path("/proc") / str(pid) / "statm").split() for pid in pids]
    return sum(int(fields[1]) * PAGE_MB for fields in sizes if fields)


def below(ancestor: int, word: bytes) -> list[int]:
    """Return the processes that descend from one and whose command line holds a word."""
    folders = (path for path in Path("/proc").iterdir() if path.name.isdigit())
    return [int(folder.name) for folder in folders if word in _read(folder / "cmdline") and _descends(folder, ancestor)]


def _descends(folder: Path, ancestor: int) -> bool:
    at = folder
    while at.name not in ("0", "1"):
        # The parent comes second after the name in brackets, which may hold anything.
        fields = _read(at / "stat").rsplit(b")", 1)[-1].split()
        if len(fields) < 2:
            return False
        at = Path("/proc") / fields[1].decode()
        if at.name == str(ancestor):
            return True
    return False


def _read(path: Path) -> bytes:
    try:
        return path.read_bytes()
    except OSError:
        return b""
