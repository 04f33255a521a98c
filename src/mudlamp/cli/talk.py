"""`./lamp talk`: a simulated boat's instruments, to be listened to by an application started with MUDLAMP_NMEA=127.0.0.1:PORT."""

import asyncio
import sys

from mudlamp.cli.arguments import Parser, ranged
from mudlamp.services.feed.talker import talk

PORT = 10110


def run(words: list[str]) -> int:
    """Talk until stopped."""
    parser = Parser(prog="lamp talk", description="Talk as a boat's instruments do: NMEA 0183 over TCP, on this machine alone.")
    parser.add_argument("--port", type=ranged(1024, 65535, whole=True), default=PORT, help=f"port to talk on (default {PORT})")
    parser.add_argument("--seconds", type=ranged(1, 86400, "s"), default=None, help="end by itself after so long")
    options = parser.parse_args(words)
    print(f"talking on 127.0.0.1:{options.port}; MUDLAMP_NMEA=127.0.0.1:{options.port} ./lamp up listens to it", file=sys.stderr)
    asyncio.run(talk(int(options.port), seconds=options.seconds))
    return 0
