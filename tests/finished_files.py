"""Finished files that the bindery's tests work with."""

import datetime

import pytest

import fleetquill as fq

FORM = """<html lang=en><title>Inspection</title><form>
<p><label for=s>Skipper</label> <input id=s name=skipper value="Maren Oldwater" required maxlength=30>
<p><select name=barge title=Barge><option>Heron<option selected>Teal<option value=SP>Sandpiper</select>
<p><input type=checkbox name=sound value=yes checked title=Sound> <input type=checkbox name=dry title=Dry>
<p><fieldset><legend>State</legend><input type=radio name=state value=good checked title=Good>
<input type=radio name=state value=fair title=Fair></fieldset>
<p><select multiple name=cargo title=Cargo><option selected>barley<option>brick<option>clay</select>
<p><input list=where name=berth value=Saltgate title=Berth><datalist id=where><option>Saltgate<option>Stonecross</datalist>
<p><textarea name=notes rows=3 cols=30 title=Notes>one
two</textarea> <input name=waybill title=Waybill style="-fq-comb:6" value=W-1>
<p><input type=fq-signature name=sign title=Signature style="width:6cm;height:15mm">
<p><button type=reset>Anew</button></form>"""


@pytest.fixture(scope="session")
def finished(tmp_path_factory):
    """Makes a finished file of some HTML, under a name in a folder of its own; the same is made once."""
    folder = tmp_path_factory.mktemp("finished")

    def make(name, html, **options):
        path = folder / name
        if not path.exists():
            fq.write(fq.Manuscript.from_html(html, base=folder), path, **options)
        return path

    return make


def chapters(title, count, more=""):
    """A document with a page for each of some chapters."""
    parts = "".join(
        f"<h1 id='{title[0].lower()}{n}' style='break-before:page'>{title} {n}</h1><p>Words of {title.lower()} {n}.</p>"
        for n in range(1, count + 1)
    )
    return f"<html lang=en><title>{title}</title><style>@page{{size:A5}}</style>{more}{parts}"


@pytest.fixture(scope="session")
def tolls(finished):
    return finished("tolls.pdf", chapters("Toll", 4), destinations=True)


@pytest.fixture(scope="session")
def barges(finished):
    return finished("barges.pdf", chapters("Barge", 3), destinations=True)


@pytest.fixture(scope="session")
def form(finished):
    return finished("form.pdf", FORM, fillable=True)


@pytest.fixture(scope="session")
def key(tmp_path_factory):
    """A PKCS #12 file for a name, of RSA or an elliptic curve."""
    from cryptography import x509
    from cryptography.hazmat.primitives import hashes, serialization
    from cryptography.hazmat.primitives.asymmetric import ec, rsa
    from cryptography.hazmat.primitives.serialization import pkcs12
    from cryptography.x509.oid import NameOID

    folder = tmp_path_factory.mktemp("keys")

    def make(name, kind="rsa"):
        path = folder / f"{name} {kind}.p12"
        if not path.exists():
            own = rsa.generate_private_key(65537, 2048) if kind == "rsa" else ec.generate_private_key(ec.SECP256R1())
            subject = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, name)])
            start = datetime.datetime(2026, 1, 1)
            certificate = (
                x509.CertificateBuilder().subject_name(subject).issuer_name(subject).public_key(own.public_key())
                .serial_number(x509.random_serial_number()).not_valid_before(start)
                .not_valid_after(start.replace(year=2040)).sign(own, hashes.SHA256())
            )  # fmt: skip
            locked = serialization.BestAvailableEncryption(b"reed")
            path.write_bytes(pkcs12.serialize_key_and_certificates(name.encode(), own, certificate, None, locked))
        return path

    return make
