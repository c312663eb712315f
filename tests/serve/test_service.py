"""The service: documents for other programs, over HTTP."""

import concurrent.futures
import csv
import io
import json
import re
import shutil
import subprocess
import sys
import time
import urllib.request
import zipfile

import pytest
from starlette.applications import Starlette
from starlette.routing import Mount
from starlette.testclient import TestClient

import fleetquill as fq
from command_line import command
from conftest import DEMO
from fleetquill.serve import app
from fleetquill.serve.service import desk
from fleetquill.serve.service.limits import Limits
from fleetquill.serve.service.service import Service
from fleetquill.serve.service.tokens import hash_of, new_token

HERE = "http://127.0.0.1"


@pytest.fixture(scope="module")
def shelf():
    return fq.Shelf(DEMO / "shelf")


@pytest.fixture(scope="module")
def client(shelf):
    return TestClient(app(shelf), base_url=HERE)


@pytest.fixture
def small(tmp_path):
    """A client of a shelf with one template, whose text is given."""

    def made(text, limits=None, **files):
        (tmp_path / "a.html").write_text(text)
        for name, content in files.items():
            (tmp_path / name.replace("__", ".")).write_text(content)
        return TestClient(app(fq.Shelf(tmp_path), limits=limits), base_url=HERE)

    return made


def sample(client, name="invoice"):
    return client.get(f"/documents/{name}").json()["sample"]


def problem(answer, status):
    assert answer.status_code == status, answer.text
    assert answer.headers["content-type"] == "application/problem+json"
    said = answer.json()
    assert said["status"] == status and said["title"] and said["detail"]
    return said


# ---- what there is ----


def test_documents_are_listed(client, shelf):
    listed = client.get("/documents").json()
    assert [one["name"] for one in listed["documents"]] == list(shelf.names)
    assert listed["kinds"] == ["pdf", "xlsx", "csv", "html", "docx", "txt", "md"]
    assert client.get("/health").json() == {"status": "ok", "asked": 0}


def test_the_parameters_of_a_brief_are_told(client, shelf):
    told = client.get("/documents/tolls").json()["parameters"]
    assert [one["name"] for one in told] == [one.name for one in shelf["tolls"].brief.parameters] and told
    assert set(told[0]) == {"name", "type", "prompt", "needed", "several", "default", "choices"}
    assert client.get("/documents/invoice").json()["parameters"] == []


def test_a_document_is_described_and_its_sample_fits(client, shelf):
    for name in shelf.names:
        told = client.get(f"/documents/{name}").json()
        assert (told["name"], told["kind"]) == (name, shelf[name].kind)
        answer = client.post(f"/documents/{name}", json=told["sample"] or None)
        assert answer.status_code == 200, answer.text
        assert answer.content.startswith(b"%PDF-")


# ---- the file ----


def test_data_becomes_the_file_that_it_becomes_in_python(client, shelf):
    data = sample(client)
    answer = client.post("/documents/invoice", json=data)
    edition = fq.compose(shelf["invoice"], data=shelf["invoice"].sample)
    assert answer.content == edition.to_bytes()
    headers = answer.headers
    assert headers["content-type"] == "application/pdf"
    assert headers["content-disposition"] == 'inline; filename="invoice.pdf"'
    assert (headers["page-count"], headers["remark-count"]) == ("1", "0")
    stages = ("make", "read", "styled", "laid-out", "written")
    assert re.fullmatch(", ".join(rf"{stage};dur=\d+\.\d" for stage in stages), headers["server-timing"])
    again = client.post("/documents/invoice", json=data)
    assert again.headers["etag"] == headers["etag"] and again.headers["run-id"] != headers["run-id"]
    other = client.post("/documents/invoice", json=data | {"number": "F-1"})
    assert other.headers["etag"] != headers["etag"]


