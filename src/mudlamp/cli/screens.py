"""`./lamp screens`: remake docs/screenshots/ from the demo."""

import os
import sys
import time
import urllib.request
from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

from playwright.sync_api import Page

from mudlamp.cli.arguments import Parser
from mudlamp.cli.browser import WIDE, browser, running
from mudlamp.core.errors import UnavailableError, require_choice

TRIP = "Gray and on"
DEMO_S = 30.0
PHONE = {"width": 390, "height": 844}
SCENE_MS = 3500
# The fifth leads to Tune.
SCENES = {1: "scene-1-jig", 2: "scene-2-clean", 4: "scene-4-answer"}


class View(NamedTuple):
    """One picture: its file, page, theme, size, how long the page runs first [ms], what is done on it then."""

    name: str
    path: str
    theme: str
    size: dict[str, int] = WIDE
    wait_ms: int = 800
    act: Callable[[Page], None] = lambda page: None


def run(words: list[str]) -> int:
    """Take the pictures."""
    parser = Parser(prog="lamp screens", description="Remake docs/screenshots/ from the demo.")
    parser.add_argument("names", nargs="*", metavar="NAME", help=f"only these of {', '.join(view.name for view in VIEWS)} (default: all)")
    wanted = parser.parse_args(words).names
    for name in wanted:
        require_choice("name", name, [view.name for view in VIEWS])
    folder = Path(os.environ.get("MUDLAMP_ROOT", ".")) / "docs" / "screenshots"
    folder.mkdir(parents=True, exist_ok=True)
    with running(fresh=True) as address, browser() as chromium:
        _await_demo(address)
        for view in [one for one in VIEWS if not wanted or one.name in wanted]:
            context = chromium.new_context(viewport=view.size)  # type: ignore[arg-type]
            context.add_cookies([{"name": "lamp_theme", "value": view.theme, "url": address}])
            page = context.new_page()
            page.goto(address + view.path)
            if view.path == "/" and not view.name.startswith("scene-"):
                page.locator("#tour-end").click()
            page.wait_for_timeout(view.wait_ms)
            view.act(page)
            page.screenshot(path=str(folder / f"{view.name}.png"))
            print(f"{view.name}.png", file=sys.stderr)
            context.close()
    return 0


def _await_demo(address: str) -> None:
    """Wait until the demo's trips are in the log: a fresh database loads them while it serves already."""
    end = time.monotonic() + DEMO_S
    while time.monotonic() < end:
        with urllib.request.urlopen(f"{address}/log?demo=true", timeout=10.0) as answer:  # noqa: S310 - our own loopback address
            if TRIP.encode() in answer.read():
                return
        time.sleep(0.5)
    raise UnavailableError(f"the demo's trip {TRIP} is not in the log: it must be on its first page (./lamp up --fresh empties the log)")


def _twin(page: Page) -> None:
    """Clean beside what the page opened with."""
    page.click('[data-bench="twin"]')
    page.locator("#sides label", has_text="Set-up B").click()
    for name, step in (("quieting_pings", "3"), ("ghost_cut_db", "2"), ("near_cut_db", "2")):
        page.locator(f"input[name={name}]").fill(step)
    page.wait_for_timeout(9000)


def _truth(page: Page) -> None:
    """A set-up that hides the small ones, with the truth over it."""
    page.click('[data-bench="truth"]')
    page.locator("input[name=near_cut_db]").fill("3")
    page.locator("input[name=gain]").fill("46")
    page.wait_for_timeout(9000)


def _trip(page: Page) -> None:
    """One trip of the log, from its session."""
    page.locator("tr", has_text=TRIP).locator("a").first.click()
    page.click("text=its trip")
    page.wait_for_timeout(800)


ASKED = {"technique": "pitch", "target": "crappie", "clarity": "stained", "bottom": "sand"}
MEASURED_MS = 20_000


