"""The registry of doors: which source goes through which, and what is said where none fits."""

from __future__ import annotations

import pytest
from click.testing import CliRunner

import fleetquill as fq
from fleetquill.cli import main
from fleetquill.intake.doors import DOORS, door_of

JPEG = b"\xff\xd8\xff\xe0rest"


@pytest.mark.parametrize(
    ("name", "content", "door"),
    [
        ("a.html", b"<p>", "html"), ("a.HTM", b"", "html"), ("a.md", b"# x", "markdown"), ("a.Markdown", b"", "markdown"),
        ("a.png", b"", "pictures"), ("scan", JPEG, "pictures"), ("photo.dat", b"\x89PNG\r\n\x1a\n", "pictures"),
        ("page", b"<p>", "html"), ("empty", b"", "html"), ("none.txt", None, "html"),
    ],
)  # fmt: skip
def test_a_source_goes_by_its_name_else_by_its_first_bytes(tmp_path, name, content, door):
    if content is not None:
        (tmp_path / name).write_bytes(content)
    assert door_of([tmp_path / name]).name == door


def test_folders_are_pictures_addresses_are_the_web_and_data_makes_a_template(tmp_path):
    assert door_of([tmp_path]).name == "pictures"
    assert door_of(["https://reedwater.example/a.md"]).name == "web"
    assert door_of(["a.html"], filled_in=True).name == "template"
    assert door_of(["http://reedwater.example/"], filled_in=True).name == "web"


def test_no_two_doors_share_an_ending():
    endings = [ending for door in DOORS for ending in door.endings]
    assert len(endings) == len(set(endings)) and all(ending.startswith(".") for ending in endings)


def test_the_press_makes_pages_of_pictures_and_of_folders(tmp_path):
    from PIL import Image

    for number in range(2):
        Image.new("RGB", (40, 30), "red").save(tmp_path / f"{number}.png")
    assert fq.compose(tmp_path / "0.png").page_count == 1
    assert fq.compose(tmp_path).page_count == 2
    press = fq.Press()
    pages = press.compose(press.read(tmp_path / "0.png", tmp_path / "1.png", page="A6")).pages
    assert [round(page.width) for page in pages] == [298, 298]
    with pytest.raises(fq.OptionError, match="several at a time"):
        press.read("a.html", "b.html")


def test_the_command_line_and_the_press_agree(tmp_path):
    from PIL import Image

    Image.new("RGB", (40, 30), "red").save(tmp_path / "scan", "PNG")
    result = CliRunner().invoke(main, ["press", str(tmp_path / "scan"), "-o", str(tmp_path / "a.pdf")])
    assert result.exit_code == 0 and (tmp_path / "a.pdf").read_bytes()[:4] == b"%PDF"


def test_the_kind_of_file_follows_from_the_ending_or_is_asked_for(tmp_path):
    manuscript = fq.Manuscript.from_html("<p>x")
    assert fq.write(manuscript, tmp_path / "a.pdf").kind == "pdf"
    assert fq.write(manuscript, tmp_path / "a", kind="pdf").kind == "pdf"
    with pytest.raises(fq.OptionError, match=r"'pfd' is no kind of file .* Did you mean 'pdf'"):
        fq.write(manuscript, tmp_path / "b.pdf", kind="pfd")
    assert not (tmp_path / "b.pdf").exists()
