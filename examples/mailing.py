"""Invoices by mail: each customer gets a message with the file attached, named for its record.

Usage: python examples/mailing.py [FOLDER] [HOST:PORT]

Without a mail server the messages are written to the folder as .eml files, which any mail program opens.
"""

from __future__ import annotations

import smtplib
import sys
from collections.abc import Iterator
from decimal import Decimal
from email.message import EmailMessage
from pathlib import Path
from typing import Any

import fleetquill as fq

TEMPLATE = """
<html lang="en">
<title>Invoice {{ number }}</title>
<style>
  @page { size: A5; margin: 16mm }
  html { font: 10.5pt/1.45 "Source Sans Pro"; color: #1d2a2f }
  h1 { font: 600 18pt "Source Serif Pro"; color: #0f4c4a; margin: 0 0 6mm }
  b { color: #0f4c4a }
</style>
<h1>Invoice {{ number }}</h1>
<p>{{ customer }}
<p>{{ cargo }}, to be paid by {{ due | date("long") }}: <b>{{ total | money }}</b>
"""

INVOICES: tuple[dict[str, Any], ...] = (
    {"number": "F-2051", "customer": "Osier Paper Works", "address": "accounts@osier.example", "cargo": "Paper reels",
     "due": "2026-07-02", "total": Decimal("494.92")},
    {"number": "F-2052", "customer": "Grüne Mühle", "address": "post@muehle.example", "cargo": "Barley",
     "due": "2026-07-09", "total": Decimal("1208.00")},
)  # fmt: skip


def messages(press: fq.Press) -> Iterator[EmailMessage]:
    """A message for each invoice. One with remarks is not sent: somebody should look at it first."""
    for record in INVOICES:
        edition = press.compose(fq.Manuscript.from_template(TEMPLATE, record, locale="en-IE"), strict=True)
        message = EmailMessage()
        message["From"] = "Reedwater Barge Cooperative <freight@reedwater.example>"
        message["To"] = record["address"]
        message["Subject"] = f"Invoice {record['number']}"
        message.set_content(f"Dear {record['customer']},\n\nplease find our invoice {record['number']} attached.\n")
        name = fq.safe_name("{number} {customer}", record)
        message.add_attachment(edition.to_bytes(), maintype="application", subtype="pdf", filename=name)
        yield message


def main(folder: Path, server: str = "") -> None:
    press = fq.Press(locale="en-IE")
    if not server:
        for message in messages(press):
            attached = next(message.iter_attachments())
            path = folder / Path(str(attached.get_filename())).with_suffix(".eml")
            path.write_bytes(message.as_bytes())
            print(path, attached.get_filename(), len(attached.get_content()), "bytes")
        return
    host, _, port = server.partition(":")
    with smtplib.SMTP(host, int(port or 25)) as connection:
        for message in messages(press):
            connection.send_message(message)
            print(message["To"], message["Subject"])


if __name__ == "__main__":
    main(Path(sys.argv[1] if len(sys.argv) > 1 else "."), *sys.argv[2:3])
