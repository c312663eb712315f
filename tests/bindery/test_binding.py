"""Putting parts together: pages in their order, and all that belongs to them."""

import gc
import io
import os

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

import fleetquill as fq
from conftest import DEMO
from fleetquill.bindery.page_choice import chosen_pages
from fleetquill.bindery.sheets import pairs
from fleetquill.output.pdf.file import PdfFile
from fleetquill.pdf.objects import Name, Ref
from fleetquill.pdf.reading import PdfReader
from readers import accepted, difference, pixels, words


def bound(parts, tmp_path, **options):
    target = tmp_path / "bound.pdf"
    summary = fq.bind(parts, target, **options)
    accepted(target, options.get("owner_password") or options.get("password") or "")
    return fq.Volume(target, options.get("password")), summary


def headings(volume):
    return [page.text.split("\n")[0] for page in volume.pages]


def links_of(volume):
    """Where the links of a file lead: pages by their numbers, with the height on them, or addresses."""
    from fleetquill.bindery.trees import explicit_destination, named_destinations, target_of

    reader, named = volume.reader, named_destinations(volume.reader)
    found = []
    for page in reader.pages():
        for ref in reader.array(page.entries.get("Annots")):
            entries = reader.dictionary(ref)
            if entries.get("Subtype") != "Link":
                continue
            place = explicit_destination(target_of(entries, reader), reader, named)
            if place is not None:
                found.append((page.number, volume.page_numbers[place[0].number]))
            else:
                found.append((page.number, reader.text(reader.dictionary(entries.get("A")).get("URI"))))
    return found


# ---- pages ----


def test_pages_stand_in_the_order_of_their_parts(tolls, barges, tmp_path):
    volume, summary = bound([tolls, barges], tmp_path)
    assert headings(volume) == ["Toll 1", "Toll 2", "Toll 3", "Toll 4", "Barge 1", "Barge 2", "Barge 3"]
    assert summary.page_count == 7 and summary.remarks == ()
    assert summary.bytes_written == (tmp_path / "bound.pdf").stat().st_size
    assert words(tmp_path / "bound.pdf")[:2] == ["Toll", "1"]


@pytest.mark.parametrize(
    ("choice", "expected"),
    [
        ("", [1, 2, 3, 4]), ("all", [1, 2, 3, 4]), ("2", [2]), ("2-3", [2, 3]), ("3-", [3, 4]), ("-2", [1, 2]),
        ("last", [4]), ("1,last", [1, 4]), ("4-2", [4, 3, 2]), ("odd", [1, 3]), ("even", [2, 4]), ("last-1", [4, 3, 2, 1]),
        ("2, 2", [2, 2]), ("EVEN,1", [2, 4, 1]),
    ],
)  # fmt: skip
def test_pages_are_chosen(choice, expected, tolls, tmp_path):
    assert chosen_pages(choice, 4) == expected
    volume, _ = bound([fq.Part(tolls, pages=choice)], tmp_path)
    assert headings(volume) == [f"Toll {number}" for number in expected]


@pytest.mark.parametrize(
    ("choice", "message"),
    [("5", "no page 5: it has 4 pages"), ("0", "no page 0"), ("2-9", "no page 9"), ("x", "no choice of pages"),
     ("-", "no choice"), ("1;2", "no choice"), ("1,,2", "no choice")],
)  # fmt: skip
def test_pages_that_are_not_there_are_refused(choice, message, tolls):
    with pytest.raises(fq.OptionError, match=message):
        fq.bind([fq.Part(tolls, pages=choice)], io.BytesIO())


@given(st.integers(1, 40), st.data())
def test_any_choice_of_pages_names_pages_that_are_there(count, data):
    numbers = data.draw(st.lists(st.integers(1, count), min_size=1, max_size=5))
    parts = [
        f"{number}-{data.draw(st.integers(1, count))}" if data.draw(st.booleans()) else str(number)
        for number in numbers
    ]
    found = chosen_pages(",".join(parts), count)
    assert found and all(1 <= number <= count for number in found)


