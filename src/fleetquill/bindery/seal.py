"""Signing finished files: PAdES at its basic level, with a time stamp where a server is named (ETSI EN 319 142-1)."""

from __future__ import annotations

import hashlib
import html
import io
import os
from collections.abc import Mapping
from datetime import UTC, datetime
from pathlib import Path
from typing import TYPE_CHECKING, Any, BinaryIO, Final, NamedTuple

from fleetquill.authoring.manuscript import Manuscript
from fleetquill.bindery.fields import FieldNode, field_nodes
from fleetquill.bindery.seals import signing
from fleetquill.bindery.sources import Finished, read_source
from fleetquill.bindery.updating import Update, mended
from fleetquill.errors import OptionError, SourceError, Where, meant
from fleetquill.guard import guarded
from fleetquill.inspecting import Placement
from fleetquill.output.pdf.metadata import pdf_date
from fleetquill.pdf.copying import Copier, Shared, form_of_page
from fleetquill.pdf.objects import Name, Raw, Ref
from fleetquill.pdf.page_boxes import shown_matrix
from fleetquill.pdf.reading import PdfPage, PdfReader
from fleetquill.press import Press
from fleetquill.whole_files import write_whole

if TYPE_CHECKING:
    from fleetquill.bindery.keys import KeyRing

ROOM: Final = 12_000  # bytes for a signature, besides its certificates
STAMP_ROOM: Final = 10_000  # and for a time stamp
RANGE: Final = "[0 0000000000 0000000000 0000000000]"
LEVELS: Final = {"": 0, "nothing": 1, "fill": 2, "comment": 3}  # what may be done to a certified file (table 257)
TIMEOUT: Final = 20.0  # seconds
SIGNED, APPEND_ONLY = 1, 2  # bits of SigFlags (table 225)
FLAGS: Final = 4 + 128  # of its widget: printed, locked (table 167)


class Seal(NamedTuple):
    """What signs a file.

    `key` is a PKCS #12 file (a path or bytes) with a key of RSA or an elliptic curve, `password` opens it. `reason` and
    `place` are shown by readers, and so is `date`, without which it is now. `shown` is where it is seen: the name of
    a signature field, a Placement, such as `edition.locate` gives, or, where parts are bound, the selector of an
    element that is composed ('#sign'); without it nothing is. `certify` tells what may
    be done to the file afterwards without breaking it: 'nothing', 'fill' (its form) or 'comment'; only the first
    signature of a file can. `time_server` is the address of a server of time stamps (RFC 3161).
    """

    key: str | os.PathLike[str] | bytes
    password: str | None = None
    reason: str = ""
    place: str = ""
    shown: str | Placement = ""
    date: datetime | None = None
    certify: str = ""
    time_server: str = ""


def seal(
    source: Finished,
    target: str | os.PathLike[str] | BinaryIO,
    seal: Seal,
    *,
    password: str | None = None,
    press: Press | None = None,
) -> None:
    """Signs a finished PDF: the file as it is, with the signature added at its end, so that those before it still hold.

    `password` opens a locked file. `target` is a path, written whole or not at all, or a binary stream. Raises
    SourceError where the file or the key cannot be read, OptionError where what is asked for cannot be.
    """
    name, content = read_source(source)
    with guarded():
        signed = sealed(content, seal, password=password, press=press or Press(), source=name)
        if isinstance(target, (str, os.PathLike)):
            write_whole(Path(target), lambda stream: _put(stream, signed))
        else:
            target.write(signed)


def _put(stream: BinaryIO, content: bytes) -> None:
    stream.write(content)


def sealed(content: bytes, seal: Seal, *, password: str | None, press: Press, source: str = "") -> bytes:
    """The file with its signature."""
    keys = signing()
    if seal.certify not in LEVELS:
        raise OptionError(f"'certify' is {seal.certify!r}.", remedy=meant(seal.certify, list(LEVELS)[1:]))
    ring = keys.open_key(seal.key, seal.password)
    date = seal.date or datetime.now(UTC)
    reader = mended(PdfReader(content, source, password))
    update = Update(reader)
    work = _Sealing(update, seal, ring, date, press)
    room = ROOM + len(ring.certificate) + sum(map(len, ring.chain)) + (STAMP_ROOM if seal.time_server else 0)
    work.prepare(room)
    return _signed(update.finish(), seal, ring, room)


