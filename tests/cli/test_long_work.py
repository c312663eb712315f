"""Work that takes long, and work that is done again: progress, the bar, watching files."""

from __future__ import annotations

import io
import os
import shutil
import signal
import subprocess
import sys
import threading
import time
from pathlib import Path

import pytest

import fleetquill as fq
from conftest import DEMO
from fleetquill.cli import bar as bars
from fleetquill.cli import main

PAGES = "<p style='break-after:page'>a</p>" * 5 + "<p id=z>z</p>"
REFERENCE = "<style>a::after { content: target-counter('#z', page) }</style><a>on page </a>"


# ---- progress ----


@pytest.mark.parametrize("head", ["", REFERENCE], ids=["plain", "with references"])
def test_progress_is_told_page_by_page(head):
    told: list[fq.Progress] = []
    edition = fq.compose(fq.Manuscript.from_html(head + PAGES), progress=told.append)
    count = edition.page_count
    assert told[-count:] == [fq.Progress("laid out", number + 1) for number in range(count)]
    told.clear()
    fq.write(fq.Manuscript.from_html(head + PAGES), io.BytesIO(), progress=told.append)
    assert told[-count:] == [fq.Progress("written", number + 1, count if head else None) for number in range(count)]


def test_what_a_listener_raises_ends_the_work_and_leaves_no_file(tmp_path):
    def stop(progress):
        if progress.pages == 2:
            raise InterruptedError

    with pytest.raises((InterruptedError, fq.OutputError)):
        fq.write(fq.Manuscript.from_html(PAGES), tmp_path / "x.pdf", progress=stop)
    assert list(tmp_path.iterdir()) == []


def test_a_listener_is_a_function():
    with pytest.raises(fq.OptionError, match="The progress is 3, which is no function"):
        fq.compose(fq.Manuscript.from_html("a"), progress=3)


class Terminal(io.StringIO):
    def isatty(self) -> bool:
        return True


@pytest.mark.parametrize("total", [None, 40])
def test_a_terminal_sees_a_bar_after_a_while_and_nothing_is_left_of_it(monkeypatch, total):
    terminal = Terminal()
    monkeypatch.setattr(sys, "stderr", terminal)
    monkeypatch.setenv("TERM", "xterm")
    monkeypatch.setattr(bars, "PATIENCE", 0.05)
    monkeypatch.setattr(bars, "STEP", 0.0)
    with bars.bar() as listener:
        listener(fq.Progress("laid out", 1, total))
        assert terminal.getvalue() == ""
        time.sleep(0.06)
        for number in range(2, 41):
            listener(fq.Progress("laid out", number, total))
    shown = terminal.getvalue()
    assert "40 pages laid out, 0 s" in shown
    assert shown.endswith(("\x1b[2K", "\x1b[?25h", "\x1b[1A\x1b[2K"))


def test_no_terminal_no_bar(monkeypatch, capsys):
    with bars.bar() as listener:
        assert listener is None
    assert capsys.readouterr() == ("", "")


# ---- what a document was made from ----


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    (tmp_path / "parts").mkdir()
    for name, text in {
        "base.html": "<link rel=stylesheet href=s.css>{% block body %}{% endblock %}",
        "bill.html": "{% extends 'base.html' %}{% block body %}<p>{{ n }} <img src=mark.svg>{% include 'parts/foot.html' %}{% endblock %}",
        "parts/foot.html": "<p>foot",
        "s.css": "@import url(more.css); p { color: red }",
        "more.css": "p { margin: 0 }",
        "mark.svg": "<svg xmlns='http://www.w3.org/2000/svg' width='9' height='9'><rect width='5' height='5'/></svg>",
        "data.json": '{"n": 1}',
        "extra.css": "p { font-size: 9pt }",
    }.items():
        (tmp_path / name).write_text(text, encoding="utf-8")
    return tmp_path


def test_a_summary_names_every_file_that_was_read(folder):
    summary = fq.write(folder / "bill.html", io.BytesIO(), data=folder / "data.json", styles=[folder / "extra.css"])
    assert summary.files[:2] == (folder / "bill.html", folder / "data.json")
    assert sorted(summary.files) == sorted(path for path in folder.rglob("*") if path.is_file())