@pytest.mark.parametrize(
    ("asked", "accept", "kind"),
    [
        ("?kind=docx", "text/csv", "docx"),
        ("", "text/csv", "csv"),
        ("", "text/html;q=0.5, text/markdown;q=0.9", "md"),
        ("", "image/png, application/pdf;q=0.1", "pdf"),
        ("", "text/*", "csv"),
        ("", "*/*", "pdf"),
        ("", "text/html;q=0, text/plain;q=x, application/pdf", "pdf"),
    ],
)
def test_the_kind_is_what_is_asked_for_or_accepted(client, asked, accept, kind):
    answer = client.post(f"/documents/invoice{asked}", json=sample(client), headers={"Accept": accept})
    assert answer.status_code == 200
    assert f'filename="invoice.{kind}"' in answer.headers["content-disposition"]
    if kind == "docx":
        assert "word/document.xml" in zipfile.ZipFile(io.BytesIO(answer.content)).namelist()
    if kind == "csv":
        assert ["Stonecross – Saltgate", "gravel", "67.5", "129.60"] in list(csv.reader(io.StringIO(answer.text)))


def test_it_is_named_for_its_record_and_downloaded(client):
    data = sample(client)
    answer = client.post("/documents/invoice?name={number}%20{customer[name]}&download&locale=de", json=data)
    assert answer.headers["content-disposition"] == 'attachment; filename="F-2041 Osier Paper Works.pdf"'
    assert "494,92" in fq.Volume(answer.content).pages[0].text


def test_amounts_are_what_they_were_sent_as(small):
    client = small("<p>{{ sum | number('#,##0.00') }}")
    answer = client.post(
        "/documents/a?kind=txt", content=b'{"sum": 1234567890123.45}', headers={"Content-Type": "application/json"}
    )
    assert "1,234,567,890,123.45" in answer.text


def test_remarks_are_in_the_log_of_the_run(small):
    client = small("<html lang=en><title>T</title><p style='colr: red'>{{ x }}")
    answer = client.post("/documents/a", json={"x": 1})
    assert answer.headers["remark-count"] == "1"
    run = client.get(f"/runs/{answer.headers['run-id']}").json()
    assert (run["document"], run["kind"], run["status"], run["pages"]) == ("a", "pdf", 200, 1)
    [remark] = run["remarks"]
    assert "'colr'" in remark["message"] and (remark["source"], remark["line"]) == ("a.html", 1)
    problem(client.get("/runs/none"), 404)
    failed = problem(client.post("/documents/a", json={"y": 1}), 422)
    assert client.get(f"/runs/{failed['run']}").json()["status"] == 422


def test_only_the_newest_runs_are_kept(small, monkeypatch):
    monkeypatch.setattr(desk, "MOST_RUNS", 30)
    client = small("<p>{{ x }}")
    first = client.post("/documents/a?kind=txt", json={"x": 0}).headers["run-id"]
    for n in range(30):
        client.post("/documents/a?kind=txt", json={"x": n})
    problem(client.get(f"/runs/{first}"), 404)


# ---- by hand ----


def test_a_document_is_tried_by_hand(served, screen):
    screen.goto(served(DEMO / "shelf"))
    screen.wait_for_selector("#data fieldset fieldset")
    screen.get_by_label("number").fill("F-7000")
    screen.locator("#data button", has_text="Take out").first.click()
    screen.locator("#data button", has_text="One more").click()
    added = screen.locator("#data div").last
    for name, value in {"voyage": "Fenny Bridge – Saltgate", "cargo": "oak", "tonnes": "3.5", "amount": "99.5"}.items():
        added.get_by_label(name).fill(value)
    for kind in ("html", "pdf"):
        screen.select_option("#kinds", kind)
        screen.click("#make")
        link = screen.wait_for_selector(f"#said a[download='invoice.{kind}']")
    assert (
        re.match(r"1 page, [\d,]+ bytes, \d+ ms", screen.inner_text("#said")) and screen.locator("#shown").is_visible()
    )
    with screen.expect_download() as download:
        link.click()
    text = fq.Volume(download.value.path()).pages[0].text
    assert "F-7000" in text and "Fenny Bridge – Saltgate" in text and "€99.50" in text
    assert "Nether Mill – Stonecross" not in text


def test_what_is_wrong_stands_there(served, screen, tmp_path):
    (tmp_path / "a.html").write_text(
        "<html lang=en><title>T</title><p style='colr: red'>{{ name }} {{ tags[0] }} {{ paid }}"
    )
    (tmp_path / "a.sample.json").write_text('{"name": 12, "paid": true, "kind": "x\\ny", "more": null, "tags": ["a"]}')
    screen.goto(served(tmp_path))
    screen.get_by_label("name").wait_for()
    screen.click("#make")
    screen.wait_for_selector("#remarks li")
    assert "'colr'" in screen.inner_text("#remarks")
    screen.get_by_label("name").fill("")
    screen.click("#make")
    screen.wait_for_selector("#fault:not([hidden])")
    assert "'name' is a required property" in screen.inner_text("#fault")


