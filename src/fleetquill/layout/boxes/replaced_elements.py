"""Elements that stand for something drawn or formatted: pictures, drawings, charts, codes, values."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Final

from fleetquill.drawing.canvas import Drawing
from fleetquill.drawing.pictures import Picture
from fleetquill.errors import DataError, OptionError
from fleetquill.layout.boxes.boxes import Box, BreakBox, Element, InlineBox, PictureBox, TextBox, element_text
from fleetquill.layout.contract.context import Context
from fleetquill.style.background_values import Url
from fleetquill.style.properties import ComputedStyle


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


def line_break(context: Context, element: Element, style: ComputedStyle) -> list[Box]:
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


def background_pictures(
    style: ComputedStyle, context: Context, element: Element | None
) -> dict[str, Picture | Drawing]:
    """The pictures of a background, by address; a remark for each that cannot be shown."""
    found: dict[str, Picture | Drawing] = {}
    for image in style.background_image:
        if not isinstance(image, Url):
            continue
        picture = context.pictures.get(image.url)
        if not isinstance(picture, str):
            found[image.url] = picture
        else:
            context.remark("picture", f"The background '{_shortened(image.url)}' is not shown. {picture}", element)
    return found


def _shortened(url: str) -> str:
    return url if len(url) <= 80 else f"{url[:30]}…{url[-46:]}"


REPLACED: Final[dict[str, Callable[[Context, Element, ComputedStyle], list[Box]]]] = {
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
