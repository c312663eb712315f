"""A fleet: one document for each record, never lost, never twice."""

import json
import os
import random
import shutil
import signal
import sqlite3
import subprocess
import sys
import time
import zipfile
from contextlib import closing
from decimal import Decimal

import pytest
from click.testing import CliRunner
from hypothesis import given
from hypothesis import strategies as st

import fleetquill as fq
from command_line import command
from conftest import DEMO
from fleetquill.cli.main import main
from fleetquill.fleet.naming import Names
from fleetquill.fleet.records import condition, records_of

TEMPLATE = (
    "<html lang=en><title>{{ number }}</title><h1>{{ number }}</h1><p>{{ customer }}: {{ amount | money('EUR') }}"
)
ORDERS = [
    {"number": f"F-{n}", "customer": customer, "amount": Decimal(n) / 4}
    for n, customer in enumerate(["Osier Paper Works", "Grüne Mühle", "Tallow Yard Bricks"] * 4, 1)
]


@pytest.fixture
def template(tmp_path):
    path = tmp_path / "order.html"
    path.write_text(TEMPLATE)
    return path


def fleet(template, records=ORDERS, name="{number} {customer}.pdf", **more):
    return fq.Fleet(template, records, name, **{"into": template.parent / "out", **more})


def names(folder):
    return sorted(path.relative_to(folder).as_posix() for path in folder.rglob("*.*") if path.is_file())


def manuscript(record):
    """A function of a module, which workers can be sent."""
    if record["number"] == "F-3":
        raise ValueError("the third is not to be had")
    m = fq.Manuscript(title=record["number"], language="en")
    m.heading(record["number"])
    return m


def dying(record):
    """Ends the process that makes it, for one record."""
    if record["number"] == "F-5":
        os.kill(os.getpid(), signal.SIGKILL)
    return manuscript({**record, "number": f"x{record['number']}"})


def hanging(record):
    if record["number"] == "F-5":
        time.sleep(600)
    return manuscript({**record, "number": f"x{record['number']}"})


# ---- what is made ----


@pytest.mark.parametrize("workers", [0, 2])
def test_each_record_becomes_a_document_of_its_name(template, workers):
    report = fleet(template).run(workers)
    out = template.parent / "out"
    assert (report.made, report.kept, report.failed, report.pages) == (12, 0, 0, 12)
    assert names(out) == sorted(["fleet.jsonl", *(f"{one['number']} {one['customer']}.pdf" for one in ORDERS)])
    for one in ORDERS:
        content = (out / f"{one['number']} {one['customer']}.pdf").read_bytes()
        assert content == fq.compose(template, data=one).to_bytes()
    assert report.bytes == sum(path.stat().st_size for path in out.glob("*.pdf"))
    assert report.failures is None and report.ended


@pytest.mark.parametrize("kind", ["docx", "html", "txt", "png"])
def test_documents_of_every_kind(template, kind):
    report = fleet(template, name=f"{{number}}.{kind}").run(0)
    assert report.made == 12 and len(list((template.parent / "out").glob(f"*.{kind}"))) == 12


def test_names_have_folders_and_values_of_the_record(template):
    fleet(template, name="{customer}/{row} {number}.pdf").run(0)
    assert "Grüne Mühle/2 F-2.pdf" in names(template.parent / "out")


@pytest.mark.parametrize(
    ("record", "name"),
    [
        ({"number": "a/b", "customer": ".."}, "document/a-b.pdf"),
        ({"number": "../../evil", "customer": "x"}, "x/evil.pdf"),
        ({"number": "con", "customer": "x\0y"}, "x-y/_con.pdf"),
        ({"number": "", "customer": "x"}, "x/document.pdf"),
    ],
)
def test_names_are_safe(record, name):
    assert Names("{customer}/{number}.pdf", None, numbered=False).name(record, 1) == name


@given(st.lists(st.sampled_from(["a", "A", "a 2", "b", "", "ä"]), max_size=12))
def test_numbered_names_are_never_alike(values):
    names = Names("{v}.pdf", None, numbered=True)
    made = [names.name({"v": value}, row) for row, value in enumerate(values, 1)]
    assert len({name.casefold() for name in made}) == len(made)


