"""The certificate authority of one installation: made here, for the names that the server goes by and for no others.

Tablets trust it once. Its key never leaves the data directory, and is in no backup.
"""

import os
import re
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from ipaddress import IPv4Address, IPv6Address, ip_address, ip_network
from pathlib import Path

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

from tight_ledger.core.base.errors import Invalid

AUTHORITY_LASTS = timedelta(days=3_650)
SERVER_LASTS = timedelta(days=800)
"""Tablets accept no more than 825 days (common practice, no source)."""
RENEWED_WHEN_LEFT = timedelta(days=400)
SKEW = timedelta(days=1)
"""A tablet's clock may be behind by so much."""
_NAME = re.compile(r"(?=.{1,253}$)[a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?(\.[a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?)*")


@dataclass(frozen=True, slots=True)
class Certificates:
    """What a server over HTTPS needs, and what a tablet compares."""

    authority: Path
    certificate: Path
    key: Path
    fingerprint: str
    """SHA-256 of the authority's certificate, in pairs: `AB:12:…`."""
    is_new: bool
    """Whether the authority was made now: tablets have to trust it."""


def require_name(name: str) -> str:
    """A name or an address as tablets call the server, in small letters.

    Raises:
        Invalid: it is neither.
    """
    small = name.strip().lower()
    if (address := address_of(small)) is not None:
        return str(address)
    if not _NAME.fullmatch(small):
        raise Invalid("host", f"“{name}” is neither a name nor an address.", "Give it as tablets call it: workshop.local, or 10.0.0.5.")
    return small


def address_of(name: str) -> IPv4Address | IPv6Address | None:
    """The address that a name is; None if it is a name."""
    try:
        return ip_address(name)
    except ValueError:
        return None


def certificates(folder: Path, names: Sequence[str], now: datetime) -> Certificates:
    """The certificate of the server, signed by the authority of this installation; both are made if there are none that fit.

    An authority stays as long as the names stay: with others, tablets have to trust a new one.

    Args:
        folder: kept from others' eyes.
        names: and addresses, each as `require_name` gives it; at least one.
    """
    folder.mkdir(parents=True, exist_ok=True)
    folder.chmod(0o700)
    wanted = sorted(set(names))
    made = _read(folder, "authority")
    is_new = made is None or _constraints(wanted) != _constraints_of(made[0]) or made[0].not_valid_after_utc - now < RENEWED_WHEN_LEFT
    if made is None or is_new:
        made = _authority(wanted, now)
        _keep(folder, "authority", *made)
    authority, authority_key = made
    server = _read(folder, "server")
    if server is None or is_new or not _serves(server[0], authority, now):
        _keep(folder, "server", *_server(wanted, authority, authority_key, now))
    digest = authority.fingerprint(hashes.SHA256()).hex(":").upper()
    return Certificates(folder / "authority.pem", folder / "server.pem", folder / "server.key", digest, is_new)


Certified = tuple[x509.Certificate, ec.EllipticCurvePrivateKey]


def _general(names: Sequence[str]) -> list[x509.GeneralName]:
    found = [(name, address_of(name)) for name in names]
    return [x509.IPAddress(address) if address is not None else x509.DNSName(name) for name, address in found]


def _constraints(names: Sequence[str]) -> x509.NameConstraints:
    """These names and no others: where there is no name, or no address, all of that kind are excluded."""
    addresses = [address for name in names if (address := address_of(name)) is not None]
    called = [name for name in names if address_of(name) is None]
    permitted = [*(x509.DNSName(name) for name in called), *(x509.IPAddress(ip_network(address)) for address in addresses)]
    nothing: list[x509.GeneralName] = [] if called else [x509.DNSName("")]
    nothing += [x509.IPAddress(ip_network(every)) for every in ("0.0.0.0/0", "::/0") if not addresses]
    return x509.NameConstraints(permitted, nothing or None)


def _constraints_of(authority: x509.Certificate) -> x509.NameConstraints:
    return authority.extensions.get_extension_for_class(x509.NameConstraints).value


def _builder(
    name: str, issuer: x509.Name | None, public: ec.EllipticCurvePublicKey, now: datetime, lasts: timedelta
) -> x509.CertificateBuilder:
    subject = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, name[:64])])
    made = x509.CertificateBuilder(subject_name=subject, issuer_name=issuer or subject, public_key=public)
    made = made.serial_number(x509.random_serial_number()).not_valid_before(now - SKEW).not_valid_after(now + lasts)
    return made.add_extension(x509.SubjectKeyIdentifier.from_public_key(public), critical=False)


def _usage(*, signs_certificates: bool) -> x509.KeyUsage:
    none = dict.fromkeys(
        ("content_commitment", "key_encipherment", "data_encipherment", "key_agreement", "encipher_only", "decipher_only"), False
    )
    return x509.KeyUsage(digital_signature=not signs_certificates, key_cert_sign=signs_certificates, crl_sign=signs_certificates, **none)


def _authority(names: Sequence[str], now: datetime) -> Certified:
    key = ec.generate_private_key(ec.SECP256R1())
    made = _builder(f"Tight Ledger at {names[0]}", None, key.public_key(), now, AUTHORITY_LASTS)
    made = made.add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
    made = made.add_extension(_usage(signs_certificates=True), critical=True)
    made = made.add_extension(_constraints(names), critical=True)
    return made.sign(key, hashes.SHA256()), key


def _server(names: Sequence[str], authority: x509.Certificate, authority_key: ec.EllipticCurvePrivateKey, now: datetime) -> Certified:
    key = ec.generate_private_key(ec.SECP256R1())
    lasts = min(SERVER_LASTS, authority.not_valid_after_utc - now)
    made = _builder("Tight Ledger server", authority.subject, key.public_key(), now, lasts)
    made = made.add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
    made = made.add_extension(_usage(signs_certificates=False), critical=True)
    made = made.add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
    made = made.add_extension(x509.SubjectAlternativeName(_general(names)), critical=False)
    known = authority.extensions.get_extension_for_class(x509.SubjectKeyIdentifier).value
    made = made.add_extension(x509.AuthorityKeyIdentifier.from_issuer_subject_key_identifier(known), critical=False)
    return made.sign(authority_key, hashes.SHA256()), key


def _serves(server: x509.Certificate, authority: x509.Certificate, now: datetime) -> bool:
    try:
        server.verify_directly_issued_by(authority)
    except (ValueError, TypeError):
        return False
    return server.not_valid_after_utc - now > RENEWED_WHEN_LEFT


def _read(folder: Path, name: str) -> Certified | None:
    """A certificate and its key; None if they are not there or cannot be read."""
    try:
        certificate = x509.load_pem_x509_certificate((folder / f"{name}.pem").read_bytes())
        key = serialization.load_pem_private_key((folder / f"{name}.key").read_bytes(), None)
    except (FileNotFoundError, ValueError):
        return None
    fits = isinstance(key, ec.EllipticCurvePrivateKey) and key.public_key() == certificate.public_key()
    return (certificate, key) if fits and isinstance(key, ec.EllipticCurvePrivateKey) else None


def _keep(folder: Path, name: str, certificate: x509.Certificate, key: ec.EllipticCurvePrivateKey) -> None:
    plain = serialization.NoEncryption()
    secret = key.private_bytes(serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, plain)
    for file, content in ((f"{name}.key", secret), (f"{name}.pem", certificate.public_bytes(serialization.Encoding.PEM))):
        (folder / f"{file}.new").unlink(missing_ok=True)
        with os.fdopen(os.open(folder / f"{file}.new", os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "wb") as written:
            written.write(content)
        (folder / f"{file}.new").replace(folder / file)
