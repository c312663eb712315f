"""How paragraphs and runs look, as properties of WordprocessingML, and the named styles that they share."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Final, NamedTuple

from fleetquill.output.docx.xml import attribute, border, color, element, twips
from fleetquill.structure.flow import Frame, Paragraph, Text
from fleetquill.style.lengths import Factor, resolve
from fleetquill.style.properties import ComputedStyle
from fleetquill.text.bidi import may_run_from_right

Properties = Mapping[str, str]  # each by its name, in the order that the format wants (§17.3.1.26, §17.3.2.28)

GENERIC: Final = {"serif": "Source Serif Pro", "sans-serif": "Source Sans Pro", "monospace": "DejaVu Sans Mono",
                  "system-ui": "Source Sans Pro", "ui-monospace": "DejaVu Sans Mono"}  # fmt: skip
ALIGNED: Final = {"start": "start", "left": "left", "right": "right", "end": "end", "center": "center",
                  "justify": "both", "justify-all": "both"}  # fmt: skip
UNDERLINES: Final = {"solid": "single", "double": "double", "dotted": "dotted", "dashed": "dash", "wavy": "wave"}
BOLD: Final = 600
LONGEST_FACE: Final = 31  # characters of the name of a font
LANGUAGE: Final = re.compile(r"[A-Za-z]{2,3}(-[A-Za-z0-9]{2,8})*")
LEAST_LINE: Final = 1.0  # px


class Role(NamedTuple):
    """A named style: its identifier and its name, by which readers know what a paragraph is."""

    id: str
    name: str
    level: int = 0


NORMAL: Final = Role("Normal", "Normal")
ROLES: Final = {
    "p": Role("BodyText", "Body Text"),
    "pre": Role("HTMLPreformatted", "HTML Preformatted"),
    "li": Role("ListParagraph", "List Paragraph"),
    "blockquote": Role("Quote", "Quote"),
    "figcaption": Role("Caption", "caption"),
    "caption": Role("Caption", "caption"),
    "dt": Role("DefinitionTerm", "Definition Term"),
    "dd": Role("Definition", "Definition"),
    "note": Role("FootnoteText", "footnote text"),
    "header": Role("Header", "header"),
    "footer": Role("Footer", "footer"),
    "td": Role("TableText", "Table Text"),
    "th": Role("TableHead", "Table Head"),
    "contents": Role("TOC1", "toc 1"),
}
KEPT_ROLES: Final = frozenset(("note", "header", "footer", "contents"))  # whatever element the text stands in


def role_of(paragraph: Paragraph, around: str) -> Role:
    """The named style of a paragraph that stands in something of that kind: 'td', 'note', '' and so on."""
    if around in KEPT_ROLES:
        return ROLES[around]
    if paragraph.level:
        return Role(f"Heading{paragraph.level}", f"heading {paragraph.level}", paragraph.level)
    if paragraph.marker is not None:
        return ROLES["li"]
    return ROLES.get(paragraph.tag, NORMAL) if paragraph.tag in ROLES else ROLES.get(around, NORMAL)


class _Named(NamedTuple):
    role: Role
    paragraph: Properties
    run: Properties


class Looks:
    """The named styles of one document: each looks as the first of its kind does."""

    def __init__(self, base: ComputedStyle) -> None:
        """`base` is the style of the document's body, which the normal paragraph has."""
        self._named: dict[str, _Named] = {}
        self._normal = self.named(NORMAL, base)
        self._runs: dict[tuple[object, ...], str] = {}

    def named(self, role: Role, style: ComputedStyle) -> _Named:
        found = self._named.get(role.id)
        if found is None:
            paragraph = {**paragraph_properties(style), **self._of_role(role)}
            found = self._named[role.id] = _Named(role, paragraph, run_properties(style))
        return found

    def _of_role(self, role: Role) -> Properties:
        if not role.level:
            return {}
        return {"keepNext": element("keepNext"), "outlineLvl": element("outlineLvl", val=role.level - 1)}

    def paragraph(self, role: Role, style: ComputedStyle, own: Properties) -> str:
        """The properties of a paragraph, as they differ from those of its named style; `own` go before all."""
        named = self.named(role, style)
        wanted = {**paragraph_properties(style), **self._of_role(role), **own}
        more = [wanted[name] for name in ORDER if name in wanted and wanted[name] != named.paragraph.get(name, "")]
        return f"{element('pStyle', val=role.id)}{''.join(more)}"

    def run(self, role: Role, piece: Text, around: ComputedStyle) -> str:
        """The properties of a run in a paragraph of a role."""
        from_right = may_run_from_right(piece.text)
        key = (role.id, piece.style, piece.rise, piece.lines, from_right)
        found = self._runs.get(key)
        if found is None:
            named = self.named(role, around).run
            wanted = run_properties(piece.style, piece.rise, piece.lines, from_right=from_right)
            found = "".join(text for name, text in wanted.items() if text and text != named.get(name))
            found = self._runs[key] = f"<w:rPr>{found}</w:rPr>" if found else ""
        return found

    def sheet(self) -> str:
        """The styles part (§17.7)."""
        base = "".join(filter(None, self._normal.run.values()))
        parts = [f"<w:docDefaults><w:rPrDefault><w:rPr>{base}</w:rPr></w:rPrDefault><w:pPrDefault/></w:docDefaults>"]
        for named in self._named.values():
            parts.append(_style(named, self._normal))
        parts.append(
            '<w:style w:type="character" w:default="1" w:styleId="DefaultParagraphFont">'
            '<w:name w:val="Default Paragraph Font"/><w:uiPriority w:val="1"/><w:semiHidden/></w:style>'
            '<w:style w:type="table" w:default="1" w:styleId="TableNormal"><w:name w:val="Normal Table"/>'
            '<w:uiPriority w:val="99"/><w:semiHidden/><w:tblPr><w:tblInd w:w="0" w:type="dxa"/><w:tblCellMar>'
            '<w:top w:w="0" w:type="dxa"/><w:left w:w="0" w:type="dxa"/><w:bottom w:w="0" w:type="dxa"/>'
            '<w:right w:w="0" w:type="dxa"/></w:tblCellMar></w:tblPr></w:style>'
            '<w:style w:type="character" w:styleId="FootnoteReference"><w:name w:val="footnote reference"/>'
            '<w:rPr><w:vertAlign w:val="superscript"/></w:rPr></w:style>'
            '<w:style w:type="character" w:styleId="Hyperlink"><w:name w:val="Hyperlink"/></w:style>'
        )
        return "".join(parts)


