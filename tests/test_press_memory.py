"""A press that is used again and again: what it keeps has an end, and documents go when nobody holds them."""

import base64
import gc
import io
import random
import threading
import tracemalloc
import weakref

import pytest
from PIL import Image

import fleetquill as fq
from fleetquill import process
from fleetquill.caches import Cache
from fleetquill.demo import documents
from fleetquill.drawing.places import Place
from fleetquill.drawing.rows import Cell
from fleetquill.layout.boxes.boxes import Box
from fleetquill.layout.contract.fragments import Fragment
from fleetquill.output.pdf.file import PdfFile
from fleetquill.text.fonts import default_faces

HEAVY = (Box, Fragment, Cell, Place, PdfFile)
SMALL = 16
DOCUMENTS = 24
SOME = 8
MOST_LEFT = 6_500  # bytes that a document may leave, as caches fill up to what they hold at most


@pytest.fixture(autouse=True, scope="module")
def nothing_else():
    """What is there already is none of these tests' business."""
    gc.collect()
    gc.freeze()
    yield
    gc.unfreeze()
    process._frozen = False


def varied_document(source: random.Random) -> fq.Manuscript:
    """A document that shares no word, rule, picture or drawing with another one."""

    def words(count: int) -> str:
        return " ".join("".join(source.choices("abcdefghijklmnop", k=8)) for _ in range(count))

    picture = io.BytesIO()
    Image.new("RGB", (9, 9), tuple(source.randrange(256) for _ in range(3))).save(picture, "PNG")
    address = "data:image/png;base64," + base64.b64encode(picture.getvalue()).decode()
    size = 8 + source.random() * 8
    rows = "".join(f"<tr><td>{source.random()}<td>{words(1)}" for _ in range(3))
    return fq.Manuscript.from_html(
        f"<style>p.{words(1)} {{ color: red }} p {{ font-size: {size}px }}</style><p>{words(20)}<img src='{address}'>"
        f"<svg width=20 height=20><rect width={size} height=9 /></svg><table>{rows}</table>"
    )


def test_what_a_press_keeps_levels_off(monkeypatch):
    monkeypatch.setattr(Cache, "trim", lambda cache: len(cache) >= min(cache.most, SMALL) and cache.clear())
    press, source = fq.Press(), random.Random(1)
    held = []
    tracemalloc.start()
    try:
        for _ in range(3):
            for _ in range(DOCUMENTS):
                press.compose(varied_document(source)).to_bytes()
            gc.collect()
            held.append(tracemalloc.get_traced_memory()[0])
    finally:
        tracemalloc.stop()
    first, second, third = held
    assert third - second < DOCUMENTS * MOST_LEFT, f"{held}: {(third - second) / DOCUMENTS:.0f} bytes a document stay"
    assert first > 0


def measured(press: fq.Press, seed: int) -> int:
    """Bytes that stay after some documents, everything counted."""
    source = random.Random(seed)
    press.compose(varied_document(source)).to_bytes()
    gc.collect()
    tracemalloc.start()
    try:
        for _ in range(SOME):
            press.compose(varied_document(source)).to_bytes()
        gc.collect()
        return tracemalloc.get_traced_memory()[0]
    finally:
        tracemalloc.stop()


def test_what_a_press_keeps_weighs_about_what_it_is_told_to_keep():
    free, held = fq.Press(keep="1GB"), fq.Press(keep="400kB")
    kept = measured(free, 2)
    weighed = free._stock._budget.spent
    assert 0.6 < weighed / kept < 1.7
    assert measured(held, 2) < kept / 2


def test_documents_are_the_same_whatever_is_kept():
    """Caches that begin anew at every step are made use of by all that reads what it has just put there."""
    source = random.Random(3)
    manuscripts = [varied_document(source) for _ in range(2)]
    usual, forgetful = fq.Press(), fq.Press(keep=0)
    for manuscript in manuscripts:
        first, second = usual.compose(manuscript), forgetful.compose(manuscript)
        assert first.to_bytes() == second.to_bytes() and first.remarks == second.remarks


def test_what_is_not_understood_in_a_style_attribute_is_told_though_nothing_is_kept():
    html = "".join(f"<p style='{name}-colr: red; margin: 1px'>{name}" for name in "abcdefghi")
    remarks = fq.Press(keep=0).compose(fq.Manuscript.from_html(html)).remarks
    assert [remark.message.split("'")[1] for remark in remarks] == [f"{name}-colr" for name in "abcdefghi"]


