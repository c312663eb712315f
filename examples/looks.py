"""Documents without a style sheet: one report in each look.

Usage: python examples/looks.py [FOLDER]
"""

from __future__ import annotations

import sys
from decimal import Decimal
from pathlib import Path

import fleetquill as fq

LOOKS = ("river", "quay", "lock")
TOLLS = [
    {"Lock": "Upper Willow", "Passages": 412, "Toll": Decimal(8240), "Per passage": Decimal(20)},
    {"Lock": "Nether Mill", "Passages": 398, "Toll": Decimal(7562), "Per passage": Decimal(19)},
    {"Lock": "Stonecross", "Passages": 377, "Toll": Decimal(7540), "Per passage": Decimal(20)},
    {"Lock": "Fenny Bridge", "Passages": 405, "Toll": Decimal(8910), "Per passage": Decimal(22)},
    {"Lock": "Saltgate", "Passages": 1120, "Toll": Decimal(28000), "Per passage": Decimal(25)},
]


def report(look: str) -> fq.Manuscript:
    m = fq.Manuscript(title="Locks and tolls", language="en", look=look, page="A4")
    m.footer(left="Reedwater Barge Cooperative", right="Page {page} of {pages}")
    m.heading("Locks and tolls")
    m.paragraph(
        "The ", fq.strong("Reedwater Barge Cooperative"), " carries freight on the River Alder with fourteen barges. ",
        fq.emphasis("Water stood high"), " in April; the lock at Stonecross was shut for nine days",
        fq.footnote("From the 3rd to the 11th, for its gates."), ".",
    )  # fmt: skip
    m.heading("What the locks took", level=2)
    m.paragraph(
        "Tolls rose by 4 % against the quarter before. Most of it came from two locks, Upper Willow and "
        "Saltgate, which were open on every day."
    )
    m.table(
        TOLLS,
        ["Lock", fq.Column("Passages", total="sum"), fq.Column("Toll", form="money:EUR", total="sum"),
         fq.Column("Per passage", form="money:EUR")],
        caption="Tolls by lock",
    )  # fmt: skip
    m.heading("On the way", level=2)
    m.bullets(["Moor at the upper gate.", "Wait for the green lamp.", ["At night, for two."]])
    m.quotation("A barge is never late; the river is early.")
    m.heading("Words", level=3)
    m.definitions({"Draught": "The depth of water that a laden barge needs.", "Freeboard": "What stands of it above."})
    m.listing("toll = passages * rate")
    m.chart("bar", TOLLS, x="Lock", y="Passages", title="Passages", height="30mm", width="140mm")
    return m


def main(folder: Path) -> list[fq.Edition]:
    editions = []
    for look in LOOKS:
        edition = fq.compose(report(look), locale="en-IE")
        print(edition.save(folder / f"tolls-{look}.pdf"))
        editions.append(edition)
    return editions


if __name__ == "__main__":
    main(Path(sys.argv[1] if len(sys.argv) > 1 else "."))
