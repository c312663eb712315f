"""A Flask application: a page with links, an invoice shown in the browser or downloaded.

Usage: flask --app examples/flask_app.py run
"""

from __future__ import annotations

from decimal import Decimal
from typing import Any

from flask import Flask, Response, abort, request

import fleetquill as fq

INVOICES: dict[str, dict[str, Any]] = {
    "F-2041": {"number": "F-2041", "customer": "Osier Paper Works", "fee": Decimal("3361.99")},
    "F-2042": {"number": "F-2042", "customer": "Grüne Mühle", "fee": Decimal("418.20")},
}
TEMPLATE = """
<html lang="en"><title>Invoice {{ number }}</title><style>@page { size: A5; margin: 15mm }</style>
<h1>Invoice {{ number }}</h1><p>{{ customer }}: <b>{{ fee | money }}</b></p>
"""

app = Flask(__name__)
press = fq.Press(locale="en-IE")  # set up once: fonts, sheets and templates are kept


@app.get("/")  # type: ignore[untyped-decorator, unused-ignore]
def index() -> str:
    links = [
        f'<li>{n} <a href="/invoice/{n}.pdf">show</a> <a href="/invoice/{n}.pdf?download=1">download</a>'
        for n in INVOICES
    ]
    return f"<h1>Invoices</h1><ul>{''.join(links)}</ul>"


@app.get("/invoice/<number>.pdf")  # type: ignore[untyped-decorator, unused-ignore]
def invoice(number: str) -> Response:
    record = INVOICES.get(number) or abort(404)
    edition = press.compose(fq.Manuscript.from_template(TEMPLATE, record, locale=press.locale))
    name = fq.safe_name("{number} {customer}", record)
    headers = edition.headers(name, inline="download" not in request.args)
    if request.headers.get("If-None-Match") == headers["ETag"]:
        return Response(status=304, headers={"ETag": headers["ETag"]})
    return Response(edition.to_bytes(), headers=headers)
