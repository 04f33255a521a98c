"""The secrets that cookies are signed with: made here, kept in a file that nobody else reads, a new one every quarter."""

import datetime as dt
import os
import secrets
from collections.abc import Sequence
from pathlib import Path

NEW_AFTER = dt.timedelta(days=90)
# Cookies are believed for a year: for so long their secret must be there.
MOST_KEPT = 5


def cookie_secrets(run_dir: Path, *, now: dt.datetime) -> Sequence[str]:
    """Return the secrets, the oldest first; the newest is made where there is none, or where it is older than a quarter."""
    folder = run_dir / "secrets"
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    path = folder / "cookies"
    rows = [row.split() for row in path.read_text().splitlines()] if path.exists() else []
    known = [(dt.datetime.fromisoformat(row[0]), row[1]) for row in rows if len(row) == 2]
    if not known or now - known[-1][0] > NEW_AFTER:
        known = [*known, (now, secrets.token_urlsafe(48))][-MOST_KEPT:]
        part = path.with_name("cookies.new")
        part.unlink(missing_ok=True)
        with os.fdopen(os.open(part, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "w") as file:
            file.writelines(f"{made.isoformat()} {secret}\n" for made, secret in known)
        part.replace(path)
    return [secret for _, secret in known]
