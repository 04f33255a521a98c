"""Settings, in one table: name, default, unit, help; each from the environment as MUDLAMP_NAME."""

import os
from dataclasses import dataclass
from pathlib import Path

from mudlamp.core.errors import DomainError


@dataclass(frozen=True, slots=True, kw_only=True)
class Setting:
    """One row of the table; numbers have bounds."""

    name: str
    default: str
    unit: str
    help: str
    low: float | None = None
    high: float | None = None


TABLE = (
    Setting(name="database_url", default="", unit="", help="address of the database; `./lamp up` sets it"),
    Setting(name="run_dir", default=".run", unit="", help="folder for logs and caches"),
    Setting(name="hosts", default="127.0.0.1,localhost,[::1]", unit="", help="host names that are answered, with commas"),
    Setting(name="sessions", default="6", unit="", help="sessions at once", low=1, high=32),
    Setting(name="idle_end_s", default="600", unit="s", help="a session without a viewer ends after this long", low=1, high=86400),
    Setting(name="script_rest_s", default="600", unit="s", help="the scripted angler rests after this long", low=10, high=86400),
    Setting(name="ping_hz", default="20", unit="Hz", help="pings a second of a session", low=2, high=40),
    Setting(name="upload_bytes", default="2000000", unit="bytes", help="largest request that is taken", low=1000, high=1e9),
    Setting(name="recording_bytes", default="600000000", unit="bytes", help="largest recording that is taken", low=1000, high=1e11),
    Setting(name="quota_bytes", default="2000000000", unit="bytes", help="recordings of one browser together", low=1000, high=1e12),
    Setting(name="least_free_bytes", default="2000000000", unit="bytes", help="no recording under so much free disk", low=0, high=1e12),
    Setting(name="recording_days", default="30", unit="days", help="a recording that is not kept goes after this long", low=1, high=3650),
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Settings:
    """The settings of this process."""

    database_url: str
    run_dir: Path
    hosts: tuple[str, ...]
    sessions: int
    idle_end_s: float
    script_rest_s: float
    ping_hz: float
    upload_bytes: int
    recording_bytes: int
    quota_bytes: int
    least_free_bytes: int
    recording_days: float


def read_settings(environ: dict[str, str] | None = None) -> Settings:
    """Return the settings from the environment; raise DomainError naming one that is out of range."""
    source = dict(os.environ) if environ is None else environ
    found: dict[str, str] = {}
    for row in TABLE:
        text = source.get(f"MUDLAMP_{row.name.upper()}", row.default)
        if row.low is not None and row.high is not None:
            try:
                good = row.low <= float(text) <= row.high
            except ValueError:
                good = False
            if not good:
                raise DomainError(f"MUDLAMP_{row.name.upper()} is {text[:40]}: it must be {row.low:g} to {row.high:g} {row.unit}".rstrip())
        found[row.name] = text
    return Settings(
        database_url=found["database_url"],
        run_dir=Path(found["run_dir"]),
        hosts=tuple(host.strip() for host in found["hosts"].split(",") if host.strip()),
        sessions=int(float(found["sessions"])),
        idle_end_s=float(found["idle_end_s"]),
        script_rest_s=float(found["script_rest_s"]),
        ping_hz=float(found["ping_hz"]),
        upload_bytes=int(float(found["upload_bytes"])),
        recording_bytes=int(float(found["recording_bytes"])),
        quota_bytes=int(float(found["quota_bytes"])),
        least_free_bytes=int(float(found["least_free_bytes"])),
        recording_days=float(found["recording_days"]),
    )
