"""The package as a whole: its public names, and what importing it costs."""

from __future__ import annotations

import subprocess
import sys

import pytest

import fleetquill as fq


def test_every_public_name_is_there():
    for name in fq.__all__:
        assert getattr(fq, name) is not None
    assert set(fq.__all__) <= set(dir(fq))


def test_an_unknown_name_is_an_attribute_error():
    with pytest.raises(AttributeError, match="no attribute 'composse'"):
        fq.composse  # noqa: B018


def test_importing_the_package_loads_nothing_heavy():
    heavy = ("lxml", "uharfbuzz", "jinja2", "PIL", "babel")
    code = f"import sys, fleetquill; print([name for name in {heavy} if name in sys.modules])"
    result = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert result.stdout.strip() == "[]"


def test_errors_are_one_family_and_say_where():
    error = fq.DataError("It is wrong.", where=fq.Where("a.json", 3, 7), remedy="Mend it.")
    assert isinstance(error, fq.FleetQuillError)
    assert str(error) == "a.json, line 3, column 7: It is wrong. Mend it."


def test_a_pdf_opens_no_room_of_another_kind():
    """Each module that is loaded without need makes every short run longer."""
    code = (
        "import sys, io, fleetquill as fq; fq.write(fq.Manuscript.from_html('<p>x</p>'), io.BytesIO(), kind='pdf');"
        "print(*sorted(name for name in sys.modules if name.startswith('fleetquill')))"
    )
    loaded = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stdout.split()
    rooms = ("docx", "xlsx", "csv", "txt", "md", "html", "svg", "png")
    others = tuple(f"fleetquill.output.{room}" for room in rooms)
    assert "fleetquill.output.pdf.canvas" in loaded
    assert [
        name for name in loaded if name.startswith((*others, "fleetquill.rows_job", "fleetquill.structure.flow"))
    ] == []
