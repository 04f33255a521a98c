"""Who does work over many waters: local processes, or a Dask cluster that is there already."""

import os
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from types import TracebackType
from typing import Any, Self, TypeVar

from mudlamp.core.errors import DomainError

Item = TypeVar("Item")
Result = TypeVar("Result")

ADDRESS_STARTS = ("tcp://", "tls://")
# So often work is tried again that a worker died over; and so long a scheduler is waited for [s].
RETRIES, PATIENCE_S = 3, 10


class Crew:
    """Workers for as long as the `with` lasts. Work and items travel to other processes, so both must be picklable."""

    def __init__(self, *, workers: int | None = None, cluster: str | None = None) -> None:
        """Call a crew: `workers` local processes (all cores by default), or the `cluster` of a scheduler's address, tcp://HOST:PORT.

        Raises DomainError for an address that is none, where nobody answers, or where Dask is not installed.
        """
        self.workers = workers or os.cpu_count() or 1
        self._pool: ProcessPoolExecutor | None = None
        self._client: Any = None
        if cluster is None:
            self._pool = ProcessPoolExecutor(self.workers)
        else:
            self._client = _client(cluster)
            self.workers = max(len(self._client.scheduler_info()["workers"]), 1)

    def __enter__(self) -> Self:
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None) -> None:
        if self._pool is not None:
            self._pool.shutdown(cancel_futures=kind is not None)
        else:
            self._client.close()

    def each(self, work: Callable[[Item], Result], items: Sequence[Item]) -> Iterator[Result]:
        """Yield the work's result for each item, in their order; a killed cluster worker's work is done again by another."""
        if self._pool is not None:
            yield from self._pool.map(work, items)
            return
        for one in self._client.map(work, items, retries=RETRIES, pure=False):
            yield one.result()


def _client(address: str) -> Any:
    """Return a client of a cluster."""
    if not address.startswith(ADDRESS_STARTS) or ":" not in address.partition("://")[2]:
        raise DomainError(f"cluster is {address[:60]}: it must be a scheduler's address, such as tcp://127.0.0.1:8786")
    try:
        # Imported here: it comes with what the tests need, and nobody without a cluster needs it.
        from distributed import Client
    except ImportError:
        raise DomainError(
            f"cluster is {address[:60]}: Dask is not installed here; ./lamp test installs it with what the tests need"
        ) from None
    try:
        return Client(address, timeout=PATIENCE_S, set_as_default=False)  # type: ignore[no-untyped-call]
    except (OSError, TimeoutError):
        raise DomainError(f"cluster is {address[:60]}: no scheduler answers there; it must be running") from None
