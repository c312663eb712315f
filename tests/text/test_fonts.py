"""Fonts: matching, fallback, files of all kinds, and what is embedded."""

from __future__ import annotations

from pathlib import Path

import pytest
from fontTools.fontBuilder import FontBuilder
from fontTools.pens.ttGlyphPen import TTGlyphPen
from fontTools.ttLib import TTCollection, TTFont

import fleetquill as fq
from fleetquill.text.fonts import FaceEntry, FontLibrary, best, default_faces

SERIF = next(e.path for e in default_faces() if e.family == "Source Serif Pro" and e.weights[0] == 400 and not e.italic)
MONO = next(e.path for e in default_faces() if e.family == "DejaVu Sans Mono" and e.weights[0] == 400 and not e.italic)


@pytest.fixture
def font_names():
    """The PostScript names of the fonts in a PDF."""
    import pypdfium2 as pdfium
    import pypdfium2.raw as raw

    def run(edition: fq.Edition) -> set[str]:
        page = pdfium.PdfDocument(edition.to_bytes())[0]
        found = set()
        for item in page.get_objects(filter=[raw.FPDF_PAGEOBJ_TEXT]):
            font = raw.FPDFTextObj_GetFont(item.raw)
            length = raw.FPDFFont_GetBaseFontName(font, None, 0)
            name = (
                (raw.c_char * length)() if hasattr(raw, "c_char") else __import__("ctypes").create_string_buffer(length)
            )
            raw.FPDFFont_GetBaseFontName(font, name, length)
            found.add(bytes(name).rstrip(b"\0").decode().split("+")[-1])
        return found

    return run


def weighted(*weights: float) -> list[FaceEntry]:
    return [FaceEntry("X", (w, w), False, Path(str(w))) for w in weights]


@pytest.mark.parametrize(
    ("have", "want", "got"),
    [((400, 700), 600, 700), ((400, 700), 500, 400), ((300, 500), 400, 500), ((100, 300, 900), 400, 300),
     ((600, 900), 300, 600), ((200, 300, 700), 350, 300), ((100, 200), 900, 200)],
)  # fmt: skip
def test_weights_are_matched_as_css_fonts_4_says(have, want, got):
    assert best(weighted(*have), want, "normal", 100.0)[0].weights[0] == got


def test_a_variable_face_serves_all_weights_in_its_reach():
    entries = [*weighted(400), FaceEntry("X", (300, 800), False, Path("v"))]
    assert best(entries, 650, "normal", 100.0)[0].path == Path("v")


def test_the_family_list_is_tried_in_order_and_then_the_fallbacks():
    library = FontLibrary(default_faces())
    faces = library.match(("Nowhere", "monospace", "Source Serif Pro"), 400, "normal", 100.0)
    assert [entry.family for entry in faces.values()] == [
        "DejaVu Sans Mono",
        "Source Serif Pro",
        "Source Sans Pro",
        "DejaVu Sans",
    ]


def test_characters_fall_back_by_cluster(compose, font_names):
    edition = compose("<p>abc Ж\u0301 ♞")
    assert edition.remarks == ()
    assert {"SourceSansPro-Regular", "DejaVuSans"} <= font_names(edition)


def test_a_character_that_no_font_has_is_named_with_its_line(compose):
    (remark,) = compose("<p>\n\nx\U00013000y", plain=False).remarks
    assert (remark.kind, remark.line) == ("glyph", 1)
    assert "'\U00013000' (U+13000)" in remark.message


def test_bold_that_no_face_has_is_made_with_a_remark(compose, tmp_path):
    (tmp_path / "f.ttf").write_bytes(MONO.read_bytes())
    face = "<style>@font-face{font-family:Mine;src:url(f.ttf)}p{font-family:Mine}</style>"
    assert compose(f"{face}<p>x").remarks == ()
    (remark,) = compose(f"{face}<p><b>x</b>").remarks
    assert remark.message == "The family 'Mine' has no bold face; its strokes were thickened instead."
    (remark,) = compose(f"{face}<p><i>x</i>").remarks
    assert "has no italic face; its strokes were sloped" in remark.message
    assert compose(f"{face}<p style='font-synthesis:none'><b>x</b>").remarks == ()


