"""Pictures of a card's water, as the angler's unit would draw them: by the real receiver, from pings recorded once and kept a while."""

import io
import math
import threading
import uuid
from collections import OrderedDict
from dataclasses import dataclass, replace

import numpy as np
from PIL import Image, ImageDraw

from mudlamp.core.advice.autotune import SETTLED_S
from mudlamp.core.advice.looks import LARGE
from mudlamp.core.controls import DOWN_TO, QUIETING, REACH, WINDOW
from mudlamp.core.errors import require_choice
from mudlamp.core.ping import Ping
from mudlamp.core.plane import FanPlane
from mudlamp.core.receiver.chain import MOST_PINGS, Receiver
from mudlamp.core.receiver.drawn import Frame, drawn, frame_about
from mudlamp.core.receiver.inks import INKS
from mudlamp.core.scene.truth import TruthRow
from mudlamp.core.setup import Setting, Setup, Window, with_settings
from mudlamp.services.cards import advising
from mudlamp.services.cards.stored import StoredPlan

# Recordings that are kept; each is some 3 MB.
KEPT = 6
# Sizes [px], and what of the water a close picture shows about the fish: so far to each side [m].
SIZES_PX = {"small": (304, 190), "medium": (620, 388), "large": (1000, 620)}
CLOSE_M = (3.6, 2.25)
LOOKS = 2
RING_M, RING_PX = 0.45, 12.0
RINGS = {"noon": (91, 31, 94, 255), "dusk": (205, 182, 240, 255)}


@dataclass(frozen=True, slots=True, kw_only=True)
class _Heard:
    """The last pings on a card's water, and the truth beside the newest."""

    pings: tuple[Ping, ...]
    truth: tuple[TruthRow, ...]


class Pictures:
    """Pictures of cards' waters; recordings are made one at a time and the last few are kept."""

    def __init__(self) -> None:
        self._kept: OrderedDict[tuple[uuid.UUID, bool], _Heard] = OrderedDict()
        self._lock = threading.Lock()

    def png(self, key: uuid.UUID, plan: StoredPlan, setup: Setup, *, changed: Setting | None = None, size: str = "small") -> bytes:
        """Return a PNG of a card's water under a set-up with one control changed, the jig and a fish ringed.

        A window, Quieting (spokes are anywhere) and a picture that is not small show all that the window shows, the others what is about the fish. Raises DomainError for
        a size that is none.
        """
        require_choice("size", size, tuple(SIZES_PX))
        settings = () if changed is None else (changed,)
        window, receiver = with_settings(setup.window, *settings), with_settings(setup.receiver, *settings)
        wide = window.reach_m > plan.card.window.reach_m or window.down_to_m > plan.card.window.down_to_m
        heard = self._heard(key, plan, wide=wide)
        developer = Receiver(receiver)
        developer.settling_s = SETTLED_S
        for ping in heard.pings:
            picture = developer.develop(ping)
        newest = heard.pings[-1]
        rings = _ringed(heard.truth, newest)
        whole = size != "small" or changed is None or changed.control in (*WINDOW, QUIETING)
        frame = _whole(window, SIZES_PX[size]) if whole else _close(rings, window)
        image = Image.fromarray(drawn(newest, picture, receiver.ink, window, frame, looks=LOOKS if size == "small" else 1), "RGBA")
        _ring(image, rings, frame, RINGS[INKS[receiver.ink].theme])
        return _png(image)

    def _heard(self, key: uuid.UUID, plan: StoredPlan, *, wide: bool) -> _Heard:
        with self._lock:
            if (key, wide) in self._kept:
                self._kept.move_to_end((key, wide))
                return self._kept[key, wide]
            found = _listened(plan, wide=wide)
            self._kept[key, wide] = found
            while len(self._kept) > KEPT:
                self._kept.popitem(last=False)
            return found


def _listened(plan: StoredPlan, *, wide: bool) -> _Heard:
    """Record a card's own water, the first of those that its costs are measured on; wide enough for a window that is too large, if asked."""
    card, aboard = plan.card, plan.aboard
    window = card.window
    if wide:
        window = replace(window, reach_m=REACH.held(LARGE * window.reach_m), down_to_m=DOWN_TO.held(LARGE * window.down_to_m))
    batch = advising.batch_of(card, aboard, seed=advising.seed_of(plan.answers, aboard), window=window)
    truth = batch.samples[-1][1] or ()
    return _Heard(pings=tuple(ping for ping, _ in batch.samples[-MOST_PINGS:]), truth=tuple(truth))


def _ringed(truth: tuple[TruthRow, ...], ping: Ping) -> list[tuple[float, float]]:
    """Return where the jig is drawn, and the fish that the fan lights best, clear of the jig if one is: ahead and down [m]."""
    plane = FanPlane.drawn(ping)

    def place(row: TruthRow) -> tuple[float, float]:
        ahead, down = plane.place(np.array([row.range_m]), np.array([row.angle_rad]))
        return float(ahead[0]), float(down[0])

    places = [place(row) for row in truth if row.kind == "lure"][:1]
    fish = sorted((row for row in truth if row.kind == "fish"), key=lambda row: (not row.seen, -row.over_db))
    clear = [row for row in fish if row.seen and all(math.dist(place(row), other) > 2.0 * RING_M for other in places)]
    return [*places, *(place(row) for row in (clear or fish)[:1])]


def _whole(window: Window, size_px: tuple[int, int]) -> Frame:
    width, height = size_px
    return frame_about(-window.look_back_m, window.reach_m, 0.0, window.down_to_m, width_px=width, height_px=height)


def _close(rings: list[tuple[float, float]], window: Window) -> Frame:
    """Return a frame about what is ringed, kept within the window where there is room."""
    width, height = SIZES_PX["small"]
    ahead = sum(place[0] for place in rings) / len(rings) if rings else 0.5 * window.reach_m
    down = sum(place[1] for place in rings) / len(rings) if rings else 0.5 * window.down_to_m
    across, deep = CLOSE_M
    ahead = min(max(ahead, across - window.look_back_m), max(window.reach_m - across, across - window.look_back_m))
    down = min(max(down, deep), max(window.down_to_m - deep, deep))
    return frame_about(ahead - across, ahead + across, down - deep, down + deep, width_px=width, height_px=height)


def _ring(image: Image.Image, places: list[tuple[float, float]], frame: Frame, color: tuple[int, int, int, int]) -> None:
    pen = ImageDraw.Draw(image)
    px_m = frame.width_px / (frame.right_m - frame.left_m)
    radius = max(RING_M * px_m, RING_PX)
    for ahead, down in places:
        x, y = frame.pixel(ahead, down)
        pen.ellipse((x - radius, y - radius, x + radius, y + radius), outline=color, width=3)


def _png(image: Image.Image) -> bytes:
    out = io.BytesIO()
    image.save(out, "PNG")
    return out.getvalue()
