"""Files that a document may not read, files that unpack to more than is good, and what is written."""

import base64
import io
import os
import struct
import threading
import time
import zlib

import brotli
import pytest
from fontTools.ttLib import TTFont
from PIL import Image

import fleetquill as fq
from fleetquill.text.fonts import default_faces
from fleetquill.text.woff import unpacked

STRANGERS = fq.Policy(strangers=True)
SECRET = "0f4c4a-the-key"

WAYS = {  # in each, {} is the address of a file outside
    "picture": "<img src='{}'>",
    "sources of a picture": "<picture><source srcset='{}'><img src='{}'></picture>",
    "object": "<object data='{}'></object>",
    "background": "<p style='background:url({})'>x",
    "list mark": "<li style='list-style-image:url({})'>x",
    "content": "<style>p::before{{content:url({})}}</style><p>x",
    "border image": "<p style='border:9px solid;border-image:url({}) 9'>x",
    "mask": "<p style='mask-image:url({})'>x",
    "clip path": "<p style='clip-path:url({}#a)'>x",
    "style sheet": "<link rel=stylesheet href='{}'><p>x",
    "import": "<style>@import url({});</style><p>x",
    "font": "<style>@font-face{{font-family:a;src:url({})}}p{{font-family:a}}</style><p>x",
    "picture in SVG": "<svg width=9 height=9><image href='{}' width=9 height=9 /></svg>",
    "use in SVG": "<svg width=9 height=9><use href='{}#a'/></svg>",
    "entity in SVG": '<img src=\'data:image/svg+xml,<!DOCTYPE svg [<!ENTITY k SYSTEM "{}">]><svg xmlns="http://www.w3.org/2000/svg"><text>&k;</text></svg>\'>',
    "ledger": "<fq-ledger src='{}'><fq-column name=n></fq-column></fq-ledger>",
    "chart": "<fq-chart src='{}' x=n y=n></fq-chart>",
    "base": "<base href='{}'><img src=key.txt>",
}


@pytest.fixture
def outside(tmp_path):
    folder = tmp_path / "outside"
    folder.mkdir()
    (folder / "key.txt").write_text(f"{SECRET}\n{SECRET}\n")
    own = tmp_path / "own"
    own.mkdir()
    (own / "link.txt").symlink_to(folder / "key.txt")
    return folder / "key.txt", own


@pytest.mark.parametrize("spelling", ["{path}", "file://{path}", "../outside/key.txt", "a/../../outside/key.txt", "link.txt", "%2e%2e/outside/key.txt", "FILE:{path}", "file:..%2foutside%2fkey.txt"])  # fmt: skip
@pytest.mark.parametrize("way", WAYS)
def test_no_byte_of_a_file_outside_is_read(outside, way, spelling, monkeypatch):
    path, own = outside
    opened = []
    real = io.open

    def noted(file, *args, **more):
        opened.append(os.path.realpath(file) if isinstance(file, (str, os.PathLike)) else "")
        return real(file, *args, **more)

    (own / "d.html").write_text(
        WAYS[way].replace("{}", spelling.format(path=path)).replace("{{", "{").replace("}}", "}")
    )
    monkeypatch.setattr("builtins.open", noted)
    monkeypatch.setattr("io.open", noted)
    try:
        edition = fq.Press(policy=STRANGERS).compose(own / "d.html")
        assert SECRET.encode() not in edition.to_bytes() and SECRET not in edition.pages[0].text
    except fq.FleetQuillError as error:
        assert SECRET not in str(error)
    assert str(path) not in opened


def test_without_a_base_strangers_read_nothing(tmp_path, monkeypatch):
    Image.new("RGB", (9, 9), "red").save(tmp_path / "p.png")
    monkeypatch.chdir(tmp_path)
    picture = "<img src='p.png'>"
    assert fq.Press(policy=STRANGERS).compose(fq.Manuscript.from_html(picture)).remarks
    assert not fq.Press(policy=STRANGERS).compose(fq.Manuscript.from_html(picture, base=tmp_path)).remarks
    assert not fq.compose(fq.Manuscript.from_html(picture)).remarks
    assert not fq.Press(policy=STRANGERS).compose("p.png").remarks
    assert not fq.Press(policy=STRANGERS).compose(fq.Manuscript.from_pictures([tmp_path / "p.png"])).remarks


