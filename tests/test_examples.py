"""Every example runs, from its own command line or through its web framework's test client."""

from __future__ import annotations

import email
import email.policy
import importlib
import socketserver
import subprocess
import sys
import threading
from pathlib import Path

import pypdfium2 as pdfium
import pytest

import fleetquill as fq
from conftest import listening

FOLDER = Path(__file__).parent.parent / "examples"
SCRIPTS = sorted(path for path in FOLDER.glob("*.py") if not path.stem.endswith("_app") and path.stem != "mailing")


@pytest.mark.parametrize("path", SCRIPTS, ids=lambda path: path.stem)
def test_example_runs_and_writes_a_pdf(path, tmp_path):
    result = subprocess.run([sys.executable, str(path), str(tmp_path)], capture_output=True, text=True)
    assert result.returncode == 0, result.stderr
    assert result.stderr == ""
    made = list(tmp_path.glob("*.pdf"))
    assert made and {p.read_bytes()[:5] for p in made} == {b"%PDF-"}
    assert result.stdout


class Mailbox(socketserver.StreamRequestHandler):
    """Takes messages as a mail server does (RFC 5321)."""

    def handle(self):
        self.wfile.write(b"220 mailbox\r\n")
        while line := self.rfile.readline():
            verb = line[:4].upper()
            if verb == b"DATA":
                self.wfile.write(b"354 go on\r\n")
                lines = list(iter(self.rfile.readline, b".\r\n"))
                self.server.messages.append(b"".join(line.removeprefix(b".") for line in lines))
            self.wfile.write(b"221 bye\r\n" if verb == b"QUIT" else b"250 ok\r\n")
            if verb == b"QUIT":
                return


def test_invoices_are_sent_by_mail(tmp_path):
    with socketserver.ThreadingTCPServer(("127.0.0.1", 0), Mailbox) as server:
        server.messages = []
        threading.Thread(target=server.serve_forever, daemon=True).start()
        port = server.server_address[1]
        command = [sys.executable, str(FOLDER / "mailing.py"), str(tmp_path), f"127.0.0.1:{port}"]
        done = subprocess.run(command, capture_output=True, text=True, timeout=60)
        server.shutdown()
    assert done.returncode == 0, done.stderr
    assert not list(tmp_path.iterdir())
    for content, number, customer in zip(
        server.messages, ("F-2051", "F-2052"), ("Osier Paper Works", "Grüne Mühle"), strict=True
    ):
        message = email.message_from_bytes(content, policy=email.policy.default)
        [attached] = message.iter_attachments()
        assert message["Subject"] == f"Invoice {number}"
        assert (attached.get_content_type(), attached.get_filename()) == (
            "application/pdf", f"{number} {customer}.pdf",
        )  # fmt: skip
        assert f"Invoice {number}" in text_of(attached.get_content())


def test_messages_are_written_where_no_server_is_named(tmp_path):
    done = subprocess.run([sys.executable, str(FOLDER / "mailing.py"), str(tmp_path)], capture_output=True, text=True)
    assert done.returncode == 0, done.stderr
    assert sorted(path.name for path in tmp_path.iterdir()) == [
        "F-2051 Osier Paper Works.eml",
        "F-2052 Grüne Mühle.eml",
    ]


@pytest.fixture
def app(monkeypatch):
    monkeypatch.syspath_prepend(str(FOLDER))
    return lambda name: importlib.import_module(name).app


def text_of(content: bytes) -> str:
    return pdfium.PdfDocument(content)[0].get_textpage().get_text_bounded()


def test_the_flask_application_shows_and_hands_out_invoices(app):
    client = app("flask_app").test_client()
    assert 'href="/invoice/F-2042.pdf"' in client.get("/").text
    shown = client.get("/invoice/F-2042.pdf")
    assert shown.content_type == "application/pdf" and shown.headers["Content-Disposition"].startswith(
        "inline; filename="
    )
    assert "filename*=UTF-8''F-2042%20Gr%C3%BCne%20M%C3%BChle.pdf" in shown.headers["Content-Disposition"]
    assert "Grüne Mühle: €418.20" in text_of(shown.data)
    assert client.get("/invoice/F-2042.pdf?download=1").headers["Content-Disposition"].startswith("attachment")
    assert client.get("/invoice/F-2042.pdf", headers={"If-None-Match": shown.headers["ETag"]}).status_code == 304
    assert client.get("/invoice/none.pdf").status_code == 404