class _Sealing:
    """The objects of one signature."""

    def __init__(self, update: Update, seal: Seal, ring: KeyRing, date: datetime, press: Press) -> None:
        self._update = update
        self._reader = update.reader
        self._seal = seal
        self._ring = ring
        self._date = date
        self._press = press

    def prepare(self, room: int) -> None:
        """Adds the signature with room for its bytes, its field, and what shows it."""
        update, reader, seal = self._update, self._reader, self._seal
        nodes = list(field_nodes(reader))
        signed = [node for node in nodes if node.kind == "signature" and node.entries.get("V") is not None]
        if seal.certify and signed:
            raise OptionError("Only the first signature of a file can certify it.", remedy="Leave 'certify' away.")
        root = reader.trailer["Root"]
        catalog = update.dictionary(root)
        signature = update.add(self._signature(room, certifies=bool(seal.certify)))
        form = dict(reader.dictionary(catalog.get("AcroForm")))
        fields = list(reader.array(form.get("Fields")))
        field = self._field(nodes, signature)
        if field not in fields and not self._is_below(field, nodes):
            fields.append(field)
        form |= {"Fields": fields, "SigFlags": SIGNED | APPEND_ONLY}
        if isinstance(catalog.get("AcroForm"), Ref):
            update.add(form, catalog["AcroForm"])
        else:
            catalog["AcroForm"] = form
        if seal.certify:
            catalog["Perms"] = {"DocMDP": signature}
        update.add(catalog, root)

    def _is_below(self, field: Ref, nodes: list[FieldNode]) -> bool:
        """Whether a field is there already."""
        return any(node.ref == field for node in nodes)

    def _signature(self, room: int, *, certifies: bool) -> dict[str, Any]:
        """The signature dictionary (§12.8.1, table 255)."""
        seal = self._seal
        entries: dict[str, Any] = {
            "Type": Name("Sig"),
            "Filter": Name("Adobe.PPKLite"),
            "SubFilter": Name("ETSI.CAdES.detached"),
            "Name": _signer(self._ring) or None,
            "Reason": seal.reason or None,
            "Location": seal.place or None,
            "M": pdf_date(self._date),
            "ByteRange": Raw(RANGE),
            "Contents": bytes(room),
        }
        if certifies:
            said = {"Type": Name("TransformParams"), "P": LEVELS[seal.certify], "V": Name("1.2")}
            entries["Reference"] = [
                {"Type": Name("SigRef"), "TransformMethod": Name("DocMDP"), "TransformParams": said}
            ]  # fmt: skip
        return entries

    def _field(self, nodes: list[FieldNode], signature: Ref) -> Ref:
        """The field that holds the signature: one that is there, or a new one."""
        seal = self._seal
        if isinstance(seal.shown, str) and seal.shown:
            return self._existing(nodes, seal.shown, signature)
        names = {node.name for node in nodes}
        number = 1
        while f"Signature {number}" in names:
            number += 1
        pages = list(self._reader.pages())
        page, rect = pages[0], [0.0, 0.0, 0.0, 0.0]
        if isinstance(seal.shown, Placement):
            if not 1 <= seal.shown.page <= len(pages):
                raise OptionError(f"There is no page {seal.shown.page} for the signature.")
            page = pages[seal.shown.page - 1]
            rect = _rect(seal.shown, page, self._reader)
        if page.ref is None:
            raise SourceError("The page of the signature has no object of its own.", where=Where(self._reader.source))
        widget: dict[str, Any] = {
            "Type": Name("Annot"),
            "Subtype": Name("Widget"),
            "FT": Name("Sig"),
            "T": f"Signature {number}",
            "V": signature,
            "Rect": rect,
            "P": page.ref,
            "F": FLAGS,
            "AP": {"N": self._appearance(rect)},
        }
        ref = self._update.add(widget)
        entries = self._update.dictionary(page.ref)
        annotations = [*self._reader.array(entries.get("Annots")), ref]
        if isinstance(entries.get("Annots"), Ref):
            self._update.add(annotations, entries["Annots"])
        else:
            self._update.add(entries | {"Annots": annotations}, page.ref)
        return ref

    def _existing(self, nodes: list[FieldNode], name: str, signature: Ref) -> Ref:
        known = {node.name: node for node in nodes if node.kind == "signature"}
        if name not in known:
            remedy = meant(name, known) or "The file has no signature field: give a Placement."
            raise OptionError(f"There is no signature field '{name}'.", remedy=remedy)
        node = known[name]
        if node.entries.get("V") is not None:
            raise OptionError(f"The field '{name}' is signed already.")
        if node.ref is None:
            raise SourceError(f"The field '{name}' has no object of its own.", where=Where(self._reader.source))
        self._update.add(self._update.dictionary(node.ref) | {"V": signature}, node.ref)
        for ref, widget in node.widgets:
            if ref is not None:
                rect = [self._reader.resolve(side) for side in self._reader.array(widget.get("Rect"))]
                own = self._update.dictionary(ref)
                self._update.add(own | {"AP": {"N": self._appearance(rect)}, "F": FLAGS}, ref)
        return node.ref

    def _appearance(self, rect: list[float]) -> Ref:
        """What shows the signature: who signed, why, where and when."""
        wide, high = abs(rect[2] - rect[0]), abs(rect[3] - rect[1])
        if not wide or not high:
            return self._update.add_stream(b"", {"Subtype": Name("Form"), "BBox": [0, 0, 0, 0]})
        seal = self._seal
        rows = [seal.reason, seal.place, self._date.strftime("%Y-%m-%d %H:%M %Z").strip()]
        text = "<br>".join(html.escape(row) for row in rows if row)
        source = (
            f"<style>@page {{ size: {wide:.2f}pt {high:.2f}pt; margin: 0 }} body {{ margin: 0 }}"
            f" div {{ width: {wide:.2f}pt; height: {high:.2f}pt; box-sizing: border-box; padding: 3pt 4pt;"
            " -fq-fit: shrink; border: 0.75pt solid #1d2a2f; font-size: 8pt; line-height: 1.25 }</style>"
            f"<div><b>{html.escape(_signer(self._ring))}</b><br>{text}</div>"
        )
        stream = io.BytesIO()
        self._press.compose(Manuscript.from_html(source, source="a signature"), tagged=False).write_to(stream)
        shown = PdfReader(stream.getvalue())
        copier = Copier(shown, self._update, Shared())
        copier.places |= {page.ref.number: None for page in shown.pages() if page.ref is not None}
        return form_of_page(next(shown.pages()), copier, self._update)


