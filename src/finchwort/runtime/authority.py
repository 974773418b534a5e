"""A certificate authority of one's own, made once, that vouches for this computer in the local network and nothing else.

The authority's certificate is put on the phone by hand.  It carries name constraints (RFC 5280, 4.2.1.10): it cannot vouch
for any name outside ``.local`` nor for any address outside private networks, so that who installs it risks nothing else.
"""

from __future__ import annotations

import contextlib
import ipaddress
import os
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import cast

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

AUTHORITY_FOR = timedelta(days=3650)
SERVER_FOR = timedelta(days=397)
"""Phones refuse certificates of servers that are good for much longer (common practice)."""
RENEW_BEFORE = timedelta(days=30)
SLACK = timedelta(days=1)
"""Clocks of phones may be behind."""
PRIVATE = (
    "10.0.0.0/8",
    "172.16.0.0/12",
    "192.168.0.0/16",
    "169.254.0.0/16",
    "127.0.0.0/8",
    "fc00::/7",
    "fe80::/10",
)
"""RFC 1918, 3927, 4193, 4291: addresses of local networks."""
NAMES = ("local", "localhost")


@dataclass(frozen=True)
class Certificate:
    """A server's certificate with its key, as files."""

    certificate: Path
    key: Path
    names: tuple[str, ...]
    until: datetime


def is_private(address: str) -> bool:
    """Tell whether an address is one of a local network.

    Examples
    --------
    >>> is_private("192.168.4.7"), is_private("203.0.113.9")
    (True, False)
    """
    result = ipaddress.ip_address(address)
    return any(result in net for net in map(ipaddress.ip_network, PRIVATE) if net.version == result.version)


class Authority:
    """The authority, made on first use and kept in a folder that only its user reads."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self._certificate, self._key = folder / "authority.crt", folder / "authority.key"
        self._make_folder()
        if self._still_good():
            self.certificate = x509.load_pem_x509_certificate(self._certificate.read_bytes())
            self.key = cast(
                "ec.EllipticCurvePrivateKey", serialization.load_pem_private_key(self._key.read_bytes(), None)
            )
        else:
            self._make()

    @property
    def pem(self) -> bytes:
        """The authority's certificate, to be installed on phones."""
        return self.certificate.public_bytes(serialization.Encoding.PEM)

    @property
    def fingerprint(self) -> str:
        """SHA-256 of the authority's certificate, as phones show it."""
        return ":".join(f"{byte:02X}" for byte in self.certificate.fingerprint(hashes.SHA256()))

    def server(self, names: Sequence[str]) -> Certificate:
        """Return a certificate for these names and addresses: the one that is there when it fits, or another.

        Raises
        ------
        ValueError
            When a name is outside of what the authority may vouch for.
        """
        path, key_path = self.folder / "server.crt", self.folder / "server.key"
        with contextlib.suppress(OSError, ValueError, x509.ExtensionNotFound):
            old = x509.load_pem_x509_certificates(path.read_bytes())[0]
            fits = set(_names_of(old)) == set(names) and old.issuer == self.certificate.subject
            signed = old.extensions.get_extension_for_class(x509.AuthorityKeyIdentifier).value.key_identifier
            if (
                fits
                and signed == self._identifier
                and old.not_valid_after_utc > _now() + RENEW_BEFORE
                and key_path.exists()
            ):
                return Certificate(path, key_path, tuple(names), old.not_valid_after_utc)
        key = ec.generate_private_key(ec.SECP256R1())
        until = _now() + SERVER_FOR
        made = (
            _begin(x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, names[0])]), key, until)
            .issuer_name(self.certificate.subject)
            .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
            .add_extension(x509.SubjectAlternativeName([_general(name) for name in names]), critical=False)
            .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
            .add_extension(_usage(digital_signature=True), critical=True)
            .add_extension(
                x509.AuthorityKeyIdentifier.from_issuer_subject_key_identifier(
                    x509.SubjectKeyIdentifier(self._identifier)
                ),
                critical=False,
            )
            .sign(self.key, hashes.SHA256())
        )
        _write(key_path, _pem_of(key))
        _write(path, made.public_bytes(serialization.Encoding.PEM) + self.pem)
        return Certificate(path, key_path, tuple(names), made.not_valid_after_utc)

    @property
    def _identifier(self) -> bytes:
        return x509.SubjectKeyIdentifier.from_public_key(self.certificate.public_key()).digest

    def _make_folder(self) -> None:
        self.folder.mkdir(parents=True, exist_ok=True)
        self.folder.chmod(0o700)

    def _still_good(self) -> bool:
        try:
            made = x509.load_pem_x509_certificate(self._certificate.read_bytes())
            return self._key.exists() and made.not_valid_after_utc > _now() + SERVER_FOR
        except (OSError, ValueError):
            return False

    def _make(self) -> None:
        self.key = ec.generate_private_key(ec.SECP256R1())
        # two workshops on one phone must be told apart in its list
        mark = x509.SubjectKeyIdentifier.from_public_key(self.key.public_key()).digest.hex()[:6]
        name = x509.Name(
            [
                x509.NameAttribute(NameOID.ORGANIZATION_NAME, "Finchwort, own workshop"),
                x509.NameAttribute(NameOID.COMMON_NAME, f"Finchwort in the local network {mark}"),
            ]
        )
        permitted: list[x509.GeneralName] = [x509.DNSName(name) for name in NAMES]
        permitted += [x509.IPAddress(ipaddress.ip_network(net)) for net in PRIVATE]
        self.certificate = (
            _begin(name, self.key, _now() + AUTHORITY_FOR)
            .issuer_name(name)
            .add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
            .add_extension(x509.NameConstraints(permitted, None), critical=True)
            .add_extension(_usage(key_cert_sign=True, crl_sign=True), critical=True)
            .sign(self.key, hashes.SHA256())
        )
        _write(self._key, _pem_of(self.key))
        _write(self._certificate, self.pem)