def test_everything_can_be_a_part(tolls, tmp_path):
    edition = fq.compose(fq.Manuscript.from_html("<h1>Edition</h1>"))
    page = tmp_path / "page.html"
    page.write_text("<h1>Page {{ number }}</h1>")
    notes = tmp_path / "notes.md"
    notes.write_text("# Notes")
    stream = io.BytesIO(tolls.read_bytes())
    parts = [
        edition, fq.Manuscript.from_html("<h1>Manuscript</h1>"), fq.Part(page, data={"number": 7}), notes,
        DEMO / "river.jpg", tolls.read_bytes(), fq.Part(stream, pages="2"),
    ]  # fmt: skip
    volume, _ = bound(parts, tmp_path)
    assert headings(volume) == [
        "Edition", "Manuscript", "Page 7", "Notes", "", "Toll 1", "Toll 2", "Toll 3", "Toll 4", "Toll 2",
    ]  # fmt: skip
    assert len(volume.pages[4].marks.pictures) == 1


def test_pages_are_turned(tolls, tmp_path):
    volume, _ = bound([fq.Part(tolls, pages="1", turn=90), fq.Part(tolls, pages="1")], tmp_path)
    turned, upright = volume.pages
    assert (turned.rotation, turned.width, turned.height) == (90, upright.height, upright.width)
    assert (
        difference(pixels(tmp_path / "bound.pdf", 1), pixels(tmp_path / "bound.pdf", 2).rotate(-90, expand=True)) < 0.01
    )


@pytest.mark.parametrize("turn", [0, 90])
def test_pages_are_fitted_into_a_paper(turn, tolls, tmp_path):
    volume, _ = bound([fq.Part(tolls, page="A4", turn=turn), tolls], tmp_path)
    page, before = volume.pages[0], fq.Volume(tolls).pages[0]
    assert sorted((page.width, page.height)) == pytest.approx(sorted((595.28, 841.89)), abs=0.02)
    assert page.words[0].height == pytest.approx(before.words[0].height * 841.89 / before.height, rel=0.03) or turn


def test_a_landscape_page_is_fitted_into_a_paper_that_lies(finished, tmp_path):
    wide = finished("wide.pdf", "<style>@page{size:A6 landscape}</style><h1>Wide</h1>")
    volume, _ = bound([fq.Part(wide, page="A5")], tmp_path)
    assert volume.pages[0].width > volume.pages[0].height


def test_parts_begin_on_odd_pages(tolls, barges, tmp_path):
    volume, summary = bound([barges, tolls], tmp_path, even=True)
    assert headings(volume) == ["Barge 1", "Barge 2", "Barge 3", "", "Toll 1", "Toll 2", "Toll 3", "Toll 4"]
    assert summary.page_count == 8
    assert volume.pages[3].width == volume.pages[2].width


def test_a_page_that_is_taken_twice_stands_twice(tolls, tmp_path):
    volume, _ = bound([fq.Part(tolls, pages="1,1,2")], tmp_path)
    assert headings(volume) == ["Toll 1", "Toll 1", "Toll 2"]
    assert fq.check(tmp_path / "bound.pdf", "PDF/UA-1").faults == ("It says part nothing.",)


# ---- links, names, outlines ----


def test_links_lead_within_parts_and_from_one_to_another(finished, tolls, barges, tmp_path):
    cover = finished(
        "cover.pdf",
        "<html lang=en><title>Cover</title><p><a href='tolls.pdf'>a</a> <a href='tolls.pdf#page=3'>b</a> "
        "<a href='barges.pdf#b2'>c</a> <a href='https://reedwater.example/'>d</a><a href='#end'>e</a>"
        "<p id=end style='break-before:page'>end",
    )
    volume, summary = bound([cover, tolls, barges], tmp_path)
    assert links_of(volume) == [(1, 3), (1, 5), (1, 8), (1, "https://reedwater.example/"), (1, 2)]
    assert summary.remarks == ()


def test_parts_that_are_composed_lead_into_others_by_their_identifiers(tolls, tmp_path):
    m = fq.Manuscript.from_html("<html lang=en><p><a href='#t3'>third</a> <a href='#nowhere'>x</a>")
    volume, summary = bound([m, tolls], tmp_path)
    assert links_of(volume)[0] == (1, 4)
    assert [str(remark) for remark in summary.remarks] == ["part 1: A link leads to '#nowhere', which is in no part."]


def test_links_to_pages_that_are_not_taken_are_remarked(finished, tmp_path):
    linked = finished(
        "linked.pdf", "<p><a href='#z'>to z</a> <a href='#a'>to a</a><p id=a>a<p id=z style='break-before:page'>z"
    )
    volume, summary = bound([fq.Part(linked, pages="1")], tmp_path)
    assert [remark.message for remark in summary.remarks] == ["1 of its links lead to pages that are not taken."]
    assert (1, 1) in links_of(volume)


