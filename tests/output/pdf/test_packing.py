"""Long files are compressed beside the work, and are the same as if they were not."""

import concurrent.futures
import gc
import threading

import pytest

import fleetquill as fq
from fleetquill.output.pdf import packing


def long_document():
    rows = [[f"W-{number}", f"{number * 37 % 9000 / 100:.2f}"] for number in range(2_500)]
    m = fq.Manuscript(language="en")
    m.ledger(rows, [fq.Column("no"), fq.Column("fee", form="0.00", total="sum")])
    return fq.compose(m)


def no_pool(*_args, **_options):
    raise RuntimeError("can't start new thread")


def test_a_long_file_has_the_same_bytes_with_a_thread_and_without(monkeypatch):
    edition = long_document()
    assert edition.page_count > packing.FEW * 3
    with_thread = edition.to_bytes()
    assert edition.to_bytes() == with_thread
    with monkeypatch.context() as changed:
        changed.setattr(packing, "FEW", 10**9)
        assert edition.to_bytes() == with_thread
    monkeypatch.setattr(concurrent.futures, "ThreadPoolExecutor", no_pool)
    assert edition.to_bytes() == with_thread


def test_no_thread_is_left_behind():
    gc.collect()  # streams that other tests did not read to their end
    edition = long_document()
    edition.to_bytes()
    assert not [thread for thread in threading.enumerate() if thread.name.startswith("fleetquill")]


def test_a_short_file_has_no_thread_at_all(monkeypatch):
    monkeypatch.setattr(concurrent.futures, "ThreadPoolExecutor", no_pool)
    assert fq.compose(fq.Manuscript.from_html("<p>Heron</p>" * 100)).page_count < packing.FEW
    packer = packing.Packer()
    assert all(isinstance(packer.pack(b"x" * 5_000), bytes) for _ in range(packing.FEW))


def test_what_stops_half_way_leaves_no_thread(tmp_path):
    class Full:
        written = 0

        def write(self, content):
            self.written += len(content)
            if self.written > 20_000:
                raise OSError("no space")
            return len(content)

    edition = long_document()
    with pytest.raises((OSError, fq.FleetQuillError)):
        edition.write_to(Full())
    gc.collect()
    alive = [thread for thread in threading.enumerate() if thread.name.startswith("fleetquill")]
    for thread in alive:
        thread.join(5)
    assert not [thread for thread in alive if thread.is_alive()]
