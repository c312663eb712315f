"""What is drawn: colours, pictures, forms, blending (ISO 19005-2 §6.2, ISO 19005-4 §6.2)."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, Final

from fleetquill.bindery.clauses.clause import clause
from fleetquill.bindery.subject import Content, Subject
from fleetquill.pdf.reading import Stream
from fleetquill.standards import Standards

OPERATORS: Final = frozenset(  # of content streams (ISO 32000-2, annex A)
    "b B b* B* BDC BI BMC BT BX c cm CS cs d d0 d1 Do DP EI EMC ET EX f F f* G g gs h i ID j J K k l m M MP n q Q re "
    "RG rg ri s S SC sc SCN scn sh T* Tc Td TD Tf Tj TJ TL Tm Tr Ts Tw Tz v w W W* y ' \"".split()
)
KINDS: Final = {"Do": "XObject", "Tf": "Font", "gs": "ExtGState", "sh": "Shading"}  # of resources, by their operator
BLENDS: Final = frozenset(
    "Normal Compatible Multiply Screen Overlay Darken Lighten ColorDodge ColorBurn HardLight SoftLight Difference "
    "Exclusion Hue Saturation Color Luminosity".split()
)
DEVICES: Final = {"g": "Gray", "G": "Gray", "rg": "RGB", "RG": "RGB", "k": "CMYK", "K": "CMYK"}
SPACES: Final = {
    "DeviceGray": "Gray",
    "G": "Gray",
    "DeviceRGB": "RGB",
    "RGB": "RGB",
    "DeviceCMYK": "CMYK",
    "CMYK": "CMYK",
}
CHANNELS: Final = {"Gray": 1, "RGB": 3, "CMYK": 4}


@clause("Content streams have known operators, and resources for what they name", archive="6.2.2", modern="6.2.2")
def operators(subject: Subject, standards: Standards) -> Iterator[str]:
    for content in subject.contents:
        unknown = {operator.name for operator in content.operators} - OPERATORS
        if unknown:
            yield f"On {content.where} stands {', '.join(sorted(unknown))}."
        for operator in content.operators:
            kind = KINDS.get(operator.name)
            if kind and operator.operands:
                known = subject.reader.dictionary(content.resources.get(kind))
                if str(operator.operands[0]) not in known:
                    yield f"On {content.where} nothing says what /{operator.operands[0]} is."


@clause("Colours of devices are described by an output intent of the same kind", archive="6.2.4.3", modern="6.2.4.3")
def device_colors(subject: Subject, standards: Standards) -> Iterator[str]:
    intended = _channels_of_intent(subject)
    for content in subject.contents:
        for device in sorted(_devices(subject, content)):
            fits = intended in (3, 4, 1) if device == "Gray" else intended == CHANNELS[device]
            if not fits:
                yield f"On {content.where} colours are Device{device}, which no output intent describes."


def _channels_of_intent(subject: Subject) -> int:
    reader = subject.reader
    for ref in reader.array(reader.catalog.get("OutputIntents")):
        intent = reader.dictionary(ref)
        profile = reader.resolve(intent.get("DestOutputProfile"))
        if intent.get("S") == "GTS_PDFA1" and isinstance(profile, Stream):
            return int(reader.resolve(profile.entries.get("N")) or 0)
    return 0


def _devices(subject: Subject, content: Content) -> set[str]:
    """The device colour spaces that a content stream draws in."""
    found = {DEVICES[one.name] for one in content.operators if one.name in DEVICES}
    reader = subject.reader
    for one in content.operators:
        if one.name in ("cs", "CS") and one.operands:
            named = reader.dictionary(content.resources.get("ColorSpace")).get(str(one.operands[0]), one.operands[0])
            found |= _of_space(subject, named)
        elif one.name == "Do" and one.operands:
            drawn = reader.dictionary(reader.dictionary(content.resources.get("XObject")).get(str(one.operands[0])))
            if drawn.get("Subtype") == "Image" and not drawn.get("ImageMask"):
                found |= _of_space(subject, drawn.get("ColorSpace"))
        elif one.name == "sh" and one.operands:
            shading = reader.dictionary(reader.dictionary(content.resources.get("Shading")).get(str(one.operands[0])))
            found |= _of_space(subject, shading.get("ColorSpace"))
        elif one.name == "BI":
            said = one.operands[0]
            found |= _of_space(subject, said.get("ColorSpace", said.get("CS")))
    return found


def _of_space(subject: Subject, given: Any) -> set[str]:
    space = subject.reader.resolve(given)
    if isinstance(space, list) and space:
        kind = subject.reader.resolve(space[0])
        if kind in ("Indexed", "I", "Pattern") and len(space) > 1:
            return _of_space(subject, space[1])
        if kind in ("Separation", "DeviceN") and len(space) > 2:
            return _of_space(subject, space[2])
        return {SPACES[str(kind)]} if str(kind) in SPACES else set()
    return {SPACES[str(space)]} if str(space) in SPACES else set()


@clause("An output intent holds one profile that can be read", archive="6.2.3", modern="6.2.3")
def output_intent(subject: Subject, standards: Standards) -> Iterator[str]:
    reader = subject.reader
    profiles = set()
    for ref in reader.array(reader.catalog.get("OutputIntents")):
        intent = reader.dictionary(ref)
        profile = reader.resolve(intent.get("DestOutputProfile"))
        if isinstance(profile, Stream):
            profiles.add(profile.content)
            fault = _profile_fault(profile, reader.resolve(profile.entries.get("N")))
            if fault:
                yield fault
        elif not intent.get("OutputConditionIdentifier"):
            yield "An output intent has neither a profile nor the name of a condition."
    if len(profiles) > 1:
        yield "There are several output intents with different profiles."


@clause("Profiles of colour spaces have the channels that their spaces say", archive="6.2.4.2", modern="6.2.4.2")
def profiles(subject: Subject, standards: Standards) -> Iterator[str]:
    for number, stream in subject.streams:
        channels = stream.entries.get("N")
        if isinstance(channels, int) and "First" not in stream.entries and stream.raw:
            fault = _profile_fault(stream, channels)
            if fault:
                yield f"Object {number}: {fault}"


def _profile_fault(profile: Stream, channels: Any) -> str:
    """What is wrong with an ICC profile, by its header (ICC.1 §7.2)."""
    content = profile.content
    if len(content) < 128 or content[36:40] != b"acsp":
        return "A profile is no ICC profile."
    found = {b"GRAY": 1, b"RGB ": 3, b"CMYK": 4, b"Lab ": 3}.get(content[16:20])
    return "" if found == channels else f"A profile of {content[16:20]!r} says that it has {channels} channels."


@clause("Pictures have no alternates and are not smoothed", archive="6.2.8", modern="6.2.7")
def pictures(subject: Subject, standards: Standards) -> Iterator[str]:
    for number, stream in subject.streams:
        if stream.entries.get("Subtype") == "Image":
            if stream.entries.get("Interpolate") is True:
                yield f"Object {number} is a picture that is to be smoothed."
            yield from (f"Object {number} has {key}." for key in ("Alternates", "OPI") if key in stream.entries)
    for content in subject.contents:
        for operator in content.operators:
            if operator.name == "BI" and operator.operands[0].get("Interpolate", operator.operands[0].get("I")) is True:
                yield f"On {content.where} a picture is to be smoothed."


@clause("Forms draw what is in the file", archive="6.2.9", modern="6.2.8", access="7.20")
def forms(subject: Subject, standards: Standards) -> Iterator[str]:
    for number, stream in subject.streams:
        if stream.entries.get("Subtype") == "Form":
            wrong = [key for key in ("OPI", "Ref", "PS") if key in stream.entries]
            yield from (f"Object {number} is a form with {key}." for key in wrong)
        elif stream.entries.get("Subtype") == "PS":
            yield f"Object {number} is PostScript."


@clause("Graphics states have no transfer functions and no halftones of their own", archive="6.2.5", modern="6.2.5")
def states(subject: Subject, standards: Standards) -> Iterator[str]:
    for number, entries in _states(subject):
        if "TR" in entries or entries.get("TR2", "Default") != "Default":
            yield f"A graphics state of object {number} has a transfer function."
        if "HTP" in entries:
            yield f"A graphics state of object {number} has a halftone."


@clause("Colours are blended in ways that are known", archive="6.2.10", modern="6.2.9")
def blending(subject: Subject, standards: Standards) -> Iterator[str]:
    for number, entries in _states(subject):
        given = subject.reader.resolve(entries.get("BM", "Normal"))
        for mode in given if isinstance(given, list) else [given]:
            if str(mode) not in BLENDS:
                yield f"A graphics state of object {number} blends by {mode}."


def _states(subject: Subject) -> Iterator[tuple[int, dict[str, Any]]]:
    """Graphics states, on their own and within resources."""
    for number, entries in subject.dictionaries:
        if entries.get("Type") == "ExtGState":
            yield number, entries
        group = entries if entries.keys() & {"ExtGState"} else subject.reader.dictionary(entries.get("Resources"))
        for value in subject.reader.dictionary(group.get("ExtGState")).values():
            if isinstance(value, dict):
                yield number, value