def test_the_starlette_application_hands_out_receipts(app):
    from starlette.testclient import TestClient

    client = TestClient(app("starlette_app"))
    assert "/toll/88213.pdf" in client.get("/").text
    answer = client.get("/toll/88213.pdf")
    assert (
        answer.headers["content-type"] == "application/pdf"
        and 'filename="toll 88213.pdf"' in answer.headers["content-disposition"]
    )
    assert int(answer.headers["content-length"]) == len(answer.content)
    assert "Barge Heron: €53.42" in text_of(answer.content)
    assert client.get("/toll/1.pdf").status_code == 404
    export = client.get("/tolls.csv")
    assert export.text.splitlines() == ["number,barge,toll", "88213,Heron,53.42"]
    assert export.headers["content-disposition"] == 'attachment; filename="tolls.csv"'
    assert "Did you mean 'pdf'" in client.get("/tolls.pfd").text


@pytest.fixture(scope="module")
def django():
    sys.path.insert(0, str(FOLDER))
    module = importlib.import_module("django_app")
    sys.path.remove(str(FOLDER))
    return module


def test_the_django_application_hands_out_receipts_exports_and_forms(django):
    from django.test import Client

    client = Client()
    shown = client.get("/receipt/88213.pdf")
    assert (shown["Content-Type"], shown["Content-Disposition"]) == (
        "application/pdf",
        'inline; filename="toll 88213.pdf"',
    )
    assert "Barge Heron: €53.42" in text_of(shown.content)
    assert client.get("/receipt/1.pdf").status_code == client.get("/passages.exe").status_code == 404
    assert client.get("/passages.pdf?count=x").status_code == 400
    export = client.get("/passages.csv?count=3000")
    assert export.streaming and export["Content-Disposition"] == 'attachment; filename="passages.csv"'
    lines = b"".join(export.streaming_content).splitlines()
    assert len(lines) == 3001 and lines[1] == b"31000,Heron,0"
    form = client.get("/inspection.pdf?skipper=Maren+Oldwater")
    assert fq.Volume(form.content).fields["skipper"].value == "Maren Oldwater"


def test_the_button_of_the_django_application_waits_for_its_file(django, screen):
    from wsgiref.simple_server import WSGIRequestHandler, make_server

    class Quiet(WSGIRequestHandler):
        def log_message(self, *_):
            pass

    with make_server("127.0.0.1", 0, django.app, handler_class=Quiet) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        screen.goto(f"http://127.0.0.1:{server.server_port}/")
        screen.select_option("#kind", "pdf")
        with screen.expect_download() as download:
            screen.click("#export")
            assert screen.get_attribute("#export", "aria-busy") == "true"
        screen.wait_for_selector("#told:not(:empty)")
        assert screen.inner_text("#told") == "passages.pdf is there." and screen.is_enabled("#export")
        assert fq.Volume(download.value.path()).page_count > 50
        server.shutdown()


def test_a_screen_that_scripts_draw_becomes_a_file(app, screen):
    with listening(app("screen_app")) as address:
        screen.goto(address)
        screen.wait_for_selector("#rows tr")
        with screen.expect_download() as download:
            screen.click("#file")
        screen.wait_for_selector("#file[data-state=done]")
        volume = fq.Volume(download.value.path())
        text = volume.pages[0].text
    assert download.value.suggested_filename == "locks this week.pdf" and volume.page_count == 1
    assert text.count("Stonecross") >= 6 and "The Heron waits for the tide." in text and "Save" not in text
    assert "€39.06" in text  # of the last row, which the screen shows once it is scrolled
