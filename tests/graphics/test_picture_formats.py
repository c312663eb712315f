"""Only formats that are named are opened, whatever a file is called: none of them starts another program."""

from __future__ import annotations

import io
import subprocess

import pytest

import fleetquill as fq

pil = pytest.importorskip("PIL.Image")

EPS = b"%!PS-Adobe-3.0 EPSF-3.0\n%%BoundingBox: 0 0 9 9\n%%EndComments\n(made) (w) file closefile\nshowpage\n%%EOF\n"


@pytest.fixture
def no_programs(monkeypatch):
    def refused(*args, **_):
        raise AssertionError(f"{args} was started")

    for name in ("Popen", "run", "call", "check_call", "check_output"):
        monkeypatch.setattr(subprocess, name, refused)


@pytest.mark.parametrize("door", ["img", "background", "svg", "pictures", "python"])
def test_a_program_named_as_a_picture_is_not_run(tmp_path, no_programs, door):
    (tmp_path / "a.png").write_bytes(EPS)
    if door == "pictures":
        with pytest.raises(fq.SourceError, match="not a picture"):
            fq.compose(fq.Manuscript.from_pictures([tmp_path / "a.png"]))
        return
    if door == "python":
        m = fq.Manuscript(base=tmp_path)
        m.picture(EPS)
    else:
        html = {
            "img": "<img src=a.png>",
            "background": "<div style='background:url(a.png)'>x</div>",
            "svg": "<svg width=9 height=9><image href='a.png' width=9 height=9 /></svg>",
        }[door]
        m = fq.Manuscript.from_html(html, base=tmp_path)
    edition = fq.compose(m)
    edition.to_bytes()
    assert any("not a picture" in remark.message for remark in edition.remarks)


@pytest.mark.parametrize("kind", ["PNG", "JPEG", "GIF", "BMP", "PPM", "WEBP", "TIFF", "JPEG2000", "ICO", "AVIF"])
def test_a_picture_of_every_usual_format_is_shown(kind):
    out = io.BytesIO()
    try:
        pil.new("RGB", (32, 32), "red").save(out, kind)
    except (KeyError, OSError):
        pytest.skip(f"Pillow writes no {kind} here")
    m = fq.Manuscript()
    m.picture(out.getvalue())
    edition = fq.compose(m)
    edition.to_bytes()
    assert not edition.remarks
