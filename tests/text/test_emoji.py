"""Signs in colours: which text asks for them, what font has them, and that they are seen wherever text stands."""

import io
import shutil
import subprocess

import pypdfium2 as pdfium
import pytest

import fleetquill as fq
from fleetquill.text.emoji import COLORED, is_colored, may_be_colored

HANDS = "\U0001f44d\U0001f3fd"
FAMILY = "\U0001f469\u200d\U0001f469\u200d\U0001f467"
ENGLAND = "\U0001f3f4" + "".join(chr(0xE0000 + ord(letter)) for letter in "gbeng") + "\U000e007f"


def seen(source, press=None, **options):
    made = io.BytesIO()
    (press or fq.Press()).write(fq.Manuscript.from_html(source), made, **options)
    return pdfium.PdfDocument(made.getvalue())[0].render(scale=96 / 72).to_pil().convert("RGB")


def is_in_color(image, box=None):
    pixels = (image.crop(box) if box else image).tobytes()
    return any(max(pixels[at : at + 3]) - min(pixels[at : at + 3]) > 60 for at in range(0, len(pixels), 3))


def sign(text, style=""):
    return f"<style>@page {{ size: 200px 80px; margin: 10px }} body {{ margin: 0 }} p {{ margin: 0; {style} }}</style><p>{text}"


@pytest.mark.parametrize(
    ("text", "style", "colored"),
    [
        ("\u2705", "", True),  # in colour where nothing is said
        ("\U0001f680", "font-family: serif", True),
        ("\U0001f600", "font-family: monospace; font-weight: bold; font-style: italic", True),  # the face has it, too
        ("\u2714", "", False),  # a text sign where nothing is said
        ("\u2764\ufe0f", "", True),
        ("\u2600\ufe0e", "", False),
        ("\U0001f600\ufe0e", "", False),
        ("\u26a0\ufe0f", "", True),
        ("\u26a0", "", False),
        ("1\ufe0f\u20e3", "", True),  # a key
        ("1", "", False),
        ("\u00a9", "", False),
        ("\U0001f1ee\U0001f1ea", "", True),
        (ENGLAND, "", True),
        (HANDS, "", True),
        ("\U0001f600", "font-variant-emoji: text", False),
        ("\u2600", "font-variant-emoji: emoji", True),
        ("2026", "font-variant-emoji: emoji", False),
        ("\u2600", "font-variant-emoji: unicode", False),
        ("\u2600", "font-family: emoji", True),
        ("\u2600", "font-family: 'Noto Color Emoji'", True),
    ],
)
def test_a_sign_is_in_colour_where_its_text_asks_for_it(text, style, colored):
    edition = fq.compose(fq.Manuscript.from_html(sign(text, style)))
    assert edition.remarks == ()
    assert is_in_color(seen(sign(text, style))) == colored


@pytest.mark.parametrize("text", [HANDS, FAMILY, ENGLAND, "\U0001f1ee\U0001f1ea", "#\ufe0f\u20e3", "\u2764\ufe0f"])
def test_several_characters_are_one_sign(text):
    one, other = (
        fq.compose(fq.Manuscript.from_html(sign(f"<b>{each}</b>"))).locate("b")[0].width for each in ("\u2705", text)
    )
    assert other == pytest.approx(one, abs=0.01)


def test_the_signs_are_those_of_unicode():
    assert len([c for c in map(chr, range(0x20000)) if COLORED.match(c)]) == 1_220  # emoji-data.txt, and the selector
    assert is_colored("\u231a", "normal") and not is_colored("\u231b\ufe0e", "emoji")
    assert not may_be_colored("plain \u00e9 \u20ac", "normal") and not may_be_colored("1 2 #", "emoji")


RUNNING = "<style>@page { size: 300px 200px; margin: 10px } body { margin: 0 }</style>"
PLACES = {
    "table": "<table><tr><td>{}<td>b</table>",
    "svg": "<svg width=100 height=40><text x=5 y=30>{}</text></svg>",
    "text on a path": "<svg width=100 height=40><path id=p d='M5 30H90' /><text><textPath href='#p'>{}</textPath></text></svg>",
    "head": "<style>@page {{ @top-center {{ content: '{}' }} }}</style><p>x",
    "list mark": "<ul style='list-style-type: \"{} \"'><li>x</ul>",
    "from right": "<p dir=rtl>\u05e9\u05dc {}",
    "downwards": "<p style='writing-mode: vertical-rl'>a {}",
    "justified": "<p style='text-align: justify'>aa bb {} cc dd aa bb cc dd aa bb cc dd aa bb cc dd aa bb cc dd",
    "input": "<input value='{}'>",
}


