"""Documents that are sent to the service, files that come along, and who may."""

import io
import threading
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

import pytest
from PIL import Image
from starlette.requests import Request
from starlette.testclient import TestClient

import fleetquill as fq
from fleetquill.serve import app
from fleetquill.serve.service.service import Service
from fleetquill.serve.service.tokens import Holder, hash_of, new_token

HERE = "http://127.0.0.1"
PAGE = "<html lang=en><title>Tolls</title><h1>Tolls of May</h1><p>Heron"


@pytest.fixture(scope="module")
def shelf(tmp_path_factory):
    folder = tmp_path_factory.mktemp("shelf")
    (folder / "logo.html").write_text(
        "<html lang=en><title>T</title><img src='{{ logo }}' alt=x width=40><p>{{ name }}"
    )
    (folder / "rows.brief.yaml").write_text(
        "brief:\n  title: Tolls\n  data:\n    tolls: {given: [lock, toll]}\n  parts:\n    - table: {rows: tolls, columns: [lock, toll]}\n"
    )
    return fq.Shelf(folder)


@pytest.fixture(scope="module")
def client(shelf):
    return TestClient(app(shelf, takes=("html", "markdown", "data")), base_url=HERE)


def send(client, content, media_type="text/html", query="", **headers):
    return client.post(f"/documents{query}", content=content, headers={"Content-Type": media_type, **headers})


def picture(color="red"):
    stream = io.BytesIO()
    Image.new("RGB", (8, 8), color).save(stream, "PNG")
    return stream.getvalue()


def colors(content):
    """The colours of the first page, by how many pixels have them."""
    page = fq.Volume(content)
    assert page.page_count
    import pypdfium2 as pdfium

    shown = pdfium.PdfDocument(content)[0].render().to_pil().convert("RGB")
    return {color for _, color in shown.getcolors(1 << 24)}


# ---- what is sent ----


@pytest.mark.parametrize(
    ("content", "media_type", "words"),
    [
        (PAGE, "text/html", "Tolls of May\nHeron"),
        (PAGE, "text/html; charset=utf-8", "Tolls of May\nHeron"),
        ("# Tolls\n\nHeron *and* Otter", "text/markdown", "Tolls\nHeron and Otter"),
        ('{"manuscript": {"title": "T", "parts": [{"heading": "Tolls"}]}}', "application/json", "Tolls"),
    ],
)
def test_documents_of_every_source_are_made(client, content, media_type, words):
    answer = send(client, content, media_type)
    assert answer.status_code == 200, answer.text
    assert fq.Volume(answer.content).pages[0].text.strip() == words
    assert 'filename="document.pdf"' in answer.headers["content-disposition"]


def test_paper_is_as_is_asked(client):
    answer = send(client, PAGE, query="?page=A5&landscape&margin=5mm&name=tolls")
    page = fq.Volume(answer.content).pages[0]
    assert (round(page.width), round(page.height)) == (595, 420)
    assert 'filename="tolls.pdf"' in answer.headers["content-disposition"]


def test_what_is_wide_is_made_to_fit(client):
    wide = "<html lang=en><title>T</title><div style='width: 1400px'><b style='float: right'>end</b></div>"
    assert send(client, wide).headers["remark-count"] != "0"
    for query in (
        "?scale=fit",
        "?scale=fit&page=A5",
        "?fit=1400",
        "?fit=1400&margin=5mm 30mm",
        "?fit=1400&page=A5&landscape&margin=1mm 2mm 3mm 4mm",
    ):
        answer = send(client, wide, query=query)
        assert answer.headers["remark-count"] == "0", query
        assert "end" in fq.Volume(answer.content).pages[0].text
    one, same = (send(client, PAGE, query=f"?margin=10mm&fit={fit}").content for fit in (10, 20))
    assert one == same  # it is never made larger


