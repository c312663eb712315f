"""bind, unbind, fields, compare and seal, and the options of press that lock a file or let it be filled in."""

import json

import pytest

import fleetquill as fq
from command_line import command as run


def test_files_are_bound_and_told(tolls, barges, tmp_path):
    page = tmp_path / "cover.html"
    page.write_text("<html lang=en><title>Season</title><p><a href='tolls.pdf#page=2'>x</a><a href='#no'>y</a>")
    target = tmp_path / "out.pdf"
    done = run(
        "bind",
        page,
        f"{tolls}:2-3",
        f"{barges}:last",
        "-o",
        target,
        "--stamp",
        "Page {page} of {pages}",
        "--title",
        "All",
    )
    assert done.returncode == 0, done.stderr
    assert done.stdout.startswith(f"{target}: 4 pages, ")
    assert "A link leads to '#no', which is in no part." in done.stderr
    volume = fq.Volume(target)
    assert volume.metadata["title"] == "All" and "Page 2 of 4" in volume.pages[1].text


def test_templates_among_parts_are_filled_in(tolls, tmp_path):
    (tmp_path / "cover.html").write_text("<h1>{{ title }}</h1>")
    (tmp_path / "data.json").write_text('{"title": "Season"}')
    done = run("bind", "cover.html", tolls, "-o", "out.pdf", "--data", "data.json", folder=tmp_path)
    assert done.returncode == 0, done.stderr
    assert fq.Volume(tmp_path / "out.pdf").pages[0].text == "Season"


@pytest.mark.parametrize(
    ("arguments", "code", "message"),
    [
        (["bind", "tolls.pdf"], 2, "Missing option '-o'"),
        (["bind", "tolls.pdf", "-o", "x.txt"], 1, "Let it end in .pdf"),
        (["bind", "no.pdf", "-o", "x.pdf"], 1, "no.pdf: The file cannot be read"),
        (["bind", "tolls.pdf:9", "-o", "x.pdf"], 1, "no page 9: it has 4"),
        (["bind", "tolls.pdf", "-o", "tolls.pdf"], 1, "one of the parts"),
        (["bind", "tolls.pdf", "-o", "x.pdf", "--numbers", "hole"], 1, "Did you mean 'whole'"),
        (["bind", "tolls.pdf", "-o", "x.pdf", "--allow", "print"], 1, "needs a password"),
        (["unbind", "tolls.pdf"], 2, "--at bookmarks, --every NUMBER or --pages"),
        (["unbind", "tolls.pdf", "--every", "1", "-o", "x.pdf"], 1, "Two parts would have the name"),
        (["fields", "tolls.pdf", "--set", "a=b"], 2, "name it with -o"),
        (["fields", "tolls.pdf", "--set", "a=b", "-o", "x.pdf"], 1, "no fields to fill in"),
        (["fields", "tolls.pdf", "--set", "a", "-o", "x.pdf"], 2, "NAME=VALUE"),
        (["seal", "tolls.pdf", "--key", "no.p12"], 2, "name it with -o"),
        (["seal", "tolls.pdf", "--key", "no.p12", "--key-password", "x", "-o", "x.pdf"], 1, "The key cannot be read"),
        (["compare", "tolls.pdf", "no.pdf"], 1, "cannot be read"),
        (["press", "page.html", "--password", "x", "-o", "x.svg"], 1, "cannot be locked"),
    ],
)
def test_mistakes_are_told_in_one_line(tolls, tmp_path, arguments, code, message):
    (tmp_path / "tolls.pdf").write_bytes(tolls.read_bytes())
    (tmp_path / "page.html").write_text("<p>x")
    done = run(*arguments, folder=tmp_path)
    assert done.returncode == code
    assert message in done.stderr and "Traceback" not in done.stderr
    assert not (tmp_path / "x.pdf").exists()


