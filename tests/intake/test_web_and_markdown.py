"""Markdown, the web, sandboxed templates, data files, and what a web application hands out."""

import http.server
import io
import re
import threading
import time
from typing import ClassVar

import pytest
from PIL import Image

import fleetquill as fq

MARKDOWN = """---
title: A report
language: en
page: A6
margin: 10mm
style: "h1 { color: #0f4c4a }"
footer: {right: "Page {page}"}
---
# Head

Some *text* with a note[^1] and `code`.

| lock | fee |
|------|----:|
| Saltgate | 3 |

[^1]: The **note** itself.
"""


def text(edition):
    return re.sub(r"\s+", " ", " ".join(page.text for page in edition.pages))


def test_markdown_with_tables_footnotes_and_front_matter(press, tmp_path, read_pdf):
    (tmp_path / "report.md").write_text(MARKDOWN)
    edition = press.compose(tmp_path / "report.md")
    assert not edition.remarks and edition.pages[0].width == pytest.approx(297.64, abs=0.01)
    assert text(edition) == "Head Some text with a note1 and code. lock fee Saltgate 3 1 The note itself."
    assert "Page 1" in read_pdf(edition.to_bytes())[0]
    assert fq.Manuscript.from_markdown(MARKDOWN).metadata.title == "A report"


@pytest.mark.parametrize(
    ("front", "words"),
    [
        ("titel: x", "Did you mean 'title'?"),
        ("- a", "not a list of names"),
        ("a: [", "does not parse"),
        ("footer: {top: x}", "no place 'top'"),
    ],
)
def test_front_matter_that_is_not_understood_says_so(front, words):
    with pytest.raises(fq.DataError, match=re.escape(words)):
        fq.Manuscript.from_markdown(f"---\n{front}\n---\nx")


# ---- the web ----


class Site(http.server.BaseHTTPRequestHandler):
    seen: ClassVar[list] = []

    def do_GET(self):
        Site.seen.append((self.path, self.headers.get("X-Key"), self.headers.get("Cookie")))
        path = self.path.partition("?")[0]
        if path == "/slow":
            time.sleep(1.5)
        answers = {
            "/page": (
                "text/html; charset=utf-8",
                "<link rel=stylesheet href=css/a.css><h1>Grüße</h1><img src=p.png><img src=p.png><img src=gone.png><img src='file:///etc/passwd'>".encode(),
            ),
            "/css/a.css": ("text/css", b"h1 { width: 77px; background: url(../p.png) }"),
            "/p.png": ("image/png", _png()),
            "/data": ("application/json", b"{}"),
            "/slow": ("text/html", b"late"),
            "/latin": ("text/html; charset=iso-8859-1", "<p>Gr\xfc\xdfe".encode("latin-1")),
            "/big": ("text/html", b"x" * 5000),
        }
        moves = {"/moved": "/page", "/circle": "/circle", "/machine": "file:///etc/passwd"}
        if path in moves:
            self.send_response(302)
            self.send_header("Location", moves[path])
            self.end_headers()
        elif path in answers:
            kind, content = answers[path]
            self.send_response(200)
            self.send_header("Content-Type", kind)
            self.end_headers()
            self.wfile.write(content)
        else:
            self.send_error(404)

    def log_message(self, *_):
        pass


def _png():
    out = io.BytesIO()
    Image.new("RGB", (8, 8), "red").save(out, "PNG")
    return out.getvalue()


@pytest.fixture(scope="module")
def site():
    server = http.server.ThreadingHTTPServer(("127.0.0.1", 0), Site)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    yield f"http://127.0.0.1:{server.server_port}"
    server.shutdown()


def test_a_page_of_the_web_with_all_that_it_is_made_of(site):
    Site.seen.clear()
    press = fq.Press(policy=fq.Policy(network=True), headers={"X-Key": "k"}, cookies={"s": "1"})
    edition = press.compose(f"{site}/moved")
    assert text(edition).startswith("Grüße") and edition.locate("h1")[0].width == 77 * 0.75
    assert {(key, cookie) for _, key, cookie in Site.seen} == {("k", "s=1")}
    paths = [path for path, _, _ in Site.seen]
    assert paths.count("/p.png") == 1 and paths.count("/gone.png") == 1
    messages = " ".join(r.message for r in edition.remarks)
    assert "404" in messages and "may not read files of this machine" in messages


