"""What needs a running Mud Lamp and a browser: the live benchmark, and the pictures for the documentation."""

import contextlib
import os
import socket
import subprocess
import time
import urllib.request
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from playwright.sync_api import Browser, Page, sync_playwright

from mudlamp.core.errors import UnavailableError

CHROMIUM = "/usr/bin/chromium"
FLAGS = ("--disable-quic", "--no-first-run", "--disable-background-networking", "--disable-component-update", "--disable-sync")
WIDE = {"width": 1280, "height": 800}
START_S = 60.0


@contextlib.contextmanager
def running(*, fresh: bool = False) -> Iterator[str]:
    """Run `./lamp up` on a free port, apart from the angler's own database; yield its address; stop it. `fresh` empties that one first."""
    root = Path(os.environ.get("MUDLAMP_ROOT", "."))
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    process = subprocess.Popen(
        [str(root / "lamp"), "up", "--port", str(port), *(["--fresh"] if fresh else [])],
        stdout=subprocess.DEVNULL,
        stderr=subprocess.PIPE,
        text=True,
        env=os.environ | {"MUDLAMP_APART": "1"},
    )
    address = f"http://127.0.0.1:{port}"
    try:
        deadline = time.monotonic() + START_S
        while not _answers(f"{address}/healthz"):
            if process.poll() is not None or time.monotonic() > deadline:
                said = process.stderr.read() if process.stderr and process.poll() is not None else ""
                raise UnavailableError(f"./lamp up did not start: {said.strip().splitlines()[-1] if said.strip() else 'no answer'}")
            time.sleep(0.2)
        yield address
    finally:
        process.terminate()
        process.wait(15)


def _answers(url: str) -> bool:
    try:
        with urllib.request.urlopen(url, timeout=1.0) as answer:  # noqa: S310 - our own loopback address
            return bool(answer.status == 200)
    except OSError:
        return False


@contextlib.contextmanager
def browser() -> Iterator[Browser]:
    """Yield Debian's headless Chromium."""
    with sync_playwright() as play:
        found = play.chromium.launch(executable_path=CHROMIUM, args=list(FLAGS))
        yield found
        found.close()


def bench_live(*, seconds: float) -> dict[str, Any]:
    """Return what the Lamp page itself reads while Gain moves about for so long [s]: with one picture, then with the twin picture."""
    with running() as address, browser() as chromium:
        page = chromium.new_page(viewport=WIDE)  # type: ignore[arg-type]
        page.goto(address)
        page.wait_for_selector('[data-line="up"]')
        # The first seconds compile and warm up; they are not what an angler sees.
        page.wait_for_timeout(8000)
        alone = _moved_about(page, seconds)
        page.click('[data-bench="twin"]')
        page.wait_for_timeout(4000)
        return {**alone, **{f"twin_{name}": value for name, value in _moved_about(page, seconds).items()}}


def _moved_about(page: Page, seconds: float) -> dict[str, Any]:
    gain = page.locator('input[name="gain"]')
    pictures = []
    end = time.monotonic() + seconds
    value = 50
    while time.monotonic() < end:
        value = 50 + (value - 49) % 30
        gain.fill(str(value))
        page.wait_for_timeout(400)
        pictures.append(_reading(page, "pictures-per-second"))
    return {
        "pictures_per_s": round(sum(pictures) / len(pictures), 1),
        "least_pictures_per_s": min(pictures),
        "control_to_picture_ms_p95": _reading(page, "control-to-picture-ms"),
        "dropped_frames": _reading(page, "dropped-frames"),
    }


def _reading(page: Page, name: str) -> float:
    text = page.locator(f'[data-reading="{name}"]').inner_text()
    return float(text) if text.replace(".", "").isdigit() else 0.0