@pytest.mark.parametrize("flavor", ["woff", "woff2"])
def test_packed_fonts_are_unpacked(compose, tmp_path, font_names, flavor):
    font = TTFont(SERIF)
    font.flavor = flavor
    font.save(tmp_path / f"f.{flavor}")
    edition = compose(
        f"<style>@font-face{{font-family:Mine;src:url(f.{flavor}) format('{flavor}')}}p{{font-family:Mine}}</style><p>office"
    )
    assert font_names(edition) == {"SourceSerifPro-Regular"} and edition.remarks == ()


def test_unicode_range_shares_out_the_characters(compose, tmp_path, font_names):
    (tmp_path / "a.otf").write_bytes(SERIF.read_bytes())
    (tmp_path / "b.ttf").write_bytes(MONO.read_bytes())
    edition = compose(
        "<style>@font-face{font-family:Mine;src:url(a.otf);unicode-range:U+41-5A}"
        "@font-face{font-family:Mine;src:url(b.ttf);unicode-range:U+61-7A, U+3?}p{font-family:Mine}</style><p>ABCabc123"
    )
    assert font_names(edition) == {"SourceSerifPro-Regular", "DejaVuSansMono"}


def test_local_faces_and_sources_in_order(compose, font_names):
    edition = compose(
        "<style>@font-face{font-family:Mine;src:local(Nothing), local('Source Serif Pro')}p{font-family:Mine}</style><p>x"
    )
    assert font_names(edition) == {"SourceSerifPro-Regular"}


@pytest.mark.parametrize(
    ("source", "said"),
    [("url(gone.otf)", "'gone.otf': The file does not exist."), ("local(Nothing)", "There is no local font 'Nothing'."),
     ("url(bad.woff2)", "does not unpack"), ("url(text.otf)", "is not a font")],
)  # fmt: skip
def test_a_font_that_cannot_be_used_is_a_remark(compose, tmp_path, source, said):
    (tmp_path / "bad.woff2").write_bytes(b"wOF2 nothing more")
    (tmp_path / "text.otf").write_bytes(b"just text")
    edition = compose(f"<style>@font-face{{font-family:Mine;src:{source}}}p{{font-family:Mine}}</style><p>x")
    assert {r.kind for r in edition.remarks} == {"font"} and said in edition.remarks[0].message
    assert edition.pages[0].text == "x"


def variable_font(path: Path) -> None:
    """A font with one letter whose width grows with its weight."""
    builder = FontBuilder(1000, isTTF=True)
    builder.setupGlyphOrder([".notdef", "a"])
    builder.setupCharacterMap({97: "a"})
    glyphs = {}
    for name in (".notdef", "a"):
        pen = TTGlyphPen(None)
        for number, point in enumerate([(0, 0), (400, 0), (400, 500), (0, 500)]):
            (pen.moveTo if number == 0 else pen.lineTo)(point)
        pen.closePath()
        glyphs[name] = pen.glyph()
    builder.setupGlyf(glyphs)
    builder.setupHorizontalMetrics({".notdef": (500, 0), "a": (500, 0)})
    builder.setupHorizontalHeader(ascent=800, descent=-200)
    builder.setupOS2(usWeightClass=400)
    builder.setupNameTable({"familyName": "Wider", "styleName": "Regular", "psName": "Wider-Regular"})
    builder.setupFvar([("wght", 100, 400, 900, "Weight"), ("slnt", -10, 0, 0, "Slant")], [])
    from fontTools.ttLib.tables.TupleVariation import TupleVariation

    slanted = [(0, 0), (0, 0), (300, 0), (300, 0), (0, 0), (250, 0), (0, 0), (0, 0)]
    deltas = [(0, 0), (500, 0), (500, 0), (0, 0), (0, 0), (500, 0), (0, 0), (0, 0)]
    builder.setupGvar(
        {
            "a": [TupleVariation({"wght": (0, 1, 1)}, deltas), TupleVariation({"slnt": (-1, -1, 0)}, slanted)],
            ".notdef": [],
        }
    )
    builder.setupPost()
    builder.save(path)