def test_a_sheet_in_a_folder_shows_pictures_of_the_documents_own(tmp_path):
    (tmp_path / "css").mkdir()
    Image.new("RGB", (9, 9), "red").save(tmp_path / "p.png")
    (tmp_path / "css" / "a.css").write_text("p { background: url(../p.png) }")
    (tmp_path / "d.html").write_text("<link rel=stylesheet href=css/a.css><p>x")
    edition = fq.Press(policy=STRANGERS).compose(tmp_path / "d.html")
    assert not edition.remarks and b"/Subtype/Image" in edition.to_bytes().replace(b" ", b"")


@pytest.mark.parametrize("what", ["source", "data", "style", "picture", "ledger", "folder of pictures"])
def test_a_pipe_hangs_nothing(tmp_path, what):
    pipe = tmp_path / ("pipe.png" if "pictures" in what else "pipe.csv")
    os.mkfifo(pipe)
    text = {
        "picture": f"<img src='{pipe}'>",
        "ledger": f"<fq-ledger src='{pipe}'><fq-column name=n></fq-column></fq-ledger>",
    }
    (tmp_path / "d.html").write_text(text.get(what, "<p>x"))
    source = {"source": pipe, "folder of pictures": tmp_path}.get(what, tmp_path / "d.html")
    more = {"data": {"data": pipe}, "style": {"styles": [pipe]}}.get(what, {})
    ended = []

    def run():
        try:
            ended.append(fq.compose(source, **more).remarks)
        except fq.FleetQuillError as error:
            ended.append(str(error))

    thread = threading.Thread(target=run, daemon=True)
    thread.start()
    thread.join(10)
    assert ended and ("pictures" in what or "pipe" in str(ended[0]))


@pytest.mark.parametrize("what", ["source", "data", "style", "ledger", "include"])
def test_every_file_obeys_the_limit_of_size(tmp_path, what):
    large = tmp_path / "large.csv"
    large.write_text("n\n" + "1\n" * 5_000)
    texts = {
        "ledger": "<fq-ledger src='large.csv'><fq-column name=n></fq-column></fq-ledger>",
        "include": "{% include 'large.csv' %}\n",
    }
    (tmp_path / "d.html").write_text(texts.get(what, "<p>x"))
    more = {"data": {"data": large}, "style": {"styles": [large]}, "include": {"data": {}}}.get(what, {})
    with pytest.raises(fq.LimitError, match="larger than the policy allows"):
        fq.Press(policy=fq.Policy(file_size=1_000)).compose(large if what == "source" else tmp_path / "d.html", **more)


# ---- what unpacks ----


def woff(size, content=b"\0" * 20_000_000):
    """A WOFF file of one table that says it has a size, and has another."""
    packed = zlib.compress(content, 9)
    table = struct.pack(">4sIIII", b"glyf", 64, len(packed), size, 0)
    head = struct.pack(">4sIIHHIHHIIIII", b"wOFF", 0x10000, 64 + len(packed), 1, 0, 1000, 1, 0, 0, 0, 0, 0, 0)
    return head + table + packed


def woff2(content=b"\0" * 50_000_000):
    packed = brotli.compress(content)
    head = struct.pack(
        ">4sIIHHIIHHIIIII", b"wOF2", 0x10000, 60 + len(packed), 1, 0, 1000, len(packed), 1, 0, 0, 0, 0, 0, 0
    )
    return head + bytes((1, 0x85, 0x00)) + packed


@pytest.mark.parametrize(
    "content", [woff(30_000_000), woff(21_000_000), woff(100), woff2()], ids=["said", "close", "lied", "brotli"]
)
def test_fonts_unpack_within_the_limit(content):
    with pytest.raises(fq.LimitError, match="unpacks to more"):
        unpacked(content, 2_000_000)


@pytest.mark.parametrize("flavor", ["woff", "woff2"])
@pytest.mark.parametrize("share", [0.1, 0.5, 0.9])
def test_damaged_web_fonts_are_remarks(flavor, share):
    font, out = TTFont(next(face.path for face in default_faces())), io.BytesIO()
    font.flavor = flavor
    font.save(out)
    with pytest.raises(fq.FleetQuillError):
        unpacked(out.getvalue()[: int(len(out.getvalue()) * share)], 10_000_000)