def _rig(page: Page) -> None:
    """The demo's rig, copied."""
    page.click("text=Make it mine")
    page.wait_for_timeout(1500)


def _card(page: Page) -> None:
    """A set-up card with its costs."""
    for name, value in ASKED.items():
        page.select_option(f"#f-{name}", value)
    page.fill("#f-depth_ft", "20")
    page.click("text=Build my card")
    page.wait_for_timeout(MEASURED_MS)


def _tuned(page: Page) -> None:
    """What auto-tune found, on a rig."""
    page.goto(page.url.replace("/tune", "/rig"))
    _rig(page)
    page.goto(page.url.replace("/rig", "/tune"))
    _card(page)
    page.click("text=Auto-tune")
    page.wait_for_timeout(MEASURED_MS)


def _moved(page: Page) -> None:
    """After a move, in the boat."""
    _card(page)
    page.click("#moved summary")
    page.fill("#m-depth_ft", "12")
    page.select_option("#m-clarity", "muddy")
    page.click("text=Show what changes")
    page.wait_for_timeout(MEASURED_MS)


def _boat(page: Page) -> None:
    """The demo's pack on a phone, a rig's rods on the chips."""
    page.goto(page.url.replace("/boat", "/rig"))
    _rig(page)
    page.goto(page.url.replace("/rig", "/boat?make="))
    page.wait_for_selector("body[data-ready=yes]", timeout=120_000)
    page.click("[data-tab=cast]")


def _boat_moved(page: Page) -> None:
    """What to set after a move."""
    _boat(page)
    page.click("[data-tab=setup]")
    for _ in range(6):
        page.click("#shallower")


def _scene(number: int) -> Callable[[Page], None]:
    """One of the five scenes of *Show me*, after its tap."""

    def act(page: Page) -> None:
        for _ in range(number):
            page.locator("#tour-next").click()
            page.wait_for_timeout(SCENE_MS)
        page.locator("#tour-act").click()
        page.wait_for_timeout(2 * SCENE_MS)

    return act


# The log comes first: what the other views do is in it afterwards.
def _searched(page: Page) -> None:
    """Plan, go for a while, point at something to the side."""
    page.click("text=Plan it")
    page.wait_for_selector("#planned li")
    page.click("#push-off")
    page.wait_for_selector("#push-off:text('Start over')", timeout=60_000)
    page.click('[data-pace="8"]')
    page.wait_for_timeout(50_000)
    page.click('[data-pace="0"]')
    page.wait_for_timeout(1500)
    page.mouse.click(1105, 330)
    page.wait_for_selector("#keep:not([hidden])")
    page.evaluate("window.scrollTo(0, 0)")
    page.wait_for_timeout(400)


VIEWS = (
    View("log", "/log", "noon"),
    View("find", "/find", "noon", wait_ms=1500, act=_searched),
    View("trip", "/log", "noon", act=_trip),
    View("tune-demo", "/tune", "noon"),
    View("lamp-noon", "/", "noon", wait_ms=24000),
    View("lamp-dusk", "/", "dusk", wait_ms=24000),
    View("lamp-phone", "/", "noon", size=PHONE, wait_ms=12000),
    *(View(name, "/", "noon", wait_ms=7000, act=_scene(number)) for number, name in SCENES.items()),
    View("bench-twin", "/", "noon", wait_ms=9000, act=_twin),
    View("bench-truth", "/", "noon", wait_ms=9000, act=_truth),
    View("cast", "/cast", "dusk"),
    View("boat", "/boat", "noon", size=PHONE, act=_boat),
    View("boat-setup", "/boat", "noon", size=PHONE, act=_boat_moved),
    View("rig", "/rig", "noon", act=_rig),
    View("tune", "/tune", "noon", act=_card),
    View("tune-auto", "/tune", "dusk", act=_tuned),
    View("tune-phone", "/tune", "noon", size=PHONE, act=_moved),
)
