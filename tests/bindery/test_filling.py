"""Filling in forms: our own, and as others write them."""

import datetime
import io
import re
from decimal import Decimal

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

import fleetquill as fq
from readers import accepted, difference, needs, pixels, words


def filled(form, values, tmp_path, **options):
    target = tmp_path / "filled.pdf"
    remarks = fq.fill_fields(form, values, target, **options)
    accepted(target)
    return fq.Volume(target), remarks


def test_fields_are_told(form):
    fields = fq.Volume(form).fields
    assert {name: (field.kind, field.value, field.label) for name, field in fields.items()} == {
        "skipper": ("text", "Maren Oldwater", "Skipper"),
        "barge": ("select", "Teal", "Barge"),
        "sound": ("checkbox", True, "Sound"),
        "dry": ("checkbox", False, "Dry"),
        "state": ("radio", "good", "State"),
        "cargo": ("list", ("barley",), "Cargo"),
        "berth": ("select", "Saltgate", "Berth"),
        "notes": ("text", "one\ntwo", "Notes"),
        "waybill": ("text", "W-1", "Waybill"),
        "sign": ("signature", None, "Signature"),
        "field 1": ("button", None, "Anew"),
    }
    assert fields["barge"].choices == ("Heron", "Teal", "SP")
    assert fields["state"].choices == ("good", "fair")
    assert fields["skipper"].required and not fields["barge"].required
    assert fields["notes"].multiline and fields["skipper"].most_letters == 30 and fields["waybill"].most_letters == 6
    assert all(field.pages == (1,) for field in fields.values())


@pytest.mark.parametrize(
    ("name", "value", "expected", "shown"),
    [
        ("skipper", "Ilse Marsh", "Ilse Marsh", "Ilse Marsh"),
        ("skipper", 42, "42", "42"),
        ("skipper", Decimal("12.50"), "12.50", "12.50"),
        ("skipper", datetime.date(2026, 6, 2), "2026-06-02", "2026-06-02"),
        ("skipper", "", None, None),
        ("skipper", None, None, None),
        ("skipper", "Żółw مرحبا", "Żółw مرحبا", "Żółw"),
        ("skipper", "(a) \\ b", "(a) \\ b", "(a) \\ b"),
        ("barge", "Heron", "Heron", "Heron"),
        ("barge", "SP", "SP", "Sandpiper"),
        ("barge", "Sandpiper", "SP", "Sandpiper"),
        ("berth", "Elsewhere", "Elsewhere", "Elsewhere"),
        ("sound", False, False, None),
        ("dry", True, True, None),
        ("state", "fair", "fair", None),
        ("cargo", ["brick", "clay"], ("brick", "clay"), "clay"),
        ("cargo", "clay", ("clay",), "clay"),
        ("cargo", [], None, None),
        ("notes", "three\nfour", "three\nfour", "three\nfour"),
        ("waybill", "AB-123", "AB-123", "A B - 1 2 3"),
    ],
)
def test_what_is_filled_in_is_read_back_and_shown(form, tmp_path, name, value, expected, shown):
    volume, remarks = filled(form, {name: value}, tmp_path)
    assert remarks == ()
    assert volume.fields[name].value == expected
    others = {key: field.value for key, field in fq.Volume(form).fields.items() if key != name}
    assert {key: field.value for key, field in volume.fields.items() if key != name} == others
    if shown:
        assert shown in volume.pages[0].text


