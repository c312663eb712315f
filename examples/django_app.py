"""A Django application: a receipt in the browser, an export that is streamed, a form filled in, and a button that waits
until its file is there.

Usage: python examples/django_app.py runserver, and look at http://127.0.0.1:8000/
"""

from __future__ import annotations

import sys
from collections.abc import Iterator
from decimal import Decimal
from io import BytesIO
from pathlib import Path
from typing import Any

import django
from django.conf import settings
from django.core.management import execute_from_command_line
from django.core.wsgi import get_wsgi_application
from django.http import Http404, HttpRequest, HttpResponse, HttpResponseBadRequest, StreamingHttpResponse
from django.urls import path

import fleetquill as fq
from fleetquill.demo import documents

DEMO = Path(documents.__file__).parent
RECEIPTS: dict[str, dict[str, Any]] = {"88213": {"number": "88213", "barge": "Heron", "toll": Decimal("53.42")}}
KINDS = ("pdf", "xlsx", "csv")
PAGE = """<!doctype html><html lang="en"><title>Locks</title>
<style>body { font: 16px/1.5 sans-serif; margin: 2em } button[aria-busy=true]::after { content: " …" }</style>
<h1>Stonecross lock</h1>
<p><a href="/receipt/88213.pdf">Receipt 88213</a> · <a href="/inspection.pdf?skipper=Maren+Oldwater">Inspection</a>
<p>Passages: <select id="kind"><option>pdf<option>xlsx<option>csv</select>
<button id="export">Export</button> <output id="told"></output>
<script>
  const button = document.getElementById("export"), told = document.getElementById("told");
  button.onclick = async () => {
    button.disabled = true; button.ariaBusy = "true"; told.textContent = "";
    try {
      const answer = await fetch(`/passages.${document.getElementById("kind").value}`);
      if (!answer.ok) throw new Error(await answer.text());
      const name = /filename="(.+?)"/.exec(answer.headers.get("Content-Disposition"))[1];
      const link = Object.assign(document.createElement("a"), { download: name });
      link.href = URL.createObjectURL(await answer.blob());
      link.click();
      told.textContent = `${name} is there.`;
    } catch (error) { told.textContent = error.message; }
    button.disabled = false; button.ariaBusy = "false";
  };
</script>
"""

if not settings.configured:
    settings.configure(ALLOWED_HOSTS=["*"], ROOT_URLCONF=__name__, SECRET_KEY="for the example alone", DEBUG=False)
    django.setup()
press = fq.Press(locale="en-IE", currency="EUR")  # set up once: fonts, sheets and templates are kept


def index(_: HttpRequest) -> HttpResponse:
    return HttpResponse(PAGE)


def receipt(_: HttpRequest, number: str) -> HttpResponse:
    record = RECEIPTS.get(number)
    if record is None:
        raise Http404
    m = fq.Manuscript(title=f"Receipt {number}", language="en", page="80mm auto", margin="5mm")
    m.heading("Lock toll", level=2)
    m.paragraph("Barge ", fq.strong(record["barge"]), ": ", fq.value(record["toll"], "money"))
    edition = press.compose(m)
    return HttpResponse(edition.to_bytes(), headers=edition.headers(fq.safe_name("toll {number}", record)))


def passages(count: int) -> Iterator[dict[str, Any]]:
    """As `Passage.objects.values().iterator()` would give them."""
    for number in range(count):
        yield {
            "passage": 31_000 + number,
            "barge": ("Heron", "Teal", "Dunlin")[number % 3],
            "toll": Decimal(number % 90),
        }


def export(request: HttpRequest, kind: str) -> StreamingHttpResponse | HttpResponse:
    """Rows go out as they come in: nothing is held whole, and the first bytes are there at once."""
    if kind not in KINDS:
        raise Http404
    count = request.GET.get("count", "5000")
    if not count.isdecimal():
        return HttpResponseBadRequest("How many passages are there to be?")
    m = fq.Manuscript(title="Passages", language="en", page="A4", margin="15mm")
    m.ledger(passages(int(count)), ["passage", "barge", fq.Column("toll", form="money", align="right", total="sum")])
    pieces = press.stream(m, kind=kind)
    return StreamingHttpResponse(pieces, headers=pieces.headers(f"passages.{kind}", inline=False))


def inspection(request: HttpRequest) -> HttpResponse:
    """A finished form, with what is known already filled in."""
    blank, filled = BytesIO(), BytesIO()
    press.write(DEMO / "inspection.html", blank)
    fq.fill_fields(blank.getvalue(), {"skipper": request.GET.get("skipper", "")}, filled)
    return HttpResponse(filled.getvalue(), content_type="application/pdf")


urlpatterns = [
    path("", index),
    path("receipt/<str:number>.pdf", receipt),
    path("passages.<str:kind>", export),
    path("inspection.pdf", inspection),
]
app = get_wsgi_application()

if __name__ == "__main__":
    execute_from_command_line(sys.argv)