def test_names_that_meet_are_kept_apart(finished, tmp_path):
    one = finished("one.pdf", "<p><a href='#end'>go</a><p id=end style='break-before:page'>first end")
    two = finished(
        "two.pdf",
        "<p><a href='#end'>go</a><p style='break-before:page'>x<p id=end style='break-before:page'>second end",
    )
    volume, _ = bound([one, two], tmp_path)
    assert links_of(volume) == [(1, 2), (3, 5)]


def test_bookmarks_stand_under_a_heading_for_each_part(tolls, barges, tmp_path):
    volume, _ = bound([fq.Part(tolls, title="What it costs"), barges, fq.Part(barges, title="", pages="2")], tmp_path)
    assert [
        (mark.label, mark.page, [(inner.label, inner.page) for inner in mark.children]) for mark in volume.outline
    ] == [
        ("What it costs", 1, [("Toll 1", 1), ("Toll 2", 2), ("Toll 3", 3), ("Toll 4", 4)]),
        ("Barge", 5, [("Barge 1", 5), ("Barge 2", 6), ("Barge 3", 7)]),
        ("Barge 2", 8, []),
    ]


def test_bookmarks_of_pages_that_are_not_taken_go(tolls, tmp_path):
    volume, _ = bound([fq.Part(tolls, pages="3")], tmp_path)
    assert [(mark.label, mark.page) for mark in volume.outline] == [("Toll 3", 1)]


def test_without_headings_bookmarks_are_those_of_the_parts(tolls, barges, tmp_path):
    volume, _ = bound([tolls, barges], tmp_path, outline=False)
    assert [mark.label for mark in volume.outline][:5] == ["Toll 1", "Toll 2", "Toll 3", "Toll 4", "Barge 1"]


@pytest.mark.parametrize(
    ("numbers", "expected"),
    [
        ("", ["i", "ii", "1", "1", "2", "3"]),
        ("whole", ["1", "2", "3", "4", "5", "6"]),
        ("parts", ["i", "ii", "1", "1", "2", "3"]),
    ],
)
def test_pages_are_numbered_as_is_asked(finished, barges, tmp_path, numbers, expected):
    roman = finished(
        "roman.pdf",
        "<style>@page :nth(-n+2) { @bottom-center { content: counter(page, lower-roman) } } "
        "@page { @bottom-center { content: counter(page) } }</style><p>a<p style='break-before:page'>b"
        "<p style='break-before:page;counter-reset:page 1'>c",
    )
    volume, _ = bound([roman, barges], tmp_path, numbers=numbers)
    assert [page.label for page in volume.pages] == expected


def test_without_labels_pages_have_none(tolls, barges, tmp_path):
    volume, _ = bound([tolls, barges], tmp_path)
    assert "PageLabels" not in volume.reader.catalog
    volume, _ = bound([tolls, barges], tmp_path, numbers="parts")
    assert [page.label for page in volume.pages] == ["1", "2", "3", "4", "1", "2", "3"]


# ---- what else belongs to a part ----


def test_tags_of_parts_are_one_tree_that_a_checker_takes(finished, tolls, barges, tmp_path):
    table = finished(
        "table.pdf",
        "<html lang=en><title>Table</title><h1>Table</h1><table><tr><th id=x>A<th>B<tr><td headers=x>1<td>2</table>",
    )
    _, summary = bound([table, tolls, table, fq.Part(barges, pages="2-3")], tmp_path)
    faults = {
        finding.number: finding.faults
        for finding in fq.check(tmp_path / "bound.pdf", "PDF/UA-1").findings
        if finding.faults
    }
    assert set(faults) == {"5"}  # it does not say that it is one
    assert summary.remarks == ()


def test_tags_of_pages_that_are_not_taken_go(tolls, tmp_path):
    from structured import outline

    volume, _ = bound([fq.Part(tolls, pages="2")], tmp_path)
    lines = [line.strip() for line in outline((tmp_path / "bound.pdf").read_bytes())]
    assert lines == ["Document", "Document", "H1 Toll 2", "P Words of toll 2."]
    assert volume.is_tagged


def test_a_part_without_tags_is_remarked_and_the_file_does_not_say_that_it_is_tagged(finished, tolls, tmp_path):
    bare = finished("bare.pdf", "<p>bare", tagged=False)
    volume, summary = bound([tolls, bare], tmp_path)
    assert not volume.is_tagged
    assert "'" + str(bare) + "' has no tags" in summary.remarks[0].message


