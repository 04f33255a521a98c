"""`serve`: what `./lamp up` runs once the database is there. Migrates, loads the demo, serves."""

import asyncio
import contextlib
import gc
import os
import sys
from collections.abc import Iterator
from typing import Any

import uvicorn
from fastapi import FastAPI

from mudlamp.cli.arguments import Parser, ranged
from mudlamp.services.doors.authority import certificates
from mudlamp.services.doors.names import NAME, Doors, is_loopback, lasting_name, own_addresses
from mudlamp.services.house import House, open_house
from mudlamp.services.logs import set_up_logs
from mudlamp.services.settings import read_settings
from mudlamp.services.warm import warm_planner, warm_up
from mudlamp.web.app import make_app

# A command takes less; a longer message closes its socket.
LONGEST_MESSAGE = 65_536
# Garbage is looked for after so many new objects, and so many times before older ones are looked at, too.
COLLECTED = (10_000, 20, 50)


def run(words: list[str]) -> int:
    """Serve until told to stop."""
    parser = Parser(prog="lamp serve", description="Serve on a database that runs already (./lamp up does more).")
    parser.add_argument("--host", default="127.0.0.1")
    parser.add_argument("--port", type=ranged(1, 65535, whole=True), default=8470)
    parser.add_argument("--fresh", action="store_true", help="empty the database first")
    # The launcher starts this before the database is there, and then says where it is.
    parser.add_argument("--database-from-stdin", action="store_true", help="read the database's address from standard input")
    options = parser.parse_args(words)
    environ = os.environ | ({"MUDLAMP_DATABASE_URL": sys.stdin.readline().strip()} if options.database_from_stdin else {})
    settings = read_settings(environ)
    set_up_logs(settings.run_dir)
    house = open_house(settings, fresh=options.fresh, prepare=_warm)
    if is_loopback(options.host):
        _server(make_app(house), options.host, options.port).run()
    else:
        _serve_others(house, options.host, options.port)
    return 0


def _warm() -> None:
    warm_up()
    warm_planner()
    # What is loaded by now stays: looking through it for garbage cost a page in ten a fifth of a second.
    gc.collect()
    gc.freeze()
    gc.set_threshold(*COLLECTED)


def _serve_others(house: House, host: str, port: int) -> None:
    """Serve other machines: https on the port, and plain http on the next, where they learn what to trust."""
    addresses = own_addresses()
    made = certificates(house.settings.run_dir, addresses, now=house.now())
    app = make_app(house, Doors(hosts=(NAME, *addresses), port=port, authority=made.authority))
    secure = _server(app, host, port, ssl_certfile=str(made.leaf), ssl_keyfile=str(made.key))
    plain = _Follower(_config(app, host, port + 1, lifespan="off"))
    with lasting_name(port):
        asyncio.run(_both(secure, plain))


async def _both(secure: uvicorn.Server, plain: "_Follower") -> None:
    beside = asyncio.create_task(plain.serve())
    await secure.serve()
    plain.should_exit = True
    await beside


class _Follower(uvicorn.Server):
    """A server beside another one, which is the one that signals end."""

    @contextlib.contextmanager
    def capture_signals(self) -> Iterator[None]:
        yield


def _server(app: FastAPI, host: str, port: int, **more: Any) -> uvicorn.Server:
    return uvicorn.Server(_config(app, host, port, **more))


def _config(app: FastAPI, host: str, port: int, **more: Any) -> uvicorn.Config:
    return uvicorn.Config(
        app,
        host=host,
        port=port,
        log_config=None,
        ws_per_message_deflate=False,
        ws_max_size=LONGEST_MESSAGE,
        timeout_graceful_shutdown=3,
        server_header=False,
        # Nobody stands between: an address is what the socket says.
        proxy_headers=False,
        **more,
    )
