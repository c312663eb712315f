"""The profiles of hybrid invoices: how much of the semantic model each of them carries."""

from __future__ import annotations

from typing import Final, NamedTuple

from fleetquill.errors import OptionError, meant


class Profile(NamedTuple):
    """A profile: its name, its identifier in the data (BT-24), and its level: 0 totals alone, 1 the whole head, 2 the
    lines, 3 all of EN 16931."""

    name: str
    identifier: str
    level: int


PROFILES: Final = (
    Profile("MINIMUM", "urn:factur-x.eu:1p0:minimum", 0),
    Profile("BASIC WL", "urn:factur-x.eu:1p0:basicwl", 1),
    Profile("BASIC", "urn:cen.eu:en16931:2017#compliant#urn:factur-x.eu:1p0:basic", 2),
    Profile("EN 16931", "urn:cen.eu:en16931:2017", 3),
    Profile("EXTENDED", "urn:cen.eu:en16931:2017#conformant#urn:factur-x.eu:1p0:extended", 3),
)
USUAL: Final = "EN 16931"


def profile_of(name: str) -> Profile:
    """The profile of a name. Raises OptionError where there is none."""
    for profile in PROFILES:
        if profile.name.replace(" ", "").lower() == name.replace(" ", "").replace("_", "").lower():
            return profile
    raise OptionError(
        f"'{name}' is no profile of an invoice.", remedy=meant(name.upper(), [one.name for one in PROFILES])
    )
