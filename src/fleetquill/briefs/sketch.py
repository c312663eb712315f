"""A first brief for a file of rows: types, forms, totals and groups as its values suggest them."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from datetime import date, datetime, time
from decimal import Decimal
from itertools import islice, pairwise
from pathlib import Path
from typing import Any, Final, NamedTuple

from fleetquill.briefs.parameters import as_type
from fleetquill.briefs.rowsets import Opened
from fleetquill.briefs.sources import file_rows

LOOKED_AT: Final = 2_000  # rows
TRIED: Final = ("whole", "number", "date", "month", "datetime", "time")  # types, for values that are text
NUMBERS: Final = ("whole", "number")
FEW: Final = 24  # values that rows may be grouped by
MONEY: Final = re.compile(
    r"amount|price|fee|toll|cost|total|net|gross|vat|tax|paid|revenue|sales|balance", re.IGNORECASE
)
SHARES: Final = re.compile(r"share|rate|percent|quota", re.IGNORECASE)
PAPERS: Final = ((16, "A3 landscape"), (8, "A4 landscape"))  # for more columns than so many
KEYS: Final = re.compile(r"(^|_|\b)(id|no|nr|number|code|year|zip|postcode|phone)$", re.IGNORECASE)


class Seen(NamedTuple):
    """What the values of a name look like."""

    name: str
    type: str
    form: str
    adds_up: bool
    values: int  # how many different ones
    is_sorted: bool  # whether those alike follow one another


def sketch(path: Path) -> dict[str, Any]:
    """A brief for a file of rows, as plain data. Raises DataError where it cannot be read."""
    opened = file_rows(path, None, None)
    rows = list(islice(opened.rows, LOOKED_AT))
    seen = [_seen(name, [row[place] for row in rows]) for place, name in enumerate(opened.names)]
    return {"brief": _brief(path, opened, seen)}


def _brief(path: Path, opened: Opened, seen: Sequence[Seen]) -> dict[str, Any]:
    source = re.sub(r"\W", "_", path.stem) or "rows"
    source = f"rows_{source}" if source[0].isdigit() else source
    types = {one.name: one.type for one in seen if one.type != "text"}
    data: dict[str, Any] = {"given": True}
    if types:
        data["types"] = types
    group = next((one for one in seen if one.type == "text" and 1 < one.values <= FEW and one.is_sorted), None)
    columns = [_column(one) for one in seen if one is not group]
    ledger: dict[str, Any] = {"rows": source, **({"groups": [{"by": group.name}]} if group else {}), "columns": columns}
    ledger["empty"] = "There are no rows."
    cards: list[dict[str, Any]] = [{"label": "Rows", "value": f"{source} | length", "form": "#,##0"}]
    for one in [one for one in seen if one.adds_up][:3]:
        name = one.name.replace("\\", "\\\\").replace("'", "\\'")
        value = f"{source} | total('{name}')"
        cards.append({"label": title_of(one.name), "value": value, "form": one.form})
    page = next((paper for most, paper in PAPERS if len(columns) > most), "")
    return {
        "title": title_of(path.stem),
        **({"page": page} if page else {}),
        "data": {source: data},
        "footer": {"right": "Page {page} of {pages}"},
        "parts": [{"cards": cards}, {"ledger": ledger}],
    }


def _column(one: Seen) -> dict[str, Any]:
    column: dict[str, Any] = {"name": one.name, "head": title_of(one.name)}
    if one.form:
        column["form"] = one.form
    if one.adds_up:
        column["total"] = "sum"
    return column


def title_of(name: str) -> str:
    """A name of data in the words of a head: 'net_amount' is 'Net amount'."""
    words = re.sub(r"(?<=[a-z])(?=[A-Z])", " ", name.replace("_", " ").replace("-", " ")).split()
    text = " ".join(word if word.isupper() and len(word) > 1 else word.lower() for word in words)
    return text[:1].upper() + text[1:]


def _seen(name: str, values: Sequence[Any]) -> Seen:
    known = [value for value in values if value is not None and value != ""]
    kind = _type_of(known)
    form = _form_of(name, kind, known)
    adds_up = kind in NUMBERS and not KEYS.search(name) and not SHARES.search(name) and not _are_numbered(kind, known)
    different = list(dict.fromkeys(map(str, known)))
    return Seen(name, kind, form, adds_up, len(different), _follow(map(str, known), len(different)))


def _type_of(values: Sequence[Any]) -> str:
    """The narrowest type that takes every value; text where there is none."""
    if not values:
        return "text"
    for kinds, name in (((bool,), "yes-no"), ((datetime,), "datetime"), ((date,), "date"), ((time,), "time")):
        if all(isinstance(value, kinds) for value in values):
            return name
    if all(isinstance(value, int) for value in values):
        return "whole"
    if all(isinstance(value, (int, float, Decimal)) for value in values):
        return "number"
    texts = [value for value in values if isinstance(value, str)]
    if len(texts) < len(values) or any(re.match(r"^0\d", text) for text in texts):  # a code, not a number
        return "text"
    return next((kind for kind in TRIED if _takes(kind, texts)), "text")


def _takes(kind: str, texts: Iterable[str]) -> bool:
    try:
        for text in texts:
            as_type(text, kind)
            if kind == "month" and len(text.strip()) != len("2026-05"):
                return False
    except ValueError:
        return False
    return True


def _form_of(name: str, kind: str, values: Sequence[Any]) -> str:
    if kind == "whole":
        return "" if KEYS.search(name) else "#,##0"
    if kind == "number":
        decimals = max(_decimals(value) for value in values)
        if SHARES.search(name) and all(abs(Decimal(str(value))) <= 1 for value in values):
            return "percent"
        decimals = 2 if MONEY.search(name) else min(decimals, 4)
        return f"#,##0.{'0' * decimals}" if decimals else "#,##0"
    if kind == "month":
        return "date:MMMM y"
    return {"date": "date", "datetime": "datetime", "time": "time"}.get(kind, "")


def _decimals(value: Any) -> int:
    exponent = Decimal(str(value).strip()).normalize().as_tuple().exponent
    return max(0, -exponent) if isinstance(exponent, int) else 0


def _are_numbered(kind: str, values: Sequence[Any]) -> bool:
    """Whether whole numbers count the rows, or are all different and rising: nobody adds those up."""
    if kind != "whole" or len(values) < 3:
        return False
    numbers = [int(value) for value in values]
    return all(after > before for before, after in pairwise(numbers))


def _follow(texts: Iterable[str], different: int) -> bool:
    changes, last = 0, None
    for text in texts:
        changes += text != last
        last = text
    return changes == different


def as_yaml(brief: dict[str, Any], path: Path) -> str:
    """The brief as the text of a file."""
    import yaml

    class Dumper(yaml.SafeDumper):
        def increase_indent(self, flow: bool = False, indentless: bool = False) -> Any:
            return super().increase_indent(flow, False)

    def mapping(dumper: Any, data: dict[str, Any]) -> Any:
        plain = all(not isinstance(value, (dict, list)) for value in data.values())
        return dumper.represent_mapping("tag:yaml.org,2002:map", data.items(), flow_style=plain and len(data) < 6)

    Dumper.add_representer(dict, mapping)
    text = yaml.dump(brief, Dumper=Dumper, sort_keys=False, allow_unicode=True, width=110, default_flow_style=False)
    name = path.stem
    head = f"# A report of the rows of {path.name}; change what you like.\n#\n"
    return f"{head}#   fleetquill press {name}.brief.yaml --data {path.name} -o {name}.pdf\n\n{text}"
