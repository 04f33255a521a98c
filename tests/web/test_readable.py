"""Readable in the sun: contrast of the themes' colors, outlines and text sizes, computed from the style sheet and the scripts."""

import re
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parents[2] / "src" / "mudlamp" / "web" / "static"
CSS = (ROOT / "src" / "app.css").read_text()


def theme(name):
    block = re.search(rf'\[data-theme="{name}"\] \{{(.*?)\}}', CSS, re.S)[1]
    return dict(re.findall(r"--([a-z-]+): (#[0-9a-f]{6})", block))


def luminance(color):
    """Relative luminance (WCAG 2.2, from IEC 61966-2-1)."""
    parts = [int(color[at : at + 2], 16) / 255.0 for at in (1, 3, 5)]
    linear = [one / 12.92 if one <= 0.04045 else ((one + 0.055) / 1.055) ** 2.4 for one in parts]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def contrast(one, other):
    bright, dark = sorted((luminance(one), luminance(other)), reverse=True)
    return (bright + 0.05) / (dark + 0.05)


@pytest.mark.parametrize(("name", "least"), [("noon", 7.0), ("dusk", 4.5)])
def test_text_stands_out_from_what_it_is_written_on(name, least):
    # WCAG 2.2: AA is 4.5 to 1, AAA 7 to 1; Noon is for the sun.
    colors = theme(name)
    for ground in ("ground", "paper"):
        for text in ("ink", "muted", "accent", "good", "fair", "bad"):
            assert contrast(colors[text], colors[ground]) >= least, (text, ground)
    assert contrast(colors["on-ink"], colors["ink"]) >= least
    assert contrast(colors["ink"], colors["soft"]) >= least


@pytest.mark.parametrize("name", ["noon", "dusk"])
def test_controls_have_an_outline_that_can_be_seen(name):
    # WCAG 2.2, 1.4.11: 3 to 1.
    colors = theme(name)
    for outline in ("edge", "ink", "accent", "band"):
        for ground in ("ground", "paper"):
            assert contrast(colors[outline], colors[ground]) >= 3.0, (outline, ground)
    for control in (r"\.button \{", r"\.bench button", r"\.steps span \{", r"\.where-button \{", r"\.theme-switch \{"):
        rule = re.search(control + r"[^}]*\}?[^}]*", CSS)[0]
        assert "border: 2px solid" in rule, control


def test_no_text_is_under_sixteen_pixels():
    sizes = [float(size) for size in re.findall(r"font-size: ([0-9.]+)rem", CSS)]
    assert sizes
    assert min(sizes) >= 1.0
    drawn = {
        (path.name, int(size))
        for path in (ROOT / "js").rglob("*.js")
        for size in re.findall(r'"(?:\d+ )?(\d+)px Atkinson', path.read_text())
    }
    assert drawn
    assert min(size for _, size in drawn) >= 16
