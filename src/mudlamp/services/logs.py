"""Structured logs, to standard error and to .run/log/ (10 MB, five files)."""

import logging
import logging.handlers
from pathlib import Path

import structlog
from structlog.typing import Processor

LARGEST_BYTES = 10_000_000
FILES = 5


def set_up_logs(run_dir: Path, *, name: str = "mudlamp") -> None:
    """Send structlog's and the standard library's records to both places, as JSON lines; the file is `name`.log."""
    folder = run_dir / "log"
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    shared: list[Processor] = [
        structlog.contextvars.merge_contextvars,
        structlog.processors.add_log_level,
        structlog.processors.TimeStamper(fmt="iso", utc=True),
    ]
    formatter = structlog.stdlib.ProcessorFormatter(
        foreign_pre_chain=[*shared],
        processors=[
            structlog.stdlib.ProcessorFormatter.remove_processors_meta,
            structlog.processors.format_exc_info,
            structlog.processors.JSONRenderer(),
        ],
    )
    handlers: list[logging.Handler] = [
        logging.StreamHandler(),
        logging.handlers.RotatingFileHandler(folder / f"{name}.log", maxBytes=LARGEST_BYTES, backupCount=FILES - 1),
    ]
    root = logging.getLogger()
    root.handlers = []
    for handler in handlers:
        handler.setFormatter(formatter)
        root.addHandler(handler)
    root.setLevel(logging.INFO)
    for noisy in ("uvicorn.access", "alembic", "numba"):
        logging.getLogger(noisy).setLevel(logging.WARNING)
    structlog.configure(
        processors=[*shared, structlog.stdlib.ProcessorFormatter.wrap_for_formatter],
        logger_factory=structlog.stdlib.LoggerFactory(),
        wrapper_class=structlog.stdlib.BoundLogger,
        cache_logger_on_first_use=True,
    )
