"""HTML's controls as fields of a PDF."""

import io

import pytest

import fleetquill as fq
from fleetquill.pdf.objects import Ref


def made(html, **options):
    stream = io.BytesIO()
    options = {"fillable": True} | options
    summary = fq.write(fq.Manuscript.from_html(f"<html lang=en><title>F</title>{html}"), stream, kind="pdf", **options)
    return fq.Volume(stream.getvalue()), summary


def widgets(volume):
    reader = volume.reader
    found = [reader.dictionary(ref) for page in reader.pages() for ref in reader.array(page.entries.get("Annots"))]
    return [widget for widget in found if widget.get("Subtype") == "Widget"]


@pytest.mark.parametrize(
    ("html", "kind", "value"),
    [
        ("<input name=a title=A value=x>", "text", "x"),
        ("<input type=search name=a title=A value=x>", "text", "x"),
        ("<input type=email name=a title=A value=a@b>", "text", "a@b"),
        ("<input type=number name=a title=A value=1.5>", "text", "1.5"),
        ("<input type=date name=a title=A value=2026-06-02>", "text", "2026-06-02"),
        ("<input type=password name=a title=A value=secret>", "text", None),
        ("<input type=unheard name=a title=A value=x>", "text", "x"),
        ("<textarea name=a title=A>x\ny</textarea>", "text", "x\ny"),
        ("<input type=checkbox name=a title=A>", "checkbox", False),
        ("<input type=checkbox name=a title=A checked>", "checkbox", True),
        ("<input type=radio name=a title=A value=1><input type=radio name=a value=2 checked title=B>", "radio", "2"),
        ("<input type=radio name=a title=A value=1><input type=radio name=a value=2 title=B>", "radio", None),
        ("<select name=a title=A><option>x<option>y</select>", "select", "x"),
        ("<select name=a title=A><option disabled>x<option>y</select>", "select", "y"),
        ("<select name=a title=A size=3><option>x<option>y</select>", "list", None),
        ("<select name=a title=A multiple><option selected>x<option selected>y</select>", "list", ("x", "y")),
        ("<input name=a title=A list=l value=z><datalist id=l><option>x</datalist>", "select", "z"),
        ("<button type=reset name=a>Anew</button>", "button", None),
        ("<input type=reset name=a value=Anew>", "button", None),
        ("<button name=a formaction='https://reedwater.example/'>Go</button>", "button", None),
        ("<input type=fq-signature name=a title=A>", "signature", None),
    ],
)  # fmt: skip
def test_controls_become_fields(html, kind, value):
    volume, summary = made(html)
    field = volume.fields["a"]
    assert (field.kind, field.value) == (kind, value)
    assert summary.remarks == ()


@pytest.mark.parametrize(
    ("html", "expected"),
    [
        ("<input name=a required>", {"required": True}),
        ("<input name=a readonly>", {"read_only": True}),
        ("<input name=a disabled>", {"read_only": True}),
        ("<input name=a maxlength=9>", {"most_letters": 9}),
        ("<input name=a style='-fq-comb:7'>", {"most_letters": 7}),
        ("<input name=a title='The name'>", {"label": "The name"}),
        ("<input name=a aria-label='The name'>", {"label": "The name"}),
        ("<label for=i>The name</label><input id=i name=a>", {"label": "The name"}),
        ("<label>The name <input name=a></label>", {"label": "The name"}),
        ("<input name=a placeholder='Name here'>", {"label": "Name here"}),
        ("<input name=a>", {"label": "a"}),
        ("<input name=a value=x>", {"default": "x"}),
        ("<textarea name=a></textarea>", {"multiline": True}),
        ("<fieldset><legend>State</legend><input type=radio name=a value=x></fieldset>", {"label": "State"}),
        ("<select name=a><option value=1>One<option>Two</select>", {"choices": ("1", "Two")}),
        ("<select name=a><optgroup label=g><option>One</optgroup></select>", {"choices": ("One",)}),
    ],
)  # fmt: skip
def test_what_is_said_of_a_control_is_said_of_the_field(html, expected):
    field = made(html)[0].fields["a"]
    assert {name: getattr(field, name) for name in expected} == expected


def flags(html):
    volume, _ = made(html)
    return volume.reader.dictionary(widgets(volume)[0]).get("Ff", 0)


@pytest.mark.parametrize(
    ("html", "bit"),
    [
        ("<input name=a readonly>", 1), ("<input name=a required>", 2), ("<textarea name=a></textarea>", 13),
        ("<input type=password name=a>", 14), ("<input name=a autocomplete=off>", 23), ("<input name=a spellcheck=false>", 23),
        ("<input name=a style='-fq-comb:3'>", 25), ("<button type=reset name=a>x</button>", 17),
        ("<select name=a><option>x</select>", 18), ("<input name=a list=l><datalist id=l><option>x</datalist>", 19),
        ("<select name=a multiple><option>x</select>", 22),
    ],
)  # fmt: skip
def test_flags_are_those_of_the_standard(html, bit):
    assert flags(html) & 1 << (bit - 1)
    assert not flags("<input name=a>") & 1 << (bit - 1)