def _now() -> datetime:
    return datetime.now(UTC)


def _begin(subject: x509.Name, key: ec.EllipticCurvePrivateKey, until: datetime) -> x509.CertificateBuilder:
    return (
        x509.CertificateBuilder()
        .subject_name(subject)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(_now() - SLACK)
        .not_valid_after(until)
        .add_extension(x509.SubjectKeyIdentifier.from_public_key(key.public_key()), critical=False)
    )


def _usage(**given: bool) -> x509.KeyUsage:
    usual = dict.fromkeys(
        (
            "digital_signature",
            "content_commitment",
            "key_encipherment",
            "data_encipherment",
            "key_agreement",
            "key_cert_sign",
            "crl_sign",
            "encipher_only",
            "decipher_only",
        ),
        False,
    )
    return x509.KeyUsage(**usual | given)


def _general(name: str) -> x509.GeneralName:
    try:
        address = ipaddress.ip_address(name)
    except ValueError:
        if not any(name == item or name.endswith(f".{item}") for item in NAMES):
            raise ValueError(f"{name} is no name of the local network.") from None
        return x509.DNSName(name)
    if not is_private(name):
        raise ValueError(f"{name} is no address of a local network.")
    return x509.IPAddress(address)


def _names_of(certificate: x509.Certificate) -> list[str]:
    names = certificate.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    return [*names.get_values_for_type(x509.DNSName), *map(str, names.get_values_for_type(x509.IPAddress))]


def _pem_of(key: ec.EllipticCurvePrivateKey) -> bytes:
    return key.private_bytes(
        serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
    )


def _write(path: Path, data: bytes) -> None:
    """Write a file that only its user reads, at one stroke."""
    part = path.with_suffix(".part")
    part.unlink(missing_ok=True)
    with os.fdopen(os.open(part, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "wb") as file:
        file.write(data)
    part.replace(path)