def test_sources_are_found_by_name_in_the_template_folders(folder, monkeypatch, tmp_path_factory):
    monkeypatch.chdir(tmp_path_factory.mktemp("elsewhere"))
    press = fq.Press(template_folders=[folder])
    edition = press.compose("bill.html", data={"n": 7})
    assert edition.pages[0].text.split() == ["7", "foot"] and not edition.remarks
    Path("bill.html").write_text("<p>nearer", encoding="utf-8")
    assert press.compose("bill.html").pages[0].text == "nearer"
    with pytest.raises(fq.SourceError, match="does not exist"):
        press.compose("bull.html")


# ---- watching ----


class Watched:
    """A command that watches, and the lines that it says."""

    def __init__(self, folder: Path, *arguments: str) -> None:
        self.process = subprocess.Popen(
            [sys.executable, "-m", "fleetquill", "press", *arguments, "--watch"],
            cwd=folder, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True,
        )  # fmt: skip
        self.lines: list[tuple[float, str]] = []
        threading.Thread(target=self._read, daemon=True).start()

    def _read(self) -> None:
        for line in self.process.stdout:
            self.lines.append((time.perf_counter(), line))

    def next_after(self, count: int) -> tuple[float, str]:
        limit = time.monotonic() + 60
        while len(self.lines) <= count and time.monotonic() < limit:
            time.sleep(0.002)
        return self.lines[count]

    def end(self) -> int:
        self.process.send_signal(signal.SIGINT)
        return self.process.wait(60)


@pytest.fixture
def watched(folder):
    command = Watched(folder, "bill.html", "--data", "data.json", "--style", "extra.css")
    yield command
    if command.process.poll() is None:
        command.process.kill()


@pytest.mark.skipif(os.name == "nt", reason="sends a signal")
def test_a_watched_document_is_made_again_when_anything_that_it_reads_changes(watched, folder):
    assert watched.next_after(0)[1].startswith("bill.pdf: 1 page")
    time.sleep(0.5)
    count = 1
    for name in (
        "bill.html",
        "base.html",
        "parts/foot.html",
        "s.css",
        "more.css",
        "mark.svg",
        "data.json",
        "extra.css",
    ):
        path = folder / name
        before = path.read_text(encoding="utf-8")
        path.write_text(before + " ", encoding="utf-8")
        assert watched.next_after(count)[1].startswith("bill.pdf: 1 page"), name
        time.sleep(0.3)
        count = len(watched.lines)
    (folder / "unread.css").write_text("p { color: blue }", encoding="utf-8")
    time.sleep(0.5)
    assert len(watched.lines) == count
    (folder / "bill.html").write_text("{{ m }}", encoding="utf-8")
    assert "The template names 'm'" in watched.next_after(count)[1]
    time.sleep(0.3)
    shutil.copy(folder / "base.html", folder / "new")
    os.replace(folder / "new", folder / "bill.html")  # as editors save
    assert watched.next_after(count + 1)[1].startswith("bill.pdf: 1 page")
    assert watched.end() == 0


def test_a_watched_invoice_is_there_again_within_a_tenth_of_a_second(tmp_path):
    for name in ("invoice.html", "invoice.css", "invoice-short.json", "mark.svg"):
        shutil.copy(DEMO / name, tmp_path / name)
    command = Watched(tmp_path, "invoice.html", "--data", "invoice-short.json", "--locale", "en-IE")
    try:
        command.next_after(0)
        best = 9.0
        for _ in range(8):
            time.sleep(0.4)
            count, start = len(command.lines), time.perf_counter()
            with (tmp_path / "invoice.css").open("a", encoding="utf-8") as sheet:
                sheet.write("\n")
            best = min(best, command.next_after(count)[0] - start)
        assert best < 0.25  # 0.1 is asked for, where nothing else runs
    finally:
        command.process.kill()


@pytest.mark.parametrize(
    ("arguments", "said"),
    [
        (["-", "-o", "x.pdf"], "Only files can be watched"),
        (["a.html", "-o", "-"], "What is watched goes into a file"),
        (["a.html", "--data", "-"], "Only files can be watched"),
    ],
)
def test_what_cannot_be_watched(arguments, said, tmp_path, monkeypatch):
    from click.testing import CliRunner

    monkeypatch.chdir(tmp_path)
    Path("a.html").write_text("<p>a", encoding="utf-8")
    result = CliRunner().invoke(main, ["press", *arguments, "--watch"])
    assert result.exit_code == 2 and said in result.output