@pytest.mark.parametrize(
    ("path", "policy", "words"),
    [
        ("/page", {}, "does not let documents read from the web"),
        ("/page", {"network": True, "hosts": ["reedwater.example"]}, "from '127.0.0.1'"),
        ("/none", {"network": True}, "answers 404"),
        ("/data", {"network": True}, "gives 'application/json', not HTML"),
        ("/slow", {"network": True, "timeout": 0.3}, "does not answer within 0.3 s"),
        ("/circle", {"network": True}, "leads in circles"),
        ("/machine", {"network": True}, "not on the web"),
        ("/big", {"network": True, "file_size": 1000}, "larger than the policy allows"),
        ("/page", {"network": True, "resources": 0}, "more than 0 addresses"),
    ],
)
def test_what_the_web_does_not_give_is_a_clear_error(site, path, policy, words):
    with pytest.raises(fq.FleetQuillError, match=re.escape(words)):
        fq.Press(policy=fq.Policy(**policy)).compose(f"{site}{path}")


def test_a_server_that_is_not_there_and_other_encodings(site):
    press = fq.Press(policy=fq.Policy(network=True, timeout=2))
    with pytest.raises(fq.SourceError, match=r"cannot be fetched|does not answer"):
        press.compose("http://127.0.0.1:9/x")
    assert text(press.compose(f"{site}/latin")) == "Grüße"


# ---- templates and data ----


def test_templates_include_from_the_presss_folders_and_data_may_be_a_file(tmp_path):
    (tmp_path / "shared").mkdir()
    (tmp_path / "shared" / "base.html").write_text("<p>{% block b %}{% endblock %}{{ m }}")
    (tmp_path / "a.html").write_text(
        "{% extends 'base.html' %}{% block b %}{{ rows[1].n }} {% for r in rows %}{{ r.n }}{% endfor %} {% endblock %}"
    )
    (tmp_path / "rows.csv").write_text("n\n1\n2\n")
    press = fq.Press(template_folders=[tmp_path / "shared"])
    with pytest.raises(fq.TemplateError, match="'m'"):
        press.compose(tmp_path / "a.html", data=tmp_path / "rows.csv")
    (tmp_path / "shared" / "base.html").write_text("<p>{% block b %}{% endblock %}")
    assert text(press.compose(tmp_path / "a.html", data=tmp_path / "rows.csv")) == "2 12"


STRANGERS = fq.Policy(strangers=True, template_steps=1000)


@pytest.mark.parametrize(
    ("template", "error", "words"),
    [
        ("<p>{{ ''.__class__.__mro__ }}", fq.TemplateError, "may not"),
        ("<p>{{ rows.append(1) }}", fq.TemplateError, "may not"),
        (
            "{% for a in range(900) %}{% for b in range(900) %}{% endfor %}{% endfor %}",
            fq.LimitError,
            "more than 1000 steps",
        ),
        ("{{ range(999999999) }}", fq.LimitError, "more than 1000 steps"),
    ],
)
def test_templates_from_strangers_run_in_a_sandbox(tmp_path, template, error, words):
    (tmp_path / "t.html").write_text(template + "\n")
    with pytest.raises(error, match=re.escape(words)):
        fq.Press(policy=STRANGERS).compose(tmp_path / "t.html", data={"rows": [1]})


def test_a_sandboxed_template_does_what_templates_do(tmp_path):
    (tmp_path / "t.html").write_text(
        "<p>{% for r in rows %}{{ loop.index }}/{{ loop.length }} {{ r | number }} {% endfor %}"
    )
    assert (
        text(fq.Press(policy=STRANGERS).compose(tmp_path / "t.html", data={"rows": [10, 2000]})) == "1/2 10 2/2 2,000"
    )


# ---- handing out ----


@pytest.mark.parametrize(
    ("pattern", "record", "name"),
    [
        ("{number} {customer}", {"number": "F-2041", "customer": "Marrow & Finch"}, "F-2041 Marrow & Finch.pdf"),
        ("{a}", {"a": "../../etc/passwd"}, "etc-passwd.pdf"),
        ("{a}", {"a": "CON"}, "_CON.pdf"),
        ("{a}", {"a": 'a<b>:"c"/\\|?*\x00'}, "a-b-c.pdf"),
        ("{a}", {"a": " . "}, "document.pdf"),
        ("{a}", {"a": "Grüße 船"}, "Grüße 船.pdf"),
        ("{a}.pdf", {"a": "x"}, "x.pdf"),
        ("{a:05d}", {"a": 7}, "00007.pdf"),
        ("{a[b]}", {"a": {"b": 1}}, "1.pdf"),
    ],
)
def test_safe_names(pattern, record, name):
    assert fq.safe_name(pattern, record) == name