def _style(named: _Named, normal: _Named) -> str:
    """A style as it differs from the normal one, and that from the document's defaults."""
    role = named.role
    if named is normal:
        facts, letters, head = named.paragraph, {}, ' w:default="1" w:styleId="Normal"><w:name w:val="Normal"/>'
    else:
        facts = {name: said for name, said in named.paragraph.items() if said != normal.paragraph.get(name)}
        letters = {name: said for name, said in named.run.items() if said != normal.run.get(name)}
        head = f' w:styleId="{role.id}"><w:name w:val="{role.name}"/><w:basedOn w:val="Normal"/>'
        head += '<w:next w:val="Normal"/>' if role.level else ""
    paragraph = "".join(facts[name] for name in ORDER if facts.get(name))
    run = "".join(filter(None, letters.values()))
    said = f"<w:pPr>{paragraph}</w:pPr>" if paragraph else ""
    said += f"<w:rPr>{run}</w:rPr>" if run else ""
    return f'<w:style w:type="paragraph"{head}<w:qFormat/>{said}</w:style>'


# ---- properties ----

ORDER: Final = (
    "keepNext", "keepLines", "pageBreakBefore", "numPr", "pBdr", "shd", "tabs", "bidi", "spacing", "ind", "jc",
    "outlineLvl",
)  # fmt: skip


def paragraph_properties(style: ComputedStyle) -> Properties:
    """What a block's style says of its paragraph; indents are its place's."""
    found: dict[str, str] = {}
    if style.break_after in ("avoid", "avoid-page"):
        found["keepNext"] = element("keepNext")
    if style.break_inside in ("avoid", "avoid-page"):
        found["keepLines"] = element("keepLines")
    found["bidi"] = _toggle("bidi", style.direction == "rtl")
    found["spacing"] = spacing(style, *(max(0.0, _px(m)) for m in (style.margin_top, style.margin_bottom)))
    found["jc"] = element("jc", val=_aligned(style))
    return found


