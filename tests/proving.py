"""What tests of the proof share: a shelf to change, the command, and the browser's page as it is drawn."""

import re
import shutil
import threading
from contextlib import contextmanager
from pathlib import Path
from queue import Queue
from unittest import mock

import pytest
import uvicorn

from fleetquill.cli import main
from fleetquill.demo import documents

WAITS = 10_000  # ms at most for what should be there at once


@pytest.fixture
def folder(tmp_path):
    shutil.copytree(Path(documents.__file__).parent / "shelf", tmp_path / "shelf")
    return tmp_path / "shelf"


@contextmanager
def commands(*before):
    """Starts a command that serves, in a thread of this process, as often as it is called; gives its address."""
    threads, servers, said = [], [], Queue()

    class Server(uvicorn.Server):
        def run(self, sockets=None):
            servers.append(self)
            super().run(sockets)

    def start(*arguments):
        line = [*before, *map(str, arguments)]
        threads.append(threading.Thread(target=main.main, args=(line,), kwargs={"standalone_mode": False}, daemon=True))
        threads[-1].start()
        return re.search(r"http://127\.0\.0\.1:\d+/\S*", said.get(timeout=WAITS / 1000))[0]

    with mock.patch("uvicorn.Server", Server), mock.patch("click.echo", said.put):
        yield start
        for server in servers:
            server.should_exit = True
        for thread in threads:
            thread.join(timeout=10)
            assert not thread.is_alive()


@pytest.fixture
def proof():
    """Starts the proof of a source; gives its address."""
    with commands("proof") as start:
        yield start


@pytest.fixture
def served():
    """Starts a service; gives its address."""
    with commands("serve", "--port", "0") as start:
        yield start


def is_drawn(page, version=""):
    """Waits until the first page is shown as it is now; not as it was in a version."""
    page.wait_for_function(
        """(before) => { const room = document.getElementById('pages'); const now = room.dataset.version;
        const shot = document.querySelector('.page img');
        return now && now !== before && shot && shot.complete && shot.src.includes(`/${now}/`); }""",
        arg=version, timeout=WAITS, polling=5,
    )  # fmt: skip
    return page.get_attribute("#pages", "data-version")