def _rect(shown: Placement, page: PdfPage, reader: PdfReader) -> list[float]:
    """A placement in the page's own space."""
    from fleetquill.drawing.matrices import inverse, moved_corners

    corners = moved_corners(inverse(shown_matrix(page, reader)), (shown.x, shown.y, shown.width, shown.height))
    across, down = [x for x, _ in corners], [y for _, y in corners]
    return [min(across), min(down), max(across), max(down)]


def _signer(ring: KeyRing) -> str:
    from asn1crypto import x509

    subject: Mapping[str, Any] = x509.Certificate.load(ring.certificate).subject.native
    found = subject.get("common_name") or subject.get("organization_name") or ""
    return str(found)


def _signed(content: bytes, seal: Seal, ring: KeyRing, room: int) -> bytes:
    """Puts the signature into the room that was left for it: it covers all bytes but its own (§12.8.1)."""
    placeholder = b"<" + b"0" * (2 * room) + b">"
    begin = content.rindex(placeholder)
    end = begin + len(placeholder)
    ranges = f"[0 {begin} {end} {len(content) - end}]".ljust(len(RANGE)).encode()
    at = content.rindex(RANGE.encode())
    content = content[:at] + ranges + content[at + len(RANGE) :]
    digest = hashlib.sha256(content[:begin] + content[end:]).digest()
    written = _cms(digest, seal, ring).hex().encode()
    if len(written) > 2 * room:
        raise OptionError("The certificates of the key are larger than can be kept.")
    return content[: begin + 1] + written.ljust(2 * room, b"0") + content[end - 1 :]


