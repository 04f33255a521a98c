"""Settings, in one table: name, default, unit, help; each from the environment as MUDLAMP_NAME."""

import os
from collections.abc import Mapping
from pathlib import Path
from typing import Annotated

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, ValidationError

from mudlamp.core.errors import DomainError
from mudlamp.formats.fields import Within, first_problem

PREFIX = "MUDLAMP_"


def _number(given: object) -> object:
    """Return a text as a number where it is one; what is none is refused by the bounds."""
    if not isinstance(given, str):
        return given
    try:
        value = float(given)
    except ValueError:
        return given
    return int(value) if value == int(value) else value


def _hosts(given: object) -> object:
    return tuple(host.strip() for host in given.split(",") if host.strip()) if isinstance(given, str) else given


Text = BeforeValidator(_number)


class Settings(BaseModel):
    """The settings of this process."""

    model_config = ConfigDict(extra="ignore", frozen=True, validate_default=True)

    database_url: str = Field(default="", description="address of the database; `./lamp up` sets it")
    run_dir: Path = Field(default=Path(".run"), description="folder for logs and caches")
    nmea: str = Field(default="", max_length=120, description="a boat's instruments to listen to, HOST:PORT (NMEA 0183 over TCP)")
    hosts: Annotated[tuple[str, ...], BeforeValidator(_hosts)] = Field(
        default=("127.0.0.1", "localhost", "[::1]"), description="host names that are answered, separated by commas"
    )
    sessions: Annotated[int, Within(1, 32, whole=True), Text] = Field(default=6, description="sessions at once")
    idle_end_s: Annotated[float, Within(1, 86400, "s"), Text] = Field(
        default=600.0, description="a session without a viewer ends after this long"
    )
    first_viewer_s: Annotated[float, Within(1, 86400, "s"), Text] = Field(
        default=30.0, description="a session whose browser never came back ends after this long"
    )
    script_rest_s: Annotated[float, Within(10, 86400, "s"), Text] = Field(
        default=600.0, description="the scripted angler rests after this long"
    )
    ping_hz: Annotated[float, Within(2, 40, "Hz"), Text] = Field(default=20.0, description="pings a second of a session")
    upload_bytes: Annotated[int, Within(1000, 1e9, "bytes", whole=True), Text] = Field(
        default=2_000_000, description="largest request that is taken"
    )
    recording_bytes: Annotated[int, Within(1000, 1e11, "bytes", whole=True), Text] = Field(
        default=600_000_000, description="largest recording that is taken"
    )
    quota_bytes: Annotated[int, Within(1000, 1e12, "bytes", whole=True), Text] = Field(
        default=2_000_000_000, description="recordings of one browser together"
    )
    least_free_bytes: Annotated[int, Within(0, 1e12, "bytes", whole=True), Text] = Field(
        default=2_000_000_000, description="no recording under so much free disk"
    )
    expiry_patience_s: Annotated[float, Within(0, 86400, "s"), Text] = Field(
        default=600.0, description="an expired recording is deleted when it has been so for this long, by a clock that does not jump"
    )
    database_free_bytes: Annotated[int, Within(0, 1e12, "bytes", whole=True), Text] = Field(
        default=200_000_000, description="nothing is written to the database under so much free disk"
    )
    demo: Annotated[int, Within(0, 1, whole=True), Text] = Field(
        default=1, description="1: the demo's trips, rig and spots are loaded; 0: they are not"
    )
    recording_days: Annotated[float, Within(1, 3650, "days"), Text] = Field(
        default=30.0, description="a recording that is not kept expires after this long"
    )

    @property
    def owed_dir(self) -> Path:
        """Where rows wait for the database."""
        return self.run_dir / "owed"


def read_settings(environ: Mapping[str, str] | None = None) -> Settings:
    """Return the settings from the environment; raise DomainError naming one that is out of range."""
    source = os.environ if environ is None else environ
    given = {name.removeprefix(PREFIX).lower(): text for name, text in source.items() if name.startswith(PREFIX)}
    try:
        return Settings.model_validate(given)
    except ValidationError as error:
        where, what = first_problem(error)
        raise DomainError(f"{PREFIX}{str(where[0]).upper()} {what}") from None
