"""The editor of the proof, in a real browser: files are changed there, saved, and what they make is seen."""

import json
import os
import subprocess
import urllib.error
import urllib.request

import pytest

import fleetquill as fq
from proving import WAITS, is_drawn

pytestmark = pytest.mark.usefixtures("browser")


@pytest.fixture
def edited(folder, proof, screen):
    """The page with the editor open, and the folder of the shelf."""
    screen.goto(proof(folder, "--edit"))
    is_drawn(screen)
    screen.click("#editing")
    screen.wait_for_selector(".cm-content")
    screen.wait_for_function("editing.name && document.querySelector('#files option')")
    return screen


def text_of(screen):
    return screen.evaluate("editing.editor.text()")


def typed(screen, text):
    """Types at the end of the file."""
    screen.locator(".cm-content").click()
    screen.keyboard.press("Control+End")
    screen.keyboard.type(text)


def said(screen, text):
    screen.wait_for_function("(text) => document.getElementById('saved').textContent === text", arg=text, timeout=WAITS)


def asked(address, method="GET", body=None, **headers):
    request = urllib.request.Request(address, body, headers, method=method)
    try:
        with urllib.request.urlopen(request, timeout=10) as answer:
            return answer.status, answer.read().decode(), answer.headers
    except urllib.error.HTTPError as error:
        return error.code, error.read().decode(), error.headers


# ---- in the browser ----


def test_what_is_typed_is_saved_and_seen(edited, folder):
    names = edited.locator("#files option").all_inner_texts()
    assert names[:2] == ["invoice/invoice.html", "invoice/sample.json"] and "_shared/house.css" in names
    version = edited.get_attribute("#pages", "data-version")
    edited.select_option("#files", "invoice/invoice.html")
    path = folder / "invoice" / "invoice.html"
    edited.wait_for_function("editing.name === 'invoice/invoice.html'")
    assert text_of(edited) == path.read_text()
    typed(edited, "<h2>Typed here</h2>")
    said(edited, "saved")
    is_drawn(edited, version)
    assert "<h2>Typed here</h2>" in path.read_text()
    assert "Typed here" in edited.inner_text("#outline")


def test_it_is_saved_by_a_key_or_a_button_where_that_is_wanted(edited, folder):
    edited.uncheck("#typing")
    edited.select_option("#files", "invoice/sample.json")
    edited.wait_for_function("editing.name === 'invoice/sample.json'")
    path = folder / "invoice" / "sample.json"
    before = path.read_text()
    typed(edited, " ")
    said(edited, "not saved")
    edited.wait_for_timeout(600)
    assert path.read_text() == before
    edited.keyboard.press("Control+s")
    said(edited, "saved")
    assert path.read_text() == f"{before} "
    typed(edited, " ")
    edited.click("#save")
    said(edited, "saved")
    assert path.read_text() == f"{before}  "


def test_lines_are_marked_and_led_to(edited, folder):
    style = folder / "_shared" / "house.css"
    count = len(style.read_text().splitlines())
    style.write_text(style.read_text().rstrip("\n") + "\np { colr: red }\n")
    edited.locator("#remarks button").first.click(timeout=WAITS)
    edited.wait_for_function("editing.name === '_shared/house.css'")
    edited.wait_for_selector(".cm-lint-marker-warning")
    at_line = edited.evaluate("document.querySelector('.cm-activeLineGutter').textContent")
    assert at_line == str(count + 1)
    template = folder / "invoice" / "invoice.html"
    template.write_text(template.read_text().replace("{{ date | date", "{{ dat | date"))
    edited.wait_for_selector("#fault:not([hidden])", timeout=WAITS)
    edited.click("#fault")
    edited.wait_for_function("editing.name === 'invoice/invoice.html'")
    edited.wait_for_selector(".cm-lint-marker-error")


def test_the_rule_behind_a_mark_leads_to_its_line(edited):
    edited.click("#pointing")
    edited.locator(".page").first.click(position={"x": 90, "y": 100})
    edited.locator("#element button.place").first.click()
    edited.wait_for_function("editing.name === '_shared/house.css'")


def test_a_file_that_another_changes_is_taken(edited, folder):
    edited.select_option("#files", "invoice/invoice.html")
    edited.wait_for_function("editing.name === 'invoice/invoice.html'")
    path = folder / "invoice" / "invoice.html"
    path.write_text(path.read_text().replace("Freight invoice", "Changed elsewhere"))
    edited.wait_for_function("editing.editor.text().includes('Changed elsewhere')", timeout=WAITS)
    typed(edited, "<p>more")
    said(edited, "saved")
    assert "Changed elsewhere" in path.read_text() and "<p>more" in path.read_text()


def test_what_was_looked_at_before_it_was_saved_does_not_come_back(edited, folder):
    edited.uncheck("#typing")
    edited.select_option("#files", "_shared/head.html")
    edited.wait_for_function("editing.name === '_shared/head.html'")
    typed(edited, "<p>typed")
    edited.evaluate(
        """async () => {
          const usual = fetchFile;
          let wait, go, fetched;
          const isFetched = new Promise((done) => { fetched = done; });
          wait = new Promise((done) => { go = done; });
          fetchFile = async (name) => { const found = await usual(name); fetched(); await wait; return found; };
          const seen = editorSees(editing.state);
          await isFetched;
          await saveFile();
          go();
          await seen;
          fetchFile = usual;
        }"""
    )
    assert text_of(edited) == (folder / "_shared" / "head.html").read_text() and "<p>typed" in text_of(edited)


