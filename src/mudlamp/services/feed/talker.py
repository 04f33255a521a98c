"""A simulated boat's instruments: what they would say while it idles around on the demo's water, over TCP to whoever dials."""

import asyncio
import contextlib
import datetime as dt
import math

from mudlamp.core.scene.reach import Reach
from mudlamp.formats.nmea import Said, written
from mudlamp.services.find.waters import DEMO, reach_named, to_earth

TRANSDUCER_M, IDLE_M_S, AROUND_M, EVERY_S = 0.45, 1.8, 45.0, 1.0


def said_at(reach: Reach, middle_m: tuple[float, float], seconds: float) -> Said:
    """Return what the instruments say after so long [s]: a circle at idle speed, the depth and the warmth those of the water there."""
    angle = seconds * IDLE_M_S / AROUND_M
    x_m, y_m = middle_m[0] + AROUND_M * math.sin(angle), middle_m[1] + AROUND_M * math.cos(angle)
    longitudes, latitudes = to_earth([x_m], [y_m])
    return Said(
        latitude_deg=float(latitudes[0]),
        longitude_deg=float(longitudes[0]),
        heading_rad=(angle + math.pi / 2.0) % (2.0 * math.pi),
        depth_m=max(reach.survey.depth_at(x_m, y_m), 0.0),
        water_degc=reach.water.temperature_degc,
        speed_m_s=IDLE_M_S,
    )


def middle_of(reach: Reach) -> tuple[float, float]:
    """Return a place that a circle around it stays afloat; the deepest that was tried."""
    tried = [(50.0 * i, 50.0 * j) for i in range(-6, 7) for j in range(-6, 7)]
    return max(tried, key=lambda place: min(reach.survey.depth_at(place[0] + dx, place[1] + dy) for dx, dy in _RING))


_RING = [(AROUND_M * math.sin(math.pi * i / 4.0), AROUND_M * math.cos(math.pi * i / 4.0)) for i in range(8)]


async def talk(port: int, *, seconds: float | None) -> None:
    """Talk on a port of this machine to whoever dials, for so long [s] or (None) until it is stopped."""
    reach = reach_named(DEMO)
    middle = middle_of(reach)
    clock = asyncio.get_running_loop().time
    begun = clock()

    async def serve(_reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        with contextlib.suppress(ConnectionError):
            while True:
                said = said_at(reach, middle, clock() - begun)
                writer.writelines(written(said, at=dt.datetime.now(dt.UTC), transducer_m=TRANSDUCER_M))
                await writer.drain()
                await asyncio.sleep(EVERY_S)

    async with await asyncio.start_server(serve, "127.0.0.1", port) as server:
        with contextlib.suppress(TimeoutError):
            await asyncio.wait_for(server.serve_forever(), seconds)
