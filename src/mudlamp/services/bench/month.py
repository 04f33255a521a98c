"""A heavy month made from a seed, as an archive: thirty trips, ten thousand shots with what fish did, catches, weather, moves."""

import datetime as dt
import hashlib
import io
import uuid
import zipfile
from typing import Any

import numpy as np
import orjson

from mudlamp.services.keep.archive import CARD, FORMAT, VERSION
from mudlamp.store import keep as store

TRIPS, SHOTS_A_TRIP = 30, 334
FIRST = dt.datetime(2026, 10, 1, 12, 0, tzinfo=dt.UTC)
TOKENS, LURES, SKIES = (
    ("looked", "followed", "bit", "refused", "spooked", "no_answer"),
    ("jig", "minnow", "swimbait"),
    ("bright", "cloud", "dark"),
)
WORDS = ("pear tree", "mill wall", "channel", "ledge", "brush", "fog till ten", "wind from the mill side")
Row = dict[str, Any]


def heavy_month(seed: int) -> tuple[bytes, dict[str, str]]:
    """Return an archive's bytes, and the keys of a trip, a session and a catch of it."""
    rng = np.random.default_rng(seed)

    def key() -> str:
        return str(uuid.UUID(bytes=rng.bytes(16)))

    tables: dict[str, list[Row]] = {
        name: [] for name in ("trip", "session", "setup_change", "shot", "reaction", "condition", "move", "catch")
    }
    for number in range(TRIPS):
        _trip(tables, rng, key, FIRST + dt.timedelta(days=number), number)
    parts = {f"tables/{name}.jsonl": b"".join(orjson.dumps(row) + b"\n" for row in rows) for name, rows in tables.items()}
    card = {
        "format": FORMAT,
        "version": VERSION,
        "schema_number": store.SCHEMA,
        "made_at": FIRST.isoformat(),
        "angler": {"id": key()},
        "rows": {name: len(rows) for name, rows in tables.items()},
        "digests": {name: hashlib.sha256(data).hexdigest() for name, data in parts.items()},
    }
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as archive:
        for name, data in (*parts.items(), (CARD, orjson.dumps(card))):
            archive.writestr(name, data)
    return out.getvalue(), {name: tables[name][-1]["id"] for name in ("trip", "session", "catch")}


def _trip(tables: dict[str, list[Row]], rng: np.random.Generator, key: Any, day: dt.datetime, number: int) -> None:
    trip, session = key(), key()
    hours = dt.timedelta(hours=6)
    word, lure = WORDS[number % len(WORDS)], LURES[number % len(LURES)]
    tables["trip"].append(
        {"id": trip, "owner": None, "source": "simulated", "title": f"Day {number + 1}, {word}", "water": "Harl Mill Reservoir", "day": day.isoformat(), "notes": word, "people": [], "goal": "table", "rig_id": None, "started_at": day.isoformat(), "ended_at": (day + hours).isoformat(), "deleted_at": None}
    )  # fmt: skip
    tables["session"].append(
        {"id": session, "owner": None, "source": "simulated", "trip_id": trip, "angler_id": None, "device": None, "scene": "pear-tree", "title": f"Pear tree, {word}", "seed": number, "state": "ended", "started_at": day.isoformat(), "ended_at": (day + hours).isoformat(), "known": {"lure": lure, "water_degc": 14.4, "clarity": "stained"}, "deleted_at": None}
    )  # fmt: skip
    for change in range(20):
        tables["setup_change"].append(
            {"id": key(), "session_id": session, "session_s": 900.0 * change, "values": {"gain": float(rng.integers(55, 75))}}
        )
    for shot in range(SHOTS_A_TRIP):
        _shot(tables, rng, key, session, day, shot)
    for hour in range(6):
        at = (day + dt.timedelta(hours=hour)).isoformat()
        tables["condition"].append(
            {"id": key(), "trip_id": trip, "at": at, "sky": SKIES[number % 3], "wind_m_s": 3.0, "wind_from_rad": 1.0, "air_degc": 12.0, "water_degc": 14.4, "clarity": "stained", "pressure_pa": 101000.0 + 90.0 * hour, "origin": "typed"}
        )  # fmt: skip
        tables["move"].append(
            {"id": key(), "trip_id": trip, "at": at, "place": word, "spot_id": None, "depth_m": 6.0, "saw_fish": True, "note": ""}
        )
    for fish in range(12):
        length = float(rng.uniform(0.22, 0.36))
        tables["catch"].append(
            {"id": key(), "owner": None, "trip_id": trip, "session_id": session, "source": "simulated", "at": (day + dt.timedelta(minutes=25 * fish)).isoformat(), "species": "crappie", "length_m": length, "weight_kg": None, "guess_m": length * float(rng.normal(0.95, 0.06)), "kept": fish % 2 == 0, "lure": lure, "rod": "Long one", "presentation": "pitch", "depth_m": 4.0, "track": "3", "session_s": 60.0, "note": word, "deleted_at": None}
        )  # fmt: skip


def _shot(tables: dict[str, list[Row]], rng: np.random.Generator, key: Any, session: str, day: dt.datetime, number: int) -> None:
    shot, start = key(), 60.0 * number
    outcome = (None, None, None, "landed", "lost")[int(rng.integers(5))]
    tables["shot"].append(
        {"id": shot, "session_id": session, "source": "simulated", "number": number + 1, "start_s": start, "end_s": start + float(rng.uniform(10, 50)), "at": (day + dt.timedelta(seconds=start)).isoformat(), "ahead_m": float(rng.uniform(3, 14)), "head_kg": 0.00177, "outcome": outcome}
    )  # fmt: skip
    for _ in range(int(rng.integers(1, 4))):
        token = TOKENS[int(rng.integers(len(TOKENS)))]
        tables["reaction"].append(
            {"id": key(), "session_id": session, "shot_id": shot, "source": "simulated", "track": str(int(rng.integers(1, 9))), "session_s": start + 5.0, "token": token, "corrected": None, "cause": "lure", "confidence": 0.8}
        )  # fmt: skip