def _cms(digest: bytes, seal: Seal, ring: KeyRing) -> bytes:
    """The signature as CMS (RFC 5652), with the certificate that it was made with among what is signed (RFC 5035)."""
    from asn1crypto import algos, cms, tsp, x509

    from fleetquill.bindery.keys import signature

    certificate = x509.Certificate.load(ring.certificate)
    named = tsp.SigningCertificateV2(
        {"certs": [tsp.ESSCertIDv2({"cert_hash": hashlib.sha256(ring.certificate).digest()})]}
    )
    attributes = cms.CMSAttributes(
        [
            cms.CMSAttribute({"type": "content_type", "values": ["data"]}),
            cms.CMSAttribute({"type": "message_digest", "values": [digest]}),
            cms.CMSAttribute({"type": "signing_certificate_v2", "values": [named]}),
        ]
    )
    signed, algorithm = signature(ring.key, attributes.dump())
    info = cms.SignerInfo(
        {
            "version": "v1",
            "sid": cms.SignerIdentifier(
                {
                    "issuer_and_serial_number": cms.IssuerAndSerialNumber(
                        {"issuer": certificate.issuer, "serial_number": certificate.serial_number}
                    )
                }
            ),
            "digest_algorithm": algos.DigestAlgorithm({"algorithm": "sha256"}),
            "signed_attrs": attributes,
            "signature_algorithm": algos.SignedDigestAlgorithm({"algorithm": algorithm}),
            "signature": signed,
        }
    )
    if seal.time_server:
        token = cms.ContentInfo.load(_time_stamp(seal.time_server, signed))
        info["unsigned_attrs"] = cms.CMSAttributes(
            [cms.CMSAttribute({"type": "signature_time_stamp_token", "values": [token]})]
        )
    whole = cms.SignedData(
        {
            "version": "v1",
            "digest_algorithms": [algos.DigestAlgorithm({"algorithm": "sha256"})],
            "encap_content_info": {"content_type": "data"},
            "certificates": [certificate, *(x509.Certificate.load(one) for one in ring.chain)],
            "signer_infos": [info],
        }
    )
    return bytes(cms.ContentInfo({"content_type": "signed_data", "content": whole}).dump())


def _time_stamp(address: str, signed: bytes) -> bytes:
    """The token of a server of time stamps for a signature (RFC 3161)."""
    import httpx2
    from asn1crypto import algos, tsp

    where = Where(address)
    imprint = {
        "hash_algorithm": algos.DigestAlgorithm({"algorithm": "sha256"}),
        "hashed_message": hashlib.sha256(signed).digest(),
    }
    nonce = int.from_bytes(os.urandom(8), "big")
    asked = tsp.TimeStampReq(
        {"version": "v1", "message_imprint": tsp.MessageImprint(imprint), "nonce": nonce, "cert_req": True}
    )
    try:
        answer = httpx2.post(
            address, content=asked.dump(), headers={"Content-Type": "application/timestamp-query"}, timeout=TIMEOUT
        )
    except (httpx2.HTTPError, httpx2.InvalidURL) as error:
        raise SourceError(f"The server of time stamps does not answer ({error}).", where=where) from error
    if answer.status_code != 200:
        raise SourceError(f"The server of time stamps answers {answer.status_code}.", where=where)
    try:
        found = tsp.TimeStampResp.load(answer.content)
        status = found["status"]["status"].native
        token = found["time_stamp_token"]
        said = token["content"]["encap_content_info"]["content"].parsed
        same = said["message_imprint"]["hashed_message"].native == imprint["hashed_message"]
    except (ValueError, KeyError, TypeError, AttributeError) as error:
        raise SourceError("What the server of time stamps answers is no time stamp.", where=where) from error
    if status not in ("granted", "granted_with_mods") or not same or said["nonce"].native != nonce:
        raise SourceError(f"The server of time stamps does not grant one ({status}).", where=where)
    return bytes(token.dump())
