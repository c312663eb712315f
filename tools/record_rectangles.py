"""Asks a browser where the boxes of tests/rectangles/*.html stand, and writes it beside each file as facts.

    python tools/record_rectangles.py [FILE…]

The browser is Chromium, found on the path; it is only needed here, not by the tests.
"""

from __future__ import annotations

import html
import json
import re
import subprocess
import sys
import tempfile
from importlib.util import find_spec
from pathlib import Path

FOLDER = Path(__file__).parent.parent / "tests" / "rectangles"
sys.path.insert(0, str(FOLDER))
from cases import HIGH, PASSED_BY, WIDE, cases_of, page  # type: ignore[import-not-found]  # noqa: E402

FAMILIES = {
    "Times New Roman": "Source Serif Pro",
    "Arial": "Source Sans Pro",
    "sans-serif": "Source Sans Pro",
    "serif": "Source Serif Pro",
    "monospace": "DejaVu Sans Mono",
}
MEASURE = """
const out = [];
async function measure(name, source) {
  const frame = document.createElement('iframe');
  frame.style.cssText = 'border:0;width:WIDEpx;height:HIGHpx';
  const loaded = new Promise(done => frame.onload = done);
  frame.srcdoc = source;
  document.body.append(frame);
  await loaded;
  const inner = frame.contentDocument, rects = [];
  await inner.fonts.ready;
  inner.querySelectorAll('body *').forEach(element => {
    if (PASSED_BY.includes(element.tagName.toLowerCase())) return;
    const r = element.getBoundingClientRect();
    const shown = element.getClientRects().length > 0;
    rects.push([element.tagName.toLowerCase(), ...(shown ? [r.x, r.y, r.width, r.height].map(
      v => Math.round(v * 100) / 100) : [])]);
  });
  out.push([name, rects]);
  frame.remove();
}
(async () => {
  for (const [name, source] of CASES) await measure(name, source);
  const pre = document.createElement('pre');
  pre.id = 'facts';
  pre.textContent = JSON.stringify(out);
  document.body.append(pre);
})();
""".replace("WIDE", str(WIDE)).replace("HIGH", str(HIGH))


def font_settings(folder: Path) -> Path:
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


def facts(cases: list[tuple[str, str]]) -> dict[str, list[list[object]]]:
    """By case the tag and the rectangle of each element in the body, in px."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        sources = json.dumps([(case, page(source)) for case, source in cases]).replace("</", "<\\/")
        measuring = folder / "measuring.html"
        script = f"const CASES = {sources}, PASSED_BY = {json.dumps(PASSED_BY)};{MEASURE}"
        measuring.write_text(f"<!DOCTYPE html><body><script>{script}</script>")
        settings = font_settings(folder)
        command = [
            "chromium", "--headless", "--no-sandbox", "--disable-gpu", "--font-render-hinting=none",
            "--force-device-scale-factor=4", "--virtual-time-budget=200000", "--dump-dom", "--window-size=1000,1000",
            f"--user-data-dir={folder}/profile", measuring.as_uri(),
        ]  # fmt: skip
        environment = {"FONTCONFIG_FILE": str(settings), "PATH": "/usr/bin:/bin:/usr/local/bin", "HOME": name}
        said = subprocess.run(command, env=environment, capture_output=True, text=True, check=True).stdout
    found = re.search(r'<pre id="facts">(.*?)</pre>', said, re.DOTALL)
    if found is None:
        raise SystemExit("The browser gave no rectangles.")
    return dict(json.loads(html.unescape(found[1])))


def main() -> None:
    for path in [Path(name) for name in sys.argv[1:]] or sorted(FOLDER.glob("*.html")):
        found = facts(cases_of(path))
        lines = ",\n".join(f"{json.dumps(name)}: {json.dumps(rects)}" for name, rects in found.items())
        path.with_suffix(".json").write_text("{\n" + lines + "\n}\n")
        print(f"{path.name}: {sum(len(rects) for rects in found.values())} rectangles of {len(found)} cases")


if __name__ == "__main__":
    main()
