"""`serve`: what `./lamp up` runs once the database is there. Migrates, loads the demo, serves."""

import os
import sys

import uvicorn

from mudlamp.cli.arguments import Parser, ranged
from mudlamp.services.house import House, open_house
from mudlamp.services.logs import set_up_logs
from mudlamp.services.settings import read_settings
from mudlamp.services.warm import warm_planner, warm_up
from mudlamp.web.app import make_app

# A command takes less; a longer message closes its socket.
LONGEST_MESSAGE = 65_536


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
    _serve(open_house(settings, fresh=options.fresh, prepare=_warm), host=options.host, port=options.port)
    return 0


def _warm() -> None:
    warm_up()
    warm_planner()


def _serve(house: House, *, host: str, port: int) -> None:
    app = make_app(house)
    uvicorn.run(
        app,
        host=host,
        port=port,
        log_config=None,
        ws_per_message_deflate=False,
        ws_max_size=LONGEST_MESSAGE,
        timeout_graceful_shutdown=3,
        server_header=False,
    )
