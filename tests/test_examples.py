"""Every example runs, from its own command line."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import pytest

EXAMPLES = sorted((Path(__file__).parent.parent / "examples").glob("*.py"))


@pytest.mark.parametrize("path", EXAMPLES, ids=lambda path: path.stem)
def test_example_runs_and_writes_a_pdf(path, tmp_path):
    result = subprocess.run([sys.executable, str(path), str(tmp_path)], capture_output=True, text=True)
    assert result.returncode == 0, result.stderr
    assert result.stderr == ""
    assert [p.read_bytes()[:5] for p in tmp_path.glob("*.pdf")] == [b"%PDF-"]