def test_variable_fonts_are_instanced_at_the_asked_weight(tmp_path):
    variable_font(tmp_path / "wider.ttf")
    press = fq.Press(font_folders=[tmp_path])
    html = "<style>span{font:100px/1 Wider}b{font-weight:900}i{font-style:normal;font-weight:650}</style><p>"
    sloped = press.compose(fq.Manuscript.from_html(f"{html}<span style='font-style:italic'>a</span>"))
    assert sloped.locate("span")[0].width / 0.75 == pytest.approx(75, abs=0.2) and sloped.remarks == ()
    edition = press.compose(
        fq.Manuscript.from_html(f"{html}<span>a</span><br><span><b>a</b></span><br><span><i>a</i></span>")
    )
    widths = [p.width / 0.75 for p in edition.locate("span")]
    assert widths == pytest.approx([50, 100, 75], abs=0.2)
    assert edition.remarks == ()


def test_collections_and_folders_are_scanned_and_indexed(tmp_path):
    folder = tmp_path / "fonts"
    folder.mkdir()
    collection = TTCollection()
    collection.fonts = [TTFont(MONO)]
    renamed = TTFont(MONO)
    for record in renamed["name"].names:
        if record.nameID in (1, 4, 16):
            record.string = "Second Of Two"
    collection.fonts.append(renamed)
    collection.save(folder / "two.ttc")
    (folder / "broken.ttf").write_bytes(b"no font")
    index = tmp_path / "cache" / "fonts.json"
    press = fq.Press(font_folders=[folder], font_index=index)
    entries = press.fonts.entries("Second Of Two")
    assert [(entry.number, entry.path.name) for entry in entries] == [(1, "two.ttc")]
    assert index.exists()
    assert fq.Press(font_folders=[folder], font_index=index).fonts.entries("Second Of Two")
    edition = press.compose(fq.Manuscript.from_html("<p style='font-family:Second Of Two'>x"))
    assert edition.remarks == ()


def test_a_folder_that_does_not_exist_is_an_error(tmp_path):
    with pytest.raises(fq.SourceError, match="folder of fonts does not exist"):
        fq.Press(font_folders=[tmp_path / "none"]).compose(fq.Manuscript.from_html("x"))


def test_each_font_is_embedded_once_whatever_its_sizes(compose):
    one = len(compose("<p>Heron").to_bytes())
    many = len(
        compose("<p>Heron <span style='font-size:30px'>Heron</span> <span style='font-size:9px'>Heron").to_bytes()
    )
    assert many - one < 400


@pytest.mark.parametrize(("text", "loads"), [("barge", False), ("баржа", True), ("<fq-ledger src=a.csv><fq-column name=n></fq-column></fq-ledger>", True), ("<i title=ж>x</i>", True)])  # fmt: skip
def test_a_face_is_loaded_where_its_characters_may_be_shown(press, tmp_path, text, loads):
    (tmp_path / "a.csv").write_text("n\nж\n")
    css = "@font-face{font-family:Mine;src:url(gone.woff2);unicode-range:U+400-4FF} body{font-family:Mine, sans-serif}"
    edition = press.compose(fq.Manuscript.from_html(f"<style>{css}</style>{text}", base=tmp_path))
    assert any("gone.woff2" in remark.message for remark in edition.remarks) == loads


def test_a_packed_font_is_unpacked_once_for_a_press(tmp_path, monkeypatch):
    from fleetquill import stock

    font, times = TTFont(SERIF), []
    font.flavor = "woff2"
    font.save(tmp_path / "f.woff2")
    real = stock.unpacked
    monkeypatch.setattr(stock, "unpacked", lambda *given: times.append(1) or real(*given))
    press = fq.Press()
    m = fq.Manuscript.from_html(
        "<style>@font-face{font-family:Mine;src:url(f.woff2)}p{font-family:Mine}</style><p>x", base=tmp_path
    )
    assert press.compose(m).to_bytes() == press.compose(m).to_bytes() and times == [1]


def test_a_packed_font_that_is_too_large_is_a_remark(tmp_path):
    font = TTFont(SERIF)
    font.flavor = "woff"
    font.save(tmp_path / "f.woff")
    css = "@font-face { font-family: Mine; src: url(f.woff) } p { font-family: Mine, serif }"
    m = fq.Manuscript.from_html(f"<style>{css}</style><p>x", base=tmp_path)
    (remark,) = fq.Press(policy=fq.Policy(font_size=100_000)).compose(m).remarks
    assert remark.kind == "font" and "unpacks to more than the policy allows" in remark.message
    assert not fq.Press(policy=fq.Policy(strangers=True)).compose(m).remarks
