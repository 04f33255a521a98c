"""What a session tells its viewers, as texts."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import asdict
from typing import Any

from mudlamp.core.ping import Ping
from mudlamp.core.receiver.inks import INKS
from mudlamp.core.receiver.screen import MarkOnScreen, Scales
from mudlamp.core.receiver.setup import Window
from mudlamp.core.scene.truth import TruthRow
from mudlamp.core.tracking.detect import PlaneGeometry
from mudlamp.core.tracking.track import Kind
from mudlamp.core.tracking.tracker import TrackView
from mudlamp.core.units import feet
from mudlamp.services.edge.controls import receiver_values, window_values
from mudlamp.services.live import frames
from mudlamp.services.live.pane import Pane
from mudlamp.services.water.simulated import Water
from mudlamp.services.words.readings import Estimate

SURE = 0.6


def water_values(water: Water) -> dict[str, Any]:
    """Return what a page must know of the water to draw it."""
    look = water.look
    return {
        "scene": water.name,
        "title": water.title,
        "source": water.source,
        "fan": look.fan.value,
        "tilt_rad": look.tilt_rad,
        "fan_rad": look.fan_rad,
        "thickness_rad": look.thickness_rad,
        "depth_m": look.depth_m,
        "farthest_m": look.farthest_m,
        "window": asdict(water.window),
        "scripted": water.scripted,
    }


def pane_values(pane: Pane, whole: Window) -> dict[str, Any]:
    """Return a pane's controls, what it shows of the window that the pings cover, its ink's colors, what auto said and how far Quieting has settled."""
    return {
        "controls": {**receiver_values(pane.setup), **window_values(pane.seen(whole))},
        "window": asdict(pane.seen(whole)),
        "ink": INKS[pane.setup.ink].table.tolist(),
        "auto": sorted(pane.auto),
        "why": pane.why,
        "settled_pct": round(pane.receiver.settled_pct),
    }


def track_values(track: TrackView, plane: PlaneGeometry) -> dict[str, Any]:
    """Return a track as the page draws it: `ahead_m`, and `other_m` down (or, under a flat fan, to the right)."""
    ahead_m, other_m = plane.from_boat(track.place)
    toward = plane.turned(track.velocity_m_s)
    return {
        "id": track.number,
        "kind": track.kind.value,
        "odds": round(track.odds[track.kind], 2),
        "ahead_m": round(ahead_m, 3),
        "other_m": round(other_m, 3),
        "range_m": round(track.range_m, 3),
        "angle_rad": round(track.angle_rad, 4),
        "length_in": round(feet(track.length_m) * 12.0 * 4.0) / 4.0,
        "speed_ft_s": round(feet(math.hypot(*track.velocity_m_s)), 2),
        "toward": [round(toward[0], 2), round(toward[1], 2)],
        "coasting": track.coasting,
    }


def truth_values(row: TruthRow, erased: Sequence[str]) -> dict[str, Any]:
    """Return an object that is really there: where, how large, whether any picture could show it, whether the present one has erased it."""
    turned = 0.0 if row.heading_rad is None else row.heading_rad
    return {
        "id": row.id,
        "kind": row.kind,
        "species": row.species,
        "across_m": round(row.range_m * math.sin(row.across_rad), 3),
        "range_m": round(row.range_m, 3),
        "angle_rad": round(row.angle_rad, 4),
        "radius_m": row.radius_m,
        "length_m": row.length_m,
        "heading_rad": round(turned, 2),
        "seen": row.seen,
        "erased": row.id in erased,
    }


def tracks_text(ping: Ping, water: Water, tracks: Sequence[TrackView], truth: Sequence[TruthRow] | None, erased: Sequence[str]) -> str:
    """Return the text that goes with a ping: what is followed, what is really there, what the lure does."""
    plane = PlaneGeometry(ping)
    shots = water.shots
    return frames.text(
        "tracks",
        {
            "ping": ping.number,
            "time_s": ping.time_s,
            "tracks": [track_values(track, plane) for track in tracks if track.kind in (Kind.FISH, Kind.LURE)],
            "bait": [track_values(track, plane) for track in tracks if track.kind is Kind.BAIT],
            "lure": water.lure,
            "heading_rad": ping.pose.heading_rad,
            "truth": [truth_values(row, erased) for row in truth or ()],
            "cover": [asdict(one) for one in water.outlines()],
            "shot": shots[-1].number if shots and shots[-1].end_s is None else None,
        },
    )


def estimate_of(tracks: Sequence[TrackView]) -> Estimate:
    """Return what the tracker makes of a ping: how many fish it follows, how many surely, whether it has the lure."""
    fish = [track for track in tracks if track.kind is Kind.FISH]
    sure = sum(track.odds[Kind.FISH] >= SURE and not track.coasting for track in fish)
    return Estimate(sure=sure, followed=len(fish), lure=any(track.kind is Kind.LURE for track in tracks))


def screen_values(scale: Scales, mark: MarkOnScreen | None) -> dict[str, Any]:
    """Return the angler's own screen in words: its two scales, and the lure on it."""
    stretch = scale.stretch
    shape = (
        "near true" if 0.8 < stretch < 1.25 else f"{stretch:.1f} times too tall" if stretch > 1.0 else f"{1.0 / stretch:.1f} times too wide"
    )
    answer: Mapping[str, Any] = {
        "across_px_ft": round(scale.across_px_m * 0.3048, 1),
        "down_px_ft": round(scale.down_px_m * 0.3048, 1),
        "stretch": round(stretch, 3),
        "shape": shape,
    }
    if mark is None:
        return {**answer, "lure": "out of the beam"}
    size = f"{mark.across_px:.0f} by {mark.down_px:.0f} pixels, {mark.arcmin:.1f} minutes of arc"
    if mark.arcmin < 1.0:
        return {**answer, "lure": f"too small to see: {size}"}
    if not mark.seen:
        return {**answer, "lure": f"too faint to see: {size}, contrast {mark.contrast:.0f}"}
    return {**answer, "lure": f"{'easy' if mark.arcmin >= 4.0 else 'small'} to see: {size}, contrast {mark.contrast:.0f}"}
