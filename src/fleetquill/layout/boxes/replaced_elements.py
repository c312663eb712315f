"""Elements that stand for something drawn or formatted: pictures, drawings, charts, codes, values."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Final

from fleetquill.drawing.canvas import Drawing, Stroke
from fleetquill.drawing.effects import Effect
from fleetquill.drawing.paths import rectangle
from fleetquill.drawing.pictures import Picture
from fleetquill.errors import DataError, OptionError
from fleetquill.layout.block.breaks import FORCED_ANYWHERE
from fleetquill.layout.boxes.boxes import (
    BlockBox,
    Box,
    BreakBox,
    Element,
    FrameBox,
    InlineBox,
    PictureBox,
    TextBox,
    element_text,
    integer,
)
from fleetquill.layout.contract.context import Context
from fleetquill.style.background_values import Url
from fleetquill.style.filter_values import Reference
from fleetquill.style.properties import ComputedStyle
from fleetquill.style.values import Rgba

FRAME_FILL: Final = Rgba(0.93, 0.94, 0.94)
FRAME_LINE: Final = Rgba(0.72, 0.75, 0.75)


def image(context: Context, element: Element, style: ComputedStyle) -> list[Box]:
    url, density = _sharpest(element)
    box = picture_box(context, style, element, url, element.get("alt", ""))
    resolution = density * 96.0 if density else style.image_resolution
    if isinstance(box.picture, Picture):
        turned = box.picture
        if style.image_orientation == "none" and turned.orientation != 1:
            turned = turned._replace(
                orientation=1,
                width=float(turned.pixels[0]),
                height=float(turned.pixels[1]),
                key=f"{turned.key}#flat",
            )
        if resolution != 96.0:
            scale = 96.0 / resolution
            turned = turned._replace(width=turned.width * scale, height=turned.height * scale)
        box.picture = turned
    return [box]


def chart(context: Context, element: Element, style: ComputedStyle) -> list[Box]:
    """<fq-chart>: a chart from its data; <fq-figure>: a Matplotlib figure from Python."""
    drawing, alternative = context.services.chart(element, style)
    if isinstance(drawing, str):
        context.remark("chart", drawing, element)
        return [PictureBox(style, element, None, alternative)]
    _remark_faults(context, drawing, element)
    return [PictureBox(style, element, drawing, alternative)]


def spark(context: Context, element: Element, style: ComputedStyle) -> list[Box]:
    """<fq-spark kind values>: a small chart that stands in a line or a cell."""
    from fleetquill.graphics.sparks import spark_drawing

    drawing = spark_drawing(
        element.get("kind", "line"),
        element.get("values", ""),
        style.font_size,
        style.color,
        element.get("most", ""),
    )
    if isinstance(drawing, str):
        context.remark("chart", drawing, element)
        return [TextBox(style, element, "–")]
    return [PictureBox(style, element, drawing, element.get("values", ""))]


def picture_box(context: Context, style: ComputedStyle, element: Element, url: str, alternative: str) -> PictureBox:
    found = context.pictures.get(url) if url else "The picture has no address."
    if not isinstance(found, str):
        if isinstance(found, Drawing):
            _remark_faults(context, found, element)
        else:
            remark_damage(context, url, found, element)
        return PictureBox(style, element, found, alternative)
    name = _shortened(url)
    context.remark("picture", f"The picture '{name}' is not shown. {found}", element)
    return PictureBox(style, element, None, alternative or name)


def value(context: Context, element: Element, style: ComputedStyle) -> list[Box]:
    """<fq-value value form>: a number or date as the press's locale writes it."""
    text = element.get("value", "")
    try:
        shown = context.services.formats().form(text, element.get("form") or "number") if text else ""
    except ValueError as error:
        raise DataError(f"A value cannot be shown: {error}.", where=context.services.place_of(element)) from error
    return [InlineBox(style, element, [TextBox(style, element, shown)])]


def remark_damage(context: Context, url: str, picture: Picture | Drawing, element: Element | None) -> None:
    """A remark for a picture that is shown although its file is damaged."""
    if isinstance(picture, Picture) and picture.fault:
        context.remark("picture", f"The picture '{_shortened(url)}' is shown as it is. {picture.fault}", element)


def _remark_faults(context: Context, drawing: Drawing, element: Element | None) -> None:
    for fault in drawing.faults:
        context.remark("drawing", fault, element)