def test_a_token_is_asked_for(served, screen, tokens, shelf):
    path, shop, _ = tokens
    screen.goto(served(shelf.folder, "--tokens", path))
    screen.fill("#token", shop)
    screen.press("#token", "Enter")
    screen.wait_for_selector("#documents option", state="attached")
    assert screen.locator("#documents option").all_inner_texts() == ["receipt"]


def test_the_page_may_do_little(client):
    assert "default-src 'none'" in client.get("/").headers["content-security-policy"]
    assert client.get("/page/try.js").headers["content-type"].startswith("text/javascript")
    problem(client.get("/page/index.html"), 404)


def test_data_names_no_file_outside_the_shelf(tmp_path):
    outside = tmp_path / "outside.svg"
    outside.write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="50" height="50"><text y="20">secret</text></svg>'
    )
    folder = tmp_path / "shelf"
    folder.mkdir()
    shutil.copy(outside, folder / "own.svg")
    (folder / "a.html").write_text("<html lang=en><title>T</title><img src='{{ logo }}' alt=x>")
    client = TestClient(app(fq.Shelf(folder)), base_url=HERE)
    for logo, remarks in (("own.svg", "0"), ("../outside.svg", "1"), (str(outside), "1")):
        answer = client.post("/documents/a", json={"logo": logo})
        assert answer.headers["remark-count"] == remarks, logo
        assert ("secret" in fq.Volume(answer.content).pages[0].text) == (remarks == "0")
        log = client.get(f"/runs/{answer.headers['run-id']}").text
        assert logo == str(outside) or str(tmp_path) not in log


# ---- what is refused ----


def test_data_that_does_not_fit_is_told_with_its_path(client):
    data = sample(client)
    del data["lines"][1]["tonnes"]
    said = problem(client.post("/documents/invoice", json=data), 422)
    assert said["kind"] == "DataError" and "lines[1]: 'tonnes' is a required property" in said["detail"]
    assert str(DEMO) not in json.dumps(said)


def test_a_template_that_fails_names_its_line_and_no_folder(small, tmp_path):
    said = problem(small("<p>\n{{ name.first }}").post("/documents/a", json={"name": "x"}), 422)
    assert (said["source"], said["line"]) == ("a.html", 2)
    assert str(tmp_path) not in json.dumps(said)


@pytest.mark.parametrize(
    ("path", "options", "status"),
    [
        ("/documents/none", {"json": {}}, 404),
        ("/nothing", {}, 404),
        ("/health", {"json": {}}, 405),
        ("/documents", {"json": {}}, 403),
        ("/documents/invoice?kind=exe", {"json": {}}, 406),
        ("/documents/invoice?kind=png", {"json": {}}, 406),
        ("/documents/invoice", {"json": {}, "headers": {"Accept": "image/png"}}, 406),
        ("/documents/invoice", {"content": b"{", "headers": {"Content-Type": "application/json"}}, 400),
        ("/documents/invoice", {"content": b"\xff", "headers": {"Content-Type": "application/json"}}, 400),
        ("/documents/invoice", {"content": b"[" * 100_000, "headers": {"Content-Type": "application/json"}}, 400),
        ("/documents/invoice", {"content": b"{}", "headers": {"Content-Type": "text/plain"}}, 415),
        ("/documents/invoice", {"content": b"3", "headers": {"Content-Type": "application/json"}}, 422),
        ("/documents/invoice", {}, 422),
        ("/documents/invoice?locale=nowhere", {"json": {}}, 422),
        ("/documents/invoice?name={number:999999999}", {"json": {"number": "1"}}, 400),
        ("/documents/invoice?name={nothing}", {"json": {"number": "1"}}, 422),
    ],
)  # fmt: skip
def test_what_cannot_be_is_refused(client, path, options, status):
    problem(client.post(path, **options), status)


