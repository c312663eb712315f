"""The parts of a brief: those of any manuscript with values filled in, and those that rows make."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from decimal import Decimal
from operator import itemgetter
from typing import Any, Final

from fleetquill.authoring import inline
from fleetquill.authoring.plain_data import COLUMN_FACTS, PARTS, Builder, methods_of
from fleetquill.briefs.cross import cross_table
from fleetquill.briefs.datasets import SHAPING, DataSets
from fleetquill.briefs.expressions import Expressions, Filling, Values, plain
from fleetquill.briefs.nodes import Node, Reading, path_of
from fleetquill.briefs.rowsets import Opened, held
from fleetquill.errors import FleetQuillError, LimitError, PolicyError, meant
from fleetquill.formats import Formats, as_decimal
from fleetquill.tree.column import Column
from fleetquill.tree.groups import Group, read_columns

COLUMN: Final = (*COLUMN_FACTS, "rules")
GROUP: Final = ("by", "form", "heading", "heads", "summaries", "label", "new_page")
RULE: Final = ("when", "style")
EMPTY: Final = "empty"
EDGES: Final = ("header", "footer")
OWN: Final[Mapping[str, tuple[str, ...]]] = {  # parts of briefs alone, or with rows of their own, and what they take
    "table": ("rows", "columns", EMPTY), "ledger": ("rows", "columns", "groups", EMPTY),
    "chart": ("rows", "series", EMPTY),
    "cross": ("rows", "down", "across", "of", "figure", "form", "across_form", "heads", "totals", "caption", "fit",
              "id", "class", "style", EMPTY),
    "cards": ("label", "value", "form", "was", "change_form", "note"),
    "trends": ("rows", "by", "x", "y", "kind", "form", "head", "value_head", "width", EMPTY),
    "each": ("rows", "by", "as", "new_page", PARTS, EMPTY), "when": ("test", PARTS, "otherwise"),
}  # fmt: skip
UP, DOWN = "▲", "▼"


class BriefBuilder(Builder):
    """Adds the parts of a brief to a manuscript."""

    top = "brief."

    def __init__(self, reading: Reading, sets: DataSets, room: Expressions, formats: Formats) -> None:
        super().__init__(reading.source)
        self._reading = reading
        self._sets = sets
        self._room = room
        self._formats = formats
        self._values: Values = sets.values
        self._rules: dict[str, str] = {}  # the names of classes, by their style

    def fault(self, path: str, what: str, remedy: str = "") -> Any:
        return self._reading.fault(path_of(path), what, remedy)

    def _node(self, value: Any, path: str) -> Node:
        return Node(value, path_of(path), self._reading)

    @contextmanager
    def told(self, path: str) -> Iterator[None]:
        """What is wrong meanwhile is told with its place in the brief, if it has none there already."""
        try:
            yield
        except (LimitError, PolicyError):
            raise
        except FleetQuillError as error:
            if error.where is not None and error.where.source == self._reading.source and error.where.line:
                raise
            raise self.fault(path, str(error.what), error.remedy) from error

    def part(self, owner: Any, name: str, arguments: Any, path: str) -> None:
        if name in OWN and owner is self.manuscript:
            node = self._node(arguments, f"{path}.{name}")
            with self.told(node.name):
                getattr(self, f"_{name}")(node)
            return
        node = self._node(arguments, f"{path}.{name}")
        cls: Any = type(owner)
        method = methods_of(cls).get(name)
        holds = method is not None and method.holds
        super().part(owner, name, self._filled(node, "html" if name == "html" else "text", holds=holds), path)

    def margins(self, manuscript: Any, data: Mapping[str, Any]) -> None:
        """Heads and feet, with values in their texts."""
        for name in EDGES:
            if data.get(name) is not None:
                node = self._node(data[name], f"{self.top}{name}")
                super().margins(manuscript, {name: self._filled(node, "margin", holds=True)})

    def _filled(self, node: Node, filling: Filling, *, holds: bool) -> Any:
        """Arguments with their values filled in. Parts that stand in a part which holds some are when it is their
        turn: nothing is filled in twice."""
        if not holds:
            return self._room.filled(node, self._values, filling)
        if not isinstance(node.value, Mapping):
            return node.value
        return {
            name: node.value[name] if name == PARTS else self._room.filled(node[name], self._values, filling)
            for name in node.value
        }

    # ---- rows ----

    def _opened(self, node: Node) -> tuple[Opened, bool]:
        """The rows that a part asks for, and whether there are any; where not, what is said instead is added."""
        rows = node.get("rows")
        if rows is None:
            raise node.fault("The part has no rows.", "Write 'rows:' with the name of data.")
        opened, any_rows = self._sets.named(rows, self._values).open().peeked()
        empty = node.get(EMPTY)
        if not any_rows and empty is not None:
            self.manuscript.paragraph(self._room.filled(empty, self._values), class_="fq-empty")
        return opened, any_rows or empty is None

    def _others(self, node: Node, own: tuple[str, ...], method: str) -> dict[str, Any]:
        """What a part takes besides what is the brief's own affair: as the manuscript's part of that name does."""
        cls: Any = type(self.manuscript)
        known = methods_of(cls)[method].parameters
        taken = [name.rstrip("_") for name in known if name not in ("data", "group", "labels", "figures")]
        node.names([*own, *(name for name in taken if name not in own)], f"'{method}'")
        others = [name for name in node.value if name not in own]
        return {("class_" if name == "class" else name): self._room.filled(node[name], self._values) for name in others}

    def _table(self, node: Node) -> None:
        options = self._others(node, OWN["table"], "table")
        opened, shown = self._opened(node)
        if shown:
            columns = self._columns(node, opened)
            rows = _picked(opened, columns, node)
            self.manuscript.table(rows, columns, **options)

    def _ledger(self, node: Node) -> None:
        known = (*OWN["ledger"], "group")
        if node.get("group") is not None:
            raise node["group"].fault("A ledger of a brief has 'groups', a list.", "Write groups: [{by: name}].")
        options = self._others(node, known, "ledger")
        opened, shown = self._opened(node)
        if not shown:
            return
        columns = self._columns(node, opened)
        groups = [self._group(one) for one in node["groups"].each()] if node.get("groups") else []
        rows = _picked(opened, read_columns(columns, groups), node)
        self.manuscript.ledger(rows, columns, group=groups, **options)

    def _columns(self, node: Node, opened: Opened) -> list[Column]:
        if node.get("columns") is None:
            return [Column(name) for name in opened.names]
        return [self._column_of(one, opened) for one in node["columns"].each()]

    def _column_of(self, node: Node, opened: Opened) -> Column:
        if isinstance(node.value, str):
            opened.place(node.value, node)
            return Column(node.value)
        node.names(COLUMN, "A column")
        if node.get("name") is None:
            raise node.fault("The column has no name.")
        counts = node.get("counts")
        if not (counts is not None and counts.flag()):
            opened.place(node["name"].text(), node["name"])
        facts = {
            name: self._room.filled(inner, self._values)
            for name, inner in node.items()
            if inner.value is not None and name != "rules"
        }
        if facts.get("carry") and "total" not in facts:
            facts["total"] = "sum"
        with self.told(node.name):
            return Column(**facts, rule=self._rule(node["rules"]) if node.get("rules") else None)

    def _rule(self, node: Node) -> Callable[[Any], str]:
        """The class of a value: that of the first rule whose condition it fulfils."""
        rules = []
        for one in node.each():
            one.names(RULE, "A rule")
            if one.get("when") is None or one.get("style") is None:
                raise one.fault("A rule has a condition and a style.", "Write {when: value < 0, style: 'color: red'}.")
            rules.append((self._room.expression(one["when"]), self._class_of(one["style"].text())))
        outer = self._values

        def mark(value: Any) -> str:
            if value is None:
                return ""
            values = {**outer, "value": plain(value)}
            return next((name for condition, name in rules if condition.holds(values)), "")

        return mark

    def _class_of(self, style: str) -> str:
        name = self._rules.get(style)
        if name is None:
            name = self._rules[style] = f"rule-{len(self._rules) + 1}"
            self.manuscript.add_style(f".fq-table td.{name} {{ {style} }}", self._reading.source)
        return name

    def _group(self, node: Node) -> Group:
        if isinstance(node.value, str):
            return Group(node.value)
        node.names(GROUP, "A group")
        if node.get("by") is None:
            raise node.fault("The group has no 'by'.", "Write 'by:' with the name of a value.")
        options: dict[str, Any] = {
            name: self._room.filled(node[name], self._values)
            for name in ("form", "heads", "new_page")
            if node.get(name) is not None
        }
        if node.get("summaries") is not None:
            options["summaries"] = [_summary(one) for one in node["summaries"].some()]
        if node.get("heading") is not None:
            heading = self._room.template(node["heading"], node["heading"].text())
            options["heading"] = lambda value: heading({**self._values, "value": plain(value)})
        if node.get("label") is not None:
            label = self._room.template(node["label"], node["label"].text())
            options["label"] = lambda text, count: label({**self._values, "value": text, "count": count})
        with self.told(node.name):
            return Group(node["by"].text(), **options)

    def _chart(self, node: Node) -> None:
        options = self._others(node, OWN["chart"], "chart")
        kind = options.pop("kind", None)
        if kind is None:
            raise node.fault("The chart has no kind.", "Write 'kind:', such as bar, line or pie.")
        opened, shown = self._opened(node)
        if not shown:
            return
        for name in ("x", "y", "y2", "by"):
            if node.get(name) is not None:
                opened.places([one.text() for one in node[name].some()], node[name])
        records = list(opened.records())
        if node.get("series") is not None:
            records, options["y"] = _spread(node, opened, records)
        self.manuscript.chart(kind, records, **options)

    def _cross(self, node: Node) -> None:
        node.names(OWN["cross"], "'cross'")
        opened, shown = self._opened(node)
        if not shown:
            return
        table = cross_table(node, opened, self._formats)
        options = {
            ("class_" if name == "class" else name): self._room.filled(node[name], self._values)
            for name in ("caption", "fit", "id", "class", "style")
            if node.get(name) is not None
        }
        self.manuscript.table(table.rows, table.columns, figures=table.figures, **options)

    def _trends(self, node: Node) -> None:
        """A row for each value of a name: a small chart of its figures, and the last of them."""
        node.names(OWN["trends"], "'trends'")
        opened, shown = self._opened(node)
        if not shown:
            return
        for name in ("by", "y"):
            if node.get(name) is None:
                raise node.fault(f"The small charts have no '{name}'.", f"Write '{name}:' with the name of a value.")
        by, y = opened.place(node["by"].text(), node["by"]), opened.place(node["y"].text(), node["y"])
        series: dict[Any, list[Decimal]] = {}
        for row in opened.rows:
            if row[y] is not None:
                series.setdefault(row[by], []).append(as_decimal(row[y]))
        kind = node["kind"].text() if node.get("kind") else "line"
        width = node["width"].text() if node.get("width") else "60mm"
        form = node["form"].text() if node.get("form") else "number"
        head = node["head"].text() if node.get("head") else node["by"].text()
        last = node["value_head"].text() if node.get("value_head") else node["y"].text()
        with self.told(node.name):
            rows = [
                (name, inline.spark(values, kind, style=f"width:{width};height:1.4em"), values[-1])
                for name, values in series.items()
            ]
            columns = [Column("by", head=head), Column("trend", head=""), Column("last", head=last, form=form)]
            self.manuscript.table(rows, columns)

    def _cards(self, node: Node) -> None:
        """Big numbers side by side, each with what it is and how it has changed."""
        with self.manuscript.row(gap="5mm", align="stretch", class_="fq-cards"):
            for card in node.some():
                card.names(OWN["cards"], "A card")
                for name in ("label", "value"):
                    if card.get(name) is None:
                        raise card.fault(f"The card has no '{name}'.")
                with self.manuscript.box(class_="fq-card"), self.told(card.name):
                    self._card(card)

    def _card(self, card: Node) -> None:
        m, values = self.manuscript, self._values
        value = self._reckoned(card["value"])
        form = card["form"].text() if card.get("form") else ""
        m.paragraph(self._room.filled(card["label"], values), class_="fq-card-label")
        m.paragraph("–" if value is None else _value(value, form), class_="fq-card-value")
        if card.get("was") is not None:
            was = self._reckoned(card["was"])
            if was and value is not None:
                change = (as_decimal(value) - as_decimal(was)) / abs(as_decimal(was))
                kind = card["change_form"].text() if card.get("change_form") else "percent:+0.0%;-0.0%"
                mark = UP if change > 0 else DOWN if change < 0 else ""
                name = "fq-up" if change > 0 else "fq-down" if change < 0 else "fq-same"
                m.paragraph(f"{mark} ".lstrip(), inline.value(change, kind), class_=f"fq-card-change {name}")
        if card.get("note") is not None:
            m.paragraph(self._room.filled(card["note"], values), class_="fq-card-note")

    def _reckoned(self, node: Node) -> Any:
        """A value that an expression gives, with or without its braces."""
        if isinstance(node.value, str) and "{{" not in node.value:
            return self._room.expression(node).value(self._values)
        return self._room.filled(node, self._values)

    # ---- parts that hold parts ----

    def _when(self, node: Node) -> None:
        node.names(OWN["when"], "'when'")
        if node.get("test") is None:
            raise node.fault("The condition has no 'test'.", "Write 'test:' with an expression.")
        name = PARTS if self._room.expression(node["test"]).holds(self._values) else "otherwise"
        if node.get(name) is not None:
            self.parts(self.manuscript, node[name].value, node[name].name)

    def _each(self, node: Node) -> None:
        """Parts for each row, or for each value of a name with its rows."""
        node.names(OWN["each"], "'each'")
        if node.get(PARTS) is None:
            raise node.fault("There are no parts to repeat.", "Write 'parts:' with a list of them.")
        opened, shown = self._opened(node)
        if not shown:
            return
        new_page = node.get("new_page") is not None and node["new_page"].flag()
        outer = self._values
        for number, more in enumerate(self._rounds(node, opened)):
            if number and new_page:
                self.manuscript.page_break()
            self._values = {**outer, **more, "number": number + 1}
            self.parts(self.manuscript, node[PARTS].value, node[PARTS].name)
        self._values = outer

    def _rounds(self, node: Node, opened: Opened) -> Iterator[dict[str, Any]]:
        """What is known in each round: the row or value under the name that 'as' says, and the rows of that value."""
        by = node.get("by")
        name = node["as"].text() if node.get("as") else "row" if by is None else by.text()
        if by is None:
            for record in opened.records():
                yield {name: {key: plain(value) for key, value in record.items()}}
            return
        place = opened.place(by.text(), by)
        parts: dict[Any, list[tuple[Any, ...]]] = {}
        for row in opened.rows:
            parts.setdefault(row[place], []).append(row)
        rows = node["rows"]
        source = rows.value if isinstance(rows.value, str) else rows["from"].text()
        for value, found in parts.items():
            yield {source: held(opened.names, found), name: value}


def _spread(node: Node, opened: Opened, records: list[dict[str, Any]]) -> tuple[list[dict[str, Any]], list[str]]:
    """Records in which each value of 'series' is a number of its own, and the names of these."""
    for name in ("x", "y"):
        if node.get(name) is None:
            raise node.fault(f"A chart of series has no '{name}'.", f"Write '{name}:' with the name of a value.")
    series, x, y = node["series"].text(), node["x"].text(), node["y"].text()
    opened.place(series, node["series"])
    names = list(dict.fromkeys(str(record[series]) for record in records))
    rows: dict[Any, dict[str, Any]] = {}
    for record in records:
        row = rows.setdefault(record[x], {x: record[x], **dict.fromkeys(names)})
        row[str(record[series])] = record[y]
    return list(rows.values()), names


def _picked(opened: Opened, columns: list[Column], node: Node) -> Iterator[tuple[Any, ...]]:
    """The values of columns, in their order."""
    places = [opened.place(column.name, node) for column in columns if not column.counts]
    if places == list(range(len(opened.names))):
        return opened.rows
    return map(itemgetter(*places), opened.rows) if len(places) > 1 else ((row[places[0]],) for row in opened.rows)


def _summary(node: Node) -> Any:
    """A summary of a group: its name, or its name with what stands beside it."""
    if isinstance(node.value, Mapping) and len(node.value) == 1:
        ((name, label),) = node.value.items()
        return str(name), str(label)
    return node.text()


def _value(value: Any, form: str) -> Any:
    return inline.value(value, form) if form or not isinstance(value, str) else value


# ---- before anything is made ----


def check_parts(node: Node, cls: type) -> None:
    """Raises DataError where a part, or what it is given, is not known."""
    known = methods_of(cls)
    for part in node.each():
        if isinstance(part.value, str):
            name, inner = part.value, None
        elif isinstance(part.value, Mapping) and len(part.value) == 1:
            ((name, inner),) = part.items()
        else:
            raise part.fault("This is no part.", "Write each as the name of a part with its arguments.")
        if name not in known and name not in OWN:
            raise part.fault(f"There is no part '{name}'.", meant(name, [*known, *OWN]))
        if inner is None or not isinstance(inner.value, Mapping):
            if name in OWN and name != "cards":
                raise part.fault(f"'{name}' takes names with values.", f"It has {', '.join(OWN[name])}.")
            if inner is not None and isinstance(inner.value, list) and name in known and known[name].holds:
                check_parts(inner, cls)
            continue
        _check_arguments(name, inner, cls)


def _check_arguments(name: str, node: Node, cls: type) -> None:
    known = methods_of(cls)
    method = known.get(name)
    taken = list(OWN.get(name, ()))
    if method is not None:
        taken += [one.rstrip("_") for one in method.parameters if one not in ("data",) or name != "chart"]
        taken += [one.replace("_", "-") for one in taken]
    if method is not None and method.holds:
        taken.append(PARTS)
    node.names(dict.fromkeys(taken), f"'{name}'")
    for inner in (PARTS, "otherwise"):
        if node.get(inner) is not None and name not in ("plate", "layer"):
            check_parts(node[inner], cls)
    rows = node.get("rows")
    if name in OWN and rows is not None and isinstance(rows.value, Mapping):
        rows.names(("from", *SHAPING), "Rows of a part")