@pytest.mark.parametrize(("css", "align"), [("left", None), ("center", 1), ("right", 2), ("end", 2)])
def test_alignment_is_that_of_the_style(css, align):
    assert widgets(made(f"<input name=a style='text-align:{css}'>")[0])[0].get("Q") == align


def test_font_size_and_colour_are_those_of_the_style():
    volume, _ = made("<input name=a style='font:16px \"Source Serif Pro\";color:#0f4c4a'>")
    (widget,) = widgets(volume)
    assert widget["DA"] == b"/T1 12 Tf 0.0588 0.298 0.2902 rg"
    form = volume.reader.dictionary(volume.reader.catalog["AcroForm"])
    font = volume.reader.dictionary(volume.reader.dictionary(volume.reader.dictionary(form["DR"])["Font"])["T1"])
    assert "SourceSerifPro" in font["BaseFont"]


def test_the_font_that_is_typed_in_has_all_latin_letters():
    import io

    from fontTools.cffLib import CFFFontSet

    volume, _ = made("<input name=a style='font-family:\"Source Sans Pro\"'>")
    reader = volume.reader
    form = reader.dictionary(reader.catalog["AcroForm"])
    font = reader.dictionary(reader.dictionary(reader.dictionary(form["DR"])["Font"])["T1"])
    program = reader.resolve(reader.dictionary(font["FontDescriptor"])["FontFile3"]).content
    fonts = CFFFontSet()
    fonts.decompile(io.BytesIO(program), None, isCFF2=False)
    assert {"A", "z", "adieresis", "Euro", "germandbls", "ae"} <= set(fonts[0].charset)
    differences = reader.dictionary(font["Encoding"])["Differences"]
    assert differences[0] == 32 and differences[1 + 0xE4 - 32] == "adieresis"
    assert reader.array(font["Widths"])[ord("A") - 32] > 400


def test_a_true_type_font_is_typed_in_too():
    volume, _ = made("<input name=a style='font-family:\"DejaVu Sans\"' value=x>")
    form = volume.reader.dictionary(volume.reader.catalog["AcroForm"])
    font = volume.reader.dictionary(volume.reader.dictionary(volume.reader.dictionary(form["DR"])["Font"])["T1"])
    assert (font["Subtype"], font["Encoding"]) == ("TrueType", "WinAnsiEncoding")


def test_ticks_have_a_picture_for_each_state():
    volume, _ = made("<input type=checkbox name=a value=yes checked>")
    (widget,) = widgets(volume)
    assert set(volume.reader.dictionary(volume.reader.dictionary(widget["AP"])["N"])) == {"yes", "Off"}
    assert widget["AS"] == "yes"


def test_a_field_stands_where_its_control_is():
    html = "<style>@page{size:200pt 200pt;margin:0} body{margin:0}</style><input name=a style='position:absolute;left:20pt;top:30pt;width:100pt;height:20pt;border:0;padding:0'>"
    (widget,) = widgets(made(html)[0])
    assert widget["Rect"] == pytest.approx([20, 150, 120, 170], abs=0.01)


def test_letters_of_a_comb_stand_in_the_middle_of_their_places():
    html = "<style>@page{size:200pt 200pt;margin:0} body{margin:0}</style><input name=a value=ABCD style='-fq-comb:4;position:absolute;left:20pt;top:30pt;width:100pt;border:0;padding:0'>"
    for fillable in (True, False):
        volume, _ = made(html, fillable=fillable)
        letters = volume.pages[0].words
        assert [word.text for word in letters] == list("ABCD")
        for at, word in enumerate(letters):
            assert word.x + word.width / 2 == pytest.approx(20 + 25 * at + 12.5, abs=0.5)


def test_one_name_is_one_field_with_several_widgets():
    volume, _ = made("<input name=a value=x><p><input name=a value=x>")
    assert set(volume.fields) == {"a"} and len(widgets(volume)) == 2


def test_names_with_points_are_levels():
    volume, _ = made("<input name=to.street value=x><input name=to.town value=y><input name=from.town value=z>")
    assert {name: field.value for name, field in volume.fields.items()} == {
        "to.street": "x",
        "to.town": "y",
        "from.town": "z",
    }
    form = volume.reader.dictionary(volume.reader.catalog["AcroForm"])
    assert len(volume.reader.array(form["Fields"])) == 2


def test_controls_without_names_have_some():
    assert set(made("<input title=A><input id=b title=B><input title=C>")[0].fields) == {"field 1", "b", "field 2"}


def test_only_forms_that_say_so_are_filled_in_where_nothing_is_asked():
    html = "<form><input name=a></form><form fq-fillable><input name=b></form><input name=c fq-fillable>"
    assert set(made(html, fillable=False)[0].fields) == {"b", "c"}
    assert set(made(html)[0].fields) == {"a", "b", "c"}


