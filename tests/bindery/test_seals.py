"""Signatures: made by us and accepted by another, noticed where they do not hold, and read."""

import datetime
import hashlib
import io
import subprocess
import threading
from http.server import BaseHTTPRequestHandler, HTTPServer

import pytest

import fleetquill as fq
from fleetquill.bindery.seals import moment_of
from readers import accepted, needs, pixels

DAY = datetime.datetime(2026, 6, 2, 14, 30, tzinfo=datetime.UTC)


def as_another_sees(path, password=""):
    """What pdfsig says of each signature."""
    needs("pdfsig")
    done = subprocess.run(["pdfsig", "-nocert", "-upw", password, str(path)], capture_output=True, text=True)
    lines = [line.strip(" -") for line in done.stdout.splitlines()]
    return {
        what: [line.partition(":")[2].strip() for line in lines if line.startswith(what)]
        for what in ("Signature Validation", "Signer Certificate Common Name", "Signature Type", "Signing Time")
    } | {"whole": sum("Total document signed" in line and "Not" not in line for line in lines)}


@pytest.mark.parametrize("kind", ["rsa", "ec"])
def test_a_signature_is_accepted_by_another(tolls, key, tmp_path, kind):
    target = tmp_path / "signed.pdf"
    fq.seal(tolls, target, fq.Seal(key("Rowan Marsh", kind), "reed", reason="Approved", place="Stonecross", date=DAY))
    accepted(target)
    said = as_another_sees(target)
    assert said["Signature Validation"] == ["Signature is Valid."]
    assert said["Signer Certificate Common Name"] == ["Rowan Marsh"]
    assert said["Signature Type"] == ["ETSI.CAdES.detached"] and said["whole"] == 1
    (seal,) = fq.Volume(target).seals
    assert seal == fq.SealFound(
        "Signature 1", "Rowan Marsh", "Rowan Marsh", "Approved", "Stonecross", DAY, None, holds=True, covers_all=True
    )


def test_the_file_that_is_signed_stays_byte_for_byte(tolls, key, tmp_path):
    target = tmp_path / "signed.pdf"
    fq.seal(tolls, target, fq.Seal(key("Rowan Marsh"), "reed"))
    assert target.read_bytes().startswith(tolls.read_bytes())
    assert [page.text for page in fq.Volume(target).pages] == [page.text for page in fq.Volume(tolls).pages]


def test_a_second_signature_does_not_harm_the_first(tolls, key, tmp_path):
    first, second = tmp_path / "one.pdf", tmp_path / "two.pdf"
    fq.seal(tolls, first, fq.Seal(key("Rowan Marsh"), "reed", date=DAY))
    fq.seal(first, second, fq.Seal(key("Ilse Marsh", "ec"), "reed", date=DAY, shown=fq.Placement(2, 100, 200, 150, 50)))
    seals = fq.Volume(second).seals
    assert [(seal.signer, seal.holds, seal.covers_all) for seal in seals] == [
        ("Rowan Marsh", True, False), ("Ilse Marsh", True, True)
    ]  # fmt: skip
    assert as_another_sees(second)["Signature Validation"] == ["Signature is Valid."] * 2


@pytest.mark.parametrize("where", ["in what is signed", "in the signature"])
def test_a_byte_that_was_changed_is_noticed(tolls, key, tmp_path, where):
    target = tmp_path / "signed.pdf"
    fq.seal(tolls, target, fq.Seal(key("Rowan Marsh"), "reed"))
    content = bytearray(target.read_bytes())
    if where == "in what is signed":
        content[content.index(b"stream\n") + 40] ^= 1
    else:
        at = content.index(b"/Contents<") + 2200
        content[at] = ord("0") if content[at] != ord("0") else ord("1")
    target.write_bytes(content)
    (seal,) = fq.Volume(target).seals
    assert not seal.holds and seal.fault
    assert as_another_sees(target)["Signature Validation"] != ["Signature is Valid."]