@pytest.mark.parametrize(
    ("values", "message"),
    [
        ({"skiper": "x"}, "There is no field 'skiper'. Did you mean 'skipper'"),
        ({"barge": "Heren"}, "none of the choices of 'barge'. Did you mean 'Heron'"),
        ({"state": "bad"}, "It may be good, fair"),
        ({"cargo": ["brik"]}, "Did you mean 'brick'"),
        ({"sound": "maybe"}, "ticked or not"),
        ({"skipper": "x" * 31}, "longer than the 30 letters"),
        ({"skipper": True}, "takes a text, not True"),
        ({"skipper": ["a"]}, "takes a text"),
        ({"sign": "x"}, "is a signature"),
        ({"field 1": "x"}, "is a button"),
        ([("skipper", "x")], "mapping by the names"),
    ],
)
def test_what_does_not_fit_is_refused(form, tmp_path, values, message):
    with pytest.raises(fq.DataError, match=message):
        fq.fill_fields(form, values, tmp_path / "x.pdf")
    assert not (tmp_path / "x.pdf").exists()


def test_a_file_without_fields_is_said_to_be(tolls):
    with pytest.raises(fq.SourceError, match="no fields to fill in"):
        fq.fill_fields(tolls, {}, io.BytesIO())


def test_the_output_is_not_the_form(form):
    with pytest.raises(fq.OutputError, match="the form itself"):
        fq.fill_fields(form, {}, form)


def test_a_filled_form_looks_as_one_that_was_made_so(finished, tmp_path):
    html = "<html lang=en><title>F</title><p>Skipper <input name=s title=S value='{}' style='width:6cm;font-size:14px'>"
    empty, made = (
        finished("e.pdf", html.format(""), fillable=True),
        finished("m.pdf", html.format("Ilse Marsh"), fillable=True),
    )
    filled(empty, {"s": "Ilse Marsh"}, tmp_path)
    assert difference(pixels(made), pixels(tmp_path / "filled.pdf")) < 0.001
    still = finished("n.pdf", html.format("Ilse Marsh"))
    assert difference(pixels(still), pixels(made)) < 0.0005


def test_what_was_there_before_stays_byte_for_byte(form, tmp_path):
    filled(form, {"skipper": "x"}, tmp_path)
    before = form.read_bytes()
    assert (tmp_path / "filled.pdf").read_bytes()[: len(before)] == before


def test_the_same_values_are_the_same_file(form):
    streams = [io.BytesIO(), io.BytesIO()]
    for stream in streams:
        fq.fill_fields(form, {"skipper": "Ilse", "dry": True}, stream)
    assert streams[0].getvalue() == streams[1].getvalue()


def test_a_form_is_filled_in_twice(form, tmp_path):
    filled(form, {"skipper": "first"}, tmp_path)
    fq.fill_fields(tmp_path / "filled.pdf", {"barge": "Heron"}, tmp_path / "again.pdf")
    fields = fq.Volume(tmp_path / "again.pdf").fields
    assert (fields["skipper"].value, fields["barge"].value) == ("first", "Heron")


def test_a_locked_form_is_filled_in_and_stays_locked(finished, tmp_path):
    html = "<p><input name=a title=A>"
    locked = finished("lockedform.pdf", html, fillable=True, password="reader", owner_password="owner")
    target = tmp_path / "filled.pdf"
    fq.fill_fields(locked, {"a": "Größe"}, target, password="reader")
    accepted(target, "reader")
    assert fq.Volume(target, "reader").fields["a"].value == "Größe"
    assert "Größe" in words(target, password="reader")
    with pytest.raises(fq.SourceError, match="locked"):
        fq.Volume(target)


# ---- flattening ----


def test_a_flattened_form_shows_the_same_and_has_no_fields(form, tmp_path):
    values = {"skipper": "Ilse Marsh", "dry": True, "state": "fair", "barge": "SP", "notes": "flat now"}
    open_, _ = filled(form, values, tmp_path)
    flat = tmp_path / "flat.pdf"
    assert fq.fill_fields(form, values, flat, flatten=True) == ()
    accepted(flat)
    volume = fq.Volume(flat)
    assert volume.fields == {}
    assert sorted(volume.pages[0].text.split()) == sorted(open_.pages[0].text.split())
    assert difference(pixels(flat), pixels(tmp_path / "filled.pdf")) < 0.002