def code(context: Context, element: Element, style: ComputedStyle) -> list[Box]:
    """<fq-code kind value>: a code to scan; kind 'payment' is a euro transfer."""
    from fleetquill.graphics.codes import LEAST_MODULE, code_drawing, modules_across, payment_text

    kind, text = element.get("kind", "qr"), element.get("value") or element_text(element)
    try:
        if kind == "payment":
            kind = "qr"
            text = payment_text(
                element.get("name", ""), element.get("iban", ""), element.get("amount") or None,
                text=element.get("text", ""), reference=element.get("reference", ""),
                bic=element.get("bic", ""), purpose=element.get("purpose", ""),
            )  # fmt: skip
        correction = element.get("correction", "M").upper()
        drawing = code_drawing(kind, text, correction, style.color)
        across = modules_across(drawing)
    except OptionError as error:
        context.remark("code", f"A code is not drawn. {error}", element)
        return [PictureBox(style, element, None, element.get("value", ""))]
    if isinstance(style.width, float) and style.width / across < LEAST_MODULE:
        module = style.width / across / 96 * 25.4
        context.remark(
            "code", f"The modules of a code are {module:.2f} mm wide; few printers hold less than 0.19 mm.", element
        )
    return [PictureBox(style, element, drawing, text)]


def svg(context: Context, element: Element, style: ComputedStyle) -> list[Box]:
    """An svg element among the HTML."""
    drawing = context.services.draw(element, style)
    _remark_faults(context, drawing, element)
    return [PictureBox(style, element, drawing, "")]


SCREEN_SIZE: Final = (300.0, 150.0)  # px of what has no size of its own (HTML §15.4.1)


def _frame(style: ComputedStyle, element: Element, alternative: str, *, filled: bool) -> FrameBox:
    """Where something would show itself on a screen: grey, with a cross, or empty."""
    drawing = Drawing(*SCREEN_SIZE)
    if filled:
        wide, high = SCREEN_SIZE
        drawing.fill_rect(0, 0, wide, high, FRAME_FILL)
        cross = [("m", 0.0, 0.0), ("l", wide, high), ("m", wide, 0.0), ("l", 0.0, high)]
        drawing.stroke_path([*rectangle(0, 0, wide, high), *cross], FRAME_LINE, Stroke(1.0))
    return FrameBox(style, element, drawing, alternative)


def frame(context: Context, element: Element, style: ComputedStyle) -> list[Box]:
    """<iframe>, <embed>: what they would show is not read; an embedded picture is shown."""
    source = element.get("src", "")
    if element.tag == "embed" and source and not isinstance(context.pictures.get(source), str):
        return [picture_box(context, style, element, source, element.get("title", ""))]
    name = element.get("title") or _shortened(source) or "no address"
    context.remark("element", f"An {element.tag} is not shown: {name}.", element)
    return [_frame(style, element, name, filled=bool(source or element.get("srcdoc")))]


def canvas(context: Context, element: Element, style: ComputedStyle) -> list[Box]:
    """<canvas>: scripts draw on it, and no script is run."""
    context.remark_first("element", "A canvas is empty: scripts draw on it, and none is run.", element)
    empty = Drawing(_dimension(element, "width", 0), _dimension(element, "height", 1))
    return [PictureBox(style, element, empty, element_text(element))]


def _dimension(element: Element, name: str, axis: int) -> float:
    return float(max(1, integer(element.get(name), int(SCREEN_SIZE[axis]))))


def video(context: Context, element: Element, style: ComputedStyle) -> list[Box]:
    """<video>: its poster, where it has one."""
    poster = element.get("poster", "")
    if poster:
        return [picture_box(context, style, element, poster, element.get("title", ""))]
    context.remark("element", f"A video is not shown: {_source_of(element)}.", element)
    return [_frame(style, element, element.get("title", ""), filled=bool(_source_of(element, "")))]


def audio(context: Context, element: Element, _style: ComputedStyle) -> list[Box]:
    """<audio>: nothing that paper could show."""
    context.remark("element", f"Sound is not shown: {_source_of(element)}.", element)
    return []


def _source_of(element: Element, otherwise: str = "it has no address") -> str:
    sources = [element.get("src", ""), *(child.get("src", "") for child in element if child.tag == "source")]
    return next((_shortened(source) for source in sources if source), otherwise)


def embedded(context: Context, element: Element, style: ComputedStyle) -> list[Box] | None:
    """<object>: the picture that it names; else what stands in it (HTML §4.8.7)."""
    source = element.get("data", "")
    if source and not isinstance(context.pictures.get(source), str):
        return [picture_box(context, style, element, source, element_text(element))]
    if source:
        context.remark("element", f"An object is not shown: {_shortened(source)}.", element)
    if not element_text(element) and not len(element):
        return [_frame(style, element, "", filled=bool(source))]
    return None


