"""`serve`: what `./lamp up` runs once the database is there. Migrates, loads the demo, serves."""

import datetime as dt
import threading

from mudlamp.cli.arguments import Parser, ranged
from mudlamp.services.demo import ensure_demo
from mudlamp.services.logs import set_up_logs
from mudlamp.services.settings import read_settings
from mudlamp.services.warm import warm_planner, warm_up
from mudlamp.store import log as store
from mudlamp.store.database import connect, ensure_database, migrate


def run(words: list[str]) -> int:
    """Serve until told to stop."""
    parser = Parser(prog="lamp serve", description="Serve on a database that runs already (./lamp up does more).")
    parser.add_argument("--host", default="127.0.0.1")
    parser.add_argument("--port", type=ranged(1, 65535, whole=True), default=8470)
    parser.add_argument("--fresh", action="store_true", help="empty the database first")
    options = parser.parse_args(words)
    settings = read_settings()
    set_up_logs(settings.run_dir)
    ensure_database(settings.database_url)
    engine = connect(settings.database_url)
    migrate(engine)
    if options.fresh:
        store.empty(engine)
    store.mark_interrupted(engine, now=dt.datetime.now(dt.UTC))
    # Neither may keep the first page waiting: kernels compile and the demo is made while the door is open already.
    threading.Thread(target=_warm, name="warm-up", daemon=True).start()
    threading.Thread(target=ensure_demo, args=(engine,), name="demo", daemon=True).start()
    _serve(engine, settings, host=options.host, port=options.port)
    return 0


def _warm() -> None:
    warm_up()
    warm_planner()


def _serve(engine: object, settings: object, *, host: str, port: int) -> None:
    import uvicorn

    from mudlamp.web.app import make_app

    app = make_app(engine, settings)  # type: ignore[arg-type]
    uvicorn.run(app, host=host, port=port, log_config=None, ws_per_message_deflate=False, timeout_graceful_shutdown=3, server_header=False)