def test_fields_go_along_and_are_renamed_where_names_meet(form, tmp_path):
    volume, summary = bound([form, form], tmp_path)
    names = set(fq.Volume(form).fields)
    assert set(volume.fields) == names | {f"{name} 2" for name in names}
    assert volume.fields["skipper 2"].pages == (2,) and volume.fields["skipper"].pages == (1,)
    assert any("'skipper' of another part" in remark.message for remark in summary.remarks)
    fq.fill_fields(tmp_path / "bound.pdf", {"skipper 2": "Ilse Marsh", "state 2": "fair"}, tmp_path / "filled.pdf")
    filled = fq.Volume(tmp_path / "filled.pdf")
    assert (filled.fields["skipper"].value, filled.fields["skipper 2"].value) == ("Maren Oldwater", "Ilse Marsh")
    assert (filled.fields["state"].value, filled.fields["state 2"].value) == ("good", "fair")
    assert "Ilse Marsh" in filled.pages[1].text and "Ilse" not in filled.pages[0].text


def test_fields_of_pages_that_are_not_taken_go(finished, tmp_path):
    two = finished(
        "twoforms.pdf", "<p><input name=a title=A><p style='break-before:page'><input name=b title=B>", fillable=True
    )
    volume, _ = bound([fq.Part(two, pages="2")], tmp_path)
    assert set(volume.fields) == {"b"}


def test_attached_files_go_along(finished, tmp_path):
    (tmp_path / "data.csv").write_text("a,b\n1,2\n")
    m = fq.Manuscript.from_html("<p>x")
    m.attach(tmp_path / "data.csv", relationship="Data", description="Figures")
    volume, _ = bound([m, m], tmp_path)
    assert [(one.name, one.relationship, one.description, one.content) for one in volume.attachments] == [
        ("data.csv", "Data", "Figures", b"a,b\n1,2\n")
    ] * 2


def test_what_two_files_have_stands_once(finished, tmp_path):
    parts = [
        finished(f"same{n}.pdf", f"<img src='{DEMO / 'river.jpg'}' style='width:10cm'><p>the same words {'' * n}")
        for n in (1, 2, 3)
    ]
    bound(parts, tmp_path)
    assert (tmp_path / "bound.pdf").stat().st_size < 1.2 * parts[0].stat().st_size


def test_signatures_are_taken_out_with_a_remark(form, key, tmp_path):
    signed = tmp_path / "signed.pdf"
    fq.seal(form, signed, fq.Seal(key("Rowan Marsh"), "reed", shown="sign"))
    volume, summary = bound([signed], tmp_path)
    assert volume.seals == () and "sign" in volume.fields
    assert any("Signatures do not hold" in remark.message for remark in summary.remarks)


def test_the_title_is_the_first_part_s_or_what_is_said(tolls, barges, tmp_path):
    volume, _ = bound([tolls, barges], tmp_path)
    assert volume.metadata["title"] == "Toll" and volume.metadata["language"] == "en"
    volume, _ = bound([tolls, barges], tmp_path, title="Season", author="Lock House", language="de")
    assert (volume.metadata["title"], volume.metadata["author"], volume.metadata["language"]) == (
        "Season",
        "Lock House",
        "de",
    )


# ---- letterheads and stamps ----


@pytest.fixture(scope="session")
def head(finished):
    return finished(
        "head.pdf",
        "<style>@page{size:A5;margin:5mm}</style><b>FIRST HEAD</b><p style='break-before:page'><b>OTHER HEAD</b>",
    )


def test_a_letterhead_lies_under_the_first_page_and_its_last_under_all_others(head, tolls, tmp_path):
    volume, _ = bound([tolls], tmp_path, under=head)
    assert ["FIRST HEAD" in page.text for page in volume.pages] == [True, False, False, False]
    assert ["OTHER HEAD" in page.text for page in volume.pages] == [False, True, True, True]
    assert fq.check(tmp_path / "bound.pdf", "PDF/UA-1").faults == ("It says part nothing.",)


def test_what_lies_under_is_painted_before_and_what_lies_over_after(head, tolls, tmp_path):
    under, _ = bound([tolls], tmp_path, under=head)
    assert under.pages[0].text.startswith("FIRST HEAD")
    over, _ = bound([tolls], tmp_path, over=head)
    assert over.pages[0].text.endswith("FIRST HEAD")