def test_two_of_one_name_are_an_error_before_anything_is_made(template):
    with pytest.raises(fq.DataError, match=r"Record 4 has the name of another: 'Osier Paper Works.pdf'"):
        fleet(template, name="{customer}.pdf").run(0)
    assert not (template.parent / "out").exists()
    assert fleet(template, name="{customer}.pdf", numbered=True).run(0).made == 12
    assert "Osier Paper Works 2.pdf" in names(template.parent / "out")


def test_a_zip_holds_them_in_their_order(template):
    path = template.parent / "orders.zip"
    report = fleet(template, name="{number}.pdf", into=path).run(2)
    first = path.read_bytes()
    assert zipfile.ZipFile(path).namelist() == [f"{one['number']}.pdf" for one in ORDERS] and report.made == 12
    made = fleet(template, name="{number}.pdf", into=path)
    assert made.run(2).kept == 12 and made.check() == []
    assert path.read_bytes() == first and not path.with_name("orders.zip.parts").exists()
    changed = fleet(template, [{**ORDERS[0], "amount": 7}, *ORDERS[1:]], name="{number}.pdf", into=path)
    assert changed.run(0).kept == 11 and len(zipfile.ZipFile(path).namelist()) == 12 and path.read_bytes() != first


# ---- sources ----


def test_sources_of_every_kind(tmp_path, template):
    shelf = fq.Shelf(DEMO / "shelf")
    data = shelf["invoice"].sample
    records = [data | {"number": f"F-{n}"} for n in range(3)]
    assert fq.Fleet(shelf["invoice"], records, "{number}.pdf", into=tmp_path / "a").run(2).made == 3
    brief = tmp_path / "t.brief.yaml"
    brief.write_text(
        "brief:\n  title: T\n  parameters:\n    lock: {type: text}\n  parts:\n    - paragraph: 'At {{ lock }}'\n"
    )
    assert fq.Fleet(brief, [{"lock": "Stonecross"}], "{lock}.txt", into=tmp_path / "b").run(0).made == 1
    assert "At Stonecross" in (tmp_path / "b" / "Stonecross.txt").read_text()
    report = fq.Fleet(manuscript, ORDERS, "{number}.pdf", into=tmp_path / "c").run(2)
    assert (report.made, report.failed) == (11, 1)


def test_an_address_has_values_of_the_record(tmp_path):
    from starlette.applications import Starlette
    from starlette.responses import HTMLResponse
    from starlette.routing import Route

    from conftest import listening

    async def page(request):
        kept = request.cookies.get("session", "nobody")
        return HTMLResponse(f"<html lang=en><title>T</title><p>{request.path_params['id']} for {kept}")

    with listening(Starlette(routes=[Route("/orders/{id}", page)])) as address:
        press = {"cookies": {"session": "Wren"}}
        made = fq.Fleet(f"{address}/orders/{{id}}", [{"id": "a b&c"}], "{id}.txt", into=tmp_path, press=press)
        assert made.run(0).made == 1
        (tmp_path / "orders.csv").write_text("id\n7\n")
        asked = ["fleet", f"{address}/orders/{{id}}", "--records", "orders.csv", "--name", "{id}.txt"]
        done = command(*asked, "--cookie", "session=Teal", "--workers", "1", folder=tmp_path)
    assert done.returncode == 0 and "7 for Teal" in (tmp_path / "7.txt").read_text()
    assert "a b&c for Wren" in (tmp_path / "a b&c.txt").read_text()


@pytest.mark.parametrize(
    ("file", "content"),
    [
        ("a.csv", "number,customer\nF-1,Heron\n"),
        ("a.jsonl", '{"number": "F-1", "customer": "Heron"}\n\n'),
        ("a.json", '[{"number": "F-1", "customer": "Heron"}]'),
        ("a.json", '{"orders": [{"number": "F-1", "customer": "Heron"}]}'),
    ],
)
def test_records_are_read_from_files(tmp_path, file, content):
    path = tmp_path / file
    path.write_text(content)
    assert [dict(one) for one in records_of(path)] == [{"number": "F-1", "customer": "Heron"}]


