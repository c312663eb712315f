"""The structure: every part told, in order, also to those who cannot see it (ISO 14289-1 §7, ISO 19005-2 §6.7)."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any, Final

from fleetquill.bindery.clauses.clause import clause
from fleetquill.bindery.subject import Content, Element, Subject
from fleetquill.pdf.objects import Ref
from fleetquill.standards import Standards

TYPES: Final = frozenset(  # of ISO 32000-1 §14.8.4
    "Document Part Art Sect Div BlockQuote Caption TOC TOCI Index NonStruct Private P H H1 H2 H3 H4 H5 H6 L LI Lbl "
    "LBody Table TR TH TD THead TBody TFoot Span Quote Note Reference BibEntry Code Link Annot Ruby Warichu RB RT RP "
    "WT WP Figure Formula Form".split()
)
MODERN_TYPES: Final = TYPES | {"DocumentFragment", "Aside", "Title", "FENote", "Sub", "Em", "Strong", "Artifact"}
SPACE_2: Final = "http://iso.org/pdf2/ssn"
PAINTED: Final = frozenset("f F f* B B* b b* S s sh Tj TJ ' \" BI".split())
LANGUAGE: Final = re.compile(r"[A-Za-z]{1,8}(-[A-Za-z0-9]{1,8})*")  # BCP 47, its shape
HEADING: Final = re.compile(r"H([1-6])$")
ONLY_IN: Final = {  # types, and those that they stand in
    "LI": ("L",), "LBody": ("LI",), "TR": ("Table", "THead", "TBody", "TFoot"), "TH": ("TR",), "TD": ("TR",),
    "THead": ("Table",), "TBody": ("Table",), "TFoot": ("Table",), "TOCI": ("TOC",),
}  # fmt: skip
HOLDS_ONLY: Final = {  # types, and those that may stand in them
    "L": ("L", "LI", "Caption"), "LI": ("Lbl", "LBody"), "TR": ("TH", "TD"), "TOC": ("TOC", "TOCI", "Caption"),
    "THead": ("TR",), "TBody": ("TR",), "TFoot": ("TR",), "Table": ("TR", "THead", "TBody", "TFoot", "Caption"),
}  # fmt: skip
MOST_NAMED: Final = 5
TAGGED: Final = ("A",)


@clause(
    "The file is tagged, and has a structure", archive="6.7.2", access="7.1", access_2="8.2.1", levels=TAGGED,
)  # fmt: skip
def marked(subject: Subject, standards: Standards) -> Iterator[str]:
    info = subject.reader.dictionary(subject.reader.catalog.get("MarkInfo"))
    if info.get("Marked") is not True:
        yield "It does not say that it is tagged."
    if info.get("Suspects") is True and standards.access == 1:
        yield "It says that its tags are suspect."
    if not subject.elements:
        yield "There is no structure."


@clause("Types are standard ones, or mapped to those", archive="6.7.3.4", access="7.1", access_2="8.2.4", levels=TAGGED)
def types(subject: Subject, standards: Standards) -> Iterator[str]:
    known = MODERN_TYPES if standards.access == 2 else TYPES
    unknown = {element.role for element in subject.elements} - known
    for role in sorted(unknown):
        yield f"'{role}' is none."


@clause("The structure begins with a Document of PDF 2.0", access_2="8.2.5.2")
def root(subject: Subject, standards: Standards) -> Iterator[str]:
    top = [element for element in subject.elements if element.parent is None]
    if len(top) != 1 or top[0].role != "Document":
        yield f"It begins with {', '.join(element.role for element in top) or 'nothing'}."
    elif subject.reader.text(subject.reader.dictionary(top[0].entries.get("NS")).get("NS")) != SPACE_2:
        yield "It is not in the namespace of PDF 2.0."


@clause("All that is drawn is a part of the document or an artifact", access="7.1", access_2="8.2.2")
def all_marked(subject: Subject, standards: Standards) -> Iterator[str]:
    for content in subject.contents:
        fault = _unmarked(subject, content)
        if fault:
            yield f"On {content.where} {fault}"


def _unmarked(subject: Subject, content: Content) -> str:
    """What is wrong with the marks of a content stream; '' where all is well."""
    open_marks: list[str] = []  # 'artifact', 'part' or 'other'
    for name, operands in content.operators:
        if name in ("BMC", "BDC"):
            kind = "other"
            if operands and operands[0] == "Artifact":
                kind = "artifact"
            elif len(operands) > 1 and "MCID" in _properties(subject, content, operands[1]):
                kind = "part"
            if kind != "other" and ("artifact" in open_marks or "part" in open_marks):
                return f"a mark of a {kind} stands within another."
            open_marks.append(kind)
        elif name == "EMC":
            if not open_marks:
                return "a mark ends that was not begun."
            open_marks.pop()
        elif name in PAINTED and not content.tagged_outside and not {"artifact", "part"} & set(open_marks):
            return f"'{name}' draws what is not marked."
        elif name == "Do" and operands and not content.tagged_outside and not {"artifact", "part"} & set(open_marks):
            drawn = subject.reader.dictionary(content.resources.get("XObject")).get(str(operands[0]))
            if subject.reader.dictionary(drawn).get("Subtype") == "Image":
                return "a picture is drawn that is not marked."
    return "a mark does not end." if open_marks else ""


def _properties(subject: Subject, content: Content, given: Any) -> dict[str, Any]:
    if isinstance(given, dict):
        return given
    named = subject.reader.dictionary(content.resources.get("Properties"))
    return subject.reader.dictionary(named.get(str(given)))


@clause(
    "Marks and structure lead to one another", archive="6.7.3.3", access="7.1", access_2="8.2.2", levels=TAGGED,
)  # fmt: skip
def both_ways(subject: Subject, standards: Standards) -> Iterator[str]:
    reader = subject.reader
    parents = _number_tree(subject, subject.tree.get("ParentTree"))
    drawn: set[tuple[int, int]] = set()
    for content in subject.contents:
        where = content.ref if content.ref is not None else content.page.ref
        if where is None:
            continue
        numbers = [
            reader.resolve(said["MCID"])
            for name, operands in content.operators
            if name == "BDC" and len(operands) > 1
            and "MCID" in (said := _properties(subject, content, operands[1]))
        ]  # fmt: skip
        if len(numbers) != len(set(numbers)):
            yield f"On {content.where} a number stands for two marked sequences."
        drawn |= {(where.number, number) for number in numbers}
        row = reader.array(parents.get(reader.resolve(content.entries.get("StructParents"))))
        lost = [number for number in numbers if number >= len(row) or not reader.dictionary(row[number])]
        if lost:
            yield f"On {content.where} nothing says which part the marks {_some(lost)} belong to."
    for number, mark in sorted(drawn - subject.marked_numbers)[:MOST_NAMED]:
        yield f"The mark {mark} of object {number} is in no part."
    for number, mark in sorted(subject.marked_numbers - drawn)[:MOST_NAMED]:
        yield f"A part names the mark {mark} of object {number}, which is not there."


def _number_tree(subject: Subject, given: Any) -> dict[int, Any]:
    found: dict[int, Any] = {}
    waiting, seen = [given], 0
    while waiting and seen < 1_000_000:
        seen += 1
        node = subject.reader.dictionary(waiting.pop())
        rows = subject.reader.array(node.get("Nums"))
        found |= dict(zip(rows[::2], rows[1::2], strict=False))
        waiting += subject.reader.array(node.get("Kids"))
    return found


@clause(
    "The document, and each part in another, says its language", archive="6.7.4", access="7.2", access_2="8.4.4",
    levels=TAGGED,
)  # fmt: skip
def language(subject: Subject, standards: Standards) -> Iterator[str]:
    own = subject.reader.text(subject.reader.catalog.get("Lang"))
    if not LANGUAGE.fullmatch(own):
        yield f"The document says '{own}'." if own else "The document says none."
    for element in subject.elements:
        if "Lang" in element.entries and not LANGUAGE.fullmatch(subject.reader.text(element.entries["Lang"])):
            yield f"A {element.role} says '{subject.reader.text(element.entries['Lang'])}'."


@clause("Figures and formulas have a text that says what they show", archive="6.7.5", access="7.3", access_2="8.2.5.28",
        levels=TAGGED)  # fmt: skip
def alternatives(subject: Subject, standards: Standards) -> Iterator[str]:
    for element in subject.elements:
        if element.role in ("Figure", "Formula"):
            said = (subject.reader.text(element.entries.get(key)) for key in ("Alt", "ActualText"))
            if not any(said):
                yield f"A {element.role}{_on(subject, element)} has none."


@clause("Headings go down one level at a time", access="7.4.2")
def headings(subject: Subject, standards: Standards) -> Iterator[str]:
    before = 0
    for element in subject.elements:
        found = HEADING.match(element.role)
        if found is not None:
            if int(found[1]) > before + 1:
                yield f"An {element.role}{_on(subject, element)} follows {f'an H{before}' if before else 'none'}."
            before = int(found[1])


@clause(
    "Parts stand in the parts that they belong in", access="7.2", access_2="8.2.5", archive="6.7.3.4", levels=TAGGED
)
def nesting(subject: Subject, standards: Standards) -> Iterator[str]:
    for element in subject.elements:
        around = element.parent.role if element.parent is not None else "nothing"
        if element.role in ONLY_IN and around not in ONLY_IN[element.role]:
            yield f"A {element.role} stands in {around}."
        allowed = HOLDS_ONLY.get(element.role)
        if allowed is not None:
            wrong = [kid.role for kid in element.kids if isinstance(kid, Element) and kid.role not in allowed]
            content = any(not isinstance(kid, Element) for kid in element.kids)
            if wrong or content:
                yield f"A {element.role} holds {wrong[0] if wrong else 'content of its own'}."


@clause("Tables have rows of the same length, and heading cells that say what they head", access="7.5",
        access_2="8.2.5.26")  # fmt: skip
def tables(subject: Subject, standards: Standards) -> Iterator[str]:
    for element in subject.elements:
        if element.role != "Table":
            continue
        rows = list(_rows(element))
        lengths = _row_lengths(subject, rows)
        if len(set(lengths)) > 1:
            yield f"A table{_on(subject, element)} has rows of {min(lengths)} to {max(lengths)} columns."
        headed = [cell for row in rows for cell in row if cell.role == "TH"]
        names = {subject.reader.text(cell.entries.get("ID")) for cell in headed}
        for cell in headed:
            if "Scope" not in subject.attributes(cell, "Table") and "ID" not in cell.entries:
                yield f"A heading cell of a table{_on(subject, element)} does not say what it heads."
        for cell in (cell for row in rows for cell in row):
            heads = subject.reader.array(subject.attributes(cell, "Table").get("Headers"))
            lost = [subject.reader.text(head) for head in heads if subject.reader.text(head) not in names]
            if lost:
                yield f"A cell of a table{_on(subject, element)} names a heading cell '{lost[0]}' that is not there."


def _rows(table: Element) -> Iterator[list[Element]]:
    for kid in table.kids:
        if isinstance(kid, Element):
            if kid.role == "TR":
                yield [cell for cell in kid.kids if isinstance(cell, Element)]
            elif kid.role in ("THead", "TBody", "TFoot"):
                yield from _rows(kid)


def _row_lengths(subject: Subject, rows: list[list[Element]]) -> list[int]:
    """How many columns each row has, with those that cells above reach down into."""
    lengths: list[int] = []
    reaching: list[list[int]] = []  # rows that are left, and columns
    for row in rows:
        held = sum(columns for _, columns in reaching)
        reaching = [[left - 1, columns] for left, columns in reaching if left > 1]
        length = held
        for cell in row:
            said = subject.attributes(cell, "Table")
            columns = int(subject.reader.resolve(said.get("ColSpan", 1)))
            down = int(subject.reader.resolve(said.get("RowSpan", 1)))
            length += columns
            if down > 1:
                reaching.append([down - 1, columns])
        lengths.append(length)
    return lengths


@clause("Notes have names of their own", access="7.9")
def notes(subject: Subject, standards: Standards) -> Iterator[str]:
    names = [
        subject.reader.text(element.entries.get("ID")) for element in subject.elements if element.role == "Note"
    ]  # fmt: skip
    if not all(names):
        yield "A note has none."
    if len(set(names)) < len(names):
        yield "Two notes have the same."


@clause("Annotations are parts of the document", access="7.18.1", access_2="8.9.2")
def annotations_in_parts(subject: Subject, standards: Standards) -> Iterator[str]:
    held = {
        kid["Obj"].number: element.role
        for element in subject.elements
        for kid in element.kids
        if isinstance(kid, dict) and isinstance(kid.get("Obj"), Ref)
    }
    for page, entries, ref in subject.annotations:
        kind = entries.get("Subtype")
        if kind in ("Popup", "PrinterMark") or _is_hidden(subject, entries):
            continue
        role = held.get(ref.number) if ref is not None else None
        wanted = {"Link": ("Link", "Reference"), "Widget": ("Form",)}.get(str(kind), ("Annot", "Form", "Link"))
        if role not in wanted:
            where = f"in a {role}" if role else "in no part"
            yield f"On page {page.number} an annotation ({kind}) is {where}."


@clause("Annotations and links say what they are", access="7.18.5", access_2="8.9.2.4")
def annotation_texts(subject: Subject, standards: Standards) -> Iterator[str]:
    for page, entries, _ in subject.annotations:
        if entries.get("Subtype") == "Widget":
            if not subject.reader.text(entries.get("TU")) and not subject.reader.text(entries.get("Contents")):
                yield f"On page {page.number} a field has no description."
        elif not subject.reader.text(entries.get("Contents")) and not _is_hidden(subject, entries):
            yield f"On page {page.number} an annotation ({entries.get('Subtype')}) has no description."


@clause("Pages with annotations go through them in the order of the structure", access="7.18.3", access_2="8.9.3.3")
def tab_order(subject: Subject, standards: Standards) -> Iterator[str]:
    for page in subject.pages:
        if subject.annotations_of(page) and page.entries.get("Tabs") != "S":
            yield f"Page {page.number} does not."


@clause("Places in the document that links lead to are parts of it", access_2="8.8")
def destinations(subject: Subject, standards: Standards) -> Iterator[str]:
    for page, entries, _ in subject.annotations:
        action = subject.reader.dictionary(entries.get("A"))
        if "Dest" in entries or (action.get("S") == "GoTo" and "SD" not in action):
            yield f"On page {page.number} a link leads to a place on a page, not to a part."
    outlines = subject.reader.dictionary(subject.reader.catalog.get("Outlines"))
    for entries in _outline(subject, outlines):
        action = subject.reader.dictionary(entries.get("A"))
        if "Dest" in entries or (action.get("S") == "GoTo" and "SD" not in action):
            yield f"The bookmark '{subject.reader.text(entries.get('Title'))}' leads to a page, not to a part."
            return


def _outline(subject: Subject, entries: dict[str, Any]) -> Iterator[dict[str, Any]]:
    waiting, seen = [entries.get("First")], 0
    while waiting and seen < 100_000:
        seen += 1
        item = subject.reader.dictionary(waiting.pop())
        if item:
            yield item
            waiting += [item[key] for key in ("Next", "First") if key in item]


def _is_hidden(subject: Subject, entries: dict[str, Any]) -> bool:
    flags = subject.reader.resolve(entries.get("F"))
    return isinstance(flags, int) and bool(flags & 2)


def _on(subject: Subject, element: Element) -> str:
    """On which page a part begins, for messages."""
    page = element.entries.get("Pg")
    for kid in element.kids:
        if page is None and isinstance(kid, Element):
            page = kid.entries.get("Pg")
    number = next((own.number for own in subject.pages if own.ref == page), 0) if isinstance(page, Ref) else 0
    return f" on page {number}" if number else ""


def _some(numbers: list[int]) -> str:
    more = f" and {len(numbers) - MOST_NAMED} more" if len(numbers) > MOST_NAMED else ""
    return ", ".join(map(str, numbers[:MOST_NAMED])) + more