def test_limits_hold(small):
    limits = Limits(body=1000, pages=3, seconds=0.2)
    client = small("<p>{{ x }}{% for n in range(pages) %}<p style='break-before:page'>x{% endfor %}", limits)
    assert client.post("/documents/a", json={"x": 1, "pages": 2}).status_code == 200
    assert problem(client.post("/documents/a", json={"x": "y" * 2000, "pages": 2}), 413)["most"] == 1000
    pieces = (b'"' + b"y" * 300 for _ in range(9))
    problem(client.post("/documents/a", content=pieces, headers={"Content-Type": "application/json"}), 413)
    assert "more than 3 pages" in problem(client.post("/documents/a", json={"x": 1, "pages": 9}), 422)["detail"]


def test_what_takes_too_long_is_ended(small):
    client = small("{% for n in range(200000) %}<p>{{ n }} {% endfor %}", Limits(seconds=0.3))
    assert "more than 0.3 s" in problem(client.post("/documents/a", json={}), 504)["detail"]
    assert client.get("/health").json()["asked"] == 0


def test_too_many_at_once_are_told_to_come_again(small):
    client = small("{% for n in range(4000) %}<p>{{ n }} {% endfor %}", Limits(at_once=1, waiting=2))
    with client, concurrent.futures.ThreadPoolExecutor(12) as pool:
        answers = list(pool.map(lambda _: client.post("/documents/a", json={}), range(12)))
    statuses = [answer.status_code for answer in answers]
    assert set(statuses) == {200, 503} and statuses.count(200) >= 3
    refused = next(answer for answer in answers if answer.status_code == 503)
    assert refused.headers["retry-after"] == "1"
    assert len({answer.content for answer in answers if answer.status_code == 200}) == 1
    assert client.post("/documents/a?kind=txt", json={}).status_code == 200


# ---- who may ask ----


@pytest.fixture
def tokens(tmp_path):
    """A file of tokens for two holders, and their tokens."""
    shop, clerk = new_token(), new_token()
    path = tmp_path / "tokens.toml"
    path.write_text(
        f'[tokens.shop]\nsha256 = "{hash_of(shop)}"\ndocuments = ["receipt"]\n[tokens.clerk]\nsha256 = "{hash_of(clerk)}"\n'
    )
    return path, shop, clerk


def bearer(token):
    return {"Authorization": f"Bearer {token}"}


def test_only_holders_of_tokens_may_ask(shelf, tokens):
    path, shop, clerk = tokens
    client = TestClient(app(shelf, path), base_url="https://documents.example")
    for headers in ({}, bearer("wrong"), bearer(hash_of(shop)), {"Authorization": f"Basic {shop}"}, bearer("")):
        refused = client.get("/documents", headers=headers)
        problem(refused, 401)
        assert refused.headers["www-authenticate"] == "Bearer"
    assert len(client.get("/documents", headers=bearer(clerk)).json()["documents"]) == len(shelf.names)
    assert client.get("/health").status_code == 200


def test_a_token_is_for_its_documents(shelf, tokens):
    path, shop, clerk = tokens
    client = TestClient(app(shelf, path))
    assert [one["name"] for one in client.get("/documents", headers=bearer(shop)).json()["documents"]] == ["receipt"]
    problem(client.post("/documents/invoice", json={}, headers=bearer(shop)), 403)
    made = client.post(
        "/documents/receipt",
        json=shelf["receipt"].sample and client.get("/documents/receipt", headers=bearer(shop)).json()["sample"],
        headers=bearer(shop),
    )
    assert made.status_code == 200
    run = f"/runs/{made.headers['run-id']}"
    assert client.get(run, headers=bearer(shop)).status_code == 200
    problem(client.get(run, headers=bearer(clerk)), 404)
    paths = client.get("/openapi.json", headers=bearer(shop)).json()["paths"]
    assert "/documents/receipt" in paths and "/documents/invoice" not in paths


def test_without_tokens_it_is_for_this_machine(shelf):
    client = TestClient(app(shelf), base_url="http://rebound.example")
    problem(client.get("/documents"), 403)


@pytest.mark.parametrize(
    ("text", "message"),
    [
        ("x", "no TOML"),
        ("a = 1", "has a table for each"),
        ("[tokens]\na = 1", "not a table"),
        ("[tokens.a]\nsha = 'x'", "'tokens.a.sha' is nothing"),
        ("[tokens.a]\nsha256 = 'x'", "64 hexadecimal"),
        (f"[tokens.a]\nsha256 = '{'0' * 64}'\ndocuments = 'invoice'", "not a list"),
        (f"[tokens.a]\nsha256 = '{'0' * 64}'\ndocuments = ['invoce']", "Did you mean 'invoice'"),
    ],
)
def test_files_of_tokens_that_cannot_be_are_refused(shelf, tmp_path, text, message):
    path = tmp_path / "tokens.toml"
    path.write_text(text)
    with pytest.raises(fq.DataError, match=message):
        app(shelf, path)


