"""Pages of an earlier layout that stand as they are: what a second layout need not do over.

A document whose references name pages is laid out again once the pages are known. A page that shows
no reference, and that begins as it did before, comes out as it did before.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

from fleetquill.layout.block.breaks import forced_kind
from fleetquill.layout.boxes.boxes import BlockBox, Box
from fleetquill.layout.contract.resume import Resume, within
from fleetquill.layout.inline.boxes import LinesBox
from fleetquill.style.page_selectors import PageKind

if TYPE_CHECKING:
    from fleetquill.layout.pages.page import PageFragment
    from fleetquill.layout.pages.page_marks import PageMarks


class PageState(NamedTuple):
    """What one page hands to the next: where content goes on, the page counter, strings and running elements."""

    resume: Resume | None
    counter: int
    marks: PageMarks


class KeptPage(NamedTuple):
    """A page with the states before and after it; `settled`: nothing on it hangs on other pages."""

    kind: PageKind
    before: PageState
    page: PageFragment
    after: PageState
    settled: bool


class KeptPages:
    """The pages of the last layout by number, replaced as a new one goes over them.

    Measurements and fragments that boxes keep are shared by the pages that try a box and the page
    that takes it. So a page stands again only after one that does too, or after a forced break,
    which nothing was tried beyond.
    """

    def __init__(self) -> None:
        self._pages: dict[int, KeptPage] = {}
        self._follows = True  # whether the page before stands again, or there is none

    def begin(self) -> None:
        """Goes back to the first page."""
        self._follows = True

    def again(self, kind: PageKind, state: PageState) -> KeptPage | None:
        """The page with which to go on from this state, where it need not be laid out."""
        kept = self._pages.get(kind.number)
        if kept is None or not kept.settled or kept.kind != kind:
            return None
        if not self._follows and not (forced_kind(state.resume) and _is_plain(state.resume) and state == kept.before):
            return None
        self._follows = True
        return kept

    def keep(self, root: Box, page: KeptPage) -> None:
        """Takes a page that has been laid out."""
        inside = _ends_inside(root, page.before.resume) or _ends_inside(root, page.after.resume)
        self._pages[page.kind.number] = page._replace(settled=page.settled and not inside)
        self._follows = False


def _is_plain(resume: Resume | None) -> bool:
    """Whether the place is one between blocks, or in lines: numbers alone say where it is."""
    while resume is not None and isinstance(resume.inner, Resume) and not resume.floats:
        resume = resume.inner
    return resume is None or (resume.inner is None and not resume.floats)


def _ends_inside(root: Box, resume: Resume | None) -> bool:
    """Whether the place is inside a box that was measured whole and shows a reference somewhere."""
    box = root
    while resume is not None:
        if resume.floats or not isinstance(box, (BlockBox, LinesBox)):
            return box.moves
        if resume.at >= len(box.children):
            return False
        box, resume = box.children[resume.at], within(resume)
    return False
