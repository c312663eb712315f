"""The docs tell the truth: their code runs, every name stands in the reference, every page in the site."""

from __future__ import annotations

import ast
import re
from datetime import date, datetime, time, timedelta
from decimal import Decimal
from pathlib import Path

import pytest
import yaml
from lxml import html
from tools.manual import reference
from tools.manual.pages import DOCS, ROOT, docs_pages
from tools.manual.running import BLOCK, CodeError, run, shots_of
from tools.manual.setting import Manual, slug
from tools.write_figures import write

import fleetquill as fq
from fleetquill.formats import Formats

PAGES = docs_pages()
SOURCES = Path(fq.__file__).parent


@pytest.mark.parametrize("page", [page for page in PAGES if page.is_run], ids=lambda page: page.path)
def test_the_code_of_tutorials_and_recipes_runs_and_makes_its_pages(page, tmp_path):
    run(DOCS / page.path, tmp_path / "made")
    assert sorted(path.name for path in (tmp_path / "made").glob("*")) == sorted(
        {shot.name for shot in shots_of(page.text)}
    )


@pytest.mark.parametrize(
    ("code", "said"),
    [
        ("raise ValueError('low water')", "low water"),
        ("pass\n```\n<!-- page: none.pdf 1 | x -->\n```python\npass", "makes no 'none.pdf'"),
    ],
)
def test_code_that_does_not_run_is_told_with_its_page(tmp_path, code, said):
    page = tmp_path / "page.md"
    page.write_text(f"# A page\n\n```python\n{code}\n```\n")
    with pytest.raises(CodeError, match=said) as caught:
        run(page, tmp_path / "made")
    assert str(page) in str(caught.value)


@pytest.mark.parametrize("page", [page for page in PAGES if not page.is_run], ids=lambda page: page.path)
def test_code_of_other_pages_is_python(page):
    for block in BLOCK.findall(page.text):
        ast.parse(block)


def test_every_page_stands_in_the_site_and_every_entry_leads_to_one():
    paths = [page.path for page in PAGES]
    assert len(set(paths)) == len(paths)
    own = {path.relative_to(DOCS).as_posix() for path in DOCS.rglob("*.md")}
    assert own <= set(paths), f"not in mkdocs.yml: {own - set(paths)}"
    assert all(page.text.startswith("# ") for page in PAGES)


def test_links_of_the_readme_lead_to_files_and_it_is_short():
    text = (ROOT / "README.md").read_text(encoding="utf-8")
    assert len(text.splitlines()) <= 150
    for address in re.findall(r"\]\((?!https?:)([^)#]+)", text):
        assert (ROOT / address).is_file(), address
    shots = {path.name for path in (DOCS / "screenshots").glob("*.png")}
    assert len(shots) < 20 and shots == set(re.findall(r"docs/screenshots/([\w-]+\.png)", text))


def test_links_within_the_manual_lead_somewhere_and_nothing_is_named_twice():
    root = html.fromstring(Manual(PAGES).html("1.0"))
    names = root.xpath("//@id")
    assert len(set(names)) == len(names)
    wanted = {address[1:] for address in root.xpath("//@href") if address.startswith("#")}
    assert wanted and wanted <= set(names), wanted - set(names)


@pytest.mark.parametrize(
    ("heading", "name"),
    [
        ("Page 3 of 12", "page-3-of-12"),
        ("Head repeated on each page, no row cut", "head-repeated-on-each-page-no-row-cut"),
        ("  A – B ", "a-b"),
    ],
)
def test_identifiers_are_those_of_the_site(heading, name):
    assert slug(heading) == name


def test_every_public_name_stands_in_the_reference():
    assert reference.missing_names() == []
    text = reference.python_page()
    for name in ("Press.compose", "Manuscript.table", "Fleet.run", "Volume.fields", "Plate.text"):
        assert f"#### {name}\n" in text
    assert "keep: int | str = 64000000" in text and "See its name" not in text


def test_every_command_and_option_stands_in_the_reference():
    from fleetquill.cli.main import main

    text = reference.command_page()
    for name, command in main.commands.items():
        assert f"## fleetquill {name}\n" in text
        for parameter in command.params:
            assert all(f"{option}" in text for option in parameter.opts if option.startswith("--")), (name, parameter)


def test_every_kind_of_remark_and_every_error_is_explained():
    told = set(re.findall(r"^\| `(\w+)` \|", (DOCS / "reference/remarks.md").read_text(encoding="utf-8"), re.MULTILINE))
    made = re.compile(
        r"(?:\.(?:add|remark|remark_first|remark_once|gather|add_lasting)|Remark|_remark|Note)\(\s*\"([a-z]+)\""
    )
    kinds = {kind for path in SOURCES.rglob("*.py") for kind in made.findall(path.read_text(encoding="utf-8"))}
    assert kinds - told - {"figure", "section"} == set() and kinds >= {"style", "picture", "overflow"}
    errors = set(
        re.findall(r"^\| `(\w+Error)` \|", (DOCS / "reference/errors.md").read_text(encoding="utf-8"), re.MULTILINE)
    )
    assert errors | {"FleetQuillError"} == {
        name for name in fq.__all__ if isinstance(getattr(fq, name), type) and issubclass(getattr(fq, name), Exception)
    }


VALUES = {
    "1234.5": Decimal("1234.5"), "7.5": Decimal("7.5"), "0.256": Decimal("0.256"), "2026-06-30": date(2026, 6, 30),
    "21:47": time(21, 47), "2026-06-30 21:47": datetime(2026, 6, 30, 21, 47), "5400 s": timedelta(seconds=5400), "52300": 52300,
}  # fmt: skip
FORMS = re.findall(
    r"^\| `([^`]+)` \| ([^|]+) \| ([^|]+) \| ([^|]+) \|$",
    (DOCS / "reference/forms.md").read_text("utf-8"),
    re.MULTILINE,
)


@pytest.mark.parametrize(("form", "value", "irish", "german"), [row for row in FORMS if row[0] != "text"])
def test_the_table_of_forms_says_what_is_written(form, value, irish, german):
    for locale, text in (("en-IE", irish), ("de", german)):
        assert Formats(locale, "EUR").form(VALUES[value], form).replace("\u00a0", " ") == text


def test_figures_that_were_measured_are_written_into_their_page(tmp_path):
    page = tmp_path / "page.md"
    page.write_text("# How fast\n\n<!-- figures -->\nold\n<!-- end of figures -->\n\nmore\n")
    rows = [
        {"work": "a", "reach": 3.0, "ratio": 2.456, "difference": 1.0},
        {"work": "b", "reach": 0.03, "ratio": 1, "difference": 0.0256},
    ]
    for _ in range(2):
        write(rows, page)
        text = page.read_text()
        assert (
            "| a | 2.46 | 3 |\n| b | +26 ms | +30 ms |\n" in text and "old" not in text and text.endswith("\n\nmore\n")
        )
    page.write_text("# How fast")
    with pytest.raises(ValueError, match="has no '<!-- figures -->'"):
        write(rows, page)


def test_the_site_names_one_version_of_everything():
    settings = yaml.safe_load((ROOT / "mkdocs.yml").read_text(encoding="utf-8"))
    assert settings["docs_dir"].startswith("build/") and settings["plugins"] == ["search"]
