"""What none of the wanted families has is shown in another that the press was given (CSS Fonts 4 §5.3)."""

from io import BytesIO

import pytest
from fontTools.ttLib import TTFont

import fleetquill as fq
from fleetquill.pdf.objects import Ref
from made_fonts import STAR, as_rule, numbered_font, star_font
from readers import pixels
from structured import subject_of


def fonts_of(content):
    """The names of the fonts in a file."""
    reader = subject_of(content).reader
    found = (reader.dictionary(Ref(number)) for number in reader.numbers())
    return sorted({str(entries["BaseFont"]).split("+")[-1] for entries in found if "BaseFont" in entries})


def composed(folder, html, **options):
    return fq.Press(font_folders=[folder], **options).compose(fq.Manuscript.from_html(f"<!doctype html>{html}"))


def told(edition):
    return [remark.message for remark in edition.remarks]


def test_signs_of_no_wanted_family_are_shown_in_one_that_has_them(tmp_path):
    (tmp_path / "signs.otf").write_bytes(numbered_font("永和"))
    edition = composed(tmp_path, "<p style='font-family:Nowhere,sans-serif'>Heron 永和, <b>和</b>")
    assert told(edition) == []
    assert "Numbered" in " ".join(fonts_of(edition.to_bytes()))
    assert edition.pages[0].text.strip() == "Heron 永和, 和"


def test_signs_that_no_family_has_are_told(tmp_path):
    (tmp_path / "signs.otf").write_bytes(numbered_font("永"))
    edition = composed(tmp_path, "<p>永和")
    assert told(edition) == ["No font has a glyph for '和' (U+548C); a box stands in its place."]


def test_the_wanted_families_go_first(tmp_path):
    (tmp_path / "a.otf").write_bytes(numbered_font("永", family="Almost"))
    (tmp_path / "b.otf").write_bytes(numbered_font("永", family="Better"))
    content = composed(tmp_path, "<p style='font-family:Better'>永").to_bytes()
    assert "Better" in fonts_of(content) and "Almost" not in fonts_of(content)
    content = composed(tmp_path, "<p>永").to_bytes()
    assert "Almost" in fonts_of(content) and "Better" not in fonts_of(content)


def test_the_forms_of_a_country_are_those_of_the_language(tmp_path):
    for country in ("HK", "JP", "KR", "SC", "TC"):
        (tmp_path / f"{country}.otf").write_bytes(numbered_font("永", family=f"Signs {country}"))
    for language, country in (
        ("ja", "JP"), ("ja-JP", "JP"), ("ko", "KR"), ("zh", "SC"), ("zh-Hans", "SC"), ("zh-Hant", "TC"),
        ("zh-TW", "TC"), ("zh-HK", "HK"), ("en", "SC"), ("", "SC"),
    ):  # fmt: skip
        content = composed(tmp_path, f"<p lang='{language}'>永").to_bytes()
        assert [name for name in fonts_of(content) if "Signs" in name] == [f"Signs{country}"], language


def test_fonts_that_may_not_go_along_are_not_taken(tmp_path):
    (tmp_path / "kept.otf").write_bytes(numbered_font("永", allowed=2))
    assert told(composed(tmp_path, "<p>永")) == ["No font has a glyph for '永' (U+6C38); a box stands in its place."]


def test_a_damaged_font_in_the_folder_is_passed_by(tmp_path):
    (tmp_path / "a.otf").write_bytes(numbered_font("永", family="Almost")[:400])
    (tmp_path / "b.otf").write_bytes(numbered_font("永"))
    assert told(composed(tmp_path, "<p>永")) == []


def test_a_documents_own_fonts_are_for_where_they_are_asked_for(tmp_path):
    (tmp_path / "other.otf").write_bytes(numbered_font("和"))
    star = as_rule(star_font())
    edition = composed(tmp_path, f"<style>{star} i {{ font: normal 1em Stars }}</style><p><i>{STAR}</i> 和")
    assert told(edition) == []
    assert "Stars" in fonts_of(edition.to_bytes())


def test_signs_in_colour_are_drawn(tmp_path):
    sign = "\ua840"  # which no font that comes along has
    font = TTFont(BytesIO(star_font("layers")))
    for table in font["cmap"].tables:
        table.cmap[ord(sign)] = "star"
    font.save(tmp_path / "stars.ttf")
    edition = composed(tmp_path, f"<p style='font-size:40px'>{sign}")
    assert told(edition) == []
    shot = pixels(edition.to_bytes())
    assert any(red > 200 and blue < 60 for red, _, blue in shot.get_flattened_data())