def test_fonts_of_documents_count_as_what_is_kept():
    press = fq.Press(keep="1MB")
    content = default_faces()[0].path.read_bytes()
    for number in range(6):
        font = base64.b64encode(content + number.to_bytes(4, "big")).decode()
        style = f"<style>@font-face {{ font-family: own; src: url('data:font/otf;base64,{font}') }}"
        press.compose(fq.Manuscript.from_html(f"{style} p {{ font-family: own }}</style><p>Toll")).to_bytes()
        assert press._stock._budget.spent <= 1_000_000
    assert len(press._stock._own_settings) * len(content) < 1_000_000


@pytest.mark.parametrize("name", [document.name for document in documents.DOCUMENTS])
def test_a_document_of_the_demo_is_gone_once_it_is_written(press, name, tmp_path):
    """Nothing of ours holds the tree, its boxes or what was laid out: they do not wait for the collector. (Figures of
    Matplotlib do, and with them what was drawn for them; briefs do, too.)"""
    document = next(one for one in documents.DOCUMENTS if one.name == name)
    documents.make_document(document, tmp_path, press)
    gc.collect()
    gc.disable()
    gc.set_debug(gc.DEBUG_SAVEALL)
    try:
        documents.make_document(document, tmp_path, press)
        gc.collect()
        left = {type(one) for one in gc.garbage if isinstance(one, HEAVY)}
    finally:
        gc.set_debug(0)
        gc.garbage.clear()
        gc.enable()
    assert not left


def test_what_others_leave_in_circles_is_collected_though_only_documents_are_made(monkeypatch, tmp_path):
    """Between documents Python has nothing to count, so that its collector would never run by itself."""

    class Knot:
        def __init__(self) -> None:
            self.own = self

    tied: list[weakref.ref[Knot]] = []

    def tie(value: str) -> str:
        tied.append(weakref.ref(Knot()))
        return value

    template = tmp_path / "a.html"
    template.write_text("<p>{{ word | tie }}")
    press = fq.Press(filters={"tie": tie})
    monkeypatch.setattr(process, "SHARE", 0)
    for _ in range(4):
        press.compose(template, data={"word": "Toll"}).to_bytes()
    assert sum(one() is None for one in tied) >= 3


def test_a_process_that_has_frozen_what_it_loaded_looks_through_no_document(monkeypatch):
    """Servers freeze before they fork. Nothing that is frozen is touched, and what documents make is not looked at."""
    monkeypatch.setattr(process, "SHARE", 1_000_000)  # nor is it told to run
    press, manuscript = fq.Press(), fq.Manuscript.from_html("<p>Heron <b>Teal</b>" * 300)
    press.compose(manuscript)
    collected: list[int] = []

    def note(phase: str, info: dict[str, int]) -> None:
        collected.append(info["generation"])

    gc.collect()
    gc.freeze()
    frozen = gc.get_freeze_count()
    gc.callbacks.append(note)
    try:
        for _ in range(5):
            edition = press.compose(manuscript)
        assert collected == [] and gc.get_freeze_count() <= frozen
        assert gc.get_threshold()[0] < process.RESTING[0]
        del edition
    finally:
        gc.callbacks.remove(note)


def test_a_frozen_process_that_makes_a_large_document_rests_and_wakes_as_before(monkeypatch):
    """What waits is less than what rests, else nobody would see that the collector rests, and never tell it to run."""
    monkeypatch.setattr(process, "_frozen", True)
    monkeypatch.setattr(gc, "get_count", lambda: (process.RESTING[0] - 1, 0, 0))
    for _ in range(2):
        with process.making():
            assert gc.get_threshold() == process.RESTING
        assert gc.get_threshold()[0] < process.RESTING[0]


def test_a_document_that_was_left_half_made_is_ended_by_the_collector_at_any_moment():
    def begun():
        with process.making():
            yield

    def leave() -> None:
        knot: list[object] = [begun()]
        next(knot[0])
        knot.append(knot)

    def make() -> None:
        gc.collect()
        before = process._making
        leave()
        with process._lock:  # where the collector may run as well as anywhere
            gc.collect()
        ended.append(process._making == before)

    ended: list[bool] = []
    thread = threading.Thread(target=make, daemon=True)
    thread.start()
    thread.join(timeout=20)
    assert ended == [True]