def test_a_letterhead_of_another_size_is_fitted(finished, tolls, tmp_path):
    large = finished(
        "large.pdf", "<style>@page{size:A3;margin:0}</style><div style='height:420mm;background:#0f4c4a'></div>"
    )
    bound([tolls], tmp_path, under=large)
    shot = pixels(tmp_path / "bound.pdf")
    for corner in ((3, 3), (shot.width - 4, 3), (3, shot.height - 4), (shot.width - 4, shot.height - 4)):
        assert shot.getpixel(corner) == (15, 76, 74)


@pytest.mark.parametrize("turn", [0, 90, 180, 270])
def test_a_letterhead_stands_upright_on_turned_pages(head, tolls, tmp_path, turn):
    volume, _ = bound([fq.Part(tolls, pages="1", turn=turn)], tmp_path, over=head)
    word = next(word for word in volume.pages[0].words if word.text == "FIRST")
    assert word.width > word.height
    assert word.y < volume.pages[0].height / 2


def test_stamps_name_pages_and_parts(tolls, barges, tmp_path):
    stamp = fq.Stamp("{page}/{pages} {part}/{parts} {part_page}/{part_pages} {title}")
    volume, _ = bound([barges, tolls], tmp_path, stamps=stamp)
    assert [page.text.split("\n")[-1] for page in volume.pages][:4] == [
        "1/7 1/2 1/3 Barge", "2/7 1/2 2/3 Barge", "3/7 1/2 3/3 Barge", "4/7 2/2 1/4 Toll",
    ]  # fmt: skip


def test_parts_that_come_one_by_one_are_bound_as_those_of_a_list(tolls, barges, tmp_path):
    """Stamps of how many there are, too, though that is known at the end; they may stand on some pages alone."""
    stamps = [
        fq.Stamp("{page}/{pages} {part}/{parts} {part_page}/{part_pages} {title}"),
        fq.Stamp("at the end: {page}", at="top-left", pages="6-last"),
        fq.Stamp("{part_page}", at="top-right"),
    ]
    parts = [barges, fq.Part(tolls, title="Tolls", pages="1-2", turn=90), barges]
    for name, coming in (("list.pdf", parts), ("iterator.pdf", iter(parts))):
        fq.bind(coming, tmp_path / name, stamps=stamps, even=True, numbers="parts")
    first, second = fq.Volume(tmp_path / "list.pdf"), fq.Volume(tmp_path / "iterator.pdf")
    assert [page.text for page in second.pages] == [page.text for page in first.pages]
    assert [mark.label for mark in first.outline] == [mark.label for mark in second.outline]
    for number in range(1, first.page_count + 1):
        assert pixels(tmp_path / "list.pdf", number).tobytes() == pixels(tmp_path / "iterator.pdf", number).tobytes()


def test_an_iterator_is_asked_for_a_part_once_the_one_before_is_bound(tolls, tmp_path):
    """What is not there yet can be a part; an error of the iterator is its own, and no file is left."""
    path = tmp_path / "part.pdf"

    def coming(count):
        for number in range(count):
            fq.compose(fq.Manuscript.from_html(f"<p>Part {number}")).save(path)
            yield path
        path.unlink()
        if count < 3:
            raise KeyError("nothing more")

    assert fq.bind(coming(3), tmp_path / "out.pdf").page_count == 3
    assert [page.text.strip() for page in fq.Volume(tmp_path / "out.pdf").pages] == ["Part 0", "Part 1", "Part 2"]
    (tmp_path / "out.pdf").unlink()
    with pytest.raises(KeyError, match="nothing more"):
        fq.bind(coming(2), tmp_path / "out.pdf")
    with pytest.raises(fq.OptionError, match="at least one part"):
        fq.bind(iter([]), tmp_path / "out.pdf")
    assert list(tmp_path.glob("*.pdf")) == []


@pytest.mark.parametrize("down", ["top", "middle", "bottom"])
@pytest.mark.parametrize("across", ["left", "center", "right"])
def test_stamps_stand_where_they_are_asked_to(tolls, tmp_path, down, across):
    volume, _ = bound(
        [fq.Part(tolls, pages="1")], tmp_path, stamps=fq.Stamp("STAMP", at=f"{down}-{across}", margin="10mm")
    )
    page = volume.pages[0]
    word = next(word for word in page.words if word.text == "STAMP")
    margin = 28.35
    x = {"left": margin, "center": (page.width - word.width) / 2, "right": page.width - margin - word.width}[across]
    y = {"top": margin, "middle": (page.height - word.height) / 2, "bottom": page.height - margin - word.height}[down]
    assert (word.x, word.y) == (pytest.approx(x, abs=1.5), pytest.approx(y, abs=4))