@pytest.mark.parametrize(("choice", "kept"), [("#mine", "typed"), ("#theirs", "elsewhere")])
def test_what_two_have_changed_is_asked_for(edited, folder, choice, kept):
    edited.uncheck("#typing")
    edited.select_option("#files", "_shared/head.html")
    edited.wait_for_function("editing.name === '_shared/head.html'")
    typed(edited, "<p>typed")
    path = folder / "_shared" / "head.html"
    path.write_text(path.read_text() + "<p>elsewhere")
    edited.click("#save")
    edited.wait_for_selector("#clash:not([hidden])", timeout=WAITS)
    assert "typed" not in path.read_text()
    edited.click(choice)
    edited.wait_for_selector("#clash", state="hidden")
    edited.wait_for_function(
        "(word) => !editing.dirty && editing.editor.text().includes(word)", arg=kept, timeout=WAITS
    )
    assert f"<p>{kept}" in path.read_text() and text_of(edited) == path.read_text()
    assert ("<p>typed" in path.read_text()) != ("<p>elsewhere" in path.read_text())


def test_without_the_option_nothing_is_edited(folder, proof, screen):
    address = proof(folder)
    screen.goto(address)
    is_drawn(screen)
    assert screen.is_hidden("#editing")
    assert asked(f"{address}documents/invoice/files")[1] == "[]"
    assert asked(f"{address}documents/invoice/files/invoice/invoice.html")[0] == 404


def test_what_was_typed_is_saved_where_another_document_is_chosen(edited, folder):
    edited.uncheck("#typing")
    edited.select_option("#files", "invoice/invoice.html")
    edited.wait_for_function("editing.name === 'invoice/invoice.html'")
    typed(edited, "<p>typed")
    edited.select_option("#documents", "letter")
    edited.wait_for_function("editing.document === 'letter'", timeout=WAITS)
    assert "<p>typed" in (folder / "invoice" / "invoice.html").read_text()
    assert text_of(edited) == (folder / edited.evaluate("editing.name")).read_text()


# ---- asked for ----


def test_files_are_saved_only_as_they_were_read(folder, proof):
    address = f"{proof(folder, '--edit')}documents/invoice"
    asked(address)
    files = f"{address}/files"
    assert "_shared/mark.svg" in json.loads(asked(files)[1])
    status, text, headers = asked(f"{files}/invoice/invoice.html")
    path = folder / "invoice" / "invoice.html"
    assert (status, text) == (200, path.read_text())
    assert asked(f"{files}/invoice/invoice.html", "PUT", b"x", **{"If-Match": '"0"'})[0] == 412
    assert asked(f"{files}/invoice/invoice.html", "PUT", b"\xff", **{"If-Match": headers["ETag"]})[0] == 422
    large = b"x" * (2 * 2**20 + 1)
    assert asked(f"{files}/invoice/invoice.html", "PUT", large, **{"If-Match": headers["ETag"]})[0] == 413
    assert path.read_text() == text
    os.chmod(path, 0o640)
    saved = asked(f"{files}/invoice/invoice.html", "PUT", "<p>ö".encode(), **{"If-Match": headers["ETag"]})
    assert saved[0] == 204 and path.read_text() == "<p>ö" and path.stat().st_mode & 0o777 == 0o640
    assert asked(f"{files}/invoice/invoice.html")[2]["ETag"] == saved[2]["ETag"]


@pytest.mark.parametrize(
    "name",
    ["../outside.html", "..%2foutside.html", "%2fetc%2fpasswd", "receipt.html", "shelf.toml", "invoice", "none.html"],
)
def test_nothing_but_the_documents_own_files_is_read_or_saved(folder, proof, name, tmp_path):
    (tmp_path / "outside.html").write_text("secret")
    address = f"{proof(folder, '--edit')}documents/invoice"
    asked(address)
    assert asked(f"{address}/files/{name}")[0] == 404
    assert asked(f"{address}/files/{name}", "PUT", b"x", **{"If-Match": '"0"'})[0] == 404


def test_a_link_out_of_the_folder_is_no_file_of_it(folder, proof, tmp_path):
    (tmp_path / "outside.css").write_text("h1 { color: red }")
    (folder / "_shared" / "house.css").unlink()
    (folder / "_shared" / "house.css").symlink_to(tmp_path / "outside.css")
    address = f"{proof(folder, '--edit')}documents/invoice"
    asked(address)
    assert "_shared/house.css" not in json.loads(asked(f"{address}/files")[1])


def test_another_page_cannot_save(folder, proof):
    address = f"{proof(folder, '--edit')}documents/invoice"
    asked(address)
    status, *_ = asked(f"{address}/files/invoice/invoice.html", "PUT", b"x", Origin="https://evil.example")
    assert status == 403


def test_the_editor_is_what_its_sources_make(tmp_path):
    """Where its packages are installed (`npm ci` in editor/, as continuous integration does)."""
    folder = os.path.join(os.path.dirname(__file__), "..", "..", "editor")
    if not os.path.isdir(os.path.join(folder, "node_modules")):
        pytest.skip("the editor's packages are not installed")
    made = tmp_path / "editor.js"
    subprocess.run(["node", "build.js", str(made)], cwd=folder, check=True, capture_output=True)
    kept = os.path.join(os.path.dirname(fq.__file__), "serve", "page", "editor.js")
    with open(kept, "rb") as file:
        assert made.read_bytes() == file.read(), "run `npm run build` in editor/"
