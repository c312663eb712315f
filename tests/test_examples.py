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