def test_stamps_are_on_the_pages_that_are_named(tolls, tmp_path):
    stamps = [fq.Stamp("ODD", pages="odd"), fq.Stamp("LATE", pages="3-", at="top-left")]
    volume, _ = bound([tolls], tmp_path, stamps=stamps)
    assert ["ODD" in page.text for page in volume.pages] == [True, False, True, False]
    assert ["LATE" in page.text for page in volume.pages] == [False, False, True, True]


@pytest.mark.parametrize(
    ("stamp", "message"),
    [
        (fq.Stamp("{pag}"), "Did you mean 'page'"),
        (fq.Stamp("{page"), "not understood"),
        (fq.Stamp("x", at="bottom"), "cannot stand 'bottom'"),
        (fq.Stamp("x", margin="wide"), "not a length"),
        (fq.Stamp("x", pages="9"), "no page 9"),
    ],
)
def test_stamps_that_cannot_be_are_refused(stamp, message, tolls):
    with pytest.raises(fq.OptionError, match=message):
        fq.bind([tolls], io.BytesIO(), stamps=stamp)


def raw_page(content: bytes) -> bytes:
    """A file of one page with that content stream."""
    stream = io.BytesIO()
    file = PdfFile(stream)
    root, font = file.reserve(), file.add({"Type": Name("Font"), "Subtype": Name("Type1"), "BaseFont": Name("Courier")})
    resources = {"Font": {"q": font}}
    entries = {"Type": Name("Page"), "Parent": root, "MediaBox": [0, 0, 100, 100], "Resources": resources}
    page = file.add({**entries, "Contents": file.add_stream(content)})
    file.add({"Type": Name("Pages"), "Kids": [page], "Count": 1}, root)
    file.finish(file.add({"Type": Name("Catalog"), "Pages": root}), None)
    return stream.getvalue()


@pytest.mark.parametrize(
    ("content", "unclosed"),
    [
        (b"", 0), (b"q Q", 0), (b"q", 1), (b"q q .5 0 0 .5 0 0 cm Q", 1), (b"q\nq\rq", 3), (b"Q Q q", 1),
        (b"BT /q 9 Tf <41>Tj ET q", 1), (b"q[3]0 d q", 2), (b"q<</a/q>>pop q/q gs", 2), (b"BT /q 9 Tf (q q)Tj ET", 0),
        (b"q % q q\nQ", 0), (b"BI /W 1/H 1/CS/G/BPC 8 ID q EI", 0), (b"/Artifact BMC q EMC", 1), (b"[/q]pop", 0),
    ],
)  # fmt: skip
def test_states_that_a_page_leaves_saved_are_restored_before_a_stamp(content, unclosed, tmp_path):
    fq.bind([raw_page(content)], tmp_path / "out.pdf", stamps=fq.Stamp("x"))
    reader = PdfReader((tmp_path / "out.pdf").read_bytes())
    last = reader.array(next(reader.pages()).entries["Contents"])[-1]
    assert reader.resolve(last).content.split(b"/Artifact")[0].split() == [b"Q"] * (unclosed + 1)


@pytest.mark.parametrize("size", ["9pt", "80pt", "400pt"])
def test_stamps_of_any_size_stand_on_their_own_pages(tolls, tmp_path, size):
    fq.bind([tolls], tmp_path / "out.pdf", stamps=fq.Stamp("Z{page}", at="middle-center", style=f"font-size: {size}"))
    texts = ["".join(page.text.split()) for page in fq.Volume(tmp_path / "out.pdf").pages]
    assert [text[text.index("Z") :] for text in texts] == ["Z1", "Z2", "Z3", "Z4"]


def test_stamps_that_say_the_same_are_one_form(tolls, tmp_path):
    fq.bind([tolls] * 6, tmp_path / "out.pdf", stamps=fq.Stamp("{part_page} of {part_pages}"))
    reader = PdfReader((tmp_path / "out.pdf").read_bytes())
    forms = {reader.dictionary(page.entries["Resources"])["XObject"]["FqOver1"] for page in reader.pages()}
    assert len(forms) == 4
    assert [page.text.split("\n")[-1] for page in fq.Volume(tmp_path / "out.pdf").pages] == [
        f"{n % 4 + 1} of 4" for n in range(24)
    ]


