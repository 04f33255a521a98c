"""A certificate authority of this machine's own, that may vouch for nothing but this machine; its leaf is issued anew at every start."""

import datetime as dt
import ipaddress
import os
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

from mudlamp.services.doors.names import NAME, PRIVATE, is_private

# The authority lives ten years, a leaf half a year; phones take no leaf of over 825 days.
AUTHORITY_DAYS, LEAF_DAYS = 3650, 180
BACKDATED = dt.timedelta(hours=1)


@dataclass(frozen=True, slots=True, kw_only=True)
class Certificates:
    """Where the leaf and its key are, for a server; the authority's certificate, for those who are to trust it."""

    leaf: Path
    key: Path
    authority: bytes


def certificates(run_dir: Path, addresses: Sequence[str], *, now: dt.datetime) -> Certificates:
    """Return certificates for the lasting name and some addresses: the authority is made once and kept, the leaf is new.

    Addresses that the authority may not vouch for are left out. Keys are in files that nobody else reads.
    """
    folder = run_dir / "doors"
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    authority_key, authority = _authority(folder, now)
    key = ec.generate_private_key(ec.SECP256R1())
    inside = [ipaddress.ip_address(one) for one in (*addresses, "127.0.0.1") if is_private(one)]
    names = [x509.DNSName(NAME), *(x509.IPAddress(one) for one in dict.fromkeys(inside))]
    leaf = (
        _builder(x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, NAME)]), authority.subject, key, now, LEAF_DAYS)
        .add_extension(x509.SubjectAlternativeName(names), critical=False)
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
        .add_extension(x509.AuthorityKeyIdentifier.from_issuer_public_key(authority_key.public_key()), critical=False)
        .sign(authority_key, hashes.SHA256())
    )
    _write(folder / "leaf.key", _private(key))
    _write(folder / "leaf.pem", leaf.public_bytes(serialization.Encoding.PEM))
    return Certificates(leaf=folder / "leaf.pem", key=folder / "leaf.key", authority=authority.public_bytes(serialization.Encoding.DER))


def _authority(folder: Path, now: dt.datetime) -> tuple[ec.EllipticCurvePrivateKey, x509.Certificate]:
    key_path, path = folder / "authority.key", folder / "authority.pem"
    if key_path.exists() and path.exists():
        key = serialization.load_pem_private_key(key_path.read_bytes(), None)
        known = x509.load_pem_x509_certificate(path.read_bytes())
        if isinstance(key, ec.EllipticCurvePrivateKey) and known.not_valid_after_utc > now + dt.timedelta(days=LEAF_DAYS):
            return key, known
    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, f"Mud Lamp on this machine, {now:%Y-%m-%d}")])
    permitted = [x509.DNSName(NAME), *(x509.IPAddress(ipaddress.ip_network(net)) for net in PRIVATE)]
    made = (
        _builder(name, name, key, now, AUTHORITY_DAYS)
        .add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
        .add_extension(x509.NameConstraints(permitted_subtrees=permitted, excluded_subtrees=None), critical=True)
        .add_extension(
            x509.KeyUsage(
                digital_signature=False,
                content_commitment=False,
                key_encipherment=False,
                data_encipherment=False,
                key_agreement=False,
                key_cert_sign=True,
                crl_sign=True,
                encipher_only=False,
                decipher_only=False,
            ),
            critical=True,
        )
        .add_extension(x509.SubjectKeyIdentifier.from_public_key(key.public_key()), critical=False)
        .sign(key, hashes.SHA256())
    )
    _write(key_path, _private(key))
    _write(path, made.public_bytes(serialization.Encoding.PEM))
    return key, made


def _builder(
    subject: x509.Name, issuer: x509.Name, key: ec.EllipticCurvePrivateKey, now: dt.datetime, days: int
) -> x509.CertificateBuilder:
    return (
        x509.CertificateBuilder()
        .subject_name(subject)
        .issuer_name(issuer)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - BACKDATED)
        .not_valid_after(now + dt.timedelta(days=days))
    )


def _private(key: ec.EllipticCurvePrivateKey) -> bytes:
    return key.private_bytes(serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption())


def _write(path: Path, content: bytes) -> None:
    part = path.with_name(path.name + ".new")
    part.unlink(missing_ok=True)
    with os.fdopen(os.open(part, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "wb") as file:
        file.write(content)
    part.replace(path)
