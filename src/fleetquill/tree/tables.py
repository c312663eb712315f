"""What tables and ledgers are made of: heads, rows, sums that are carried over pages."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from decimal import Decimal
from types import MappingProxyType
from typing import Final

from lxml import etree

from fleetquill.tree.column import FIGURES, Column
from fleetquill.tree.forms import kind_of_form
from fleetquill.tree.groups import COUNT_FORM, SHARE
from fleetquill.tree.texts import clean

Element = etree._Element

LABELS: Final = {  # by language: brought forward, carried forward, total
    "ar": ("رصيد مرحل", "يرحل بعده", "المجموع"),
    "bg": ("Пренос от предходна страница", "За пренасяне", "Общо"),
    "ca": ("Suma anterior", "Suma i segueix", "Total"),
    "cs": ("Převod z předchozí strany", "Převod na další stranu", "Celkem"),
    "da": ("Transport fra forrige side", "Transport til næste side", "I alt"),
    "de": ("Übertrag", "Übertrag", "Summe"),
    "el": ("Εκ μεταφοράς", "Σε μεταφορά", "Σύνολο"),
    "en": ("Brought forward", "Carried forward", "Total"),
    "es": ("Suma anterior", "Suma y sigue", "Total"),
    "et": ("Ülekanne eelmiselt lehelt", "Ülekanne järgmisele lehele", "Kokku"),
    "eu": ("Aurrekotik ekarria", "Hurrengora eramana", "Guztira"),
    "fa": ("نقل از صفحه قبل", "نقل به صفحه بعد", "جمع"),
    "fi": ("Siirto edelliseltä sivulta", "Siirto seuraavalle sivulle", "Yhteensä"),
    "fr": ("Report", "À reporter", "Total"),
    "ga": ("Tugtha ar aghaidh", "Le tabhairt ar aghaidh", "Iomlán"),
    "gl": ("Suma anterior", "Suma e segue", "Total"),
    "he": ("יתרה מדף קודם", "להעברה לדף הבא", "סה״כ"),
    "hi": ("पिछला शेष", "आगे ले जाया गया", "कुल"),
    "hr": ("Prijenos s prethodne stranice", "Prijenos na sljedeću stranicu", "Ukupno"),
    "hu": ("Áthozat", "Átvitel", "Összesen"),
    "id": ("Pindahan", "Dipindahkan", "Jumlah"),
    "is": ("Flutt frá fyrri síðu", "Flutt á næstu síðu", "Samtals"),
    "it": ("Riporto", "A riportare", "Totale"),
    "ja": ("前頁より繰越", "次頁へ繰越", "合計"),
    "ko": ("전면에서 이월", "차면으로 이월", "합계"),
    "lt": ("Perkelta iš ankstesnio puslapio", "Perkeliama į kitą puslapį", "Iš viso"),
    "lv": ("Pārnests no iepriekšējās lapas", "Pārnesams uz nākamo lapu", "Kopā"),
    "mt": ("Miġjub", "Li jinġieb", "Total"),
    "nb": ("Overført fra forrige side", "Overføres til neste side", "Sum"),
    "nl": ("Transport van vorige pagina", "Transport naar volgende pagina", "Totaal"),
    "no": ("Overført fra forrige side", "Overføres til neste side", "Sum"),
    "pl": ("Z przeniesienia", "Do przeniesienia", "Razem"),
    "pt": ("Transporte", "A transportar", "Total"),
    "ro": ("Report din pagina anterioară", "De reportat", "Total"),
    "ru": ("Перенос с предыдущей страницы", "К переносу", "Итого"),
    "sk": ("Prenos z predchádzajúcej strany", "Prenos na ďalšiu stranu", "Spolu"),
    "sl": ("Prenos s prejšnje strani", "Prenos na naslednjo stran", "Skupaj"),
    "sr": ("Пренос са претходне стране", "Пренос на следећу страну", "Укупно"),
    "sv": ("Ingående transport", "Utgående transport", "Summa"),
    "th": ("ยอดยกมา", "ยอดยกไป", "รวม"),
    "tr": ("Nakli yekûn", "Nakledilecek", "Toplam"),
    "uk": ("Перенесено з попередньої сторінки", "До перенесення", "Разом"),
    "vi": ("Mang sang", "Chuyển trang sau", "Tổng cộng"),
    "zh": ("承前页", "转次页", "合计"),
}
SUMMARY_LABELS: Final = {  # by language: sum, average, count, least, most, share
    "ar": ("المجموع", "المتوسط", "العدد", "الأدنى", "الأعلى", "الحصة"),
    "cs": ("Součet", "Průměr", "Počet", "Nejméně", "Nejvíce", "Podíl"),
    "da": ("Sum", "Gennemsnit", "Antal", "Mindst", "Størst", "Andel"),
    "de": ("Summe", "Durchschnitt", "Anzahl", "Kleinster Wert", "Größter Wert", "Anteil"),
    "en": ("Sum", "Average", "Count", "Least", "Most", "Share"),
    "es": ("Suma", "Promedio", "Cantidad", "Mínimo", "Máximo", "Proporción"),
    "fi": ("Summa", "Keskiarvo", "Lukumäärä", "Pienin", "Suurin", "Osuus"),
    "fr": ("Somme", "Moyenne", "Nombre", "Minimum", "Maximum", "Part"),
    "it": ("Somma", "Media", "Numero", "Minimo", "Massimo", "Quota"),
    "nb": ("Sum", "Gjennomsnitt", "Antall", "Minst", "Størst", "Andel"),
    "nl": ("Som", "Gemiddelde", "Aantal", "Laagste", "Hoogste", "Aandeel"),
    "pl": ("Suma", "Średnia", "Liczba", "Najmniej", "Najwięcej", "Udział"),
    "pt": ("Soma", "Média", "Quantidade", "Mínimo", "Máximo", "Parcela"),
    "ru": ("Сумма", "Среднее", "Количество", "Минимум", "Максимум", "Доля"),
    "sv": ("Summa", "Medelvärde", "Antal", "Minst", "Störst", "Andel"),
    "tr": ("Toplam", "Ortalama", "Sayı", "En az", "En çok", "Pay"),
    "zh": ("合计", "平均", "数量", "最小", "最大", "占比"),
}
NO_FORMS: Final[Mapping[str, str]] = MappingProxyType({})
NO_FIGURES: Final[Mapping[str, Decimal | None]] = MappingProxyType({})
WRAPPED: Final = "overflow-wrap:break-word;"  # no value is drawn over its neighbour
LATE: Final = "-fq-wrap:late;"  # texts give room to heads, figures and names
UNBROKEN: Final = (  # kinds of values, with their details, that are read as one word
    ("date", ""), ("date", "short"), ("date", "medium"), ("time", ""), ("time", "short"), ("time", "medium"),
    ("duration", ""), ("bytes", ""),
)  # fmt: skip
CLIPPED: Final = "white-space:nowrap;overflow:hidden;text-overflow:ellipsis;"


def language_of(element: Element) -> str:
    node: Element | None = element
    while node is not None:
        if node.get("lang"):
            return str(node.get("lang")).split("-")[0].lower()
        node = node.getparent()
    return "en"


def labels_of(element: Element) -> tuple[str, str, str]:
    return LABELS.get(language_of(element), LABELS["en"])


def summary_labels_of(element: Element) -> dict[str, str]:
    """What stands beside figures of a group, by their names."""
    words = SUMMARY_LABELS.get(language_of(element), SUMMARY_LABELS["en"])
    return dict(zip((*FIGURES, SHARE), words, strict=True))


def cell_style(column: Column, *, head: bool) -> str:
    align = column.align or ("start" if head else "")  # a head stands over its values
    if align == "decimal":
        align = "end" if head else '"."'
    style = f"text-align:{align};" if align else ""
    style += LATE
    if head and column.width:
        style += f"width:{column.width};"
    if column.overflow == "clip" and not head:
        return style + CLIPPED
    if not head and not column.width and isinstance(column.form, str) and kind_of_form(column.form) in UNBROKEN:
        return style + "white-space:nowrap;"
    return style + (WRAPPED.replace("break-word", "anywhere") if column.width else WRAPPED)


def add_head(table: Element, columns: Sequence[Column]) -> None:
    head = etree.SubElement(etree.SubElement(table, "thead"), "tr")
    for column in columns:
        etree.SubElement(head, "th", {"style": cell_style(column, head=True)}).text = clean(column.title)


def add_lines(cell: Element, text: str) -> None:
    """Text in a cell, each of its lines on a line of its own."""
    first, *others = clean(text).split("\n")
    cell.text = first
    for line in others:
        etree.SubElement(cell, "br").tail = line


def text_row(body: Element, columns: Sequence[Column], texts: Iterable[str], classes: Sequence[str] = ()) -> None:
    """A row of texts; `classes` are those of its cells, '' for none."""
    row = etree.SubElement(body, "tr")
    for column, text, name in zip(columns, texts, classes or [""] * len(columns), strict=True):
        attributes = {"style": cell_style(column, head=False), **({"class": name} if name else {})}
        add_lines(etree.SubElement(row, "td", attributes), text or "\u200b")


def add_sums(
    table: Element,
    tag: str,
    name: str,
    show_on: str,
    columns: Sequence[Column],
    label: str,
    *,
    carried: bool,
    forms: Mapping[str, str] = NO_FORMS,
    figures: Mapping[str, Decimal | None] = NO_FIGURES,
) -> None:
    """A head or foot with sums so far; `show_on` says on which pages (-fq-show-on)."""
    group = etree.SubElement(table, tag, {"class": name, "style": f"-fq-show-on:{show_on};"})
    sum_row(group, name, columns, label, scope="so-far", carried=carried, forms=forms, figures=figures)


def sum_row(
    parent: Element,
    name: str,
    columns: Sequence[Column],
    label: str,
    *,
    scope: str,
    carried: bool,
    forms: Mapping[str, str] = NO_FORMS,
    figures: Mapping[str, Decimal | None] = NO_FIGURES,
) -> None:
    """A label over the columns before the first sum, then a sum in each column that has one.

    `forms` are the names of forms that are functions, by the name of their column; `figures` are known already, by
    the name of theirs.
    """
    row = etree.SubElement(parent, "tr", {"class": name})
    shown = [bool(column.carry if carried else column.total) for column in columns]
    lead = shown.index(True) if True in shown else len(columns)
    if lead:
        etree.SubElement(row, "td", {"colspan": str(lead), "style": f"text-align:start;{WRAPPED}"}).text = label
    for column, has_sum in list(zip(columns, shown, strict=True))[lead:]:
        cell = etree.SubElement(row, "td", {"style": cell_style(column, head=False)})
        if has_sum and column.name in figures and not callable(column.form):
            known = figures[column.name]
            if known is not None:
                form = COUNT_FORM if column.total == "count" else column.form or "number"
                etree.SubElement(cell, "fq-value", {"value": str(known), "form": form})
        elif has_sum:
            form = column.form if isinstance(column.form, str) else forms.get(column.name, "")
            form = COUNT_FORM if column.total == "count" else form
            etree.SubElement(cell, "fq-tally", {"name": column.name, "scope": scope, "form": form})
        else:
            cell.text = "\u200b"


def summary_row(parent: Element, name: str, columns: Sequence[Column]) -> None:
    """What a ledger's summaries look like: a cell before the first figure, then one for each column."""
    row = etree.SubElement(parent, "tr", {"class": name})
    lead = label_width(columns)
    if lead:
        etree.SubElement(row, "td", {"colspan": str(lead), "style": f"text-align:start;{WRAPPED}"}).text = "x"
    for column in columns[lead:]:
        etree.SubElement(row, "td", {"style": cell_style(column, head=False)}).text = "x"


def label_width(columns: Sequence[Column]) -> int:
    """How many columns stand before the first that has a total."""
    return next((place for place, column in enumerate(columns) if column.total), len(columns))
