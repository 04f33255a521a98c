"""The two cookies that say who asks: random keys, signed, so that nobody makes one up; signed anew now and then, so that one in use never ends."""

import datetime as dt
import uuid
from collections.abc import Sequence
from http.cookies import CookieError, SimpleCookie

from itsdangerous import BadSignature, TimestampSigner

DEVICE, ANGLER = "lamp_device", "lamp_angler"
VALID = dt.timedelta(days=365)
# A cookie older than this is signed anew.
FRESH = dt.timedelta(days=1)


class Seal:
    """Signs keys and reads them back. `secrets` are the oldest first: the last one signs, all are believed."""

    def __init__(self, secrets: Sequence[str]) -> None:
        self._secrets = list(secrets)

    def _signer(self, name: str) -> TimestampSigner:
        return TimestampSigner(self._secrets, salt=f"mudlamp.{name}")

    def signed(self, name: str, key: uuid.UUID) -> str:
        """Return the value of a cookie."""
        return self._signer(name).sign(str(key)).decode()

    def read(self, name: str, value: str) -> tuple[uuid.UUID, bool] | None:
        """Return the key in a cookie's value, and whether it should be signed anew; None where it was not signed here, or over a year ago."""
        try:
            text, at = self._signer(name).unsign(value, return_timestamp=True)
            key = uuid.UUID(text.decode())
        except (BadSignature, ValueError):
            return None
        # A clock that was set back makes nobody a stranger: only age counts, and only upward.
        age = dt.datetime.now(dt.UTC) - at
        return None if age > VALID else (key, age > FRESH or age < -FRESH)


def cookies_of(header: str) -> dict[str, str]:
    """Return the cookies of a request's header; none where it is no such header."""
    try:
        return {name: one.value for name, one in SimpleCookie(header).items()}
    except CookieError:
        return {}


def set_cookie(name: str, value: str, *, is_secure: bool = False) -> str:
    """Return the header that sets a cookie; no script reads it, no other site sends it; one set over https comes back over nothing else."""
    return f"{name}={value}; Path=/; Max-Age={VALID.total_seconds():.0f}; HttpOnly; SameSite=Strict{'; Secure' if is_secure else ''}"
