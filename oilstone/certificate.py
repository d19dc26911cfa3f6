"""A certificate for this machine's address on its own network, and the authority that signs it.

The authority is made once for each folder of data. It may sign for addresses of private networks
alone (RFC 5280, name constraints), so that a phone that trusts it trusts nothing else.
"""

import datetime
import ipaddress
import os
from pathlib import Path

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

PRIVATE_NETWORKS = (
    "10.0.0.0/8",
    "172.16.0.0/12",
    "192.168.0.0/16",
    "169.254.0.0/16",
    "127.0.0.0/8",
)
"""RFC 1918, link-local and this machine itself."""
AUTHORITY_DAYS, ADDRESS_DAYS = 3650, 200


def authority_file(folder: Path) -> Path:
    """The certificate of the authority, made when there is none."""
    certificate, key = folder / "authority.crt", folder / "authority.key"
    if not (certificate.exists() and key.exists()):
        folder.mkdir(parents=True, exist_ok=True)
        secret = ec.generate_private_key(ec.SECP256R1())
        signed = _builder("Oilstone on this machine", "Oilstone on this machine", AUTHORITY_DAYS)
        networks = [x509.IPAddress(ipaddress.ip_network(row)) for row in PRIVATE_NETWORKS]
        usage = {
            **dict.fromkeys(
                (
                    "digital_signature",
                    "content_commitment",
                    "key_encipherment",
                    "data_encipherment",
                    "key_agreement",
                    "encipher_only",
                    "decipher_only",
                ),
                False,
            ),
            "key_cert_sign": True,
            "crl_sign": True,
        }
        made = (
            signed.public_key(secret.public_key())
            .add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
            .add_extension(x509.KeyUsage(**usage), critical=True)
            .add_extension(x509.NameConstraints(networks, None), critical=True)
            .sign(secret, hashes.SHA256())
        )
        _write(key, _secret(secret))
        _write(certificate, made.public_bytes(serialization.Encoding.PEM))
    return certificate


def certify(folder: Path, address: str) -> tuple[Path, Path]:
    """A certificate for an address and its key, each in a file, signed by the authority."""
    authority = x509.load_pem_x509_certificate(authority_file(folder).read_bytes())
    signing = serialization.load_pem_private_key((folder / "authority.key").read_bytes(), None)
    assert isinstance(signing, ec.EllipticCurvePrivateKey)
    secret = ec.generate_private_key(ec.SECP256R1())
    name = x509.SubjectAlternativeName([x509.IPAddress(ipaddress.ip_address(address))])
    made = (
        _builder(address, "Oilstone on this machine", ADDRESS_DAYS)
        .public_key(secret.public_key())
        .add_extension(name, critical=False)
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
        .add_extension(
            x509.AuthorityKeyIdentifier.from_issuer_public_key(signing.public_key()), critical=False
        )
        .sign(signing, hashes.SHA256())
    )
    certificate, key = folder / "address.crt", folder / "address.key"
    chain = (made, authority)
    _write(key, _secret(secret))
    _write(certificate, b"".join(one.public_bytes(serialization.Encoding.PEM) for one in chain))
    return certificate, key


def _builder(subject: str, issuer: str, days: int) -> x509.CertificateBuilder:
    now = datetime.datetime.now(datetime.UTC)
    return (
        x509.CertificateBuilder()
        .subject_name(x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, subject)]))
        .issuer_name(x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, issuer)]))
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - datetime.timedelta(days=1))
        .not_valid_after(now + datetime.timedelta(days=days))
    )


def _secret(key: ec.EllipticCurvePrivateKey) -> bytes:
    return key.private_bytes(
        serialization.Encoding.PEM,
        serialization.PrivateFormat.PKCS8,
        serialization.NoEncryption(),
    )


def _write(file: Path, content: bytes) -> None:
    """Readable by its owner alone from the start."""
    handle = os.open(file, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
    with os.fdopen(handle, "wb") as new:
        new.write(content)
