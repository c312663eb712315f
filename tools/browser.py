"""Chromium on the path, with the package's own faces as its families: where facts for tests come from."""

from __future__ import annotations

import subprocess
from importlib.util import find_spec
from pathlib import Path

FAMILIES = {
    "Times New Roman": "Source Serif Pro",
    "Arial": "Source Sans Pro",
    "sans-serif": "Source Sans Pro",
    "serif": "Source Serif Pro",
    "monospace": "DejaVu Sans Mono",
}


def ask(page: Path, folder: Path, *options: str) -> str:
    """What a browser says that opens a page; `folder` is one that it may fill."""
    command = [
        "chromium", "--headless", "--no-sandbox", "--disable-gpu", "--font-render-hinting=none",
        "--virtual-time-budget=200000", f"--user-data-dir={folder}/profile", *options, page.as_uri(),
    ]  # fmt: skip
    environment = {
        "FONTCONFIG_FILE": str(_font_settings(folder)),
        "PATH": "/usr/bin:/bin:/usr/local/bin",
        "HOME": str(folder),
    }
    return subprocess.run(command, env=environment, capture_output=True, text=True, check=True).stdout


def _font_settings(folder: Path) -> Path:
    """Settings under which the browser's generic families are the package's own faces."""
    places = [
        next(iter(spec.submodule_search_locations or ()))
        for package in ("font_source_sans_pro", "font_source_serif_pro", "matplotlib")
        if (spec := find_spec(package)) is not None
    ]
    aliases = "".join(
        f'<match target="pattern"><test name="family"><string>{generic}</string></test>'
        f'<edit name="family" mode="assign" binding="strong"><string>{family}</string></edit></match>'
        for generic, family in FAMILIES.items()
    )
    folders = "".join(f"<dir>{place}</dir>" for place in places)
    settings = folder / "fonts.conf"
    settings.write_text(f"<fontconfig>{folders}<cachedir>{folder}/cache</cachedir>{aliases}</fontconfig>")
    return settings
