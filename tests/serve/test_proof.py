"""The proof in a real browser: it shows documents as they are, and again when a file is saved."""

import json
import re
import time
import urllib.error
import urllib.request

import pytest

import fleetquill as fq
from command_line import command
from proving import WAITS, is_drawn


def asked(address, **headers):
    return urllib.request.urlopen(urllib.request.Request(address, headers=headers), timeout=10)


def test_a_shelf_is_shown_and_again_when_a_file_is_saved(folder, proof, screen):
    screen.goto(proof(folder))
    version = is_drawn(screen)
    assert screen.locator("#documents option").all_inner_texts() == ["invoice", "label", "letter", "receipt", "tolls"]
    assert "1 page" in screen.inner_text("#said")
    file = folder / "invoice" / "invoice.html"
    text = file.read_text()
    times = []
    for turn in range(5):
        start = time.perf_counter()
        file.write_text(text.replace("Freight invoice", f"Changed {turn}"))
        version = is_drawn(screen, version)
        times.append(time.perf_counter() - start)
        assert screen.inner_text("#outline").startswith(f"Changed {turn}")
    assert sorted(times)[2] < 1.0, times  # some 110 ms on a machine that has nothing else to do


@pytest.mark.parametrize("name", ["invoice/sample.json", "_shared/house.css", "_shared/head.html"])
def test_whatever_it_is_made_from_is_watched(folder, proof, screen, name):
    screen.goto(proof(folder))
    version = is_drawn(screen)
    path = folder / name
    path.write_text(path.read_text().replace("F-2041", "F-9999") + " ")
    is_drawn(screen, version)


def test_an_error_stands_there_with_its_line_and_the_last_good_pages_stay(folder, proof, screen):
    screen.goto(proof(folder))
    version = is_drawn(screen)
    file = folder / "invoice" / "invoice.html"
    text = file.read_text()
    file.write_text(text.replace("{{ date | date", "{{ dat | date"))
    screen.wait_for_selector("#fault:not([hidden])", timeout=WAITS)
    assert "line 8" in screen.inner_text("#fault") and "Did you mean 'date'" in screen.inner_text("#fault")
    version = is_drawn(screen, version)
    file.write_text(text)
    screen.wait_for_selector("#fault", state="hidden", timeout=WAITS)


def test_a_file_that_was_missing_is_seen_when_it_comes(folder, proof, screen):
    screen.goto(proof(folder))
    version = is_drawn(screen)
    template, added = folder / "invoice" / "invoice.html", folder / "_shared" / "foot.html"
    template.write_text(template.read_text() + "{% include '_shared/foot.html' %}")
    screen.wait_for_selector("#fault:not([hidden])", timeout=WAITS)
    assert "'_shared/foot.html'" in screen.inner_text("#fault")
    version = is_drawn(screen, version)
    added.write_text("<p>Reedwater")
    is_drawn(screen, version)
    assert screen.locator("#fault").is_hidden()


def test_a_remark_leads_to_its_page(tmp_path, proof, screen):
    path = tmp_path / "long.html"
    pages = "".join(f"<h1 style='break-before:page'>Part {n}</h1>" for n in range(1, 31))
    path.write_text(f"<html lang=en>{pages}<p><span style='display:inline-block;width:900mm'>wide</span>")
    screen.goto(proof(path))
    is_drawn(screen)
    assert screen.locator(".page").count() == 30
    assert 0 < screen.locator(".page img").count() < 10, "pages in view come first"
    screen.locator("#remarks button").first.click()
    screen.wait_for_selector(".page[data-number='30'] img", timeout=WAITS)
    screen.locator("#outline button", has_text="Part 12").click()
    screen.wait_for_selector(".page[data-number='12'] img", timeout=WAITS)


def test_place_and_zoom_are_kept(tmp_path, proof, screen):
    path = tmp_path / "long.html"
    text = "".join(f"<h1 style='break-before:page'>Part {n}</h1>" for n in range(1, 21))
    path.write_text(text)
    screen.goto(proof(path))
    version = is_drawn(screen)
    screen.select_option("#zoom", "0.5")
    screen.evaluate("document.getElementById('pages').scrollTop = 3000")
    before = screen.evaluate("document.getElementById('pages').scrollTop")
    wide = screen.evaluate("document.querySelector('.page').offsetWidth")
    path.write_text(text.replace("Part 7", "Seven"))
    screen.wait_for_function(
        "(v) => document.getElementById('pages').dataset.version !== v", arg=version, timeout=WAITS
    )
    assert screen.evaluate("document.getElementById('pages').scrollTop") == pytest.approx(before, abs=2)
    assert screen.evaluate("document.querySelector('.page').offsetWidth") == wide


