"""A certificate made here, for one machine in one's own network: browsers give the microphone to secure pages only."""

import ipaddress
import socket
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Final

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

_DAYS: Final = 397  # browsers refuse longer ones
_RENEW: Final = timedelta(days=14)


@dataclass(frozen=True)
class Certificate:
    """Files for the server, and the fingerprint that a person compares with what the phone shows."""

    key: Path
    certificate: Path
    fingerprint: str


def local_certificate(folder: Path, hosts: tuple[str, ...]) -> Certificate:
    """The folder's certificate for these names and addresses; made anew when it runs out or an address is new."""
    key, path = folder / "tls" / "key.pem", folder / "tls" / "certificate.pem"
    if key.is_file() and path.is_file():
        known = x509.load_pem_x509_certificate(path.read_bytes())
        names = known.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
        if known.not_valid_after_utc > datetime.now(UTC) + _RENEW and set(_names(hosts)) <= set(names):
            return Certificate(key, path, _fingerprint(known))
    made, secret = _made(hosts)
    key.parent.mkdir(parents=True, exist_ok=True)
    key.touch(mode=0o600)
    key.write_bytes(
        secret.private_bytes(
            serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
        )
    )
    path.write_bytes(made.public_bytes(serialization.Encoding.PEM))
    return Certificate(key, path, _fingerprint(made))


def _made(hosts: tuple[str, ...]) -> tuple[x509.Certificate, ec.EllipticCurvePrivateKey]:
    secret = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "Keen Quiet on this machine")])
    now = datetime.now(UTC)
    made = (
        x509.CertificateBuilder()
        .subject_name(name)
        .issuer_name(name)
        .public_key(secret.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - timedelta(days=1))
        .not_valid_after(now + timedelta(days=_DAYS))
        .add_extension(x509.SubjectAlternativeName(_names(hosts)), critical=False)
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
        .sign(secret, hashes.SHA256())
    )
    return made, secret


def _names(hosts: tuple[str, ...]) -> list[x509.GeneralName]:
    names: list[x509.GeneralName] = []
    for host in hosts:
        try:
            names.append(x509.IPAddress(ipaddress.ip_address(host)))
        except ValueError:
            names.append(x509.DNSName(host))
    return names


def _fingerprint(certificate: x509.Certificate) -> str:
    return ":".join(f"{byte:02X}" for byte in certificate.fingerprint(hashes.SHA256()))


def own_address() -> str:
    """The address under which others in the network reach this machine; 127.0.0.1 without a network."""
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        try:
            probe.connect(("192.0.2.1", 9))  # nothing is sent: the system only chooses the way
            return str(probe.getsockname()[0])
        except OSError:
            return "127.0.0.1"
