import datetime as dt
import socket
import ssl
import stat
import threading
import uuid

import pytest
from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import NameOID

from mudlamp.core.errors import DomainError, MissingError
from mudlamp.services.doors import names
from mudlamp.services.doors.authority import certificates
from mudlamp.services.doors.names import NAME, is_loopback
from mudlamp.services.doors.pairing import LENGTH, LOCKED, MOST_GUESSES, VALID, PairingDesk

NOW = dt.datetime.now(dt.UTC)
ANGLER, PHONE = uuid.UUID(int=3), uuid.UUID(int=4)


def shakes_hands(leaf, key, authority, name):
    """A real handshake: the server with a leaf, the client trusting the authority alone."""
    server = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    server.load_cert_chain(leaf, key)
    trusting = ssl.create_default_context(cadata=authority)
    ours, theirs = socket.socketpair()

    def serve():
        try:
            server.wrap_socket(theirs, server_side=True).close()
        except ssl.SSLError:
            theirs.close()

    beside = threading.Thread(target=serve)
    beside.start()
    try:
        trusting.wrap_socket(ours, server_hostname=name).close()
        return True
    except ssl.SSLCertVerificationError:
        ours.close()
        return False
    finally:
        beside.join()


def test_the_lasting_name_and_private_addresses_are_vouched_for_and_nothing_else(tmp_path):
    made = certificates(tmp_path, ["192.168.1.20", "8.8.8.8"], now=NOW)
    for name in (NAME, "192.168.1.20", "127.0.0.1"):
        assert shakes_hands(made.leaf, made.key, made.authority, name), name
    for name in ("8.8.8.8", "bank.example", "192.168.1.21"):
        assert not shakes_hands(made.leaf, made.key, made.authority, name), name
    # Whoever steals the authority's key can vouch for no other site: RFC 5280, name constraints.
    key = serialization.load_pem_private_key((tmp_path / "doors" / "authority.key").read_bytes(), None)
    authority, stolen = x509.load_der_x509_certificate(made.authority), ec.generate_private_key(ec.SECP256R1())
    forged = (
        x509.CertificateBuilder()
        .subject_name(x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "bank.example")]))
        .issuer_name(authority.subject)
        .public_key(stolen.public_key())
        .serial_number(7)
        .not_valid_before(NOW - dt.timedelta(hours=1))
        .not_valid_after(NOW + dt.timedelta(days=1))
        .add_extension(x509.SubjectAlternativeName([x509.DNSName("bank.example")]), critical=False)
        .sign(key, hashes.SHA256())
    )
    (tmp_path / "forged.pem").write_bytes(forged.public_bytes(serialization.Encoding.PEM))
    (tmp_path / "forged.key").write_bytes(
        stolen.private_bytes(serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption())
    )
    assert not shakes_hands(tmp_path / "forged.pem", tmp_path / "forged.key", made.authority, "bank.example")


def test_trust_outlives_a_new_address_and_keys_are_nobody_elses(tmp_path):
    first, second = (certificates(tmp_path, [address], now=NOW) for address in ("192.168.1.20", "10.0.0.9"))
    assert first.authority == second.authority
    assert shakes_hands(second.leaf, second.key, first.authority, "10.0.0.9")
    for path in (tmp_path / "doors").iterdir():
        assert stat.S_IMODE(path.stat().st_mode) == 0o600, path


def test_what_is_this_machine_is_told_from_what_is_not():
    assert all(map(is_loopback, ("127.0.0.1", "127.8.9.1", "::1", "[::1]", "localhost")))
    assert not any(map(is_loopback, ("192.168.1.4", "0.0.0.0", "localhost.evil.example", "", "::ffff:8.8.8.8")))  # noqa: S104 - no bind


class Voice:
    """Stands in for multicast DNS: what was said, and whether it was closed."""

    said, closed = [], 0

    def register_service(self, info, *, allow_name_change):
        assert allow_name_change
        self.said.append(info)

    def close(self):
        Voice.closed += 1


def test_the_lasting_name_is_said_while_it_serves_and_no_longer(monkeypatch):
    monkeypatch.setattr(names, "Zeroconf", Voice)
    monkeypatch.setattr(names, "own_addresses", lambda: ["192.168.1.20"])
    with names.lasting_name(8470):
        (info,) = Voice.said
        assert (info.server, info.port, info.parsed_addresses()) == ("mudlamp.local.", 8470, ["192.168.1.20"])
        assert Voice.closed == 0
    assert Voice.closed == 1
    # Where there is no multicast, it serves all the same.
    monkeypatch.setattr(names, "Zeroconf", lambda: (_ for _ in ()).throw(OSError("no multicast")))
    with names.lasting_name(8470):
        assert len(Voice.said) == 1


class Clock:
    def __init__(self):
        self.at = NOW

    def __call__(self):
        return self.at


@pytest.fixture
def clock():
    return Clock()


@pytest.fixture
def desk(engine, clock):
    return PairingDesk(engine, now=clock)


def test_a_code_lets_one_device_in_once(desk, engine, clock):
    code = desk.show(ANGLER)
    assert len(code) == LENGTH
    assert desk.pair(f" {code.lower()} ", PHONE, "my phone") == ANGLER
    assert desk.angler_of(PHONE) == ANGLER
    # Stolen and typed again it opens nothing; nor does one that is over, or that another took the place of.
    with pytest.raises(DomainError, match="code is not one that is open"):
        desk.pair(code, uuid.UUID(int=5), "thief")
    old = desk.show(ANGLER)
    fresh = desk.show(ANGLER)
    for wrong in (old, ""):
        with pytest.raises(DomainError):
            desk.pair(wrong, uuid.UUID(int=5), "thief")
    clock.at += VALID + dt.timedelta(seconds=1)
    with pytest.raises(DomainError):
        desk.pair(fresh, uuid.UUID(int=5), "late")
    assert desk.angler_of(uuid.UUID(int=5)) is None
    # It is kept: another start knows the device.
    assert PairingDesk(engine, now=clock).angler_of(PHONE) == ANGLER
    (kept,) = desk.of(ANGLER)
    with pytest.raises(MissingError):
        desk.revoke(uuid.UUID(int=9), kept.id)
    desk.revoke(ANGLER, kept.id)
    assert desk.angler_of(PHONE) is None


def test_ten_thousand_guesses_are_refused_and_the_code_is_burned(desk, clock):
    code = desk.show(ANGLER)
    for guess in range(10_000):
        with pytest.raises(DomainError):
            desk.pair(f"{guess:08d}", PHONE, "")
    # Burned by the first five; and nobody is let in for a while, by the right code neither.
    with pytest.raises(DomainError):
        desk.pair(code, PHONE, "")
    with pytest.raises(DomainError, match="quarter of an hour"):
        desk.pair(desk.show(ANGLER), PHONE, "")
    clock.at += LOCKED + dt.timedelta(seconds=1)
    again = desk.show(ANGLER)
    for _ in range(MOST_GUESSES - 1):
        with pytest.raises(DomainError):
            desk.pair("AAAAAAAA", PHONE, "")
    assert desk.pair(again, PHONE, "") == ANGLER
