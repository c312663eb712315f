"""The page that a reader sees, as a file: the module for the browser, on a page that scripts have drawn."""

import io

import pypdfium2 as pdfium
import pytest
from PIL import Image
from starlette.applications import Starlette
from starlette.responses import HTMLResponse, Response
from starlette.routing import Mount, Route

import fleetquill as fq
from conftest import listening
from fleetquill.serve import Holder, app
from fleetquill.serve.service.tokens import hash_of, new_token

pytest.importorskip("playwright.sync_api")
ALL = Holder("all")


def picture(color):
    stream = io.BytesIO()
    Image.new("RGB", (8, 8), color).save(stream, "PNG")
    return stream.getvalue()


@pytest.fixture(scope="module")
def shelf(tmp_path_factory):
    folder = tmp_path_factory.mktemp("shelf")
    (folder / "a.html").write_text("x")
    return fq.Shelf(folder)


@pytest.fixture(scope="module")
def elsewhere():
    """Another origin, which lets nobody read."""
    red = Response(picture("red"), media_type="image/png")
    with listening(Starlette(routes=[Route("/red.png", lambda _: red)])) as address:
        yield address


@pytest.fixture(scope="module")
def site(shelf):
    """An application with pages, pictures and the service in it; gives its address and a way to set the page."""
    pages = {}

    async def page(_):
        return HTMLResponse(pages["page"])

    async def blue(_):
        return Response(picture("blue"), media_type="image/png")

    served = Mount("/papers", app(shelf, takes=["html"], admit=lambda _: ALL))
    with listening(Starlette(routes=[Route("/", page), Route("/blue.png", blue), served])) as address:
        yield address, pages


@pytest.fixture
def pressed(site, screen):
    """Opens a page, presses an element, and gives the file, and what was missing."""
    address, pages = site

    def run(html, options="{}", selector="#it"):
        pages["page"] = f"<!doctype html><html lang=en><title>T</title>{html}"
        screen.goto(address)
        told = screen.evaluate(
            """async ([selector, options]) => {
                const { press } = await import("/papers/fleetquill-page.js");
                const file = await press(selector, { into: "nothing", ...eval(`(${options})`) });
                return { ...file, blob: [...new Uint8Array(await file.blob.arrayBuffer())],
                         missing: file.missing.map(({ address, why }) => [address, why]) };
            }""",
            [selector, options],
        )
        return bytes(told["blob"]), told

    return run


def page_of(content):
    return fq.Volume(content).pages[0]


def shown(content, scale=1.0):
    return pdfium.PdfDocument(content)[0].render(scale=scale).to_pil().convert("RGB")


def colors(content):
    return {color for count, color in shown(content).getcolors(1 << 24) if count > 20}


# ---- what is shown ----


@pytest.mark.parametrize(
    ("html", "words"),
    [
        ("<p id=it>Heron", "Heron"),
        ("<div id=it><input value=a><script>document.querySelector('input').value = 'typed'</script></div>", "typed"),
        ("<div id=it><textarea>a</textarea></div><script>document.querySelector('textarea').value = 'typed'</script>", "typed"),
        ("<div id=it><select><option>one<option>two</select></div><script>document.querySelector('select').selectedIndex = 1</script>", "two"),
        ("<details id=it><summary>more</summary>hidden</details><script>it.open = true</script>", "hidden"),
        ("<div id=it style='height:40px;overflow:auto'><p>first<p>second<p>third<p>fourth</div>", "fourth"),
        ("<div id=it>kept <button data-leave-out>Save</button><script>document.title</script></div>", "kept"),
        ("<style>@media screen{#it::before{content:'seen '}} @media print{#it{display:none}}</style><p id=it>here", "seen here"),
        ("<style>.dark #it b{display:none}</style><body class=dark><p id=it>here<b>not</b>", "here"),
        ("<div id=it></div><script>const s=it.attachShadow({mode:'open'});s.innerHTML='<style>b{display:none}:host{color:red}</style>in <slot></slot><b>no</b>';it.append('slotted')</script>", "in slotted"),
    ],
)  # fmt: skip
def test_the_file_says_what_the_screen_says(pressed, html, words):
    content, told = pressed(html)
    said = " ".join(page_of(content).text.split())
    assert words in said and told["missing"] == [] and told["pages"] == 1
    for gone in ("Save", "not", "no ", "print"):
        assert gone not in said