@pytest.mark.parametrize(
    ("content", "media_type", "query", "status"),
    [
        ("x", "text/plain", "", 415),
        ("x", "", "", 415),
        ("{", "application/json", "", 400),
        ("[" * 100_000, "application/json", "", 400),
        ("{}", "application/json", "", 422),
        ('{"manuscript": 3}', "application/json", "", 422),
        ('{"manuscript": {"parts": [{"paragraf": 1}]}}', "application/json", "", 422),
        ('{"manuscript": {}, "address": "https://x"}', "application/json", "", 422),
        ('{"address": "ftp://x"}', "application/json", "", 422),
        ('{"address": "https://x.example"}', "application/json", "", 403),
        (PAGE, "text/html", "?page=A55", 422),
        (PAGE, "text/html", "?margin=x", 422),
        (PAGE, "text/html", "?fit=x", 400),
        (PAGE, "text/html", "?scale=fitting", 400),
        (PAGE, "text/html", "?fit=nan", 400),
        (PAGE, "text/html", "?fit=-1", 400),
        (PAGE, "text/html", "?kind=exe", 406),
        ("x", "multipart/form-data", "", 400),
        ("x", "multipart/form-data; boundary=x", "", 400),
    ],
)
def test_what_cannot_be_made_is_refused(client, content, media_type, query, status):
    answer = send(client, content, media_type, query)
    assert answer.status_code == status, answer.text
    assert answer.json()["status"] == status


def test_documents_of_others_read_nothing(client, tmp_path, shelf):
    (shelf.folder / "secret.txt").write_text("secret")
    for address in (
        f"file://{shelf.folder}/logo.html",
        str(shelf.folder / "secret.txt"),
        "/etc/passwd",
        "http://127.0.0.1:9/",
    ):
        answer = send(
            client, f"{PAGE}<img src='{address}' alt=x><link rel=stylesheet href='{address}'>", query="?kind=txt"
        )
        assert answer.status_code == 200 and int(answer.headers["remark-count"]) >= 1
        log = client.get(f"/runs/{answer.headers['run-id']}").json()
        assert log["read"] == [] and "secret" not in answer.text


# ---- files that come along ----


def test_a_picture_that_comes_along_is_shown(client):
    files = {"data": ("d.json", b'{"name": "Heron"}', "application/json"), "logo": ("logo.png", picture(), "image/png")}
    answer = client.post("/documents/logo", files=files)
    assert answer.headers["remark-count"] == "0" and (255, 0, 0) in colors(answer.content)
    sent = client.post(
        "/documents", files={"source": ("a.html", f"{PAGE}<img src='my%20logo.png' alt=x>", "text/html"),
                             "logo": ("my logo.png", picture("blue"), "image/png")},
    )  # fmt: skip
    assert sent.headers["remark-count"] == "0" and (0, 0, 255) in colors(sent.content)


def test_a_file_of_rows_is_the_data_of_a_brief(client):
    files = {"tolls": ("t.csv", b"lock,toll\nFenny Bridge,4.20\n", "text/csv")}
    answer = client.post("/documents/rows?kind=csv", files=files)
    assert answer.status_code == 200, answer.text
    assert "Fenny Bridge" in answer.text


@pytest.mark.parametrize("name", ["../../evil.png", "/etc/evil.png", "..\\evil.png", "..", "", "a\0b.png"])
def test_names_of_files_stay_in_their_folder(client, name, tmp_path):
    files = {"data": (None, '{"name": "x"}'), "logo": (name or None, picture(), "image/png")}
    answer = client.post("/documents/logo", files=files)
    assert answer.status_code in (200, 400, 422)


def test_forms_that_cannot_be_are_refused(client):
    twice = [("logo", ("a.png", picture())), ("logo", ("b.png", picture()))]
    same = [("logo", ("a.png", picture())), ("other", ("a.png", picture()))]
    value = [("name", (None, "Heron"))]
    for files in (twice, same, value):
        assert client.post("/documents/logo", files=files).status_code == 400
    wrong = {"data": ("d.csv", b"a,b", "text/csv")}
    assert client.post("/documents/logo", files=wrong).status_code == 415


def test_a_form_that_comes_again_is_the_same(client):
    runs = set()
    for _ in range(2):
        files = {"data": (None, '{"name": "Heron"}'), "logo": ("logo.png", picture(), "image/png")}
        answer = client.post("/documents/logo", files=files, headers={"Idempotency-Key": "form"})
        runs.add(answer.headers["run-id"])
    assert len(runs) == 1


# ---- addresses ----


@pytest.fixture
def site():
    """A site that asks for nothing."""

    class Pages(BaseHTTPRequestHandler):
        def do_GET(self):
            self.send_response(200)
            self.send_header("Content-Type", "text/html")
            self.end_headers()
            self.wfile.write(PAGE.encode())

        def log_message(self, *_):
            pass

    server = ThreadingHTTPServer(("127.0.0.1", 0), Pages)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    yield f"127.0.0.1:{server.server_port}"
    server.shutdown()
    server.server_close()