def test_documents_are_downloaded_as_any_kind(folder, proof, screen):
    screen.goto(proof(folder))
    is_drawn(screen)
    screen.select_option("#documents", "letter")
    screen.wait_for_function("document.title.startsWith('letter')", timeout=WAITS)
    for kind, start in (("pdf", b"%PDF-"), ("docx", b"PK"), ("txt", b"")):
        screen.select_option("#kinds", kind)
        with screen.expect_download() as download:
            screen.click("#download")
        found = download.value
        assert found.suggested_filename == f"letter.{kind}"
        with open(found.path(), "rb") as file:
            assert file.read().startswith(start)


def test_it_works_on_a_telephone_and_in_the_dark(folder, proof, screen):
    screen.set_viewport_size({"width": 390, "height": 800})
    screen.emulate_media(color_scheme="dark")
    screen.goto(proof(folder) + "#receipt")
    is_drawn(screen)
    assert screen.input_value("#documents") == "receipt"
    assert screen.evaluate("document.documentElement.scrollWidth") <= 390
    ground = screen.evaluate("getComputedStyle(document.body).backgroundColor")
    assert max(map(int, re.findall(r"\d+", ground))) < 60


def test_everything_is_reached_by_keys(folder, proof, screen):
    screen.goto(proof(folder))
    is_drawn(screen)
    reached = []
    for _ in range(16):
        screen.keyboard.press("Tab")
        reached.append(screen.evaluate("document.activeElement.id || document.activeElement.tagName"))
    assert reached[:4] == ["documents", "pointing", "ruling", "comparing"] and "pages" in reached


def pointed(screen, across, down):
    """Moves the pointer over the first page, by shares of its width and height."""
    box = screen.locator(".page").first.bounding_box()
    screen.mouse.move(box["x"] + across * box["width"], box["y"] + down * box["height"])


def test_an_element_is_pointed_at(folder, proof, screen):
    screen.goto(proof(folder))
    version = is_drawn(screen)
    pointed(screen, 0.5, 0.36)
    assert screen.locator("#element").is_hidden()
    screen.click("#pointing")
    pointed(screen, 0.5, 0.361)
    screen.wait_for_selector(".boxes.padding", timeout=WAITS)
    told = screen.inner_text("#element")
    assert "tbody > tr > td" in told and "invoice.html, line 12" in told
    assert "padding: 1.5mm 2mm" in told and "th, td · house.css, line 8" in told
    assert screen.locator("#element .lost").first.inner_text() == "padding: 1px"
    box, page = (screen.locator(kind).first.bounding_box() for kind in (".boxes.border", ".page"))
    assert box["width"] / page["width"] == pytest.approx(107.8 / 595.3, abs=0.005)
    screen.mouse.click(page["x"] + page["width"] / 2, page["y"] + page["height"] * 0.361)
    pointed(screen, 0.5, 0.13)  # it is held
    sheet = folder / "_shared" / "house.css"
    sheet.write_text(sheet.read_text().replace("1.5mm 2mm", "2mm 3mm"))
    is_drawn(screen, version)
    screen.wait_for_function("document.getElementById('element').innerText.includes('padding: 2mm 3mm')", timeout=WAITS)
    screen.keyboard.press("Escape")
    assert screen.locator("#element").is_hidden() and screen.locator(".boxes").count() == 0


def test_the_arrow_keys_point_too(folder, proof, screen):
    screen.goto(proof(folder))
    is_drawn(screen)
    screen.click("#pointing")
    screen.focus("#pages")
    screen.keyboard.press("ArrowDown")
    screen.wait_for_function("document.getElementById('element').innerText.includes('html >')", timeout=WAITS)


def test_what_the_last_change_moved_is_framed(folder, proof, screen):
    screen.goto(proof(folder))
    version = is_drawn(screen)
    screen.click("#comparing")
    screen.wait_for_function("document.getElementById('changes').innerText.includes('nothing before')", timeout=WAITS)
    file = folder / "invoice" / "invoice.html"
    file.write_text(file.read_text().replace("Total", "Sum"))
    is_drawn(screen, version)
    screen.wait_for_selector(".change.came", timeout=WAITS)
    assert "'Sum' is new" in screen.inner_text("#changes") and "'Total' is gone" in screen.inner_text("#changes")
    assert (screen.locator(".came").count(), screen.locator(".went").count()) == (1, 1)
    screen.click("#comparing")
    assert screen.locator(".change").count() == 0


def test_the_data_is_shown_as_it_is_now(folder, proof, screen):
    screen.goto(proof(folder))
    version = is_drawn(screen)
    screen.click("#data summary")
    screen.wait_for_function("document.getElementById('data').innerText.includes('F-2041')", timeout=WAITS)
    sample = folder / "invoice" / "sample.json"
    sample.write_text(sample.read_text().replace("F-2041", "F-3000"))
    is_drawn(screen, version)
    screen.wait_for_function("document.getElementById('data').innerText.includes('F-3000')", timeout=WAITS)


