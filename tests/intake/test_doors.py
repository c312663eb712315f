"""Templates, data files, formats, and what a document may read."""

from __future__ import annotations

from decimal import Decimal

import pytest

import fleetquill as fq
from fleetquill.formats import Formats
from fleetquill.tree.data import read_data


def text(template: str, data: dict, **options) -> str:
    return fq.compose(fq.Manuscript.from_template(template, data, **options)).pages[0].text


def test_values_are_escaped_and_markup_is_not():
    assert text("<p>{{ a }}</p>", {"a": "<b>&"}) == "<b>&"


@pytest.mark.parametrize(
    ("locale", "expected"),
    [
        ("en-IE", "€1,234.50 1,234.5 21% 2 June 2026"),
        ("de", "1.234,50\u00a0€ 1.234,5 21\u00a0% 2. Juni 2026"),
        ("fr", "1\u202f234,50\u00a0€ 1\u202f234,5 21\u202f% 2 juin 2026"),
    ],
)
def test_filters_write_as_the_locale_does(locale, expected):
    template = "<p>{{ n | money('EUR') }} {{ n | number }} {{ r | percent }} {{ d | date('long') }}"
    found = text(template, {"n": Decimal("1234.5"), "r": "0.21", "d": "2026-06-02"}, locale=locale)
    assert found.replace("\u00a0", " ").replace("\u202f", " ") == expected.replace("\u00a0", " ").replace("\u202f", " ")


def test_more_filters():
    formats = Formats("en")
    assert formats.time("14:05", "HH:mm") == "14:05"
    assert formats.plural(1, "lock", "locks") == "lock" and formats.plural(5, "lock", "locks") == "locks"
    assert formats.number(Decimal("0.1") + Decimal("0.2"), "0.00") == "0.30"
    for wrong in (True, "x", float("nan"), None):
        with pytest.raises(ValueError, match="not a"):
            formats.number(wrong)


@pytest.mark.parametrize(
    ("template", "data", "said"),
    [
        ("a\n{{ custmer }}", {"customer": 1}, "line 2: The template names 'custmer', which the data does not have. Did you mean 'customer'?"),
        ("\n\n{{ a.nmae }}", {"a": {"name": 1}}, "line 3: The template asks for 'nmae', which this value of the data does not have. Did you mean 'name'?"),
        ("{% for x in rows %}\n{{ x }}{% endfor %}", {}, "line 1: The template names 'rows'"),
        ("{{ a | money }}", {"a": "ten"}, "The filter 'money' cannot use 'ten': 'ten' is not a number."),
        ("\n{{ a | date }}", {"a": "soon"}, "line 2: The filter 'date' cannot use 'soon'"),
        ("{{ 1 / 0 }}", {}, "ZeroDivisionError"), ("{{ a + b }}", {"a": 1}, "'b'"), ("{% if x %}", {}, "does not parse"),
        ("{% if missing == 3 %}x{% endif %}{", {}, "'missing'"), ("{% include 'none.html' %}{", {}, "'none.html' that is included does not exist"),
        ("{{ a | nofilter }}", {"a": 1}, "nofilter"),
    ],
)  # fmt: skip
def test_faults_in_templates_say_what_and_where(template, data, said):
    with pytest.raises(fq.TemplateError) as caught:
        text(template + "<p>", data)
    assert said in str(caught.value)


def test_templates_include_and_extend_from_their_folder(tmp_path):
    (tmp_path / "base.html").write_text("<h1>{% block head %}{% endblock %}</h1>{% include 'foot.html' %}")
    (tmp_path / "foot.html").write_text("<p>{{ foot }}</p>")
    (tmp_path / "t.html").write_text("{% extends 'base.html' %}{% block head %}Toll{% endblock %}")
    assert fq.compose(tmp_path / "t.html", data={"foot": "End"}).pages[0].text == "Toll\nEnd"
    (tmp_path / "foot.html").write_text("<p>\n{{ fot }}</p>")
    with pytest.raises(fq.TemplateError, match=r"foot\.html, line 2.*Did you mean 'foot'"):
        fq.compose(tmp_path / "t.html", data={"foot": "End"})


@pytest.mark.parametrize(
    ("name", "content"),
    [("a.json", '{"n": 1.10, "s": ["x"]}'), ("a.yaml", "n: 1.10\ns: [x]"), ("a.toml", 'n = 1.10\ns = ["x"]')],
)
def test_data_files_keep_decimals_exact(tmp_path, name, content):
    (tmp_path / name).write_text(content)
    assert read_data(tmp_path / name) == {"n": Decimal("1.10"), "s": ["x"]}


def test_a_list_of_rows_is_seen_as_rows_and_a_single_value_is_an_error(tmp_path):
    (tmp_path / "a.json").write_text("[1, 2]")
    assert read_data(tmp_path / "a.json") == {"rows": [1, 2]}
    (tmp_path / "b.json").write_text("7")
    with pytest.raises(fq.DataError, match="not a mapping"):
        read_data(tmp_path / "b.json")


def test_a_manuscript_takes_no_data():
    with pytest.raises(fq.OptionError):
        fq.compose(fq.Manuscript.from_html("x"), data={})


def test_documents_read_only_where_the_policy_lets_them(tmp_path):
    inside, outside = tmp_path / "in", tmp_path / "out"
    inside.mkdir()
    outside.mkdir()
    (outside / "p.png").write_bytes(b"x")
    press = fq.Press(policy=fq.Policy(any_folder=False))
    for url in ("../out/p.png", f"file://{outside}/p.png", str(outside / "p.png")):
        edition = press.compose(fq.Manuscript.from_html(f'<img src="{url}">', base=inside))
        assert "outside the folders" in edition.remarks[0].message
    allowed = fq.Press(policy=fq.Policy(any_folder=False, folders=[outside]))
    assert (
        "not a picture"
        in allowed.compose(fq.Manuscript.from_html('<img src="../out/p.png">', base=inside)).remarks[0].message
    )
    web = press.compose(fq.Manuscript.from_html('<img src="https://reedwater.example/p.png">'))
    assert "does not let documents read from the web" in web.remarks[0].message


def test_data_addresses_are_read(compose):
    pixel = "data:image/png;base64,iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg=="
    assert compose(f'<img src="{pixel}">').remarks == ()
    assert "not a picture" in compose('<img src="data:,hello">').remarks[0].message


def test_limits_on_pictures(tmp_path):
    from PIL import Image

    Image.new("RGB", (50, 50)).save(tmp_path / "p.png")
    press = fq.Press(policy=fq.Policy(picture_pixels=100))
    assert (
        "more than the policy allows"
        in press.compose(fq.Manuscript.from_html("<img src=p.png>", base=tmp_path)).remarks[0].message
    )
    small = fq.Press(policy=fq.Policy(file_size=10))
    assert (
        "larger than the policy allows"
        in small.compose(fq.Manuscript.from_html("<img src=p.png>", base=tmp_path)).remarks[0].message
    )


def test_remarks_about_a_template_name_its_line_however_much_text_stands_before():
    template = (
        "<p>{{ a }}</p>\n<p>one</p>\n<p>two</p>\n<p style='colour:red'>three</p>\n"
        "{% for x in xs %}<b>\n\n<i style='colur:blue'>{{ x }}</i></b>{% endfor %}"
    )
    remarks = fq.compose(fq.Manuscript.from_template(template, {"a": 1, "xs": [1, 2]})).remarks
    assert [remark.line for remark in remarks] == [4, 7]