def test_pictures_have_the_formats_that_are_named(tmp_path):
    for kind in ("PNG", "GIF", "TIFF"):
        Image.new("RGB", (9, 9), "red").save(tmp_path / f"p.{kind.lower()}", kind)
    m = fq.Manuscript.from_html("<img src=p.png><img src=p.gif><img src=p.tiff>", base=tmp_path)
    few = fq.Press(policy=fq.Policy(formats=["PNG", "TIFF"]))
    assert ["p.gif" in remark.message for remark in few.compose(m).remarks] == [True]
    with pytest.raises(fq.OptionError, match="There are: PNG"):
        fq.Policy(formats=["EPS"])


# ---- time, faults ----


LONG = {
    "layout": "<table>" + "<tr><td>a<td>b" * 20_000,
    "style": "<style>" + "".join(f"a{n} b{n} {{ color: red }}" for n in range(20_000)) + "</style>x",
    "drawing": "<svg>" + "<path d='M0 0L9 9'/>" * 100_000 + "</svg>",
    "words": "<p>" + "word " * 600_000,
    "filters": "<p style='filter:" + "blur(9px) " * 1_000 + "'>x",
}


@pytest.mark.parametrize("source", LONG.values(), ids=LONG)
def test_the_time_of_a_document_is_heard(source):
    press = fq.Press(policy=fq.Policy(time=0.5))
    start = time.process_time()  # what other tests take meanwhile is theirs
    with pytest.raises(fq.LimitError, match=r"more than 0\.5 s"):
        press.compose(fq.Manuscript.from_html(source)).to_bytes()
    assert time.process_time() - start < 3
    assert press.compose(fq.Manuscript.from_html("<p>x")).page_count == 1


def test_a_template_hears_the_time_as_well():
    press = fq.Press(policy=fq.Policy(time=0.3))
    with pytest.raises(fq.LimitError, match=r"more than 0\.3 s"):
        press.fill_in("{% for a in range(9999) %}{% for b in range(9999) %}{{ a }}{% endfor %}{% endfor %}", {})


def test_a_fault_of_the_engine_is_an_error_of_ours_with_its_place(monkeypatch):
    from fleetquill import guard
    from fleetquill.layout.contract import dispatch

    assert fq.compose(fq.Manuscript.from_html("<p>words")).page_count == 1
    lines = next(kind for kind in dispatch.MODELS if kind.__name__ == "LinesBox")
    monkeypatch.setitem(dispatch.MODELS, lines, (min, min))
    with pytest.raises(fq.FaultError, match=r"TypeError: '<' not supported") as caught:
        fq.compose(fq.Manuscript.from_html("\n\n<p>words", source="letter.html"))
    assert str(caught.value).startswith("letter.html <p>, line 3") and caught.value.__cause__ is not None
    assert len(guard.SEEN) == 1
    guard.SEEN.clear()


def test_what_the_callers_own_functions_raise_is_theirs():
    def rows():
        yield {"n": 1}
        raise KeyError("the database is gone")

    def listener(_):
        raise InterruptedError("enough")

    class Stream(io.RawIOBase):
        def write(self, content):
            raise ConnectionResetError("the client is gone")

    m = fq.Manuscript()
    m.ledger(rows(), ["n"])
    with pytest.raises(KeyError, match="the database is gone"):
        fq.compose(m)
    with pytest.raises(InterruptedError):
        fq.compose(fq.Manuscript.from_html("x"), progress=listener)
    with pytest.raises(ConnectionResetError):
        fq.compose(fq.Manuscript.from_html("x")).write_to(Stream())
    with pytest.raises(ValueError, match="closed"):
        stream = io.BytesIO()
        stream.close()
        fq.Press().write(fq.Manuscript.from_html("x"), stream)


# ---- what is written ----