def test_the_fonts_of_stamps_stand_once(tolls, barges, tmp_path):
    volume, _ = bound([tolls, barges] * 3, tmp_path, stamps=fq.Stamp("Page {page} of {pages}"))
    programs = [number for number in volume.reader.numbers() if "Length1" in volume.reader.dictionary(Ref(number)) or volume.reader.dictionary(Ref(number)).get("Subtype") == "CIDFontType0C"]  # fmt: skip
    assert len(programs) == 5  # two faces of either part, and the stamps'


# ---- sheets ----


@pytest.mark.parametrize(
    ("count", "kind", "expected"),
    [
        (4, "two-up", [(0, 1), (2, 3)]),
        (3, "two-up", [(0, 1), (2, None)]),
        (4, "booklet", [(3, 0), (1, 2)]),
        (6, "booklet", [(None, 0), (1, None), (5, 2), (3, 4)]),
        (1, "booklet", [(None, 0), (None, None)]),
    ],
)
def test_pages_stand_on_sheets_in_their_order(count, kind, expected):
    assert list(pairs(count, kind)) == expected


@given(st.integers(1, 60), st.sampled_from(["two-up", "booklet"]))
def test_each_page_stands_on_one_sheet(count, kind):
    shown = [page for side in pairs(count, kind) for page in side if page is not None]
    assert sorted(shown) == list(range(count))


def test_a_booklet_has_two_pages_on_each_side_and_its_links_lead_there(finished, tolls, tmp_path):
    volume, _ = bound([tolls], tmp_path, sheets="booklet")
    assert [[line for line in page.text.split("\n") if line.startswith("Toll")] for page in volume.pages] == [
        ["Toll 4", "Toll 1"], ["Toll 2", "Toll 3"]
    ]  # fmt: skip
    before = fq.Volume(tolls).pages[0]
    assert volume.pages[0].width == pytest.approx(2 * before.width, abs=0.1)
    assert [(mark.label, mark.page) for mark in volume.outline] == [
        ("Toll 1", 1),
        ("Toll 2", 2),
        ("Toll 3", 2),
        ("Toll 4", 1),
    ]


def test_two_pages_fit_on_a_paper(tolls, tmp_path):
    volume, summary = bound([tolls], tmp_path, sheets="two-up", page="A4", password="a")
    assert (volume.pages[0].width, volume.pages[0].height) == (
        pytest.approx(841.89, abs=0.1),
        pytest.approx(595.28, abs=0.1),
    )
    assert "no tags" in summary.remarks[0].message


# ---- the whole ----


def test_the_same_parts_are_the_same_file(tolls, barges, head):
    def made():
        stream = io.BytesIO()
        fq.bind([tolls, barges], stream, under=head, stamps=fq.Stamp("{page}"), even=True)
        return stream.getvalue()

    assert made() == made()


def test_a_fault_leaves_no_file(tolls, tmp_path):
    target = tmp_path / "out.pdf"
    with pytest.raises(fq.SourceError):
        fq.bind([tolls, tmp_path / "missing.pdf"], target)
    assert list(tmp_path.iterdir()) == []
    target.write_bytes(b"before")
    with pytest.raises(fq.StrictError, match="no part"):
        fq.bind([fq.Manuscript.from_html("<a href='#x'>x</a>")], target, strict=True)
    assert target.read_bytes() == b"before"


@pytest.mark.parametrize(
    ("parts", "options", "error", "message"),
    [
        ([], {}, fq.OptionError, "at least one part"),
        ("tolls.pdf", {}, fq.OptionError, "sequence of at least one"),
        ([b"<p>"], {}, fq.OptionError, "no PDF"),
        ([7], {}, fq.OptionError, "of the type 'int'"),
        ([fq.Part(b"%PDF-1.7", turn=45)], {}, fq.OptionError, "'turn' is 45"),
        ([b"%PDF-1.7"], {}, fq.SourceError, "no pages"),
        (["<p>x"], {}, fq.OptionError, "text, not a path"),
        ([fq.Manuscript.from_html("x")], {"numbers": "hole"}, fq.OptionError, "Did you mean 'whole'"),
        ([fq.Manuscript.from_html("x")], {"sheets": "booklets"}, fq.OptionError, "Did you mean 'booklet'"),
        ([fq.Manuscript.from_html("x")], {"tittle": "x"}, fq.OptionError, "Did you mean 'title'"),
        ([fq.Manuscript.from_html("x")], {"under": b"x"}, fq.OptionError, "no PDF"),
        ([fq.Part(fq.Manuscript.from_html("x"), page="A99")], {}, fq.OptionError, "is not a page"),
        ([fq.Part(fq.Manuscript.from_html("x"), page="80mm auto")], {}, fq.OptionError, "no paper to fit"),
    ],
)
def test_what_cannot_be_bound_is_refused(parts, options, error, message):
    with pytest.raises(error, match=message):
        fq.bind(parts, io.BytesIO(), **options)


