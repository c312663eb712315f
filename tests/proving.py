"""What tests of the proof share: a shelf to change, the command, and the browser's page as it is drawn."""

import re
import shutil
import subprocess
import sys
import time
import urllib.error
import urllib.request
from pathlib import Path

import pytest

from fleetquill.demo import documents

WAITS = 10_000  # ms at most for what should be there at once


@pytest.fixture
def folder(tmp_path):
    shutil.copytree(Path(documents.__file__).parent / "shelf", tmp_path / "shelf")
    return tmp_path / "shelf"


@pytest.fixture
def proof():
    """Starts the command for a source; gives its address."""
    running = []

    def start(*arguments):
        process = subprocess.Popen(
            [sys.executable, "-m", "fleetquill", "proof", *map(str, arguments)],
            stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True,
        )  # fmt: skip
        running.append(process)
        line = process.stdout.readline()
        found = re.search(r"http://127\.0\.0\.1:\d+/[\w-]{16,}/", line)
        assert found, line + process.stderr.read()
        for _ in range(200):
            try:
                urllib.request.urlopen(found[0] + "documents", timeout=1).read()
                return found[0]
            except (urllib.error.URLError, ConnectionError):
                time.sleep(0.05)
        raise AssertionError("it does not answer")

    yield start
    for process in running:
        process.terminate()
        process.wait(timeout=10)


def is_drawn(page, version=""):
    """Waits until the first page is shown as it is now; not as it was in a version."""
    page.wait_for_function(
        """(before) => { const room = document.getElementById('pages'); const now = room.dataset.version;
        const shot = document.querySelector('.page img');
        return now && now !== before && shot && shot.complete && shot.src.includes(`/${now}/`); }""",
        arg=version, timeout=WAITS, polling=5,
    )  # fmt: skip
    return page.get_attribute("#pages", "data-version")