def test_a_stream_that_takes_a_part_gets_the_rest():
    class Narrow(io.RawIOBase):
        def __init__(self):
            self.content = b""

        def write(self, content):
            self.content += bytes(content[:7])
            return min(7, len(content))

    narrow = Narrow()
    edition = fq.compose(fq.Manuscript.from_html("<p>x"))
    edition.write_to(narrow)
    assert narrow.content == edition.to_bytes()


def test_a_stream_that_takes_nothing_more_is_an_error():
    class Full(io.RawIOBase):
        def write(self, content):
            return 0

    with pytest.raises(OSError, match="takes no more"):
        fq.compose(fq.Manuscript.from_html("<p>x")).write_to(Full())


def test_a_file_keeps_its_mode(tmp_path):
    path = tmp_path / "out.pdf"
    path.write_bytes(b"")
    path.chmod(0o640)
    fq.compose(fq.Manuscript.from_html("<p>x")).save(path)
    assert path.stat().st_mode & 0o777 == 0o640 and path.stat().st_size > 500


@pytest.mark.skipif(os.geteuid() != 0, reason="only root gives files away")
def test_a_file_keeps_its_owner(tmp_path):
    path = tmp_path / "out.pdf"
    path.write_bytes(b"")
    os.chown(path, 1234, 4321)
    fq.write(fq.Manuscript.from_html("<p>x"), path)
    assert (path.stat().st_uid, path.stat().st_gid) == (1234, 4321)


def test_leftovers_of_killed_runs_are_swept_and_those_of_living_ones_are_not(tmp_path):
    from platform import node

    dead = tmp_path / f".fleetquill-{node()}-999999999-0.part"
    living = tmp_path / f".fleetquill-{node()}-{os.getpid()}-0.part"
    others = tmp_path / ".fleetquill-elsewhere-999999999-0.part"
    for path in (dead, living, others):
        path.write_bytes(b"half")
    fq.write(fq.Manuscript.from_html("<p>x"), tmp_path / "out.pdf")
    assert sorted(path.name for path in tmp_path.iterdir()) == sorted([living.name, others.name, "out.pdf"])


def photograph(**options) -> bytes:
    noise = Image.effect_noise((160, 120), 60)
    stream = io.BytesIO()
    noise.save(stream, "JPEG", quality=80, **options)
    return stream.getvalue()


def remarks_on(content: bytes) -> list[str]:
    address = "data:image/jpeg;base64," + base64.b64encode(content).decode()
    m = fq.Manuscript.from_html(f"<img alt=Heron src='{address}' width=60>")
    return [remark.message for remark in fq.compose(m).remarks]


@pytest.mark.parametrize("options", [{}, {"progressive": True}, {"restart_marker_rows": 1}, {"optimize": True}])
def test_a_healthy_photograph_has_no_remark(options):
    assert remarks_on(photograph(**options)) == []


@pytest.mark.parametrize(
    ("damage", "options"),
    [
        (lambda content: content[: len(content) // 2] + b"\xff\x42" + content[len(content) // 2 + 2 :], {}),
        (lambda content: content.replace(b"\xff\xd1", b"\xff\xd5", 1), {"restart_marker_rows": 1}),
        (lambda content: content[: len(content) // 2] + b"\xff\xd8" * 20 + content[len(content) // 2 :], {}),
    ],
    ids=["a marker in the data", "a restart lost", "the start of another one"],
)
def test_a_photograph_that_is_damaged_inside_is_shown_with_a_remark(damage, options):
    (remark,) = remarks_on(damage(photograph(**options)))
    assert "damaged inside" in remark


def test_damage_of_a_background_is_remarked_too():
    whole = photograph()
    content = whole[: len(whole) // 2] + b"\xff\x42" + whole[len(whole) // 2 + 2 :]
    address = "data:image/jpeg;base64," + base64.b64encode(content).decode()
    edition = fq.compose(fq.Manuscript.from_html(f"<p style='background:url({address})'>x"))
    assert ["damaged inside" in remark.message for remark in edition.remarks] == [True]


def test_characters_that_python_gives_and_no_text_can_hold_are_remarked():
    m = fq.Manuscript(title="Load")
    m.paragraph("Heron \ud800 barley")
    (remark,) = fq.compose(m).remarks
    assert (remark.kind, "replaced" in remark.message) == ("text", True)
