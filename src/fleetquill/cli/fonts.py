"""fleetquill fonts: what the press can see."""

from __future__ import annotations

import click


@click.command()
def fonts() -> None:
    """List the font families that documents can use."""
    from fleetquill.text.fonts import GENERIC, FontLibrary

    library = FontLibrary()
    generic: dict[str, list[str]] = {}
    for name, family in GENERIC.items():
        generic.setdefault(family, []).append(name)
    for family, entries in sorted(library.families.items()):
        weights = sorted({entry.weight for entry in entries if not entry.italic})
        italics = sorted({entry.weight for entry in entries if entry.italic})
        shown = f"weights {', '.join(map(str, weights))}"
        if italics:
            shown += "; italic too" if italics == weights else f"; italic {', '.join(map(str, italics))}"
        roles = f" (stands for {', '.join(generic[family])})" if family in generic else ""
        click.echo(f"{entries[0].family}: {shown}{roles}")