def test_what_cannot_be_filled_in_is_remarked():
    volume, summary = made("<input type=file name=a><input type=color name=b><input type=range name=c><input name=d>")
    assert set(volume.fields) == {"d"}
    assert [remark.kind for remark in summary.remarks] == ["field"] * 3


def test_the_order_of_fields_is_that_of_tabindex():
    html = "<input name=a><input name=b tabindex=2><input name=c tabindex=1>"
    volume, _ = made(html, tagged=False)
    assert [widget["T"] for widget in widgets(volume)] == [b"c", b"b", b"a"]


def test_fields_conform(finished):
    html = "<html lang=en><title>F</title><h1>F</h1><label>A <input name=a value=x></label><input type=checkbox name=b title=B><input type=fq-signature name=s title=S><button type=reset>x</button>"
    path = finished("conforms.pdf", html, fillable=True, conform=("PDF/A-2a", "PDF/UA-1"))
    assert fq.check(path).conforms
    assert set(fq.Volume(path).fields) == {"a", "b", "s"}  # a button acts, which archives do not take


def test_buttons_act():
    volume, _ = made("<button type=reset>x</button><button formaction='mailto:a@b.example'>y</button>")
    assert [widget["A"]["S"] for widget in widgets(volume)] == ["ResetForm", "URI"]


def test_documents_without_fields_have_no_form():
    assert "AcroForm" not in made("<p>x")[0].reader.catalog
    assert "AcroForm" not in made("<input name=a>", fillable=False)[0].reader.catalog


def test_a_field_in_a_group_is_drawn_as_it_is():
    """Within what is painted as one picture, a field would not be seen: its place shows what it holds."""
    volume, _ = made(
        "<img alt='' src=\"data:image/svg+xml,%3Csvg xmlns='http://www.w3.org/2000/svg' width='9' height='9'/%3E\"><div style='opacity:0.5'><input name=a value=x></div>"
    )
    assert "x" in volume.pages[0].text


@pytest.mark.parametrize("kind", ["svg", "png"])
def test_pictures_of_pages_show_what_fields_hold(kind, tmp_path):
    target = tmp_path / f"a.{kind}"
    fq.write(fq.Manuscript.from_html("<input name=a value=Heron>"), target, fillable=True)
    assert target.stat().st_size > 500


def test_python_asks_for_fields():
    m = fq.Manuscript(title="F", language="en")
    m.field("text", name="a", label="Skipper", value="x", required=True)
    m.field("radio", name="b", label="State", choices=["good", "fair"], value="fair")
    m.field("list", name="c", label="Cargo", choices=["x", "y"], value=["y"])
    m.field("checkbox", name="d", label="Sound", value=True)
    m.field("area", name="e", label="Notes", value="n", width="8cm")
    m.field("signature", name="f", label="Sign", height="15mm")
    stream = io.BytesIO()
    fq.write(m, stream, kind="pdf")
    fields = fq.Volume(stream.getvalue()).fields
    assert {name: (field.kind, field.value, field.label) for name, field in fields.items()} == {
        "a": ("text", "x", "Skipper"), "b": ("radio", "fair", "State"), "c": ("list", ("y",), "Cargo"),
        "d": ("checkbox", True, "Sound"), "e": ("text", "n", "Notes"), "f": ("signature", None, "Sign"),
    }  # fmt: skip
    assert fields["a"].required
    again = fq.Manuscript.from_data(m.to_data())
    assert again.to_html() == m.to_html()


@pytest.mark.parametrize(
    ("given", "message"),
    [
        ({"kind": "txt", "name": "a"}, "Did you mean 'text'"),
        ({"kind": "select", "name": "a"}, "needs choices"),
        ({"kind": "radio", "name": "a", "choices": ["x"], "value": "y"}, "none of the choices"),
        ({"name": ""}, "needs a name"),
    ],
)
def test_fields_that_cannot_be_are_refused(given, message):
    m = fq.Manuscript()
    with pytest.raises(fq.OptionError, match=message):
        m.field(given.pop("kind", "text"), **given)
    assert "fq-field" not in m.to_html()


def test_every_font_of_a_form_is_in_the_file_once():
    volume, _ = made("".join(f"<input name=a{n} value=x>" for n in range(9)))
    reader = volume.reader
    programs = [number for number in reader.numbers() if reader.dictionary(Ref(number)).get("Subtype") == "Type1C"]
    assert len(programs) == 1


def test_like_ticks_share_what_shows_them_and_typed_text_does_not():
    volume, _ = made("".join(f"<input type=checkbox name=c{n} title=C><input name=t{n} title=T>" for n in range(6)))
    shown = [volume.reader.dictionary(widget["AP"])["N"] for widget in widgets(volume)]
    assert len({str(one) for one in shown[::2]}) == 1
    assert len({str(one) for one in shown[1::2]}) == 6