def test_safe_names_are_short_enough_and_say_what_is_missing():
    name = fq.safe_name("{a}", {"a": "船" * 500})
    assert len(name.encode()) <= 204 and name.endswith("船.pdf")
    with pytest.raises(fq.DataError, match="Did you mean 'number'"):
        fq.safe_name("{numbr}", {"number": 1})
    for pattern in ("{", "{a.__class__}", "{0}"):
        with pytest.raises(fq.DataError):
            fq.safe_name(pattern, {"a": 1})


@pytest.mark.parametrize(
    ("filename", "inline", "header"),
    [
        ("F-2041.pdf", True, 'inline; filename="F-2041.pdf"'),
        ("Grüße.pdf", False, "attachment; filename=\"Gru_e.pdf\"; filename*=UTF-8''Gr%C3%BC%C3%9Fe.pdf"),
        ('a"b;c.pdf', True, "inline; filename=\"a-b_c.pdf\"; filename*=UTF-8''a-b%3Bc.pdf"),
        ("船.pdf", True, "inline; filename=\"document.pdf\"; filename*=UTF-8''%E8%88%B9.pdf"),
    ],
)
def test_headers_for_a_web_application(press, filename, inline, header):
    edition = press.compose(fq.Manuscript.from_html("<p>x"))
    headers = edition.headers(filename, inline=inline)
    assert headers["Content-Type"] == "application/pdf" and int(headers["Content-Length"]) == len(edition.to_bytes())
    assert re.fullmatch(r'"[0-9a-f]{32}"', headers["ETag"]) and headers["ETag"] == edition.headers("other.pdf")["ETag"]
    expected = header.replace("Gru_e", "Gruße".encode("ascii", "ignore").decode())
    assert headers["Content-Disposition"] == expected


MARKDOWN_FOR_READERS = """# Locks & Keepers

[Crane](#crane-hire-2026) [again](#crane-hire-2026-1) [Locks](#locks--keepers) [Ärger](#ärger)

## Crane hire, 2026

- [x] Loaded
- [ ] Unloaded
- plain

## Ärger

Term
: Its definition

## Crane hire, 2026
"""


def test_links_of_markdown_lead_to_headings():
    edition = fq.compose(fq.Manuscript.from_markdown(MARKDOWN_FOR_READERS))
    assert not edition.remarks
    names = ("#locks--keepers", "#crane-hire-2026", "#ärger", "#crane-hire-2026-1")
    places = [edition.locate(name)[0].y for name in names]
    assert places == sorted(places) and len(set(places)) == 4


def test_tasks_of_markdown_are_boxes_without_bullets():
    text = fq.compose(fq.Manuscript.from_markdown(MARKDOWN_FOR_READERS)).pages[0].text
    assert text.count("•") == 1 and "plain" in text
    target = io.BytesIO()
    fq.Press().write(fq.Manuscript.from_markdown(MARKDOWN_FOR_READERS), target, kind="txt")
    said = target.getvalue().decode()
    assert "[☑] Loaded" in said and "[☐] Unloaded" in said


def test_terms_of_markdown_have_their_definitions():
    edition = fq.compose(fq.Manuscript.from_markdown(MARKDOWN_FOR_READERS))
    (term,), (definition,) = edition.locate("dt"), edition.locate("dd")
    assert definition.x > term.x and definition.y >= term.y + term.height - 0.1


@pytest.mark.parametrize(
    ("href", "name", "told"),
    [
        ("#%C3%A4rger", "ärger", False), ("#a%20b", "a b", False), ("#a%20b", "a%20b", False),
        ("#%E6%BC%A2", "漢", False), ("#%C3%A4rger", "arger", True), ("#100%", "100%", False),
    ],
)  # fmt: skip
def test_links_lead_to_names_that_they_encode(href, name, told):
    html = f"<a href='{href}'>there</a><p id='{name}'>here"
    assert bool(fq.compose(fq.Manuscript.from_html(html)).remarks) == told
