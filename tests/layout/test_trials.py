"""What is laid out several times over, until columns are level and footnotes have their room."""

from contextlib import nullcontext

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import fleetquill as fq
from fleetquill.layout.contract.context import Context

SHEET = """<style>
@page { size: 300px 240px; margin: 20px } body { font-size: 14px; margin: 0 } .n { float: footnote }
.low { height: 20px; padding: 4px } .moved { position: relative; top: 3px } .tall { min-height: 60px }
</style>"""
TEXTS = st.tuples(
    st.sampled_from(["p", "p", "p class=low", "p class=moved", "p class=tall", "h2 style='break-after:avoid'"]),
    st.integers(1, 40),
    st.integers(0, 12),
)
COLUMNS = st.tuples(st.integers(1, 3), st.lists(TEXTS, min_size=1, max_size=5))


def words(count: int, first: int) -> str:
    return " ".join(f"reed{number}" for number in range(first, first + count))


@settings(max_examples=24, deadline=None)
@given(st.lists(COLUMNS, min_size=1, max_size=4))
def test_paragraphs_that_are_kept_between_tries_stand_as_new_ones_would(parts):
    html = SHEET
    for count, texts in parts:
        inner = "".join(
            f"<{tag}>{words(long, 0)}{f'<span class=n>{words(note, 50)}</span>' if note > 6 else ''}"
            for tag, long, note in texts
        )
        html += f"<div style='columns:{count}'>{inner}</div>"
    press = fq.Press()

    def made() -> tuple[bytes, object]:
        edition = press.compose(fq.Manuscript.from_html(html))
        return edition.to_bytes(), edition.remarks

    quick = made()
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(Context, "trying", lambda _: nullcontext())
        assert made() == quick
