"""The angler's own screen in words: its shape, and the lure on it."""

from mudlamp.core.receiver.screen import EASY_ARCMIN, LEAST_ARCMIN, MarkOnScreen

# Stretched by less than this, either way, nobody minds (ours).
NEAR_TRUE = 1.25


def shape_words(stretch: float) -> str:
    """Return how true a picture is whose depth is drawn so many times too large against its distance."""
    if 1.0 / NEAR_TRUE < stretch < NEAR_TRUE:
        return "near true"
    return f"{stretch:.1f} times too tall" if stretch > 1.0 else f"{1.0 / stretch:.1f} times too wide"


def lure_words(mark: MarkOnScreen | None) -> str:
    """Return whether the lure can be seen on the screen, with its size and contrast."""
    if mark is None:
        return "out of the beam"
    size = f"{mark.across_px:.0f} by {mark.down_px:.0f} pixels, {mark.arcmin:.1f} minutes of arc"
    if mark.arcmin < LEAST_ARCMIN:
        return f"too small to see: {size}"
    if not mark.seen:
        return f"too faint to see: {size}, contrast {mark.contrast:.0f}"
    return f"{'easy' if mark.arcmin >= EASY_ARCMIN else 'small'} to see: {size}, contrast {mark.contrast:.0f}"
