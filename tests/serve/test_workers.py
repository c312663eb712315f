"""Workers: processes that make documents for the service, and are replaced when they die, hang or grow."""

import os
import signal
import subprocess
import sys
import threading
import time
from pathlib import Path

import httpx2
import psutil
import pytest
from starlette.testclient import TestClient

import fleetquill as fq
from conftest import DEMO
from fleetquill.serve.service.hands import MERCY, WorkerHands
from fleetquill.serve.service.limits import Limits
from fleetquill.serve.service.maker import Setup
from fleetquill.serve.service.order import Call, Failed, Made, Order
from fleetquill.serve.service.service import Service

HERE = "http://127.0.0.1"
POWER = "<p>{{ (7 ** n) % 10 }}"  # which nothing can interrupt


@pytest.fixture
def hands(tmp_path):
    """Hands in a process of their own, for a shelf with one template; and what became of processes before."""
    made, replaced = [], []

    def start(template, limits=None):
        shelf = tmp_path / "shelf"
        shelf.mkdir()
        (shelf / "a.html").write_text(f"<html lang=en><title>T</title>{template}")
        setup = Setup(str(shelf), str(tmp_path), limits or Limits())
        made.append(WorkerHands(setup, replaced.append))
        return made[-1], replaced

    yield start
    for one in made:
        one.end()


def order(tmp_path, content, **more):
    return Order(str(tmp_path / "file"), document="a", content=content.encode(), **more)


def test_a_worker_makes_what_the_press_makes(hands, tmp_path):
    worker, replaced = hands("<p>{{ x }}")
    pid = worker.pid
    for number in range(3):
        made = worker.make(order(tmp_path, f'{{"x": {number}}}', name="{x}"), Call(30))
        assert isinstance(made, Made) and (made.name, made.pages, made.read) == (f"{number}.pdf", 1, ("a.html",))
        assert Path(tmp_path / "file").stat().st_size == made.length
    edition = fq.compose(fq.Shelf(tmp_path / "shelf")["a"], data={"x": 2})
    assert (tmp_path / "file").read_bytes() == edition.to_bytes()
    assert worker.pid == pid and replaced == []


def test_one_that_was_killed_is_replaced_and_the_document_made(hands, tmp_path):
    worker, replaced = hands("<p>{{ x }}")
    worker.make(order(tmp_path, '{"x": 1}'), Call(30))
    os.kill(worker.pid, signal.SIGKILL)
    assert isinstance(worker.make(order(tmp_path, '{"x": 1}'), Call(30)), Made)
    assert replaced == ["died"]


def test_one_that_is_killed_at_work_begins_again_but_once(hands, tmp_path):
    worker, replaced = hands("{% for n in range(n) %}<p>{{ n }} {% endfor %}")
    worker.make(order(tmp_path, '{"n": 1}'), Call(30))
    killed, ended = [], threading.Event()

    def kill():
        while not ended.wait(0.3):
            if worker.pid not in killed:
                killed.append(worker.pid)
                time.sleep(0.5 if len(killed) == 1 else 3)  # at work, and not before it begins
                os.kill(killed[-1], signal.SIGKILL)

    thread = threading.Thread(target=kill)
    thread.start()
    failed = worker.make(order(tmp_path, '{"n": 150000}'), Call(60))
    ended.set()
    thread.join()
    assert isinstance(failed, Failed) and failed.status == 500 and "ended, twice" in failed.detail
    assert replaced[:2] == ["died", "died"]
    assert isinstance(worker.make(order(tmp_path, '{"n": 1}'), Call(30)), Made)


def test_one_that_hangs_is_ended(hands, tmp_path):
    worker, replaced = hands(POWER)
    worker.make(order(tmp_path, '{"n": 1}'), Call(30))
    start = time.monotonic()
    failed = worker.make(order(tmp_path, '{"n": 400000000}', seconds=0.5), Call(0.5))
    assert isinstance(failed, Failed) and (failed.status, replaced) == (504, ["hung"])
    assert time.monotonic() - start < MERCY + 10  # not the minutes that it would take
    assert isinstance(worker.make(order(tmp_path, '{"n": 1}'), Call(30)), Made)


