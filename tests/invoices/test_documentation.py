"""What the documentation of invoices says is so."""

import dataclasses
import json
import re
from pathlib import Path

import pytest

import fleetquill as fq
from fleetquill.invoices import model

DOCS = Path(__file__).parents[2] / "docs"
CLASSES = [one for one in vars(model).values() if dataclasses.is_dataclass(one)]


def test_the_example_is_an_invoice():
    text = (DOCS / "invoices.md").read_text(encoding="utf-8")
    example = json.loads(re.search(r"```json\n(.*?)```", text, re.S)[1])
    assert str(fq.Invoice(example).data.totals.due) == "134.67"  # 42 × 2.65, and 21 % of it


@pytest.mark.parametrize("cls", CLASSES, ids=[one.__name__ for one in CLASSES])
def test_every_field_of_the_model_is_listed(cls):
    text = (DOCS / "invoices.md").read_text(encoding="utf-8")
    part = text.split(f"### {cls.__name__}\n")[1].split("\n### ")[0]
    assert re.findall(r"^\| `(\w+)` \|", part, re.M) == [field.name for field in dataclasses.fields(cls)]
