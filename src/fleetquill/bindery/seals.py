"""The signatures of finished files: who signed, what of the file that covers, whether it still holds
(ISO 32000-2 §12.8, ETSI EN 319 142-1)."""

from __future__ import annotations

import hashlib
import re
from collections.abc import Iterator
from datetime import datetime, timedelta, timezone
from typing import Any, Final, NamedTuple

from fleetquill.bindery.fields import FieldNode, field_nodes
from fleetquill.errors import OptionError
from fleetquill.pdf.reading import PdfReader

DATE: Final = re.compile(r"D:(\d{4})(\d\d)?(\d\d)?(\d\d)?(\d\d)?(\d\d)?(?:([-+Z])(\d\d)?'?(\d\d)?)?")
DIGESTS: Final = ("sha1", "sha224", "sha256", "sha384", "sha512")


class SealFound(NamedTuple):
    """A signature that was found.

    `field` is the name of its field, `signer` the common name in the certificate, `issuer` who issued that. `holds`
    tells whether what it covers is as it was signed, and signed with that certificate's key; `covers_all` whether it
    covers the whole file, or something was added later. Whether the certificate is to be trusted is not looked at.
    `fault` says why it does not hold.
    """

    field: str
    signer: str
    issuer: str
    reason: str
    place: str
    signed_at: datetime | None
    stamped_at: datetime | None  # by a server of time stamps
    holds: bool
    covers_all: bool
    fault: str = ""


def seals_of(reader: PdfReader) -> tuple[SealFound, ...]:
    """The signatures, in the order in which they were made."""
    found = [(end, seal) for node in field_nodes(reader) for end, seal in _seal(node, reader)]
    found.sort(key=lambda pair: pair[0])
    return tuple(seal for _, seal in found)


def _seal(node: FieldNode, reader: PdfReader) -> Iterator[tuple[int, SealFound]]:
    entries = reader.dictionary(node.entries.get("V"))
    if node.kind != "signature" or not entries:
        return
    ranges = [reader.resolve(one) for one in reader.array(entries.get("ByteRange"))]
    contents = reader.resolve(entries.get("Contents"))
    reason, place = reader.text(entries.get("Reason")), reader.text(entries.get("Location"))
    moment = moment_of(reader.text(entries.get("M")))
    unread = SealFound(node.name, "", "", reason, place, moment, None, holds=False, covers_all=False)
    if (
        len(ranges) != 4
        or not all(isinstance(one, int) and one >= 0 for one in ranges)
        or not isinstance(contents, bytes)
    ):
        yield 0, unread._replace(fault="It does not say what it covers.")
        return
    first, length, second, rest = ranges
    end = second + rest
    covered = reader.content[first : first + length] + reader.content[second:end]
    gap = reader.content[first + length : second]
    covers_all = first == 0 and end >= len(reader.content.rstrip()) and gap[:1] == b"<" and gap[-1:] == b">"
    try:
        seal = _read(contents, covered, unread)
    except OptionError:
        raise
    except Exception as error:  # whatever a library says of a damaged signature
        seal = unread._replace(fault=f"It cannot be read ({type(error).__name__}).")
    yield end, seal._replace(covers_all=covers_all)


def _read(contents: bytes, covered: bytes, unread: SealFound) -> SealFound:
    """What a signature says (RFC 5652), and whether it holds."""
    keys = signing()
    from asn1crypto import cms

    signed = cms.ContentInfo.load(contents, strict=False)["content"]
    info = signed["signer_infos"][0]
    certificate = _certificate(signed, info)
    subject, issuer = certificate.subject.native, certificate.issuer.native
    attributes = {one["type"].native: one["values"] for one in info["signed_attrs"]}
    algorithm = info["digest_algorithm"]["algorithm"].native
    moment = attributes["signing_time"][0].native if "signing_time" in attributes else unread.signed_at
    stamped = _stamped(info)
    found = unread._replace(
        signer=subject.get("common_name", certificate.subject.human_friendly),
        issuer=issuer.get("common_name", certificate.issuer.human_friendly), signed_at=moment, stamped_at=stamped,
    )  # fmt: skip
    if algorithm not in DIGESTS:
        return found._replace(fault=f"Its digest '{algorithm}' is not known.")
    if attributes["message_digest"][0].native != hashlib.new(algorithm, covered).digest():
        return found._replace(fault="What it covers was changed.")
    fault = keys.verify(certificate, info, algorithm)
    return found._replace(holds=not fault, fault=fault)


def _certificate(signed: Any, info: Any) -> Any:
    """The certificate of the signer, by its serial number."""
    serial = info["sid"].native["serial_number"]
    certificates = [one.chosen for one in signed["certificates"]]
    return next(one for one in certificates if one.serial_number == serial)


def _stamped(info: Any) -> datetime | None:
    """The time that a server has put to it (RFC 3161)."""
    given = info["unsigned_attrs"]
    for one in given if given.native else []:
        if one["type"].native == "signature_time_stamp_token":
            token = one["values"][0]["content"]["encap_content_info"]["content"].parsed
            moment = token["gen_time"].native
            return moment if isinstance(moment, datetime) else None
    return None


def moment_of(text: str) -> datetime | None:
    """A date as PDF writes it (§7.9.4); None where it is none."""
    found = DATE.match(text)
    if found is None:
        return None
    numbers = [int(part) if part else usual for part, usual in zip(found.groups()[:6], (1, 1, 1, 0, 0, 0), strict=True)]
    sign, hours, minutes = found.groups()[6:]
    away = timedelta(hours=int(hours or 0), minutes=int(minutes or 0))
    try:
        year, month, day, hour, minute, second = numbers
        zone = timezone(-away if sign == "-" else away)
        return datetime(year, month, day, hour, minute, second, tzinfo=zone)
    except ValueError:
        return None


def signing() -> Any:
    """What signs and tells whether a signature holds. Raises OptionError where the packages for it are not there."""
    try:
        import asn1crypto  # noqa: F401 - it is asked for here, once

        from fleetquill.bindery import keys
    except ImportError:
        raise OptionError(
            "Signatures need the packages asn1crypto and cryptography, which are not there.",
            remedy="Install fleetquill[sign].",
        ) from None
    return keys