def line_break(context: Context, element: Element, style: ComputedStyle) -> list[Box]:
    """A line's end; a page's where its style says so, as word processors write it (browsers do not hear that)."""
    if style.break_before in FORCED_ANYWHERE or style.break_after in FORCED_ANYWHERE:
        return [BlockBox(ComputedStyle(style.parent, {**style.__dict__, "display": "block"}), element, [])]
    return [BreakBox(style, element, [])]


def break_opportunity(context: Context, element: Element, style: ComputedStyle) -> list[Box]:
    return [TextBox(style, element, "\u200b")]


SHARPEST: Final = 4.0  # times the size in px that a picture is worth having: 384 dpi
WIDEST: Final = 5_000.0  # px


def _sharpest(element: Element) -> tuple[str, float]:
    """The address of the sharpest picture that is useful, and its density where srcset gives one (HTML §4.8.4.2)."""
    best, density = element.get("src", ""), 0.0
    highest = 1.0 if best else 0.0
    for candidate in re.split(r",\s+|,(?=\S+\s)", element.get("srcset", "")):
        parts = candidate.split()
        if not parts:
            continue
        size = parts[1] if len(parts) > 1 else "1x"
        try:
            number = float(size[:-1])
        except ValueError:
            continue
        useful = number <= (SHARPEST if size[-1] == "x" else WIDEST)
        if useful and number > highest and size[-1] in "xw":
            best, highest = parts[0], number
            density = number if size[-1] == "x" else 0.0
    return best, density


def has_pictures(style: ComputedStyle) -> bool:
    """Whether a style has pictures for a box: behind it, over it or around it, or effects of the document."""
    return bool(
        style.has_background_pictures
        or style.mask_image
        or style.border_image_source != "none"
        or (isinstance(style.clip_path, str) and style.clip_path)
        or any(isinstance(step, Reference) for step in style.filter)
    )


def background_pictures(
    style: ComputedStyle, context: Context, element: Element | None
) -> dict[str, Picture | Drawing]:
    """The pictures of a background, a mask and a border, by address; a remark for each that cannot be shown."""
    found: dict[str, Picture | Drawing] = {}
    if isinstance(style.clip_path, str) and style.clip_path:
        _find_part(found, f"#{style.clip_path}", style, context, element)
    for image in (*style.background_image, *style.mask_image, style.border_image_source):
        if not isinstance(image, Url):
            continue
        if image.url.startswith("#"):
            _find_part(found, image.url, style, context, element)
            continue
        picture = context.pictures.get(image.url)
        if not isinstance(picture, str):
            found[image.url] = picture
            remark_damage(context, image.url, picture, element)
        else:
            context.remark("picture", f"The picture '{_shortened(image.url)}' is not shown. {picture}", element)
    return found


def style_effects(style: ComputedStyle, context: Context, element: Element) -> dict[str, Effect] | None:
    """The filters of the document that a style names, by id; a remark for each that is not there."""
    found: dict[str, Effect] = {}
    for step in style.filter:
        if not isinstance(step, Reference):
            continue
        effect = context.services.effect(step.id, element, style)
        if effect is None:
            context.remark("style", f"'#{step.id}' leads to no filter of the document; nothing is filtered.", element)
            continue
        found[step.id] = effect
        for fault in effect.faults:
            context.remark("picture", fault, element)
    return found or None


def _find_part(
    found: dict[str, Picture | Drawing], url: str, style: ComputedStyle, context: Context, element: Element | None
) -> None:
    """A clipPath or mask that stands in the document, as a drawing."""
    part = context.services.draw_part(url[1:], element, style) if element is not None else None
    if part is not None:
        found[url] = part
    else:
        context.remark("style", f"'{url}' leads to no mask or clipPath of the document; nothing is cut.", element)


def _shortened(url: str) -> str:
    return url if len(url) <= 80 else f"{url[:30]}…{url[-46:]}"


REPLACED: Final[dict[str, Callable[[Context, Element, ComputedStyle], list[Box] | None]]] = {
    "iframe": frame,
    "embed": frame,
    "object": embedded,
    "canvas": canvas,
    "video": video,
    "audio": audio,
    "img": image,
    "svg": svg,
    "br": line_break,
    "wbr": break_opportunity,
    "fq-value": value,
    "fq-code": code,
    "fq-chart": chart,
    "fq-figure": chart,
    "fq-spark": spark,
}