@pytest.mark.parametrize(
    ("html", "color"),
    [
        ("<canvas id=it width=50 height=50></canvas><script>const c=it.getContext('2d');c.fillStyle='#0f4c4a';c.fillRect(0,0,50,50)</script>", (15, 76, 74)),
        ("<div id=it><img src=blue.png width=50></div>", (0, 0, 255)),
        ("<div id=it><picture><source srcset='blue.png 1x'><img src=nothing.png width=50></picture></div>", (0, 0, 255)),
        ("<div id=it style='height:50px;background:url(blue.png)'></div>", (0, 0, 255)),
        ("<style>#it{height:50px;background:url('blue.png')}</style><div id=it></div>", (0, 0, 255)),
        ("<svg id=it width=50 height=50><image href=blue.png width=50 height=50 /></svg>", (0, 0, 255)),
        ("<svg hidden><linearGradient id=g><stop stop-color='#00f'/></linearGradient></svg><svg id=it width=50 height=50><rect width=50 height=50 fill='url(#g)'/></svg>", (0, 0, 255)),
        ("<svg width=0 height=0><symbol id=s><rect width=50 height=50 fill=blue /></symbol></svg><svg id=it width=50 height=50><use href='#s'/></svg>", (0, 0, 255)),
        ("<style>:root{--c:blue}.a{background:var(--c);height:50px}</style><div id=it><div class=a></div></div>", (0, 0, 255)),
        ("<body style='background:blue'><p id=it style='color:white'>white on blue", (0, 0, 255)),
        ("<style>@keyframes k{to{background:blue}}#it{height:50px;animation:k .01s forwards}</style><div id=it></div><script>await0 = document.getAnimations()[0].finish()</script>", (0, 0, 255)),
        ("<div id=it class=a style='height:50px'></div><script>const s=new CSSStyleSheet();s.replaceSync('.a{background:blue}');document.adoptedStyleSheets=[s]</script>", (0, 0, 255)),
        ("<style>@layer low{#it{background:red}} @layer high{.a{background:blue}} @supports(display:grid){#it{height:50px}}</style><div id=it class=a></div>", (0, 0, 255)),
        ("<div id=it><p>x</p></div><script>const s=it.attachShadow({mode:'open'});s.innerHTML='<style>:host{display:block;height:50px;background:blue}</style><slot></slot>'</script>", (0, 0, 255)),
    ],
)  # fmt: skip
def test_the_file_shows_what_the_screen_shows(pressed, html, color):
    content, told = pressed(html)
    assert color in colors(content) and told["missing"] == []


FONTS = [
    # a shorthand with var() in it, whose longhands browsers leave blank; what is inherited from outside
    ("<style>:root{--f:Source Serif Pro}body{font:30px/1 var(--f);font-style:italic}</style><div><p id=it>Heron", "30px"),
    ("<style>:root{--f:20px/1 serif}#it p{font:var(--f);font-weight:bold}</style><div id=it><p>Heron</div>", "20px"),
    ("<style>html{font-size:20px}#it{font-size:2rem}</style><p id=it>Heron", "40px"),
    ("<style>#it{font-size:2vw}</style><p id=it>Heron", "25.6px"),
    ("<style>#it > b.x:not(:hover) > i::first-letter{color:red} #it > b > i{font-size:30px}</style><p id=it><b class=x><i>Heron</i></b>", "30px"),
]  # fmt: skip


@pytest.mark.parametrize(("html", "size"), FONTS, ids=[size for _, size in FONTS])
def test_letters_are_as_large_as_on_the_screen(pressed, html, size):
    content, _ = pressed(html, "{scale: 1}")
    text = pdfium.PdfDocument(content)[0].get_textpage()
    left, bottom, right, top = text.get_charbox(0, loose=True)
    del left, right
    own = pdfium.PdfDocument(
        fq.compose(
            fq.Manuscript.from_html(f"<html lang=en><title>T</title><p style='font-size:{size}'>Heron")
        ).to_bytes()
    )[0].get_textpage()
    _, low, _, high = own.get_charbox(0, loose=True)
    assert top - bottom == pytest.approx(high - low, rel=0.12)  # of another family, perhaps


def test_it_stands_where_it_stood_and_as_wide_as_the_paper_lets_it(pressed, screen):
    html = (
        "<style>body{margin:0 100px} #it{width:1200px;display:flex;gap:2vw} .b{flex:1;height:80px;background:#0f4c4a}"
        "</style><main style='padding:50px'><div id=it><div class=b></div><div class=b></div><div class=b></div></div></main>"
    )
    screen.set_viewport_size({"width": 1500, "height": 800})
    content, told = pressed(html, "{margin: '10mm'}")
    assert told["remarks"] == 0
    page = shown(content, 2.0)
    row = [page.getpixel((x, 80)) == (15, 76, 74) for x in range(page.width)]
    edges = [x / 2 for x in range(1, page.width) if row[x] != row[x - 1]]
    scale = (210 - 20) * 72 / 25.4 / 1200  # pt of the paper to px of the screen
    left, wide, gap = 10 * 72 / 25.4, (1200 - 2 * 30) / 3 * scale, 30 * scale
    wanted = [left + n * (wide + gap) + side for n in range(3) for side in (0, wide)]
    assert edges == pytest.approx(wanted, abs=1.0)
    small, _ = pressed("<p id=it style='width:200px'>Heron", "{margin: '10mm'}")
    assert page_of(small).text.strip() == "Heron"


