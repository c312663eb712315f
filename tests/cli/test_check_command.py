"""fleetquill check, and the options of press that say what a PDF is."""

import pytest

import fleetquill as fq
from command_line import command as run

PAGE = "<html lang=en><title>Tolls</title><h1>Tolls</h1><p>One <a href='https://reedwater.example'>link</a>"


@pytest.fixture
def page(tmp_path):
    path = tmp_path / "page.html"
    path.write_text(PAGE)
    return path


def test_a_file_that_conforms_is_said_to(page, tmp_path):
    target = tmp_path / "a.pdf"
    made = run("press", page, "--conform", "PDF/A-3a", "--conform", "PDF/UA-1", "--attach", page, "-o", target)
    assert made.returncode == 0, made.stderr
    done = run("check", target)
    assert done.returncode == 0
    assert "PDF/A-3a and PDF/UA-1: all" in done.stdout
    assert "ISO 14289-1  7.4.2" in done.stdout
    assert "broken" not in done.stdout
    assert run("check", "--faults", target).stdout.count("\n") == 1


def test_what_is_broken_is_listed_and_the_exit_code_says_so(page, tmp_path):
    target = tmp_path / "a.pdf"
    run("press", page, "--untagged", "-o", target)
    done = run("check", target, "--conform", "PDF/UA-1", "--faults")
    assert done.returncode == 1
    assert "There is no structure." in done.stdout
    assert "kept" not in done.stdout


@pytest.mark.parametrize(
    ("arguments", "said"),
    [
        (["check", "gone.pdf"], "gone.pdf: The file cannot be read"),
        (["check", "{page}"], "This is no PDF file."),
        (["check", "{plain}"], "does not say that it conforms to any standard"),
        (["check", "{plain}", "--conform", "PDF/A"], "Did you mean 'PDF/A-"),
        (["press", "{page}", "--conform", "PDF/A-9"], "no standard that a file can conform to"),
        (["press", "{bad}", "--conform", "PDF/UA-1"], "bad.html, line 2: The document cannot be PDF/UA-1. A heading"),
        (["press", "{page}", "--attach", "gone.xml"], "gone.xml: The file that is to be attached cannot be read"),
        (["press", "{page}", "--untagged", "--conform", "PDF/A-2a"], "without tags cannot be PDF/A-2a"),
    ],
)
def test_mistakes_are_one_line(page, tmp_path, arguments, said):
    fq.write(fq.Manuscript.from_html(PAGE), tmp_path / "plain.pdf")
    (tmp_path / "bad.html").write_text("<html lang=en><title>t</title>\n<h2>x</h2>")
    names = {"page": page, "plain": tmp_path / "plain.pdf", "bad": tmp_path / "bad.html"}
    done = run(*(argument.format(**names) for argument in arguments))
    assert done.returncode == 1
    assert said in done.stderr
    assert done.stderr.count("\n") == 1


def test_the_environment_may_say_when_it_was_made(page, tmp_path):
    target = tmp_path / "a.pdf"
    run("press", page, "-o", target, SOURCE_DATE_EPOCH="1780000000")
    assert b"<xmp:CreateDate>2026-05-28T20:26:40+00:00<" in target.read_bytes()
    done = run("press", page, "-o", target, SOURCE_DATE_EPOCH="today")
    assert done.returncode == 2
    assert "SOURCE_DATE_EPOCH is 'today'" in done.stderr
