"""A press elsewhere: a real service, asked over a real connection."""

import io
import threading
from contextlib import contextmanager
from datetime import date
from decimal import Decimal

import pytest
import uvicorn

import fleetquill as fq
from conftest import DEMO
from fleetquill.serve import app
from fleetquill.serve.service.limits import Limits


class Failing:
    """Refuses some requests before it lets the service answer."""

    def __init__(self, inner):
        self.inner = inner
        self.left = 0
        self.asked = 0
        self.cut = False  # whether a file ends before its end

    async def __call__(self, scope, receive, send):
        if scope["type"] != "http":
            await self.inner(scope, receive, send)
            return
        self.asked += 1
        if self.left:
            self.left -= 1
            await send({"type": "http.response.start", "status": 503, "headers": [(b"retry-after", b"0")]})
            await send({"type": "http.response.body", "body": b"busy"})
        elif self.cut:
            await send({"type": "http.response.start", "status": 200, "headers": [(b"content-length", b"9000")]})
            await send({"type": "http.response.body", "body": b"%PDF-1.7 and then", "more_body": True})
            raise OSError("the machine has died")
        else:
            await self.inner(scope, receive, send)


@contextmanager
def served(application):
    server = uvicorn.Server(uvicorn.Config(application, host="127.0.0.1", port=0, log_level="critical"))
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    while not server.started:
        threading.Event().wait(0.01)
    port = server.servers[0].sockets[0].getsockname()[1]
    yield f"http://127.0.0.1:{port}/"
    server.should_exit = True
    thread.join(timeout=10)


@pytest.fixture(scope="module")
def service():
    failing = Failing(app(fq.Shelf(DEMO / "shelf"), limits=Limits(pages=3)))
    with served(failing) as url:
        failing.url = url
        yield failing


@pytest.fixture
def press(service):
    service.left, service.cut, service.asked = 0, False, 0
    with fq.RemotePress(service.url) as found:
        yield found


@pytest.fixture(scope="module")
def shelf():
    return fq.Shelf(DEMO / "shelf")


def test_it_makes_what_a_press_here_makes(press, shelf):
    assert press.names == shelf.names
    data = shelf["invoice"].sample
    assert press.compose("invoice", data) == fq.compose(shelf["invoice"], data=data).to_bytes()


def test_files_are_written_as_their_ending_says(press, shelf, tmp_path):
    data = shelf["invoice"].sample
    for kind, start in (("pdf", b"%PDF-"), ("docx", b"PK"), ("csv", b"Voyage,")):
        path = tmp_path / f"invoice.{kind}"
        summary = press.write("invoice", path, data=data, locale="en")
        content = path.read_bytes()
        assert content.startswith(start)
        assert (summary.kind, summary.bytes_written) == (kind, len(content)) and summary.seconds > 0
    stream = io.BytesIO()
    summary = press.write("invoice", stream, kind="csv", data=data)
    assert stream.getvalue().startswith(b"Voyage,")
    assert summary.remarks and all(isinstance(one, fq.Remark) for one in summary.remarks)
    assert summary.page_count == 0


def test_briefs_have_parameters(press, tmp_path):
    assert press.write("tolls", tmp_path / "tolls.pdf").page_count == 1
    with pytest.raises(fq.FleetQuillError):
        press.write("tolls", tmp_path / "none.pdf", parameters={"nothing": 1})
    assert not (tmp_path / "none.pdf").exists()


def test_values_of_python_are_sent(press, shelf):
    data = shelf["invoice"].sample | {"date": date(2026, 6, 2)}
    data["lines"][0]["amount"] = Decimal("1111.25")
    assert "€1,111.25" in fq.Volume(press.compose("invoice", data)).pages[0].text


@pytest.mark.parametrize("value", [object(), {1, 2}, Decimal("NaN"), float("inf"), {(1, 2): 3}])
def test_values_that_cannot_be_sent_are_refused(press, value):
    with pytest.raises(fq.DataError, match="cannot be sent as JSON"):
        press.compose("invoice", {"number": value})


def test_errors_are_those_of_the_press_there(press, shelf, tmp_path):
    path = tmp_path / "invoice.pdf"
    with pytest.raises(fq.DataError, match="'lines' is a required property"):
        press.write("invoice", path, data={"number": "F-1"})
    with pytest.raises(fq.OptionError, match="There is no document 'invoce'"):
        press.write("invoce", path, data={})
    with pytest.raises(fq.OptionError, match="no kind of file"):
        press.write("invoice", tmp_path / "invoice.exe", data={})
    with pytest.raises(fq.OptionError, match="The locale 'nowhere' is not known"):
        press.write("invoice", path, data=shelf["invoice"].sample, locale="nowhere")
    data = shelf["invoice"].sample
    with pytest.raises(fq.LimitError, match="more than 3 pages"):
        press.write("invoice", path, data=data | {"lines": data["lines"] * 60})
    assert not list(tmp_path.iterdir())


def test_it_asks_again_where_the_service_is_busy(press, service, shelf):
    service.left = 3
    assert press.compose("invoice", shelf["invoice"].sample).startswith(b"%PDF-")
    assert service.asked == 4
    service.left = 9
    with pytest.raises(fq.OutputError, match="503"):
        press.compose("invoice", shelf["invoice"].sample)
    assert service.left == 4


def test_a_file_that_is_cut_off_is_not_written(press, service, shelf, tmp_path):
    service.cut = True
    with pytest.raises(fq.OutputError, match="does not answer"):
        press.write("invoice", tmp_path / "invoice.pdf", data=shelf["invoice"].sample)
    assert not list(tmp_path.iterdir())


def test_a_service_that_is_not_there_is_said_to_be():
    with (
        fq.RemotePress("http://127.0.0.1:9/", tries=2) as press,
        pytest.raises(fq.OutputError, match=r"127\.0\.0\.1:9"),
    ):
        press.compose("invoice", {})


def test_a_token_that_is_not_known_is_refused(shelf, tmp_path):
    path = tmp_path / "tokens.toml"
    path.write_text(f"[tokens.a]\nsha256 = '{'0' * 64}'\n")
    with served(app(shelf, path)) as url, fq.RemotePress(url, "wrong") as press:
        with pytest.raises(fq.PolicyError, match="Bearer"):
            press.compose("invoice", {})
        assert "wrong" not in repr(press)


@pytest.mark.parametrize(("url", "options"), [("documents.example", {}), ("https://x", {"tries": 0})])
def test_what_cannot_be_asked_is_refused(url, options):
    with pytest.raises(fq.OptionError):
        fq.RemotePress(url, **options)


def test_what_takes_long_is_a_job(press, shelf, tmp_path):
    data = shelf["invoice"].sample
    summary = press.write("invoice", tmp_path / "a.pdf", data=data, job=True)
    assert (summary.page_count, summary.remarks) == (1, ())
    assert (tmp_path / "a.pdf").read_bytes() == fq.compose(shelf["invoice"], data=data).to_bytes()
    with pytest.raises(fq.DataError, match="'number' is a required property"):
        press.write("invoice", tmp_path / "b.pdf", data={}, job=True)
    assert not (tmp_path / "b.pdf").exists()