def test_paper_kind_and_name_are_as_is_asked(pressed):
    content, told = pressed("<p id=it>x", "{page: 'A5', landscape: true, name: 'a {b}: c', scale: 0.5}")
    assert (round(page_of(content).width), told["name"]) == (595, "a {b}- c.pdf")
    assert told["run"] and told["pages"] == 1


def test_a_job_is_waited_for(pressed):
    content, told = pressed("<p id=it>Heron", "{job: true}")
    assert page_of(content).text.strip() == "Heron" and told["name"] == "document.pdf"


# ---- what may not be read ----


def test_pictures_of_others_are_named(pressed, elsewhere):
    html = (
        f"<div id=it><img src='{elsewhere}/red.png' width=50 height=50 alt=red><canvas width=20 height=20></canvas>"
        "<iframe src='/blue.png' title=frame></iframe></div><script type=module>const image=document.querySelector('img');"
        "await image.decode();document.querySelector('canvas').getContext('2d').drawImage(image,0,0)</script>"
    )
    content, told = pressed(html)
    missing = dict(told["missing"])
    assert "may not be read" in missing[f"{elsewhere}/red.png"]
    assert "another origin" in missing[""] and any("page within the page" in why for why in missing.values())
    assert told["remarks"] >= 1 and (255, 0, 0) not in colors(content)


def test_what_is_not_there_is_named(pressed):
    _, told = pressed(
        "<style>#it{background:url(gone.png)}@font-face{font-family:f;src:url(f.woff2)}</style><p id=it style='font-family:f'>x<img src=none.png>"
    )
    assert sorted(address.rsplit("/", 1)[1] for address, _ in told["missing"]) == ["f.woff2", "gone.png", "none.png"]
    assert {why for _, why in told["missing"]} == {"the answer is 404"}


# ---- buttons and refusals ----


def test_a_button_shows_how_it_stands(site, screen):
    address, pages = site
    pages["page"] = (
        "<!doctype html><html lang=en><title>T</title><p id=it>Heron<button id=b>File</button><script type=module>"
        "import { press } from '/papers/fleetquill-page.js'; window.states = [];"
        "b.onclick = () => press('#it', { button: b, name: 'heron', kind: window.kind, told: (one) => states.push([one, b.disabled, b.ariaBusy]) })"
        ".catch((error) => { window.fault = [error.message, error.problem.status] }); window.ready = true</script>"
    )
    screen.goto(address)
    screen.wait_for_function("window.ready")
    with screen.expect_download() as download:
        screen.click("#b")
    assert download.value.suggested_filename == "heron.pdf"
    screen.wait_for_selector("#b[data-state=done]")
    assert screen.evaluate("states") == [["reading", True, "true"], ["making", True, "true"], ["done", False, "false"]]
    screen.evaluate("window.kind = 'exe'")
    screen.click("#b")
    screen.wait_for_selector("#b[data-state=failed]")
    assert screen.evaluate("fault") == ["'exe' is no kind that is made here.", 406]
    assert screen.is_enabled("#b")


def test_a_tab_shows_the_file(site, screen):
    address, pages = site
    pages["page"] = "<!doctype html><html lang=en><title>T</title><p id=it>Heron"
    screen.goto(address)
    with screen.expect_popup() as opened:
        screen.evaluate(
            "import('/papers/fleetquill-page.js').then(({press}) => press('#it', {into: 'tab', kind: 'html'}))"
        )
    opened.value.wait_for_url("blob:**")
    assert "Heron" in opened.value.inner_text("body")


def test_what_is_no_element_is_refused(site, screen):
    address, pages = site
    pages["page"] = "<!doctype html><html lang=en><title>T</title><p>x"
    screen.goto(address)
    said = screen.evaluate(
        "import('/papers/fleetquill-page.js').then(({press}) => press('#it')).catch((e) => e.message)"
    )
    assert said == "There is no element '#it' on this page."


def test_another_origin_asks_with_a_token_where_it_is_allowed(shelf, site, screen, tmp_path):
    address, pages = site
    pages["page"] = "<!doctype html><html lang=en><title>T</title><p id=it>Heron"
    token = new_token()
    (tmp_path / "t.toml").write_text(
        f'[tokens.page]\nsha256 = "{hash_of(token)}"\ndocuments = []\nsources = ["html"]\n'
    )
    ask = """([service, token]) => import(`${service}/fleetquill-page.js`)
        .then(({ press }) => press("#it", { token, service: `${service}/`, into: "nothing" }))
        .then((file) => [file.name, file.pages, file.run.length], (error) => error.message)"""
    screen.goto(address)
    with listening(app(shelf, tmp_path / "t.toml", takes=["html"], origins=[address])) as service:
        assert screen.evaluate(ask, [service, token]) == ["document.pdf", 1, 32]
        assert "Authorization" in screen.evaluate(ask, [service, "x"])
    with listening(app(shelf, tmp_path / "t.toml", takes=["html"])) as service:
        assert "Failed to fetch" in screen.evaluate(ask, [service, token])