def test_rulers_show_the_page_area(folder, proof, screen):
    screen.goto(proof(folder))
    is_drawn(screen)
    screen.click("#ruling")
    page, area = (screen.locator(kind).first.bounding_box() for kind in (".page", ".area"))
    assert (area["x"] - page["x"]) / page["width"] == pytest.approx(20 / 210, abs=0.002)
    assert screen.locator(".ruler.across i").all_inner_texts() == [str(mm) for mm in range(20, 201, 20)]


def test_other_paper_and_another_locale_are_tried(folder, proof, screen):
    address = proof(folder)
    screen.goto(address)
    version = is_drawn(screen)
    screen.select_option("[name=page]", "A5")
    version = is_drawn(screen, version)
    screen.check("[name=landscape]")
    version = is_drawn(screen, version)
    screen.fill("[name=locale]", "de")
    screen.press("[name=locale]", "Enter")
    is_drawn(screen, version)
    state = json.load(asked(address + "documents/invoice"))
    assert state["picked"] == {"page": "A5", "landscape": True, "locale": "de", "fillable": False}
    assert state["pages"][0][:2] == pytest.approx([595.276, 419.528], abs=0.01)
    volume = fq.Volume(asked(address + "documents/invoice/file?kind=pdf").read())
    assert "494,92" in volume.pages[0].text and round(volume.pages[0].width) == 595
    screen.fill("[name=locale]", "nowhere")
    screen.press("[name=locale]", "Enter")
    screen.wait_for_selector("#fault:not([hidden])", timeout=WAITS)
    assert "The locale 'nowhere' is not known" in screen.inner_text("#fault")


@pytest.mark.parametrize("said", [b"", b"[1]", b'{"page": 3}', b'{"landscape": "yes"}', b"[" * 100_000])
def test_what_is_no_choice_is_refused(folder, proof, said):
    address = proof(folder)
    wish = urllib.request.Request(address + "documents/invoice/picked", said, {"Content-Type": "application/json"})
    with pytest.raises(urllib.error.HTTPError, match="400"):
        urllib.request.urlopen(wish, timeout=10)
    with pytest.raises(urllib.error.HTTPError, match="400"):
        asked(address + "documents/invoice/1/1/element?x=a&y=2")


# ---- who may ask ----


def test_only_this_machine_at_the_address_that_was_given(folder, proof):
    address = proof(folder)
    root = address.rsplit("/", 2)[0]
    for path in ("/", "/documents", "/wrong-token-0000000/documents"):
        with pytest.raises(urllib.error.HTTPError, match="404"):
            asked(root + path)
    with pytest.raises(urllib.error.HTTPError, match="403"):
        asked(address + "documents", Host="evil.example")
    with pytest.raises(urllib.error.HTTPError, match="403"):
        asked(address + "documents", Origin="https://evil.example")
    answer = asked(address, Origin=root)
    assert "default-src 'none'" in answer.headers["Content-Security-Policy"]
    assert answer.headers["Referrer-Policy"] == "no-referrer"
    listed = json.load(asked(address + "documents"))
    assert listed["documents"] == list(fq.Shelf(folder).names)


@pytest.mark.parametrize(
    "path",
    [
        "documents/none",
        "documents/invoice/9/1.svg",
        "documents/invoice/1/99.svg",
        "documents/invoice/file?kind=exe",
        "../x",
    ],
)
def test_what_is_not_there_is_said_to_be(folder, proof, path):
    address = proof(folder)
    asked(address + "documents/invoice")
    with pytest.raises(urllib.error.HTTPError, match="404"):
        asked(address + path)


def test_a_template_alone_is_filled_in(tmp_path, proof):
    (tmp_path / "a.html").write_text("<h1>{{ title }}</h1>")
    (tmp_path / "a.json").write_text('{"title": "Tolls"}')
    address = proof(tmp_path / "a.html", "--data", tmp_path / "a.json")
    state = json.load(asked(address + "documents/a"))
    assert state["fault"] == "" and state["outline"][0]["label"] == "Tolls"
    svg = asked(f"{address}documents/a/{state['version']}/1.svg")
    assert svg.headers["Content-Type"] == "image/svg+xml" and svg.read().startswith(b"<svg")


@pytest.mark.parametrize(
    ("arguments", "message"), [(["none.html"], "neither a file nor a shelf"), (["."], "has no documents")]
)
def test_what_cannot_be_shown_is_refused(tmp_path, arguments, message):
    done = command("proof", *arguments, folder=tmp_path)
    assert done.returncode == 1 and message in done.stderr