def test_a_flattened_form_is_read_aloud(form, tmp_path):
    from structured import outline

    flat = tmp_path / "flat.pdf"
    fq.fill_fields(form, {"skipper": "Ilse Marsh"}, flat, flatten=True)
    assert fq.check(flat, "PDF/UA-1").faults == ("It says part nothing.",)
    assert any("Form" in line for line in outline(flat.read_bytes()))


def test_links_stay_when_a_form_is_flattened(finished, tmp_path):
    path = finished(
        "linkform.pdf", "<p><a href='https://reedwater.example/'>x</a> <input name=a title=A>", fillable=True
    )
    fq.fill_fields(path, {"a": "b"}, tmp_path / "flat.pdf", flatten=True)
    reader = fq.Volume(tmp_path / "flat.pdf").reader
    (page,) = reader.pages()
    assert [reader.dictionary(ref)["Subtype"] for ref in reader.array(page.entries["Annots"])] == ["Link"]


# ---- forms of others ----


def of_another(fields, more=b"", form=b""):
    """A form as simple programs write them: one dictionary for field and widget, no appearances, standard fonts."""
    objects = [
        b"<</Type/Catalog/Pages 2 0 R/AcroForm<</Fields[%b]/DA(/Helv 0 Tf 0 g)/DR<</Font<</Helv 4 0 R>>>>%b>>>>"
        % (b" ".join(b"%d 0 R" % (5 + at) for at in range(len(fields))), form),
        b"<</Type/Pages/Kids[3 0 R]/Count 1>>",
        b"<</Type/Page/Parent 2 0 R/MediaBox[0 0 300 300]/Annots[%b]>>"
        % b" ".join(b"%d 0 R" % (5 + at) for at in range(len(fields))),
        b"<</Type/Font/Subtype/Type1/BaseFont/Helvetica/Encoding/WinAnsiEncoding>>",
        *fields,
    ]
    content, places = b"%PDF-1.5\n", []
    for number, body in enumerate(objects, 1):
        places.append(len(content))
        content += b"%d 0 obj\n%b\nendobj\n" % (number, body)
    table = b"".join(b"%010d 00000 n \n" % place for place in places)
    start = len(content)
    size = len(objects) + 1
    return content + b"xref\n0 %d\n0000000000 65535 f \n%btrailer\n<</Root 1 0 R/Size %d>>\nstartxref\n%d\n%%%%EOF\n" % (
        size, table, size, start,
    )  # fmt: skip


def widget(more, rect=b"20 200 220 220"):
    return b"<</Type/Annot/Subtype/Widget/P 3 0 R/F 4/Rect[%b]%b>>" % (rect, more)


@pytest.mark.parametrize(
    ("field", "value", "shown"),
    [
        (widget(b"/FT/Tx/T(a)"), "plain text", "plain text"),
        (widget(b"/FT/Tx/T(a)/DA(/Helv 9 Tf 0 0 1 rg)/Q 2"), "right", "right"),
        (widget(b"/FT/Tx/T(a)/Ff 4096", b"20 100 220 220"), "several words that have to be broken into more than a line", "several words"),
        (widget(b"/FT/Tx/T(a)/Ff 16777216/MaxLen 4"), "1234", "1 2 3 4"),
        (widget(b"/FT/Tx/T(a)/MK<</BG[1 1 0]/BC[1 0 0]>>/BS<</W 2>>"), "framed", "framed"),
        (widget(b"/FT/Tx/T(a)"), "Łódź", "Łódź"),
        (widget(b"/FT/Ch/T(a)/Ff 131072/Opt[[(x)(Shown)](other)]"), "x", "Shown"),
        (widget(b"/FT/Ch/T(a)/Opt[(one)(two)]", b"20 100 220 220"), "two", "two"),
    ],
)  # fmt: skip
def test_forms_of_others_are_filled_in(field, value, shown, tmp_path):
    path = tmp_path / "other.pdf"
    path.write_bytes(of_another([field]))
    accepted(path)
    volume, _ = filled(path, {"a": value}, tmp_path)
    given = volume.fields["a"].value
    assert given in (value, (value,))
    assert " ".join(shown.split()) in " ".join(volume.pages[0].text.split())
    needs("pdftotext")
    assert set(shown.split()) <= set(words(tmp_path / "filled.pdf")) | set("1234")


