"""fleetquill faces: what the press can see."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from pathlib import Path

import click

from fleetquill.policy import Policy
from fleetquill.press import Press


def open_press(
    folders: Sequence[Path],
    system_fonts: bool,
    locale: str = "en",
    policy: Policy | None = None,
    headers: Mapping[str, str] | None = None,
    cookies: Mapping[str, str] | None = None,
    *,
    currency: str = "",
    picture_dpi: float = 0.0,
    jpeg_quality: int = 0,
) -> Press:
    """A press with these fonts; what is found in folders is kept in the user's cache."""
    return Press(
        locale=locale,
        currency=currency,
        policy=policy,
        font_folders=folders,
        system_fonts=system_fonts,
        font_index=Path(click.get_app_dir("fleetquill")) / "fonts.json",
        headers=headers,
        cookies=cookies,
        picture_dpi=picture_dpi,
        jpeg_quality=jpeg_quality,
    )


@click.command()
@click.option("--fonts", "folders", multiple=True, type=click.Path(path_type=Path), metavar="FOLDER",
              help="Look into this folder, too.")  # fmt: skip
@click.option("--system-fonts", is_flag=True, help="Look into the folders of this system, too.")
def faces(folders: tuple[Path, ...], system_fonts: bool) -> None:
    """List the faces of fonts that documents can use."""
    from fleetquill.text.fonts import GENERIC

    library = open_press(folders, system_fonts).fonts
    generic: dict[str, list[str]] = {}
    for name, family in GENERIC.items():
        generic.setdefault(family, []).append(name)
    for family, entries in sorted(library.families.items()):
        shown = f"weights {_weights(entry.weights for entry in entries if not entry.italic)}"
        italics = _weights(entry.weights for entry in entries if entry.italic)
        if italics:
            shown += f"; italic {italics}"
        roles = f" (stands for {', '.join(generic[family])})" if family in generic else ""
        click.echo(f"{entries[0].family}: {shown}{roles}")


def _weights(ranges: Iterable[tuple[float, float]]) -> str:
    """'400, 700', or '200 to 900' for a variable font."""
    return ", ".join(f"{low:g}" if low == high else f"{low:g} to {high:g}" for low, high in sorted(set(ranges)))
