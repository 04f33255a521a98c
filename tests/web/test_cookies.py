import datetime as dt
import uuid

import pytest
from itsdangerous import TimestampSigner

from mudlamp.services.secrets import MOST_KEPT, cookie_secrets
from mudlamp.web.cookies import ANGLER, DEVICE, Seal, cookies_of

NOW = dt.datetime(2026, 11, 1, tzinfo=dt.UTC)
DAY_S = 86_400


@pytest.fixture
def clock(monkeypatch):
    """A clock that the signer reads, to be set on or back [s]."""
    ahead = [0]
    real = TimestampSigner.get_timestamp
    monkeypatch.setattr(TimestampSigner, "get_timestamp", lambda signer: real(signer) + ahead[0])
    return ahead


def test_a_signed_key_is_read_back_and_nothing_else_is():
    seal, key = Seal(["first"]), uuid.uuid4()
    value = seal.signed(DEVICE, key)
    assert seal.read(DEVICE, value) == (key, False)
    for other in ("", str(key), value[:-1], value + "x", value.replace(".", "..", 1), seal.signed(ANGLER, key), "\ud800"):
        assert seal.read(DEVICE, other) is None


def test_a_cookie_in_use_is_signed_anew_and_one_a_year_old_is_none(clock):
    seal, key = Seal(["first"]), uuid.uuid4()
    for days, found in ((-2, (key, True)), (-364, (key, True)), (-366, None)):
        clock[0] = days * DAY_S
        value = seal.signed(DEVICE, key)
        clock[0] = 0
        assert seal.read(DEVICE, value) == found


def test_a_clock_that_is_set_back_makes_nobody_a_stranger(clock):
    seal, key = Seal(["first"]), uuid.uuid4()
    clock[0] = 400 * DAY_S
    value = seal.signed(DEVICE, key)
    clock[0] = 0
    assert seal.read(DEVICE, value) == (key, True)


def test_a_new_secret_signs_and_the_former_ones_are_believed(tmp_path):
    (first,) = cookie_secrets(tmp_path, now=NOW)
    assert cookie_secrets(tmp_path, now=NOW + dt.timedelta(days=89)) == [first]
    value = Seal([first]).signed(DEVICE, uuid.UUID(int=1))
    secrets = cookie_secrets(tmp_path, now=NOW + dt.timedelta(days=91))
    assert secrets[0] == first
    assert len(secrets) == 2
    assert Seal(secrets).read(DEVICE, value)[0] == uuid.UUID(int=1)
    assert Seal(secrets[1:]).read(DEVICE, value) is None
    for quarter in range(2, 9):
        secrets = cookie_secrets(tmp_path, now=NOW + dt.timedelta(days=91 * quarter))
    assert len(secrets) == MOST_KEPT
    assert (tmp_path / "secrets" / "cookies").stat().st_mode & 0o777 == 0o600


def test_a_header_that_is_none_has_no_cookies():
    assert cookies_of("lamp_device=a.b.c; theme=dusk") == {"lamp_device": "a.b.c", "theme": "dusk"}
    assert cookies_of("=;=;\x00") == {}