def test_a_locked_part_wants_its_owner(tmp_path):
    locked = tmp_path / "locked.pdf"
    fq.write(fq.Manuscript.from_html("<p>x"), locked, password="reader", owner_password="owner", allow=("print",))
    with pytest.raises(fq.SourceError, match="Give its password"):
        fq.bind([locked], io.BytesIO())
    with pytest.raises(fq.SourceError, match="password of its owner"):
        fq.bind([fq.Part(locked, password="reader")], io.BytesIO())
    assert fq.bind([fq.Part(locked, password="owner")], io.BytesIO()).page_count == 1


def test_an_output_is_none_of_the_parts(tolls):
    with pytest.raises(fq.OutputError, match="one of the parts"):
        fq.bind([tolls], tolls)


@settings(max_examples=25, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(data=st.data())
def test_no_page_is_lost_or_doubled(data, tolls, barges, form, tmp_path):
    files = {"Toll": tolls, "Barge": barges}
    parts, expected = [], []
    for _ in range(data.draw(st.integers(1, 4))):
        name = data.draw(st.sampled_from(sorted(files)))
        count = fq.Volume(files[name]).page_count
        numbers = data.draw(st.lists(st.integers(1, count), min_size=1, max_size=5))
        parts.append(fq.Part(files[name], pages=",".join(map(str, numbers)), turn=data.draw(st.sampled_from([0, 180]))))
        expected += [f"{name} {number}" for number in numbers]
    volume, _ = bound(parts, tmp_path)
    assert [
        page.text.replace("\n", " ").count(heading) == 1 for page, heading in zip(volume.pages, expected, strict=True)
    ]
    assert [" ".join(page.text.split()[:2]) for page in volume.pages if not page.rotation] == [
        heading for page, heading in zip(volume.pages, expected, strict=True) if not page.rotation
    ]


def test_layers_and_what_a_file_does_by_itself(tmp_path):
    """Layers that can be hidden go along; what runs when a file is opened does not."""
    content = b"/OC /Hidden BDC 0 0 50 50 re f EMC"
    layered = (
        b"%%PDF-1.5\n1 0 obj<</Type/Catalog/Pages 2 0 R/OpenAction<</S/JavaScript/JS(app.alert)>>"
        b"/OCProperties<</OCGs[5 0 R]/D<</Order[5 0 R]/OFF[5 0 R]>>>>>>endobj\n"
        b"2 0 obj<</Type/Pages/Kids[3 0 R]/Count 1>>endobj\n"
        b"3 0 obj<</Type/Page/Parent 2 0 R/MediaBox[0 0 100 100]/Contents 4 0 R/Resources<</Properties<</Hidden 5 0 R>>>>>>"
        b"endobj\n4 0 obj<</Length %d>>stream\n%b\nendstream endobj\n5 0 obj<</Type/OCG/Name(Hidden)>>endobj\n"
        b"trailer<</Root 1 0 R>>" % (len(content), content)
    )
    volume, summary = bound([layered, layered], tmp_path)
    reader = volume.reader
    layers = reader.dictionary(reader.catalog["OCProperties"])
    assert len(reader.array(layers["OCGs"])) == 2
    assert len(reader.array(reader.dictionary(layers["D"])["OFF"])) == 2
    assert "OpenAction" not in reader.catalog
    assert any(remark.kind == "script" for remark in summary.remarks)
    assert pixels(tmp_path / "bound.pdf").getpixel((25, 75)) == (255, 255, 255), "it is hidden still"


def test_memory_does_not_grow_with_the_number_of_parts(tolls):
    """What was read of a part is gone with it: it does not wait for the collector."""
    import tracemalloc

    peaks = []
    gc.collect()
    gc.disable()
    try:
        for count in (20, 120):
            tracemalloc.start()
            with open(os.devnull, "wb") as stream:
                fq.bind([tolls] * count, stream)
            peaks.append(tracemalloc.get_traced_memory()[1])
            tracemalloc.stop()
    finally:
        gc.enable()
    assert peaks[1] - peaks[0] < 100 * 5_000  # bytes: some words for each of its pages
