"""Small charts."""

import re

import pytest

import fleetquill as fq


def test_a_small_chart_of_another_size_is_drawn_for_it_and_not_stretched():
    edition = fq.compose(
        fq.Manuscript.from_html("<fq-spark values='3 5 2' style='width: 80mm; height: 5mm'></fq-spark>")
    )
    svg = edition.pages[0].to_svg()
    assert "matrix(1 0 0 1 " in svg  # it is placed, not scaled
    path = re.findall(r'<path d="M([^"]+)Z"', svg)[-1]
    numbers = [float(number) for number in re.findall(r"-?[\d.]+", path)]
    wide, high = (max(side) - min(side) for side in (numbers[::2], numbers[1::2]))
    assert wide == pytest.approx(high)
    assert wide < 10
