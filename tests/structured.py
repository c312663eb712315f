"""What tests see of a PDF's structure: its parts as an outline of roles and words, read from the finished file."""

import io

import fleetquill as fq
from fleetquill.bindery.subject import Element, Subject
from fleetquill.bindery.typefaces import Typeface
from fleetquill.pdf.reading import PdfReader
from fleetquill.pdf.syntax import Operator


def subject_of(content):
    return Subject(PdfReader(content))


def tagged(html, **options):
    """The subject of a document given as HTML, or of a manuscript."""
    manuscript = html if isinstance(html, fq.Manuscript) else fq.Manuscript.from_html(html)
    stream = io.BytesIO()
    fq.write(manuscript, stream, kind="pdf", **options)
    return subject_of(stream.getvalue())


def outline(content_or_subject):
    """The structure as lines: a role, indented by its depth, and the words that belong to it."""
    subject = content_or_subject if isinstance(content_or_subject, Subject) else subject_of(content_or_subject)
    words = words_by_mark(subject)
    lines = []
    for element in subject.elements:
        depth = 0
        around = element.parent
        while around is not None:
            depth, around = depth + 1, around.parent
        said = "".join(words.get(key, "") for key in marks_of(subject, element))
        lines.append(f"{'  ' * depth}{element.role}" + (f" {said.strip()}" if said.strip() else ""))
    return lines


def marks_of(subject, element):
    page = element.entries.get("Pg")
    for kid in element.kids:
        if isinstance(kid, Element):
            continue
        if isinstance(kid, int):
            yield page.number, kid
        elif "MCID" in kid:
            yield kid.get("Stm", kid.get("Pg", page)).number, kid["MCID"]


def words_by_mark(subject):
    """The text of each marked sequence, by its stream's number and its own."""
    found = {}
    for content in subject.contents:
        where = content.ref or content.page.ref
        fonts = subject.reader.dictionary(content.resources.get("Font"))
        mark, texts, stack = None, {}, []
        for name, operands in content.operators:
            if name in ("BDC", "BMC"):
                stack.append(mark)
                said = operands[1] if len(operands) > 1 and isinstance(operands[1], dict) else {}
                mark = (where.number, said["MCID"]) if "MCID" in said else mark
            elif name == "EMC":
                mark = stack.pop()
            elif name == "Tf":
                texts = Typeface(subject.reader.dictionary(fonts[operands[0]]), subject.reader, "").texts()
            elif name == "TJ" and mark is not None:
                found[mark] = found.get(mark, "") + shown(Operator(name, operands), texts)
    return found


def shown(operator, texts):
    codes = b"".join(part for part in operator.operands[0] if isinstance(part, bytes))
    return "".join(texts.get(int.from_bytes(codes[at : at + 2], "big"), "") for at in range(0, len(codes), 2))


def roles(subject):
    return [element.role for element in subject.elements]


def said_of(subject, role, key):
    """What an entry says of each part of a role."""
    return [subject.reader.text(e.entries.get(key)) for e in subject.elements if e.role == role]