def test_what_was_added_later_is_told(form, key, tmp_path):
    signed, later = tmp_path / "signed.pdf", tmp_path / "later.pdf"
    fq.seal(form, signed, fq.Seal(key("Rowan Marsh"), "reed", certify="fill"))
    fq.fill_fields(signed, {"skipper": "Ilse Marsh"}, later)
    (seal,) = fq.Volume(later).seals
    assert seal.holds and not seal.covers_all
    assert as_another_sees(later)["Signature Validation"] == ["Signature is Valid."]


def test_a_signature_is_shown_in_its_field(form, key, tmp_path):
    target = tmp_path / "signed.pdf"
    fq.seal(form, target, fq.Seal(key("Rowan Marsh"), "reed", reason="Seen and sound", shown="sign", date=DAY))
    volume = fq.Volume(target)
    assert [seal.field for seal in volume.seals] == ["sign"]
    text = volume.pages[0].text
    assert "Rowan Marsh" in text and "Seen and sound" in text and "2026-06-02 14:30 UTC" in text
    with pytest.raises(fq.OptionError, match="signed already"):
        fq.seal(target, io.BytesIO(), fq.Seal(key("Ilse Marsh"), "reed", shown="sign"))


def test_a_signature_is_shown_at_a_placement(key, tmp_path):
    edition = fq.compose(
        fq.Manuscript.from_html("<p>Contract<p id=here style='width:200pt;height:60pt;margin-top:100pt'>")
    )
    target = tmp_path / "signed.pdf"
    (place,) = edition.locate("#here")
    fq.seal(edition.to_bytes(), target, fq.Seal(key("Rowan Marsh"), "reed", shown=place, date=DAY))
    word = next(word for word in fq.Volume(target).pages[0].words if word.text == "Rowan")
    assert place.x <= word.x <= place.x + 20 and place.y <= word.y <= place.y + 20
    dark = pixels(target).crop((int(place.x), int(place.y), int(place.x + place.width), int(place.y + place.height)))
    assert (
        min(
            dark.convert("L").getdata()
            if not hasattr(dark, "get_flattened_data")
            else dark.convert("L").get_flattened_data()
        )
        < 80
    )


@pytest.mark.parametrize("turn", [90, 180, 270])
def test_a_placement_on_a_turned_page_is_as_it_is_shown(tolls, key, tmp_path, turn):
    turned, target = tmp_path / "turned.pdf", tmp_path / "signed.pdf"
    fq.bind([fq.Part(tolls, pages="1", turn=turn)], turned)
    fq.seal(turned, target, fq.Seal(key("Rowan Marsh"), "reed", shown=fq.Placement(1, 50, 60, 120, 40)))
    from fleetquill.drawing.matrices import moved_corners
    from fleetquill.pdf.page_boxes import shown_matrix

    reader = fq.Volume(target).reader
    (page,) = reader.pages()
    rect = [
        reader.dictionary(ref)["Rect"] for ref in reader.array(page.entries["Annots"])
        if reader.dictionary(ref).get("Subtype") == "Widget"
    ][0]  # fmt: skip
    corners = moved_corners(shown_matrix(page, reader), (rect[0], rect[1], rect[2] - rect[0], rect[3] - rect[1]))
    across, down = [x for x, _ in corners], [y for _, y in corners]
    assert (min(across), min(down), max(across), max(down)) == pytest.approx((50, 60, 170, 100), abs=0.01)


def test_what_is_bound_is_signed_where_an_element_stands(tolls, key, tmp_path):
    m = fq.Manuscript.from_html("<p>x<p style='break-before:page' id=sign>sign here")
    target = tmp_path / "signed.pdf"
    fq.bind([tolls, m], target, seal=fq.Seal(key("Rowan Marsh"), "reed", shown="#sign", date=DAY), password="a")
    volume = fq.Volume(target, "a")
    assert volume.seals[0].holds
    assert "Rowan Marsh" in volume.pages[5].text
    assert as_another_sees(target, "a")["Signature Validation"] == ["Signature is Valid."]
    with pytest.raises(fq.OptionError, match="Nothing in the parts is selected by '#nowhere'"):
        fq.bind([m], io.BytesIO(), seal=fq.Seal(key("Rowan Marsh"), "reed", shown="#nowhere"))


