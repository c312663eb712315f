"""Contents lists: <fq-contents> filled with links to the headings of the document."""

from __future__ import annotations

from typing import Final

from lxml import etree

from fleetquill.tree.texts import clean

Element = etree._Element
HEADINGS: Final = {"h1": 1, "h2": 2, "h3": 3, "h4": 4, "h5": 5, "h6": 6}


def fill_contents(root: Element) -> None:
    """Fills every contents list anew; headings without an id get one."""
    lists = list(root.iter("fq-contents"))
    if not lists:
        return
    headings = []
    for number, heading in enumerate(root.iter(*HEADINGS), 1):
        if any(ancestor.tag == "fq-contents" for ancestor in heading.iterancestors()):
            continue
        if not heading.get("id"):
            heading.set("id", f"fq-heading-{number}")
        headings.append(heading)
    for contents in lists:
        levels = int(contents.get("levels", "2")) if contents.get("levels", "2").isdigit() else 2
        for child in list(contents):
            contents.remove(child)
        for heading in headings:
            level = HEADINGS[heading.tag]
            if level <= levels:
                entry = etree.SubElement(contents, "p", {"class": f"fq-level-{level}"})
                link = etree.SubElement(entry, "a", {"href": f"#{heading.get('id')}"})
                link.text = clean(" ".join("".join(str(text) for text in heading.itertext()).split()))
