"""Media queries, asked of a page of 600 × 800 px (Media Queries 4)."""

import pytest
import tinycss2
from hypothesis import given
from hypothesis import strategies as st

from fleetquill.style.media import Medium, applies, parse_media

PAGE = Medium(600.0, 800.0)

HOLD = (
    "", "all", "print", "only print", "not screen", "screen, print", "(width)", "(color)", "(min-width: 500px)",
    "(max-width: 37.5em)", "print and (orientation: portrait)", "(width >= 500px)", "(500px <= width)", "(width = 600px)",
    "(400px < width <= 600px)", "(700px > width)", "(height >= 50em)", "(aspect-ratio < 1/1)", "(aspect-ratio: 3/4)",
    "not (width < 500px)", "(width < 100px) or (height > 100px)", "(width) and (height)", "((width > 1px) and (color))",
    "not (hover)", "(prefers-color-scheme: light)", "(min-resolution: 2dppx)", "(update: none)", "(width > calc(10px * 3))",
    "screen and (width > 1px), (height)", "not all and (min-width: 2000px)", "(pointer: none)",
)  # fmt: skip
FAIL = (
    "screen", "not print", "(max-width: 599px)", "(width < 600px)", "(600px < width)", "(orientation: landscape)",
    "(hover)", "(pointer)", "(unknown)", "not (unknown)", "(width >)", "(width >= red)", "print and", "(1px < width > 2px)x",
    "(width > 1px) and (height > 1px) or (color)", "(prefers-color-scheme: dark)", "not all", "speech", "(monochrome)",
    "(width 500px)", "((((width > 700px))))", "print or (width)",
)  # fmt: skip


def holds(query):
    return applies((parse_media(tinycss2.parse_component_value_list(query)),) if query else (), PAGE)


@pytest.mark.parametrize("query", HOLD)
def test_a_query_holds_for_the_page(query):
    assert holds(query)


@pytest.mark.parametrize("query", FAIL)
def test_a_query_does_not_hold_for_the_page(query):
    assert not holds(query)


COMPARED = st.tuples(
    st.sampled_from(["width", "height"]), st.sampled_from(["<", "<=", ">", ">="]), st.integers(0, 1200)
)


@given(COMPARED)
def test_a_range_says_what_its_other_spellings_say(compared):
    name, sign, size = compared
    wanted = {"<": PAGE._asdict()[name] < size, "<=": PAGE._asdict()[name] <= size,
              ">": PAGE._asdict()[name] > size, ">=": PAGE._asdict()[name] >= size}[sign]  # fmt: skip
    flipped = sign.translate(str.maketrans("<>", "><"))
    spellings = [f"({name} {sign} {size}px)", f"({size}px {flipped} {name})", f"print and ({name}{sign}{size}px)"]
    if len(sign) == 2:
        spellings.append(f"({'max' if sign == '<=' else 'min'}-{name}: {size}px)")
    assert {holds(query) for query in spellings} == {wanted}
    assert holds(f"not all and ({name} {sign} {size}px)") is holds(f"(not ({name} {sign} {size}px))") is not wanted


@given(st.lists(COMPARED, min_size=1, max_size=4))
def test_and_wants_all_and_or_wants_one(conditions):
    parts = [f"({name} {sign} {size}px)" for name, sign, size in conditions]
    answers = [holds(part) for part in parts]
    assert holds(" and ".join(parts)) is all(answers)
    assert holds(" or ".join(parts)) is holds(", ".join(parts)) is any(answers)