def test_a_strict_run_writes_nothing(tmp_path):
    (tmp_path / "a.html").write_text("<a href='#no'>x</a>")
    done = run("bind", "a.html", "-o", "x.pdf", "--strict", folder=tmp_path)
    assert done.returncode == 1 and "strict" in done.stderr and not (tmp_path / "x.pdf").exists()


def test_a_file_is_parted(tolls, tmp_path):
    (tmp_path / "tolls.pdf").write_bytes(tolls.read_bytes())
    done = run("unbind", "tolls.pdf", "--at", "bookmarks", "-o", "{number} {bookmark}.pdf", folder=tmp_path)
    assert done.stdout.splitlines()[1] == "2 Toll 2.pdf: page 2, Toll 2"
    assert (
        run("unbind", "tolls.pdf", "--every", "3", folder=tmp_path).stdout
        == "tolls 01.pdf: pages 1 to 3\ntolls 02.pdf: page 4\n"
    )


def test_fields_are_told_as_json_and_filled_in(form, tmp_path):
    told = json.loads(run("fields", form).stdout)
    assert told["barge"]["choices"] == ["Heron", "Teal", "SP"] and told["sound"]["value"] is True
    (tmp_path / "values.yaml").write_text("skipper: Ilse\ndry: true\n")
    target = tmp_path / "filled.pdf"
    done = run(
        "fields",
        form,
        "--data",
        tmp_path / "values.yaml",
        "--set",
        'cargo=["clay"]',
        "--set",
        "waybill=0042",
        "-o",
        target,
    )
    assert done.returncode == 0, done.stderr
    assert done.stdout.startswith(f"{target}: 4 fields filled in, ")
    fields = fq.Volume(target).fields
    assert [fields[name].value for name in ("skipper", "dry", "cargo", "waybill")] == ["Ilse", True, ("clay",), "0042"]
    assert run("fields", form, "--set", "skipper=x", "-o", target, "--flatten").returncode == 0
    assert fq.Volume(target).fields == {}


def test_two_files_are_compared(tolls, barges, tmp_path):
    same = run("compare", tolls, tolls)
    assert (same.returncode, same.stdout) == (0, "The two are the same.\n")
    other = run("compare", tolls, barges, "--picture", tmp_path / "a.png")
    assert other.returncode == 1
    assert "page 4: gone" in other.stdout and "'Barge' is new" in other.stdout
    assert (tmp_path / "a.png").exists()


def test_a_file_is_signed_and_told(tolls, key, tmp_path):
    target = tmp_path / "signed.pdf"
    done = run("seal", tolls, "--key", key("Rowan Marsh"), "--key-password", "reed", "--reason", "Seen", "-o", target)
    assert done.returncode == 0, done.stderr
    assert done.stdout.startswith("Signature 1: Rowan Marsh, ") and done.stdout.endswith(": holds\n")
    assert run("seal", target).stdout == done.stdout
    assert run("seal", tolls).stdout == f"{tolls}: nobody has signed it.\n"
    content = bytearray(target.read_bytes())
    content[content.index(b"stream\n") + 40] ^= 1
    target.write_bytes(content)
    broken = run("seal", target)
    assert broken.returncode == 1 and "does not hold: What it covers was changed." in broken.stdout


def test_press_locks_and_makes_forms(tmp_path):
    (tmp_path / "page.html").write_text("<input name=a title=A value=x>")
    done = run(
        "press",
        "page.html",
        "--fillable",
        "--password",
        "-",
        "--owner-password",
        "boss",
        "--allow",
        "nothing",
        folder=tmp_path,
        typed="reed\n",
    )
    assert done.returncode == 0, done.stderr
    volume = fq.Volume(tmp_path / "page.pdf", "reed")
    assert volume.fields["a"].value == "x" and volume.allowed == ()
    assert run("fields", "page.pdf", "--unlock", "reed", folder=tmp_path).returncode == 0
    assert "The file is locked" in run("fields", "page.pdf", folder=tmp_path).stderr
