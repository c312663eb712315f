"""What documents written in Python look like when nobody styles them."""

from __future__ import annotations

from datetime import date
from decimal import Decimal

import pytest

import fleetquill as fq
from fleetquill.authoring.looks import LOOKS

TEXT = "What was carried, from where to where, by whom and on which day, and what became of it in the end"
ROW = {"Barge": "Heron", "Unit price": Decimal("21.50"), "Departed on": date(2026, 5, 3), "What": TEXT, "Net mass": 12}
DOORS = pytest.mark.parametrize("door", ["table", "ledger"])


def every_part(look: str) -> fq.Manuscript:
    m = fq.Manuscript(title="Every part", look=look, page="A4")
    for level in range(1, 7):
        m.heading(f"Level {level}", level=level)
    m.paragraph("Water stood high", fq.footnote("In April."), ", see ", fq.link("the lock", "https://example.org/"))
    m.bullets(["barley", ["from Upper Willow"], "slate"])
    m.numbered(["moor", "wait"])
    m.quotation("The river is early.")
    m.listing("toll = passages * rate")
    m.definitions({"Draught": "The depth of water."})
    m.table([ROW] * 2, caption="Tolls", stripes=True)
    m.ledger([ROW] * 2, [fq.Column("Barge"), fq.Column("Net mass", total="sum", carry=True)], group="Barge")
    m.rule()
    m.contents()
    return m


@pytest.mark.parametrize("look", [*LOOKS, "plain"])
def test_every_part_has_its_place_in_every_look(look):
    edition = fq.compose(every_part(look))
    assert not edition.remarks
    for selector in ("h1", "h6", "p", "li", "blockquote", "pre", "dt", "dd", "table", "hr"):
        found = edition.locate(selector)
        assert found and all(p.x >= 0 and p.x + p.width <= 595.3 and p.y + p.height <= 841.9 for p in found), selector


@pytest.mark.parametrize("look", LOOKS)
def test_headings_are_larger_the_higher_they_stand(look):
    edition = fq.compose(every_part(look))
    heights = [edition.locate(f"h{level}")[0].height for level in range(1, 5)]
    assert heights == sorted(heights, reverse=True) and heights[0] > 1.5 * heights[3]


def test_a_style_changes_the_look_and_plain_has_none():
    def size(**options):
        m = fq.Manuscript(**options)
        m.heading("Tolls")
        return round(fq.compose(m).locate("h1")[0].height, 1)

    assert size() == size(look="river") == 27.6
    assert size(style="h1 { font-size: 10pt }") == 11.5
    assert size(style="html { font-size: 30pt }") == 27.6
    assert size(look="plain", style=fq.look("river")) == 27.6
    assert size(look="plain") not in (27.6, 11.5)


def test_margins_that_are_given_hold_in_every_look():
    m = fq.Manuscript(look="quay", page="A5", margin="10mm")
    m.paragraph("a")
    assert fq.compose(m).locate("p")[0].x == pytest.approx(28.35, abs=0.05)


def test_a_document_keeps_its_look_as_html():
    m = fq.Manuscript(look="lock", margin="10mm")
    m.heading("Tolls")
    again = fq.compose(fq.Manuscript.from_html(m.to_html()))
    assert again.locate("h1") == fq.compose(m).locate("h1")


def test_a_look_that_is_none_is_told():
    with pytest.raises(fq.OptionError, match=r"'rivr' is no look\. Did you mean 'river'\?"):
        fq.Manuscript(look="rivr")
    for name in ("nothing", "plain", None):
        with pytest.raises(fq.OptionError, match="It may be river, quay, lock, or plain for none"):
            fq.look(name)


# ---- tables ----


def table(door: str, page: str, margin: str) -> fq.Edition:
    m = fq.Manuscript(page=page, margin=margin)
    getattr(m, door)(
        [ROW] * 3, [*map(fq.Column, list(ROW)[:2]), fq.Column("Departed on", form="date"), "What", "Net mass"]
    )
    return fq.compose(m)


@DOORS
def test_heads_and_figures_stay_on_one_line_while_texts_have_room_to_give(door):
    text = table(door, "A4", "20mm").pages[0].text
    assert "Unit price" in text and "Departed on" in text and "May 3, 2026" in text


@DOORS
def test_texts_keep_room_where_there_is_little(door):
    edition = table(door, "A5", "14mm")
    assert not edition.remarks
    heads = {place: edition.locate(f"th:nth-child({place})")[0].width for place in range(1, 6)}
    assert heads[4] > 60 and heads[4] == max(heads.values())


@DOORS
def test_numbers_end_alike_under_their_heads(door):
    rows = [{"n": 7, "t": "7", "u": 1.5, "b": True, "m": "3"}, {"n": None, "t": "x", "u": 22.25, "b": False, "m": "12"}]
    m = fq.Manuscript(look="plain", page="A5", margin=0)
    getattr(m, door)(
        rows, ["n", "t", "u", "b", fq.Column("m", form="money:EUR"), fq.Column("n", align="left")], style="width: 300pt"
    )
    page = fq.compose(m)
    heads = [place(page, word) for word in ("n", "t", "u", "b", "m")]
    values = [place(page, word) for word in ("7", "x", "1.5", "True", "€3.00")]
    ends = [abs(head[1] - value[1]) < 0.1 for head, value in zip(heads, values, strict=True)]
    starts = [abs(head[0] - value[0]) < 0.1 for head, value in zip(heads, values, strict=True)]
    assert ends == [True, False, True, False, True] and starts == [False, True, False, True, False]


def place(edition: fq.Edition, word: str) -> tuple[float, float]:
    """Where a word begins and ends across, on the first page."""
    import pypdfium2 as pdfium

    text = pdfium.PdfDocument(edition.to_bytes())[0].get_textpage()
    found = text.search(word, match_whole_word=True, match_case=True).get_next()
    boxes = [text.get_charbox(found[0] + number, loose=True) for number in range(found[1])]
    return boxes[0][0], boxes[-1][2]


def test_a_column_with_a_sum_is_written_as_its_sum_is():
    m = fq.Manuscript()
    m.table([{"n": 1120}, {"n": 412}], [fq.Column("n", total="sum")])
    assert fq.compose(m).pages[0].text.split() == ["n", "1,120", "412", "1,532"]
