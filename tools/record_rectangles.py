"""Asks a browser where the boxes of tests/rectangles/*.html stand, and writes it beside each file as facts.

    python -m tools.record_rectangles.py [FILE…]

The browser is Chromium, found on the path; it is only needed here, not by the tests.
"""

from __future__ import annotations

import html
import json
import re
import sys
import tempfile
from pathlib import Path

from tools.browser import ask

FOLDER = Path(__file__).parent.parent / "tests" / "rectangles"
sys.path.insert(0, str(FOLDER))
from cases import HIGH, PASSED_BY, WIDE, cases_of, page  # type: ignore[import-not-found]  # noqa: E402

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


def facts(cases: list[tuple[str, str]]) -> dict[str, list[list[object]]]:
    """By case the tag and the rectangle of each element in the body, in px."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        sources = json.dumps([(case, page(source)) for case, source in cases]).replace("</", "<\\/")
        measuring = folder / "measuring.html"
        script = f"const CASES = {sources}, PASSED_BY = {json.dumps(PASSED_BY)};{MEASURE}"
        measuring.write_text(f"<!DOCTYPE html><body><script>{script}</script>")
        said = ask(measuring, folder, "--force-device-scale-factor=4", "--dump-dom", "--window-size=1000,1000")
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
