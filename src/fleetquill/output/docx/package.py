"""The package around the parts of a word-processor file (ISO/IEC 29500-2): names, types, relationships."""

from __future__ import annotations

import io
from datetime import datetime
from hashlib import blake2b
from typing import IO, Any, BinaryIO, Final
from zipfile import ZIP_DEFLATED, ZIP_STORED, ZipFile, ZipInfo

from fleetquill.drawing.canvas import Drawing
from fleetquill.drawing.pictures import Picture, pixels_of, png_picture
from fleetquill.output.docx.xml import DECLARATION, attribute, text
from fleetquill.output.svg.drawings import svg_of
from fleetquill.tree.metadata import Metadata

EPOCH: Final = (1980, 1, 1, 0, 0, 0)  # of every file in the package: the same input gives the same bytes
OFFICE: Final = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
PACKAGE: Final = "http://schemas.openxmlformats.org/package/2006"
WORD: Final = "application/vnd.openxmlformats-officedocument.wordprocessingml"
STORED: Final = ("png", "jpeg", "gif")  # packed already
FORMATS: Final = {"PNG": "png", "JPEG": "jpeg", "GIF": "gif"}
TYPES: Final = {"png": "image/png", "jpeg": "image/jpeg", "gif": "image/gif", "svg": "image/svg+xml"}
FINE: Final = 2.0  # pixels for a px of a drawing's picture


class Part:
    """One part of the package and what it refers to."""

    def __init__(self, name: str, kind: str) -> None:
        self.name = name
        self.kind = kind  # of its content, and of relationships to it
        self.relationships: list[str] = []
        self._known: dict[tuple[str, str], str] = {}

    def relate(self, kind: str, target: str, *, outside: bool = False) -> str:
        """The name by which this part refers to another one, or to an address."""
        key = (kind, target)
        found = self._known.get(key)
        if found is None:
            found = self._known[key] = f"rId{len(self._known) + 1}"
            mode = ' TargetMode="External"' if outside else ""
            self.relationships.append(
                f'<Relationship Id="{found}" Type="{OFFICE}/{kind}" Target="{attribute(target)}"{mode}/>'
            )
        return found


