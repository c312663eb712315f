"""Where a fleet's documents go: stores that fsspec reaches, one of them a server that speaks S3."""

import hashlib
import io

import pytest

import fleetquill as fq
from fleetquill.fleet.places import PIECE, place_of

fsspec = pytest.importorskip("fsspec")
RECORDS = [{"number": f"F-{n}", "year": 2026} for n in range(5)]


@pytest.fixture(scope="module")
def bucket():
    """A bucket of a server on this machine: its options."""
    server_of = pytest.importorskip("moto.server")
    s3fs = pytest.importorskip("s3fs")
    server = server_of.ThreadedMotoServer(ip_address="127.0.0.1", port=0)
    server.start()
    host, port = server.get_host_and_port()
    options = {
        "key": "a",
        "secret": "b",
        "client_kwargs": {"endpoint_url": f"http://{host}:{port}", "region_name": "eu-west-1"},
    }
    s3fs.S3FileSystem(**options, skip_instance_cache=True).mkdir("papers")
    yield options
    server.stop()


@pytest.fixture
def template(tmp_path):
    path = tmp_path / "a.html"
    path.write_text("<html lang=en><title>T</title><h1>{{ number }}</h1>")
    return path


@pytest.mark.parametrize("workers", [0, 2])
def test_documents_go_to_a_store_from_the_workers(template, tmp_path, bucket, workers):
    into = f"s3://papers/{workers}"
    made = fq.Fleet(template, RECORDS, "{year}/{number}.pdf", into=into, store=bucket, log=tmp_path / "log.jsonl")
    assert made.run(workers).made == 5
    system, _ = fsspec.core.url_to_fs(into, **bucket)
    assert sorted(system.ls(f"papers/{workers}/2026")) == [f"papers/{workers}/2026/F-{n}.pdf" for n in range(5)]
    content = system.cat_file(f"papers/{workers}/2026/F-3.pdf")
    assert content == fq.compose(template, data=RECORDS[3]).to_bytes()
    assert made.check() == [] and made.run(workers).kept == 5
    system.rm_file(f"papers/{workers}/2026/F-3.pdf")
    system.invalidate_cache()
    assert [one.name for one in made.check()] == ["2026/F-3.pdf"]
    assert made.run(workers).made == 1


def test_a_large_file_goes_in_parts(bucket):
    place = place_of("s3://papers/large", bucket)
    content = bytes(range(256)) * (50 * PIECE // 256)
    stored = place.put("a/b.pdf", lambda stream: stream.write(content))
    assert stored == (len(content), hashlib.sha256(content).hexdigest()[:32])
    assert place.length("a/b.pdf") == len(content) and place.read("a/b.pdf") == content
    assert place.length("a/none.pdf") is None


def test_a_store_that_does_not_answer_fails_each_document(template, tmp_path):
    options = {
        "key": "a",
        "secret": "b",
        "client_kwargs": {"endpoint_url": "http://127.0.0.1:9"},
        "config_kwargs": {"retries": {"max_attempts": 1}},
    }
    made = fq.Fleet(
        template, RECORDS[:1], "{number}.pdf", into="s3://none/x", store=options, log=tmp_path / "log.jsonl"
    )
    report = made.run(0)
    assert report.failed == 1 and "does not take the file" in report.failures.read_text()


def test_a_folder_by_its_address(template, tmp_path):
    made = fq.Fleet(template, RECORDS, "{number}.pdf", into=f"file://{tmp_path}/far/out", log=tmp_path / "log.jsonl")
    assert made.run(0).made == 5 and (tmp_path / "far" / "out" / "F-0.pdf").is_file()


def test_a_store_needs_a_place_for_its_log(template):
    with pytest.raises(fq.OptionError, match="the log is kept here"):
        fq.Fleet(template, RECORDS, "{number}.pdf", into="memory://x")


def test_what_is_written_is_whole_or_not_there(tmp_path):
    place = place_of(tmp_path / "out")

    def broken(stream: io.BytesIO) -> None:
        stream.write(b"half")
        raise ValueError("no more")

    with pytest.raises(ValueError, match="no more"):
        place.put("a.pdf", broken)
    assert place.length("a.pdf") is None and list((tmp_path / "out").iterdir()) == []