def test_files_with_a_plain_table_are_signed_too(tolls, key, tmp_path):
    needs("qpdf")
    old, target = tmp_path / "old.pdf", tmp_path / "signed.pdf"
    subprocess.run(["qpdf", "--object-streams=disable", str(tolls), str(old)], check=True)
    fq.seal(old, target, fq.Seal(key("Rowan Marsh"), "reed"))
    accepted(target)
    assert as_another_sees(target)["Signature Validation"] == ["Signature is Valid."]


def test_a_certified_file_says_what_may_be_done(tolls, key, tmp_path):
    target = tmp_path / "signed.pdf"
    fq.seal(tolls, target, fq.Seal(key("Rowan Marsh"), "reed", certify="nothing"))
    reader = fq.Volume(target).reader
    permission = reader.dictionary(reader.dictionary(reader.catalog["Perms"])["DocMDP"])
    reference = reader.dictionary(reader.array(permission["Reference"])[0])
    assert reader.dictionary(reference["TransformParams"])["P"] == 1
    with pytest.raises(fq.OptionError, match="Only the first signature"):
        fq.seal(target, io.BytesIO(), fq.Seal(key("Ilse Marsh"), "reed", certify="fill"))


@pytest.mark.parametrize(
    ("wish", "error", "message"),
    [
        ({"password": "weed"}, fq.SourceError, "password is another"),
        ({"password": None}, fq.SourceError, "password is another"),
        ({"key": "nothing.p12"}, fq.SourceError, r"nothing\.p12: The key cannot be read"),
        ({"key": b"rubbish"}, fq.SourceError, "no PKCS #12"),
        ({"shown": "place"}, fq.OptionError, "no signature field 'place'"),
        ({"shown": fq.Placement(9, 0, 0, 1, 1)}, fq.OptionError, "no page 9"),
        ({"certify": "al"}, fq.OptionError, "'certify' is 'al'"),
        ({"time_server": "http://127.0.0.1:9/"}, fq.SourceError, "does not answer"),
    ],
)
def test_what_cannot_be_signed_is_refused(tolls, key, tmp_path, wish, error, message):
    given = {"key": key("Rowan Marsh"), "password": "reed"} | wish
    with pytest.raises(error, match=message):
        fq.seal(tolls, tmp_path / "x.pdf", fq.Seal(**given))
    assert not (tmp_path / "x.pdf").exists()


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("D:20260602143000Z", DAY),
        ("D:20260602163000+02'00'", DAY),
        ("D:20260602093000-05'00", DAY),
        ("D:2026", datetime.datetime(2026, 1, 1, tzinfo=datetime.UTC)),
        ("D:20261399", None),
        ("yesterday", None),
        ("", None),
    ],
)
def test_dates_are_read(text, expected):
    assert moment_of(text) == expected


# ---- time stamps ----