class Package:
    """A package that is being written: parts go out as they are ready."""

    def __init__(self, stream: BinaryIO) -> None:
        self._zip = ZipFile(stream, "w", ZIP_DEFLATED)
        self._overrides: list[str] = []
        self._endings: set[str] = set()
        self._media: dict[object, str] = {}
        self._contents: dict[str, bytes] = {}

    def __enter__(self) -> Package:
        return self

    def __exit__(self, *_: object) -> None:
        self._zip.close()

    def open(self, part: Part) -> IO[bytes]:
        """The part, to be written to."""
        self._overrides.append(f'<Override PartName="/{part.name}" ContentType="{WORD}.{part.kind}+xml"/>')
        return self._zip.open(_info(part.name), "w")

    def add(self, part: Part, content: str) -> None:
        with self.open(part) as file:
            file.write((DECLARATION + content).encode("utf-8", "replace"))
        self.add_relationships(part)

    def add_relationships(self, part: Part) -> None:
        if part.relationships:
            folder, _, name = part.name.rpartition("/")
            content = f'<Relationships xmlns="{PACKAGE}/relationships">{"".join(part.relationships)}</Relationships>'
            self._put(f"{folder}/_rels/{name}.rels", content)

    def _put(self, name: str, content: str) -> None:
        self._zip.writestr(_info(name), (DECLARATION + content).encode("utf-8", "replace"))

    # ---- pictures ----

    def picture(self, picture: Picture) -> str:
        """The file of a picture, each of them once."""
        found = self._media.get(picture.key)
        if found is None:
            found = self._media[picture.key] = self._keep(*_content(picture))
        return found

    def drawing(self, drawing: Drawing) -> tuple[str, str]:
        """The files of a vector picture: as SVG, and as a picture of pixels for those who cannot draw that."""
        from fleetquill.graphics.raster import RasterCanvas, fitting_scale, picture_of

        found = self._media.get(drawing)
        if found is None:
            scale = fitting_scale(drawing.width, drawing.height, FINE)
            canvas = RasterCanvas(drawing.width, drawing.height, scale)
            drawing.paint(canvas)
            pixels = self._keep(picture_of(canvas.pixels, scale).content, "png")
            found = self._media[drawing] = f"{self._keep(svg_of(drawing), 'svg')} {pixels}"
        vector, pixels = found.split(" ")
        return vector, pixels

    def _keep(self, content: bytes, ending: str) -> str:
        name = f"media/{blake2b(content, digest_size=8).hexdigest()}.{ending}"
        self._contents[name] = content
        self._endings.add(ending)
        return name

    # ---- the end ----

    def finish(self, main: Part, metadata: Metadata) -> None:
        """Writes pictures, what the document says of itself, and the package's own parts."""
        for name, content in self._contents.items():
            stored = name.rpartition(".")[2] in STORED
            self._zip.writestr(_info(f"word/{name}", ZIP_STORED if stored else ZIP_DEFLATED), content)
        self._put("docProps/core.xml", _core(metadata))
        self._put(
            "_rels/.rels",
            f'<Relationships xmlns="{PACKAGE}/relationships">'
            f'<Relationship Id="rId1" Type="{OFFICE}/officeDocument" Target="{main.name}"/>'
            f'<Relationship Id="rId2" Type="{PACKAGE}/relationships/metadata/core-properties" '
            'Target="docProps/core.xml"/></Relationships>',
        )
        defaults = "".join(
            f'<Default Extension="{ending}" ContentType="{TYPES[ending]}"/>' for ending in sorted(self._endings)
        )
        self._put(
            "[Content_Types].xml",
            f'<Types xmlns="{PACKAGE}/content-types">'
            '<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>'
            f'<Default Extension="xml" ContentType="application/xml"/>{defaults}{"".join(self._overrides)}'
            '<Override PartName="/docProps/core.xml" '
            'ContentType="application/vnd.openxmlformats-package.core-properties+xml"/></Types>',
        )


def _info(name: str, packing: int = ZIP_DEFLATED) -> ZipInfo:
    info = ZipInfo(name, EPOCH)
    info.compress_type = packing
    return info


def _content(picture: Picture) -> tuple[bytes, str]:
    """The bytes of a picture in a format that readers know, turned as its camera held it."""
    ending = FORMATS.get(picture.format)
    if ending is not None and picture.orientation == 1:
        return picture.content, ending
    from PIL import ImageOps

    with pixels_of(picture) as image:
        upright: Any = ImageOps.exif_transpose(image)
        if ending == "jpeg":
            stream = io.BytesIO()
            upright.save(stream, "JPEG", quality=92)
            return stream.getvalue(), ending
        return png_picture(upright.convert("RGBA"), picture.width, picture.height).content, "png"


def _core(metadata: Metadata) -> str:
    """Core properties (ISO/IEC 29500-2 §11)."""
    facts = [
        ("dc:title", metadata.title), ("dc:creator", metadata.author), ("dc:subject", metadata.subject),
        ("cp:keywords", metadata.keywords), ("dc:language", metadata.language),
    ]  # fmt: skip
    created = ""
    if metadata.created is not None:
        moment = _moment(metadata.created)
        created = f'<dcterms:created xsi:type="dcterms:W3CDTF">{moment}</dcterms:created>'
    parts = "".join(f"<{name}>{text(fact)}</{name}>" for name, fact in facts if fact)
    return (
        f'<cp:coreProperties xmlns:cp="{PACKAGE}/metadata/core-properties" '
        'xmlns:dc="http://purl.org/dc/elements/1.1/" xmlns:dcterms="http://purl.org/dc/terms/" '
        f'xmlns:xsi="http://www.w3.org/2001/XMLSchema-instance">{parts}{created}</cp:coreProperties>'
    )


def _moment(moment: datetime) -> str:
    return moment.replace(tzinfo=None, microsecond=0).isoformat() + "Z"