def test_records_are_what_gives_rows(tmp_path):
    import sqlite3

    pandas = pytest.importorskip("pandas")
    database = sqlite3.connect(":memory:")
    database.execute("create table orders (number, customer)")
    database.execute("insert into orders values ('F-1', 'Heron')")
    expected = [{"number": "F-1", "customer": "Heron"}]
    for given_ in (
        database.execute("select * from orders"), pandas.DataFrame(expected), iter(expected), (dict(one) for one in expected),
    ):  # fmt: skip
        assert [dict(one) for one in records_of(given_)] == expected


@pytest.mark.parametrize(
    ("given_", "message"),
    [
        ({"a": 1}, "one mapping"),
        ([{"a": 1}, 3], "Record 2"),
        ("none.csv", "does not exist"),
        ("none.jsonl", "cannot be read"),
    ],
)
def test_what_is_no_records_is_refused(given_, message):
    with pytest.raises(fq.DataError, match=message):
        list(records_of(given_))


def test_only_some_records(template):
    assert fleet(template, only="amount > 2 and 'Osier' in customer").run(0).made == 1
    holds = condition("number == 42 and code == '0042'")
    assert holds({"number": "42", "code": "0042"}, 1)
    for wrong in ("amount >", "nothing > 2"):
        with pytest.raises(fq.FleetQuillError):
            fleet(template, only=wrong).run(0)


def test_an_iterator_is_read_once(template):
    made = fleet(template, iter(ORDERS))
    assert made.run(0).made == 12
    with pytest.raises(fq.OptionError, match="has been read"):
        made.run(0)


# ---- again ----


def test_what_has_not_changed_is_kept(template):
    assert fleet(template).run(0).made == 12
    again = fleet(template).run(0)
    assert (again.made, again.kept) == (0, 12)
    orders = [*ORDERS[:3], {**ORDERS[3], "amount": 1}, *ORDERS[4:], {"number": "F-13", "customer": "x", "amount": 1}]
    changed = fleet(template, orders).run(0)
    assert (changed.made, changed.kept) == (2, 11)
    template.write_text(TEMPLATE + "<p>more")
    assert fleet(template, orders).run(2).made == 13
    assert fleet(template, orders, press={"locale": "de"}).run(0).made == 13
    assert fleet(template, orders, press={"locale": "de"}, margin="5mm").run(0).made == 13
    assert fleet(template, orders, press={"locale": "de"}, margin="5mm").run(0, again="all").made == 13


def test_a_picture_that_changed_is_seen(tmp_path):
    (tmp_path / "mark.svg").write_text('<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"/>')
    (tmp_path / "a.html").write_text("<html lang=en><title>T</title><img src=mark.svg alt=x>{{ n }}")
    made = fq.Fleet(tmp_path / "a.html", [{"n": 1}, {"n": 2}], "{n}.pdf", into=tmp_path / "out")
    assert made.run(0).made == 2 and made.run(0).kept == 2
    (tmp_path / "mark.svg").write_text('<svg xmlns="http://www.w3.org/2000/svg" width="8" height="9"/>')
    assert made.run(0).made == 2


def test_a_file_that_was_lost_or_cut_is_made_again(template):
    made = fleet(template)
    made.run(0)
    out = template.parent / "out"
    (out / "F-1 Osier Paper Works.pdf").unlink()
    (out / "F-2 Grüne Mühle.pdf").write_bytes(b"")
    (out / "F-3 Tallow Yard Bricks.pdf").write_bytes(b"x" * (out / "F-3 Tallow Yard Bricks.pdf").stat().st_size)
    assert [(one.name, one.what) for one in made.check()] == [
        ("F-1 Osier Paper Works.pdf", "is not there"),
        ("F-2 Grüne Mühle.pdf", "is another than was written"),
        ("F-3 Tallow Yard Bricks.pdf", "is another than was written"),
    ]
    assert made.run(0).made == 2  # the third has its length: only a check reads what is in it
    made.run(0, again="all")
    assert made.check() == []