class Clock:
    """A stand-in for a server of time stamps (RFC 3161), which signs with a key of its own."""

    def __init__(self, key, mode):
        from cryptography.hazmat.primitives.serialization import pkcs12

        self.key, self.certificate, _ = pkcs12.load_key_and_certificates(key.read_bytes(), b"reed")
        self.mode = mode

    def answer(self, body):
        from asn1crypto import algos, cms, core, tsp, x509
        from cryptography.hazmat.primitives import hashes, serialization
        from cryptography.hazmat.primitives.asymmetric import padding

        asked = tsp.TimeStampReq.load(body)
        imprint = asked["message_imprint"]
        if self.mode == "wrong":
            imprint = tsp.MessageImprint({"hash_algorithm": imprint["hash_algorithm"], "hashed_message": bytes(32)})
        info = tsp.TSTInfo(
            {
                "version": "v1", "policy": "1.2.3", "message_imprint": imprint, "serial_number": 7,
                "gen_time": DAY, "nonce": asked["nonce"],
            }
        )  # fmt: skip
        certificate = x509.Certificate.load(self.certificate.public_bytes(serialization.Encoding.DER))
        attributes = cms.CMSAttributes(
            [
                cms.CMSAttribute({"type": "content_type", "values": ["tst_info"]}),
                cms.CMSAttribute({"type": "message_digest", "values": [hashlib.sha256(info.dump()).digest()]}),
            ]
        )
        signer = cms.SignerInfo(
            {
                "version": "v1",
                "sid": cms.SignerIdentifier({"issuer_and_serial_number": cms.IssuerAndSerialNumber(
                    {"issuer": certificate.issuer, "serial_number": certificate.serial_number})}),
                "digest_algorithm": algos.DigestAlgorithm({"algorithm": "sha256"}),
                "signed_attrs": attributes,
                "signature_algorithm": algos.SignedDigestAlgorithm({"algorithm": "sha256_rsa"}),
                "signature": self.key.sign(attributes.dump(), padding.PKCS1v15(), hashes.SHA256()),
            }
        )  # fmt: skip
        token = cms.ContentInfo(
            {
                "content_type": "signed_data",
                "content": cms.SignedData(
                    {
                        "version": "v3", "digest_algorithms": [algos.DigestAlgorithm({"algorithm": "sha256"})],
                        "encap_content_info": cms.EncapsulatedContentInfo(
                            {"content_type": "tst_info", "content": core.ParsableOctetString(info.dump())}
                        ),
                        "certificates": [certificate], "signer_infos": [signer],
                    }
                ),
            }
        )  # fmt: skip
        status = "rejection" if self.mode == "rejected" else "granted"
        return tsp.TimeStampResp({"status": tsp.PKIStatusInfo({"status": status}), "time_stamp_token": token}).dump()


@pytest.fixture
def clock(key):
    """Starts a server of time stamps; gives its address."""
    servers = []

    def start(mode="right"):
        own = Clock(key("Clock"), mode)

        class Handler(BaseHTTPRequestHandler):
            def do_POST(self):
                body = self.rfile.read(int(self.headers["Content-Length"]))
                assert self.headers["Content-Type"] == "application/timestamp-query"
                content = b"<html>" if own.mode == "rubbish" else own.answer(body)
                self.send_response(503 if own.mode == "busy" else 200)
                self.end_headers()
                self.wfile.write(content)

            def log_message(self, *_):
                pass

        server = HTTPServer(("127.0.0.1", 0), Handler)
        threading.Thread(target=server.serve_forever, daemon=True).start()
        servers.append(server)
        return f"http://127.0.0.1:{server.server_port}/"

    yield start
    for server in servers:
        server.shutdown()
        server.server_close()


def test_a_time_stamp_goes_along(tolls, key, clock, tmp_path):
    target = tmp_path / "signed.pdf"
    fq.seal(tolls, target, fq.Seal(key("Rowan Marsh"), "reed", time_server=clock()))
    (seal,) = fq.Volume(target).seals
    assert seal.holds and seal.stamped_at == DAY
    assert as_another_sees(target)["Signature Validation"] == ["Signature is Valid."]


@pytest.mark.parametrize(
    ("mode", "message"),
    [("rejected", "does not grant one"), ("wrong", "does not grant one"), ("rubbish", "no time stamp"), ("busy", "answers 503")],
)  # fmt: skip
def test_a_server_that_does_not_stamp_is_said_to(tolls, key, clock, tmp_path, mode, message):
    with pytest.raises(fq.SourceError, match=message):
        fq.seal(tolls, tmp_path / "x.pdf", fq.Seal(key("Rowan Marsh"), "reed", time_server=clock(mode)))
