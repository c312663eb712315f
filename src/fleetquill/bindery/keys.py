"""Keys and certificates: what signs, and what tells whether a signature is one of them. Needs cryptography."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Any, Final, NamedTuple

from cryptography import x509
from cryptography.exceptions import InvalidSignature
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec, ed25519, padding, rsa
from cryptography.hazmat.primitives.serialization import pkcs12

from fleetquill.errors import OptionError, SourceError, Where

HASHES: Final[dict[str, type[Any]]] = {
    "sha1": hashes.SHA1, "sha224": hashes.SHA224, "sha256": hashes.SHA256, "sha384": hashes.SHA384,
    "sha512": hashes.SHA512,
}  # fmt: skip


class KeyRing(NamedTuple):
    """A key with its certificate and those above it, as they are written (DER)."""

    key: Any
    certificate: bytes
    chain: list[bytes]


def open_key(source: str | os.PathLike[str] | bytes, password: str | None) -> KeyRing:
    """The key of a PKCS #12 file. Raises SourceError where it cannot be opened."""
    name = "" if isinstance(source, bytes) else os.fspath(source)
    where = Where(name) if name else None
    try:
        content = source if isinstance(source, bytes) else Path(source).read_bytes()
    except OSError as error:
        raise SourceError(f"The key cannot be read ({error.strerror or error}).", where=where) from error
    try:
        key, certificate, others = pkcs12.load_key_and_certificates(
            content, None if password is None else password.encode("utf-8")
        )
    except ValueError as error:
        raise SourceError(
            "The key cannot be opened: its password is another, or it is no PKCS #12 file.", where=where
        ) from error
    if key is None or certificate is None:
        raise SourceError("The file holds no key with its certificate.", where=where)
    if not isinstance(key, (rsa.RSAPrivateKey, ec.EllipticCurvePrivateKey)):
        raise OptionError("Only keys of RSA and of elliptic curves sign.", where=where)
    written = serialization.Encoding.DER
    return KeyRing(key, certificate.public_bytes(written), [one.public_bytes(written) for one in others])


def signature(key: Any, content: bytes) -> tuple[bytes, str]:
    """The signature of bytes with SHA-256, and what its algorithm is called in CMS."""
    if isinstance(key, rsa.RSAPrivateKey):
        return key.sign(content, padding.PKCS1v15(), hashes.SHA256()), "sha256_rsa"
    return key.sign(content, ec.ECDSA(hashes.SHA256())), "sha256_ecdsa"


def verify(certificate: Any, info: Any, digest: str) -> str:
    """'' where the signature of a signer's attributes was made with the certificate's key; else what is wrong."""
    public = x509.load_der_x509_certificate(certificate.dump()).public_key()
    attributes = info["signed_attrs"].untag().dump()
    given = info["signature"].native
    algorithm = info["signature_algorithm"]
    kind = HASHES[digest]()
    try:
        if isinstance(public, rsa.RSAPublicKey):
            if algorithm.signature_algo == "rsassa_pss":
                salt = algorithm["parameters"]["salt_length"].native
                public.verify(given, attributes, padding.PSS(padding.MGF1(kind), salt), kind)
            else:
                public.verify(given, attributes, padding.PKCS1v15(), kind)
        elif isinstance(public, ec.EllipticCurvePublicKey):
            public.verify(given, attributes, ec.ECDSA(kind))
        elif isinstance(public, ed25519.Ed25519PublicKey):
            public.verify(given, attributes)
        else:
            return "Its kind of key is not known."
    except InvalidSignature:
        return "It was not made with the key of its certificate."
    return ""
