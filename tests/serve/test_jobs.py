"""Jobs, keys, tags and figures: what a service remembers of what it was asked."""

import gc
import re
import threading
import time
import tracemalloc
from pathlib import Path

import pytest
from starlette.testclient import TestClient

import fleetquill as fq
from fleetquill.serve import app
from fleetquill.serve.service.desk import Desk
from fleetquill.serve.service.limits import Limits
from fleetquill.serve.service.order import Made, Order
from fleetquill.serve.service.service import Service
from fleetquill.serve.service.tokens import hash_of, new_token

HERE = "http://127.0.0.1"
JOB = {"Prefer": "respond-async"}
ROWS = "<html lang=en><title>T</title>{% for n in range(n) %}<p>{{ n }} {% endfor %}"


@pytest.fixture
def shelf(tmp_path):
    folder = tmp_path / "shelf"
    folder.mkdir()
    (folder / "a.html").write_text(ROWS)
    (folder / "a.sample.json").write_text('{"n": 3}')
    (folder / "terms.md").write_text("# Terms of carriage")
    return fq.Shelf(folder)


@pytest.fixture
def client(shelf):
    with TestClient(app(shelf), base_url=HERE) as found:
        yield found


def ended(client, job, seconds=20):
    """How a job ends."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        state = client.get(f"/jobs/{job}").json()
        if state["state"] not in ("waiting", "making"):
            return state
        time.sleep(0.02)
    raise AssertionError("it does not end")


def asked(client, n=1, path="/documents/a", **headers):
    return client.post(path, json={"n": n}, headers=headers)


# ---- jobs ----


def test_a_job_is_taken_on_and_its_file_fetched(client):
    answer = asked(client, 300, **JOB)
    assert answer.status_code == 202 and answer.headers["preference-applied"] == "respond-async"
    job = answer.json()["job"]
    assert answer.headers["location"] == f"/jobs/{job}"
    state = ended(client, job)
    assert (state["state"], state["run"], state["pages"]) == ("done", f"runs/{job}", 12)
    file = client.get(f"/{state['file']}")
    assert file.content == asked(client, 300).content
    assert client.get(f"/{state['file']}?download").headers["content-disposition"] == 'attachment; filename="a.pdf"'
    log = client.get(f"/runs/{job}").json()
    assert log["read"] == ["a.html", "a.sample.json"] and log["pages"] == 12 and log["bytes"] == len(file.content)
    assert list(log["stages"]) == ["read", "styled", "laid out", "written"]
    assert sum(log["stages"].values()) == pytest.approx(log["seconds"], rel=0.5)


def test_a_job_that_fails_says_why(client):
    job = asked(client, "x", **JOB).json()["job"]
    state = ended(client, job)
    assert (state["state"], state["problem"]["status"]) == ("failed", 422) and "file" not in state
    answer = client.get(f"/jobs/{job}/file")
    assert (answer.status_code, answer.json()["run"]) == (422, job)


def test_a_job_may_take_longer(shelf):
    limits = Limits(seconds=0.1, job_seconds=30)
    with TestClient(app(shelf, limits=limits), base_url=HERE) as client:
        assert asked(client, 3000).status_code == 504
        assert ended(client, asked(client, 3000, **JOB).json()["job"])["state"] == "done"


def test_jobs_are_cancelled_before_and_while_they_are_made(shelf):
    with TestClient(app(shelf, limits=Limits(at_once=1)), base_url=HERE) as client:
        jobs = [asked(client, 400_000, **JOB).json()["job"] for _ in range(2)]
        early = client.get(f"/jobs/{jobs[0]}/file")
        assert early.status_code == 409 and early.headers["retry-after"] == "1"
        for job in reversed(jobs):
            assert client.delete(f"/jobs/{job}").status_code == 204
        for job in jobs:
            assert ended(client, job, 5)["state"] == "cancelled"
            assert client.get(f"/jobs/{job}/file").status_code == 409
        assert asked(client).status_code == 200


def test_a_job_that_was_fetched_may_be_dropped(client):
    job = asked(client, **JOB).json()["job"]
    ended(client, job)
    assert client.delete(f"/jobs/{job}").status_code == 204
    assert client.get(f"/jobs/{job}").json()["state"] == "cancelled"
    assert client.get(f"/jobs/{job}/file").status_code == 410


def test_what_is_no_job_is_none(client):
    run = asked(client).headers["run-id"]
    for method, path in (
        ("GET", f"jobs/{run}"),
        ("DELETE", f"jobs/{run}"),
        ("GET", f"jobs/{run}/file"),
        ("GET", "jobs/x"),
    ):
        assert client.request(method, f"/{path}").status_code == 404


def test_jobs_leave_hands_for_those_who_wait(shelf):
    with TestClient(app(shelf, limits=Limits(at_once=2)), base_url=HERE) as client:
        jobs = [asked(client, 60_000, **JOB).json()["job"] for _ in range(3)]
        assert asked(client).status_code == 200
        states = [client.get(f"/jobs/{job}").json()["state"] for job in jobs]
        assert states.count("waiting") >= 1
        for job in jobs:
            client.delete(f"/jobs/{job}")


def test_files_are_kept_as_long_as_there_is_room(shelf):
    with TestClient(app(shelf, limits=Limits(kept=0)), base_url=HERE) as client:
        job = asked(client, **JOB).json()["job"]
        ended(client, job)
        assert client.get(f"/jobs/{job}/file").status_code == 200
        asked(client)  # the next that comes clears up
        assert client.get(f"/jobs/{job}/file").status_code == 410
        assert client.get(f"/runs/{job}").json()["status"] == 200


def test_it_ends_what_it_has_begun(tmp_path):
    class Slow:
        ended = False

        def make(self, order, call):
            time.sleep(0.3)
            return Made("pdf", "a.pdf", 1, 1, '"x"', 0.3)

        def end(self):
            self.ended = True

    hands = Slow()
    desk = Desk([hands], Limits(), tmp_path)
    runs = [desk.take(Order(str(desk.target())), "", job=True) for _ in range(2)]
    while runs[0].state != "making":
        time.sleep(0.01)
    assert not hands.ended and runs[1].state == "waiting"
    desk.end()
    assert [run.state for run in runs] == ["done", "cancelled"] and hands.ended
    assert runs[1].outcome.status == 409


def test_what_was_sent_is_not_held(tmp_path):
    class Quick:
        def make(self, order, call):
            return Made("pdf", "a.pdf", 1, len(order.content), '"x"', 0.0)

        def end(self):
            pass

    desk = Desk([Quick()], Limits(), tmp_path)
    run = desk.take(Order(str(desk.target()), content=b"x" * 1000), "")
    assert run.future.result(timeout=5).length == 1000 and run.order.content == b""
    desk.end()


def test_a_service_holds_neither_what_was_sent_nor_files_that_nobody_fetches(shelf):
    service = Service(shelf)
    with TestClient(service.app(), base_url=HERE) as client:
        body = {"n": 1, "more": "x" * 2_000_000}
        tag = client.post("/documents/a", json=body).headers["etag"]
        tracemalloc.start()
        for _ in range(8):
            assert client.post("/documents/a", json=body, headers={"If-None-Match": tag}).status_code == 412
        gc.collect()
        held, _ = tracemalloc.get_traced_memory()
        tracemalloc.stop()
        assert held < 6_000_000
        assert [path for path in Path(service._folder.name).iterdir() if path.is_file()] == []


# ---- keys and tags ----


def test_the_same_key_gives_the_same_answer(client):
    key = {"Idempotency-Key": "f-2041"}
    first = asked(client, 3, **key)
    again = asked(client, 3, **key)
    assert (again.headers["run-id"], again.content) == (first.headers["run-id"], first.content)
    other = asked(client, 4, **key)
    assert other.status_code == 422 and "another order" in other.json()["detail"]
    assert asked(client, 3).headers["run-id"] != first.headers["run-id"]
    failed = [asked(client, "x", **{"Idempotency-Key": "b"}) for _ in range(2)]
    assert failed[0].status_code == 422 and failed[0].json() == failed[1].json()
    assert asked(client, 3, **{"Idempotency-Key": "x" * 256}).status_code == 400


def test_a_key_holds_while_the_document_is_made(client):
    answers = []
    threads = [
        threading.Thread(target=lambda: answers.append(asked(client, 3000, **{"Idempotency-Key": "k"})))
        for _ in range(3)
    ]
    for thread in threads:
        thread.start()
        time.sleep(0.05)
    for thread in threads:
        thread.join()
    assert len({answer.headers["run-id"] for answer in answers}) == 1
    assert len({answer.content for answer in answers}) == 1


def test_a_key_of_a_job_gives_the_job(client):
    jobs = {asked(client, 3, **JOB, **{"Idempotency-Key": "j"}).json()["job"] for _ in range(2)}
    assert len(jobs) == 1


def test_the_tag_says_what_is_there_already(client):
    tag = asked(client, 3).headers["etag"]
    refused = asked(client, 3, **{"If-None-Match": f'"x", W/{tag}'})
    assert refused.status_code == 412 and refused.headers["etag"] == tag
    assert asked(client, 3, **{"If-None-Match": '"x"'}).status_code == 200
    file = client.get("/documents/terms/file")
    assert file.status_code == 200 and file.content.startswith(b"%PDF-")
    unchanged = client.get("/documents/terms/file", headers={"If-None-Match": file.headers["etag"]})
    assert (unchanged.status_code, unchanged.content) == (304, b"")
    assert client.get("/documents/a/file").status_code == 422


# ---- how many, and figures ----


def test_a_minute_has_room_for_so_many(shelf, tmp_path):
    shop, clerk = new_token(), new_token()
    (tmp_path / "t.toml").write_text(
        f'[tokens.shop]\nsha256 = "{hash_of(shop)}"\nper_minute = 2\n[tokens.clerk]\nsha256 = "{hash_of(clerk)}"\n'
    )
    client = TestClient(app(shelf, tmp_path / "t.toml", Limits(per_minute=4)))
    for token, most in ((shop, 2), (clerk, 4)):
        statuses = [asked(client, Authorization=f"Bearer {token}") for _ in range(most + 1)]
        assert [answer.status_code for answer in statuses] == [200] * most + [429]
        assert 1 <= int(statuses[-1].headers["retry-after"]) <= 60


def test_figures_count_what_was_made(client):
    asked(client, 300)
    asked(client, "x")
    client.get("/nothing")
    told = client.get("/metrics")
    assert told.headers["content-type"].startswith("text/plain; version=0.0.4")
    for line in (
        'documents_total{document="a",kind="pdf",status="200"} 1.0',
        'documents_total{document="a",kind="pdf",status="422"} 1.0',
        'document_pages_total{document="a",kind="pdf"} 12.0',
        'requests_refused_total{status="404"} 1.0',
        "documents_pending 0.0",
        "workers 0.0",
    ):
        assert line in told.text, line
    assert re.search(r'document_seconds_bucket\{document="a",kind="pdf",le="\+Inf"\} 1', told.text)