def spacing(style: ComputedStyle, before: float, after: float) -> str:
    """The space around a paragraph, and how far its lines stand apart at least."""
    line = _line_height(style)
    lines = {"line": twips(max(LEAST_LINE, line)), "lineRule": "atLeast"} if line else {}
    return element("spacing", before=twips(before), after=twips(after), **lines)


def _line_height(style: ComputedStyle) -> float:
    height = style.line_height
    if isinstance(height, Factor):
        return height.value * style.font_size
    return height if isinstance(height, float) else 0.0


def _px(length: object) -> float:
    return length if isinstance(length, float) else 0.0


def _aligned(style: ComputedStyle) -> str:
    """In a paragraph from right to left the format calls that side 'left' where lines begin (§17.3.1.13)."""
    align = ALIGNED.get(str(style.text_align), "end" if str(style.text_align).startswith('"') else "start")
    if align in ("both", "center"):
        return align
    rtl = style.direction == "rtl"
    at_start = align == "start" or align == ("right" if rtl else "left")
    return "left" if at_start else "right"


def indent(left: float, right: float, first: float, hanging: float = 0.0) -> str:
    facts: dict[str, int] = {"left": twips(left), "right": twips(right)}
    if hanging:
        facts["hanging"] = twips(hanging)
    elif first < 0:
        facts["hanging"] = twips(-first)
    elif first:
        facts["firstLine"] = twips(first)
    return element("ind", **facts)


def frame_properties(style: ComputedStyle, frame: Frame | None, *, width: float) -> Properties:
    """The ground and the lines of a paragraph, its own or those of the frame that it stands in."""
    source = frame.style if frame is not None else style
    found: dict[str, str] = {}
    if source.background_color.alpha:
        found["shd"] = element("shd", val="clear", color="auto", fill=color(source.background_color))
    pads = (source.padding_top, source.padding_left, source.padding_bottom, source.padding_right)
    top, left, bottom, right = (resolve(pad, width) for pad in pads)
    lines = (
        border("top", source.border_top_width, source.border_top_style, source.border_top_color, top)
        + border("left", source.border_left_width, source.border_left_style, source.border_left_color, left)
        + border("bottom", source.border_bottom_width, source.border_bottom_style, source.border_bottom_color, bottom)
        + border("right", source.border_right_width, source.border_right_style, source.border_right_color, right)
    )
    if lines:
        found["pBdr"] = f"<w:pBdr>{lines}</w:pBdr>"
    return found


def run_properties(
    style: ComputedStyle, rise: str = "", lines: tuple[str, ...] = (), *, from_right: bool = False
) -> Properties:
    """What a style says of letters; every one is said, so that what differs can be told."""
    name = attribute(GENERIC.get(style.font_family[0], style.font_family[0])[:LONGEST_FACE])
    size = max(2, min(3276, round(style.font_size * 1.5)))  # half points
    ground = style.background_color if style.display == "inline" else None
    underline = UNDERLINES.get(style.text_decoration_style, "single") if "underline" in lines else "none"
    return {
        "rFonts": f'<w:rFonts w:ascii="{name}" w:hAnsi="{name}" w:eastAsia="{name}" w:cs="{name}"/>',
        "b": _toggle("b", style.font_weight >= BOLD) + _toggle("bCs", style.font_weight >= BOLD),
        "i": _toggle("i", style.font_style != "normal") + _toggle("iCs", style.font_style != "normal"),
        "smallCaps": _toggle("smallCaps", style.font_variant_caps in ("small-caps", "all-small-caps")),
        "strike": _toggle("strike", "line-through" in lines),
        "color": element("color", val=color(style.color)),
        "spacing": element("spacing", val=twips(style.letter_spacing)),
        "sz": element("sz", val=size) + element("szCs", val=size),
        "u": element("u", val=underline),
        "shd": element("shd", val="clear", color="auto", fill=color(ground)) if ground and ground.alpha else "",
        "vertAlign": element("vertAlign", val={"super": "superscript", "sub": "subscript"}.get(rise, "baseline")),
        "rtl": _toggle("rtl", from_right),
        "lang": _language(style, from_right=from_right),
    }


def _toggle(name: str, on: bool) -> str:
    return f"<w:{name}/>" if on else f'<w:{name} w:val="0"/>'


def _language(style: ComputedStyle, *, from_right: bool) -> str:
    """The language of letters, where its tag is one."""
    if not LANGUAGE.fullmatch(style.language):
        return ""
    return element("lang", **{"bidi" if from_right else "val": style.language})