# ---- as a whole ----


def test_it_is_described_in_openapi(client, shelf):
    told = client.get("/openapi.json").json()
    assert told["openapi"].startswith("3.1") and "security" not in told
    making = told["paths"]["/documents/invoice"]["post"]
    assert making["requestBody"]["content"]["application/json"]["schema"]["required"]
    example = making["requestBody"]["content"]["application/json"]["example"]
    assert client.post("/documents/invoice", json=example).status_code == 200
    assert set(making["responses"]["200"]["content"]) >= {"application/pdf", "text/csv"}
    names = {one["name"] for one in making["parameters"]}
    assert names == {"kind", "locale", "name", "download", "Prefer", "Idempotency-Key", "If-None-Match"}


def test_it_is_mounted_in_another_application(shelf):
    client = TestClient(Starlette(routes=[Mount("/papers", app(shelf))]), base_url=HERE)
    assert (
        client.post("/papers/documents/invoice", json=sample(TestClient(app(shelf), base_url=HERE))).status_code == 200
    )
    problem(client.get("/papers/nothing"), 404)


def test_many_clients_at_once_get_their_own(small):
    client = small("<p>number {{ x }}", Limits(at_once=4, waiting=200))
    with client, concurrent.futures.ThreadPoolExecutor(24) as pool:
        answers = list(pool.map(lambda n: (n, client.post("/documents/a?kind=txt", json={"x": n})), range(120)))
    assert all(answer.text.strip() == f"number {n}" for n, answer in answers)


def test_the_command_serves_with_a_token_that_it_has_made(tmp_path):
    shutil.copytree(DEMO / "shelf", tmp_path / "shelf")
    asked = ["serve", "shelf", "--tokens", "tokens.toml"]
    made = command(*asked, "--new-token", "shop", folder=tmp_path)
    token = made.stdout.strip()
    assert len(token) >= 40 and token not in (tmp_path / "tokens.toml").read_text()
    again = command(*asked, "--new-token", "shop", folder=tmp_path)
    assert again.returncode == 1 and "has a token already" in again.stderr
    process = subprocess.Popen(
        [sys.executable, "-m", "fleetquill", *asked, "--port", "0"],
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
        text=True,
        cwd=tmp_path,
    )
    try:
        address = re.search(r"http://127\.0\.0\.1:\d+", process.stdout.readline())[0]
        for _ in range(100):
            try:
                urllib.request.urlopen(f"{address}/health", timeout=5)
                break
            except OSError:
                time.sleep(0.05)
        wish = urllib.request.Request(f"{address}/documents/tolls", b"", bearer(token), method="POST")
        with urllib.request.urlopen(wish, timeout=30) as answer:
            assert answer.read().startswith(b"%PDF-")
    finally:
        process.terminate()
        assert process.wait(timeout=10) in (0, -15)


@pytest.mark.parametrize(
    ("arguments", "message"),
    [
        ([".", "--port", "0"], "has no documents"),
        (["none", "--port", "0"], "none"),
        ([str(DEMO / "shelf"), "--host", "0.0.0.0"], "Give --tokens"),
        (["x", "--new-token", "shop"], "Give --tokens FILE"),
        (["x", "--new-token", "a]b", "--tokens", "t.toml"], "is no name"),
        ([str(DEMO / "shelf"), "--tokens", "none.toml"], "none.toml"),
    ],
)
def test_what_cannot_be_served_is_refused(tmp_path, arguments, message):
    done = command("serve", *arguments, folder=tmp_path)
    assert done.returncode == 1 and message in done.stderr


def test_a_service_needs_no_limits_of_its_own(shelf):
    assert Service(shelf).app().routes


def test_a_kind_that_does_not_suit_the_document_is_the_fault_of_who_asks(client):
    said = problem(client.post("/documents/letter?kind=csv", json=sample(client, "letter")), 422)
    assert "no table" in said["detail"] and said["kind"] == "OptionError"
