"""Readers of PDFs that no one here wrote, as tests ask them."""

import shutil
import subprocess

import pypdfium2 as pdfium
import pytest


def needs(name):
    if shutil.which(name) is None:
        pytest.skip(f"{name} is not installed")


def accepted(path, password=""):
    """Fails where a strict reader has anything to say about a file."""
    needs("qpdf")
    done = subprocess.run(["qpdf", "--check", f"--password={password}", str(path)], capture_output=True, text=True)
    assert done.returncode == 0, done.stderr + done.stdout
    assert "WARNING" not in done.stderr + done.stdout


def words(path, first=1, last=0, password=""):
    """The words of some pages, as another reader has them."""
    needs("pdftotext")
    pages = ["-f", str(first), *(["-l", str(last)] if last else [])]
    command = ["pdftotext", "-raw", *pages, "-upw", password, str(path), "-"]
    return subprocess.run(command, capture_output=True, text=True, check=True).stdout.split()


def pixels(path, page=1, scale=1.0, password=None, forms=True):
    """A page as a picture."""
    document = pdfium.PdfDocument(path, password=password)
    if forms:
        document.init_forms()
    shot = document[page - 1].render(scale=scale).to_pil().convert("RGB")
    document.close()
    return shot


def difference(one, other):
    """The share of pixels that differ by more than a little."""
    import numpy as np

    first, second = np.asarray(one, dtype=int), np.asarray(other, dtype=int)
    assert first.shape == second.shape
    return float((abs(first - second).max(axis=2) > 40).mean())
