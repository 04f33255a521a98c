"""`./lamp bench log`: the log's pages at ten thousand shots, as a browser on this machine waits for them."""

import re
import secrets
import statistics
import time
import urllib.request
import uuid
from typing import Any

from mudlamp.cli.browser import running
from mudlamp.services.bench.month import heavy_month

TIMES, QUICK_TIMES = 15, 4
# A page that holds this waits for an archive still.
JOB = re.compile(r"/log/keep/reading/[0-9a-f-]+")
PAGES = {
    "log": "/log",
    "trip": "/log/trips/{trip}",
    "session": "/log/{session}",
    "shots": "/log/shots",
    "shots, page 150": "/log/shots?page=150",
    "shots, narrowed": "/log/shots?token=bit&outcome=landed&least_ft=20",
    "shots, sorted": "/log/shots?order=out&up=true&page=40",
    "search": "/log/search?q=pear+tree",
    "review": "/log/review",
    "spots": "/log/spots",
    "in and out": "/log/keep",
    "catch": "/log/catches/{catch}/edit",
}
SLOW = {
    "review, worked out": "/log/review?source=simulated",
    "shots as CSV": "/log/keep/shots.csv",
    "shots as Parquet": "/log/keep/shots.parquet",
}


def bench_log(*, quick: bool) -> dict[str, Any]:
    """Return how long each page takes [ms], the middle and the longest of some; what is worked out, the first time and after.

    `yardstick_ms` is how long the machine took for the same work between pages: a busy or a slow one shows there, not in the pages alone.
    """
    # Other keys each time: what an earlier run read in is another browser's.
    data, keys = heavy_month(secrets.randbelow(2**31))
    with running() as address:
        cookie, took_s = _filled(address, data)
        pages, yardstick = {}, []
        for name, path in PAGES.items():
            yardstick.append(_yardstick_ms())
            pages[name] = _timed(address + path.format(**keys), cookie, QUICK_TIMES if quick else TIMES)
        slow = {name: _slow(address + path, cookie) for name, path in SLOW.items()}
        yardstick.append(_yardstick_ms())
    return {
        "shots": 10020,
        "yardstick_ms": {"least": round(min(yardstick), 1), "most": round(max(yardstick), 1)},
        "read_archive_s": round(took_s, 1),
        "page_ms": {name: {"middle": round(statistics.median(found), 1), "longest": round(max(found), 1)} for name, found in pages.items()},
        "slowest_middle_ms": round(max(statistics.median(found) for found in pages.values()), 1),
        "worked_out_ms": slow,
    }


def _yardstick_ms() -> float:
    """Return how long a fixed piece of plain Python takes [ms]: on a quick machine with nothing else to do some 30."""
    started = time.perf_counter()
    sum(range(500_000)) + sum(number * number for number in range(250_000))
    return 1000.0 * (time.perf_counter() - started)


def _filled(address: str, data: bytes) -> tuple[str, float]:
    """Read the month into the account of a browser of its own; return its cookie, and how long that took [s]."""
    edge = uuid.uuid4().hex
    body = b"".join(
        (
            f'--{edge}\r\nContent-Disposition: form-data; name="archive"; filename="a.zip"\r\n\r\n'.encode(),
            data,
            f"\r\n--{edge}--\r\n".encode(),
        )
    )
    with urllib.request.urlopen(f"{address}/log", timeout=60.0) as answer:  # noqa: S310 - our own loopback address
        cookie = "; ".join(line.split(";")[0] for line in answer.headers.get_all("Set-Cookie") or ())
    headers = {"Origin": address, "Cookie": cookie, "Content-Type": f"multipart/form-data; boundary={edge}"}
    request = urllib.request.Request(f"{address}/log/keep/archive", data=body, headers=headers)  # noqa: S310
    started = time.monotonic()
    with urllib.request.urlopen(request, timeout=300.0) as answer:  # noqa: S310
        text = answer.read().decode()
    while (job := JOB.search(text)) is not None:
        time.sleep(0.1)
        follow = urllib.request.Request(f"{address}{job[0]}", headers={"Cookie": cookie, "HX-Request": "true"})  # noqa: S310
        with urllib.request.urlopen(follow, timeout=60.0) as answer:  # noqa: S310
            text = answer.read().decode()
    return cookie, time.monotonic() - started


def _once(url: str, cookie: str, *, is_part: bool = False) -> float:
    headers = {"Cookie": cookie} | ({"HX-Request": "true"} if is_part else {})
    started = time.monotonic()
    with urllib.request.urlopen(urllib.request.Request(url, headers=headers), timeout=120.0) as answer:  # noqa: S310
        answer.read()
    return 1000.0 * (time.monotonic() - started)


def _timed(url: str, cookie: str, times: int) -> list[float]:
    _once(url, cookie)
    return [_once(url, cookie) for _ in range(times)]


def _slow(url: str, cookie: str) -> dict[str, float]:
    first = _once(url, cookie, is_part=True)
    return {"first": round(first, 1), "again": round(_once(url, cookie, is_part=True), 1)}
