"""`./lamp screens`: remake docs/screenshots/ from the demo."""

import os
import sys
from pathlib import Path

from mudlamp.cli.arguments import Parser
from mudlamp.cli.browser import WIDE, browser, running

PHONE = {"width": 390, "height": 844}


def run(words: list[str]) -> int:
    """Take the pictures."""
    Parser(prog="lamp screens", description="Remake docs/screenshots/ from the demo.").parse_args(words)
    folder = Path(os.environ.get("MUDLAMP_ROOT", ".")) / "docs" / "screenshots"
    folder.mkdir(parents=True, exist_ok=True)
    with running() as address, browser() as chromium:
        for name, path, theme, size, wait_ms in (
            ("lamp-noon", "/", "noon", WIDE, 24000),
            ("lamp-dusk", "/", "dusk", WIDE, 24000),
            ("lamp-phone", "/", "noon", PHONE, 12000),
            ("log", "/log?demo=true", "noon", WIDE, 800),
            ("session", "", "noon", WIDE, 800),
            ("status", "/status", "dusk", WIDE, 800),
        ):
            context = chromium.new_context(viewport=size)  # type: ignore[arg-type]
            context.add_cookies([{"name": "lamp_theme", "value": theme, "url": address}])
            page = context.new_page()
            page.goto(address + (path or "/log?demo=true"))
            if not path:
                page.locator("tr", has_text="Gray and on").locator("a").first.click()
            page.wait_for_timeout(wait_ms)
            page.screenshot(path=str(folder / f"{name}.png"))
            print(f"{name}.png", file=sys.stderr)
            context.close()
    return 0
