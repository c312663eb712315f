"""A fleet on a cluster: Dask's workers make it, and none of it is lost with them."""

import os
import shutil
import signal

import pytest

import fleetquill as fq
from conftest import DEMO

distributed = pytest.importorskip("distributed")
RECORDS = [{"number": f"F-{n}", "customer": "Osier Paper Works"} for n in range(40)]


@pytest.fixture
def cluster():
    """Two workers, each a process with one thread; files of this machine are not assumed there."""
    with distributed.LocalCluster(n_workers=2, threads_per_worker=1, dashboard_address=None) as found:
        yield found


@pytest.fixture
def template(tmp_path):
    folder = tmp_path / "source"
    folder.mkdir()
    (folder / "mark.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"><rect width="9" height="9"/></svg>'
    )
    (folder / "a.html").write_text(
        "<html lang=en><title>T</title><img src=mark.svg alt=x><h1>{{ number }}</h1><p>{{ customer }}"
        "{% for n in range(200) %}<p>{{ n }}{% endfor %}"
    )
    return folder / "a.html"


def test_a_cluster_makes_what_is_made_here(cluster, template, tmp_path):
    made = fq.Fleet(template, RECORDS, "{number}.pdf", into=tmp_path / "out")
    report = made.run(cluster=cluster.scheduler_address)
    assert (report.made, report.failed) == (40, 0)
    for one in RECORDS[::7]:
        assert (tmp_path / "out" / f"{one['number']}.pdf").read_bytes() == fq.compose(template, data=one).to_bytes()
    assert made.check() == [] and made.run(cluster=cluster.scheduler_address).kept == 40
    (template.parent / "mark.svg").write_text('<svg xmlns="http://www.w3.org/2000/svg" width="8" height="9"/>')
    assert made.run(cluster=cluster.scheduler_address).made == 40  # a file that was sent along is another now


def test_files_travel_with_the_work(cluster, template, tmp_path):
    """The source is nowhere once the work has been sent."""
    made = fq.Fleet(template, RECORDS, "{number}.pdf", into=tmp_path / "out")
    told = []

    def gone(progress):
        told.append(progress)
        if len(told) == 1:
            shutil.move(template.parent, tmp_path / "elsewhere")

    report = made.run(cluster=cluster.scheduler_address, progress=gone)
    assert (report.made, report.failed) == (40, 0)


def test_nothing_is_lost_with_a_worker(cluster, template, tmp_path):
    made = fq.Fleet(template, RECORDS, "{number}.pdf", into=tmp_path / "out")
    pids = [worker.pid for worker in cluster.workers.values()]
    killed = []

    def kill(_):
        if not killed:
            killed.append(pids[0])
            os.kill(pids[0], signal.SIGKILL)

    report = made.run(cluster=cluster.scheduler_address, progress=kill)
    assert (report.made, report.failed) == (40, 0) and killed
    assert made.check() == []


def test_a_document_of_a_shelf_goes_to_a_cluster_of_its_own(tmp_path):
    shutil.copytree(DEMO / "shelf", tmp_path / "shelf")
    shelf = fq.Shelf(tmp_path / "shelf")
    records = [shelf["invoice"].sample | {"number": f"F-{n}"} for n in range(4)]
    report = fq.Fleet(shelf["invoice"], records, "{number}.pdf", into=tmp_path / "out").run(cluster="local")
    assert (report.made, report.failed) == (4, 0)
    assert (tmp_path / "out" / "F-3.pdf").read_bytes() == fq.compose(shelf["invoice"], data=records[3]).to_bytes()


def test_a_folder_that_is_too_large_is_not_sent(tmp_path, monkeypatch):
    from fleetquill.fleet import cluster

    monkeypatch.setattr(cluster, "MOST_SENT", 10)
    (tmp_path / "a.html").write_text("<p>more than ten bytes</p>")
    with pytest.raises(fq.OptionError, match="too large to be sent"):
        fq.Fleet(tmp_path / "a.html", RECORDS, "{number}.pdf", into=tmp_path / "out").run(cluster="local")