def test_text_stays_in_its_field(tmp_path):
    path = tmp_path / "other.pdf"
    fields = [
        widget(b"/FT/Tx/T(a)/Q %d" % align, b"20 %d 220 %d" % (200 - 40 * align, 220 - 40 * align))
        for align in (0, 1, 2)
    ]
    path.write_bytes(of_another([field.replace(b"(a)", b"(a%d)" % at) for at, field in enumerate(fields)]))
    volume, _ = filled(path, {f"a{at}": "Heron" for at in range(3)}, tmp_path)
    boxes = [word for word in volume.pages[0].words if word.text == "Heron"]
    assert boxes[0].x == pytest.approx(22, abs=0.1)
    assert boxes[1].x + boxes[1].width / 2 == pytest.approx(120, abs=0.1)
    assert boxes[2].x + boxes[2].width == pytest.approx(218, abs=0.1)
    for at, word in enumerate(boxes):
        assert 80 + 40 * at - 1 <= word.y and word.y + word.height <= 100 + 40 * at + 1


def test_a_text_that_is_long_is_set_smaller(tmp_path):
    path = tmp_path / "other.pdf"
    path.write_bytes(of_another([widget(b"/FT/Tx/T(a)", b"20 200 120 220")]))
    short, _ = filled(path, {"a": "Heron"}, tmp_path)
    size = short.pages[0].words[0].height
    long, _ = filled(path, {"a": "Heron and Kittiwake and Teal"}, tmp_path)
    assert long.pages[0].words[0].height < size
    assert max(word.x + word.width for word in long.pages[0].words) <= 119


def test_names_of_fields_have_levels(tmp_path):
    path = tmp_path / "other.pdf"
    path.write_bytes(of_another([b"<</T(address)/FT/Tx/Kids[6 0 R]>>", widget(b"/T(street)/Parent 5 0 R")]).replace(
        b"/Fields[5 0 R 6 0 R]", b"/Fields[5 0 R]"))  # fmt: skip
    volume, _ = filled(path, {"address.street": "Osier Row"}, tmp_path)
    assert volume.fields["address.street"].value == "Osier Row"


def test_what_a_form_does_by_itself_is_remarked(tmp_path):
    path = tmp_path / "other.pdf"
    path.write_bytes(of_another([widget(b"/FT/Tx/T(a)")], form=b"/CO[5 0 R]/XFA[(x)(y)]"))
    volume, remarks = filled(path, {"a": "x"}, tmp_path)
    said = " ".join(remark.message for remark in remarks)
    assert "second description" in said and "scripts" in said
    assert "XFA" not in volume.reader.dictionary(volume.reader.catalog["AcroForm"])


def test_a_damaged_form_is_mended_first(form, tmp_path):
    path = tmp_path / "broken.pdf"
    path.write_bytes(form.read_bytes().replace(b"startxref", b"startwxyz"))
    volume, remarks = filled(path, {"skipper": "Ilse"}, tmp_path)
    assert [remark.kind for remark in remarks] == ["damage"]
    assert volume.fields["skipper"].value == "Ilse" and volume.remarks == ()


@settings(max_examples=40, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.text(st.characters(codec="utf-8", exclude_categories=["Cs", "Cc"]), max_size=30))
def test_any_text_is_read_back(form, text):
    stream = io.BytesIO()
    fq.fill_fields(form, {"skipper": text}, stream)
    assert fq.Volume(stream.getvalue()).fields["skipper"].value == (text or None)


# ---- a reader that no one here wrote ----