def test_addresses_are_read_of_hosts_that_are_named(shelf, site):
    client = TestClient(app(shelf, takes=["address"], hosts=[site]), base_url=HERE)
    answer = client.post("/documents?kind=txt", json={"address": f"http://{site}/tolls"})
    assert "Tolls of May" in answer.text
    for other in ("http://127.0.0.1:9/", "http://169.254.169.254/latest"):
        refused = client.post("/documents", json={"address": other})
        assert refused.status_code == 422 and refused.json()["kind"] == "PolicyError"


@pytest.mark.parametrize(
    ("options", "message"),
    [
        ({"takes": ["htm"]}, "Did you mean 'html'"),
        ({"takes": ["address"]}, "both 'address' and hosts"),
        ({"hosts": ["x.example"]}, "both 'address' and hosts"),
        ({"origins": ["app.example"]}, "no origin"),
        ({"origins": ["https://app.example/"]}, "no origin"),
        ({"workers": -1}, "-1 workers"),
    ],
)
def test_services_that_cannot_be_are_refused(shelf, options, message):
    with pytest.raises(fq.OptionError, match=message):
        app(shelf, **options)


# ---- who may ----


def test_a_token_says_what_may_be_sent(shelf, tmp_path):
    tokens = {name: new_token() for name in ("page", "shop", "all")}
    says = {"page": 'sources = ["html"]\ndocuments = []\n', "shop": 'documents = ["logo"]\n', "all": ""}
    path = tmp_path / "tokens.toml"
    path.write_text("".join(f'[tokens.{name}]\nsha256 = "{hash_of(tokens[name])}"\n{says[name]}' for name in tokens))
    client = TestClient(app(shelf, path, takes=["html", "markdown"]))
    for name, html, markdown, logo in (("page", 200, 403, 403), ("shop", 403, 403, 200), ("all", 200, 200, 200)):
        bearer = {"Authorization": f"Bearer {tokens[name]}"}
        assert send(client, PAGE, **bearer).status_code == html, name
        assert send(client, "# x", "text/markdown", **bearer).status_code == markdown, name
        named = client.post("/documents/logo", json={"logo": "", "name": "x"}, headers=bearer)
        assert named.status_code == logo, name
        listed = client.get("/documents", headers=bearer).json()
        assert listed["sources"] == {"page": ["html"], "shop": [], "all": ["html", "markdown"]}[name]
    path.write_text(path.read_text().replace('["html"]', '["htm"]'))
    with pytest.raises(fq.DataError, match="Did you mean 'html'"):
        app(shelf, path)


def test_an_application_says_who_asks(shelf):
    def admit(request: Request):
        name = request.cookies.get("session")
        return Holder(name, documents=("logo",), sources=()) if name else None

    service = Service(shelf, admit=admit, takes=["html"])
    client = TestClient(service.app(), base_url="https://app.example")
    assert client.get("/documents").status_code == 403
    client.cookies.set("session", "wren")
    assert [one["name"] for one in client.get("/documents").json()["documents"]] == ["logo"]
    assert send(client, PAGE).status_code == 403
    run = client.post("/documents/logo", json={"logo": "", "name": "x"}).headers["run-id"]
    assert client.get(f"/runs/{run}").json()["holder"] == "wren"
    client.cookies.set("session", "otter")
    assert client.get(f"/runs/{run}").status_code == 404


def test_pages_of_other_origins_may_not_ask(shelf):
    client = TestClient(app(shelf, takes=["html"], origins=["https://app.example"]), base_url=HERE)
    for origin, status in (
        ("https://app.example", 200), ("https://evil.example", 403), ("null", 403), (HERE, 200), ("http://127.0.0.1:1", 403),
    ):  # fmt: skip
        answer = send(client, PAGE, Origin=origin)
        assert answer.status_code == status, origin
        allowed = answer.headers.get("access-control-allow-origin")
        assert allowed == (origin if origin == "https://app.example" else None)
    asks = {
        "Origin": "https://app.example",
        "Access-Control-Request-Method": "POST",
        "Access-Control-Request-Headers": "content-type",
    }
    assert client.options("/documents", headers=asks).headers["access-control-allow-origin"] == "https://app.example"
    assert (
        "access-control-allow-origin"
        not in client.options("/documents", headers=asks | {"Origin": "https://evil.example"}).headers
    )