def test_right_to_left_text_has_it_too(tmp_path):
    (tmp_path / "signs.otf").write_bytes(numbered_font("\u07ca\u07d5\u07d2"))
    assert told(composed(tmp_path, "<p dir=rtl>\u07d2\u07ca\u07d5")) == []


@pytest.mark.parametrize(
    ("families", "used"),
    [
        ("'Times New Roman'", "SourceSerifPro"),
        ("Georgia, Cambria", "SourceSerifPro"),
        ("'Courier New'", "DejaVuSansMono"),
        ("Consolas, monospace", "DejaVuSansMono"),
        ("Arial", "SourceSansPro"),
        ("'Times New Roman', Numbered", "Numbered"),
        ("Georgia, sans-serif", "SourceSansPro"),
        ("Somebody", "SourceSansPro"),
    ],
)
def test_well_known_families_have_stand_ins_of_their_kind(tmp_path, families, used):
    (tmp_path / "signs.otf").write_bytes(numbered_font("Heron"))
    edition = composed(tmp_path, f'<p style="font-family:{families}">Heron')
    (name,) = [name for name in fonts_of(edition.to_bytes()) if name.startswith(used)]
    assert used in name


@pytest.mark.parametrize(
    ("style", "slopes", "strokes"), [("", [], []), ("font-style:italic", [0.213], []), ("font-weight:bold", [], [2])]
)
def test_a_face_that_stands_in_gets_the_slope_and_the_weight_that_it_has_not(tmp_path, style, slopes, strokes):
    (tmp_path / "signs.otf").write_bytes(numbered_font("永"))
    content = composed(tmp_path, f"<p style='{style}'>Heron 永").to_bytes()
    operators = [operator for page in subject_of(content).contents for operator in page.operators]
    assert [round(by[2], 3) for name, by in operators if name == "Tm" and by[2]] == slopes
    assert [by[0] for name, by in operators if name == "Tr" and by[0]] == strokes


def test_an_upright_face_of_the_wanted_family_goes_before_any_other(tmp_path):
    page = "<p style='font-family:\"DejaVu Sans\"'>مطالعه <i>مطالعه</i> <b><i>مطالعه</i></b>"
    content = composed(tmp_path, page).to_bytes()
    assert [name for name in fonts_of(content) if "DejaVu" in name] == ["DejaVuSans", "DejaVuSans-Bold"]
    (tmp_path / "a.otf").write_bytes(numbered_font("مطالعه", family="Almost"))
    assert composed(tmp_path, page).to_bytes() == content


@pytest.mark.parametrize(
    ("family", "design"), [("sans-serif", "Sans"), ("serif", "Serif"), ("Georgia", "Serif"), ("Arial", "Sans")]
)
def test_the_design_is_that_of_the_wanted_family_where_there_is_one(tmp_path, family, design):
    for own in ("Display", "Sans", "Serif"):
        (tmp_path / f"{own}.otf").write_bytes(numbered_font("永", family=f"Kept {own}"))
    content = composed(tmp_path, f"<p style='font-family:{family}'>永").to_bytes()
    assert [name for name in fonts_of(content) if "Kept" in name] == [f"Kept{design}"]


def test_what_stands_in_does_not_hang_on_documents_before(tmp_path):
    for own in ("Sans", "Serif"):
        (tmp_path / f"{own}.otf").write_bytes(numbered_font("永", family=f"Kept {own}"))
    pages = [f"<p style='{style}'>永" for style in ("font-weight:700", "font-weight:700;font-synthesis:none", "font-family:serif",
             "font-family:\"Source Serif Pro\"", "font-weight:800", "font-style:italic", "font-style:italic;font-synthesis:none")]  # fmt: skip
    alone = [composed(tmp_path, page).to_bytes() for page in pages]
    for order in (pages, pages[::-1]):
        press = fq.Press(font_folders=[tmp_path])
        made = {page: press.compose(fq.Manuscript.from_html(f"<!doctype html>{page}")).to_bytes() for page in order}
        assert [made[page] for page in pages] == alone
