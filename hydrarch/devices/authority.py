"""The crew's own certificate authority: what lets a phone trust the address of the van's server, so that its page opens
with no signal.

The authority can vouch for private networks alone; its key stays beside the database, readable by its owner only.
"""

from __future__ import annotations

import ipaddress
import os
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

__all__ = ["Certified", "certified"]

_PRIVATE = (
    "10.0.0.0/8",
    "172.16.0.0/12",
    "192.168.0.0/16",
    "169.254.0.0/16",
    "127.0.0.0/8",
    "fc00::/7",
    "fe80::/10",
    "::1/128",
)
"""Networks that are nobody's but the crew's: RFC 1918, RFC 3927, RFC 4193, RFC 4291."""
_NAMES = ("local", "lan", "internal", "home.arpa", "localhost", "test")
_YEARS = 5
_DAYS = 397
"""Days a server's certificate lasts: browsers take none that lasts longer than 398."""
_SOON = timedelta(days=30)


@dataclass(frozen=True, slots=True)
class Certified:
    """Files: the authority's certificate, which phones take in, and the server's certificate and key."""

    authority: Path
    certificate: Path
    key: Path


def certified(folder: Path, address: str, now: datetime | None = None) -> Certified:
    """An authority in `folder` and a certificate for `address` (of a private network, or a name of one), made where
    they are not there or run out.

    Raises `ValueError` for an address that other people's networks have.
    """
    now = now or datetime.now(UTC)
    name = _name(address)
    folder.mkdir(parents=True, exist_ok=True)
    authority, authority_key = folder / "crew-authority.pem", folder / "crew-authority.key"
    certificate, key = folder / "server.pem", folder / "server.key"
    if not _good(authority, now) or not authority_key.exists():
        _make_authority(authority, authority_key, now)
        certificate.unlink(missing_ok=True)
    if not _good(certificate, now, name) or not key.exists():
        _make_certificate(authority, authority_key, certificate, key, name, now)
    return Certified(authority, certificate, key)


def _name(address: str) -> x509.GeneralName:
    try:
        ip = ipaddress.ip_address(address.strip("[]"))
    except ValueError:
        if address.rpartition(".")[2] in _NAMES or address.endswith(".home.arpa"):
            return x509.DNSName(address)
        raise ValueError(
            f"'{address}' is not a name of a private network: take one ending in .local, .lan, .internal or "
            ".home.arpa, or an address"
        ) from None
    if not any(ip in ipaddress.ip_network(n) for n in _PRIVATE if ipaddress.ip_network(n).version == ip.version):
        raise ValueError(
            f"{address} is not an address of a private network, so the crew's authority will not vouch for it"
        )
    return x509.IPAddress(ip)


def _good(file: Path, now: datetime, name: x509.GeneralName | None = None) -> bool:
    """Whether a certificate is there, lasts a while yet, and is of that name."""
    if not file.exists():
        return False
    found = x509.load_pem_x509_certificate(file.read_bytes())
    if found.not_valid_after_utc < now + _SOON or found.not_valid_before_utc > now:
        return False
    return name is None or name in list(found.extensions.get_extension_for_class(x509.SubjectAlternativeName).value)


def _make_authority(file: Path, key_file: Path, now: datetime) -> None:
    key = ec.generate_private_key(ec.SECP256R1())
    who = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, f"Hydrarch crew, {now:%d %b %Y %H:%M}")])
    allowed: list[x509.GeneralName] = [x509.IPAddress(ipaddress.ip_network(n)) for n in _PRIVATE]
    allowed += [x509.DNSName(n) for n in _NAMES]
    usage = x509.KeyUsage(
        digital_signature=False,
        content_commitment=False,
        key_encipherment=False,
        data_encipherment=False,
        key_agreement=False,
        key_cert_sign=True,
        crl_sign=True,
        encipher_only=False,
        decipher_only=False,
    )
    made = (
        x509.CertificateBuilder()
        .subject_name(who)
        .issuer_name(who)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - timedelta(days=1))
        .not_valid_after(now + timedelta(days=365 * _YEARS))
        .add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
        .add_extension(usage, critical=True)
        .add_extension(x509.NameConstraints(allowed, None), critical=True)
        .add_extension(x509.SubjectKeyIdentifier.from_public_key(key.public_key()), critical=False)
        .sign(key, hashes.SHA256())
    )
    _secret(key_file, key)
    file.write_bytes(made.public_bytes(serialization.Encoding.PEM))


def _make_certificate(
    authority: Path, authority_key: Path, file: Path, key_file: Path, name: x509.GeneralName, now: datetime
) -> None:
    parent = x509.load_pem_x509_certificate(authority.read_bytes())
    signer = serialization.load_pem_private_key(authority_key.read_bytes(), None)
    assert isinstance(signer, ec.EllipticCurvePrivateKey)
    key = ec.generate_private_key(ec.SECP256R1())
    who = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "Hydrarch")])
    lasts = min(now + timedelta(days=_DAYS), parent.not_valid_after_utc)
    made = (
        x509.CertificateBuilder()
        .subject_name(who)
        .issuer_name(parent.subject)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - timedelta(hours=1))
        .not_valid_after(lasts)
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .add_extension(x509.SubjectAlternativeName([name]), critical=False)
        .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
        .add_extension(x509.AuthorityKeyIdentifier.from_issuer_public_key(signer.public_key()), critical=False)
        .sign(signer, hashes.SHA256())
    )
    _secret(key_file, key)
    file.write_bytes(made.public_bytes(serialization.Encoding.PEM))


def _secret(file: Path, key: ec.EllipticCurvePrivateKey) -> None:
    """Write a key so that only its owner can ever have read it."""
    file.unlink(missing_ok=True)
    text = key.private_bytes(
        serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
    )
    with os.fdopen(os.open(file, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "wb") as out:
        out.write(text)