def test_a_log_that_was_cut_off_is_mended(template):
    made = fleet(template)
    made.run(0)
    content = made.log.read_bytes()
    for cut in (len(content) - 1, len(content) - 40, len(content) // 2, 3):
        made.log.write_bytes(content[:cut])
        report = made.run(0)
        assert report.made + report.kept == 12 and made.run(0).kept == 12
    made.log.write_text("no log\n")
    for _ in range(2):
        with pytest.raises(fq.DataError, match="no line of a log"):
            made.run(0)


# ---- what fails ----


@pytest.mark.parametrize("workers", [0, 2])
def test_what_fails_is_told_and_the_others_go_on(template, workers):
    orders = [*ORDERS[:2], {"number": "F-3", "customer": "x"}, {**ORDERS[3], "amount": "many"}, *ORDERS[4:]]
    report = fleet(template, orders).run(workers)
    assert (report.made, report.failed) == (10, 2)
    failures = [json.loads(line) for line in report.failures.read_text().splitlines()]
    assert [(one["row"], one["record"]["number"]) for one in failures] == [(3, "F-3"), (4, "F-4")]
    assert "'amount'" in failures[0]["error"] and "TemplateError" in failures[0]["error"]
    still = fleet(template, orders).run(workers)
    assert (still.made, still.kept, still.failed) == (0, 10, 2)
    assert fleet(template, orders).run(workers, again="failed").failed == 2
    mended = fleet(template).run(workers)
    assert (mended.made, mended.kept, mended.failures) == (2, 10, None)
    assert not report.failures.exists()


def test_what_failed_is_tried_again_once_its_template_is_mended(template):
    template.write_text(TEMPLATE + "{{ nothing }}")
    assert fleet(template).run(0).failed == 12
    assert fleet(template).run(0).failed == 12
    template.write_text(TEMPLATE)
    assert fleet(template).run(2).made == 12


def test_another_function_makes_other_documents(tmp_path, monkeypatch):
    monkeypatch.syspath_prepend(tmp_path)
    text = "import fleetquill as fq\n\ndef make(record):\n    return fq.Manuscript.from_html(f'<html lang=en><title>T</title>{record}')\n"
    (tmp_path / "own_letters.py").write_text(text)
    import own_letters

    made = fq.Fleet(own_letters.make, ORDERS, "{number}.txt", into=tmp_path / "out")
    assert made.run(0).made == 12 and made.run(0).kept == 12
    (tmp_path / "own_letters.py").write_text(f"{text}# another\n")
    assert made.run(0).made == 12


def test_two_runs_do_not_share_a_log(template):
    told = []

    def again(progress):
        if not told:
            with pytest.raises(fq.OptionError, match="Another run has the log"):
                fleet(template).run(0)
        told.append(progress)

    assert fleet(template).run(0, progress=again).made == 12
    assert fleet(template).run(0).kept == 12


def test_it_stops_after_so_many_failures(template):
    orders = [{"number": str(n), "customer": "x"} for n in range(50)]
    report = fleet(template, orders).run(0, stop_after=5)
    assert report.failed == 5 and not report.ended


@pytest.mark.parametrize("function", [dying, hanging])
def test_a_document_that_no_worker_survives_fails_alone(tmp_path, function):
    report = fq.Fleet(function, ORDERS, "{number}.pdf", into=tmp_path).run(2, seconds=1.0)
    assert (report.made, report.failed) == (11, 1)
    [failed] = [json.loads(line) for line in report.failures.read_text().splitlines()]
    said = "takes more time than is allowed" if function is hanging else "ends the process"
    assert failed["record"]["number"] == "F-5" and said in failed["error"]


def test_a_worker_that_has_grown_is_replaced(template, monkeypatch):
    from fleetquill.fleet import running

    begun = []

    class Counted(running.Worker):
        def __init__(self, *given):
            begun.append(1)
            super().__init__(*given)

    monkeypatch.setattr(running, "Worker", Counted)
    for name, value in (("SETTLED", 5), ("AT_LEAST", 10), ("MOST_GROWTH", -1000.0), ("MOST", 5)):
        monkeypatch.setattr(running, name, value)
    orders = [{**ORDERS[0], "number": f"F-{n}"} for n in range(60)]
    assert fleet(template, orders).run(1).made == 60 and len(begun) >= 3


def test_a_package_that_workers_need_is_named_before_anything_is_made(template, monkeypatch):
    monkeypatch.setattr("fleetquill.fleet.fleet.find_spec", lambda name: None)
    with pytest.raises(fq.OptionError, match=r"fleetquill\[fleet\]"):
        fleet(template).run(2)
    assert fleet(template).run(0).made == 12


def test_what_cannot_be_sent_is_refused(tmp_path):
    made = fq.Fleet(lambda record: manuscript(record), ORDERS[:2], "{number}.pdf", into=tmp_path)
    with pytest.raises(fq.OptionError, match="cannot be sent to another process"):
        made.run(2)
    assert made.run(0).made == 2


@pytest.mark.parametrize(
    ("more", "message"), [({"again": "some"}, "nothing to make again"), ({"workers": -1}, "-1 workers")]
)
def test_options_that_cannot_be_are_refused(template, more, message):
    with pytest.raises(fq.OptionError, match=message):
        fleet(template).run(**{"workers": 0, **more})


@pytest.mark.parametrize(
    ("more", "message"),
    [
        ({"marginn": "5mm"}, "Did you mean 'margin'"), ({"data": {}}, "has no 'data'"), ({"press": {"locale": "xx-no"}}, "locale"),
        ({"press": {"lokale": "de"}}, "locale"),
    ],
)  # fmt: skip
def test_options_that_no_document_has_are_refused_at_once(template, more, message):
    with pytest.raises(fq.OptionError, match=message):
        fleet(template, **more)


# ---- scripts ----

SCRIPT = """
import fleetquill as fq

def own(record):
    return fq.Manuscript.from_html(f"<html lang=en><title>T</title>{{record['number']}}")

{guard}report = fq.Fleet({source}, [{{"number": n}} for n in range(3)], "{{number}}.pdf", into="out").run(1)
{guard}print(report.made, "made")
"""


@pytest.mark.parametrize(
    ("source", "guard", "said"),
    [
        ("'order.html'", "", "3 made"),
        ("'order.html'", "if __name__ == '__main__': ", "3 made"),
        ("own", "if __name__ == '__main__': ", "3 made"),
        ("own", "", "that has the function itself begins its work under 'if __name__ == \"__main__\":'"),
    ],
)
def test_a_script_that_begins_a_fleet_as_it_is_loaded(tmp_path, source, guard, said):
    """Workers load a script only where its own function makes the documents; where that would never end, it is told."""
    (tmp_path / "order.html").write_text("<html lang=en><title>T</title>{{ number }}")
    (tmp_path / "all.py").write_text(SCRIPT.format(source=source, guard=guard))
    done = subprocess.run([sys.executable, "all.py"], cwd=tmp_path, capture_output=True, text=True, timeout=60)
    assert said in done.stdout + done.stderr
    assert len(done.stderr.splitlines()) < 60, done.stderr


# ---- one file of all ----


@pytest.mark.parametrize("into", ["out", "out.zip"])
def test_all_are_one_file_in_their_order(template, into):
    target = template.parent / "all.pdf"
    combined = fq.Combined(
        target, even=True, index_by="customer", stamps=fq.Stamp("{part_page} of {part_pages}, {page}")
    )
    fleet(template, into=template.parent / into).run(2, combined=combined)
    volume = fq.Volume(target)
    assert volume.page_count == 25
    assert [mark.label for mark in volume.outline][:2] == ["F-1 Osier Paper Works", "F-2 Grüne Mühle"]
    assert "F-3" in volume.pages[4].text and "1 of 1, 5" in volume.pages[4].text and not volume.pages[1].text.strip()
    index = volume.pages[24].text
    assert "Grüne Mühle" in index and "3, 9, 15, 21" in index.replace("\n", " ")


@pytest.mark.parametrize("into", ["out", "out.zip"])
def test_documents_that_were_kept_are_bound_with_new_ones(template, into):
    target, total = template.parent / "all.pdf", fq.Stamp("{page} of {pages}, {part} of {parts}")
    place = template.parent / into
    assert fleet(template, into=place).run(2).made == 12
    other = [*ORDERS[:5], {**ORDERS[5], "amount": Decimal("7.75")}, *ORDERS[6:]]
    report = fleet(template, other, into=place).run(2, combined=fq.Combined(target, stamps=total))
    assert (report.made, report.kept) == (1, 11)
    texts = [page.text for page in fq.Volume(target).pages]
    assert [text.split()[0] for text in texts] == [one["number"] for one in ORDERS] and "7.75" in texts[5]
    assert all(f"{n} of 12, {n} of 12" in text for n, text in enumerate(texts, 1))
    assert fleet(template, other, into=place).check() == []


def test_a_zip_file_is_read_and_written_once_however_many_it_holds(template, monkeypatch):
    into = template.parent / "out.zip"
    assert fleet(template, into=into).run(0).made == 12
    written, opened = into.stat().st_mtime_ns, []
    as_ever = zipfile.ZipFile.__init__
    monkeypatch.setattr(
        zipfile.ZipFile, "__init__", lambda self, *given, **more: opened.append(given) or as_ever(self, *given, **more)
    )
    assert fleet(template, into=into).run(0).kept == 12 and into.stat().st_mtime_ns == written
    other = [{**ORDERS[0], "amount": Decimal("9.5")}, *ORDERS[1:]]
    for orders, more in ((other, {}), (other, {"combined": template.parent / "all.pdf"}), (other[:-1], {})):
        opened.clear()
        fleet(template, orders, into=into).run(0, **more)
        assert len(opened) <= 4, "lengths, what is kept, what is taken out, what is written"
        assert zipfile.ZipFile(into).namelist() == [f"{one['number']} {one['customer']}.pdf" for one in orders]
    opened.clear()
    assert [one.name for one in fleet(template, other[:-1], into=into).check()] == [
        f"F-12 {ORDERS[-1]['customer']}.pdf"
    ]
    assert len(opened) <= 2


def test_documents_are_bound_while_others_are_made(template, monkeypatch):
    """The first stands in the file of all before the last has been made."""
    from fleetquill.bindery import binding

    steps = []
    opened = binding.PartReader.open
    monkeypatch.setattr(
        binding.PartReader, "open", lambda self, given, place: steps.append("bound") or opened(self, given, place)
    )
    fleet(template).run(0, combined=template.parent / "all.pdf", progress=lambda _: steps.append("made"))
    assert steps == ["made", "bound"] * 12


def test_a_document_that_fails_is_not_in_the_file_of_all(template):
    target = template.parent / "all.pdf"
    orders = [{**one, "amount": one["amount"] if one["number"] != "F-3" else "a lot"} for one in ORDERS]
    report = fleet(template, orders).run(2, combined=target)
    assert (report.made, report.failed) == (11, 1)
    assert [mark.label.split()[0] for mark in fq.Volume(target).outline] == [
        one["number"] for one in ORDERS if one["number"] != "F-3"
    ]


def test_no_file_of_all_is_left_where_a_fleet_stops_or_nothing_is_made(template):
    target = template.parent / "all.pdf"
    bad = [{**one, "amount": "a lot"} if n > 4 else one for n, one in enumerate(ORDERS)]
    report = fleet(template, bad).run(0, combined=target, stop_after=2)
    assert (report.made, report.failed, report.ended) == (5, 2, False) and not target.exists()
    report = fleet(template, bad[5:], into=template.parent / "none").run(0, combined=target)
    assert (report.made, report.failed, report.ended) == (0, 7, True) and not target.exists()
    report = fleet(template).run(0, combined=target)
    assert (report.made, report.kept) == (7, 5) and fq.Volume(target).page_count == 12


@pytest.mark.parametrize(
    ("more", "message"),
    [({"name": "{number}.docx"}, "of the kind 'docx'"), ({"into": "s3://bucket/x", "log": "x.jsonl"}, "of a store")],
)
def test_what_cannot_be_one_file_is_refused_before_anything_is_made(template, more, message):
    with pytest.raises(fq.OptionError, match=message):
        fleet(template, **more).run(0, combined=template.parent / "all.pdf")
    assert names(template.parent) == ["order.html"]


# ---- records of databases ----


@pytest.fixture
def orders(tmp_path):
    """A database of nine orders."""
    with closing(sqlite3.connect(tmp_path / "orders.sqlite")) as database, database:
        database.execute("create table orders (number text, customer text, amount numeric)")
        rows = [(f"F-{n}", f"Customer {n}", n * 1.5) for n in range(9)]
        database.executemany("insert into orders values (?, ?, ?)", rows)
    return tmp_path / "orders.sqlite"


@pytest.mark.parametrize("kind", ["path", "address", "connection"])
def test_records_come_from_a_query(template, orders, kind):
    with closing(sqlite3.connect(orders)) as opened:
        connection = {"path": orders, "address": f"sqlite:///{orders}", "connection": opened}[kind]
        query = fq.Query("select * from orders where amount > :least order by number", connection, {"least": 6})
        assert [one["number"] for one in records_of(query)] == ["F-5", "F-6", "F-7", "F-8"]
        report = fleet(template, query).run(2)
        assert (report.made, report.failed) == (4, 0)
        assert fleet(template, query).run(0).kept == 4


@pytest.mark.parametrize(
    ("text", "message"),
    [
        ("select * from oders", "query: The database refuses 'select .* from oders': no such table"),
        ("select * from orders where amount > :leats", "binds ':leats', which has no value. Did you mean 'least'"),
    ],
)
def test_a_query_that_cannot_be_asked_is_an_error_before_anything_is_made(template, orders, text, message):
    with pytest.raises(fq.DataError, match=message):
        fleet(template, fq.Query(text, orders, {"least": 1})).run(0)
    with pytest.raises(fq.DataError, match=r"'.*none\.sqlite' does not exist"):
        fleet(template, fq.Query("select 1", orders.with_name("none.sqlite"))).run(0)


def test_the_command_line_asks_a_database(template, orders, monkeypatch):
    monkeypatch.setenv("ORDERS", f"sqlite:///{orders}")
    asked = [str(template), "--name", "{number}.pdf", "--into", str(template.parent / "out"), "--workers", "0"]
    query = ["--query", "select * from orders where amount > 9"]
    for address, made in ((f"records={orders}", "2 made"), ("records=env:ORDERS", "2 kept")):
        done = CliRunner().invoke(main, ["fleet", *asked, *query, "--connection", address])
        assert done.exit_code == 0 and made in done.output
    for more, message in (
        (query, "--query needs --connection records=ADDRESS"),
        ([], "and --records or --query"),
        ([*query, "--records", "orders.csv"], "and --records or --query"),
    ):
        done = CliRunner().invoke(main, ["fleet", *asked, *more])
        assert done.exit_code == 2 and message in done.output


def test_progress_is_told(template):
    told = []
    fleet(template).run(0, progress=told.append)
    assert [one.made for one in told] == list(range(1, 13)) and told[-1].total == 12
    assert told[-1].rate > 0 and told[-1].left == 0 and told[0].left > 0


# ---- killed ----

KILLS = 8  # for each beginning
COMMAND = [sys.executable, "-m", "fleetquill", "fleet"]


@pytest.mark.parametrize("seed", [7, 8])
def test_killed_at_any_moment_it_goes_on_and_leaves_the_right_files(tmp_path, template, seed):
    """At random moments, again and again: when a fleet has come to its end, the next begins with a changed template."""
    rows = "".join(f"F-{n},Customer {n},{n}.50\n" for n in range(60))
    (tmp_path / "orders.csv").write_text(f"number,customer,amount\n{rows}")
    out = tmp_path / "out"
    records = str(tmp_path / "orders.csv")
    asked = [*COMMAND, str(template), "--records", records, "--name", "{number}.pdf", "--into", str(out)]
    chance, ended, killed, lasts = random.Random(seed), 0, 0, 1.0
    while killed < KILLS:
        began = time.monotonic()
        process = subprocess.Popen([*asked, "--workers", str(chance.choice([0, 1, 2]))], stdout=subprocess.DEVNULL)
        try:
            process.wait(timeout=chance.uniform(0.2, 1.05) * lasts)  # most of them before it is done
            assert process.returncode == 0
            lasts = time.monotonic() - began
            assert command("fleet", "--check", out).returncode == 0
            template.write_text(f"{TEMPLATE}<p>Turn {ended}")
            ended += 1
        except subprocess.TimeoutExpired:
            process.send_signal(signal.SIGKILL)
            process.wait()
            killed += 1
            lasts *= 1.02  # a slower hour
    done = subprocess.run(asked, capture_output=True, text=True)
    assert done.returncode == 0, done.stderr
    time.sleep(1.5)  # workers of the last that was killed see that nobody listens
    for n in range(60):
        record = {"number": f"F-{n}", "customer": f"Customer {n}", "amount": f"{n}.50"}
        assert (out / f"F-{n}.pdf").read_bytes() == fq.compose(template, data=record).to_bytes()
    assert names(out) == sorted(["fleet.jsonl", *(f"F-{n}.pdf" for n in range(60))])


# ---- the command ----


def test_the_command_makes_keeps_checks_and_tells(tmp_path, template):
    (tmp_path / "orders.csv").write_text("number,customer,amount\nF-1,Heron,2\nF-2,Teal,x\n")
    asked = ["fleet", template, "--records", "orders.csv", "--name", "{number}.pdf", "--into", "out"]
    done = command(*asked, "--workers", "1", folder=tmp_path)
    assert done.returncode == 1 and "1 made (1 pages" in done.stdout and "1 failed" in done.stdout
    assert "fleet.failures.jsonl: what failed, and why" in done.stderr
    assert command("fleet", "--check", "out", folder=tmp_path).returncode == 0
    (tmp_path / "orders.csv").write_text("number,customer,amount\nF-1,Heron,2\nF-2,Teal,3\n")
    again = command(*asked, "--combine", "all.pdf", "--workers", "0", folder=tmp_path)
    assert again.returncode == 0 and "1 made" in again.stdout and "1 kept" in again.stdout
    assert fq.Volume(tmp_path / "all.pdf").page_count == 2
    (tmp_path / "out" / "F-1.pdf").write_bytes(b"x")
    wrong = command("fleet", "--check", "out", folder=tmp_path)
    assert wrong.returncode == 1 and "F-1.pdf is another than was written" in wrong.stdout


@pytest.mark.parametrize(
    ("arguments", "code", "message"),
    [
        ([], 2, "needs SOURCE, --name, and --records or --query"),
        (["none.html", "--records", "a.csv", "--name", "{a}.pdf"], 1, "'none.html' is no file"),
        (["order.html", "--records", "a.csv", "--name", "{a}.pdf"], 1, "'a.csv' does not exist"),
        (["order.html", "--records", "a.csv", "--name", "{a}.exe"], 1, "'.exe' is no kind"),
        (["order.html", "--records", "a.csv", "--name", "{a}.pdf", "--into", "s3://x/y"], 1, "the log is kept here"),
        (["--check", "none"], 1, "There is no log"),
    ],
)
def test_commands_that_cannot_be_are_refused(tmp_path, template, arguments, code, message):
    done = command("fleet", *arguments, folder=tmp_path)
    assert done.returncode == code and message in done.stderr


def test_a_shelf_says_which_document(tmp_path):
    shutil.copytree(DEMO / "shelf", tmp_path / "shelf")
    record = json.dumps(json.loads((DEMO / "shelf" / "invoice" / "sample.json").read_text()))
    (tmp_path / "orders.jsonl").write_text(f"{record}\n")
    asked = ["fleet", "shelf", "--document", "invoice", "--records", "orders.jsonl", "--name", "{number}.pdf"]
    done = command(*asked, "--workers", "0", folder=tmp_path)
    assert done.returncode == 0, done.stderr
    assert (tmp_path / "F-2041.pdf").is_file()
