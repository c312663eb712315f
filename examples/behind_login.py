"""The page that a user sees, as a file, from its address: the press asks as the user does, with their cookies.

An application shows an order to whoever is logged in. Its own view makes a PDF of that page: it reads the page at its
address, and hands on the cookies that the user's browser has sent.

Usage: python examples/behind_login.py [FOLDER]
"""

from __future__ import annotations

import logging
import sys
import threading
from pathlib import Path

import httpx2
from flask import Flask, Response, abort, request
from werkzeug.serving import make_server

import fleetquill as fq

SESSIONS = {"kept-by-the-browser": "Osier Paper Works"}
PAGE = """<!doctype html><html lang="en"><title>Order 7</title>
<link rel="stylesheet" href="/order.css"><h1>Order 7</h1><p>For <b>{}</b>: 12 paper reels, Stonecross to Saltgate."""

app = Flask(__name__)


def customer() -> str:
    return SESSIONS.get(request.cookies.get("session", "")) or abort(403)


@app.get("/orders/7")  # type: ignore[untyped-decorator, unused-ignore]
def order() -> str:
    return PAGE.format(customer())


@app.get("/order.css")  # type: ignore[untyped-decorator, unused-ignore]
def style() -> Response:
    customer()
    return Response("@page { size: A5; margin: 15mm } h1 { color: #0f4c4a }", content_type="text/css")


@app.get("/orders/7.pdf")  # type: ignore[untyped-decorator, unused-ignore]
def order_as_file() -> Response:
    """What the user sees at /orders/7. Nothing but this application is read, and it alone gets the cookies."""
    customer()
    policy = fq.Policy(strangers=True, network=True, hosts=(request.host,))
    press = fq.Press(policy=policy, cookies=request.cookies.to_dict())
    edition = press.compose(f"{request.host_url}orders/7")
    return Response(edition.to_bytes(), headers=edition.headers("order 7.pdf"))


def main(folder: Path) -> None:
    logging.getLogger("werkzeug").setLevel(logging.ERROR)
    server = make_server("127.0.0.1", 0, app, threaded=True)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    address = f"http://127.0.0.1:{server.server_port}/orders/7.pdf"
    print("without a session:", httpx2.get(address).status_code)
    answer = httpx2.get(address, cookies={"session": "kept-by-the-browser"})
    (folder / "order.pdf").write_bytes(answer.content)
    print("with one:", answer.status_code, fq.Volume(answer.content).pages[0].text)
    server.shutdown()


if __name__ == "__main__":
    main(Path(sys.argv[1] if len(sys.argv) > 1 else "."))
