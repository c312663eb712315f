"""The standards that a PDF can be asked to conform to, and what each of them asks for."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final, NamedTuple

from fleetquill.errors import OptionError, meant

ARCHIVES: Final = {  # of ISO 19005: the part, and the level of conformance
    "PDF/A-2a": (2, "A"), "PDF/A-2b": (2, "B"), "PDF/A-2u": (2, "U"), "PDF/A-3a": (3, "A"), "PDF/A-3b": (3, "B"),
    "PDF/A-3u": (3, "U"), "PDF/A-4": (4, ""), "PDF/A-4f": (4, "F"),
}  # fmt: skip
ACCESS: Final = {"PDF/UA-1": 1, "PDF/UA-2": 2}  # of ISO 14289: the part
NAMES: Final = (*ARCHIVES, *ACCESS)


class Standards(NamedTuple):
    """What a file conforms to: `part` and `level` of ISO 19005, `access`, the part of ISO 14289; 0 for none."""

    names: tuple[str, ...] = ()
    part: int = 0
    level: str = ""
    access: int = 0

    @property
    def is_modern(self) -> bool:
        """Whether the file is one of PDF 2.0."""
        return self.part == 4 or self.access == 2

    @property
    def wants_tags(self) -> bool:
        return self.level == "A" or self.access > 0

    @property
    def takes_any_file(self) -> bool:
        """Whether files of any kind may go along."""
        return not self.part or self.part == 3 or (self.part == 4 and self.level == "F")


NONE: Final = Standards()


def standards_of(names: Sequence[str] | str) -> Standards:
    """The standards of some names. Raises OptionError where one is not known, or two do not go together."""
    asked = (names,) if isinstance(names, str) else tuple(names)
    found = NONE
    for name in asked:
        known = next((one for one in NAMES if one.lower() == str(name).lower()), None)
        if known is None:
            raise OptionError(
                f"'{name}' is no standard that a file can conform to.", remedy=meant(str(name).upper(), NAMES)
            )
        if known in ARCHIVES:
            if found.part and ARCHIVES[known] != (found.part, found.level):
                raise OptionError("A file conforms to one part and level of PDF/A.", remedy=f"Ask for {known} alone.")
            found = found._replace(part=ARCHIVES[known][0], level=ARCHIVES[known][1])
        else:
            if found.access and ACCESS[known] != found.access:
                raise OptionError("A file conforms to one part of PDF/UA.", remedy=f"Ask for {known} alone.")
            found = found._replace(access=ACCESS[known])
        found = found._replace(names=(*found.names, *([] if known in found.names else [known])))
    if found.part and found.access and (found.part == 4) != (found.access == 2):
        wanted = "PDF/UA-2" if found.part == 4 else "PDF/UA-1"
        raise OptionError(
            f"{' and '.join(found.names)} do not go together: they are of different versions of PDF.",
            remedy=f"With PDF/A-{found.part} goes {wanted}.",
        )
    return found


def standards_said(part: str, level: str, access: str) -> tuple[str, ...]:
    """The names of the standards that a file says it conforms to: the part and level of ISO 19005 and the part of
    ISO 14289, as its metadata has them."""
    names = [name for name, (own, grade) in ARCHIVES.items() if (str(own), grade) == (part, level)]
    return (*names, *(name for name, own in ACCESS.items() if str(own) == access))
