"""What tests of the proof share: a shelf to change, the command, and the browser's page as it is drawn."""

import re
import shutil
import subprocess
import sys
from contextlib import contextmanager
from pathlib import Path

import pytest

from fleetquill.demo import documents

WAITS = 10_000  # ms at most for what should be there at once


@pytest.fixture
def folder(tmp_path):
    shutil.copytree(Path(documents.__file__).parent / "shelf", tmp_path / "shelf")
    return tmp_path / "shelf"


@contextmanager
def commands(*before):
    """Starts a command that serves, as often as it is called; gives its address. It listens before it says it."""
    running = []

    def start(*arguments):
        process = subprocess.Popen(
            [sys.executable, "-m", "fleetquill", *before, *map(str, arguments)],
            stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True,
        )  # fmt: skip
        running.append(process)
        line = process.stdout.readline()
        found = re.search(r"http://127\.0\.0\.1:\d+/\S*", line)
        assert found, line + process.stderr.read()
        return found[0]

    yield start
    for process in running:
        process.terminate()
        process.wait(timeout=10)


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