def test_what_takes_too_long_is_ended_by_the_worker_itself(hands, tmp_path):
    worker, replaced = hands("{% for n in range(n) %}<p>{{ n }} {% endfor %}")
    failed = worker.make(order(tmp_path, '{"n": 200000}', seconds=0.3), Call(0.3))
    assert isinstance(failed, Failed) and failed.status == 504 and "more than 0.3 s" in failed.detail
    assert replaced == []


def test_one_that_has_grown_is_replaced_after_its_document(hands, tmp_path):
    worker, replaced = hands("<p>{{ x }}", Limits(memory=50))
    pid = worker.pid
    assert isinstance(worker.make(order(tmp_path, '{"x": 1}'), Call(30)), Made)
    assert replaced == ["grew"] and worker.pid != pid and not psutil.pid_exists(pid)


def test_one_that_takes_too_much_memory_is_ended(hands, tmp_path):
    worker, replaced = hands("{% for n in range(n) %}<p>{{ n }} {% endfor %}", Limits(memory=100))
    failed = worker.make(order(tmp_path, '{"n": 400000}'), Call(30))
    assert isinstance(failed, Failed) and failed.status == 422 and "more than 200 MB" in failed.detail
    assert replaced == ["grew"]


def test_what_nobody_wants_any_more_is_ended(hands, tmp_path):
    worker, replaced = hands(POWER)
    worker.make(order(tmp_path, '{"n": 1}'), Call(30))
    call = Call(60)
    timer = threading.Timer(0.5, setattr, (call, "cancelled", True))
    timer.start()
    failed = worker.make(order(tmp_path, '{"n": 400000000}'), call)
    assert isinstance(failed, Failed) and (failed.status, replaced) == (409, ["cancelled"])


def test_pages_are_told_while_it_works(hands, tmp_path):
    worker, _ = hands("{% for n in range(n) %}<p style='break-before: page'>{{ n }} {% endfor %}")
    told = []
    call = Call(60, told.append)
    assert isinstance(worker.make(order(tmp_path, '{"n": 1200}'), call), Made)
    assert told and 0 < call.pages <= 1200


def test_workers_end_with_the_service():
    service = Service(fq.Shelf(DEMO / "shelf"), workers=2)
    with TestClient(service.app(), base_url=HERE) as client:
        data = client.get("/documents/invoice").json()["sample"]
        assert client.post("/documents/invoice?kind=txt", json=data).status_code == 200
        workers = psutil.Process().children()
        assert "workers 2.0" in client.get("/metrics").text
    gone, alive = psutil.wait_procs(workers, timeout=5)
    own = [one for one in alive if "spawn_main" in " ".join(one.cmdline())]
    assert len(gone) >= 2 and own == []


def test_nothing_is_lost_or_mixed_up_while_workers_are_killed():
    """The tool that measures this, for a few seconds."""
    from tools import load_service

    done = load_service.measure(clients=40, seconds=9, every=3, workers=2)
    assert done.load.wrong == [] and done.killed >= 2
    assert set(done.load.answers) <= {"200", "503"} and done.load.answers["200"] >= 50


def test_told_to_end_it_answers_what_it_has_begun(tmp_path):
    (tmp_path / "a.html").write_text("{% for n in range(n) %}<p>{{ n }} {% endfor %}")
    command = [sys.executable, "-m", "fleetquill", "serve", str(tmp_path), "--port", "0", "--workers", "1"]
    with subprocess.Popen(command, stdout=subprocess.PIPE, text=True) as service:
        address = service.stdout.readline().rsplit(" ", 1)[1].strip()
        assert httpx2.post(f"{address}documents/a?kind=txt", json={"n": 1}, timeout=60).status_code == 200
        timer = threading.Timer(0.4, service.terminate)
        timer.start()
        answer = httpx2.post(f"{address}documents/a", json={"n": 8000}, timeout=60)
        assert answer.status_code == 200 and int(answer.headers["page-count"]) > 100
        assert not timer.is_alive()
        service.wait(timeout=30)
    with pytest.raises(httpx2.ConnectError):
        httpx2.get(f"{address}health")