def typed_by_another(path, target, texts, clicks):
    """Fills in a form as somebody at a screen does, in pdfium, and saves it."""
    import ctypes

    import pypdfium2 as pdfium
    import pypdfium2.raw as raw

    from fleetquill.bindery.fields import field_nodes

    document = pdfium.PdfDocument(path)
    document.init_forms()
    screen, page = document.formenv, document[0]
    reader = fq.Volume(path).reader
    places = {
        node.name: [[reader.resolve(side) for side in widget["Rect"]] for _, widget in node.widgets]
        for node in field_nodes(reader)
    }

    def click(name, place=0):
        left, bottom, right, top = places[name][place]
        for event in (raw.FORM_OnMouseMove, raw.FORM_OnLButtonDown, raw.FORM_OnLButtonUp):
            event(screen, page, 0, (left + right) / 2, (bottom + top) / 2)

    for name, text in texts.items():
        click(name)
        raw.FORM_SelectAllText(screen, page)
        written = (text + "\0").encode("utf-16-le")
        raw.FORM_ReplaceSelection(screen, page, (ctypes.c_ushort * (len(written) // 2)).from_buffer_copy(written))
        raw.FORM_ForceToKillFocus(screen)
    for name, place in clicks:
        click(name, place)
        raw.FORM_ForceToKillFocus(screen)
    document.save(target)
    document.close()


def test_what_another_reader_fills_in_is_read_back_and_looks_alike(press, tmp_path):
    from conftest import DEMO

    form, theirs, ours = tmp_path / "form.pdf", tmp_path / "theirs.pdf", tmp_path / "ours.pdf"
    press.write(DEMO / "inspection.html", form, data=DEMO / "barges.json")
    texts = {"skipper": "Ilse Marsh", "draught": "1.05", "work": "Nothing to be done"}
    typed_by_another(form, theirs, texts, [("aboard.first_aid", 0), ("hull.keel", 2)])
    fields = fq.Volume(theirs).fields
    assert {name: fields[name].value for name in texts} == texts
    assert fields["aboard.first_aid"].value is True and fields["hull.keel"].value == "renew"
    fq.fill_fields(form, texts | {"aboard.first_aid": True, "hull.keel": "renew"}, ours)
    assert {name: field.value for name, field in fq.Volume(ours).fields.items()} == {
        name: field.value for name, field in fields.items()
    }
    assert difference(pixels(ours), pixels(theirs)) < 0.002
    accepted(theirs)


def test_filled_in_text_stands_where_it_is_drawn(tmp_path):
    """By our own painter and by whoever fills it in: the same baseline, from the field's lower edge."""
    html = """<html lang=en><title>F</title><style>input, select, textarea { font: 10.5pt "Source Sans Pro"; padding: 1.5mm 2mm;
      border: 0.75pt solid } .comb { -fq-comb: 9; padding: 1.5mm 0 }</style>
      <input name=a title=A value=one><input name=b title=B value=one style="padding: 3mm; font-size: 14pt">
      <select name=c title=C><option>one<option>two</select><input class=comb name=d title=D value=one>
      <textarea name=e title=E>one</textarea>"""
    drawn, filled = tmp_path / "drawn.pdf", tmp_path / "filled.pdf"
    fq.write(fq.Manuscript.from_html(html), drawn, fillable=True)
    fq.fill_fields(drawn, dict.fromkeys("abde", "two") | {"c": "two"}, filled)

    def baselines(path):
        reader = fq.Volume(path).reader
        for page in reader.pages():
            for widget in (reader.dictionary(ref) for ref in reader.array(page.entries["Annots"])):
                stream = reader.resolve(reader.dictionary(widget["AP"])["N"])
                high = widget["Rect"][3] - widget["Rect"][1]
                typed = re.search(rb"([\d.]+) Td", stream.content)
                placed = re.search(rb"([\d.]+) Tm", stream.content)
                yield float(typed[1]) if typed else high - float(placed[1]) * 0.75

    assert list(baselines(filled)) == pytest.approx(list(baselines(drawn)), abs=0.05)
