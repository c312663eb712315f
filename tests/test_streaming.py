"""Files in pieces, while they are made."""

import gc
import threading
import time
from itertools import count

import pytest

import fleetquill as fq
from fleetquill.streaming import AHEAD, PIECE


def rows(number, at=lambda n: None):
    for n in range(number):
        at(n)
        yield {"lock": f"Stonecross {n}", "toll": n}


def ledger(made):
    m = fq.Manuscript(title="Tolls", language="en")
    m.ledger(made, ["lock", "toll"])
    return m


@pytest.fixture(scope="module")
def press():
    return fq.Press()


def threads():
    return [thread for thread in threading.enumerate() if thread.name.endswith("(_run)")]


@pytest.mark.parametrize("kind", ["pdf", "csv", "xlsx", "html", "docx", "txt"])
def test_pieces_are_the_file(press, kind, tmp_path):
    path = tmp_path / f"a.{kind}"
    press.write(ledger(rows(3000)), path)
    pieces = press.stream(ledger(rows(3000)), kind=kind)
    assert pieces.headers("tolls")["Content-Disposition"] == 'inline; filename="tolls"'
    content = b"".join(pieces)
    assert content == path.read_bytes()
    assert list(pieces) == [] and not threads()


def test_the_first_piece_comes_before_the_last_row(press):
    seen = []
    pieces = press.stream(ledger(rows(20_000, seen.append)))
    assert seen and max(seen) < 19_999
    first = next(pieces)
    assert first.startswith(b"%PDF-") and len(first) >= PIECE
    pieces.close()


def test_no_more_is_made_than_is_read(press):
    seen = []
    pieces = press.stream(ledger(rows(200_000, seen.append)), kind="csv")
    next(pieces)
    most = 20 * AHEAD * PIECE / 20  # some 20 bytes a row
    before = -1
    while before < max(seen) < most:  # until it waits
        before = max(seen)
        time.sleep(0.5)
    assert max(seen) == before < most
    pieces.close()


@pytest.mark.parametrize("way", ["closed", "dropped"])
def test_work_ends_where_nobody_reads(press, way):
    pieces = press.stream(ledger(rows(10**9)), kind="csv")
    next(pieces)
    assert threads()
    if way == "closed":
        pieces.close()
        assert list(pieces) == []
    else:
        del pieces
        gc.collect()
    end = time.monotonic() + 60
    while threads() and time.monotonic() < end:
        time.sleep(0.05)
    assert not threads()


def test_what_is_wrong_from_the_beginning_is_raised_where_it_is_asked_for(press):
    with pytest.raises(fq.SourceError):
        press.stream("none.html")
    with pytest.raises(fq.OptionError, match="Did you mean 'pdf'"):
        press.stream(ledger(rows(1)), kind="pfd")
    with pytest.raises(fq.OptionError, match="tagged"):
        press.stream(ledger(rows(1)), taged=True)


def test_what_is_wrong_later_is_raised_by_the_pieces(press):
    def broken():
        for n in count():
            if n == 30_000:
                raise ValueError("the cursor is gone")
            yield {"lock": "x", "toll": n}

    pieces = press.stream(ledger(broken()))
    with pytest.raises(ValueError, match="the cursor is gone"):
        list(pieces)
    assert list(pieces) == []
