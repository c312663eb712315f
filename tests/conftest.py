"""What all tests share: one press, and readers of what it makes."""

from __future__ import annotations

import os
import pickle
import shutil
import subprocess
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import pypdfium2 as pdfium
import pytest
from hypothesis import settings

import fleetquill as fq
from command_line import command
from databases import database, lite, postgresql  # noqa: F401 - fixtures
from finished_files import barges, finished, form, key, tolls  # noqa: F401 - fixtures
from fleetquill import guard
from fleetquill.demo import documents
from fleetquill.tree.data import read_data
from proving import folder, proof, served  # noqa: F401 - fixtures

DEMO = Path(documents.__file__).parent
PLAIN = """<style>
@page { size: 400px 600px; margin: 0 } body, p, h1, h2, h3 { margin: 0 } html { line-height: 20px }
</style>"""


# The same examples on every run, so that a change is what makes a test fail; new ones on request.
settings.register_profile("same", derandomize=True, database=None, deadline=None)
settings.register_profile("new", derandomize=False, print_blob=True, deadline=None)
settings.load_profile(os.environ.get("EXAMPLES", "same"))


@pytest.fixture(autouse=True)
def no_fault_of_the_engine() -> Iterator[None]:
    """The guard at the press's edge was not needed."""
    guard.SEEN.clear()
    yield
    assert not guard.SEEN


@pytest.fixture(scope="session")
def press() -> fq.Press:
    return fq.Press(locale="en-IE")


@pytest.fixture
def compose(press: fq.Press, tmp_path: Path) -> Callable[..., fq.Edition]:
    """Composes HTML on a page of 400 × 600 px without margins, lines 20 px high."""

    def run(html: str, *, plain: bool = True) -> fq.Edition:
        return press.compose(
            fq.Manuscript.from_html((PLAIN if plain else "") + html, base=tmp_path, source="test.html")
        )

    return run


@pytest.fixture(scope="session")
def invoice(press: fq.Press) -> Callable[[str], fq.Edition]:
    """A demo invoice by the name of its data: 'short' or 'long'."""
    made: dict[str, fq.Edition] = {}

    def run(name: str) -> fq.Edition:
        if name not in made:
            made[name] = press.compose(DEMO / "invoice.html", data=read_data(DEMO / f"invoice-{name}.json"))
        return made[name]

    return run


@pytest.fixture(scope="session")
def demo_made(tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, subprocess.CompletedProcess[str]]:
    """The folder of the demo's documents, and what the command that made them said; once for all workers."""
    import fcntl

    root = tmp_path_factory.getbasetemp()
    shared = (root.parent if "PYTEST_XDIST_WORKER" in os.environ else root) / "all"
    shared.mkdir(exist_ok=True)
    with open(shared / "lock", "w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        said = shared / "said.pickle"
        if not said.exists():
            said.write_bytes(pickle.dumps(command("demo", "made", folder=shared)))
    return shared / "made", pickle.loads(said.read_bytes())


class Px:
    """A placement in px instead of points."""

    def __init__(self, placement: fq.Placement) -> None:
        self.page = placement.page
        self.x, self.y, self.width, self.height = (round(side / 0.75, 2) for side in placement[1:])
        self.right = round(self.x + self.width, 2)
        self.bottom = round(self.y + self.height, 2)

    @property
    def rect(self) -> tuple[float, float, float, float]:
        return (self.x, self.y, self.width, self.height)


@pytest.fixture
def px() -> Callable[[fq.Edition, str], list[Px]]:
    """Where the elements that a selector matches landed, in px."""
    return lambda edition, selector: [Px(p) for p in edition.locate(selector)]


@pytest.fixture
def read_pdf() -> Callable[[bytes], list[str]]:
    """The text of each page, as an independent reader finds it."""

    def run(content: bytes) -> list[str]:
        document = pdfium.PdfDocument(content)
        return [page.get_textpage().get_text_bounded() for page in document]

    return run


@pytest.fixture
def check_pdf(tmp_path: Path) -> Callable[[bytes], None]:
    """Fails where qpdf finds anything to complain of; passes over where qpdf is not installed."""

    def run(content: bytes) -> None:
        path = tmp_path / "checked.pdf"
        path.write_bytes(content)
        try:
            result: Any = subprocess.run(["qpdf", "--check", str(path)], capture_output=True, text=True)
        except FileNotFoundError:
            pytest.skip("qpdf is not installed")
        assert result.returncode == 0, result.stdout + result.stderr
        assert "WARNING" not in result.stderr

    return run


@pytest.fixture
def shot(compose: Callable[..., fq.Edition]) -> Callable[..., Any]:
    """The page as a picture, a pixel for each px."""

    def run(html: str, scale: float = 1.0) -> Any:
        content = compose(html).to_bytes()
        return pdfium.PdfDocument(content)[0].render(scale=96 / 72 * scale).to_pil().convert("RGB")

    return run


@contextmanager
def listening(application):
    """The address of an application that really listens."""
    import uvicorn

    settings = uvicorn.Config(application, host="127.0.0.1", port=0, log_level="error")
    socket = settings.bind_socket()
    socket.listen()
    server = uvicorn.Server(settings)
    thread = threading.Thread(target=server.run, kwargs={"sockets": [socket]}, daemon=True)
    thread.start()
    try:
        yield f"http://127.0.0.1:{socket.getsockname()[1]}"
    finally:
        server.should_exit = True
        thread.join(timeout=10)


@pytest.fixture(scope="module")
def browser():
    sync_api = pytest.importorskip("playwright.sync_api")
    path = shutil.which("chromium") or shutil.which("chromium-browser")
    if path is None:
        pytest.skip("chromium is not installed")
    with sync_api.sync_playwright() as started:
        found = started.chromium.launch(executable_path=path, args=["--no-sandbox"])
        yield found
        found.close()


@pytest.fixture
def screen(browser):
    """A page in the browser, which complains of no script."""
    context = browser.new_context(bypass_csp=True, viewport={"width": 1280, "height": 800})
    page = context.new_page()
    faults = []
    page.on("pageerror", lambda error: faults.append(str(error)))
    yield page
    context.close()
    assert faults == []