@pytest.mark.parametrize("place", PLACES)
def test_they_are_seen_wherever_text_stands(place):
    assert is_in_color(seen(RUNNING + PLACES[place].format("\U0001f680")))
    assert not is_in_color(seen(RUNNING + PLACES[place].format("x")))


def test_charts_and_ledgers_show_them(tmp_path):
    m = fq.Manuscript(title="Locks", look="plain")
    m.chart(
        "line",
        [{"lock": "\u274c shut", "boats": 3}, {"lock": "\u274c open", "boats": 5}],
        x="lock",
        y="boats",
        colors=["#333"],
    )
    rows = ({"boat": f"barge {number}", "state": "\u2705" if number == 2_900 else "late"} for number in range(3_000))
    m.ledger(rows, ["boat", "state"])
    fq.Press().write(m, tmp_path / "locks.pdf")
    pages = pdfium.PdfDocument(tmp_path / "locks.pdf")
    lit = [number for number, page in enumerate(pages) if is_in_color(page.render(scale=1).to_pil().convert("RGB"))]
    assert len(lit) == 2 and lit[0] == 0 and lit[1] >= len(pages) - 5


def test_signs_stand_upright_in_lines_that_run_downwards():
    """The German flag's lowest stripe is gold: it lies, and is below the red one."""
    image = seen(
        RUNNING + "<p style='font: 60px sans-serif; margin: 0; writing-mode: vertical-lr'>\U0001f1e9\U0001f1ea"
    )
    places = [(x, y, image.getpixel((x, y))) for x in range(100) for y in range(100)]
    gold = {y for _, y, (red, green, blue) in places if red > 200 and green > 150 and blue < 120}
    red = {y for _, y, (red, green, blue) in places if red > 150 and green < 80 and blue < 80}
    assert max(red) <= min(gold) + 2 and len(gold) < 30


def test_a_document_does_not_hang_on_the_signs_of_those_before_it():
    def made(press, source):
        stream = io.BytesIO()
        press.write(fq.Manuscript.from_html(source), stream)
        return stream.getvalue()

    plain = "<h1>Locks</h1><p>all <b>of</b> them<table><tr><td>a<td>1</table>"
    press = fq.Press()
    before = made(press, plain)
    made(press, plain.replace("all", "\u2705 all").replace("of", "\U0001f680").replace("<td>a", "<td>\u274c"))
    assert made(press, plain) == before == made(fq.Press(), plain)


@pytest.mark.skipif(not shutil.which("pdftotext"), reason="no other reader is here")
@pytest.mark.parametrize("tagged", [True, False])
def test_they_are_copied(tmp_path, tagged):
    text = f"\u2705 {FAMILY} {HANDS} \U0001f1ee\U0001f1ea {ENGLAND}"
    fq.Press().write(fq.Manuscript.from_html(f"<p>{text}"), tmp_path / "signs.pdf", tagged=tagged)
    found = subprocess.run(["pdftotext", tmp_path / "signs.pdf", "-"], capture_output=True, check=True).stdout.decode()
    assert found.split() == text.split()


def test_a_file_has_a_sign_once_whatever_the_colour_around_it():
    def forms(style):
        rows = "".join(f"<p style='{style}'>\U0001f680 \u2705" for _ in range(40))
        return fq.compose(fq.Manuscript.from_html(rows)).to_bytes().count(b"/Subtype/Form")

    assert forms("") == forms("color: #123") > 0
    mixed = "<p>\U0001f680 \u2705<p style='color: red'>\U0001f680 \u2705<p style='font-weight: bold'>\u2705 \U0001f680"
    assert fq.compose(fq.Manuscript.from_html(mixed)).to_bytes().count(b"/Subtype/Form") == forms("")
