"""A press that is used again and again: what it keeps has an end."""

import base64
import gc
import io
import random
import tracemalloc

from PIL import Image

import fleetquill as fq
from fleetquill.caches import Cache

SMALL = 16
DOCUMENTS = 60


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
    assert third - second < 400_000, f"{held}: {(third - second) / DOCUMENTS:.0f} bytes a document stay"
    assert first > 0
