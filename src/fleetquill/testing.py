"""For tests of documents: what stands on which page, and where, what was remarked, and how pages look.

    from fleetquill.testing import assert_page_text, assert_placed, assert_no_remarks

    def test_the_total_stands_on_the_last_page(kept_pages):
        edition = fq.compose("invoice.html", data=ORDER)
        assert_no_remarks(edition)
        assert_page_text(edition, "Total €3,220.00", page=-1)
        assert_placed(edition, "#total", page=2, right=538.6)
        kept_pages(edition, "invoice")

pytest knows the fixture `kept_pages` and the option --keep-pages by itself once the package is installed.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from difflib import get_close_matches
from pathlib import Path
from typing import TYPE_CHECKING, Any, Final

import pytest

from fleetquill.errors import OptionError

if TYPE_CHECKING:
    from PIL.Image import Image

    from fleetquill.edition import Edition
    from fleetquill.inspecting import Placement

NEAR: Final = 0.5  # points that a place may be off
SHARE: Final = 0.001  # of a page's pixels that may differ
FAINT: Final = 40  # of 255, by which a pixel may differ and still be the same
DPI: Final = 80
FOLDER: Final = "kept_pages"
LONGEST_SHOWN: Final = 400  # characters of a page's text in a message
MOST_TOLD: Final = 12  # changes
SIDES: Final = ("x", "y", "width", "height", "right", "bottom")


def assert_page_text(edition: Edition, text: str, *, page: int | None = None, times: int | None = None) -> None:
    """Fails where a text is on no page, or not on that one (from 1; -1 is the last), or not so many times.

    White space counts as one space, however lines are broken. `times=0` says that the text is nowhere.
    """
    __tracebackhide__ = True
    wanted = _folded(text)
    shown = [_folded(part.text) for part in edition.pages]
    places = range(1, len(shown) + 1) if page is None else [_number(edition, page)]
    count = sum(shown[number - 1].count(wanted) for number in places)
    if count == times or (times is None and count):
        return
    where = "on any page" if page is None else f"on page {places[0]} of {len(shown)}"
    found = [number for number, said in enumerate(shown, 1) if wanted in said]
    message = (
        f"'{wanted}' stands {count} times {where}, not {times}."
        if times is not None
        else f"'{wanted}' does not stand {where}."
    )
    if found and page is not None:
        message += f" It stands on page {_listed(found)}."
    elif not found:
        message += _nearest_line(wanted, edition, places)
    pytest.fail(message, pytrace=False)


def assert_same_pages(edition: Edition, kept: str | Path, *, near: float = NEAR) -> None:
    """Fails where words, shapes or pictures of an edition are others than in a kept PDF, or stand elsewhere by more
    than `near` points; the message says which."""
    __tracebackhide__ = True
    from fleetquill.bindery.comparing import compare

    found = compare(Path(kept), edition, near=near)
    if not found.same:
        told = "\n".join(f"  {change}" for change in found.changes[:MOST_TOLD])
        more = f"\n  … and {len(found.changes) - MOST_TOLD} more" if len(found.changes) > MOST_TOLD else ""
        pytest.fail(f"It differs from {kept}:\n{told}{more}", pytrace=False)


def assert_page_count(edition: Edition, count: int) -> None:
    """Fails where there are more or fewer pages; the message shows what the last of them say."""
    __tracebackhide__ = True
    if edition.page_count != count:
        last = _shortened(_folded(edition.pages[-1].text))
        pytest.fail(f"There are {edition.page_count} pages, not {count}. The last one says: {last}", pytrace=False)


def assert_placed(
    edition: Edition, selector: str, *, page: int | None = None, near: float = NEAR, **sides: float
) -> Placement:
    """Gives where the first element that a selector matches stands; fails where that is elsewhere than asked.

    `page` counts from 1, -1 is the last. `x`, `y`, `width`, `height`, `right` and `bottom` are points
    from the page's top-left corner, and may be off by `near`.
    """
    __tracebackhide__ = True
    unknown = set(sides) - set(SIDES)
    if unknown:
        raise TypeError(f"'{unknown.pop()}' is no side of a placement: it may be {', '.join(SIDES)}.")
    found = edition.locate(selector)
    if not found:
        pytest.fail(f"No element '{selector}' is on any page.", pytrace=False)
    number = None if page is None else _number(edition, page)
    here = [placement for placement in found if number in (None, placement.page)]
    if not here:
        pytest.fail(
            f"'{selector}' stands on page {_listed(sorted({p.page for p in found}))}, not {number}.", pytrace=False
        )
    place = here[0]
    measured = {**place._asdict(), "right": place.x + place.width, "bottom": place.y + place.height}
    wrong = [
        f"{side} is {measured[side]:g}, not {asked:g}"
        for side, asked in sides.items()
        if abs(measured[side] - asked) > near
    ]
    if wrong:
        pytest.fail(f"'{selector}' on page {place.page}: {'; '.join(wrong)} (points).", pytrace=False)
    return place


def assert_no_remarks(edition: Edition, *, but: Iterable[str] = ()) -> None:
    """Fails where anything was remarked, except remarks of the kinds `but` ('font', 'picture', …)."""
    __tracebackhide__ = True
    allowed = set(but)
    said = [remark for remark in edition.remarks if remark.kind not in allowed]
    if said:
        lines = "\n".join(f"  {remark.kind}: {remark}" for remark in said)
        pytest.fail(f"There {'is a remark' if len(said) == 1 else f'are {len(said)} remarks'}:\n{lines}", pytrace=False)


def assert_remark(edition: Edition, kind: str, words: str = "") -> None:
    """Fails where nothing of that kind was remarked that has these words in it."""
    __tracebackhide__ = True
    if not any(remark.kind == kind and words in str(remark) for remark in edition.remarks):
        said = "\n".join(f"  {remark.kind}: {remark}" for remark in edition.remarks) or "  (none)"
        with_words = f" with '{words}'" if words else ""
        pytest.fail(f"There is no remark of the kind '{kind}'{with_words}. The remarks are:\n{said}", pytrace=False)


# ---- kept pictures ----


def pytest_addoption(parser: pytest.Parser) -> None:
    group = parser.getgroup("fleetquill")
    group.addoption(
        "--keep-pages", action="store_true", help="Keep the pages as they look now as the ones to compare with."
    )


@pytest.fixture
def kept_pages(request: pytest.FixtureRequest, tmp_path: Path) -> Callable[..., None]:
    """Compares the pages of an edition with pictures that are kept beside the test, in the folder 'kept_pages'.

    `kept_pages(edition, name, pages=(1, 2), share=0.001)`: so large a share of a page's pixels may
    differ. Pages that nobody kept yet fail, and so do those that differ, with both and their
    difference in a folder that the message names; `pytest --keep-pages` keeps them as they are now.
    """
    folder = request.path.parent / FOLDER
    keeps: bool = request.config.getoption("--keep-pages")

    def compare(edition: Edition, name: str, *, pages: Iterable[int] = (), share: float = SHARE) -> None:
        __tracebackhide__ = True
        faults = []
        for number in pages or range(1, edition.page_count + 1):
            picture = _picture(edition, _number(edition, number))
            kept = folder / f"{name}-{number}.png"
            if keeps:
                folder.mkdir(exist_ok=True)
                picture.save(kept)
                continue
            fault = _compared(picture, kept, tmp_path, share)
            if fault:
                faults.append(f"Page {number} {fault}")
        if faults:
            pytest.fail(
                "\n".join([*faults, "Run pytest with --keep-pages where the pages are right as they are now."]),
                pytrace=False,
            )

    return compare


def _picture(edition: Edition, number: int) -> Image:
    try:
        import pypdfium2
    except ImportError as error:
        remedy = "Install it with: pip install 'fleetquill[pages]'."
        raise OptionError("Pictures of pages need pypdfium2.", remedy=remedy) from error
    page = pypdfium2.PdfDocument(edition.to_bytes())[number - 1]
    picture: Image = page.render(scale=DPI / 72).to_pil().convert("RGB")
    return picture


def _compared(picture: Image, path: Path, beside: Path, share: float) -> str:
    """What is wrong with a page; '' where it looks as the kept picture does."""
    from PIL import Image, ImageChops

    now = beside / f"{path.stem}-now.png"
    picture.save(now)
    if not path.exists():
        return f"is not kept yet as {path.name}: look at {now}."
    with Image.open(path, formats=["PNG"]) as opened:
        kept = opened.convert("RGB")
    if kept.size != picture.size:
        return f"is {picture.width} × {picture.height} pixels, the kept one {kept.width} × {kept.height}: see {now}."
    difference = ImageChops.difference(picture, kept).convert("L").point(lambda value: 255 if value > FAINT else 0)
    differs = difference.histogram()[255] / (picture.width * picture.height)
    if differs <= share:
        return ""
    shown = beside / f"{path.stem}-difference.png"
    difference.save(shown)
    where = f"around {difference.getbbox()}: see {now} and {shown}"
    return f"differs from {path.name} in {differs:.2%} of its pixels, {where}."


# ---- words ----


def _folded(text: str) -> str:
    return re.sub(r"\s+", " ", text).strip()


def _number(edition: Edition, page: int) -> int:
    """The number of a page that may be counted from the end."""
    number = page if page > 0 else edition.page_count + 1 + page
    if not 1 <= number <= edition.page_count:
        pytest.fail(f"There is no page {page}: the edition has {edition.page_count}.", pytrace=False)
    return number


def _nearest_line(wanted: str, edition: Edition, places: Iterable[int]) -> str:
    lines = [_folded(line) for number in places for line in edition.pages[number - 1].text.splitlines()]
    near: list[Any] = get_close_matches(wanted, lines, 1, 0.5)
    if near:
        return f" The nearest is '{near[0]}'."
    return f" What stands there: {_shortened(' / '.join(filter(None, lines)))}"


def _shortened(text: str) -> str:
    return text if len(text) <= LONGEST_SHOWN else f"{text[:LONGEST_SHOWN]}…"


def _listed(numbers: list[int]) -> str:
    return ", ".join(map(str, numbers))
