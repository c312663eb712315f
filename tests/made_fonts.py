"""Fonts that tests make: of one sign, a star, in colours of several kinds, or with what its maker allows."""

import base64
import io

from fontTools.cffLib import FDArrayIndex, FDSelect, FontDict
from fontTools.colorLib.builder import buildCOLR, buildCPAL
from fontTools.fontBuilder import FontBuilder
from fontTools.pens.t2CharStringPen import T2CharStringPen
from fontTools.pens.ttGlyphPen import TTGlyphPen
from fontTools.ttLib import newTable
from fontTools.ttLib.tables import sbixGlyph, sbixStrike
from fontTools.ttLib.tables.otTables import CompositeMode
from PIL import Image

STAR = "★"
RED_AND_BLUE = [(1, 0, 0, 1), (0, 0, 1, 1)]
MODES = [mode.name for mode in CompositeMode]  # in which a picture meets what is below it
FOREGROUND = 0xFFFF  # the colour of the text


def square(*corners):
    pen = TTGlyphPen(None)
    if corners:
        left, bottom, right, top = corners
        pen.moveTo((left, bottom))
        for corner in ((left, top), (right, top), (right, bottom)):
            pen.lineTo(corner)
        pen.closePath()
    return pen.glyph()


def star_font(kind="plain", allowed=0):
    """A font of the kind plain, empty, layers, gradient or bitmap, or of a mode in which the blue right half of the star
    is composed with its red left half; they overlap."""
    names = [".notdef", "star", "outer", "inner", "left", "right"]
    builder = FontBuilder(1000, isTTF=True)
    builder.setupGlyphOrder(names)
    builder.setupCharacterMap({ord(STAR): "star"})
    own = square(0, 0, 800, 800) if kind == "plain" else square()
    glyphs = (square(100, 0, 400, 700), own, square(0, 0, 800, 800), square(0, 200, 400, 600))
    glyphs += (square(0, 0, 500, 800), square(300, 0, 800, 800))
    builder.setupGlyf(dict(zip(names, glyphs, strict=True)))
    builder.setupHorizontalMetrics(dict.fromkeys(names, (900, 0)) | {"right": (900, 300)})
    builder.setupHorizontalHeader(ascent=800, descent=-200)
    builder.setupNameTable({"familyName": "Stars", "styleName": "Regular", "psName": "Stars"})
    builder.setupOS2(sTypoAscender=800, fsType=allowed)
    builder.setupPost()
    font = builder.font
    if kind == "layers":
        font["COLR"] = buildCOLR({"star": [("outer", 0), ("inner", FOREGROUND)]})
    elif kind == "gradient":
        line = {"ColorStop": [(0, 0), (1, 1)], "Extend": "pad"}
        across = {"Format": 4, "ColorLine": line, "x0": 0, "y0": 0, "x1": 800, "y1": 0, "x2": 0, "y2": 800}
        font["COLR"] = buildCOLR({"star": {"Format": 10, "Glyph": "outer", "Paint": across}}, version=1)
    elif kind in MODES:
        halves = [{"Format": 10, "Glyph": name, "Paint": {"Format": 2, "PaletteIndex": color, "Alpha": 1.0}}
                  for name, color in (("left", 0), ("right", 1))]  # fmt: skip
        composed = {
            "Format": 32,
            "SourcePaint": halves[1],
            "CompositeMode": CompositeMode[kind],
            "BackdropPaint": halves[0],
        }
        font["COLR"] = buildCOLR({"star": composed}, version=1)
    elif kind == "bitmap":
        font["sbix"] = bitmaps(names)
    if kind in ("layers", "gradient", *MODES):
        font["CPAL"] = buildCPAL([RED_AND_BLUE])
    if kind == "empty":
        del font["glyf"], font["loca"]
    stream = io.BytesIO()
    font.save(stream)
    return stream.getvalue()


def bitmaps(names):
    picture = io.BytesIO()
    Image.new("RGB", (90, 80), (0, 160, 0)).save(picture, "PNG")
    strike = sbixStrike.Strike(ppem=100, resolution=72)
    for name in names:
        content = picture.getvalue() if name == "star" else None
        kind = "png " if content else None
        strike.glyphs[name] = sbixGlyph.Glyph(glyphName=name, graphicType=kind, imageData=content, originOffsetX=0,
                                              originOffsetY=0)  # fmt: skip
    table = newTable("sbix")
    table.version, table.flags, table.numStrikes, table.strikes = 1, 1, 1, {100: strike}
    return table


def as_rule(content):
    """The rule of CSS that names the font Stars."""
    address = base64.b64encode(content).decode()
    return f"@font-face {{ font-family: Stars; src: url(data:font/ttf;base64,{address}) }}"


def numbered_font(characters, first=500, family="Numbered", allowed=0):
    """A CFF font whose glyphs have numbers in place of names, as those of East Asia do: `first`, `first` + 10 and on.

    Each glyph is a square, 100 units larger than the last.
    """
    names = [".notdef", *(f"cid{first + 10 * place:05}" for place in range(len(characters)))]
    builder = FontBuilder(1000, isTTF=False)
    builder.setupGlyphOrder(names)
    builder.setupCharacterMap({ord(character): name for character, name in zip(characters, names[1:], strict=True)})
    strings = {}
    for place, name in enumerate(names):
        pen = T2CharStringPen(900, None)
        side = 100 * place
        if side:
            pen.moveTo((0, 0))
            for corner in ((side, 0), (side, side), (0, side)):
                pen.lineTo(corner)
            pen.closePath()
        strings[name] = pen.getCharString()
    builder.setupCFF("Numbered", {"FullName": "Numbered"}, strings, {})
    _number_glyphs(builder.font["CFF "].cff[0], len(names))
    builder.setupHorizontalMetrics(dict.fromkeys(names, (900, 0)))
    builder.setupHorizontalHeader(ascent=800, descent=-200)
    builder.setupNameTable({"familyName": family, "styleName": "Regular", "psName": family.replace(" ", "")})
    builder.setupOS2(sTypoAscender=800, fsType=allowed)
    builder.setupPost()
    stream = io.BytesIO()
    builder.font.save(stream)
    return stream.getvalue()


def _number_glyphs(top, count):
    """Makes a font of one dictionary, whose glyphs are called 'cid00500' and so on, one that is keyed by CID."""
    inner = FontDict()
    inner.Private = top.Private
    inner.FontName = "Numbered-All"
    top.FDArray = FDArrayIndex()
    top.FDArray.append(inner)
    top.FDSelect = FDSelect()
    top.FDSelect.format = 3
    top.FDSelect.gidArray = [0] * count
    top.ROS, top.CIDCount = ("Adobe", "Identity", 0), 10_000
    top.CharStrings.fdArray, top.CharStrings.fdSelect = top.FDArray, top.FDSelect
    del top.Private
