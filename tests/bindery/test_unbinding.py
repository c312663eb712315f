"""Taking files apart."""

import pytest

import fleetquill as fq
from readers import accepted


def headings(path):
    accepted(path)
    return [page.text.split("\n")[0] for page in fq.Volume(path).pages]


def test_a_file_is_parted_at_its_bookmarks(tolls, barges, tmp_path):
    whole = tmp_path / "whole.pdf"
    fq.bind([fq.Manuscript.from_html("<p>cover"), tolls, barges], whole)
    pieces = fq.unbind(whole, tmp_path / "{number} {bookmark}.pdf", at="bookmarks")
    assert [(piece.path.name, piece.first, piece.last) for piece in pieces] == [
        ("1 part 1.pdf", 1, 1), ("2 Toll.pdf", 2, 5), ("3 Barge.pdf", 6, 8)
    ]  # fmt: skip
    assert headings(pieces[2].path) == ["Barge 1", "Barge 2", "Barge 3"]
    assert fq.Volume(pieces[1].path).metadata["title"] == "Toll"


def test_bookmarks_of_a_deeper_level_part_it_too(tolls, barges, tmp_path):
    whole = tmp_path / "whole.pdf"
    fq.bind([tolls, barges], whole)
    pieces = fq.unbind(whole, tmp_path / "{bookmark}.pdf", at="bookmarks", level=2)
    assert [piece.path.name for piece in pieces] == [
        *(f"Toll {n}.pdf" for n in range(1, 5)),
        *(f"Barge {n}.pdf" for n in (1, 2, 3)),
    ]


def test_what_stands_before_the_first_bookmark_is_a_part(finished, tmp_path):
    path = finished("late.pdf", "<p>before<h1 style='break-before:page'>After</h1>")
    pieces = fq.unbind(path, tmp_path / "{number}.pdf", at="bookmarks")
    assert [headings(piece.path) for piece in pieces] == [["before"], ["After"]]


@pytest.mark.parametrize(("every", "expected"), [(1, [1, 1, 1, 1]), (3, [3, 1]), (9, [4])])
def test_a_file_is_parted_every_so_many_pages(tolls, tmp_path, every, expected):
    pieces = fq.unbind(tolls, tmp_path / "{name} {first}-{last}.pdf", every=every)
    assert [fq.Volume(piece.path).page_count for piece in pieces] == expected
    assert pieces[0].path.name == f"tolls 1-{expected[0]}.pdf"


def test_ranges_become_files(tolls, tmp_path):
    pieces = fq.unbind(tolls, tmp_path / "{number}.pdf", pages="2-3,last")
    assert [headings(piece.path) for piece in pieces] == [["Toll 2", "Toll 3"], ["Toll 4"]]


def test_a_part_keeps_tags_and_its_bookmarks(tolls, tmp_path):
    (piece,) = fq.unbind(tolls, tmp_path / "x.pdf", pages="2-3")
    assert fq.check(piece.path, "PDF/UA-1").faults == ("It says part nothing.",)
    assert [(mark.label, mark.page) for mark in fq.Volume(piece.path).outline] == [("Toll 2", 1), ("Toll 3", 2)]


def test_parting_and_binding_again_gives_the_same_pages(tolls, tmp_path):
    pieces = fq.unbind(tolls, tmp_path / "{number}.pdf", every=1)
    again = tmp_path / "again.pdf"
    fq.bind([piece.path for piece in pieces], again)
    assert fq.compare(tolls, again).same


@pytest.mark.parametrize(
    ("options", "error", "message"),
    [
        ({}, fq.OptionError, "One of 'at', 'every' and 'pages'"),
        ({"every": 1, "pages": "1"}, fq.OptionError, "One of"),
        ({"every": -1}, fq.OptionError, "'every' is -1"),
        ({"at": "chapters"}, fq.OptionError, "not taken apart at 'chapters'"),
        ({"at": "bookmarks", "level": 4}, fq.SourceError, "no bookmarks of level 4"),
        ({"pages": "9"}, fq.OptionError, "no page 9"),
        ({"every": 1, "name": "x.pdf"}, fq.OptionError, "Two parts would have the name 'x.pdf'"),
        ({"every": 1, "name": "{nmber}.pdf"}, fq.DataError, "Did you mean 'number'"),
        ({"every": 1, "name": "nowhere/{number}.pdf"}, fq.OutputError, "folder '.*nowhere' does not exist"),
    ],
)
def test_what_cannot_be_parted_is_refused(tolls, tmp_path, options, error, message):
    name = options.pop("name", "{number}.pdf")
    with pytest.raises(error, match=message):
        fq.unbind(tolls, tmp_path / name, **options)
    assert list(tmp_path.iterdir()) == []
